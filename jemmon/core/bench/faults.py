"""What can be wrong with the simulated engine: a named list, each with a size from 0 to 1."""

import numpy as np

from ..base.errors import ScriptError
from .deposits import HARMLESS
from .layout import FAULT_SIZES

# name -> what size 0.5 does to the engine
FAULTS: dict[str, str] = {
    "late_timing_left": "The left magneto fires late: on it alone the engine loses about 5 % more of its torque.",
    "late_timing_right": "The right magneto fires late: on it alone the engine loses about 5 % more of its torque.",
    "dead_magneto_left": "The left magneto misses every second spark.",
    "dead_magneto_right": "The right magneto misses every second spark.",
    "open_ground_left": "From size 0.5 up the left magneto goes on firing when the switch grounds it.",
    "open_ground_right": "From size 0.5 up the right magneto goes on firing when the switch grounds it.",
    "dead_plug_left": "The left plug of the numbered cylinder misses every second spark.",
    "dead_plug_right": "The right plug of the numbered cylinder misses every second spark.",
    "fouled_plug_left": "Deposits keep the numbered cylinder's left plug from every second spark; heat burns them off.",
    "fouled_plug_right": "Deposits keep the numbered cylinder's right plug from every second spark; heat burns them off.",
    "clogged_nozzle": "The numbered cylinder gets a sixth less fuel.",
    "lost_baffle": "The numbered cylinder's head gets a quarter less cooling air.",
    "intake_leak": "A twentieth of the idle's air comes in behind the throttle.",
    "stuck_carb_heat": "The carburettor-heat door opens half as far as its lever asks.",
    "carburettor_ice": "Ice closes a sixth of the carburettor's throat at that moment; heat melts it.",
    "no_oil_pressure": "The oil pump gives half its pressure.",
    "dead_alternator": "The alternator gives half its current.",
    "weak_suction": "The suction pump gives half its suction.",
    "weak_battery": "Half the battery's charge is gone at that moment.",
    "rich_idle": "The idle mixture is an eighth too rich.",
    "lean_idle": "The idle mixture is an eighth too lean.",
    "low_idle_stop": "The idle stop lets the throttle close a tenth further.",
    "no_start_retard": "Half the sparks of a start come early: the engine kicks against the starter.",
    "backfire": "From size 0.5 up the next misfire while cranking lights the fuel that lies in the intake.",
    "dead_alternator_2": "The second alternator gives half its current.",
    "dead_fuel_pump": "The electric fuel pump gives half its pressure.",
    "oil_in_the_cylinders": "So much oil has run above the lower pistons at that moment that half of it locks the engine.",
    "vapour_in_the_lines": "Half the fuel in the lines has boiled at that moment.",
    "wet_plugs": "The plugs are half wet with fuel at that moment.",
    "slow_governor": "The propeller's pitch moves at a quarter of its speed.",
    "stuck_governor": "From size 0.5 up the pitch does not move.",
    "surging_governor": "The governor hunts by 3 % of its speed, every three seconds.",
    "slow_feather": "The propeller feathers at half its speed.",
    "stuck_freewheel": "From size 0.5 up the freewheel does not let go: the rotor stays with the engine.",
    "hot_starter": "The starter is at half the heat that it bears at that moment.",
}
# a fault that is something of this moment, and where it is
_STATES = {
    "carburettor_ice": "ice",
    "oil_in_the_cylinders": "lock_oil",
    "vapour_in_the_lines": "line_vapour",
    "wet_plugs": "wet",
    "hot_starter": "starter_heat",
}
_STATES_BY_CYLINDER = {"fouled_plug_left": "fouled_left", "fouled_plug_right": "fouled_right"}
_BY_CYLINDER = ("dead_plug_left", "dead_plug_right", "clogged_nozzle", "lost_baffle", *_STATES_BY_CYLINDER)


def fault_names(cylinders: int) -> list[str]:
    """Return every name that a script may use; the faults of one plug end in `_` and the cylinder's number."""
    names = [name for name in FAULTS if name not in _BY_CYLINDER]
    return names + [f"{name}_{number}" for name in _BY_CYLINDER for number in range(1, cylinders + 1)]


def set_fault(faults: np.ndarray, state: np.ndarray, name: str, size: float, cylinders: int) -> None:
    """Set a fault in FAULT_SIZES and STATE records of one engine (both shape (1,)).

    Raises:
        ScriptError: no such fault, or a size outside 0 to 1.
    """
    if name not in fault_names(cylinders):
        raise ScriptError(f"There is no fault {name!r}; `jemmon bench --list` names them all.")
    if not 0 <= size <= 1:
        raise ScriptError(f"The size of fault {name!r} is {size:g}; it must be within 0 to 1.")
    if name in _STATES:
        state[_STATES[name]] = size
    elif name == "weak_battery":
        state["charge_ah"] *= 1 - size
    elif name in (FAULT_SIZES.names or ()):
        faults[name] = size
    else:
        kind, number = name.rsplit("_", 1)
        if kind in _STATES_BY_CYLINDER:
            state[_STATES_BY_CYLINDER[kind]][..., int(number) - 1] = HARMLESS * (size > 0) + (1 - HARMLESS) * size
        else:
            faults[kind][..., int(number) - 1] = size
