"""Power as it is flown: ratings on their clock, manifold pressure ahead of RPM, too lean for the power. What is to be said."""

from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..base.figures import figure
from ..flight.events import Event
from ..flight.state import FlightState
from ..power import PowerReading, pressure_ahead, read_power
from ..power.levers import rating_of
from ..power.map_limit import map_limit_inhg
from ..power.schools import lean_power_most_pct
from ..trace import Trace
from ..trace.sample import Sample, outside_c
from ..trace.signals import SIGNALS, prefix_of
from .power_loss import recent_loss

_SAME_FLOW = 0.04  # of what the mixture was left at (common practice)
_POWER_OVER_PCT, _SAFELY_RICH_F = 3.0, 90.0  # common practice
_DIES_BELOW = 2 / 3  # of rated speed: what a rotor never carries anything at (common practice)
# common practice: a metal propeller takes a second or two to follow a brisk hand; a governed speed moves less by itself
_LOOKS_BACK_S, _ON_ITS_WAY_RPM = 1.0, 30.0


@dataclass(frozen=True, slots=True, kw_only=True)
class RatingClock:
    """The clock of a time-limited rating: its seconds in all, and those left (below 0 when it is over)."""

    name: str
    seconds: float
    left_s: int


def figures(profile: Profile, now: Sample | None, number: int = 1) -> tuple[float, float] | None:
    """Return (RPM, manifold pressure [inHg]) of an engine, or None where one of them is not known."""
    if now is None:
        return None
    prefix = prefix_of(number)
    rpm, pressure = now.readings.get(f"{prefix}rpm"), now.readings.get(f"{prefix}map_inhg")
    percent, full = now.readings.get(f"{prefix}rpm_pct"), profile.engine.get("rpm_at_100_pct")
    if rpm is None and percent is not None and full is not None:
        rpm = percent * float(full) / 100
    return None if rpm is None or pressure is None else (rpm, pressure)


def flow_gph(now: Sample | None, number: int) -> float | None:
    """Return the fuel flow [US gal/h] of an engine, or None."""
    return None if now is None else now.readings.get(f"{prefix_of(number)}ff_gph")


def follow_ratings(flight_id: str, profile: Profile, state: FlightState, now: Sample) -> list[Event]:
    """Return the event of this sample where an engine comes into a time-limited rating, or the last one out of it; where two
    engines are in different ones, the shorter counts."""
    known = [here for number, _ in profile.engines if (here := figures(profile, now, number)) is not None]
    if not known or not state.engine_runs:
        return []
    ratings = [rating for here in known if (rating := rating_of(profile, *here)) is not None]
    name = min(ratings, key=lambda rating: rating["seconds"])["name"] if ratings else None
    if name == (state.rating[0] if state.rating else None):
        return []
    body = {"name": name}
    return [Event(id=f"{flight_id}:rating:{name}:{now.at_s:.2f}", kind="rating", at_s=now.at_s, body=body)]


def rating_clock(profile: Profile, state: FlightState, now_s: float) -> RatingClock | None:
    """Return the clock of the time-limited rating that the engine is in at flight time `now_s` [s], or None."""
    if state.rating is None:
        return None
    name, since_s = state.rating
    rating = next((r for r in profile.power_section.get("ratings", []) if r["name"] == name), None)
    if rating is None:
        return None
    return RatingClock(name=name, seconds=rating["seconds"], left_s=round(rating["seconds"] - (now_s - since_s)))


def limit_of_the_day(profile: Profile, now: Sample) -> float | None:
    """Return the manifold-pressure limit [inHg] by pressure altitude and temperature, where the type has a chart."""
    oat_c = outside_c(now.readings)
    return None if oat_c is None else map_limit_inhg(profile, now.readings.get("palt_ft", 0.0), oat_c)


def mixture_of(state: FlightState, now: Sample | None, number: int) -> tuple[str | None, float | None]:
    """Return (side, °F from peak) where the mixture of an engine is by its last leaning: while it is said to be lean for cruise,
    or fuel flow is still what it was left at."""
    lean = state.latest_finding("lean", number)
    if lean is None:
        return None, None
    left_at, flow = lean["measured"].get("ff_gph"), flow_gph(now, number)
    as_left = left_at is not None and flow is not None and abs(flow - left_at) < _SAME_FLOW * left_at
    if not state.lean_for_cruise and not as_left:
        return None, None
    return lean["measured"].get("side"), lean["measured"].get("offset_f")


