"""A drill that is flown: what it is, what happened in it, and what the pilot says of it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal

from ..aircraft import Profile
from ..base.errors import EventError
from ..base.names import check_known
from ..start.engine_state import EngineState
from .events import Body, Event, PilotBody, event
from .state import DrillState, FlightState

_LONG_AGO_S = 600.0  # an engine that runs as a drill begins was started before it


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class DrillBegun(Body):
    """This flight is a drill. `kept` is the drill as the seed drew it (`core.drills.kept_drill`), `decisions` maps the decisions
    that it offers to their words; a moment that is flown again names its flight `parent` and where that was left [s]."""

    KIND: ClassVar[str] = "drill_begun"
    drill: str
    seed: int
    kept: Mapping[str, Any]
    decisions: Mapping[str, str]
    parent: str | None = None
    from_s: float = 0.0

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Fly it, in its phase."""
        kept = self.kept
        begun = DrillState(
            id=self.drill,
            title=str(kept["title"]),
            aim=str(kept["aim"]),
            length_s=float(kept["length_s"]),
            causes=dict(kept["causes"]),
            decisions=dict(self.decisions),
            needles=tuple(kept.get("needles", ())),
        )
        if any(dict(part.get("engine", {})).get("running") for part in kept["begins"]):
            running = EngineState(runs=True, fired_s=event.at_s - _LONG_AGO_S)
            state = replace(state, engines={number: running for number, _ in profile.engines})
        return replace(state, drill=begun, phase=profile.phase(str(kept["phase"])).id)

    def words(self, profile: Profile) -> str:
        """Its title."""
        return f"Drill: {self.kept['title']}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class DrillHappened(Body):
    """What the drill did: the step of its `happens` by its place there. A step with a `tell` is told to the pilot at once, all
    others after the flight."""

    KIND: ClassVar[str] = "drill_happened"
    place: int
    says: str
    tell: str | None = None

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Tell it."""
        if state.drill is None or self.tell is None:
            return state
        return replace(state, drill=replace(state.drill, tells=(*state.drill.tells, self.tell)))

    def words(self, profile: Profile) -> str:
        """What happened."""
        return f"In the drill: {self.says}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class DrillTold(PilotBody):
    """The pilot names a cause (`say`), or decides what is to be done (`decide`)."""

    KIND: ClassVar[str] = "drill_told"
    what: Literal["say", "decide"]
    word: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse it where no drill is flown, and a word that the drill does not offer."""
        if state.drill is None:
            raise EventError("No drill is flown.")
        known = state.drill.causes if self.what == "say" else state.drill.decisions
        check_known("`word`", self.word, known, EventError)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Keep the last word of its kind."""
        if state.drill is None:
            return state
        if self.what == "say":
            return replace(state, drill=replace(state.drill, said=self.word))
        return replace(state, drill=replace(state.drill, decided=self.word))

    def words(self, profile: Profile) -> str:
        """The word."""
        return f"{'Named' if self.what == 'say' else 'Decided'}: {self.word.replace('_', ' ')}"
