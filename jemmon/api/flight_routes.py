"""Flights: begin one, post what the pilot does, look at what was kept."""

import uuid
from datetime import UTC, datetime
from typing import Any

import numpy as np
from flask import Blueprint, Response, current_app, request
from werkzeug.exceptions import Conflict, NotFound

from ..app.hangar import Hangar
from ..core.aircraft import Profile
from ..core.flight.fold import Event, fold, latest_findings, open_items, sentence
from ..core.judgement import judge
from ..core.judgement.trend import drop_sentence
from ..core.start.record import starts_of_trace
from ..core.trace import Trace, read_trace_csv, write_trace_csv
from ..core.trace.finding import gravest
from ..store import flights, samples
from ..store.flights import Flight
from .aircraft_routes import aircraft_line
from .bodies import BeginFlight, PostEvent, Undo

bp = Blueprint("flights", __name__, url_prefix="/api")
_MOST_POINTS = 1500


def _hangar() -> Hangar:
    return current_app.extensions["hangar"]


@bp.post("/flights")
def begin_flight():
    """Begin a flight with a confirmed registration."""
    hangar, body = _hangar(), BeginFlight.model_validate(request.get_json())
    profile = hangar.profile(body.aircraft)
    if body.registration.strip().upper() != profile.registration:
        raise Conflict(
            f"The registration is {profile.registration}, not {body.registration[:12]}: is it this aircraft?"
        )
    if body.speed not in hangar.settings.speeds:
        raise Conflict(f"The speed is one of {', '.join(map(str, hangar.settings.speeds))}.")
    source, feed = ("bench", "device") if body.source == "device" else (body.source, "")
    live = hangar.begin(body.id, profile, body.pilot, source, body.speed, feed)
    return live.frame(), 201


@bp.get("/flights")
def list_flights():
    """All flights, newest first, each with one sentence of what it showed."""
    hangar = _hangar()
    with hangar.database.reading() as db:
        rows = []
        for flight in flights.all_flights(db):
            profile = flights.profile_by_hash(db, flight.profile_hash)
            rows.append(_flight_line(flight, profile, flights.events_of(db, flight.id)))
    return {"flights": rows, "sentence": drop_sentence([(r["registration"], r["drop_left_rpm"]) for r in rows])}


def _flight_line(flight: Flight, profile: Profile, events: Any) -> dict[str, Any]:
    state = fold(profile, events)
    mags = state.latest_finding("mag_check")
    measured = mags["measured"] if mags else {}
    return {
        "id": flight.id,
        "registration": flight.registration,
        "pilot": flight.pilot,
        "title": flight.title,
        "source": flight.source,
        "started_utc": flight.started_utc,
        "ended": state.ended or flight.source == "file",
        "findings": len(state.findings),
        "verdict": gravest([f["verdict"] for f in latest_findings(state)]),
        "drop_left_rpm": measured.get("drop_left_rpm"),
        "drop_right_rpm": measured.get("drop_right_rpm"),
    }


@bp.get("/flights/<flight_id>")
def show_flight(flight_id: str):
    """One flight as a timeline: what was done, measured and judged, in order of flight time."""
    with _hangar().database.reading() as db:
        flight = flights.flight_by_id(db, flight_id)
        if flight is None:
            raise NotFound("There is no such flight.")
        profile = flights.profile_by_hash(db, flight.profile_hash)
        events = list(flights.events_of(db, flight_id))
    state = fold(profile, events)
    names = {item.id: f"{item.challenge}: {item.response}" for item in profile.items.values()}
    timeline = [
        {
            "seq": e.seq,
            "id": e.id,
            "kind": e.kind,
            "at_s": e.at_s,
            "wall_utc": e.wall_utc,
            "body": dict(e.body),
            "text": _text(e, names, profile),
        }
        for e in sorted(events, key=lambda e: (e.at_s, e.seq))
        if e.kind not in _NOT_TOLD
    ]
    missing = {phase.title: len(open_items(profile, state, phase.id)) for phase in profile.phases}
    return {
        "flight": _flight_line(flight, profile, events),
        "aircraft": aircraft_line(profile),
        "profile_hash": profile.content_hash,
        "sentence": sentence(state),
        "timeline": timeline,
        "findings": list(state.findings),
        "open": {title: count for title, count in missing.items() if count},
    }


_NOT_TOLD = ("fuel_used",)  # the sum of the flow, each quarter gallon


