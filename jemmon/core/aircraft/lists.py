"""What a profile says of procedures, as values: conditions, items, lists, phases, put-back pairs.

A list that is done once for each engine is unfolded here, in the profile's order, so that nothing after this module
has to keep two engines apart: item `mags` becomes `mags@1` and `mags@2`, each with its engine's own readings.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from ..base.errors import ProfileError
from ..base.figures import figure
from ..base.names import check_known
from ..base.units import DISPLAYS
from ..trace.signals import SECOND, SIGNALS
from .limits import LIMITS
from .phases import PHASE_KINDS, PhaseKind

FACTS = {
    "first_of_day": "first flight of the day",
    "night": "at night",
    "stood_h": "hours stood",
    "oat_c": "outside temperature",
    "density_altitude_ft": "density altitude",
    "start": "start",
    "engine_number": "engine number",
    "on_water": "on water",
    "landing_on_water": "landing on water",
    "cruise_ft": "cruise altitude",
    "people": "people on board",
}
_OF_EACH_ENGINE = frozenset(row.column for row in SIGNALS.values() if not row.is_shared)
_SHARED_COLUMNS = frozenset(row.column for row in SIGNALS.values() if row.is_shared)
READ_AND_DO, FLOW_THEN_VERIFY, TWO_PEOPLE = "read_do", "flow_verify", "two"
STYLES = (READ_AND_DO, FLOW_THEN_VERIFY, TWO_PEOPLE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """What a signal must show: between two figures (core units), or one word. `also` are the other engine's signals of the same
    name, where one item stands for both engines; `has_gap`: it names a limit that the profile does not give, so that nothing shows
    it as expected."""

    signal: str
    lowest: float | None = None
    highest: float | None = None
    word: str | None = None
    also: tuple[str, ...] = ()
    has_gap: bool = False

    def holds(self, value: float | str | None) -> bool | None:
        """Say whether a value is as expected; None where there is none to judge, or nothing is expected of it."""
        if value is None:
            return None
        if self.word is not None:
            return value == self.word
        if isinstance(value, str) or (self.lowest is None and self.highest is None):
            return None
        is_inside = (self.lowest is None or value >= self.lowest) and (self.highest is None or value <= self.highest)
        return None if is_inside and self.has_gap else is_inside

    def worst(self, known: Mapping[str, Any]) -> tuple[str, float | str | None, bool | None]:
        """Return (signal, value, whether it is as expected) of the engine that decides: one that is not as expected, else one
        without a value, else the first."""
        rows = [(name, known.get(name), self.holds(known.get(name))) for name in (self.signal, *self.also)]
        for wanted in (False, None):
            if found := next((row for row in rows if row[2] is wanted), None):
                return found
        return rows[0]


@dataclass(frozen=True, slots=True, kw_only=True)
class Condition:
    """One thing that must hold: a fact of the day or a reading, equal to a value, or above and below figures."""

    of: str
    equals: str | bool | float | None = None
    above: float | None = None
    below: float | None = None

    def holds(self, known: Mapping[str, Any]) -> bool | None:
        """Say whether the condition holds; None where what it asks for is not known."""
        value = known.get(self.of)
        if value is None:
            return None
        if self.equals is not None:
            return bool(value == self.equals)
        return (self.above is None or value > self.above) and (self.below is None or value < self.below)

    @property
    def words(self) -> str:
        """The condition as a pilot reads it."""
        name = FACTS.get(self.of, self.of.replace("_", " "))
        if self.equals is not None:
            return name if self.equals is True else f"not {name}" if self.equals is False else f"{name} {self.equals}"
        limits = [f"above {self._shown(self.above)}"] if self.above is not None else []
        limits += [f"below {self._shown(self.below)}"] if self.below is not None else []
        return f"{name} {' and '.join(limits)}"

    def _shown(self, value: float) -> str:
        unit = self.of.rpartition("_")[2]
        return figure(value, unit) if unit in DISPLAYS else f"{value:g}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """A figure that the pilot reads off and types, with its limits (core unit)."""

    title: str
    unit: str
    lowest: float | None = None
    highest: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Item:
    """One line of a list: what is read out, what is done, why, and what the data can show of it.

    `of`: which of the library's items it is. `seen_is_enough`: data alone confirm it. `holds`: data that contradict it open it
    again. `killer`: read again after a delay. `gate`: the phase at which a deferred item comes back. `away` and `back` name
    put-back pairs.
    """

    id: str
    challenge: str
    response: str
    why: str
    of: str | None = None
    caution: str | None = None
    lever: str | None = None
    reading: Reading | None = None
    check: str | None = None
    manual: str | None = None
    watch: str | None = None
    counts: str | None = None
    only_if: tuple[Condition, ...] = ()
    where: str | None = None
    mistaken_for: str | None = None
    killer: bool = False
    gate: str | None = None
    hold_s: float | None = None
    count_to: float | None = None
    count_of: str | None = None
    measure: Measure | None = None
    away: str | None = None
    back: str | None = None
    seen_is_enough: bool = False
    holds: bool = False
    meanwhile: bool = False
    engine: int = 0

    @property
    def needs_own_tap(self) -> bool:
        """Whether it is never confirmed with its whole list: a killer item, or one with a check, a figure, a clock or a count."""
        more = (self.check, self.manual, self.watch, self.measure, self.hold_s, self.count_to, self.counts)
        return self.killer or any(part is not None for part in more)


@dataclass(frozen=True, slots=True, kw_only=True)
class Checklist:
    """A list: its items in order, how it is read by default, and the areas that a flow sweeps first."""

    id: str
    title: str
    items: tuple[Item, ...]
    style: str = READ_AND_DO
    flow: tuple[str, ...] = ()
    only_if: tuple[Condition, ...] = ()
    memory: bool = False
    engine: int = 0
    is_for_all: bool = field(init=False, compare=False, default=False)

    def __post_init__(self) -> None:
        """Note once whether every item applies whatever is known: every frame asks it of every list."""
        object.__setattr__(self, "is_for_all", not any(item.only_if for item in self.items))


@dataclass(frozen=True, slots=True, kw_only=True)
class Phase:
    """A phase of the flight: its kind, its lists in order, the instruments that matter, and what shows that it has begun."""

    id: str
    title: str
    kind: PhaseKind
    instruments: tuple[str, ...]
    lists: tuple[Checklist, ...]
    begins: tuple[Condition, ...] = ()

    @property
    def items(self) -> tuple[Item, ...]:
        """All items of all lists, in order."""
        return tuple(item for checklist in self.lists for item in checklist.items)


@dataclass(frozen=True, slots=True, kw_only=True)
class PutBack:
    """A temporary setting: how the levers show that it is on, and after how long it is due back. Where no lever is known,
    `away_at_rest` are the readings that show it on while the engine stands (a bus above any battery's volts).

    `back_by` names the phase that cannot be begun with it away; without one no phase can be called complete.
    """

    id: str
    title: str
    back: str
    due_s: float
    lever: str | None = None
    away_above: float | None = None
    away_below: float | None = None
    away_least: float | None = None
    away_is: tuple[str, ...] = ()
    away_at_rest: tuple[Condition, ...] = ()
    phases: tuple[str, ...] = ()
    back_by: str | None = None
    needs_engine: bool = False

    def is_away(self, position: float | str, phase: str) -> bool:
        """Say whether the lever at this position, in this phase, is something to put back."""
        if self.phases and phase not in self.phases:
            return False
        if isinstance(position, str):
            return position in self.away_is
        if self.away_above is not None and position > self.away_above:
            return True
        least = self.away_least if self.away_least is not None else -1.0
        return self.away_below is not None and least <= position < self.away_below


def control_of(item: Item) -> str:
    """Return the name by which an item's control is marked on a photo: its lever, else what is read out of it; what is done to one
    control in many items is marked once."""
    return item.lever or re.sub(r"[^a-z0-9]+", "_", item.challenge.lower()).strip("_")[:60]


def condition_from(body: Mapping[str, Any], place: str) -> Condition:
    """Return a condition. Raises ProfileError where it can never hold, or says nothing."""
    made = Condition(of=body["of"], equals=body.get("is"), above=body.get("above"), below=body.get("below"))
    if made.equals is None and made.above is None and made.below is None:
        raise ProfileError(f"{place}: its condition on {made.of!r} says nothing; give `is`, `above` or `below`.")
    if made.above is not None and made.below is not None and made.above >= made.below:
        raise ProfileError(
            f"{place}: its condition on {made.of!r} can never hold, above {made.above:g} and below {made.below:g}."
        )
    return made


def conditions_from(body: Sequence[Mapping[str, Any]], place: str) -> tuple[Condition, ...]:
    """Return conditions that must all hold. Raises ProfileError where two contradict each other."""
    made = tuple(condition_from(row, place) for row in body)
    wanted: dict[str, Any] = {}
    for condition in made:
        if condition.equals is not None and wanted.setdefault(condition.of, condition.equals) != condition.equals:
            raise ProfileError(
                f"{place}: {condition.of!r} cannot be {wanted[condition.of]!r} and {condition.equals!r}."
            )
    return made


def phase_from(body: Mapping[str, Any], limits: Mapping[str, float], engines: Sequence[tuple[int, str]]) -> Phase:
    """Return a phase with its lists unfolded for each engine (number, name) in order. Raises ProfileError."""
    lists: list[Checklist] = []
    for row in body["lists"]:
        checklist = _list_from(row, limits)
        if row.get("each_engine"):
            lists += [_for_engine(checklist, number, name) for number, name in engines]
        else:
            lists.append(_for_all(checklist, engines))
    return Phase(
        id=body["id"],
        title=body["title"],
        kind=PHASE_KINDS[body["kind"]],
        instruments=tuple(body["instruments"]),
        lists=tuple(lists),
        begins=conditions_from(body.get("begins", ()), f"Phase {body['id']!r}"),
    )


def _list_from(body: Mapping[str, Any], limits: Mapping[str, float]) -> Checklist:
    return Checklist(
        id=body["id"],
        title=body["title"],
        items=tuple(_item_from(item, limits) for item in body["items"]),
        style=body.get("style", READ_AND_DO),
        flow=tuple(body.get("flow", ())),
        only_if=conditions_from(body.get("only_if", ()), f"List {body['id']!r}"),
        memory=body.get("memory", False),
    )


def _own_name(prefix: str, name: str) -> str:
    """Return the name of an engine's own signal; what both engines share has one name."""
    return name if name in _SHARED_COLUMNS else prefix + name


def _for_all(checklist: Checklist, engines: Sequence[tuple[int, str]]) -> Checklist:
    """Return a list that is done once: what an item reads, it reads on every engine."""
    if len(engines) == 1:
        return checklist
    items = tuple(
        replace(item, reading=replace(item.reading, also=(SECOND + item.reading.signal,)))
        if item.reading and item.reading.signal in _OF_EACH_ENGINE
        else item
        for item in checklist.items
    )
    return replace(checklist, items=items)


def _for_engine(checklist: Checklist, number: int, name: str) -> Checklist:
    """Return a list for one engine: ids end in @number, readings and levers are that engine's own."""
    prefix = "" if number == 1 else f"e{number}_"
    here = {"engine_number": number}
    items = tuple(
        replace(
            item,
            id=f"{item.id}@{number}",
            engine=number,
            reading=replace(item.reading, signal=_own_name(prefix, item.reading.signal)) if item.reading else None,
            lever=_own_name(prefix, item.lever) if item.lever else None,
            only_if=tuple(c for c in item.only_if if c.of != "engine_number"),
        )
        for item in checklist.items
        if all(c.holds(here) for c in item.only_if if c.of == "engine_number")
    )
    return replace(
        checklist, id=f"{checklist.id}@{number}", title=f"{checklist.title}, {name}", items=items, engine=number
    )


def _item_from(body: Mapping[str, Any], limits: Mapping[str, float]) -> Item:
    place = f"Item {body['id']!r}"
    special = {
        "reading": _reading_from(body["reading"], limits, place) if "reading" in body else None,
        "only_if": conditions_from(body.get("only_if", ()), place),
        "measure": _measure_from(body["measure"], limits, place) if "measure" in body else None,
    }
    return Item(**{**body, **special})


def _figure(body: Mapping[str, Any], own: str, named: str, limits: Mapping[str, float], place: str) -> float | None:
    if named in body:
        check_known(f"{place}, `{named}`", body[named], {**limits, **LIMITS}, ProfileError)
        return limits.get(body[named])  # a limit that the profile does not give makes no expectation
    return body.get(own)


def _ordered(lowest: float | None, highest: float | None, place: str) -> None:
    if lowest is not None and highest is not None and lowest > highest:
        raise ProfileError(f"{place}: its reading can never hold, {lowest:g} is above {highest:g}.")


def _measure_from(body: Mapping[str, Any], limits: Mapping[str, float], place: str) -> Measure:
    lowest = _figure(body, "min", "min_limit", limits, place)
    highest = _figure(body, "max", "max_limit", limits, place)
    _ordered(lowest, highest, place)
    return Measure(title=body["title"], unit=body["unit"], lowest=lowest, highest=highest)


def _reading_from(body: Mapping[str, Any], limits: Mapping[str, float], place: str) -> Reading:
    lowest = _figure(body, "min", "min_limit", limits, place)
    highest = _figure(body, "max", "max_limit", limits, place)
    near = _figure(body, "", "near_limit", limits, place)
    band = _figure(body, "", "band_limit", limits, place)
    if near is not None and band is not None:
        lowest, highest = near - band, near + band
    _ordered(lowest, highest, place)
    named = [body[key] for key in ("min_limit", "max_limit", "near_limit", "band_limit") if key in body]
    return Reading(
        signal=body["signal"],
        lowest=lowest,
        highest=highest,
        word=body.get("is"),
        has_gap=any(name not in limits for name in named),
    )
