"""The descent and the way to the runway as they are flown: richer by steps, carburettor heat before the throttle, the propeller
forward gently. Pure."""

import numpy as np

from ..aircraft import Profile
from ..flight.state import FlightState
from ..trace import Trace
from ..trace.sample import Sample
from .lines import AirLine, look

# common practice, but where it says otherwise
_ABOVE_BY_RPM = 150.0
_RICHER_EACH_FT = 1000.0
_JUMPS_RPM_S, _JUMPED_S = 80.0, 6.0
_FLOWN_KT, _STILL_RICH = 45.0, 0.95


def descent_lines(profile: Profile, state: FlightState, recent: Trace, now: Sample) -> list[AirLine]:
    """Return what is to be said while coming down, a line each."""
    kind = profile.kind_of(state.phase)
    if not state.engine_runs or not (kind.flies and kind.comes_down):
        return []
    if now.readings.get("ias_kt", 0.0) < _FLOWN_KT:
        return []
    return [*_richer(state, now), *_carburettor_heat(profile, now), *_propeller(profile, recent)]


def _richer(state: FlightState, now: Sample) -> list[AirLine]:
    """Ask for a step richer for each thousand feet below where the mixture was set (common practice), while it is still lean."""
    lean = state.latest_finding("lean", 1)
    was_ft = None if lean is None else lean["measured"].get("palt_ft")
    here_ft, lever = now.readings.get("palt_ft"), now.levers.get("mixture")
    if was_ft is None or here_ft is None or not state.lean_for_cruise:
        return []
    lower_ft = was_ft - here_ft
    if lower_ft < _RICHER_EACH_FT or lever is not None and float(lever) > _STILL_RICH:
        return []
    below = int(lower_ft // 1000) * 1000
    say = f"A step richer: more than {below:,} ft below where the mixture was set."
    return [look("richer", say)]


def _carburettor_heat(profile: Profile, now: Sample) -> list[AirLine]:
    """Say that heat comes on before the throttle goes below the type's figure."""
    least, lever, rpm = profile.limits.get("carb_heat_below_rpm"), now.levers.get("carb_heat"), now.readings.get("rpm")
    if least is None or lever is None or rpm is None or float(lever) > 0.5 or rpm > least.value + _ABOVE_BY_RPM:
        return []
    say = f"Carburettor heat on before the throttle goes below {least.value:,.0f} RPM."
    return [look("carb_heat", say)]


def _propeller(profile: Profile, recent: Trace) -> list[AirLine]:
    """Say so for some seconds where RPM jumped: a propeller goes forward slowly, at low power (common practice)."""
    late = recent.time_s > recent.time_s[-1] - _JUMPED_S
    if profile.engine["propeller"] != "constant_speed" or late.sum() < 4:
        return []
    for number, name in profile.engines:
        rpm, pressure = recent.signal("rpm", number), recent.signal("map", number)
        if rpm is None or pressure is None or np.nanmax(_rises(recent, rpm)[late]) < _JUMPS_RPM_S:
            continue
        if np.nanmax(pressure[late]) > np.nanmin(pressure[late]) + 3.0:
            continue  # more throttle: power came up, and RPM with it
        say = f"{profile.whose(name)}RPM jumped: the propeller forward slowly, at low power."
        return [look("propeller", say)]
    return []


def _rises(recent: Trace, rpm: np.ndarray) -> np.ndarray:
    """Return how fast RPM rose over about a second before each row [RPM/s]."""
    back = max(1, round(recent.rate_hz))
    out = np.zeros(len(rpm))
    out[back:] = (rpm[back:] - rpm[:-back]) / np.maximum(recent.time_s[back:] - recent.time_s[:-back], 0.1)
    return out
