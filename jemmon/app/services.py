"""What the interface asks that reads or writes the database: files and profiles read in, starts and trends of an aircraft."""

import uuid
from dataclasses import dataclass
from datetime import UTC, datetime

from ..core.aircraft import Profile
from ..core.flight.events import Event
from ..core.flight.fold import fold
from ..core.flight.starts import READ_KINDS, told_starts
from ..core.judgement.engine_health import nozzle_drift
from ..core.judgement.judge import judge
from ..core.judgement.trend import FlownFindings, trend_rows
from ..core.screen.aircraft import StartsPage, TrendsPage, aircraft_line, looks_back_words
from ..core.screen.record import summary_of
from ..core.start.record import prime_lines, start_rows
from ..core.start.story import starts_of_trace
from ..core.trace import read_trace_csv
from ..store import flights, samples
from ..store.aircraft import put_aircraft
from ..store.database import Database
from ..store.flights import Flight
from .doors import profile_from_text

_FINDING_KINDS = ("finding", "typed_reading", "sides_named", "undo")


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptFile:
    """A file that is a flight now."""

    flight_id: str
    findings: int
    rows: int


def utc_now() -> str:
    """Return the time of the wall clock, to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")


def read_in(database: Database, profile: Profile, data: bytes, name: str) -> KeptFile:
    """Keep a trace file as a flight of an aircraft: judged, with what it shows of its starts, and the text that it came as.

    Raises:
        TraceError: with line and column; then nothing is kept.
    """
    trace = read_trace_csv(data)
    findings = judge(trace, profile)
    flight_id, now = f"file-{uuid.uuid4().hex[:12]}", utc_now()
    flight = Flight(
        id=flight_id,
        profile_hash=profile.content_hash,
        registration=profile.registration,
        pilot="from a file",
        title=name,
        source="file",
        started_utc=now,
    )
    told = [("finding", finding.end_s, "finding", finding.to_json()) for finding in findings]
    told += [("event", at_s, kind, dict(body)) for at_s, kind, body in starts_of_trace(profile, trace)]
    events = [
        Event(id=f"{flight_id}:{what}:{number}", kind=kind, at_s=at_s, body=body, wall_utc=now)
        for number, (what, at_s, kind, body) in enumerate(told)
    ]
    with database.writing() as db:
        flights.keep_profile(db, profile)
        flights.add_flight(db, flight)
        samples.put_file(db, flight_id, data)
        for event in events:
            flights.add_event(db, flight_id, event)
        state = fold(profile, flights.events_of(db, flight_id))
        flights.put_summary(db, flight_id, summary_of(state, is_file=True))
    return KeptFile(flight_id=flight_id, findings=len(findings), rows=len(trace))


def take_profile(database: Database, data: bytes) -> Profile:
    """Let the profile in a file count for its id from now on. Raises ProfileError; then nothing is changed."""
    profile = profile_from_text(data)
    with database.writing() as db:
        put_aircraft(db, profile, utc_now())
    return profile


def starts_of(database: Database, profile: Profile) -> StartsPage:
    """Return the starts of an aircraft, one row each, and what book and advice say over the temperature."""
    with database.reading() as db:
        kept = flights.events_of_aircraft(db, profile.registration, READ_KINDS)
        looks_back = looks_back_words(flights.NEWEST, flights.count_flights(db, profile.registration))
    told = [(flight, day, told_starts(profile, events)) for flight, day, events in kept]
    return StartsPage(
        aircraft=aircraft_line(profile),
        unit=profile.start.unit,
        engines=tuple(name for _, name in sorted(profile.engines)),
        oil_limit_s=profile.find_limit("oil_pressure_time_s"),
        rows=tuple(start_rows(told)),
        lines=prime_lines(profile, [rows for _, _, rows in told]),
        looks_back=looks_back,
    )


def trends_of(database: Database, profile: Profile) -> TrendsPage:
    """Return each figure of an aircraft over its flights, and what a series of leanings says of its nozzles."""
    with database.reading() as db:
        kept = flights.events_of_aircraft(db, profile.registration, _FINDING_KINDS)
        looks_back = looks_back_words(flights.NEWEST, flights.count_flights(db, profile.registration))
    flown = [
        FlownFindings(flight=flight, day=day, findings=fold(profile, events).findings) for flight, day, events in kept
    ]
    numbers = sorted(profile.engines)
    leanings = {
        number: [
            f["measured"]
            for one in flown
            for f in one.findings
            if f["kind"] == "lean" and int(f.get("engine", 1)) == number
        ]
        for number, _ in numbers
    }
    return TrendsPage(
        aircraft=aircraft_line(profile),
        figures=tuple(row for number, _ in numbers for row in trend_rows(profile, flown, number)),
        health=tuple(
            drift for number, name in numbers for drift in nozzle_drift(leanings[number], number, profile.whose(name))
        ),
        looks_back=looks_back,
    )
