"""The demo's recorded flights: the Ombersleat Flying Group, its Pellamy, its Orrisant and its Tavundel over two years, each with a
story worth finding: a magneto that wears, a nozzle that clogs, a battery that tires.

Everything here is invented. The flights can be made again: each is a script with a seed.
"""

import hashlib
import sqlite3
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any

import numpy as np

from ..core import bench as engine
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
from ..store.settings import demo_fingerprint, set_demo_fingerprint
from .scripts import END_S, PHASE_BEGINS_S, Day, Hands, flight_script

TRAINER = Hands(
    start_throttle=0.08, run_up_throttle=0.338, cruise_throttle=0.62, leaned=(0.55, 0.94), primes_by="strokes"
)
_TOURER = Hands(
    start_throttle=0.1,
    run_up_throttle=0.258,
    cruise_throttle=0.66,
    leaned=(0.36, 0.5),
    primes_by="pump",
    propeller=0.6,
    has_carb_heat=False,
)
_TWIN = Hands(
    start_throttle=0.08,
    run_up_throttle=0.353,
    cruise_throttle=0.62,
    leaned=(0.56, 0.93),
    primes_by="primer",
    engines=("", "e2_"),
    propeller=0.6,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Story:
    """What becomes of one aircraft over its flights: who moves its levers, the fault that grows from one size to another."""

    hands: Hands
    title: str
    flights: int
    fault: str
    sizes: tuple[float, float]


STORIES = {
    "a-trainer": Story(
        hands=TRAINER,
        title="Ombersleat circuit and leaning",
        flights=16,
        fault="late_timing_left",
        sizes=(0.02, 0.64),
    ),
    "b-tourer": Story(
        hands=_TOURER,
        title="Ombersleat to the coast and back",
        flights=13,
        fault="clogged_nozzle_4",
        sizes=(0.0, 0.12),
    ),
    "d-twin": Story(
        hands=_TWIN, title="Ombersleat, a twin kept current", flights=11, fault="weak_battery", sizes=(0.1, 0.5)
    ),
}
_PILOTS = ("Ana Quill", "Piet Marrow", "Idris Fenn")
_SPREAD_DAYS, _NEWEST_DAYS = 720.0, 4.0
_LEAST_S = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class _Planned:
    """One flight that the demo holds: the first of its aircraft is the newest."""

    id: str
    profile: Profile
    story: Story
    days_ago: float
    pilot: str
    size: float
    oat_c: float
    seed: int


def planned(profiles: Mapping[str, Profile]) -> Iterator[_Planned]:
    """Yield the demo's flights, the newest of each aircraft first."""
    rounds = max(story.flights for story in STORIES.values())
    for number in range(rounds):
        for name, story in STORIES.items():
            if number < story.flights:
                yield _flight(profiles[name], story, number)


def _flight(profile: Profile, story: Story, number: int) -> _Planned:
    draw, back = Random(f"{profile.id} {number}"), number / max(story.flights - 1, 1)
    newest, oldest = story.sizes[1], story.sizes[0]
    days_ago = _NEWEST_DAYS + (_SPREAD_DAYS - _NEWEST_DAYS) * back**1.6 + draw.uniform(0, 3)
    return _Planned(
        id=f"demo-{profile.id}-{number + 1}",
        profile=profile,
        story=story,
        days_ago=days_ago,
        pilot=_PILOTS[draw.randrange(len(_PILOTS))],
        size=round(newest + (oldest - newest) * back, 3),
        oat_c=round(10.0 + draw.uniform(-6, 8), 1),
        seed=draw.randrange(1_000),
    )


def fingerprint(profiles: Mapping[str, Profile]) -> str:
    """Return what the demo's flights are made of, in one word: bench, profiles and scripts."""
    sources = [*sorted(Path(engine.__file__).parent.glob("*.py")), *sorted(Path(__file__).parent.glob("*.py"))]
    told = hashlib.sha256(b"".join(path.read_bytes() for path in sources))
    told.update("".join(profiles[name].content_hash for name in STORIES).encode())
    return told.hexdigest()[:16]


def is_demo(path: Path) -> bool:
    """Say whether a database holds nothing but the demo's flights; one that cannot be read does not."""
    try:
        with sqlite3.connect(f"file:{path}?mode=ro", uri=True) as db:
            own = db.execute("SELECT count(*) FROM flights WHERE id NOT LIKE 'demo-%'").fetchone()[0]
    except sqlite3.DatabaseError:
        return False
    return bool(own == 0)


def build_demo(database: Database, profiles: Mapping[str, Profile], only: int | None = None) -> int:
    """Fly the demo flights that the database lacks, the newest first; return how many. Those of another bench or of other profiles
    are removed before, whatever else is in the database stays. `only`: no more than so many, of the trainer alone."""
    made_of = fingerprint(profiles)
    with database.writing() as db:
        if demo_fingerprint(db) != made_of:
            flights.remove_flights(db, flights.demo_ids(db))
            set_demo_fingerprint(db, made_of)
        kept = set(flights.demo_ids(db))
    wanted = [one for one in planned(profiles) if only is None or one.profile.id == "a-trainer"][:only]
    missing = [one for one in wanted if one.id not in kept]
    today = datetime.now(UTC)
    for one in missing:
        _keep(database, one.profile, flown(one, today - timedelta(days=one.days_ago)))
    return len(missing)


@dataclass(frozen=True, slots=True)
class DemoFlight:
    """A demo flight: its row, the samples (rows, names) with the names of their columns, its events."""

    flight: Flight
    names: list[str]
    rows: np.ndarray
    events: list[Event]


def flown(planned: _Planned, day: datetime) -> DemoFlight:
    """Return a planned flight as it was flown on a day, primed by the book."""
    profile, flight_id = planned.profile, planned.id
    assert profile.bench is not None
    prime = book_strokes(profile, planned.oat_c)
    prime = round(prime) if planned.story.hands.primes_by == "strokes" else round(prime, 1)
    conditions = Day(oat_c=planned.oat_c, prime=prime, fault=planned.story.fault, size=planned.size)
    script = BenchScript.from_json(flight_script(planned.story.hands, conditions))
    run = run_script(script, profile.bench, seed=planned.seed)
    channels, moved = channel_names(profile.bench), lever_names(profile.bench)
    names = [*channels, *moved]
    levers = {name: _as_number(values) for name, values in run.levers.items()}
    rows = np.column_stack([run.time_s, *(run.shown[c] for c in channels), *(levers[name] for name in moved)])
    started = day.replace(hour=8 + planned.seed % 9, minute=planned.seed % 60, second=0, microsecond=0)
    flight = Flight(
        id=flight_id,
        profile_hash=profile.content_hash,
        registration=profile.registration,
        pilot=planned.pilot,
        title=planned.story.title,
        source="bench",
        kind="demo",
        started_utc=started.isoformat(timespec="seconds"),
    )
    return DemoFlight(flight, names, rows, _events(flight_id, profile, trace_from_rows(rows, names), started, prime))


def _keep(database: Database, profile: Profile, made: DemoFlight) -> None:
    flight_id, minutes = made.flight.id, made.rows[:, 0] // samples.BLOCK_S
    with database.writing() as db:
        flights.keep_profile(db, profile)
        flights.add_flight(db, made.flight)
        samples.set_columns(db, flight_id, made.names)
        for minute in range(int(minutes[-1]) + 1):
            samples.put_block(db, flight_id, minute, made.rows[minutes == minute])
        for event in made.events:
            flights.add_event(db, flight_id, event)
        kept = flights.events_of(db, flight_id)
        flights.put_summary(db, flight_id, summary_of(profile, fold(profile, kept), float(made.rows[-1, 0])))


def _as_number(values: np.ndarray) -> np.ndarray:
    """Return a lever's positions as a trace keeps them: the magneto switch by the number of its word."""
    if values.dtype.kind in "fiub":
        return values
    return np.array([MAG_POSITIONS.index(word) for word in values], dtype=float)


def _events(flight_id: str, profile: Profile, trace: Trace, started: datetime, prime: float) -> list[Event]:
    """Return what a pilot who follows the lists, and Jemmon, would have kept of this flight."""
    begins = [PHASE_BEGINS_S[phase.kind.name] for phase in profile.phases]
    made: list[tuple[float, str, Mapping[str, Any]]] = [(0.0, "flight_started", {"profile": profile.id})]
    for phase, start_s, end_s in zip(profile.phases, begins, (*begins[1:], END_S - 3), strict=True):
        if start_s:
            made.append((float(start_s), "phase_entered", {"phase": phase.id}))
        items = [item for one in lists_of(phase, {"start": "cold"}) for item in one.items]
        step_s = (end_s - start_s) / (len(items) + 1)
        for k, item in enumerate(items, 1):
            made.append((start_s + max(k * step_s, _LEAST_S), "item_done", {"item": item.id}))
    made += [(finding.end_s, "finding", finding.to_json()) for finding in judge(trace, profile)]
    strokes = prime if profile.start.unit == "strokes" else 0.0  # seconds of a pump the trace shows
    if strokes:
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
