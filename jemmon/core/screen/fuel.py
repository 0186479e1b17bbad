"""The tanks as the screen shows them: what is left, which feeds, when to change, and the ten-second watch after."""

from dataclasses import dataclass

from ..aircraft import Profile
from ..base.figures import difference
from ..flight.state import FlightState
from ..fuel.tanks import FuelState, due_change, groups_of, is_crossfed, reserve_minutes, sides_of, tanks_of
from ..trace.sample import Sample
from ..trace.signals import prefix_of

_WATCH_S, _FELT_GAL, _FLOWS_FROM_GPH = 10.0, 5.0, 0.5  # common practice


@dataclass(frozen=True, slots=True, kw_only=True)
class Tank:
    """One tank [US gal]; `remaining_gal` None before somebody said what was in it."""

    tank: str
    feeds: bool
    remaining_gal: float | None
    used_gal: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TankWatch:
    """The ten seconds after a change: pressure is looked at until they are over."""

    left_s: int
    low: bool
    say: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FuelNow:
    """The tanks; `asks` those whose contents nobody said, `due_s` the seconds to the next change."""

    tanks: tuple[Tank, ...]
    asks: tuple[str, ...]
    next: str | None
    due_s: int | None
    balance: str | None
    watch: TankWatch | None
    minutes_left: int | None
    below_reserve: bool
    reserve_min: int


def describe_fuel(profile: Profile, state: FlightState, now: Sample | None, now_s: float) -> FuelNow | None:
    """Return the tanks at flight time `now_s` [s], or None where the profile names none."""
    tanks, fuel = tanks_of(profile), state.fuel
    if not tanks:
        return None
    crossfed = is_crossfed(now.levers if now else {}, state.away)
    flow = _flow_gph(profile, now)
    feeding = {feeds for _, feeds in groups_of(profile, fuel, crossfed)}
    rows = tuple(
        Tank(
            tank=tank,
            feeds=tank in feeding,
            remaining_gal=None if (left := fuel.remaining(tank)) is None else round(left, 1),
            used_gal=round(fuel.used.get(tank, 0.0), 1),
        )
        for tank in tanks
    )
    due_s, then = due_change(profile, fuel, now_s, flow, crossfed)
    minutes, reserve = _minutes_left(fuel, tanks, flow), reserve_minutes(profile)
    return FuelNow(
        tanks=rows,
        asks=tuple(tank for tank in tanks if tank not in fuel.on_board),
        next=then,
        due_s=None if due_s is None else round(due_s),
        balance=_balance(profile, fuel, crossfed),
        watch=_watch(profile, fuel, now_s, now) if state.engine_runs else None,
        minutes_left=None if minutes is None else round(minutes),
        below_reserve=minutes is not None and minutes < reserve,
        reserve_min=round(reserve),
    )


def _flow_gph(profile: Profile, now: Sample | None) -> float | None:
    """Return the fuel flow of all engines [US gal/h], or None where no needle shows any."""
    if now is None:
        return None
    known = [flow for n, _ in profile.engines if (flow := now.readings.get(f"{prefix_of(n)}ff_gph")) is not None]
    return sum(known) if known else None


def _minutes_left(fuel: FuelState, tanks: tuple[str, ...], flow_gph: float | None) -> float | None:
    left = [fuel.remaining(tank) for tank in tanks]
    known = [gallons for gallons in left if gallons is not None]
    if len(known) < len(left) or not flow_gph or flow_gph < _FLOWS_FROM_GPH:
        return None
    return sum(known) / flow_gph * 60


def _balance(profile: Profile, state: FuelState, crossfed: bool) -> str | None:
    """Say which side is heavier, where each engine has tanks of its own and the sides are apart by more than is felt; and ask
    which tank feeds both where a crossfeed is open and nobody said: nothing is counted until then."""
    sides = sides_of(profile)
    if crossfed and sides and state.feeds is None:
        return "Crossfeed is open: tap the tank that feeds both."
    names = [
        tanks[0] if len(tanks) == 1 else name for tanks, (_, name) in zip(sides, sorted(profile.engines), strict=False)
    ]
    known = [[state.remaining(tank) for tank in tanks] for tanks in sides]
    if not sides or any(left is None for side in known for left in side):
        return None
    sums = [sum(left for left in side if left is not None) for side in known]
    apart = max(sums) - min(sums)
    if apart < _FELT_GAL:
        return None
    heavy = names[sums.index(max(sums))]
    return f"{heavy} heavier by {difference(apart, 'gal')}: balance by crossfeed, in level flight, by the book."


def _watch(profile: Profile, state: FuelState, now_s: float, now: Sample | None) -> TankWatch | None:
    """Return the ten seconds after a change: pressure is looked at until they are over; falling it is said at once."""
    since_s = state.tapped.get(state.feeds or "", 0.0)
    if since_s == 0.0 or not 0 <= now_s - since_s <= _WATCH_S:
        return None
    least, fp_psi = profile.find_limit("fuel_pressure_min_psi"), None if now is None else now.readings.get("fp_psi")
    low = fp_psi is not None and least is not None and fp_psi < least
    say = "Fuel pressure falls: back to the tank before, pump on" if low else "Watch pressure and flow"
    return TankWatch(left_s=round(_WATCH_S - (now_s - since_s)), low=low, say=say)
