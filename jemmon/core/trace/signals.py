"""Every signal: one row each, and nowhere else its name, title, unit, whose it is, and which limits watch it.

A reading is what a needle shows, a lever what a hand sets, a word what a switch says. In a file a column is a signal with
one of its units (`egt3_c`); inside, a moment's reading is named by `column_of` (`egt3_f`). A second engine's begin `e2_`.
"""

import functools
import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import TypeVar

from ..base.figures import figure
from ..base.units import TO_CORE
from .garbage import Swing, Swings


class Kind(StrEnum):
    """What a signal is: a needle, a light (1 lit, 0 out), a lever from 0 to 1, a switch (0 or 1), a switch with named positions."""

    READING = "reading"
    LIGHT = "light"
    LEVER = "lever"
    SWITCH = "switch"
    WORD = "word"


class When(StrEnum):
    """When a limit counts: at all times, while the engine runs, at idle, with warm oil, at speed, but not while a starter turns,
    or only then, or in what is flown."""

    ALWAYS = "always"
    RUNNING = "running"
    IDLING = "idling"
    WARM = "warm"
    AT_SPEED = "at_speed"
    NOT_CRANKING = "not_cranking"
    CRANKING = "cranking"
    FLYING = "flying"


# common practice: what the weight of a propeller, of air in pipes and of metal does not let a needle do and come back from. A row
# without anything (0) between rows that agree is garbage at slow rows too
_AT_SLOW_ROWS = Swing(16.0, 1.3, 0.05, above_all=True)
_OF_A_NEEDLE = (Swing(8.0, 1.3, 0.35), _AT_SLOW_ROWS)
# slower than that an overspeed may be an engine's or a rotor's own, and is never hidden
_OF_A_PROPELLER = (Swing(1.1, 1.15, 0.35), *_OF_A_NEEDLE)
_OF_AIR = (Swing(2.2, 1.15, 0.35), Swing(6.2, 1.2, 0.35), *_OF_A_NEEDLE)
# fuel flutters, but not to nothing; at idle its sender is as noisy as its figure is small
_OF_FUEL = (Swing(6.2, 1.2, 0.05), Swing(8.0, 1.3, 0.05), _AT_SLOW_ROWS)
# a pump that draws air for a second shows less; only nothing at all is garbage
_OF_OIL = (Swing(8.0, 1.3, 0.05), _AT_SLOW_ROWS)
_OF_HEIGHT = (Swing(2.2, 1.07, 0.93), Swing(8.0, 1.15, 0.85), Swing(16.0, 1.25, 0.75))
_ANY_RISE = 1e9
_STANDING = 0.04  # common practice: of all that a tachometer can show, below what an engine idles at
_ANYTHING = Swings()
_PROBE = Swings(
    (Swing(2.2, 1.12, 0.85), Swing(6.2, 1.2, 0.75), Swing(16.0, 1.15, 0.6, above_all=True)),
    newest=Swing(0.6, 1.12, 0.85),
)
# to close a throttle and open it again takes longer; pumped, it opens for a row, and it goes where it is put at once
_HAND = Swings((Swing(2.2, _ANY_RISE, 0.05),), 0.1, newest=Swing(0.0, _ANY_RISE, 0.0))


@dataclass(frozen=True, slots=True, kw_only=True)
class Watch:
    """A limit that watches a signal. `is_grave`: passing it is a stop. `is_told`: passing it is a finding; `is_told_in_flight`:
    in the air only, since on the ground a check of its own tells; else only the needle shows it."""

    limit: str
    is_high: bool
    is_grave: bool = False
    is_told: bool = True
    is_told_in_flight: bool = False
    when: When = When.ALWAYS


def most(limit: str, is_grave: bool = True, when: When = When.ALWAYS) -> Watch:
    """Return the watch of a highest allowed figure."""
    return Watch(limit=limit, is_high=True, is_grave=is_grave, when=when)


