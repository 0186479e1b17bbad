"""Which parts the flight screen shows at this moment."""

from dataclasses import dataclass
from typing import Literal

from ..aircraft import Item, Profile
from ..aircraft.phases import BEFORE_START, CLIMB, CRUISE, DESCENT, START, WARM_UP
from ..flight.state import FlightState
from ..hearing.ear import is_heard
from ..judgement.registry import checks
from ..live.lines import AirLine
from ..trace.signals import prefix_of
from .cockpit import FeedFacts

_TALL_WATCHES = ("weather", "briefing")
_TANKS_AT_HAND = (CLIMB, CRUISE, DESCENT)
_URGENT_LINES = ("head", "turbine", "lean_by_hand")


@dataclass(frozen=True, slots=True, kw_only=True)
class Panels:
    """What is shown. `working`: the trace of a check or the leaning beside the item. `tall`: the item needs the list's room.
    `pad`: figures of its check are to be typed. `card`: the run-up's card in place of the list. `power`, `fuel`,
    `burn_off`, `starting`, `warming` (every gate, open or not): those parts. `shortens`: the lists of the start may be cut to what
    starts a simulated engine. `ear`: the speed may be heard, since it is read out by hand. `hottest`: the reading whose figure is
    shown beside a leaning."""

    working: Literal["trace", "lean"] | None
    tall: bool
    pad: bool
    card: bool
    power: bool
    fuel: bool
    burn_off: bool
    starting: bool
    warming: bool
    shortens: bool
    ear: bool
    hottest: str


def panels(
    profile: Profile,
    state: FlightState,
    item: Item | None,
    feed: FeedFacts | None,
    *,
    card: bool,
    clock: bool,
    watch: bool,
    by_hand: bool,
) -> Panels:
    """Return what is shown: `card` there is a run-up card, `clock` a rating runs, `watch` a take-off is being made, `by_hand` the
    needles are read out."""
    kind = profile.kind_of(state.phase)
    is_leaning = item is not None and item.watch == "lean"
    check = checks().get(item.check or "") if item else None
    typed = item is not None and item.manual is not None
    last = state.latest_finding(item.check, item.engine or None) if item and item.check else None
    working: Literal["trace", "lean"] | None = None
    if feed is not None and feed.is_drawn:
        working = "lean" if is_leaning else "trace" if check is not None and check.is_traced else None
    return Panels(
        working=working,
        tall=watch or item is not None and (item.watch in _TALL_WATCHES or item.measure is not None),
        pad=typed and last is None and not (is_leaning and feed is None and profile.lean_targets),
        card=item is None and card,
        power=clock or kind.flies,
        fuel=kind.name in _TANKS_AT_HAND and not is_leaning,
        burn_off=card,
        starting=kind.name in (BEFORE_START, START),
        warming=kind.name == WARM_UP,
        shortens=_shortens(state, feed, kind.name),
        ear=by_hand and is_heard(profile),
        hottest=f"{prefix_of(item.engine if item else 1)}cht_max_f",
    )


def _shortens(state: FlightState, feed: FeedFacts | None, kind: str) -> bool:
    is_practice = feed is not None and feed.is_sped and kind in (BEFORE_START, START)
    return is_practice and not state.engine_runs and not state.progress.is_short


def lines_to_show(item: Item | None, lines: tuple[AirLine, ...]) -> tuple[AirLine, ...]:
    """Return the lines that are said: while the mixture is being set only what is urgent."""
    if item is None or item.watch != "lean":
        return lines
    return tuple(line for line in lines if line.kind == "look" and line.id in _URGENT_LINES)
