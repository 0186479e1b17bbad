"""Drills as the application flies them: begun, kept, scored, brought back."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from random import SystemRandom

import numpy as np
from werkzeug.exceptions import Conflict, NotFound

from ..core.aircraft import Profile
from ..core.drills import DECISIONS, KINDS, SKILLS, Drill
from ..core.drills.debrief import Debrief, debrief
from ..core.drills.drill import drill_of_kept, kept_drill
from ..core.drills.flown import Hand, Happened, Told, of_trace
from ..core.drills.owned import flown_on, kind_of
from ..core.drills.repeats import Progress, Repeat, progress, repeat_of
from ..core.flight.drill_events import DrillBegun, DrillHappened, DrillTold
from ..core.flight.events import Event
from ..core.flight.fold import undone_ids
from ..core.trace import Trace
from ..library.practice import drawn_drill, shipped_drills
from ..library.shipped import shipped_profiles
from ..store import flights, samples
from ..store.database import Database
from ..store.drills import KeptScore, put_score, scores_of

_MOST_SEED = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class DrillLine:
    """One drill in the list: what it trains, on which aircraft, how long it is, and when it comes back."""

    id: str
    title: str
    aim: str
    kind: str
    aircraft: str
    registration: str
    level: int
    minutes: int
    repeat: Repeat | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PractisedOn:
    """An aircraft of one's own on which the drills of a shipped one (`like`) can be flown."""

    id: str
    registration: str
    like: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DrillsPage:
    """All drills, what comes back first, how each skill goes, and on which other aircraft drills can be flown."""

    drills: tuple[DrillLine, ...]
    progress: tuple[Progress, ...]
    others: tuple[PractisedOn, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class BegunDrill:
    """A drill that begins: its id, its seed, as it was drawn; a moment that is flown again, with the flight that it was in."""

    id: str
    seed: int
    drill: Drill
    parent: str | None = None
    from_s: float = 0.0

    def event(self, flight_id: str) -> Event:
        """Return what a flight keeps of it."""
        body = {
            "drill": self.id,
            "seed": self.seed,
            "kept": kept_drill(self.drill),
            "decisions": {name: DECISIONS[name] for name in self.drill.decisions},
            "parent": self.parent,
            "from_s": self.from_s,
        }
        return Event(id=f"{flight_id}:drill", kind=DrillBegun.KIND, at_s=self.from_s, body=body)


def drills_page(database: Database, profiles: Mapping[str, Profile], pilot: str, today: date) -> DrillsPage:
    """Return the list of drills for a pilot; `profiles` are those of all aircraft by id."""
    with database.reading() as db:
        kept = scores_of(db, pilot)
    by_drill: dict[str, list[tuple[date, int]]] = {}
    for one in kept:
        by_drill.setdefault(one.drill, []).append((datetime.fromisoformat(one.flown_utc).date(), one.total))
    lines = []
    for name in shipped_drills():
        drill = drawn_drill(shipped_drills()[name], 1)
        lines.append(
            DrillLine(
                id=name,
                title=drill.title,
                aim=drill.aim,
                kind=drill.kind,
                aircraft=drill.aircraft,
                registration=profiles[drill.aircraft].registration,
                level=drill.level,
                minutes=max(round(drill.length_s / 60), 1),
                repeat=repeat_of(by_drill.get(name, []), today),
            )
        )
    return DrillsPage(
        drills=tuple(sorted(lines, key=lambda line: (KINDS.index(line.kind), line.level))),
        progress=progress([dict(one.by_skill) for one in kept], SKILLS),
        others=_others(profiles),
    )


def _others(profiles: Mapping[str, Profile]) -> tuple[PractisedOn, ...]:
    kinds = {name: profiles[name] for name in shipped_profiles()}
    own = ((profile, kind_of(profile, kinds)) for name, profile in sorted(profiles.items()) if name not in kinds)
    return tuple(
        PractisedOn(id=profile.id, registration=profile.registration, like=like) for profile, like in own if like
    )


def begin_drill(name: str, seed: int | None, profiles: Mapping[str, Profile], on: Profile | None = None) -> BegunDrill:
    """Return a drill drawn by a seed, or by chance, as it is flown on an aircraft; None: on its own.

    Raises:
        NotFound: there is no drill of this id. DrillError: it cannot be flown on this aircraft.
    """
    if name not in shipped_drills():
        raise NotFound(f"There is no drill {name[:60]!r}.")
    seed = SystemRandom().randrange(1, _MOST_SEED) if seed is None else seed
    drill = drawn_drill(shipped_drills()[name], seed)
    if on is not None and on.id != drill.aircraft:
        drill = flown_on(drill, profiles[drill.aircraft], on)
    return BegunDrill(id=name, seed=seed, drill=drill)


def begin_again(database: Database, flight_id: str, from_s: float) -> BegunDrill:
    """Return the drill of a kept flight from a moment of it [s] on.

    Raises:
        NotFound: there is no such flight. Conflict: it was no drill, or shows nothing.
    """
    with database.reading() as db:
        events, trace = flights.events_of(db, flight_id), samples.trace_of(db, flight_id)
    begun = begun_of(events)
    if begun is None or trace is None:
        raise Conflict("This flight was not a drill: no moment of it can be flown again.")
    drill = drill_of_kept(begun.kept)
    return BegunDrill(id=begun.drill, seed=begun.seed, drill=drill, parent=flight_id, from_s=from_s)


def begun_of(events: Sequence[Event]) -> DrillBegun | None:
    """Return the drill that a flight's events begin with, or None."""
    said = (event.said for event in events if event.kind == DrillBegun.KIND)
    return next((one for one in said if isinstance(one, DrillBegun)), None)


def debrief_of(database: Database, flight_id: str) -> Debrief:
    """Return the debrief of a flown drill, and keep its score.

    Raises:
        NotFound: there is no such flight. Conflict: it was no drill, or it still goes on.
    """
    with database.reading() as db:
        flight = flights.flight_by_id(db, flight_id)
        if flight is None:
            raise NotFound("There is no such flight.")
        profile = flights.profile_by_hash(db, flight.profile_hash)
        events, trace = list(flights.events_of(db, flight_id)), samples.trace_of(db, flight_id)
        begun = begun_of(events)
        before = samples.trace_of(db, begun.parent) if begun and begun.parent else None
    if begun is None or trace is None:
        raise Conflict("This flight was not a drill, or it ended before a needle moved.")
    drill = drill_of_kept(begun.kept)
    whole = trace if before is None else _joined(before, trace, begun.from_s)
    flown = of_trace(_up_to(whole, drill.length_s), *_said(events, drill))
    notes = [(event.at_s, str(event.body["text"])) for event in events if event.kind == "remark"]
    found, scored = debrief(drill, flown, profile, notes)
    kept = KeptScore(
        flight=flight_id,
        drill=begun.drill,
        pilot=flight.pilot,
        flown_utc=flight.started_utc,
        total=scored.total,
        by_skill=scored.by_skill,
        fact=scored.fact,
    )
    if begun.parent is None:  # a moment flown again is practice of the practice
        with database.writing() as db:
            put_score(db, kept)
    return found


def _said(events: list[Event], drill: Drill) -> tuple[list[Told], list[Happened], list[Hand]]:
    told: list[Told] = []
    happened: list[Happened] = []
    hands: list[Hand] = []
    undone = undone_ids(events)
    for event in (one for one in events if one.id not in undone):
        said = event.said
        if isinstance(said, DrillTold):
            told.append(Told(event.at_s, said.what, said.word))
        elif isinstance(said, DrillHappened):
            happened.append(Happened(event.at_s, said.place, drill.happens[said.place]))
        elif event.kind in ("prime_stroke", "hand_action"):
            own = "e2_" if int(event.body.get("engine", 1)) == 2 else ""
            action = own + str(event.body.get("action", "prime_strokes")).removeprefix("e2_")
            hands.append(Hand(event.at_s, action, float(event.body.get("amount", event.body.get("strokes", 1)))))
    return told, happened, hands


def _up_to(trace: Trace, end_s: float) -> Trace:
    rows = trace.time_s <= end_s
    return Trace(trace.time_s[rows], {name: column[rows] for name, column in trace.columns.items()})


def _joined(before: Trace, after: Trace, at_s: float) -> Trace:
    """Return a moment that was flown again with what its flight was before it."""
    first = _up_to(before, at_s)
    names = [name for name in after.columns if name in first.columns]
    return Trace(
        np.concatenate([first.time_s, after.time_s]),
        {name: np.concatenate([first.columns[name], after.columns[name]]) for name in names},
    )
