"""The flight that is going on: its frame, its stream, and the levers of the simulated engine."""

import json
import time
from collections.abc import Iterator
from dataclasses import asdict

from flask import Blueprint, Response, current_app, request, stream_with_context
from werkzeug.exceptions import Conflict, NotFound, ServiceUnavailable

from ..app.hangar import Hangar
from ..core.base.units import display_table
from ..feeds.cockpit import describe_cockpit
from ..feeds.weather import WeatherUnavailable, fetch_report
from ..store.settings import DeviceAddress, device_address, set_device_address
from .bodies import Device, Fault, Levers, Prime, Speed

bp = Blueprint("live", __name__, url_prefix="/api")
_FRAME_S = 0.08  # a little less than the tick of a feed, so that a sample does not wait for the end of a pause
_QUIET_S = 0.5  # readings that grew old are told within a second and a half of the last


def _hangar() -> Hangar:
    return current_app.extensions["hangar"]


@bp.get("/units")
def units():
    """How core units are shown: the one table that the front end may compute with."""
    return {"displays": display_table()}


@bp.get("/settings")
def settings():
    """What the front end must know of the server's settings."""
    return {"speeds": list(_hangar().settings.speeds), "most_upload_bytes": _hangar().settings.most_upload_bytes}


@bp.get("/live")
def live():
    """The newest frame, or null when no flight is going on."""
    flight = _hangar().live
    return {"frame": flight.frame() if flight else None}


@bp.get("/live/cockpit")
def cockpit():
    """The levers and switches of the aircraft that is flown, as a screen lays them out."""
    return describe_cockpit(_hangar().live_flight().profile)


@bp.get("/live/curve")
def curve():
    """The last 90 s for the trace on the flight screen."""
    return _hangar().live_flight().curve()


@bp.get("/stream")
def stream():
    """Frames as they come, ten a second at the most; a comment each second when quiet. A reader that falls behind gets
    the newest frame and misses those between; the frame holds the whole state, so no event is ever missed."""
    hangar = _hangar()

    def frames() -> Iterator[str]:
        last = -1
        while True:
            flight = hangar.live
            if flight is None:
                time.sleep(_QUIET_S)
                yield ": no flight\n\n"
                continue
            flight.wait_for_news(last, _QUIET_S)
            frame = flight.frame()
            if frame["number"] == last and flight.feed is not None and not frame["stale"]:
                yield ": quiet\n\n"
                continue
            last = frame["number"]
            yield f"id: {last}\nevent: frame\ndata: {json.dumps(frame)}\n\n"
            time.sleep(_FRAME_S)

    headers = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    return Response(stream_with_context(frames()), mimetype="text/event-stream", headers=headers)


@bp.get("/device")
def show_device():
    """Where the engine instrument is looked for."""
    with _hangar().database.reading() as db:
        return asdict(device_address(db))


@bp.post("/device")
def set_device():
    """Set where the engine instrument is; flights that begin from now on listen there."""
    body = Device.model_validate(request.get_json())
    address = DeviceAddress(host=body.host, port=body.port)
    with _hangar().database.writing() as db:
        set_device_address(db, address)
    return asdict(address)


@bp.get("/weather/<station>")
def weather(station: str):
    """The report of a station from the weather service; what it says becomes part of a flight only by an event."""
    if not station.isalnum() or len(station) != 4:
        raise NotFound("A station has four letters or digits.")
    try:
        report = fetch_report(_hangar().settings.weather_url, station.upper())
    except WeatherUnavailable as error:
        raise ServiceUnavailable(str(error)) from error
    return {"report": asdict(report)}


def _feed():
    feed = _hangar().live_flight().feed
    if feed is None:
        raise Conflict("This flight is flown by hand; it has no simulated engine.")
    return feed


@bp.post("/live/levers")
def set_levers():
    """Move levers and switches. A held starter is renewed by sending it again within a second."""
    _feed().set_levers(Levers.model_validate(request.get_json()).levers)
    return {"moved": True}


@bp.post("/live/prime")
def prime():
    """One push of the primer for each new id."""
    body = Prime.model_validate(request.get_json())
    flight = _hangar().live_flight()
    flight.prime(body.id, body.strokes, body.action)
    return {"strokes": flight.frame()["strokes"]}


@bp.post("/live/speed")
def set_speed():
    """Run the simulated engine so many times faster than the clock."""
    speed = Speed.model_validate(request.get_json()).speed
    if speed not in _hangar().settings.speeds:
        raise Conflict(f"The speed is one of {', '.join(map(str, _hangar().settings.speeds))}.")
    _feed().speed = speed
    return {"speed": speed}


@bp.post("/live/fault")
def set_fault():
    """Give the simulated engine a fault, to practise with."""
    body = Fault.model_validate(request.get_json())
    _feed().set_fault(body.name, body.size)
    return {"name": body.name, "size": body.size}
