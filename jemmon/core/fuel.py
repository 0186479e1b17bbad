"""Fuel by tank: what was on board, used and remaining, which tank feeds, when to change, and the ten-second watch after.

Used is counted from the flow where there are needles, else from the time and the type's cruise flow. Nothing is shown as
remaining before somebody said what was on board. US gallons. Pure: events and a moment in, plain data out.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from .aircraft import Profile
from .errors import EventError, checked_number

CHANGE_EVERY_S, WATCH_S = 1800.0, 10.0  # common practice
_MOST_GAL = 2000.0
_USUAL_RESERVE_MIN = 30.0
_BURN_TOLD_EVERY_GAL = 0.25


@dataclass(frozen=True, slots=True, kw_only=True)
class FuelState:
    """Tanks by name: gallons on board as said, used as counted; the one that feeds, and since when; the one at which the
    selector was last seen, where a lever tells."""

    on_board: Mapping[str, float] = field(default_factory=dict)
    used: Mapping[str, float] = field(default_factory=dict)
    feeds: str | None = None
    since_s: float = 0.0
    seen: str | None = None

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
        seen = str(body["tank"]) if kind == "tank_seen" else state.seen
        return replace(state, feeds=str(body["tank"]), since_s=at_s, seen=seen)
    if kind == "fuel_used" and state.feeds:
        total = state.used.get(state.feeds, 0.0) + float(body["gal"])
        return replace(state, used={**state.used, state.feeds: total})
    return state


def check_fuel_event(profile: Profile, kind: str, body: Mapping[str, Any]) -> None:
    """Raise EventError for a tank that the aircraft has not, or an amount that cannot be."""
    tanks = tanks_of(profile)
    if body.get("tank") not in tanks:
        raise EventError(
            f"There is no tank {body.get('tank')!r}; this aircraft has {', '.join(tanks) or 'none named'}."
        )
    if kind == "fuel_on_board":
        gallons = checked_number("`gal`", body.get("gal"), EventError)
        if not 0 <= gallons <= _MOST_GAL:
            raise EventError(f"{gallons:g} US gal in a tank cannot be.")


def tank_at(profile: Profile, lever: float | str | None) -> str | None:
    """Return the tank at which the selector stands, or None where no lever tells."""
    tanks = tanks_of(profile)
    if lever is None or isinstance(lever, str) or len(tanks) < 2:
        return None
    return tanks[round(min(max(lever, 0.0), 1.0) * (len(tanks) - 1))]


@dataclass(frozen=True, slots=True)
class Burn:
    """What the flow burnt since it was last told [US gal], and when the last sample was."""

    gal: float = 0.0
    at_s: float | None = None


def follow_flow(burn: Burn, state: FuelState, now_s: float, ff_gph: float | None) -> tuple[Burn, float | None]:
    """Return (what to remember, gallons to tell now or None): the flow is summed and told each quarter gallon. A gap of more
    than 5 s counts at the flow of its end."""
    if ff_gph is None or state.feeds is None or burn.at_s is None or now_s <= burn.at_s:
        return replace(burn, at_s=now_s), None
    gallons = burn.gal + max(ff_gph, 0.0) * (now_s - burn.at_s) / 3600
    if gallons >= _BURN_TOLD_EVERY_GAL:
        return Burn(0.0, now_s), gallons
    return Burn(gallons, now_s), None


def next_tank(profile: Profile, state: FuelState) -> str | None:
    """Return the tank to change to: the fullest of the others, or the next in the type's order where amounts are not known."""
    tanks = tanks_of(profile)
    others = [tank for tank in tanks if tank != state.feeds]
    if not others:
        return None
    known = [(state.remaining(tank), tank) for tank in others]
    if all(amount is not None for amount, _ in known):
        return max(known, key=lambda row: row[0] or 0.0)[1]
    if state.feeds in tanks:
        return tanks[(tanks.index(state.feeds) + 1) % len(tanks)]
    return others[0]


def describe_fuel(
    profile: Profile, state: FuelState, now_s: float, ff_gph: float | None, fp_psi: float | None
) -> dict[str, Any] | None:
    """Return the tanks as the screen shows them, or None where the profile names none."""
    tanks = tanks_of(profile)
    if not tanks:
        return None
    rows = [
        {
            "tank": tank,
            "feeds": tank == state.feeds,
            "remaining_gal": None if (left := state.remaining(tank)) is None else round(left, 1),
            "used_gal": round(state.used.get(tank, 0.0), 1),
        }
        for tank in tanks
    ]
    every = float((profile.body.get("fuel") or {}).get("change_every_s", CHANGE_EVERY_S))
    due_s = None if state.feeds is None or len(tanks) < 2 else round(state.since_s + every - now_s)
    known = [state.remaining(tank) for tank in tanks]
    total = sum(left for left in known if left is not None) if all(left is not None for left in known) else None
    minutes = None if total is None or not ff_gph or ff_gph < 0.5 else total / ff_gph * 60
    reserve = float((profile.body.get("fuel") or {}).get("reserve_min", _USUAL_RESERVE_MIN))
    return {
        "tanks": rows,
        "asks": [tank for tank in tanks if tank not in state.on_board],
        "next": next_tank(profile, state),
        "due_s": due_s,
        "watch": _watch(profile, state, now_s, fp_psi),
        "minutes_left": None if minutes is None else round(minutes),
        "below_reserve": minutes is not None and minutes < reserve,
        "reserve_min": round(reserve),
    }


def _watch(profile: Profile, state: FuelState, now_s: float, fp_psi: float | None) -> dict[str, Any] | None:
    """Return the ten seconds after a change: pressure is looked at until they are over; falling it is said at once."""
    if state.feeds is None or not 0 <= now_s - state.since_s <= WATCH_S or state.since_s == 0.0:
        return None
    least = profile.limits.get("fuel_pressure_min_psi")
    low = fp_psi is not None and least is not None and fp_psi < least.value
    say = "Fuel pressure falls: back to the tank before, pump on" if low else "Watch pressure and flow"
    return {"left_s": round(WATCH_S - (now_s - state.since_s)), "low": low, "say": say}
