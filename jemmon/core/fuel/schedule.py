"""The changes of tank of a flight that is planned: the rules of `fuel`, run ahead at the flow of the cruise. Pure."""

from dataclasses import dataclass, replace

from ..aircraft import Profile
from .tanks import FuelState, due_change, fed_by, fuel_step, reserve_minutes, sides_of, tanks_of

# our own bound against a schedule without end
_MOST_CHANGES = 24


@dataclass(frozen=True, slots=True, kw_only=True)
class TankChange:
    """From when on [min] a tank feeds, and what is in it then [US gal]."""

    minutes: int
    tank: str
    left_gal: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TankSchedule:
    """Which tank from when, and after how many minutes the reserve (`reserve_min` [min]) is reached at a flow [US gal/h]."""

    changes: tuple[TankChange, ...]
    reserve_minutes: int
    reserve_min: int
    ff_gph: float


def tank_schedule(profile: Profile, fuel_gal: float, ff_gph: float) -> TankSchedule | None:
    """Return which tank from when, what is in it then, and when the reserve is reached; None where the profile names no tanks,
    or nothing flows.

    The fuel is taken as spread evenly over the tanks, the flow [US gal/h] of all engines as that of the cruise throughout; each
    side begins with its first tank.
    """
    tanks, engines = tanks_of(profile), len(profile.engines)
    if not tanks or ff_gph <= 0 or fuel_gal <= 0:
        return None
    flows = {number: ff_gph / engines for number, _ in profile.engines}
    reserve_min = reserve_minutes(profile)
    ends_s = (fuel_gal / ff_gph * 60 - reserve_min) * 60
    state = FuelState(on_board=dict.fromkeys(tanks, fuel_gal / len(tanks)))
    changes: list[TankChange] = []

    def turn(state: FuelState, now_s: float, tank: str) -> FuelState:
        left = state.remaining(tank)
        changes.append(TankChange(minutes=round(now_s / 60), tank=tank, left_gal=round(left or 0.0, 1)))
        return fuel_step(state, "tank_selected", now_s, {"tank": tank})

    now_s = 0.0
    for tank in [side[0] for side in sides_of(profile)] or [tanks[0]]:
        state = turn(state, now_s, tank)
    while len(changes) < _MOST_CHANGES:
        due_s, then = due_change(profile, state, now_s, ff_gph, crossfed=False)
        if due_s is None or then is None or now_s + due_s >= ends_s:
            break
        wait_s = max(due_s, 0.0)
        burnt = {tank: flow * wait_s / 3600 for tank, flow in fed_by(profile, state, flows, crossfed=False).items()}
        state = replace(state, used={**state.used, **{t: state.used.get(t, 0.0) + gal for t, gal in burnt.items()}})
        now_s += wait_s
        state = turn(state, now_s, then)
    return TankSchedule(
        changes=tuple(changes),
        reserve_minutes=max(round(ends_s / 60), 0),
        reserve_min=round(reserve_min),
        ff_gph=round(ff_gph, 1),
    )
