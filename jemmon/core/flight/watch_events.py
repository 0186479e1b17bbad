"""What Jemmon itself notes of a flight: its begin, findings, put-backs that levers show, burn-offs, ratings."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Self

from ..aircraft import Profile
from ..base.figures import difference
from .events import Body, Event, event
from .state import FlightState, set_away, set_back


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class FlightStarted(Body):
    """The flight begins."""

    KIND: ClassVar[str] = "flight_started"
    profile: str = ""


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class FileNote(Body):
    """What of a file that was read in was not taken as it stood."""

    KIND: ClassVar[str] = "file_note"
    text: str = ""

    def words(self, profile: Profile) -> str:
        """The note."""
        return self.text


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class FindingTold(Body):
    """A check was judged; the words, figures and verdict are kept as they were shown."""

    KIND: ClassVar[str] = "finding"
    finding: Mapping[str, Any]

    @classmethod
    def from_kept(cls, body: Mapping[str, Any], version: int) -> Self:
        """Take the finding as a whole."""
        if not {"kind", "verdict", "measured", "because"} <= body.keys():
            raise KeyError("kind")
        return cls(finding=dict(body))

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Keep it."""
        return replace(state, findings=(*state.findings, {**self.finding, "event": event.id}))

    def words(self, profile: Profile) -> str:
        """Why it was so judged."""
        return str(self.finding["because"])


@dataclass(frozen=True, slots=True, kw_only=True)
class _OfPutBack(Body):
    """Something that levers show of a put-back pair."""

    put_back: str

    def _pair(self, profile: Profile, part: str) -> str:
        return next((str(getattr(pair, part)) for pair in profile.put_backs if pair.id == self.put_back), self.put_back)


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class PutBackAway(_OfPutBack):
    """A temporary setting begins."""

    KIND: ClassVar[str] = "put_back_away"

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Start its clock."""
        return set_away(state, self.put_back, event.at_s)

    def words(self, profile: Profile) -> str:
        """What."""
        return self._pair(profile, "title")


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class PutBackBack(_OfPutBack):
    """Something is put back."""

    KIND: ClassVar[str] = "put_back_back"

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Stop its clock."""
        return set_back(state, self.put_back)

    def words(self, profile: Profile) -> str:
        """What."""
        return self._pair(profile, "back")


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class BurntOff(Body):
    """A burn-off has lasted long enough."""

    KIND: ClassVar[str] = "burnt_off"
    seconds: float = 0.0
    engine: int = 1

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Count it."""
        own = state.burn_off(self.engine)
        own = replace(own, done=own.done + 1, burnt_off_s=event.at_s)
        return replace(state, burn_offs={**state.burn_offs, self.engine: own})

    def words(self, profile: Profile) -> str:
        """For how long."""
        return f"Burnt off for {self.seconds:.0f} s"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class RatingEntered(Body):
    """An engine comes into a time-limited rating, or out of it (no name)."""

    KIND: ClassVar[str] = "rating"
    name: str | None = None

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Start its clock."""
        return replace(state, rating=None if self.name is None else (self.name, event.at_s))

    def words(self, profile: Profile) -> str:
        """Which."""
        return f"{self.name} power" if self.name else "Continuous power"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class ClimbEgt(Body):
    """The mean EGT [°F] of full rich soon after take-off."""

    KIND: ClassVar[str] = "climb_egt"
    egt_f: float
    palt_ft: float | None = None

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Keep it for the climb."""
        return replace(state, climb_egt_f=self.egt_f)


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class TakeOffMade(Body):
    """Full power of a take-off came up: by how much the manifold pressure of each engine (by its number) lacks what the profile
    expects of the day [inHg]; negative where it is more. The aircraft's later take-offs are held against it."""

    KIND: ClassVar[str] = "take_off_made"
    lacks_inhg: Mapping[str, float]

    def words(self, profile: Profile) -> str:
        """By how much."""
        names = dict(profile.engines)
        shown = [
            f"{profile.whose(names[int(number)])}{difference(abs(lacks), 'inhg')} {'below' if lacks >= 0 else 'above'} the expected"
            for number, lacks in self.lacks_inhg.items()
        ]
        return f"Full power: {', '.join(shown)}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class FaultPractised(Body):
    """What was wrong with the simulated engine of this flight; nobody is told before its end."""

    KIND: ClassVar[str] = "fault_practised"
    name: str
    says: str
    size: float = 0.0

    def words(self, profile: Profile) -> str:
        """What it was."""
        return f"Practised: {self.says}"
