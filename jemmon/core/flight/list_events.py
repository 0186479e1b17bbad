"""What the pilot, and the data, say of the lists."""

import math
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal

from ..aircraft import Item, Profile
from ..aircraft.lists import STYLES
from ..base.errors import EventError, checked_number
from ..base.figures import figure
from ..base.names import check_known
from ..procedure.progress import SET_ASIDE, Progress, is_open, lists_of, only_what_starts
from ..procedure.progress import step as list_step
from .events import Body, Event, PilotBody, event
from .state import FlightState, set_away, set_back, starting_engine, with_engine

FACT_NAMES = ("start", "night", "first_of_day", "stood_h", "on_water", "landing_on_water", "cruise_ft")
_YES_OR_NO = ("night", "first_of_day", "on_water", "landing_on_water")
_SHOWN_CHARACTERS, _REASON_CHARACTERS = 40, 200


def _item(profile: Profile, name: str) -> Item:
    check_known("`item`", name, profile.items, EventError)
    return profile.items[name]


def _title(profile: Profile, name: str) -> str:
    item = profile.items.get(name)
    return f"{item.challenge}: {item.response}" if item else name


def _moved(state: FlightState, kind: str, body: dict[str, Any], event: Event) -> FlightState:
    progress: Progress = list_step(state.progress, kind, body, event.at_s, event.id)
    return replace(state, progress=progress)


@dataclass(frozen=True, slots=True, kw_only=True)
class _OfItem(PilotBody):
    """Something said of one item."""

    item: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse an item that the profile has not."""
        _item(profile, self.item)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Move the lists."""
        return _moved(state, self.KIND, dict(event.body), event)

    def words(self, profile: Profile) -> str:
        """The item."""
        return _title(profile, self.item)


def confirm(
    profile: Profile, state: FlightState, name: str, event: Event, shown: object = None, by_data: bool = False
) -> FlightState:
    """Return the state with an item confirmed, and with the temporary setting that confirming it begins or ends."""
    state = _moved(state, "item_done", {"item": name, "shown": shown, "by_data": by_data}, event)
    item = profile.items.get(name)
    if item is None:
        return state
    if item.watch == "prime" and item.id in state.progress.timers:
        state = _primed_by_hand(profile, state, event.at_s - state.progress.timers[item.id], item.engine)
    if item.watch == "briefing":
        state = replace(state, progress=replace(state.progress, briefed_s=event.at_s))
    if item.back:
        state = set_back(state, item.back)
    return set_away(state, item.away, event.at_s) if item.away else state


