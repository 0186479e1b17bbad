"""Flights: begin one, post what the pilot does, look at what was kept."""

import json
import shutil
import tempfile
from pathlib import Path
from random import SystemRandom
from typing import Any

from flask import Blueprint, Response, current_app, request, send_file
from werkzeug.exceptions import Conflict, NotFound

from ..app.exports import write_zip
from ..app.hangar import Hangar
from ..app.workshop import draft_profile, with_own_items
from ..core.aircraft import Profile
from ..core.screen.aircraft import aircraft_line
from ..core.screen.drawn import TracePoints, trace_points
from ..core.screen.frame import Frame
from ..core.screen.record import FlightLine, FlightList, FlightRecord, drop_sentence, record
from ..core.trace import Trace, write_trace_csv
from ..feeds.practice_faults import draw_fault
from ..store import flights, samples
from .answers import Kept, ReadIn, Removed, TakenBack
from .bodies import BeginFlight, FileAsked, FlightsAsked, Hidden, Note, Removal, TakeBack, TraceAsked, post_event
from .contract import route

bp = Blueprint("flights", __name__, url_prefix="/api")

_AT_ONCE_BYTES = 1_000_000
_OWN_FEEDS = (
    "bench",
    "manual",
)  # the simulated engine or scripted needles as the profile has it, or none; else a feed by its name


def _hangar() -> Hangar:
    hangar: Hangar = current_app.extensions["hangar"]
    return hangar


@route(bp, "POST", "/flights", body=BeginFlight, answer=Frame, statuses=(201,), fails=(409,))
def begin_flight(body: BeginFlight) -> Frame:
    """Begin a flight with a confirmed registration."""
    hangar = _hangar()
    profile = hangar.profile(body.aircraft)
    if body.registration.strip().upper() != profile.registration:
        raise Conflict(
            f"The registration is {profile.registration}, not {body.registration[:12]}: is it this aircraft?"
        )
    if body.speed not in hangar.settings.speeds:
        raise Conflict(f"The speed is one of {', '.join(map(str, hangar.settings.speeds))}.")
    if body.fault and (body.source != "bench" or profile.bench is None):
        raise Conflict("A fault is practised on the simulated engine only.")
    if body.draft and (body.source != "bench" or profile.bench is None):
        raise Conflict("A draft is tried on the simulated engine only; save it to fly with it.")
    kept = hangar.database
    profile = draft_profile(kept, profile) if body.draft else with_own_items(kept, profile, body.pilot)
    fault = draw_fault(profile, body.fault, SystemRandom()) if body.fault else None
    source, feed = (body.source, "") if body.source in _OWN_FEEDS else ("bench", body.source)
    return hangar.begin(body.id, profile, body.pilot, source, body.speed, feed, fault).frame()


@route(bp, "GET", "/flights", query=FlightsAsked, answer=FlightList)
def list_flights(query: FlightsAsked) -> FlightList:
    """Flights, newest first, each with what it showed."""
    with _hangar().database.reading() as db:
        lines = flights.flight_lines(db, query.limit, query.offset, _wanted(query))
        return FlightList(
            flights=tuple(lines),
            sentence=drop_sentence(lines),
            of=flights.count_flights(db, _wanted(query)),
        )


def _wanted(query: FlightsAsked) -> flights.Wanted:
    return flights.Wanted(
        registration=query.registration,
        kind=query.kind,
        verdict=query.verdict,
        since=query.since,
        until=query.until,
        hidden=query.hidden,
    )


@route(bp, "POST", "/flights/<flight_id>/hidden", body=Hidden, answer=FlightLine, fails=(409, 503))
def hide_flight(flight_id: str, body: Hidden) -> FlightLine:
    """Take a flight out of the records, or bring it back. What is kept of it stays until it is removed for good."""
    _hangar().hide(flight_id, body.hidden)
    return _line(flight_id)


@route(bp, "POST", "/flights/<flight_id>/note", body=Note, answer=FlightLine, fails=(503,))
def note_flight(flight_id: str, body: Note) -> FlightLine:
    """Keep a note of a flight; the one before it is gone."""
    with _hangar().database.writing() as db:
        flights.put_note(db, flight_id, body.note.strip())
    return _line(flight_id)


def _line(flight_id: str) -> FlightLine:
    with _hangar().database.reading() as db:
        line = flights.flight_line(db, flight_id)
    if line is None:
        raise NotFound("There is no such flight.")
    return line


@route(bp, "POST", "/flights/remove-hidden", body=Removal, answer=Removed, fails=(409, 503))
def remove_hidden(body: Removal) -> Removed:
    """Remove for good what was taken out of the records: as many as the pilot saw there."""
    return Removed(flights=_hangar().remove_hidden(body.flights))


