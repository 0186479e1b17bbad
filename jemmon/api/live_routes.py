"""The flight that is going on: its frame, its stream, and the levers of the simulated engine."""

import json
import logging
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

from flask import Blueprint, Response, current_app, request
from werkzeug.exceptions import Conflict, NotFound, ServiceUnavailable

from ..app.hangar import Hangar
from ..app.streams import Streams
from ..core.base.units import DISPLAYS, FAMILIES
from ..core.flight.fold import check_pilot_event
from ..core.screen.cockpit import Cockpit
from ..core.screen.ear import EarNow
from ..core.screen.frame import Frame
from ..core.screen.working import Curve
from ..core.trace.signals import reading_row
from ..feeds.device import listen_once
from ..feeds.feed import Engine
from ..feeds.practice_faults import WaitingFault
from ..feeds.weather import WeatherUnavailable, fetch_report
from ..store.settings import DeviceAddress, device_address, set_device_address
from .answers import (
    FaultSet,
    Frozen,
    InstrumentHeard,
    Live,
    Moved,
    NotListening,
    PrimeGiven,
    ServerSettings,
    SpeedSet,
    Typed,
    Units,
    WaitingFaults,
    WeatherAnswer,
)
from .bodies import ChunkAsked, Device, Fault, Freeze, Levers, Prime, Speed, typed_asked
from .contract import adapter, openapi_text, route

bp = Blueprint("live", __name__, url_prefix="/api")
_BEAT_S = 0.4  # a screen that hears nothing for 1.5 s calls its picture old
_BEAT = b"event: beat\ndata: 1\n\n"
_MOST_UNSENT_BYTES = 500_000  # a reader that lets so much lie does not read
_log = logging.getLogger(__name__)
_MOST_CHUNK_BYTES = 400_000  # a second of sound at the highest rate
_BY_HAND = "This flight is flown by hand; it has no simulated engine."


def _hangar() -> Hangar:
    hangar: Hangar = current_app.extensions["hangar"]
    return hangar


@bp.get("/openapi.json")
def description() -> Response:
    """The OpenAPI description of this interface."""
    return Response(openapi_text(), mimetype="application/json")


@route(bp, "GET", "/units", answer=Units)
def units() -> Units:
    """How core units are shown: the one table that the front end may compute with."""
    return Units(displays=DISPLAYS, families=FAMILIES)


@route(bp, "GET", "/settings", answer=ServerSettings)
def settings() -> ServerSettings:
    """What the front end must know of the server's settings."""
    own = _hangar().settings
    return ServerSettings(speeds=own.speeds, most_upload_bytes=own.most_upload_bytes)


@route(bp, "GET", "/live", answer=Live)
def live() -> Live:
    """The newest frame, or null when no flight is going on."""
    flight = _hangar().live
    return Live(frame=flight.frame() if flight else None)


@route(bp, "GET", "/live/cockpit", answer=Cockpit)
def cockpit() -> Cockpit:
    """The levers and switches of the aircraft that is flown, as a screen lays them out."""
    engine = _hangar().live_flight().engine
    return engine.cockpit() if engine else Cockpit()


@route(bp, "GET", "/live/curve", answer=Curve)
def curve() -> Curve:
    """The last 90 s for the trace on the flight screen."""
    return _hangar().live_flight().curve()


@route(bp, "GET", "/stream", gives="text/event-stream", fails=(503,))
def stream() -> Response:
    """Frames as they come, ten a second at the most, and a beat each 0.4 s when nothing else is told.

    A reader that falls behind gets the newest frame and misses those between; the frame holds the whole state, so no event is
    ever missed. One that never reads is let go."""
    streams: Streams = current_app.extensions["streams"]
    if not streams.enter():
        raise ServiceUnavailable(f"{streams.most} screens listen already; close one of them.")
    unsent = request.environ.get("jemmon.unsent_bytes", int)
    headers = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    answer = Response(_told(_hangar(), streams, unsent), mimetype="text/event-stream", headers=headers)
    answer.call_on_close(streams.leave)
    return answer


def _told(hangar: Hangar, streams: Streams, unsent: Callable[[], int]) -> Iterator[bytes]:
    """Yield frames and beats until the server ends or the reader has not read for long. A frame that cannot be made does not beat:
    the screen then says that it is old."""
    frames_written, last = adapter(Frame), -1
    while not streams.is_stopped and unsent() < _MOST_UNSENT_BYTES:
        try:
            flight = hangar.live
            if flight is None:
                time.sleep(_BEAT_S)
                yield _BEAT
                continue
            flight.wait_for_news(last, _BEAT_S)
            frame = flight.frame()
            if frame.number == last and flight.feed is not None and not frame.stale:
                yield _BEAT
                continue
            last = frame.number
            text = frames_written.dump_json(frame)
        except Exception:
            _log.exception("a frame could not be made")
            time.sleep(1.0)
            continue
        yield b"id: %d\nevent: frame\ndata: %s\n\n" % (last, text)
        time.sleep(streams.frame_s)


@route(bp, "GET", "/device", answer=DeviceAddress)
def show_device() -> DeviceAddress:
    """Where the engine instrument is looked for."""
    with _hangar().database.reading() as db:
        return device_address(db)


