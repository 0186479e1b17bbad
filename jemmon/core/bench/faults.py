"""What can be wrong with the simulated engine: one row a fault, each with a size from 0 to 1.

A fault is a size that the compiled step reads, something of this moment that the state keeps (deposits, water, a flat battery),
or a lie of an instrument, which `sensor_faults` tells on top of the true readings. docs/faults.md says what each shows.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from enum import Enum
from typing import Any

import numpy as np

from ..base.errors import ScriptError
from .deposits import HARMLESS
from .layout import MAX_CYLINDERS

Section = Mapping[str, Any]


class Place(Enum):
    """Where a fault lives."""

    SIZE = "a size that the step reads"
    STATE = "something of this moment, which the state keeps"
    SENSOR = "an instrument"


def _any(section: Section) -> bool:
    return True


def _has(constant: str) -> Callable[[Section], bool]:
    return lambda section: float(section.get(constant, 0)) > 0


def _lever(*names: str) -> Callable[[Section], bool]:
    return lambda section: any(name in section["levers"] for name in names)


def _shows(name: str) -> Callable[[Section], bool]:
    return lambda section: name in section["instruments"]


def _carburetted(section: Section) -> bool:
    return float(section.get("fuel_injection", 0)) == 0


def _injected(section: Section) -> bool:
    return float(section.get("fuel_injection", 0)) > 0


def _pumped_by_the_engine(section: Section) -> bool:
    return float(section.get("fuel_injection", 0)) < 2 and "pump" in section["levers"]


def _governed_by_oil(section: Section) -> bool:
    return float(section.get("pitch_rate_per_s", 0)) > 0 and float(section.get("governor_needs_oil", 0)) > 0


def _turned_by_propeller(section: Section) -> bool:
    return float(section.get("pitch_rate_per_s", 0)) > 0


def _primed(section: Section) -> bool:
    return float(section["prime_stroke_g"]) > 0 or float(section.get("primer_g_s", 0)) > 0


@dataclass(frozen=True, slots=True)
class Fault:
    """One fault: its name, what size 0.5 does to the engine, where it lives, and which engines can have it."""

    name: str
    says: str
    can: Callable[[Section], bool] = _any
    place: Place = Place.SIZE
    by_cylinder: bool = False
    state: str = ""  # the part of the state that a fault of this moment sets
    whole: float = 1.0  # what a size of 1 sets there
    part: str = ""  # of the engine, as a list for a pilot groups them
    is_shared: bool = False  # the engines of an aircraft have one of it


def _of_cylinder(name: str, says: str, can: Callable[[Section], bool] = _any) -> Fault:
    return Fault(name, says, can, by_cylinder=True)


def _now(name: str, says: str, state: str, can: Callable[[Section], bool] = _any, whole: float = 1.0) -> Fault:
    return Fault(name, says, can, Place.STATE, state=state, whole=whole)


def _of_plug(name: str, says: str, state: str) -> Fault:
    return Fault(name, says, _any, Place.STATE, by_cylinder=True, state=state)


def _lie(name: str, says: str, can: Callable[[Section], bool] = _any, by_cylinder: bool = False) -> Fault:
    return Fault(name, says, can, Place.SENSOR, by_cylinder=by_cylinder)


_MAGNETOS = _lever("mag")
_PARTS: dict[str, tuple[Fault, ...]] = {
    "Ignition": (
        Fault(
            "late_timing_left",
            "The left magneto fires late: on it alone the engine loses about 5 % more of its torque.",
        ),
        Fault(
            "late_timing_right",
            "The right magneto fires late: on it alone the engine loses about 5 % more of its torque.",
        ),
        Fault("early_timing_left", "The left magneto fires early: cooler exhaust, hotter CHT, nearer to detonation."),
        Fault("early_timing_right", "The right magneto fires early: cooler exhaust, hotter CHT, nearer to detonation."),
        Fault("dead_magneto_left", "The left magneto misses every second spark."),
        Fault("dead_magneto_right", "The right magneto misses every second spark."),
        Fault("open_ground_left", "From size 0.5 up the left magneto goes on firing when the switch grounds it."),
        Fault("open_ground_right", "From size 0.5 up the right magneto goes on firing when the switch grounds it."),
        Fault(
            "distributor_left",
            "In thin air and at high power the left distributor leaks half of its sparks.",
            _MAGNETOS,
        ),
        Fault(
            "distributor_right",
            "In thin air and at high power the right distributor leaks half of its sparks.",
            _MAGNETOS,
        ),
        Fault(
            "weak_impulse",
            "Half the sparks are missing while the starter turns: it fires as the key is let go.",
            _MAGNETOS,
        ),
        _of_cylinder("dead_plug_left", "The left plug of the numbered cylinder misses every second spark."),
        _of_cylinder("dead_plug_right", "The right plug of the numbered cylinder misses every second spark."),
        _of_plug(
            "fouled_plug_left",
            "Deposits keep the numbered cylinder's left plug from every second spark; heat burns them off.",
            "fouled_left",
        ),
        _of_plug(
            "fouled_plug_right",
            "Deposits keep the numbered cylinder's right plug from every second spark; heat burns them off.",
            "fouled_right",
        ),
        _of_plug(
            "leaded_plug_left",
            "Lead bridges the numbered cylinder's left plug for every second spark; minutes of heat burn off up to two thirds.",
            "leaded_left",
        ),
        _of_plug(
            "leaded_plug_right",
            "Lead bridges the numbered cylinder's right plug for every second spark; minutes of heat burn off up to two thirds.",
            "leaded_right",
        ),
    ),
    "Cylinders and exhaust": (
        _of_cylinder(
            "stuck_valve",
            "A valve of the numbered cylinder sticks half the time while it is cold, and frees as it warms.",
        ),
        _of_cylinder(
            "broken_ring", "The numbered cylinder loses a fifth of its work, more at low speed and while it is cold."
        ),
        _of_cylinder(
            "pre_ignition",
            "A hot spot in the numbered cylinder lights the charge too early: CHT climbs, exhaust cools.",
        ),
        _of_cylinder("exhaust_leak", "The numbered cylinder's exhaust leaks before its probe, which shows 45 °F less."),
        Fault(
            "afterfire", "Unburnt fuel lights in the exhaust every few seconds when the throttle is closed at speed."
        ),
        Fault(
            "holed_piston",
            "The numbered cylinder gives a third less, and the oil leaves through the breather.",
            place=Place.STATE,
            by_cylinder=True,
            state="holed",
        ),
        _of_cylinder(
            "clogged_nozzle", "The numbered cylinder gets a sixth less fuel; of an injection the others get the rest."
        ),
        _of_cylinder("lost_baffle", "The numbered cylinder's head gets a tenth less cooling air."),
        _of_cylinder(
            "leaking_pipe", "Air comes in at the numbered cylinder's intake pipe: lean at idle, well at full throttle."
        ),
    ),
    "Intake and fuel": (
        Fault("intake_leak", "A twentieth of the idle's air comes in behind the throttle."),
        Fault("stuck_carb_heat", "The carburettor-heat door opens half as far as its lever asks.", _lever("carb_heat")),
        _now(
            "carburettor_ice",
            "Ice closes a sixth of the carburettor's throat at that moment; heat melts it.",
            "ice",
            _carburetted,
            0.35,
        ),
        Fault("rich_idle", "The idle mixture is an eighth too rich."),
        Fault("lean_idle", "The idle mixture is an eighth too lean."),
        Fault("low_idle_stop", "The idle stop lets the throttle close a tenth further."),
        Fault("backfire", "From size 0.5 up the next misfire while cranking lights the fuel that lies in the intake."),
        Fault(
            "primer_open",
            "The primer is not locked: half a stroke of fuel every four seconds at idle, less at power.",
            _primed,
        ),
        Fault("dead_fuel_pump", "The electric fuel pump gives half its pressure.", _lever("pump")),
        Fault("weak_engine_pump", "The pump that the engine drives gives half its pressure.", _pumped_by_the_engine),
        Fault(
            "vapour_in_climb",
            "Fuel boils in the lines as pressure falls in a climb; the electric pump cures it.",
            _lever("pump"),
        ),
        _now("vapour_in_the_lines", "Half the fuel in the lines has boiled at that moment.", "line_vapour"),
        _now("water_in_fuel", "Twenty grams of water reach the engine from that moment on.", "water_kg", whole=0.04),
        _now("wet_plugs", "The plugs are half wet with fuel at that moment.", "wet"),
    ),
    "Oil": (
        Fault("no_oil_pressure", "The oil pump gives half its pressure."),
        Fault("oil_leak", "Half the oil is gone in ten minutes; pressure flutters, then falls."),
        Fault("summer_oil", "The oil is half way to summer's, too thick for a cold day."),
        _now(
            "oil_in_the_cylinders",
            "So much oil has run above the lower pistons at that moment that half of it locks the engine.",
            "lock_oil",
            _has("lock_oil_per_h"),
        ),
    ),
    "Starting": (
        Fault("no_start_retard", "Half the sparks of a start come early: the engine kicks against the starter."),
        Fault(
            "sticking_starter",
            "From size 0.5 up the starter stays engaged after the key is let go, until the master is off.",
        ),
        _now("hot_starter", "The starter is at half the heat that it bears at that moment.", "starter_heat", whole=1.1),
    ),
    "Electrics and suction": (
        Fault("dead_alternator", "The alternator gives half its current."),
        Fault("open_field", "From size 0.5 up the alternator's field is open: no current at all."),
        Fault("overvoltage", "The regulator lets the bus rise by a tenth.", is_shared=True),
        Fault(
            "surging_alternator", "The alternator's voltage hunts by a twentieth, every two seconds.", is_shared=True
        ),
        Fault("dead_alternator_2", "The second alternator gives half its current.", _has("alternator_2_max_a")),
        Fault(
            "weak_battery",
            "Half the battery's charge is gone at that moment.",
            place=Place.STATE,
            state="charge_ah",
            is_shared=True,
        ),
        Fault("weak_suction", "The suction pump gives half its suction.", _shows("suction_inhg")),
    ),
    "Propeller and rotor": (
        Fault("slow_governor", "The propeller's pitch moves at a quarter of its speed.", _turned_by_propeller),
        Fault("stuck_governor", "From size 0.5 up the pitch does not move.", _turned_by_propeller),
        Fault("surging_governor", "The governor hunts by 3 % of its speed, every three seconds.", _turned_by_propeller),
        Fault("runaway_propeller", "From size 0.5 up the pitch runs to fine and stays there.", _governed_by_oil),
        Fault("slow_feather", "The propeller feathers at half its speed.", _has("feather_pitch")),
        Fault(
            "stuck_freewheel",
            "From size 0.5 up the freewheel does not let go: the rotor stays with the engine.",
            _has("rpm_100"),
        ),
    ),
    "Instruments": (
        _lie(
            "dead_egt_probe",
            "The exhaust probe of the numbered cylinder shows the air outside from size 0.5 up.",
            _shows("egt"),
            True,
        ),
        _lie(
            "drifting_egt_probe",
            "The exhaust probe of the numbered cylinder shows 5 °F less every minute.",
            _shows("egt"),
            True,
        ),
        _lie(
            "stuck_egt_probe",
            "The exhaust probe of the numbered cylinder keeps its figure from size 0.5 up.",
            _shows("egt"),
            True,
        ),
        _lie("noisy_egt_probe", "The exhaust probe of the numbered cylinder is noisy by 25 °F.", _shows("egt"), True),
        _lie(
            "dead_cht_probe",
            "The CHT probe of the numbered cylinder shows the air outside from size 0.5 up.",
            _shows("cht"),
            True,
        ),
        _lie(
            "drifting_cht_probe",
            "The CHT probe of the numbered cylinder shows 5 °F less every minute.",
            _shows("cht"),
            True,
        ),
        _lie(
            "stuck_cht_probe",
            "The CHT probe of the numbered cylinder keeps its figure from size 0.5 up.",
            _shows("cht"),
            True,
        ),
        _lie("noisy_cht_probe", "The CHT probe of the numbered cylinder is noisy by 25 °F.", _shows("cht"), True),
        _lie("tachometer_error", "The tachometer shows 2 % too little."),
        _lie("tachometer_steps", "The tachometer moves in steps of 25 RPM."),
        _lie(
            "map_line_leak",
            "The line of the manifold-pressure gauge leaks: it shows an eighth of the way to the air outside.",
        ),
        _lie("flow_bias", "The fuel-flow gauge shows 5 % too much.", _shows("ff_gph")),
        Fault(
            "dropouts", "One reading of ten is missing; the figure before it stays.", place=Place.SENSOR, is_shared=True
        ),
    ),
}
ROWS: tuple[Fault, ...] = tuple(replace(row, part=part) for part, rows in _PARTS.items() for row in rows)
BY_NAME: dict[str, Fault] = {row.name: row for row in ROWS}
FAULTS: dict[str, str] = {row.name: row.says for row in ROWS}
_OF_SIZE = [row for row in ROWS if row.place is Place.SIZE]
FAULT_SIZES = np.dtype(
    [(row.name, "f8") for row in _OF_SIZE if not row.by_cylinder]
    + [(row.name, "f8", (MAX_CYLINDERS,)) for row in _OF_SIZE if row.by_cylinder]
)
_SPARK_LOSS = (
    "fouled_left",
    "fouled_right",
    "leaded_left",
    "leaded_right",
)  # what a plug bears unharmed is added to these


def fault_names(cylinders: int) -> list[str]:
    """Return every name that a script may use; the faults of one plug end in `_` and the cylinder's number."""
    names = [row.name for row in ROWS if not row.by_cylinder]
    return names + [f"{row.name}_{n}" for row in ROWS if row.by_cylinder for n in range(1, cylinders + 1)]


