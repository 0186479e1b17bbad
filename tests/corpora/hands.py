"""How each type is handled before and while it is cranked: what a pilot reads in its list."""

from jemmon.core.aircraft import Profile

_CRANKING_THROTTLE = {
    "b-tourer": 0.1,
    "i-turbo": 0.1,
    "j-glass": 0.1,
    "f-radial": 0.06,
    "n-amphib": 0.06,
    "g-vee": 0.05,
}
_CLOSED = ("rotor", "automatic")


def cranking_throttle(profile: Profile) -> float:
    """Return the throttle at which this type is cranked."""
    if profile.engine["propeller"] in _CLOSED and profile.id not in _CRANKING_THROTTLE:
        return 0.0
    return _CRANKING_THROTTLE.get(profile.id, 0.08)


def is_primed_by_pump(profile: Profile) -> bool:
    """Say whether its booster pump primes it."""
    return any(condition.of == "pump" for condition in profile.start.primes)


def cranks_without_mixture(profile: Profile) -> bool:
    """Say whether the mixture stays in cut-off until it catches."""
    return profile.start.mixture.startswith("Cut-off")


def feeds_before_it_catches(profile: Profile) -> bool:
    """Say whether the mixture goes in after a few blades: a carburettor takes its time, injectors spray at once."""
    return cranks_without_mixture(profile) and profile.engine["fuel_system"] == "carburettor"


def is_turned_by_hand(profile: Profile) -> bool:
    """Say whether its propeller is turned through before a start: oil runs into its lower cylinders, or its list says so."""
    return bool((profile.bench or {}).get("lock_oil_per_h")) or any(
        item.count_of == "blades" for item in profile.items.values()
    )


def is_wobbled(profile: Profile) -> bool:
    """Say whether a wobble pump of its own gives the first fuel pressure."""
    return "wobble" in profile.items


def starting_mixture(profile: Profile) -> float:
    """Return the mixture lever while it is cranked: cut-off where it stays so until it catches, leaned at a high field."""
    if cranks_without_mixture(profile):
        return 0.0
    return running_mixture(profile)


def running_mixture(profile: Profile) -> float:
    """Return the mixture lever with which it runs on at its own field."""
    return 0.75 if profile.schedule["palt_ground_ft"] > 4000 else 1.0
