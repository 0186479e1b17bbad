"""Mass and balance: where the centre of gravity is at take-off, at landing and without fuel, whether it is inside the envelope, and
how much ballast would bring it there.

The sum of masses times arms over the sum of masses (FAA-H-8083-1, Aircraft Weight and Balance Handbook). A helicopter is loaded in
two directions: along and across. Masses in kg, arms in m from the handbook's own datum, aft and right positive.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from ..base.errors import ProfileError

_MOST_KG = 20_000.0  # common practice: more than any piston aircraft carries is another unit, or a slip
Point = tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Station:
    """A place that is loaded: its arm along and across [m], the most that it takes [kg], whether it is fuel, or ballast may lie
    there."""

    id: str
    title: str
    arm_m: float
    across_m: float = 0.0
    most_kg: float | None = None
    is_fuel: bool = False
    takes_ballast: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Balance:
    """What a handbook says of an aircraft's loading: its empty mass [kg] and arms [m], its stations, the corners of the envelope
    (arm along [m], mass [kg]), a helicopter's corners across (arm along [m], arm across [m]), and the greatest masses [kg]."""

    empty_kg: float
    empty_arm_m: float
    empty_across_m: float
    stations: tuple[Station, ...]
    envelope: tuple[Point, ...]
    across: tuple[Point, ...]
    most_take_off_kg: float
    most_landing_kg: float
    most_zero_fuel_kg: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Loaded:
    """A state of the loaded aircraft: mass [kg], arms [m], and what is against it in words; nothing where it is inside."""

    title: str
    mass_kg: float
    arm_m: float
    across_m: float
    against: tuple[str, ...]
    is_inside: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Ballast:
    """The least ballast [kg] at a station that brings every state inside."""

    station: str
    mass_kg: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadingSheet:
    """A loading worked out: take-off, landing and without fuel; stations that are over what they take; ballast that would bring it
    inside (None: it is inside, or no ballast does); whether every state is inside and no station is over."""

    states: tuple[Loaded, ...]
    over: tuple[str, ...]
    ballast: Ballast | None
    is_inside: bool


def balance_from(section: Mapping[str, Any] | None) -> Balance | None:
    """Return what a profile's `balance` section says, or None where it has none. Raises
    ProfileError where two stations have one id, or the envelope encloses nothing."""
    if section is None:
        return None
    stations = tuple(Station(**row) for row in section["stations"])
    envelope = tuple((float(row["arm_m"]), float(row["mass_kg"])) for row in section["envelope"])
    if len({one.id for one in stations}) < len(stations):
        raise ProfileError("balance.stations: two stations have one id.", "balance.stations")
    if area_of(envelope) == 0.0:
        raise ProfileError(
            "balance.envelope: its corners enclose nothing; give them in their order.", "balance.envelope"
        )
    return Balance(
        empty_kg=section["empty_kg"],
        empty_arm_m=section["empty_arm_m"],
        empty_across_m=section.get("empty_across_m", 0.0),
        stations=stations,
        envelope=envelope,
        across=tuple((float(row["arm_m"]), float(row["across_m"])) for row in section.get("across", ())),
        most_take_off_kg=section["most_take_off_kg"],
        most_landing_kg=section.get("most_landing_kg", section["most_take_off_kg"]),
        most_zero_fuel_kg=section.get("most_zero_fuel_kg"),
    )


def loading_sheet(balance: Balance, loads_kg: Mapping[str, float], burned_kg: float) -> LoadingSheet:
    """Return a loading [kg by station] worked out, with the fuel [kg] that is burned until landing.

    Raises:
        ProfileError: a load is below 0 or of no station, or more fuel is burned than is on board.
    """
    known = {one.id: one for one in balance.stations}
    for name, mass in loads_kg.items():
        if name not in known:
            raise ProfileError(f"There is no station {name!r}; there are {', '.join(known)}.", name)
        if not 0 <= mass <= _MOST_KG:
            raise ProfileError(
                f"{known[name].title} is loaded with {mass:g} kg; it must be 0 to {_MOST_KG:,.0f} kg.", name
            )
    fuel_kg = sum(mass for name, mass in loads_kg.items() if known[name].is_fuel)
    if not 0 <= burned_kg <= fuel_kg + 1e-9:
        raise ProfileError(f"{burned_kg:g} kg of fuel are burned, and {fuel_kg:g} kg are on board.", "burned_kg")
    over = tuple(
        f"{one.title}: {loads_kg.get(one.id, 0.0):.0f} kg, at most {one.most_kg:g} kg"
        for one in balance.stations
        if one.most_kg is not None and loads_kg.get(one.id, 0.0) > one.most_kg
    )
    states = _states(balance, loads_kg, burned_kg)
    inside = all(state.is_inside for state in states)
    ballast = None if inside else _ballast(balance, loads_kg, burned_kg)
    return LoadingSheet(states=states, over=over, ballast=ballast, is_inside=inside and not over)


