"""Faults to practise with: what may be wrong with an aircraft's simulated engine, one chosen or a surprise."""

from dataclasses import dataclass
from random import Random

from ..core.aircraft import Profile
from ..core.base.errors import ScriptError
from ..core.bench.faults import BY_NAME, fault_names
from ..core.bench.faults import faults_of as can_have

SURPRISE = "surprise"
_SIZE = 0.8  # our own choice: plain to see, as a fault of the first minutes of a flight should be
_QUIET = 0.25  # in one of four surprises nothing is wrong (our own choice: else a pilot looks until something is)


@dataclass(frozen=True, slots=True, kw_only=True)
class PractisedFault:
    """A fault that may be practised: its name for the simulated engine, what it does in words, and which part of it has it."""

    name: str
    says: str
    part: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WaitingFault:
    """A fault of a size (0 to 1) that comes from a time of flight [s] on, or from a pressure altitude [ft]."""

    name: str
    size: float
    from_s: float | None = None
    from_ft: float | None = None

    def is_due(self, at_s: float, palt_ft: float) -> bool:
        """Say whether it comes now."""
        by_time = self.from_s is not None and at_s >= self.from_s
        return by_time or self.from_ft is not None and palt_ft >= self.from_ft


@dataclass(frozen=True, slots=True, kw_only=True)
class GivenFault:
    """A fault that a flight is given; the name is empty where a surprise is none."""

    name: str
    says: str
    size: float


def faults_of(profile: Profile) -> tuple[PractisedFault, ...]:
    """Return the faults that this aircraft's simulated engine can have, one of each kind; none without one. Those of one cylinder
    are drawn for a cylinder when they are given."""
    if profile.bench is None:
        return ()
    return tuple(PractisedFault(name=row.name, says=row.says, part=row.part) for row in can_have(profile.bench))


def draw_fault(profile: Profile, wanted: str, rng: Random) -> GivenFault:
    """Return the fault that is wanted by name, or one by surprise (which may be none), at a cylinder and an engine by chance.

    Raises:
        ScriptError: this aircraft's simulated engine has no such fault.
    """
    known = {one.name: one for one in faults_of(profile)}
    if wanted == SURPRISE:
        if rng.random() < _QUIET or not known:
            return GivenFault(name="", says="Nothing was wrong.", size=0.0)
        wanted = rng.choice(sorted(known))
    if wanted not in known:
        raise ScriptError(f"{profile.registration}'s simulated engine has no fault {wanted[:40]!r}.")
    cylinders = int(profile.engine["cylinders"])
    numbered = [name for name in fault_names(cylinders) if name.rpartition("_")[0] == wanted]
    name, says = (rng.choice(numbered) if numbered else wanted), known[wanted].says
    if numbered:
        says = says.replace("The numbered cylinder", f"Cylinder {name.rsplit('_', 1)[1]}")
        says = says.replace("the numbered cylinder", f"cylinder {name.rsplit('_', 1)[1]}")
    own = len(profile.engines) > 1 and not BY_NAME[wanted].is_shared
    second = own and rng.random() < 0.5
    whose = f"{dict(profile.engines)[2 if second else 1]}: " if own else ""
    return GivenFault(name=f"e2_{name}" if second else name, says=f"{whose}{says}", size=_SIZE)