@route(bp, "GET", "/flights.zip", gives="application/zip")
def export_flights() -> Response:
    """All flights as one file: what was said of each as JSON, its samples as a trace CSV, the profiles."""
    return _zipped(None)


@route(bp, "GET", "/flights/<flight_id>/flight.zip", gives="application/zip")
def export_flight(flight_id: str) -> Response:
    """One flight as a file: what was said of it as JSON, its samples as a trace CSV, its profile."""
    _line(flight_id)
    return _zipped(flight_id)


def _zipped(only: str | None) -> Response:
    file = tempfile.TemporaryFile()  # noqa: SIM115 (it is closed when it was sent)
    write_zip(_hangar().database, file, only)
    file.seek(0)
    name = "flights.zip" if only is None else f"{only[:40]}.zip"
    return send_file(file, mimetype="application/zip", as_attachment=True, download_name=name)


@route(bp, "GET", "/flights/<flight_id>", answer=FlightRecord)
def show_flight(flight_id: str) -> FlightRecord:
    """One flight as a timeline: what was done, measured and judged, in order of flight time."""
    with _hangar().database.reading() as db:
        flight, line = flights.flight_by_id(db, flight_id), flights.flight_line(db, flight_id)
        if flight is None or line is None:
            raise NotFound("There is no such flight.")
        profile = flights.profile_by_hash(db, flight.profile_hash)
        events = flights.events_of(db, flight_id)
    return record(profile, line, aircraft_line(profile), events)


@route(
    *(bp, "POST", "/flights/<flight_id>/events"),
    body=post_event(),
    answer=Kept,
    statuses=(201, 200),
    fails=(409, 503),
)
def post_pilot_event(flight_id: str, body: Any) -> tuple[Kept, int]:
    """Keep a pilot's event; 201 when new, 200 when it was known. It is on disk when the answer leaves."""
    live = _hangar().live_flight(flight_id)
    said = json.loads(request.get_data()).get("body") or {}  # kept as it was said: a repeat must be the same
    event, is_new = live.post(body.id, body.kind, said)
    return Kept(seq=event.seq, at_s=event.at_s, frame=live.frame()), 201 if is_new else 200


@route(bp, "POST", "/flights/<flight_id>/undo", body=TakeBack, answer=TakenBack, statuses=(201, 200), fails=(409, 503))
def undo(flight_id: str, body: TakeBack) -> tuple[TakenBack, int]:
    """Take back the last pilot event, if there is one."""
    live = _hangar().live_flight(flight_id)
    event = live.undo_last(body.id, body.event)
    return TakenBack(seq=event.seq if event else None, frame=live.frame()), 201 if event else 200


def _trace(flight_id: str) -> tuple[Trace, Profile]:
    """Return the samples of a flight, and the profile that it was flown with."""
    with _hangar().database.reading() as db:
        flight = flights.flight_by_id(db, flight_id)
        if flight is None:
            raise NotFound("There is no such flight.")
        trace = samples.trace_of(db, flight_id)
        profile = flights.profile_by_hash(db, flight.profile_hash)
    if trace is None:
        raise NotFound("This flight has no samples: it was flown by hand.")
    return trace, profile


@route(bp, "GET", "/flights/<flight_id>/trace.csv", gives="text/csv")
def trace_csv(flight_id: str) -> Response:
    """The samples as a trace CSV; a file that was read in goes out as it came."""
    with _hangar().database.reading() as db:
        kept = samples.file_of(db, flight_id)
    text: bytes | str = kept if kept is not None else write_trace_csv(_trace(flight_id)[0])
    headers = {"Content-Disposition": f'attachment; filename="{flight_id[:40]}.csv"'}
    return Response(text, mimetype="text/csv", headers=headers)


@route(bp, "GET", "/flights/<flight_id>/trace", query=TraceAsked, answer=TracePoints)
def trace_to_draw(flight_id: str, query: TraceAsked) -> TracePoints:
    """Every signal of the flight, or of a part of it, thinned to be drawn and read off."""
    return trace_points(*_trace(flight_id), query.from_s, query.to_s)


@route(
    bp, "POST", "/import", body=bytes, query=FileAsked, answer=ReadIn, statuses=(201,), takes="text/csv", is_raw=True
)
def import_trace(query: FileAsked) -> ReadIn:
    """Read a trace CSV in as a flight: judged, and kept with the text it came as."""
    hangar = _hangar()
    profile = hangar.profile(query.aircraft)
    with tempfile.NamedTemporaryFile(suffix=".csv") as file:
        shutil.copyfileobj(request.stream, file, _AT_ONCE_BYTES)
        file.flush()
        kept = hangar.files.read_in(profile, Path(file.name), query.name[:80])
    return ReadIn(id=kept.flight_id, findings=kept.findings, rows=kept.rows, notes=kept.notes)