def power_of(profile: Profile, state: FlightState, now: Sample, number: int) -> PowerReading:
    """Return the power of one engine: unknown where one of its needles is."""
    here = figures(profile, now, number)
    if here is None:
        return PowerReading(by_table_pct=None, by_flow_pct=None, best_pct=None, disagree=False, say="No reading.")
    palt_ft, oat_c = now.readings.get("palt_ft", 0.0), outside_c(now.readings)
    return read_power(profile, *here, palt_ft, oat_c, flow_gph(now, number), *mixture_of(state, now, number))


def speeding_up(profile: Profile, recent: Trace) -> frozenset[int]:
    """Return the numbers of the engines whose speed was on its way up in the last second: the hand was faster than the propeller,
    and what pressure it will have is not seen yet."""
    before = (
        np.flatnonzero(recent.time_s <= recent.time_s[-1] - _LOOKS_BACK_S) if len(recent) else np.zeros(0, dtype=int)
    )
    if not before.size:
        return frozenset()
    rising = set()
    for number, _ in profile.engines:
        rpm = recent.columns.get(f"{prefix_of(number)}rpm")
        if rpm is not None and rpm[-1] - rpm[before[-1]] > _ON_ITS_WAY_RPM * profile.speed_scale:
            rising.add(number)
    return frozenset(rising)


def pressures_ahead(
    profile: Profile, state: FlightState, now: Sample | None, now_s: float, rising: frozenset[int] = frozenset()
) -> tuple[str, ...]:
    """Return where manifold pressure is ahead of RPM, of engines that run; `rising` are those whose speed is on its way up."""
    said = []
    for number, name in profile.engines:
        here = figures(profile, now, number)
        is_lost = recent_loss(state, number, now_s) is not None  # what windmills or dies is no matter of levers
        if here is None or number in rising or is_lost or not state.engine(number).runs:
            continue
        if ahead := pressure_ahead(profile, *here):
            said.append(profile.whose(name) + ahead)
    return tuple(said)


def power_warnings(profile: Profile, state: FlightState, now: Sample | None, now_s: float) -> tuple[str, ...]:
    """Return what must be said at once about power on an engine that runs: a limit of the day, too lean for the power, a rating
    whose time is over."""
    said: list[str] = []
    for number, name in profile.engines:
        here = figures(profile, now, number)
        if here is None or now is None or not state.engine(number).runs:
            continue
        said += _over_limit(profile, here, now)
        said += [profile.whose(name) + words for words in _too_lean(profile, state, now, number, here)]
    said += fuel_pressure_warnings(profile, state, now)
    clock = rating_clock(profile, state, now_s)
    if clock and clock.left_s <= 0:
        said.append(f"{clock.name} power for longer than its {clock.seconds:.0f} s: reduce to continuous power.")
    return tuple(said)


def fuel_pressure_warnings(profile: Profile, state: FlightState, now: Sample | None) -> list[str]:
    """Return what is said at once, always: fuel pressure [psi] below the type's least on an engine that runs."""
    least = profile.find_limit("fuel_pressure_min_psi")
    if least is None or now is None:
        return []
    said = []
    for number, name in profile.engines:
        pressure, rpm = (now.readings.get(f"{prefix_of(number)}{column}") for column in ("fp_psi", "rpm"))
        turns = rpm is None or rpm > (profile.find_limit("rpm_firing_min") or 0.0)  # one that is shut down needs none
        if pressure is not None and pressure < least and turns and state.engine(number).runs:
            words = f"fuel pressure {figure(pressure, 'psi')}, at least {figure(least, 'psi')}: pump on, another tank."
            said.append(f"{profile.whose(name)}{words if profile.whose(name) else words[0].upper() + words[1:]}")
    return said


def _over_limit(profile: Profile, here: tuple[float, float], now: Sample) -> list[str]:
    most = limit_of_the_day(profile, now)
    dies = here[0] < _DIES_BELOW * float(profile.engine["rated_rpm"])  # and draws the air outside
    if most is None or dies or here[1] <= most + SIGNALS["map"].slack:
        return []
    return [
        f"Manifold pressure {figure(here[1], 'inhg')} is above the limit of the day, {figure(most, 'inhg')}: "
        "lower the collective."
    ]


def _too_lean(profile: Profile, state: FlightState, now: Sample, number: int, here: tuple[float, float]) -> list[str]:
    """Say so where more power was set with the mixture still lean for cruise: rich comes before power."""
    side, offset = mixture_of(state, now, number)
    if side is None or side == "rich" and (offset or 0.0) > _SAFELY_RICH_F:
        return []
    reading = read_power(profile, *here, now.readings.get("palt_ft", 0.0), outside_c(now.readings))
    if reading.best_pct is None or reading.best_pct <= lean_power_most_pct(profile) + _POWER_OVER_PCT:
        return []
    return [f"{reading.best_pct:.0f} % with the mixture lean for cruise: rich before more power."]