def _primed_by_hand(profile: Profile, state: FlightState, seconds: float, number: int | None) -> FlightState:
    """Count the seconds of a tapped clock as prime, where no needle has counted any."""
    number = number or starting_engine(profile, state)
    if state.engine(number).primed or profile.start.unit != "seconds":
        return state
    return with_engine(state, "primed", 0.0, {"engine": number, "amount": round(seconds, 1)})


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class ItemDone(_OfItem):
    """An item is confirmed; `shown` is the reading that was on the screen then."""

    KIND: ClassVar[str] = "item_done"
    IS_QUIET: ClassVar[bool] = True
    shown: float | str | None = None

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a reading that is none."""
        _item(profile, self.item)
        shown = self.shown
        is_word = isinstance(shown, str) and len(shown) <= _SHOWN_CHARACTERS
        is_figure = isinstance(shown, int | float) and not isinstance(shown, bool) and math.isfinite(shown)
        if shown is not None and not is_word and not is_figure:
            raise EventError(
                f"`shown` must be the reading on the screen: a number, or a word of {_SHOWN_CHARACTERS} characters at most."
            )

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Confirm it."""
        return confirm(profile, state, self.item, event, self.shown)


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class ItemSetAside(_OfItem):
    """An item is deferred, skipped or not applicable, for a reason."""

    KIND: ClassVar[str] = "item_set_aside"
    how: Literal["deferred", "skipped", "not_applicable"]
    reason: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse another way, or no reason."""
        _item(profile, self.item)
        check_known("`how`", str(self.how), SET_ASIDE, EventError)
        if not isinstance(self.reason, str) or not self.reason.strip() or len(self.reason) > _REASON_CHARACTERS:
            raise EventError(f"An item that is set aside needs a `reason`, in {_REASON_CHARACTERS} characters at most.")

    def words(self, profile: Profile) -> str:
        """How, which, why."""
        return f"{self.how.replace('_', ' ').capitalize()}: {_title(profile, self.item)} ({self.reason})"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class OnlyWhatStarts(PilotBody):
    """For practice: everything that does not start the engine is put aside, to be taken up another time."""

    KIND: ClassVar[str] = "only_what_starts"

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse once an engine runs: a list is not shortened then."""
        if state.engine_runs:
            raise EventError("The engine runs: nothing is left out of its lists.")

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Put the rest aside."""
        return replace(state, progress=only_what_starts(profile, state.progress, event.at_s))

    def words(self, profile: Profile) -> str:
        """What was done."""
        return "Only what starts it: the rest of the lists was put aside"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class ItemTakenUp(_OfItem):
    """An item that was set aside is taken up again."""

    KIND: ClassVar[str] = "item_taken_up"

    def words(self, profile: Profile) -> str:
        """Which."""
        return f"Taken up: {_title(profile, self.item)}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class ItemMeasured(_OfItem):
    """A figure that the pilot read off for an item, in its core unit."""

    KIND: ClassVar[str] = "item_measured"
    value: float

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse an item without a figure, or a figure out of range."""
        if _item(profile, self.item).measure is None:
            raise EventError(f"Item {self.item!r} has nothing to measure.")
        checked_number("`value`", self.value, EventError, -1_000, 20_000)

    def words(self, profile: Profile) -> str:
        """The item and its figure."""
        item = profile.items.get(self.item)
        if item is None or item.measure is None:
            return f"{self.item}: {self.value:g}"
        return f"{item.challenge}: {figure(self.value, item.measure.unit)}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class TimerStarted(_OfItem):
    """An item's clock is started."""

    KIND: ClassVar[str] = "timer_started"
    IS_QUIET: ClassVar[bool] = True

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse an item without a clock."""
        if _item(profile, self.item).hold_s is None:
            raise EventError(f"Item {self.item!r} has no time to hold.")

    def words(self, profile: Profile) -> str:
        """Which."""
        return f"Clock: {_title(profile, self.item)}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class Counted(_OfItem):
    """Something is counted for an item: blades, strokes, cycles."""

    KIND: ClassVar[str] = "counted"
    IS_QUIET: ClassVar[bool] = True
    by: float = 1.0

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse an item without a count."""
        if _item(profile, self.item).count_to is None:
            raise EventError(f"Item {self.item!r} has nothing to count.")
        checked_number("`by`", self.by, EventError, -60, 60)

    def words(self, profile: Profile) -> str:
        """Which."""
        return f"Counted: {_title(profile, self.item)}"


def _check_list(profile: Profile, name: str) -> None:
    check_known("`list`", name, [one.id for phase in profile.phases for one in phase.lists], EventError)


