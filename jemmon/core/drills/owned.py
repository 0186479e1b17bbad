"""A drill flown on another aircraft than its own: one that has the same controls, needles and cylinders."""

from collections.abc import Mapping
from dataclasses import replace

from ..aircraft import Profile
from ..base.errors import DrillError
from .drill import Drill

_SAME = ("engines", "cylinders")


def is_like(kind: Profile, other: Profile) -> bool:
    """Say whether what is trained on one aircraft can be trained on another: as many engines and cylinders, the same levers, and
    each needle that the first one has (our own choice: a drill names levers, needles and cylinders, and asks for nothing else)."""
    mine, others = kind.bench, other.bench
    if mine is None or others is None:
        return False
    return (
        all(mine.get(name) == others.get(name) for name in _SAME)
        and set(mine["levers"]) == set(others["levers"])
        and set(mine["instruments"]) <= set(others["instruments"])
    )


def kind_of(profile: Profile, shipped: Mapping[str, Profile]) -> str | None:
    """Return the id of the shipped aircraft whose drills can be flown on this one, or None; a shipped one has its own."""
    return next((name for name, kind in sorted(shipped.items()) if name != profile.id and is_like(kind, profile)), None)


def flown_on(drill: Drill, kind: Profile, profile: Profile) -> Drill:
    """Return a drill as it is flown on another aircraft.

    Raises:
        DrillError: this aircraft has other controls or needles than the drill's own, or not the phase that it is flown in.
    """
    if not is_like(kind, profile):
        raise DrillError(f"{profile.registration} has other controls or needles than {kind.registration}.", "aircraft")
    if drill.phase not in {phase.id for phase in profile.phases}:
        raise DrillError(f"{profile.registration} has no phase {drill.phase!r}, in which this drill is flown.", "phase")
    return replace(drill, aircraft=profile.id)
