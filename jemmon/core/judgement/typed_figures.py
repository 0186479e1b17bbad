"""Figures that the pilot types: one that no engine of the type shows is asked back."""

from collections.abc import Mapping
from typing import Any

from ..aircraft import Profile
from ..base.errors import EventError, checked_number

LEAST_RPM, MOST_RPM = 500.0, 3500.0  # of a direct-drive engine in a run-up (common practice)
MOST_PCT, _OVERSPEEDS = 130.0, 1.1  # percent that a tachometer shows; beyond the type's highest (common practice)


def rpm_of(profile: Profile, body: Mapping[str, Any], name: str, lowest: float = LEAST_RPM) -> float:
    """Return a typed speed [RPM]. Raises EventError where it is missing, not a number, or out of range."""
    value = checked_number(f"`{name}`", body.get(name), EventError)
    full = profile.engine.get("rpm_at_100_pct")
    if full is not None and value <= MOST_PCT:
        value = value / 100 * float(full)  # this type's tachometer shows percent
    highest = profile.find_limit("rpm_max")
    most = MOST_RPM * max(profile.speed_scale, 1.0) if highest is None else _OVERSPEEDS * highest
    if not lowest <= value <= most:
        raise EventError(
            f"`{name}` is {value:g}; an engine in a run-up turns {lowest:,.0f} to {most:,.0f} RPM. Type it again.", name
        )
    return value
