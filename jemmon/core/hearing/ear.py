"""Which sound a type makes."""

from ..aircraft import Profile
from .comb import Engine
from .wav import SoundError


def is_heard(profile: Profile) -> bool:
    """Say whether an engine of this type can be heard at all: not a rotor's, whose blades and gears are louder."""
    return bool(profile.engine["propeller"] != "rotor")


def engine_of_type(profile: Profile) -> Engine:
    """Return what is heard of a type's engine: cylinders, blades, gear. Raises SoundError for a rotor: its blades and gears are
    louder than its engine."""
    if not is_heard(profile):
        raise SoundError("A rotor is not heard: its blades and gears are louder than its engine.")
    start = profile.start
    return Engine(cylinders=int(profile.engine["cylinders"]), blades=start.blades, gear=start.gear_ratio)
