"""The air of a day as it matters to a type."""

from dataclasses import replace

from ..aircraft import Profile
from ..base.weather import Air


def air_of(profile: Profile, air: Air) -> Air:
    """Return the air as it is shown of an aircraft: an engine without a carburettor has no ice in it."""
    return air if profile.engine["fuel_system"] == "carburettor" else replace(air, icing=None)
