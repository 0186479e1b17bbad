"""What the pages of an aircraft of one's own show: questions, versions, what differs, the panel's photo."""

from dataclasses import dataclass
from math import hypot

from ..aircraft import Profile
from ..aircraft.balance import Balance
from ..aircraft.compare import Difference
from ..aircraft.lists import control_of
from ..aircraft.questions import Question, questions_of
from ..base.units import AVGAS_KG_PER_LITRE, LITRE_PER_US_GALLON
from .aircraft import AircraftLine, aircraft_line


@dataclass(frozen=True, slots=True, kw_only=True)
class QuestionsPage:
    """What a new aircraft of this kind is asked for; `comes_with` is what it has from the kind, to be read through."""

    kind: AircraftLine
    questions: tuple[Question, ...]
    comes_with: tuple[str, ...]


def questions_page(kind: Profile) -> QuestionsPage:
    """Return the questions of a kind."""
    lists = [one for phase in kind.phases for one in phase.lists]
    comes = [
        f"{len(lists)} lists with {len(kind.items)} items",
        f"{len(kind.body['emergency'])} emergency cards",
        f"{len(kind.put_backs)} temporary settings",
        "figures of common practice, each with that word",
    ]
    if kind.bench is not None:
        comes.append("the kind's simulated engine, to practise on")
    return QuestionsPage(kind=aircraft_line(kind), questions=questions_of(kind), comes_with=tuple(comes))


@dataclass(frozen=True, slots=True, kw_only=True)
class VersionLine:
    """A version: its number, its content, what was said of it, by whom, when, whether it counts now."""

    number: int
    content_hash: str
    note: str
    who: str
    saved_utc: str
    counts: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class VersionsPage:
    """The versions of an aircraft, the newest first, and whether something is being written."""

    aircraft: AircraftLine
    versions: tuple[VersionLine, ...]
    has_draft: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class DifferencesPage:
    """What differs between two versions, line by line."""

    before: int
    after: int
    lines: tuple[Difference, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class BalancePage:
    """What an aircraft's handbook says of its loading, or None where the profile has nothing of it; the mass of a US gallon of
    avgas [kg]."""

    aircraft: AircraftLine
    balance: Balance | None
    fuel_kg_gal: float


def balance_page(profile: Profile) -> BalancePage:
    """Return the page of an aircraft's loading."""
    kg = AVGAS_KG_PER_LITRE * LITRE_PER_US_GALLON
    return BalancePage(aircraft=aircraft_line(profile), balance=profile.balance, fuel_kg_gal=kg)


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnLine:
    """An item of a pilot's own."""

    challenge: str
    response: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnList:
    """A list of an aircraft with a pilot's own items behind it; `locked` says by whom it is."""

    id: str
    title: str
    phase: str
    locked: str | None
    items: tuple[OwnLine, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelControl:
    """A control that a panel may show: which items name it, where it is in words, what it is mistaken for."""

    id: str
    title: str
    where: str | None
    mistaken_for: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot:
    """Where a control is on the photo, from its left and its top edge (0 to 1)."""

    control: str
    x: float
    y: float


_FOUND_WITHIN = 0.05  # of the photo's width: a finger's breadth on a tablet (common practice)


def is_found(spot: Spot, x: float, y: float, size: tuple[int, int]) -> bool:
    """Say whether a touch at a place of the photo (0 to 1) is on a control; `size` is the photo's [pixels]."""
    return hypot(x - spot.x, (y - spot.y) * size[1] / size[0]) <= _FOUND_WITHIN


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelPage:
    """An aircraft's panel: the photo's size (None: there is no photo), its spots, and the controls that its lists name."""

    aircraft: AircraftLine
    width: int | None
    height: int | None
    spots: tuple[Spot, ...]
    controls: tuple[PanelControl, ...]


def controls_of(profile: Profile) -> tuple[PanelControl, ...]:
    """Return the controls that an aircraft's lists name: those with a place or a lever, each once, in the order of the flight."""
    found: dict[str, PanelControl] = {}
    for item in profile.items.values():
        name = control_of(item)
        if (item.where or item.lever) and name not in found:
            found[name] = PanelControl(id=name, title=item.challenge, where=item.where, mistaken_for=item.mistaken_for)
    return tuple(found.values())
