"""Fuel by tank: what was on board, used and remaining, which tank feeds, when to change, and the ten-second watch after.

Used is counted from the flow where there are needles, else from the time and the type's cruise flow. Nothing is shown as
remaining before somebody said what was on board. US gallons. Pure: events and a moment in, plain data out.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from ..aircraft import Profile
from ..base.errors import EventError, checked_number

CHANGE_EVERY_S = 1800.0  # common practice
# common practice, but where it says otherwise
_MOST_GAL = 2000.0
_USUAL_RESERVE_MIN = 30.0
_BURN_TOLD_EVERY_GAL = 0.25
_LEFT_AT_CHANGE_S = 600.0  # of a tank that is emptied in order: none is run dry (common practice)
_EMPTY_GAL = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class FuelState:
    """Tanks by name: gallons on board as said, used as counted; when each was last turned to, the latest last; the one at
    which the selector was last seen, where a lever shows it."""

    on_board: Mapping[str, float] = field(default_factory=dict)
    used: Mapping[str, float] = field(default_factory=dict)
    tapped: Mapping[str, float] = field(default_factory=dict)
    seen: str | None = None

    @property
    def feeds(self) -> str | None:
        """The tank that was turned to last, or None."""
        return next(reversed(tuple(self.tapped)), None)

    def last_of(self, tanks: Iterable[str]) -> str | None:
        """Return the one of some tanks that was turned to last, or None."""
        return next((tank for tank in reversed(tuple(self.tapped)) if tank in tanks), None)

    def remaining(self, tank: str) -> float | None:
        """Return what is left in a tank [US gal], or None where nobody said what was in it."""
        said = self.on_board.get(tank)
        return None if said is None else max(said - self.used.get(tank, 0.0), 0.0)


def tanks_of(profile: Profile) -> tuple[str, ...]:
    """Return the tanks' names in the type's order; empty where the profile names none."""
    return tuple((profile.body.get("fuel") or {}).get("tanks", ()))


def fuel_step(state: FuelState, kind: str, at_s: float, body: Mapping[str, Any]) -> FuelState:
    """Return the fuel after an event: `fuel_on_board`, `tank_selected`, `tank_seen`, `fuel_used`."""
    if kind == "fuel_on_board":
        tank = str(body["tank"])
        used = {name: gallons for name, gallons in state.used.items() if name != tank}
        return replace(state, on_board={**state.on_board, tank: float(body["gal"])}, used=used)
    if kind in ("tank_selected", "tank_seen"):
        tank = str(body["tank"])
        others = {name: when for name, when in state.tapped.items() if name != tank}
        return replace(state, tapped={**others, tank: at_s}, seen=tank if kind == "tank_seen" else state.seen)
    tank = str(body.get("tank") or state.feeds or "")
    if kind == "fuel_used" and tank:
        return replace(state, used={**state.used, tank: state.used.get(tank, 0.0) + float(body["gal"])})
    return state


def check_tank(profile: Profile, tank: object) -> None:
    """Raise EventError for a tank that the aircraft has not."""
    tanks = tanks_of(profile)
    if tank not in tanks:
        raise EventError(f"There is no tank {tank!r}; this aircraft has {', '.join(tanks) or 'none named'}.")


def check_amount(gal: object) -> None:
    """Raise EventError for an amount [US gal] that no tank holds."""
    checked_number("`gal`", gal, EventError, 0, _MOST_GAL)


def tank_at(profile: Profile, lever: float | str | None) -> str | None:
    """Return the tank at which the selector is, or None where no lever shows it."""
    tanks = tanks_of(profile)
    if lever is None or isinstance(lever, str) or len(tanks) < 2:
        return None
    return tanks[round(min(max(lever, 0.0), 1.0) * (len(tanks) - 1))]


def is_crossfed(levers: Mapping[str, Any], away: Iterable[str]) -> bool:
    """Say whether a crossfeed is open: by its lever, else by what the pilot said of it."""
    lever = levers.get("crossfeed")
    return "crossfeed" in away if lever is None else float(lever) > 0.5


def _section(profile: Profile) -> Mapping[str, Any]:
    return profile.body.get("fuel") or {}


def reserve_minutes(profile: Profile) -> float:
    """Return the type's reserve, else 30 min (14 CFR 91.151, by day)."""
    return float(_section(profile).get("reserve_min", _USUAL_RESERVE_MIN))