def _list_title(profile: Profile, name: str) -> str:
    return next((one.title for phase in profile.phases for one in phase.lists if one.id == name), name)


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class FlowDone(PilotBody):
    """The flow of a list is done; its items are read to verify it."""

    KIND: ClassVar[str] = "flow_done"
    IS_QUIET: ClassVar[bool] = True
    list: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a list that the profile has not."""
        _check_list(profile, self.list)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Go on to the reading."""
        return _moved(state, self.KIND, dict(event.body), event)

    def words(self, profile: Profile) -> str:
        """Which."""
        return f"Flow done: {_list_title(profile, self.list)}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class ListDone(PilotBody):
    """A list known by heart, or verified after its flow, is done as a whole: its open items that need no tap of their own."""

    KIND: ClassVar[str] = "list_done"
    IS_QUIET: ClassVar[bool] = True
    list: str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a list that the profile has not."""
        _check_list(profile, self.list)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Confirm its items."""
        every = [one for phase in profile.phases for one in lists_of(phase, state.known) if one.id == self.list]
        waiting = [i.id for one in every for i in one.items if not i.needs_own_tap and is_open(state.progress, i)]
        for name in waiting:
            state = confirm(profile, state, name, event)
        return state

    def words(self, profile: Profile) -> str:
        """Which."""
        return f"Done as a whole: {_list_title(profile, self.list)}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class ListStyle(PilotBody):
    """How a list is read: read and do, flow then verify, two people."""

    KIND: ClassVar[str] = "list_style"
    IS_QUIET: ClassVar[bool] = True
    list: str
    style: Literal["read_do", "flow_verify", "two"]

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a list or a way that there is not."""
        _check_list(profile, self.list)
        check_known("`style`", str(self.style), STYLES, EventError)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Read it so."""
        return _moved(state, self.KIND, dict(event.body), event)


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class Fact(PilotBody):
    """Something the data do not show: which start, by night, the first of the day, hours stood, on water."""

    KIND: ClassVar[str] = "fact"
    IS_QUIET: ClassVar[bool] = True
    name: Literal["start", "night", "first_of_day", "stood_h", "on_water", "landing_on_water", "cruise_ft", "people"]
    value: bool | float | str

    def check(self, profile: Profile, state: FlightState) -> None:
        """Refuse a value that the fact cannot have."""
        check_known("`name`", str(self.name), FACT_NAMES, EventError)
        if self.name == "start" and self.value not in ("cold", "hot", "flooded"):
            raise EventError("A start is cold, hot or flooded.")
        if self.name in _YES_OR_NO and not isinstance(self.value, bool):
            raise EventError(f"The fact {self.name!r} is true or false.")
        if self.name == "stood_h":
            checked_number("`value`", self.value, EventError, 0, 100_000)
        if self.name == "cruise_ft":
            checked_number("`value`", self.value, EventError, 0, 45_000)
        if self.name == "people":
            checked_number("`value`", self.value, EventError, 1, 100)

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Know it."""
        return _moved(state, self.KIND, dict(event.body), event)

    def words(self, profile: Profile) -> str:
        """The fact."""
        value = {True: "yes", False: "no"}.get(self.value, self.value) if isinstance(self.value, bool) else self.value
        return f"{self.name.replace('_', ' ').capitalize()}: {value}"


@dataclass(frozen=True, slots=True, kw_only=True)
class _OfLists(PilotBody):
    """Something said of the lists as a whole."""

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Move the lists."""
        return _moved(state, self.KIND, {}, event)


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class Interrupted(_OfLists):
    """The pilot is interrupted."""

    KIND: ClassVar[str] = "interrupted"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class Resumed(_OfLists):
    """The pilot comes back to the lists."""

    KIND: ClassVar[str] = "resumed"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class BriefingRead(_OfLists):
    """The take-off briefing was read."""

    KIND: ClassVar[str] = "briefing_read"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class ItemSeen(Body):
    """Data alone confirm an item."""

    KIND: ClassVar[str] = "item_seen"
    IS_QUIET: ClassVar[bool] = True
    item: str
    shown: float | str | None = None

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Confirm it."""
        return confirm(profile, state, self.item, event, self.shown, by_data=True)

    def words(self, profile: Profile) -> str:
        """Which."""
        return f"Seen: {_title(profile, self.item)}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class ItemReopened(Body):
    """Data contradict a confirmed item: it is open again."""

    KIND: ClassVar[str] = "item_reopened"
    item: str
    note: str = ""

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Open it."""
        return _moved(state, self.KIND, {"item": self.item, "note": self.note}, event)

    def words(self, profile: Profile) -> str:
        """Why."""
        return f"Open again: {self.note}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class PhaseSeen(Body):
    """Data show that a phase has begun."""

    KIND: ClassVar[str] = "phase_seen"
    phase: str

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Note it."""
        return _moved(state, self.KIND, {"phase": profile.phase(self.phase).id}, event)

    def words(self, profile: Profile) -> str:
        """Which."""
        return f"Seen to have begun: {profile.phase(self.phase).title}"


@event
@dataclass(frozen=True, slots=True, kw_only=True)
class TakeOffUnproven(Body):
    """Power rises towards take-off with something unproven."""

    KIND: ClassVar[str] = "take_off_unproven"
    missing: tuple[str, ...] = ()

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Remember what was said."""
        return replace(state, warned=tuple(self.missing))

    def words(self, profile: Profile) -> str:
        """What."""
        return f"Take-off power with something unproven: {'; '.join(self.missing)}"
