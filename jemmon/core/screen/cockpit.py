"""What makes the needles of a flight, and the levers and switches of an aircraft as a screen lays them out."""

from dataclasses import dataclass
from typing import Literal

ControlKind = Literal["slider", "switch", "hold", "mag", "positions"]


@dataclass(frozen=True, slots=True, kw_only=True)
class FeedFacts:
    """What makes the needles, and what a screen says of it. `is_drawn`: they follow an engine, so that their trace is worth
    drawing; `is_sped`: their time may run faster; `says` stands beside them while samples come, `says_old` when none comes;
    `no_levers` is why no lever moves them, empty where levers do."""

    kind: str
    is_drawn: bool
    is_sped: bool
    says: str = ""
    says_old: str = ""
    no_levers: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Position:
    """A named place of a lever: from 0 to 1."""

    name: str
    at: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Control:
    """One lever or switch; `shared` by both engines. What lies below `gate` is reached by a second stroke alone, None where nothing
    holds it."""

    id: str
    name: str
    kind: ControlKind
    shared: bool
    positions: tuple[Position, ...] = ()
    gate: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class HandAction:
    """What a hand does at once: a stroke of the primer, a blade turned through."""

    id: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class EngineName:
    """An engine's number and name."""

    number: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Cockpit:
    """All that a hand can reach; empty without a simulated engine."""

    engines: tuple[EngineName, ...] = ()
    controls: tuple[Control, ...] = ()
    actions: tuple[HandAction, ...] = ()
