"""What the pilot says of the flight as a whole: phases, remarks, weather, put-backs, typed figures, and taking back."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any, ClassVar, Literal, Self

from ..aircraft import Profile
from ..base.errors import EventError
from ..base.names import check_known
from ..base.weather import describe_air
from ..judgement.magneto import unnamed, with_sides_named
from ..judgement.registry import checks, title_of
from ..judgement.typed import check_typed, judge_typed
from ..power.wanted import check_wanted
from .events import Event, PilotBody, event
from .state import FlightState, set_away, set_back

_MOST_CHARACTERS = 2000


def check_engine(profile: Profile, number: int) -> None:
    """Raise EventError where the aircraft has no engine of this number."""
    if isinstance(number, bool) or number not in [known for known, _ in profile.engines]:
        raise EventError(f"The aircraft has no engine {number!r}.")


def _check_put_back(profile: Profile, name: str) -> None:
    check_known("`put_back`", name, [pair.id for pair in profile.put_backs], EventError)


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class PhaseEntered(PilotBody):
    """The pilot goes to a phase."""

    KIND: ClassVar[str] = "phase_entered"
    phase: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a phase that the profile has not."""
        check_known("`phase`", self.phase, [phase.id for phase in profile.phases], EventError)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Be in it."""
        return replace(state, phase=profile.phase(self.phase).id)

    def words(self, profile: Profile) -> str:
        """Its title."""
        return profile.phase(self.phase).title


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class LeanTargetChosen(PilotBody):
    """The pilot chooses where to set the mixture."""

    KIND: ClassVar[str] = "lean_target"
    CAN_UNDO: ClassVar[bool] = False
    target: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a target that the profile has not."""
        check_known("`target`", self.target, [target.id for target in profile.lean_targets], EventError)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Keep it."""
        return replace(state, lean_target=self.target)

    def words(self, profile: Profile) -> str:
        """Its name."""
        names = {target.id: target.name for target in profile.lean_targets}
        return f"Lean to: {names.get(self.target, self.target)}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class Remark(PilotBody):
    """A remark for the record."""

    KIND: ClassVar[str] = "remark"
    CAN_UNDO: ClassVar[bool] = False
    AFTER_END: ClassVar[bool] = True
    text: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse what is too long."""
        if len(self.text) > _MOST_CHARACTERS:
            raise EventError(f"A remark has {_MOST_CHARACTERS:,} characters at most.", "text")

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Keep it."""
        return replace(state, remarks=(*state.remarks, self.text))

    def words(self, profile: Profile) -> str:
        """Itself."""
        return self.text


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class Undo(PilotBody):
    """The pilot takes back an event by its id; the fold leaves that one out."""

    KIND: ClassVar[str] = "undo"
    CAN_UNDO: ClassVar[bool] = False
    AFTER_END: ClassVar[bool] = True
    event: str

    def words(self, profile: Profile) -> str:
        """That something was taken back."""
        return "Taken back"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class FlightEnded(PilotBody):
    """The flight is over."""

    KIND: ClassVar[str] = "flight_ended"

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """End it."""
        return replace(state, ended=True)


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class WeatherTold(PilotBody):
    """The air at the field, typed or from a METAR; the runway and its elevation."""

    KIND: ClassVar[str] = "weather"
    source: str = "typed"
    text: str = ""
    oat_c: float | None = None
    dewpoint_c: float | None = None
    altimeter_inhg: float | None = None
    wind_from_deg: float | None = None
    wind_kt: float | None = None
    gust_kt: float | None = None
    elevation_ft: float | None = None
    runway_deg: float | None = None

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse air out of range."""
        describe_air(asdict(self))

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Keep it with what follows from it."""
        return replace(state, air=describe_air(asdict(self)))

    def words(self, profile: Profile) -> str:
        """The report, or that it was typed."""
        return f"Weather: {self.text}" if self.text else "Weather typed"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class CarryOn(PilotBody):
    """The pilot leaves something away on purpose."""

    KIND: ClassVar[str] = "carry_on"
    put_back: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a pair that the profile has not."""
        _check_put_back(profile, self.put_back)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Ask no more for it."""
        return replace(state, carried=state.carried | {self.put_back})

    def words(self, profile: Profile) -> str:
        """What was left, and that it was on purpose."""
        titles = {pair.id: pair.title for pair in profile.put_backs}
        return f"Left on purpose: {titles.get(self.put_back, self.put_back)}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class PutBackTapped(PilotBody):
    """The pilot notes a temporary setting, or its end, where no lever shows it."""

    KIND: ClassVar[str] = "put_back_tapped"
    put_back: str
    away: bool = False

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a pair that the profile has not."""
        _check_put_back(profile, self.put_back)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Note it."""
        return set_away(state, self.put_back, event.at_s) if self.away else set_back(state, self.put_back)

    def words(self, profile: Profile) -> str:
        """What was set or put back."""
        for pair in profile.put_backs:
            if pair.id == self.put_back:
                return pair.title if self.away else pair.back
        return self.put_back


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class TypedReading(PilotBody):
    """Figures of a check that the pilot typed. Which figures there are, the checks' fields say."""

    KIND: ClassVar[str] = "typed_reading"
    figures: Mapping[str, Any]

    @classmethod
    def from_kept(cls, body: Mapping[str, Any], version: int) -> Self:
        """Take the body as a whole: its figures belong to the check that it names."""
        if "check" not in body:
            raise KeyError("check")
        return cls(figures=dict(body))

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse figures out of range, and such as cannot be together."""
        check_typed(profile, self.figures)
        judge_typed(profile, self.figures, 0.0)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Keep its finding."""
        known = {name for check in checks().values() for name in (field.name for field in check.fields)}
        figures = {k: v for k, v in self.figures.items() if k in known or k in ("check", "engine")}
        finding = judge_typed(profile, figures, event.at_s).to_json()
        return replace(state, findings=(*state.findings, {**finding, "typed": True, "event": event.id}))

    def words(self, profile: Profile) -> str:
        """Which check was typed."""
        return f"Typed: {title_of(str(self.figures.get('check')))}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class SidesNamed(PilotBody):
    """The pilot says which magneto was checked first, where no switch shows it; of one engine, else of the latest check."""

    KIND: ClassVar[str] = "sides_named"
    first: Literal["left", "right"]
    engine: int | None = None

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse where there is nothing to name."""
        if self.first not in ("left", "right"):
            raise EventError(f"`first` is {self.first!r}; it says which side was checked first: left or right.")
        if unnamed(state.findings, self.engine) is None:
            raise EventError("There is no magneto check whose sides are not known.")

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Judge the check again with its sides named."""
        last = unnamed(state.findings, self.engine)
        if last is None:
            return state
        place = max(number for number, finding in enumerate(state.findings) if finding is last)
        named = with_sides_named(profile, last, self.first)
        return replace(state, findings=(*state.findings[:place], named, *state.findings[place + 1 :]))

    def words(self, profile: Profile) -> str:
        """Which came first."""
        return f"Magnetos: {self.first} first"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class CheckAgain(PilotBody):
    """After a STOP the pilot makes the check again. What was found stays; only another finding takes it back."""

    KIND: ClassVar[str] = "check_again"
    item: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse an item that the profile has not, or that has no check."""
        check_known("item", self.item, [item.id for item in profile.items.values() if item.check], EventError)

    def words(self, profile: Profile) -> str:
        """Which check."""
        item = profile.items.get(self.item)
        return f"Again: {item.challenge}" if item else "A check again"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class BurnOffStarted(PilotBody):
    """The pilot begins a burn-off, where no needle shows it."""

    KIND: ClassVar[str] = "burn_off_started"
    engine: int = 1

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse an engine that the aircraft has not."""
        check_engine(profile, self.engine)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Start its clock."""
        own = replace(state.burn_off(self.engine), started_s=event.at_s)
        return replace(state, burn_offs={**state.burn_offs, self.engine: own})

    def words(self, profile: Profile) -> str:
        """That it began."""
        return "Burn-off begun"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class PowerWanted(PilotBody):
    """The power that the pilot asks for; without a title, none any more."""

    KIND: ClassVar[str] = "power_wanted"
    id: str | None = None
    title: str | None = None
    rpm: float | None = None
    map_inhg: float | None = None

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a power that no engine has."""
        if self != PowerWanted():
            check_wanted(asdict(self))

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Ask for its steps."""
        return replace(state, power_wanted=asdict(self) if self.title else None)

    def words(self, profile: Profile) -> str:
        """Its title."""
        return f"Power: {self.title}" if self.title else "Power as it is"