def _text(event: Event, names: dict[str, str], profile: Profile) -> str:
    body = event.body
    put_backs = {p.id: p for p in profile.put_backs}
    match event.kind:
        case "item_done":
            return names.get(str(body["item"]), str(body["item"]))
        case "phase_entered":
            return profile.phase(str(body["phase"])).title
        case "finding":
            return str(body["because"])
        case "put_back_away" | "put_back_back" if body.get("put_back") in put_backs:
            put_back = put_backs[str(body["put_back"])]
            return put_back.title if event.kind == "put_back_away" else put_back.back
        case "oil_pressure_seen":
            return f"Oil pressure {body['seconds']:.0f} s after it fired"
        case "remark":
            return str(body["text"])
        case "tank_selected":
            return f"Tank: {body['tank']}"
        case "fuel_on_board":
            return f"On board, {body['tank']}: {body['gal']:g} US gal"
        case "rating":
            return f"{body['name']} power" if body["name"] else "Continuous power"
        case "undo":
            return "Taken back"
        case "item_seen":
            return f"Seen: {names.get(str(body['item']), body['item'])}"
        case "item_set_aside":
            return (
                f"{str(body['how']).replace('_', ' ').capitalize()}: {names.get(str(body['item']))} ({body['reason']})"
            )
        case "item_reopened":
            return f"Open again: {body.get('note', '')}"
        case "take_off_unproven":
            return f"Take-off power with something unproven: {'; '.join(body['missing'])}"
        case "fact":
            return f"{str(body['name']).replace('_', ' ').capitalize()}: {body['value']}"
        case "item_measured" if str(body["item"]) in profile.items:
            return f"{profile.items[str(body['item'])].challenge}: {body['value']:g}"
    return event.kind.replace("_", " ").capitalize()


@bp.post("/flights/<flight_id>/events")
def post_event(flight_id: str):
    """Keep a pilot's event; 201 when new, 200 when it was known. It is on disk when the answer leaves."""
    body = PostEvent.model_validate(request.get_json())
    live = _hangar().live_flight(flight_id)
    event, is_new = live.post(body.id, body.kind, body.body)
    return {"seq": event.seq, "at_s": event.at_s, "frame": live.frame()}, 201 if is_new else 200


@bp.post("/flights/<flight_id>/undo")
def undo(flight_id: str):
    """Take back the last pilot event, if there is one."""
    live = _hangar().live_flight(flight_id)
    event = live.undo_last(Undo.model_validate(request.get_json()).id)
    return {"seq": event.seq if event else None, "frame": live.frame()}, 201 if event else 200


def _trace(flight_id: str) -> Trace:
    with _hangar().database.reading() as db:
        if flights.flight_by_id(db, flight_id) is None:
            raise NotFound("There is no such flight.")
        trace = samples.trace_of(db, flight_id)
    if trace is None:
        raise NotFound("This flight has no samples: it was flown by hand.")
    return trace


@bp.get("/flights/<flight_id>/trace.csv")
def trace_csv(flight_id: str):
    """The samples as a trace CSV; a file that was read in goes out as it came."""
    with _hangar().database.reading() as db:
        kept = samples.file_of(db, flight_id)
    text: bytes | str = kept if kept is not None else write_trace_csv(_trace(flight_id))
    headers = {"Content-Disposition": f'attachment; filename="{flight_id[:40]}.csv"'}
    return Response(text, mimetype="text/csv", headers=headers)


@bp.get("/flights/<flight_id>/trace")
def trace_points(flight_id: str):
    """RPM, EGT and fuel flow, thinned to be drawn."""
    trace = _trace(flight_id)
    every = max(len(trace) // _MOST_POINTS, 1)
    body: dict[str, Any] = {"time_s": trace.time_s[::every].tolist(), "egt_f": {}}
    for name, key in (("rpm", "rpm"), ("ff", "ff_gph"), ("map", "map_inhg"), ("oil_p", "oil_p_psi")):
        values = trace.signal(name)
        body[key] = _plain(values[::every]) if values is not None else None
    body["egt_f"] = {str(c): _plain(v[::every]) for c, v in trace.cylinders("egt").items()}
    return body


def _plain(values: np.ndarray) -> list[float | None]:
    return [None if np.isnan(v) else round(float(v), 2) for v in values]


@bp.post("/import")
def import_trace():
    """Read a trace CSV in as a flight: judged, and kept with the text it came as."""
    hangar = _hangar()
    profile = hangar.profile(request.args.get("aircraft", ""))
    data = request.get_data()
    trace = read_trace_csv(data)
    findings = judge(trace, profile)
    flight_id = f"file-{uuid.uuid4().hex[:12]}"
    now = datetime.now(UTC).isoformat(timespec="seconds")
    name = request.args.get("name", "trace.csv")[:80]
    flight = Flight(
        id=flight_id,
        profile_hash=profile.content_hash,
        registration=profile.registration,
        pilot="from a file",
        title=name,
        source="file",
        started_utc=now,
    )
    with hangar.database.writing() as db:
        flights.keep_profile(db, profile)
        flights.add_flight(db, flight)
        samples.put_file(db, flight_id, data)
        for number, finding in enumerate(findings):
            event_id = f"{flight_id}:finding:{number}"
            event = Event(id=event_id, kind="finding", at_s=finding.end_s, body=finding.to_json(), wall_utc=now)
            flights.add_event(db, flight_id, event)
        for number, (at_s, kind, body) in enumerate(starts_of_trace(profile, trace)):
            event = Event(id=f"{flight_id}:event:{number}", kind=kind, at_s=at_s, body=body, wall_utc=now)
            flights.add_event(db, flight_id, event)
    return {"id": flight_id, "findings": len(findings), "rows": len(trace)}, 201
