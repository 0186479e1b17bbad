"""The run-up as one card: go to the briefing, look again, or stop, with everything that is still open. Pure.

It is read off the findings of this flight (the latest of each kind counts; earlier ones are kept) and off the lists.
"Go to the briefing" is no permission to fly.
"""

from dataclasses import dataclass
from typing import Literal

from ..aircraft import Profile
from ..aircraft.phases import RUN_UP
from ..flight.state import FlightState, half_checks
from ..judgement.registry import checks
from ..procedure.progress import waiting_items
from ..trace.finding import INCOMPLETE, LOOK, STOP, UNKNOWN, gravest
from .findings import Verdict

Grade = Literal["go", "look", "stop"]
_HEADLINES: dict[Grade, str] = {
    "go": "Run-up done: on to the briefing",
    "look": "Look again before you go on",
    "stop": "Stop: do not fly with this",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class CardRow:
    """One check of the card; `engine` None where there is one engine."""

    kind: str
    title: str
    engine: int | None
    engine_name: str | None
    verdict: Verdict
    because: str
    next: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TwinRow:
    """What both engines showed at equal levers; `far` when further apart than is usual."""

    title: str
    left: int
    right: int
    gap: int
    far: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RunUpCard:
    """The card: its grade, what was judged, what is still open, two engines side by side."""

    grade: Grade
    headline: str
    rows: tuple[CardRow, ...]
    open: tuple[str, ...]
    twin: tuple[TwinRow, ...]


def is_run_up(profile: Profile, phase_id: str) -> bool:
    """Say whether this is the phase in which the engine is run up."""
    return profile.kind_of(phase_id).name == RUN_UP


def summarise(profile: Profile, state: FlightState) -> RunUpCard | None:
    """Return the card, or None outside the run-up and before anything of it was judged."""
    if not is_run_up(profile, state.phase):
        return None
    rows = _rows(profile, state)
    if not rows:
        return None
    left = waiting_items(profile, profile.phase(state.phase), state.progress, state.known)
    open_ends = (
        *half_checks(profile, state),
        *(f"Not judged: {name}" for name in _not_judged(profile, state)),
        *(f"Open: {item.challenge}" for item in left),
    )
    worst = gravest(row.verdict for row in rows)
    grade: Grade = "stop" if worst == STOP else "look" if worst in (LOOK, INCOMPLETE, UNKNOWN) or open_ends else "go"
    return RunUpCard(grade=grade, headline=_HEADLINES[grade], rows=rows, open=open_ends, twin=_twin(profile, state))


def _rows(profile: Profile, state: FlightState) -> tuple[CardRow, ...]:
    many = len(profile.engines) > 1
    return tuple(
        CardRow(
            kind=check.kind,
            title=check.title,
            engine=number if many else None,
            engine_name=name if many else None,
            verdict=finding["verdict"],
            because=finding["because"],
            next=finding["next"],
        )
        for check in checks().values()
        if check.on_card
        for number, name in profile.engines
        if (finding := state.latest_finding(check.kind, number))
    )


def _not_judged(profile: Profile, state: FlightState) -> list[str]:
    """Return the checks that must be judged and that no finding answers, by the item's words and the engine: those that can be,
    by needles that there are or by the pad."""
    names = []
    has_needles = any(not finding.get("typed") for finding in state.findings)
    for item in profile.phase(state.phase).items:
        check = checks().get(item.check or "")
        can_be = item.manual is not None or has_needles
        if check is None or not check.must_be_judged or not can_be or not state.progress.done.get(item.id):
            continue
        for number, name in profile.engines:
            if item.engine in (0, number) and state.latest_finding(check.kind, number) is None:
                names.append(profile.whose(name) + check.title)
    return names


def _twin(profile: Profile, state: FlightState) -> tuple[TwinRow, ...]:
    """Return what both engines showed at equal levers, side by side with the difference; empty for one engine."""
    if len(profile.engines) < 2:
        return ()
    rows = []
    for check in checks().values():
        for compared in check.compared:
            found = [state.latest_finding(check.kind, number) for number, _ in sorted(profile.engines)[:2]]
            figures = [float(v) for one in found if one and (v := one["measured"].get(compared.measured)) is not None]
            if len(figures) < 2:
                continue
            left, right = figures
            gap = abs(left - right)
            rows.append(
                TwinRow(
                    title=compared.title,
                    left=round(left),
                    right=round(right),
                    gap=abs(round(left) - round(right)),  # of the two as they are read beside it
                    far=gap > compared.apart,
                )
            )
    return tuple(rows)
