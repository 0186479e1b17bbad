"""Ranges of RPM that a type wants passed and not held. Pure."""

from typing import Any

import numpy as np

from .aircraft import Profile
from .flight import FlightState
from .live import Now
from .trace import Trace

_HELD_S = 8.0


def speed_lines(profile: Profile, state: FlightState, recent: Trace, now: Now) -> list[dict[str, Any]]:
    """Return one line `{id, say, kind}` for each engine that was held in a range of RPM to avoid over the last seconds."""
    ranges = profile.power_section.get("avoid_rpm", [])
    late = recent.time_s > recent.time_s[-1] - _HELD_S
    if not state.engine_runs or not ranges or recent.time_s[-1] - recent.time_s[0] < _HELD_S:
        return []
    said = []
    for number, name in profile.engines:
        rpm = recent.signal("rpm", number)
        held = np.full(1, np.nan) if rpm is None else rpm[late]
        for low, high in ranges:
            if np.isfinite(held).all() and low <= held.min() and held.max() <= high:
                whose = f"{name}: " if len(profile.engines) > 1 else ""
                say = f"{whose}{held[-1]:,.0f} RPM lies in the range to avoid, {low:,.0f} to {high:,.0f}: pass it, do not stay."
                said.append({"id": f"avoid_{number}", "kind": "look", "say": say})
    return said
