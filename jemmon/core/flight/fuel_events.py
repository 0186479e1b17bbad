"""What is said and seen of the fuel."""

from dataclasses import dataclass, replace
from typing import ClassVar

from ..aircraft import Profile
from ..base.figures import figure
from ..fuel.tanks import check_amount, check_tank, fuel_step
from .events import Body, Event, PilotBody, event
from .state import FlightState


def _stepped(state: FlightState, event: Event) -> FlightState:
    return replace(state, fuel=fuel_step(state.fuel, event.kind, event.at_s, event.body))


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class FuelOnBoard(PilotBody):
    """What is in a tank [US gal]."""

    KIND: ClassVar[str] = "fuel_on_board"
    tank: str
    gal: float

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a tank that the aircraft has not, or an amount out of range."""
        check_tank(profile, self.tank)
        check_amount(self.gal)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Count from it."""
        return _stepped(state, event)

    def words(self, profile: Profile) -> str:
        """The tank and its fuel."""
        return f"On board, {self.tank}: {figure(self.gal, 'gal')}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class TankSelected(PilotBody):
    """A tank is turned to."""

    KIND: ClassVar[str] = "tank_selected"
    tank: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a tank that the aircraft has not."""
        check_tank(profile, self.tank)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Draw on it."""
        return _stepped(state, event)

    def words(self, profile: Profile) -> str:
        """Which."""
        return f"Tank: {self.tank}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class TankSeen(Body):
    """The selector is seen at a tank."""

    KIND: ClassVar[str] = "tank_seen"
    tank: str

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Draw on it."""
        return _stepped(state, event)

    def words(self, profile: Profile) -> str:
        """Which."""
        return f"Tank seen: {self.tank}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class FuelUsed(Body):
    """What the flow summed up to since the last time [US gal]."""

    KIND: ClassVar[str] = "fuel_used"
    IS_TOLD: ClassVar[bool] = False
    gal: float
    tank: str = ""

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Count it."""
        return _stepped(state, event)
