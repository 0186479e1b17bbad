"""The demo's recorded flights: the Larkfield Flying Group and its Wren, flown on the bench, left drop growing.

Everything here is invented. The flights can be made again: each is a script with a seed.
"""

import sqlite3
from collections.abc import Mapping
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np

from ..core.aircraft import Profile
from ..core.bench import BenchScript, channel_names, lever_names, run_script
from ..core.flight.events import Event
from ..core.flight.fold import fold
from ..core.judgement.judge import judge
from ..core.procedure.progress import lists_of
from ..core.screen.record import summary_of
from ..core.start.advice import book_strokes
from ..core.start.story import starts_of_trace
from ..core.trace import Trace, trace_from_rows
from ..core.trace.signals import MAG_POSITIONS
from ..store import flights, samples
from ..store.database import Database
from ..store.flights import Flight

# (days ago, pilot, size of the left magneto's late timing, outside temperature [°C])
_FLIGHTS = (
    (34, "Ana Quill", 0.02, 11.0),
    (27, "Piet Marrow", 0.11, 8.0),
    (19, "Ana Quill", 0.2, 14.0),
    (11, "Idris Fenn", 0.29, 6.0),
    (4, "Piet Marrow", 0.38, 9.0),
)
_LEAST_S = 0.5


def flight_script(fault_size: float, oat_c: float, strokes: float) -> list[dict[str, Any]]:
    """Return the bench script of a short flight: cold start, warm-up, run-up, cruise leaned, shutdown."""
    on_ground = {"oat_c": oat_c, "palt_ft": 600}
    return [
        {"at": 0, "air": on_ground},
        {"at": 0, "engine": {"soak_h": 14}},
        {"at": 0, "fault": "late_timing_left", "size": fault_size},
        {"at": 4, "set": {"master": True, "mixture": 1.0, "throttle": 0.08}},
        {"at": 12, "set": {"prime_strokes": strokes}},
        {"at": 15, "set": {"mag": "BOTH", "starter": True}},
        {"at": 17.5, "set": {"starter": False}},
        {"at": 25, "set": {"throttle": 0.1}, "ramp_s": 2},
        {"at": 420, "set": {"throttle": 0.338}, "ramp_s": 4},
        {"at": 440, "set": {"mag": "L"}},
        {"at": 447, "set": {"mag": "BOTH"}},
        {"at": 455, "set": {"mag": "R"}},
        {"at": 462, "set": {"mag": "BOTH"}},
        {"at": 475, "set": {"carb_heat": 1.0}, "ramp_s": 0.5},
        {"at": 485, "set": {"carb_heat": 0.0}, "ramp_s": 0.5},
        {"at": 500, "set": {"throttle": 0.0}, "ramp_s": 3},
        {"at": 512, "set": {"throttle": 0.1}, "ramp_s": 2},
        {"at": 540, "set": {"throttle": 1.0}, "ramp_s": 3},
        {"at": 555, "air": {**on_ground, "ias_kt": 72}},
        {"at": 660, "air": {"oat_c": oat_c - 4, "palt_ft": 2500, "ias_kt": 75}},
        {"at": 780, "air": {"oat_c": oat_c - 7, "palt_ft": 4500, "ias_kt": 98}, "set": {"throttle": 0.62}, "ramp_s": 4},
        {"at": 840, "set": {"mixture": 0.42}, "ramp_s": 60},
        {"at": 906, "set": {"mixture": 0.525}, "ramp_s": 8},
        {"at": 1000, "set": {"mixture": 1.0}, "ramp_s": 5},
        {"at": 1010, "air": {**on_ground, "ias_kt": 0}, "set": {"throttle": 0.1}, "ramp_s": 4},
        {"at": 1090, "set": {"mixture": 0.0}, "ramp_s": 5},
        {"at": 1105, "set": {"mag": "OFF", "master": False}},
        {"at": 1115, "end": True},
    ]


def is_demo(path: Path) -> bool:
    """Say whether a database holds nothing but the demo's flights; one that cannot be read does not."""
    try:
        with sqlite3.connect(f"file:{path}?mode=ro", uri=True) as db:
            own = db.execute("SELECT count(*) FROM flights WHERE id NOT LIKE 'demo-%'").fetchone()[0]
    except sqlite3.DatabaseError:
        return False
    return bool(own == 0)


