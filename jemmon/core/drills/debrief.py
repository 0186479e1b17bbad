"""The debrief of a flown drill: the one thing to do differently, and one timeline of what was done, shown, true and right."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from ..aircraft import Profile
from ..bench.faults import FAULTS
from ..judgement.registry import title_of
from ..trace.signals import Kind, engine_of, reading_row
from .drill import Drill
from .flown import FlownDrill
from .rules import Scene
from .schema import DECISIONS, SKILLS
from .score import WELL_FLOWN, DrillScore, Noticed, score

LineKind = Literal["true", "done", "shown", "method", "note"]
_MOVED, _RESTS_S = (
    0.04,
    1.5,
)  # of a lever's travel, and how long it rests after a move (our own choice: fewer, whole moves)
_BEFORE_S = 15.0  # a moment is flown again from so long before it could be seen (our own choice)


@dataclass(frozen=True, slots=True, kw_only=True)
class SkillScore:
    """One skill and its score, 0 to 100."""

    id: str
    title: str
    score: int


@dataclass(frozen=True, slots=True, kw_only=True)
class DebriefLine:
    """One line of the timeline, at a time of the flight [s]: what was true, done, shown, what the method says, or a note."""

    at_s: float
    kind: LineKind
    says: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Debrief:
    """What is said after a drill. `first` is the one thing to do differently and `fact` what it rests on; `again_s` is where its
    moment begins that can be flown again [s], `check` the page of the method about it, or None."""

    drill: str
    aircraft: str
    title: str
    aim: str
    first: str
    fact: str
    is_well_flown: bool
    total: int
    skills: tuple[SkillScore, ...]
    noticed: tuple[Noticed, ...]
    lines: tuple[DebriefLine, ...]
    cause: str | None
    again_s: float | None
    check: str | None
    check_title: str | None


def debrief(
    drill: Drill, flown: FlownDrill, profile: Profile, notes: Sequence[tuple[float, str]] = ()
) -> tuple[Debrief, DrillScore]:
    """Return the debrief of a flown drill and its score; `notes` are remarks with their times of flight [s].

    Raises:
        DrillError: a rule reads a signal that this aircraft does not have.
    """
    found = score(drill, flown, profile)
    lines = [*_true(flown), *_done(flown, profile, drill), *_shown(flown, profile, drill), *_method(found)]
    lines += [DebriefLine(at_s=at_s, kind="note", says=text) for at_s, text in notes]
    return Debrief(
        drill=drill.id,
        aircraft=drill.aircraft,
        title=drill.title,
        aim=drill.aim,
        first=found.first,
        fact=found.fact,
        is_well_flown=found.fact == WELL_FLOWN,
        total=found.total,
        skills=tuple(SkillScore(id=name, title=SKILLS[name], score=value) for name, value in found.by_skill.items()),
        noticed=found.noticed,
        lines=tuple(sorted(lines, key=lambda line: line.at_s)),
        cause=drill.causes.get(drill.cause),
        again_s=None if found.cue_s is None else max(round(found.cue_s - _BEFORE_S, 2), 0.0),
        check=drill.check or None,
        check_title=title_of(drill.check) if drill.check else None,
    ), found


def says_of_step(step: Mapping[str, Any]) -> str:
    """Return what a step of a drill does, in words."""
    parts = [str(step["tell"])] if "tell" in step else []
    if "fault" in step:
        parts.append(fault_words(str(step["fault"])))
    return " ".join(parts) or "Something changes by itself."


def fault_words(name: str) -> str:
    """Return what a fault of the simulated engine does, by its name (`e2_dead_plug_left_3`)."""
    own = name.removeprefix("e2_")
    kind, _, number = own.rpartition("_")
    is_numbered = own not in FAULTS and number.isdigit() and kind in FAULTS
    words = FAULTS[kind if is_numbered else own]
    if not is_numbered:
        return words
    return words.replace("The numbered cylinder", f"Cylinder {number}").replace(
        "the numbered cylinder", f"cylinder {number}"
    )


def _true(flown: FlownDrill) -> Iterator[DebriefLine]:
    for one in flown.happened:
        yield DebriefLine(at_s=one.at_s, kind="true", says=says_of_step(one.step))


def _done(flown: FlownDrill, profile: Profile, drill: Drill) -> Iterator[DebriefLine]:
    for name, column in flown.columns.items():
        row = reading_row(name)
        if row is None or not row.is_lever:
            continue
        number = engine_of(name)[0]
        whose = "" if row.is_shared else profile.whose(dict(profile.engines).get(number, ""))
        title = f"{whose}{row.title}"
        moves = _words(column) if row.kind is Kind.WORD else _moves(flown.time_s, column, row.kind)
        for place, says in moves:
            yield DebriefLine(at_s=float(flown.time_s[place]), kind="done", says=f"{title}: {says}")
    for one in flown.told:
        words = drill.causes if one.kind == "say" else DECISIONS
        says = words.get(one.word, one.word)
        yield DebriefLine(at_s=one.at_s, kind="done", says=f"{'Named' if one.kind == 'say' else 'Decided'}: {says}")


def _words(column: np.ndarray) -> Iterator[tuple[int, str]]:
    for place in range(1, len(column)):
        if column[place] != column[place - 1] and column[place]:
            yield place, str(column[place])


def _moves(time_s: np.ndarray, column: np.ndarray, kind: Kind) -> Iterator[tuple[int, str]]:
    """Yield where a lever began to move and where it came to rest, one line a move."""
    begun: int | None = None
    before = float(column[0])
    for place in range(1, len(column)):
        is_moving = abs(float(column[place]) - float(column[place - 1])) > 1e-6
        if is_moving and begun is None:
            begun, before = place, float(column[place - 1])
        rests = begun is not None and not is_moving and _rests(time_s, column, place)
        if begun is not None and rests:
            after = float(column[place])
            if abs(after - before) >= _MOVED:
                yield begun, _to(before, after, kind)
            begun = None


def _rests(time_s: np.ndarray, column: np.ndarray, place: int) -> bool:
    rows = column[place : int(np.searchsorted(time_s, time_s[place] + _RESTS_S))]
    return bool(np.all(np.abs(rows.astype(float) - float(column[place])) < 1e-6))


def _to(before: float, after: float, kind: Kind) -> str:
    if kind is Kind.LEVER:
        return f"{100 * before:.0f} → {100 * after:.0f} %"
    return "on" if after > 0.5 else "off"


def _shown(flown: FlownDrill, profile: Profile, drill: Drill) -> Iterator[DebriefLine]:
    for finding in Scene(flown, profile, drill).findings():
        yield DebriefLine(at_s=finding.end_s, kind="shown", says=f"{title_of(finding.kind)}: {finding.because}")


def _method(found: DrillScore) -> Iterator[DebriefLine]:
    """Yield what each lost rule asks for, at the moment when it was lost or could first be met."""
    for rule in found.rules:
        if rule.share < 1:
            at_s = rule.at_s if rule.at_s is not None else found.cue_s or 0.0
            yield DebriefLine(at_s=at_s, kind="method", says=rule.instead)
