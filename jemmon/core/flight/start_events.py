"""What is seen, tapped or done of an engine's start."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from ..aircraft import Profile
from ..base.errors import EventError
from ..base.names import check_known
from ..start.engine_state import TAPS, events_of_tap
from ..start.following import oil_pressure_limit_s
from .events import Body, Event, PilotBody, event
from .pilot_events import check_engine
from .state import FlightState, with_engine

_TAP_WORDS = {
    "crank": "Starter on",
    "let_go": "Starter off",
    "fired": "It fires",
    "stopped": "Engine stopped",
    "oil_seen": "Oil pressure seen",
    "blade": "A blade turned",
    "charging": "Charging",
}


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class StartTap(PilotBody):
    """One tap of a pilot without needles: starter on, it fires, oil pressure seen."""

    KIND: ClassVar[str] = "start_tap"
    what: str
    engine: int = 1

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a tap or an engine that there is not."""
        check_engine(profile, self.engine)
        check_known("`what`", self.what, TAPS, EventError)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Take what it means now."""
        for kind, said in told_by_tap(profile, state, event):
            state = with_engine(state, kind, event.at_s, said)
        return state

    def words(self, profile: Profile) -> str:
        """What was tapped."""
        return _TAP_WORDS.get(self.what, self.what)


def told_by_tap(profile: Profile, state: FlightState, event: Event) -> list[tuple[str, dict[str, Any]]]:
    """Return what a tap of a pilot who has no needles says of the start of an engine, as (kind, body)."""
    number, oat_c = int(event.body.get("engine", 1)), state.known.get("oat_c")
    limit_s = oil_pressure_limit_s(profile, oat_c)
    made = events_of_tap(state.engine(number), str(event.body["what"]), event.at_s, limit_s, oat_c)
    return [(kind, {**body, "engine": number}) for kind, body in made]


@dataclass(frozen=True, slots=True, kw_only=True)
class OfEngine(Body):
    """Something seen of one engine's start. What it keeps for the advice of the next start is free."""

    said: Mapping[str, Any]

    @classmethod
    def from_kept(cls, body: Mapping[str, Any], version: int) -> "OfEngine":
        """Take the body as a whole: what was known at a start differs from start to start."""
        return cls(said=dict(body))

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Move the engine."""
        return with_engine(state, self.KIND, event.at_s, self.said)

    def words(self, profile: Profile) -> str:
        """What it was, and of which engine where there are two."""
        names = dict(profile.engines)
        whose = profile.whose(names[number]) if (number := self.said.get("engine", 1)) in names else ""
        return f"{whose}{self.line()}"

    def line(self) -> str:
        """Return the line without the engine's name."""
        return self.KIND.replace("_", " ").capitalize()


def _figure(said: Mapping[str, Any], name: str, unit: str) -> str:
    value = said.get(name)
    return f" {value:.0f} {unit}" if isinstance(value, int | float) else ""


@event
class EngineFired(OfEngine):
    """It fired: the oil clock runs."""

    KIND: ClassVar[str] = "engine_fired"

    def line(self) -> str:
        """With the cranking that it took."""
        return f"It fired after{_figure(self.said, 'cranking_s', 's')} of cranking"


@event
class EngineStopped(OfEngine):
    """It stopped."""

    KIND: ClassVar[str] = "engine_stopped"

    def line(self) -> str:
        """With how long it ran."""
        return f"Engine stopped, ran{_figure(self.said, 'ran_s', 's')}"


@event
class StartFailed(OfEngine):
    """A try to start it has failed."""

    KIND: ClassVar[str] = "start_failed"

    def line(self) -> str:
        """With the cranking."""
        return f"No fire,{_figure(self.said, 'cranking_s', 's')} of cranking"


@event
class OilPressureSeen(OfEngine):
    """Oil pressure showed."""

    KIND: ClassVar[str] = "oil_pressure_seen"

    def line(self) -> str:
        """With its time."""
        return f"Oil pressure{_figure(self.said, 'seconds', 's')} after it fired"


@event
class OilPressureMissing(OfEngine):
    """Oil pressure did not show in its time."""

    KIND: ClassVar[str] = "oil_pressure_missing"

    def line(self) -> str:
        """With the limit."""
        return f"No oil pressure in{_figure(self.said, 'limit_s', 's')}"


@event
class PrimeStroke(OfEngine):
    """Strokes of the primer."""

    KIND: ClassVar[str] = "prime_stroke"

    def line(self) -> str:
        """How many."""
        return f"Prime:{_figure(self.said, 'strokes', 'strokes')}"


@event
class Primed(OfEngine):
    """Prime that a lever or the throttle gave."""

    KIND: ClassVar[str] = "primed"


@event
class HandDid(OfEngine):
    """What a hand did at once: the wobble pump, a blade turned."""

    KIND: ClassVar[str] = "hand_action"


@event
class Energised(OfEngine):
    """The inertia starter was energised."""

    KIND: ClassVar[str] = "energised"

    def line(self) -> str:
        """For how long."""
        return f"Energised for{_figure(self.said, 'seconds', 's')}"


@event
class CrankingBegan(OfEngine):
    """The starter turns it."""

    KIND: ClassVar[str] = "cranking_began"

    def line(self) -> str:
        """That it is on."""
        return "Starter on"


@event
class CrankingEnded(OfEngine):
    """The starter was let go."""

    KIND: ClassVar[str] = "cranking_ended"

    def line(self) -> str:
        """For how long it was on."""
        return f"Starter off after{_figure(self.said, 'cranking_s', 's')}"


@event
class SecondAlternatorIn(OfEngine):
    """The second alternator gives current."""

    KIND: ClassVar[str] = "alternator_2_in"


@event
class SecondAlternatorMissing(OfEngine):
    """The second alternator did not cut in."""

    KIND: ClassVar[str] = "alternator_2_missing"


@event
class NotCharging(OfEngine):
    """The bus is not charged."""

    KIND: ClassVar[str] = "not_charging"


@event
class Charging(OfEngine):
    """The bus is charged."""

    KIND: ClassVar[str] = "charging"
