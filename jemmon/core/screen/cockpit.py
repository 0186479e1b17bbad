"""The levers and switches of an aircraft as a screen lays them out."""

from dataclasses import dataclass
from typing import Literal

ControlKind = Literal["slider", "switch", "hold", "mag", "positions"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Position:
    """A named place of a lever: from 0 to 1."""

    name: str
    at: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Control:
    """One lever or switch; `shared` by both engines."""

    id: str
    name: str
    kind: ControlKind
    shared: bool
    positions: tuple[Position, ...] = ()


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