def least(
    limit: str,
    is_grave: bool = False,
    is_told: bool = False,
    is_told_in_flight: bool = False,
    when: When = When.RUNNING,
) -> Watch:
    """Return the watch of a lowest allowed figure."""
    return Watch(
        limit=limit,
        is_high=False,
        is_grave=is_grave,
        is_told=is_told,
        is_told_in_flight=is_told_in_flight,
        when=when,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Signal:
    """One signal. `unit` is the core's (empty for a lever or a word); `has_suffix` says whether a column names its unit;
    `slack` is what a needle cannot tell from its limit (in the unit; common practice: half of a usual gauge's mark);
    `lowest` and `highest` bound what a sensor can say at all; `swings` what it does not do within seconds; `words` say the 0 and
    the 1 of a switch or a light."""

    name: str
    title: str
    unit: str = ""
    kind: Kind = Kind.READING
    has_suffix: bool = True
    is_shared: bool = False
    is_per_cylinder: bool = False
    is_derived: bool = False
    slack: float = 0.0
    lowest: float = 0.0
    highest: float = 1.0
    swings: Swings = _ANYTHING
    watched_by: tuple[Watch, ...] = ()
    words: tuple[str, str] | None = None

    @property
    def column(self) -> str:
        """The name of its reading in the core's unit, without a cylinder's number: `oil_p_psi`, `rpm`."""
        return f"{self.name}_{self.unit}" if self.unit and self.has_suffix else self.name

    @property
    def is_lever(self) -> bool:
        """Whether a hand sets it."""
        return self.kind not in (Kind.READING, Kind.LIGHT)

    def read_out(self, value: float | str) -> str:
        """Return a value (core unit; a lever's share) as it is read out: a word, a lever in percent, a figure with its unit."""
        if isinstance(value, str):
            return value
        if self.words is not None:
            return self.words[value > 0.5]
        return f"{100 * value:.0f} %" if self.is_lever else figure(value, self.unit)


def _needle(
    name: str,
    title: str,
    unit: str,
    bounds: tuple[float, float],
    *watches: Watch,
    slack: float = 0.0,
    swings: Swings = _ANYTHING,
) -> Signal:
    lowest, highest = bounds
    return Signal(
        name=name,
        title=title,
        unit=unit,
        lowest=lowest,
        highest=highest,
        swings=swings,
        watched_by=tuple(watches),
        slack=slack,
    )


def _speed(name: str, title: str, unit: str, highest: float, slack: float, *watches: Watch) -> Signal:
    return Signal(
        name=name,
        title=title,
        unit=unit,
        has_suffix=False,
        highest=highest,
        swings=Swings(_OF_A_PROPELLER, _STANDING * highest),
        slack=slack,
        watched_by=tuple(watches),
    )


def _of_both(
    name: str,
    title: str,
    unit: str,
    bounds: tuple[float, float],
    *watches: Watch,
    slack: float = 0.0,
    swings: Swings = _ANYTHING,
) -> Signal:
    return replace(_needle(name, title, unit, bounds, *watches, slack=slack, swings=swings), is_shared=True)


def _probe(name: str, title: str, *watches: Watch) -> Signal:
    return Signal(
        name=name,
        title=title,
        unit="f",
        is_per_cylinder=True,
        slack=2.0,
        lowest=-80.0,
        highest=3000.0,
        swings=_PROBE,
        watched_by=tuple(watches),
    )


def _lever(name: str, title: str, kind: Kind = Kind.LEVER, is_shared: bool = False) -> Signal:
    return Signal(name=name, title=title, kind=kind, has_suffix=False, is_shared=is_shared)


def _switch(name: str, title: str, is_shared: bool = False, words: tuple[str, str] = ("off", "on")) -> Signal:
    return replace(_lever(name, title, Kind.SWITCH, is_shared), words=words)


_TEMPERATURE_F = (-80.0, 800.0)
_ROWS = (
    # a tachometer under a governor moves by as much (common practice)
    _speed("rpm", "RPM", "rpm", 12_000.0, 15.0, most("rpm_max")),
    _speed("rpm_pct", "Engine", "pct", 250.0, 0.5, most("rpm_pct_max_pct")),
    _speed("rotor_pct", "Rotor", "pct", 250.0, 0.5, least("rotor_min_pct", when=When.FLYING), most("rotor_max_pct")),
    _speed("rotor", "Rotor RPM", "rpm", 5_000.0, 5.0),
    _needle(
        "map",
        "Manifold pressure",
        "inhg",
        (0.0, 120.0),
        most("map_max_inhg", when=When.AT_SPEED),
        slack=0.3,
        swings=Swings(_OF_AIR, 5.0),
    ),
    _needle("ff", "Fuel flow", "gph", (0.0, 600.0), swings=Swings(_OF_FUEL, 1.5)),
    _needle(
        *("fp", "Fuel pressure", "psi", (0.0, 250.0)),
        *(least("fuel_pressure_min_psi", is_told_in_flight=True), most("fuel_pressure_max_psi", is_grave=False)),
        slack=0.2,
    ),
    _needle(
        *("oil_p", "Oil pressure", "psi", (0.0, 400.0)),
        least("oil_pressure_min_psi", is_grave=True, is_told=True),
        least("oil_pressure_idle_min_psi", is_grave=True, is_told=True, when=When.IDLING),
        most("oil_pressure_max_psi", is_grave=False, when=When.WARM),
        slack=1.5,
        swings=Swings(_OF_OIL, 5.0),
    ),
    _needle(
        "oil_t",
        "Oil temperature",
        "f",
        _TEMPERATURE_F,
        most("oil_t_max_f"),
        slack=1.0,
        swings=_PROBE,
    ),
    _probe("egt", "EGT"),
    _probe("cht", "CHT", most("cht_max_f")),
    Signal(
        name="cht_max",
        title="Hottest CHT",
        unit="f",
        is_derived=True,
        slack=2.0,
        lowest=-80.0,
        highest=3000.0,
        watched_by=(most("cht_max_f"),),
    ),  # fmt: skip
    _needle(
        "tit",
        "Turbine inlet",
        "f",
        (-80.0, 3000.0),
        most("tit_max_f"),
        slack=2.0,
        swings=_PROBE,
    ),
    _needle(
        *("coolant_t", "Coolant", "f", _TEMPERATURE_F),
        most("coolant_t_max_f"),
        slack=1.0,
        swings=_PROBE,
    ),
    _needle("cat", "Carburettor air", "f", _TEMPERATURE_F, least("carb_air_min_f", when=When.AT_SPEED), slack=1.0),
    _needle("iat", "Induction air", "f", _TEMPERATURE_F),
    _of_both("oat", "Outside", "f", (-120.0, 180.0)),
    _of_both(
        *("volts", "Bus voltage", "v", (0.0, 60.0)),
        *(least("volts_min_v", when=When.NOT_CRANKING), most("volts_max_v", is_grave=False)),
        least("volts_crank_min_v", when=When.CRANKING),
        least("volts_charging_min_v", is_told_in_flight=True, when=When.AT_SPEED),
        slack=0.1,
        swings=Swings(_OF_A_NEEDLE, 5.0),
    ),
    _needle("amps", "Load", "a", (-500.0, 500.0)),
    _needle("amps2", "Second alternator", "a", (-500.0, 500.0)),
    _of_both("batt_amps", "Battery", "a", (-1000.0, 1000.0)),
    _of_both("batt2_amps", "Standby battery", "a", (-100.0, 100.0)),
    _of_both(
        *("suction", "Suction", "inhg", (0.0, 15.0)),
        least("suction_min_inhg", is_told_in_flight=True, when=When.AT_SPEED),
        Watch(limit="suction_max_inhg", is_high=True, is_told=False, when=When.AT_SPEED),
        slack=0.05,
    ),
    _of_both("palt", "Pressure altitude", "ft", (-2_000.0, 60_000.0), swings=Swings(_OF_HEIGHT)),
    _of_both("ias", "Airspeed", "kt", (0.0, 600.0), swings=Swings(_OF_A_NEEDLE, 30.0)),
    _of_both("fuel_l", "Left tank", "gal", (0.0, 2_000.0)),
    _of_both("fuel_r", "Right tank", "gal", (0.0, 2_000.0)),
    Signal(name="blower_light", title="Blower light", kind=Kind.LIGHT, has_suffix=False, words=("out", "lit")),
    Signal(name="roughness", title="Roughness", has_suffix=False, is_derived=True),
    replace(_lever("throttle", "Throttle"), swings=_HAND),
    _lever("mixture", "Mixture"),
    _lever("prop", "Propeller"),
    _lever("carb_heat", "Carburettor heat"),
    _lever("cowl_flaps", "Cowl flaps"),
    replace(_lever("collective", "Collective"), swings=_HAND),
    _lever("tank", "Fuel tank"),
    _lever("mag", "Magnetos", Kind.WORD),
    _switch("lane_a", "Lane A"),
    _switch("lane_b", "Lane B"),
    _switch("master", "Master", is_shared=True),
    _switch("starter", "Starter"),
    _switch("energise", "Energise"),
    _switch("mesh", "Mesh"),
    _switch("primer", "Primer"),
    _switch("primer_unlocked", "Primer unlocked"),
    _switch("alternator", "Alternator"),
    _switch("pump", "Fuel pump"),
    _switch("backup_pump", "Backup pump"),
    _switch("ground_power", "Ground power", is_shared=True),
    _switch("crossfeed", "Crossfeed", is_shared=True),
    _switch("clutch", "Clutch"),
    _switch("governor", "Governor"),
    _switch("blower", "Blower", words=("low", "high")),
    _switch("standby", "Standby battery", is_shared=True),
    _switch("standby_test", "Standby battery test", is_shared=True),
)
SIGNALS: Mapping[str, Signal] = {row.name: row for row in _ROWS}
BY_COLUMN: Mapping[str, Signal] = {row.column: row for row in _ROWS}
SWITCHES = tuple(row.name for row in _ROWS if row.kind is Kind.SWITCH)
SHARED: frozenset[str] = frozenset(row.name for row in _ROWS if row.is_shared)
MAG_POSITIONS = ("OFF", "L", "R", "BOTH")  # as a number in kept samples: its place here
SECOND = "e2_"
T = TypeVar("T")
_NUMBERED = re.compile(r"^(egt|cht)([1-9]\d?)$")


_NAMES_KEPT = 4096  # every frame asks for the same few hundred names a hundred times


@functools.lru_cache(maxsize=_NAMES_KEPT)
def engine_of(name: str) -> tuple[int, str]:
    """Return (engine, own name) of a column, reading or lever: `e2_rpm` is engine 2's `rpm`."""
    return (2, name.removeprefix(SECOND)) if name.startswith(SECOND) else (1, name)


def prefix_of(engine: int) -> str:
    """Return what an engine's names begin with."""
    return SECOND if engine == 2 else ""


@functools.lru_cache(maxsize=_NAMES_KEPT)
def cylinder_of(name: str) -> tuple[str, int | None]:
    """Return (signal, cylinder or None) of a signal's name: `egt3` is the EGT of cylinder 3."""
    found = _NUMBERED.match(name)
    return (found[1], int(found[2])) if found else (name, None)


@functools.lru_cache(maxsize=1024)
def signal_of(column: str) -> tuple[int, str, str] | None:
    """Return (engine, signal, unit) of a trace column, or None if it is not one that we know.

    >>> signal_of("e2_egt3_c")
    (2, 'egt3', 'c')
    """
    engine, name = engine_of(column)
    row = SIGNALS.get(name)
    if row is not None and not row.has_suffix and not row.is_derived:
        return engine, name, ""
    parts = name.split("_")
    for cut in range(len(parts) - 1, 0, -1):
        stem, unit = "_".join(parts[:cut]), "_".join(parts[cut:])
        own, cylinder = cylinder_of(stem)
        row = SIGNALS.get(own)
        if row is None or row.is_derived or not row.has_suffix or row.is_per_cylinder != (cylinder is not None):
            continue
        if unit in TO_CORE.get(row.unit, {}):
            return engine, stem, unit
    return None


@functools.lru_cache(maxsize=_NAMES_KEPT)
def row_of(signal: str) -> Signal | None:
    """Return the row of a signal by its name with or without a cylinder's number (`egt3`), or None."""
    return SIGNALS.get(cylinder_of(signal)[0])


def core_unit(signal: str) -> str:
    """Return the core's unit of a signal (`egt3`: f), empty for one without."""
    row = row_of(signal)
    return row.unit if row else ""


def column_of(signal: str, engine: int = 1) -> str:
    """Return the name of a signal's reading in the core's unit: `egt3` of engine 2 is `e2_egt3_f`.

    Raises:
        KeyError: there is no such signal.
    """
    own, cylinder = cylinder_of(signal)
    row = SIGNALS[own]
    name = signal if not row.has_suffix or not row.unit else f"{own}{cylinder or ''}_{row.unit}"
    return prefix_of(engine) + name


@functools.lru_cache(maxsize=_NAMES_KEPT)
def reading_row(name: str) -> Signal | None:
    """Return the row of a reading or lever by its name at a moment (`e2_oil_p_psi`, `egt3_f`, `mag`), or None."""
    _, own = engine_of(name)
    if (row := BY_COLUMN.get(own)) is not None:
        return row
    known = signal_of(own)
    return None if known is None else row_of(known[1])


def is_number_column(column: str) -> bool:
    """Say whether a column of this name must hold figures only."""
    known = signal_of(column)
    row = None if known is None else row_of(known[1])
    return row is not None and row.kind is not Kind.WORD


def of_engine(values: Mapping[str, T], number: int) -> dict[str, T]:
    """Return what belongs to one engine (readings, levers or columns) under its own names, with what both engines share."""
    if number == 1:
        return {name: value for name, value in values.items() if not name.startswith(SECOND)}
    shared = {name: value for name, value in values.items() if (row := reading_row(name)) and row.is_shared}
    own = {name.removeprefix(SECOND): value for name, value in values.items() if name.startswith(SECOND)}
    return {**shared, **own}
