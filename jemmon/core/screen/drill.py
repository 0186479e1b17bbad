"""What the flight screen shows of a drill: what was told, what may be named and decided, and how long it still goes."""

from dataclasses import dataclass

from ..flight.state import FlightState
from .lists import Named


@dataclass(frozen=True, slots=True, kw_only=True)
class DrillNow:
    """The drill that is flown: `tell` is what the pilot was told last, `left_s` the rest of its time [s]."""

    title: str
    aim: str
    tell: str | None
    causes: tuple[Named, ...]
    decisions: tuple[Named, ...]
    said: str | None
    decided: str | None
    left_s: int


def drill_now(state: FlightState, now_s: float) -> DrillNow | None:
    """Return what a screen shows of the drill at flight time `now_s` [s], or None where none is flown."""
    drill = state.drill
    if drill is None:
        return None
    return DrillNow(
        title=drill.title,
        aim=drill.aim,
        tell=drill.tells[-1] if drill.tells else None,
        causes=tuple(Named(id=name, title=words) for name, words in drill.causes.items()),
        decisions=tuple(Named(id=name, title=words) for name, words in drill.decisions.items()),
        said=drill.said,
        decided=drill.decided,
        left_s=max(round(drill.length_s - now_s), 0),
    )