def faults_of(section: Section) -> tuple[Fault, ...]:
    """Return the faults that an engine with this `bench` section can have."""
    return tuple(row for row in ROWS if row.can(section))


def checked_fault(name: str, size: float, cylinders: int) -> tuple[Fault, int]:
    """Return the row of a fault and the cylinder, counted from 0, that its name tells (0 where it is of the whole engine).

    Raises:
        ScriptError: no such fault, or a size outside 0 to 1.
    """
    if name not in fault_names(cylinders):
        raise ScriptError(f"There is no fault {name!r}; `jemmon bench --list` names them all.")
    if not 0 <= size <= 1:
        raise ScriptError(f"The size of fault {name!r} is {size:g}; it must be within 0 to 1.")
    if name in BY_NAME:
        return BY_NAME[name], 0
    kind, number = name.rsplit("_", 1)
    return BY_NAME[kind], int(number) - 1


def set_fault(faults: np.ndarray, state: np.ndarray, row: Fault, cylinder: int, size: float) -> None:
    """Set a fault in FAULT_SIZES and STATE records of one engine (both shape (1,)); `size` is a share, 0 to 1."""
    if row.place is Place.SIZE:
        if row.by_cylinder:
            faults[row.name][..., cylinder] = size
        else:
            faults[row.name] = size
    elif row.name == "weak_battery":
        state["charge_ah"] *= 1 - size
    elif row.state in _SPARK_LOSS:
        state[row.state][..., cylinder] = HARMLESS * (size > 0) + (1 - HARMLESS) * size
    elif row.by_cylinder:
        state[row.state][..., cylinder] = size
    else:
        state[row.state] = size * row.whole
