"""What kinds of phase there are. A profile names its phases as it likes; rules ask the kind, and what the kind is like."""

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class PhaseKind:
    """A kind of phase. `flies`: most of it is in the air; `climbs`, `comes_down`: which way;
    `upgraded_from`: the ids that formats 1 and 2 used for it."""

    name: str
    title: str
    flies: bool = False
    climbs: bool = False
    comes_down: bool = False
    upgraded_from: tuple[str, ...] = ()


def _kind(
    name: str, title: str, *others: str, flies: bool = False, climbs: bool = False, down: bool = False
) -> PhaseKind:
    return PhaseKind(name=name, title=title, flies=flies, climbs=climbs, comes_down=down, upgraded_from=(name, *others))


BEFORE_START, START, WARM_UP, TAXI, RUN_UP = "before_start", "start", "warm_up", "taxi", "run_up"
BEFORE_TAKE_OFF, TAKE_OFF, CLIMB, CRUISE = "before_take_off", "take_off", "climb", "cruise"
DESCENT, BEFORE_LANDING, AFTER_LANDING, SHUTDOWN, OTHER = (
    *("descent", "before_landing", "after_landing", "shutdown"),
    "other",
)
PHASE_KINDS: Mapping[str, PhaseKind] = {
    row.name: row
    for row in (
        _kind(BEFORE_START, "Before start", "preflight"),
        _kind(START, "Start"),
        _kind(WARM_UP, "Warm-up", "warm_up_taxi"),
        _kind(TAXI, "Taxi"),
        _kind(RUN_UP, "Run-up", "runup"),
        _kind(BEFORE_TAKE_OFF, "Before take-off", "line_up"),
        _kind(TAKE_OFF, "Take-off", "take_off_climb", flies=True, climbs=True),
        _kind(CLIMB, "Climb", flies=True, climbs=True),
        _kind(CRUISE, "Cruise", flies=True),
        _kind(DESCENT, "Descent", "descent_landing", flies=True, down=True),
        _kind(BEFORE_LANDING, "Before landing", "landing", flies=True, down=True),
        _kind(AFTER_LANDING, "After landing", down=True),
        _kind(SHUTDOWN, "Shutdown", down=True),
        _kind(OTHER, "Other"),
    )
}
_BY_OLD_ID = {old: row.name for row in PHASE_KINDS.values() for old in row.upgraded_from}


def kind_of_old_id(phase_id: str) -> str:
    """Return the kind that a phase of formats 1 and 2 had by its id: rules asked how it begins (`climb_2` is a climb);
    `other` where it was the owner's own."""
    begins = [old for old in _BY_OLD_ID if phase_id.startswith(old)]
    return _BY_OLD_ID[max(begins, key=len)] if begins else OTHER
