"""Events: what happened, one class a kind. Each says its body, who may send it, what it says in a timeline, what it does.

A flight is a list of these and nothing else. Bodies are strict and closed at the door (`strict` of the web layer reads
`__pydantic_config__`); a kept body is read leniently: keys that are not known are left alone, and a kind or a body that
cannot be read is kept and shown and changes nothing (`Unread`).
"""

from collections.abc import Mapping
from dataclasses import MISSING, dataclass, fields, replace
from enum import StrEnum
from typing import Any, ClassVar, Self, TypeVar

from ..aircraft import Profile
from ..base.errors import EventError
from .state import FlightState


class Sender(StrEnum):
    """Who may send an event: the pilot, or Jemmon itself."""

    PILOT = "pilot"
    MADE = "made"


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """One thing that happened: `at_s` is flight time [s], `seq` the store's order (0 before it is stored), `body` as it is kept."""

    id: str
    kind: str
    at_s: float
    body: Mapping[str, Any]
    seq: int = 0
    wall_utc: str = ""
    version: int = 1

    @property
    def said(self) -> "Body":
        """The body as its class reads it."""
        return read_body(self.kind, self.version, self.body)


@dataclass(frozen=True, slots=True, kw_only=True)
class Body:
    """What one kind of event says. `KIND` names it, `VERSION` its form, `SENDER` who may send it; `IS_TOLD` whether a timeline
    shows it, `IS_QUIET` whether many of its kind are one line there; `CAN_UNDO` whether one tap of the pilot takes it back;
    `AFTER_END` whether it may come after the flight's end."""

    __pydantic_config__: ClassVar[dict[str, Any]] = {"extra": "forbid", "strict": True, "allow_inf_nan": False}
    KIND: ClassVar[str] = ""
    VERSION: ClassVar[int] = 1
    SENDER: ClassVar[Sender] = Sender.MADE
    IS_TOLD: ClassVar[bool] = True
    IS_QUIET: ClassVar[bool] = False
    CAN_UNDO: ClassVar[bool] = True
    AFTER_END: ClassVar[bool] = False

    @classmethod
    def from_kept(cls, body: Mapping[str, Any], version: int) -> Self:
        """Return the body of an event as it was kept by this or an earlier version.

        Raises:
            KeyError: something is missing that this kind needs.
        """
        known = {f.name: body[f.name] for f in fields(cls) if f.name in body}
        for f in fields(cls):
            if f.name not in known and f.default is MISSING and f.default_factory is MISSING:
                raise KeyError(f.name)
        return cls(**known)

    def check(self, profile: Profile, state: FlightState) -> None:
        """Raise EventError unless this may be said now; the message says what is wrong."""

    def step(self, profile: Profile, state: FlightState, event: Event) -> FlightState:
        """Return the state after it."""
        return state

    def words(self, profile: Profile) -> str:
        """Return the line that a timeline shows."""
        return self.KIND.replace("_", " ").capitalize()


@dataclass(frozen=True, slots=True, kw_only=True)
class PilotBody(Body):
    """What a pilot may say."""

    SENDER: ClassVar[Sender] = Sender.PILOT


@dataclass(frozen=True, slots=True, kw_only=True)
class Unread(Body):
    """An event of a kind or a form that this version does not know: kept, shown, and changing nothing."""

    kind: str

    def words(self, profile: Profile) -> str:
        """Return its kind as words."""
        return self.kind.replace("_", " ").capitalize()


B = TypeVar("B", bound=Body)
EVENTS: dict[str, type[Body]] = {}


def event(cls: type[B]) -> type[B]:
    """Register a kind of event by its class. Raises ValueError where two classes are of one kind."""
    if not cls.KIND or cls.KIND in EVENTS:
        raise ValueError(f"{cls.__name__} needs a kind of its own; {cls.KIND!r} is taken or empty.")
    EVENTS[cls.KIND] = cls
    return cls


def read_body(kind: str, version: int, body: Mapping[str, Any]) -> Body:
    """Return what a kept event says; `Unread` where this version cannot read it."""
    cls = EVENTS.get(kind)
    if cls is None or version > cls.VERSION:
        return Unread(kind=kind)
    try:
        return cls.from_kept(body, version)
    except (KeyError, TypeError, ValueError):
        return Unread(kind=kind)


def pilot_kinds() -> tuple[str, ...]:
    """Return the kinds that a pilot may send."""
    return tuple(kind for kind, cls in EVENTS.items() if cls.SENDER is Sender.PILOT)


def step(profile: Profile, state: FlightState, happened: Event) -> FlightState:
    """Return the state after one event. One that says what the profile has not, or cannot be made sense of, changes nothing."""
    try:
        after = happened.said.step(profile, state, happened)
    except (KeyError, TypeError, ValueError, EventError):
        after = state
    return after if happened.seq == 0 else replace(after, last_seq=max(after.last_seq, happened.seq))