def build_demo(database: Database, profile: Profile, today: datetime | None = None) -> int:
    """Fly the demo flights into an empty database; return how many. A database with flights is left as it is."""
    with database.reading() as db:
        if flights.count_flights(db):
            return 0
    today = today or datetime.now(UTC)
    for number, (days, pilot, size, oat_c) in enumerate(_FLIGHTS, 1):
        _fly(database, profile, number, today - timedelta(days=days), pilot, size, oat_c)
    return len(_FLIGHTS)


def _fly(
    database: Database, profile: Profile, number: int, day: datetime, pilot: str, size: float, oat_c: float
) -> None:
    assert profile.bench is not None
    script = BenchScript.from_json(flight_script(size, oat_c, round(book_strokes(profile, oat_c))))
    run = run_script(script, profile.bench, seed=number)
    channels, moved = channel_names(profile.bench), lever_names(profile.bench)
    names = [*channels, *moved]
    levers = {**run.levers, "mag": np.array([MAG_POSITIONS.index(p) for p in run.levers["mag"]], dtype=float)}
    rows = np.column_stack([run.time_s, *(run.shown[c] for c in channels), *(levers[name] for name in moved)])
    flight_id = f"demo-{number}"
    started = day.replace(hour=9, minute=20, second=0, microsecond=0)
    flight = Flight(
        id=flight_id,
        profile_hash=profile.content_hash,
        registration=profile.registration,
        pilot=pilot,
        title="Larkfield circuit and leaning",
        source="bench",
        kind="demo",
        started_utc=started.isoformat(timespec="seconds"),
    )
    trace = trace_from_rows(rows, names)
    with database.writing() as db:
        flights.keep_profile(db, profile)
        flights.add_flight(db, flight)
        samples.set_columns(db, flight_id, names)
        for minute in range(int(run.time_s[-1] // samples.BLOCK_S) + 1):
            samples.put_block(db, flight_id, minute, rows[(rows[:, 0] // samples.BLOCK_S) == minute])
        for event in _events(flight_id, profile, trace, started, oat_c, round(book_strokes(profile, oat_c))):
            flights.add_event(db, flight_id, event)
        events = flights.events_of(db, flight_id)
        flights.put_summary(db, flight_id, summary_of(profile, fold(profile, events), float(run.time_s[-1])))


def _events(
    flight_id: str, profile: Profile, trace: Trace, started: datetime, oat_c: float, strokes: float
) -> list[Event]:
    """Return what a pilot who follows the lists, and Jemmon, would have kept of this flight."""
    begins = (0, 14, 30, 410, 520, 538, 780, 1000, 1060)
    made: list[tuple[float, str, Mapping[str, Any]]] = [(0.0, "flight_started", {"profile": profile.id})]
    for phase, start_s, end_s in zip(profile.phases, begins, (*begins[1:], 1112), strict=True):
        if start_s:
            made.append((float(start_s), "phase_entered", {"phase": phase.id}))
        items = [item for one in lists_of(phase, {"start": "cold"}) for item in one.items]
        step_s = (end_s - start_s) / (len(items) + 1)
        for k, item in enumerate(items, 1):
            made.append((start_s + max(k * step_s, _LEAST_S), "item_done", {"item": item.id}))
    findings = judge(trace, profile)
    made += [(finding.end_s, "finding", finding.to_json()) for finding in findings]
    made.append((12.0, "prime_stroke", {"strokes": strokes}))
    made += starts_of_trace(profile, trace, strokes)
    made.append((float(trace.time_s[-1]), "flight_ended", {}))
    return [
        Event(
            id=f"{flight_id}:{number}",
            kind=kind,
            at_s=round(at_s, 1),
            body=body,
            wall_utc=(started + timedelta(seconds=at_s)).isoformat(timespec="milliseconds"),
        )
        for number, (at_s, kind, body) in enumerate(sorted(made, key=lambda row: row[0]))
    ]
