"""Ranges of RPM to pass and not to hold. Pure."""

import numpy as np

from ..aircraft import Profile
from ..flight.state import FlightState
from ..trace import Trace
from ..trace.sample import Sample
from .lines import AirLine, look

# common practice, but where it says otherwise
_HELD_S = 8.0


def speed_lines(profile: Profile, state: FlightState, recent: Trace, now: Sample) -> list[AirLine]:
    """Return a line for each range of RPM to avoid in which an engine was held over the last seconds."""
    late = recent.time_s > recent.time_s[-1] - _HELD_S
    if not state.engine_runs or recent.time_s[-1] - recent.time_s[0] < _HELD_S:
        return []
    said = []
    for low, high in profile.power_section.get("avoid_rpm", []):
        held = [name for number, name in profile.engines if _holds(recent.signal("rpm", number), late, low, high)]
        if held:
            say = f"RPM is in the range to avoid, {low:,.0f} to {high:,.0f}: pass it, do not stay."
            say = profile.whose(" and ".join(held)) + say
            said.append(look(f"avoid_{low:.0f}", say))
    return said


def _holds(rpm: np.ndarray | None, late: np.ndarray, low: float, high: float) -> bool:
    return rpm is not None and bool(np.isfinite(rpm[late]).all() and low <= rpm[late].min() and rpm[late].max() <= high)
