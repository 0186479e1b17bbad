"""Answers that are no value of the core: what was kept, moved, read in."""

from collections.abc import Mapping
from dataclasses import dataclass

from ..core.aircraft.problems import Wrong
from ..core.base.units import Display, UnitFamily
from ..core.base.weather import AirReport
from ..core.screen.aircraft import AircraftLine
from ..core.screen.frame import Frame
from ..core.screen.own import OwnList
from ..feeds.practice_faults import PractisedFault, WaitingFault


@dataclass(frozen=True, slots=True, kw_only=True)
class Live:
    """The newest frame, or none when no flight goes on."""

    frame: Frame | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """An event that is on disk, and the frame after it."""

    seq: int
    at_s: float
    frame: Frame


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenBack:
    """The undo that was kept, if there was something to take back."""

    seq: int | None
    frame: Frame


@dataclass(frozen=True, slots=True, kw_only=True)
class Units:
    """How core units are shown, by unit and choice; the families that are chosen together."""

    displays: Mapping[str, Mapping[str, Display]]
    families: tuple[UnitFamily, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ServerSettings:
    """What the front end must know of the server's settings."""

    speeds: tuple[int, ...]
    most_upload_bytes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class WeatherAnswer:
    """A station's report."""

    report: AirReport


@dataclass(frozen=True, slots=True, kw_only=True)
class InstrumentHeard:
    """What a trial heard of the engine instrument: whether anything answers, and the titles of the readings in its first line."""

    is_there: bool
    readings: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Typed:
    """Typed figures of a check that can be taken."""

    check: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Moved:
    """Levers were moved."""

    moved: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PrimeGiven:
    """The prime given so far, in the unit of the type's method."""

    strokes: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SpeedSet:
    """How many times real time."""

    speed: int


@dataclass(frozen=True, slots=True, kw_only=True)
class NotListening:
    """The ear is closed, and what it heard last forgotten."""

    forgotten: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Frozen:
    """Whether flight time stands."""

    frozen: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultSet:
    """A fault and its size."""

    name: str
    size: float


@dataclass(frozen=True, slots=True, kw_only=True)
class WaitingFaults:
    """The faults that wait for their time of flight or their height, in the order in which they were given."""

    waiting: tuple[WaitingFault, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultList:
    """The faults that may be practised on an aircraft's simulated engine."""

    faults: tuple[PractisedFault, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Removed:
    """How many flights were removed for good."""

    flights: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadIn:
    """A file that is a flight now."""

    id: str
    findings: int
    rows: int
    notes: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfileTaken:
    """A profile that was read in."""

    aircraft: AircraftLine
    content_hash: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DraftKept:
    """A draft that is on disk, and what is wrong with it; written back to what counts, there is none."""

    is_draft: bool
    wrong: tuple[Wrong, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class MatchedLine:
    """A line of pasted lists, and how it was matched: kept (an item of the list before), known (the library's), own."""

    line: str
    matched: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ListsTaken:
    """Lists that were read from text into the draft, and what is wrong with it now."""

    lines: tuple[MatchedLine, ...]
    wrong: tuple[Wrong, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Touched:
    """Whether a touch found its control."""

    found: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnItemsKept:
    """The lists of an aircraft, each with a pilot's own items behind it."""

    aircraft: AircraftLine
    lists: tuple[OwnList, ...]