@route(bp, "POST", "/device", body=Device, answer=DeviceAddress, fails=(503,))
def set_device(body: Device) -> DeviceAddress:
    """Set where the engine instrument is; flights that begin from now on listen there."""
    address = replace(DeviceAddress(), host=body.host, port=body.port)
    with _hangar().database.writing() as db:
        set_device_address(db, address)
    return address


@route(bp, "GET", "/device/heard", answer=InstrumentHeard)
def hear_device() -> InstrumentHeard:
    """Listen for a few seconds where the engine instrument is looked for, and say what is heard."""
    with _hangar().database.reading() as db:
        address = device_address(db)
    heard = listen_once(address.host, address.port)
    titles = dict.fromkeys(row.title for name in heard.readings if (row := reading_row(name)))
    return InstrumentHeard(is_there=heard.is_there, readings=tuple(titles))


@route(bp, "GET", "/weather/<station>", answer=WeatherAnswer, fails=(422, 503))
def weather(station: str) -> WeatherAnswer:
    """The report of a station from the weather service; what it says becomes part of a flight only by an event."""
    if not station.isalnum() or not station.isascii() or len(station) != 4:
        raise NotFound("A station has four letters or digits.")
    try:
        report = fetch_report(_hangar().settings.weather_url, station.upper())
    except WeatherUnavailable as error:
        raise ServiceUnavailable(str(error)) from error
    return WeatherAnswer(report=report)


def _engine() -> Engine:
    live = _hangar().live_flight()
    if live.engine is None:
        raise Conflict(live.feed.about.no_levers if live.feed else _BY_HAND)
    return live.engine


@route(
    *(bp, "POST", "/live/ear"),
    query=ChunkAsked,
    body=bytes,
    answer=EarNow,
    fails=(400, 404, 409),
    takes="application/octet-stream",
    is_raw=True,
    most_bytes=_MOST_CHUNK_BYTES,
)
def hear_chunk(query: ChunkAsked) -> EarNow:
    """What is heard after one more tenth of a second of the microphone, in 16-bit samples; the sound is forgotten after three."""
    return _hangar().live_flight().listen(request.get_data(), query.rate_hz, query.number)


@route(bp, "DELETE", "/live/ear", answer=NotListening)
def stop_listening() -> NotListening:
    """Forget what was heard last, with all sound."""
    _hangar().live_flight().stop_listening()
    return NotListening(forgotten=True)


@route(bp, "POST", "/live/typed", body=typed_asked(), answer=Typed, fails=(409,))
def check_typed_figures(body: Any) -> Typed:
    """Say whether typed figures can be taken, before they are: what is wrong is named with its field. Nothing is kept."""
    live = _hangar().live_flight()
    figures = json.loads(request.get_data())["figures"]
    check_pilot_event(live.profile, live.state, "typed_reading", figures)
    return Typed(check=str(figures["check"]))


@route(bp, "POST", "/live/levers", body=Levers, answer=Moved, fails=(409,))
def set_levers(body: Levers) -> Moved:
    """Move levers and switches. A held starter is renewed by sending it again within a second."""
    _engine().set_levers(body.levers)
    return Moved(moved=True)


@route(bp, "POST", "/live/prime", body=Prime, answer=PrimeGiven, fails=(409, 503))
def prime(body: Prime) -> PrimeGiven:
    """One push of the primer for each new id."""
    flight = _hangar().live_flight()
    flight.prime(body.id, body.strokes, body.action)
    return PrimeGiven(strokes=flight.frame().strokes)


@route(bp, "POST", "/live/speed", body=Speed, answer=SpeedSet, fails=(409,))
def set_speed(body: Speed) -> SpeedSet:
    """Run the needles so many times faster than the clock."""
    if body.speed not in _hangar().settings.speeds:
        raise Conflict(f"The speed is one of {', '.join(map(str, _hangar().settings.speeds))}.")
    feed = _hangar().live_flight().feed
    if feed is None or not feed.about.is_sped:
        raise Conflict(feed.about.no_levers if feed else _BY_HAND)
    feed.speed = body.speed
    return SpeedSet(speed=body.speed)


@route(bp, "POST", "/live/freeze", body=Freeze, answer=Frozen, fails=(409,))
def freeze(body: Freeze) -> Frozen:
    """Let flight time stand, or go on: an instructor's wish."""
    _engine().freeze(body.frozen)
    return Frozen(frozen=body.frozen)


@route(bp, "POST", "/live/fault", body=Fault, answer=FaultSet, fails=(409,))
def set_fault(body: Fault) -> FaultSet:
    """Give the simulated engine a fault, to practise with: now, or when it is due."""
    if body.from_s is None and body.from_ft is None:
        _engine().set_fault(body.name, body.size)
    else:
        waiting = WaitingFault(name=body.name, size=body.size, from_s=body.from_s, from_ft=body.from_ft)
        _engine().wait_with(waiting)
    return FaultSet(name=body.name, size=body.size)


@route(bp, "GET", "/live/faults", answer=WaitingFaults, fails=(409,))
def waiting_faults() -> WaitingFaults:
    """The faults that wait for their time or height."""
    return WaitingFaults(waiting=_engine().waiting)


@route(bp, "DELETE", "/live/faults/<int:place>", answer=WaitingFaults, fails=(409,))
def forget_fault(place: int) -> WaitingFaults:
    """Let a fault that waits not come."""
    _engine().forget_waiting(place)
    return WaitingFaults(waiting=_engine().waiting)