def _states(balance: Balance, loads_kg: Mapping[str, float], burned_kg: float) -> tuple[Loaded, ...]:
    fuel = [one.id for one in balance.stations if one.is_fuel]
    fuel_kg = sum(loads_kg.get(name, 0.0) for name in fuel)
    left = 0.0 if fuel_kg == 0 else 1.0 - burned_kg / fuel_kg
    landing = {name: mass * (left if name in fuel else 1.0) for name, mass in loads_kg.items()}
    dry = {name: mass for name, mass in loads_kg.items() if name not in fuel}
    return (
        _state("Take-off", balance, loads_kg, balance.most_take_off_kg),
        _state("Landing", balance, landing, balance.most_landing_kg),
        _state("Without fuel", balance, dry, balance.most_zero_fuel_kg),
    )


def _state(title: str, balance: Balance, loads_kg: Mapping[str, float], most_kg: float | None) -> Loaded:
    rows = [(balance.empty_kg, balance.empty_arm_m, balance.empty_across_m)]
    rows += [(loads_kg.get(one.id, 0.0), one.arm_m, one.across_m) for one in balance.stations]
    mass = sum(row[0] for row in rows)
    arm, across = (sum(row[0] * row[place] for row in rows) / mass for place in (1, 2))
    against = tuple(_against(balance, mass, arm, across, most_kg))
    return Loaded(
        title=title,
        mass_kg=mass,
        arm_m=arm,
        across_m=across,
        against=against,
        is_inside=not against,
    )


def _against(balance: Balance, mass: float, arm: float, across: float, most_kg: float | None) -> Iterator[str]:
    """Yield what is against a state."""
    if most_kg is not None and mass > most_kg:
        yield f"{{{mass - most_kg:.1f}|kg}} above the greatest mass"
    if not is_within((arm, mass), balance.envelope):
        bounds = span_at(balance.envelope, mass)
        if bounds is None:
            yield "the mass is outside the envelope"
        elif arm < bounds[0]:
            yield f"{{~{bounds[0] - arm:.3f}|m}} ahead of the forward limit"
        else:
            yield f"{{~{arm - bounds[1]:.3f}|m}} behind the aft limit"
    if balance.across and not is_within((arm, across), balance.across):
        yield "outside the limits to the side"


def is_within(point: Point, corners: Sequence[Point]) -> bool:
    """Say whether a point is inside a polygon or on its edge (a ray's crossings are odd inside)."""
    inside, (x, y) = False, point
    for (x1, y1), (x2, y2) in pairwise([*corners, corners[0]]):
        turn = (x2 - x1) * (y - y1) - (y2 - y1) * (x - x1)
        size = max(abs(x2 - x1), abs(y2 - y1), 1e-12)
        on_line = abs(turn) <= 1e-9 * size * max(abs(y), abs(x), 1.0)
        if on_line and min(x1, x2) - 1e-9 <= x <= max(x1, x2) + 1e-9 and min(y1, y2) - 1e-9 <= y <= max(y1, y2) + 1e-9:
            return True
        if (y1 > y) != (y2 > y) and x < (x2 - x1) * (y - y1) / (y2 - y1) + x1:
            inside = not inside
    return inside


def span_at(corners: Sequence[Point], y: float) -> Point | None:
    """Return where a polygon begins and ends along x at a y, or None where it does not reach there."""
    crossings = [
        x1 if y1 == y2 else x1 + (x2 - x1) * (y - y1) / (y2 - y1)
        for (x1, y1), (x2, y2) in pairwise([*corners, corners[0]])
        if min(y1, y2) <= y <= max(y1, y2)
    ]
    return (min(crossings), max(crossings)) if crossings else None


def area_of(corners: Sequence[Point]) -> float:
    """Return the area that corners enclose in their order, in the product of their units."""
    rows = pairwise([*corners, corners[0]]) if corners else ()
    return abs(sum(x1 * y2 - x2 * y1 for (x1, y1), (x2, y2) in rows)) / 2


def _ballast(balance: Balance, loads_kg: Mapping[str, float], burned_kg: float) -> Ballast | None:
    """Return the least ballast at any station for it that brings every state inside, or None where none does."""
    found = []
    for one in balance.stations:
        if one.takes_ballast:
            most = (one.most_kg or _MOST_KG) - loads_kg.get(one.id, 0.0)
            if (mass := _least_ballast(balance, loads_kg, burned_kg, one, most)) is not None:
                found.append(Ballast(station=one.title, mass_kg=mass))
    return min(found, key=lambda row: row.mass_kg, default=None)


def _least_ballast(
    balance: Balance, loads_kg: Mapping[str, float], burned_kg: float, station: Station, most_kg: float
) -> float | None:
    """Return the least mass [kg] there that brings every state inside, to a tenth of a kilogram."""

    def is_inside(mass: float) -> bool:
        more = {**loads_kg, station.id: loads_kg.get(station.id, 0.0) + mass}
        return all(state.is_inside for state in _states(balance, more, burned_kg))

    steps = range(1, min(int(most_kg * 10), 5_000) + 1)
    return next((step / 10 for step in steps if is_inside(step / 10)), None)
