"""The order of levers. Up: mixture, RPM, manifold pressure. Down: manifold pressure, RPM. Too high a manifold pressure for
the RPM invites detonation: the type's own table decides, not equal figures (common practice).
"""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..base.figures import figure
from ..trace.signals import SIGNALS

_SLACK_INHG, _SLACK_RPM = SIGNALS["map"].slack, SIGNALS["rpm"].slack
_HELD_SHARE = 2 / 3  # of the table's slowest row: no governor holds an engine under power so slow (common practice)
_SAME_RPM = 25.0  # common practice: nobody moves a lever for less


def map_allowed_inhg(profile: Profile, rpm: float) -> float | None:
    """Return the highest manifold pressure [inHg] that the type allows at an RPM, or None where it says nothing."""
    rows = profile.power_section.get("map_most")
    if not rows:
        return None
    speeds, pressures = zip(*((row["rpm"], row["map_inhg"]) for row in rows), strict=True)
    return float(np.interp(rpm, speeds, pressures))


def pressure_ahead(profile: Profile, rpm: float | None, map_inhg: float | None) -> str | None:
    """Return the warning where manifold pressure is ahead of RPM by the type's table, or None. An engine far slower than the
    table's slowest row idles or dies, and no lever is wrong."""
    if rpm is None or map_inhg is None:
        return None
    most = map_allowed_inhg(profile, rpm)
    if (
        most is None
        or map_inhg <= most + _SLACK_INHG
        or rpm < _HELD_SHARE * profile.power_section["map_most"][0]["rpm"]
    ):
        return None
    return (
        f"Manifold pressure {figure(map_inhg, 'inhg')} is ahead of RPM {rpm:,.0f}: at most {figure(most, 'inhg')}. "
        "Throttle back, or RPM up first."
    )


def lever_steps(
    profile: Profile, rpm: float, map_inhg: float, to_rpm: float, to_map_inhg: float, mixture_is_lean: bool = False
) -> list[str]:
    """Return the steps of a change of power in the order that keeps manifold pressure behind RPM; empty where it is there."""
    governed = profile.engine["propeller"] == "constant_speed"
    up = to_map_inhg > map_inhg + _SLACK_INHG or to_rpm > rpm + _SAME_RPM
    steps = []
    if up and mixture_is_lean:
        steps.append("Mixture rich, or set for the new power")
    speed = f"RPM {to_rpm:,.0f}"
    pressure = f"Manifold pressure {figure(to_map_inhg, 'inhg')}"
    moves = []
    if governed and abs(to_rpm - rpm) > _SAME_RPM:
        moves.append(speed)
    if abs(to_map_inhg - map_inhg) > _SLACK_INHG:
        moves.append(pressure)
    steps += moves if up else moves[::-1]
    return steps


def rating_of(profile: Profile, rpm: float, map_inhg: float) -> Mapping[str, Any] | None:
    """Return the time-limited rating that an engine at these figures is in (`name`, `seconds`), or None at continuous
    power. The ratings of the profile say from which RPM or manifold pressure on they begin."""
    for rating in profile.power_section.get("ratings", []):
        if rpm > rating["above_rpm"] + _SLACK_RPM or map_inhg > rating["above_map_inhg"] + _SLACK_INHG:
            return dict(rating)
    return None