def sides_of(profile: Profile) -> tuple[tuple[str, ...], ...]:
    """Return the tanks of each engine in the engines' order; empty where all engines draw on any tank."""
    if _section(profile).get("each_engine_its_own"):
        return tuple((tank,) for tank in tanks_of(profile))
    return tuple(tuple(tanks) for tanks in _section(profile).get("engine_tanks", ()))


def groups_of(profile: Profile, state: FuelState, crossfed: bool) -> list[tuple[tuple[str, ...], str | None]]:
    """Return the tanks among which a selector chooses, and the one that feeds: a side each, or all together where there are
    no sides or the crossfeed is open. A side of one tank has nothing to choose."""
    sides = sides_of(profile)
    if not sides or crossfed:
        return [(tanks_of(profile), state.feeds)]
    return [(tanks, tanks[0] if len(tanks) == 1 else state.last_of(tanks)) for tanks in sides]


def fed_by(profile: Profile, state: FuelState, flows_gph: Mapping[int, float], crossfed: bool) -> dict[str, float]:
    """Return what each tank gives [US gal/h]: the selected one all of it; or one of its own side each engine, where the type has
    sides and the crossfeed is shut. Open, everything comes from the tank that was tapped last; nothing is counted where none
    was. `flows_gph` by the engine's number."""
    groups = groups_of(profile, state, crossfed)
    given: dict[str, float] = {}
    for number, flow in flows_gph.items():
        tank = groups[number - 1][1] if len(groups) > 1 else groups[0][1]
        if tank is not None:
            given[tank] = given.get(tank, 0.0) + flow
    return given


@dataclass(frozen=True, slots=True)
class Burn:
    """What the flow of each tank burnt since it was last told [US gal], and when the last sample was."""

    gal: Mapping[str, float] = field(default_factory=dict)
    at_s: float | None = None


def follow_flow(burn: Burn, now_s: float, by_tank: Mapping[str, float]) -> tuple[Burn, dict[str, float]]:
    """Return (what to remember, gallons to tell now by tank): the flow is summed and told each quarter gallon. A gap of more
    than 5 s counts at the flow of its end."""
    if burn.at_s is None or now_s <= burn.at_s:
        return replace(burn, at_s=now_s), {}
    hours = (now_s - burn.at_s) / 3600
    gallons = dict(burn.gal)
    for tank, flow_gph in by_tank.items():
        gallons[tank] = gallons.get(tank, 0.0) + max(flow_gph, 0.0) * hours
    told = {tank: gal for tank, gal in gallons.items() if gal >= _BURN_TOLD_EVERY_GAL}
    return Burn({tank: gal for tank, gal in gallons.items() if tank not in told}, now_s), told


def next_tank(profile: Profile, state: FuelState, tanks: Sequence[str], feeds: str | None) -> str | None:
    """Return the tank to change to among all or those of one side: the fullest of the others, or the next in the type's order
    where amounts are not known or the type empties its tanks in order (`change_by`); an empty one never."""
    if feeds in tanks:
        turned = tanks.index(feeds) + 1
        others = [*tanks[turned:], *tanks[: turned - 1]]
    else:
        others = list(tanks)
    left = {tank: state.remaining(tank) for tank in others}
    usable = [tank for tank, gallons in left.items() if gallons is None or gallons > _EMPTY_GAL]
    if _section(profile).get("change_by") == "order" or None in left.values():
        return next(iter(usable), None)
    return max(usable, key=lambda tank: left[tank] or 0.0, default=None)


def due_change(
    profile: Profile, state: FuelState, now_s: float, flow_gph: float | None, crossfed: bool
) -> tuple[float | None, str | None]:
    """Return (seconds to the change that is due first, the tank then): after the type's time, or, where tanks are emptied in
    order, with ten minutes left in the one that feeds. `flow_gph` is that of all engines."""
    groups = groups_of(profile, state, crossfed)
    every = float(_section(profile).get("change_every_s", CHANGE_EVERY_S))
    due: list[tuple[float, str | None]] = []
    for tanks, feeds in groups:
        if feeds is None or len(tanks) < 2:
            continue
        seconds, left = state.tapped[feeds] + every - now_s, state.remaining(feeds)
        if _section(profile).get("change_by") == "order" and left is not None and flow_gph:
            seconds = left / (flow_gph / len(groups)) * 3600 - _LEFT_AT_CHANGE_S
        due.append((seconds, next_tank(profile, state, tanks, feeds)))
    return min(due, key=lambda row: row[0], default=(None, next_tank(profile, state, *groups[0])))
