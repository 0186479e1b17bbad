"""How an engine's constants, levers, air, faults and state lie in memory: numpy records that the compiled step reads by name.

Everything is SI here, except where the name says otherwise. The constants come from the profile's `bench` section
(`parameters_from`); none is set here.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..base.errors import ProfileError
from ..trace.signals import BY_COLUMN, SIGNALS, Kind

MAX_CYLINDERS = 12
MAX_TANKS = 4

_SCALAR_PARAMETERS = (
    "cylinders",
    "displacement_l",
    "compression_ratio",
    "throttle_area_open_cm2",
    "throttle_area_idle_cm2",
    "throttle_closed_angle_deg",
    "duct_loss_fraction",
    "reference_air_flow_kg_s",
    "carb_heat_rise_k",
    "carb_heat_pressure_loss_fraction",
    "volumetric_efficiency",
    "volumetric_efficiency_best_rpm",
    "fuel_air_base",
    "enrichment_full_throttle",
    "enrichment_idle",
    "enrichment_idle_air_kg_s",
    "enrichment_from_throttle",
    "mixture_cutoff_lever",
    "mixture_just_open_fraction",
    "accelerator_pump_g",
    "mixture_delay_s",
    "one_plug_left_work",
    "one_plug_right_work",
    "one_plug_wall_heat",
    "friction_bar",
    "friction_bar_per_krpm",
    "friction_bar_per_krpm2",
    "head_heat_capacity_j_k",
    "head_cooling_w_k",
    "head_wall_heat_share",
    "head_port_heat_share",
    "blast_m_per_rev",
    "oil_heat_capacity_j_k",
    "oil_friction_share",
    "oil_wall_heat_share",
    "oil_cooling_w_k",
    "oil_thermostat_k",
    "oil_relief_psi",
    "oil_pump_per_krpm",
    "oil_fill_per_krpm_s",
    "propeller_diameter_m",
    "propeller_cp0",
    "propeller_cp1",
    "propeller_cp2",
    "shaft_inertia_kg_m2",
    "battery_ah",
    "battery_flat_v",
    "battery_full_v",
    "battery_ohm",
    "starter_stall_nm",
    "starter_free_rpm",
    "starter_stall_a",
    "alternator_v",
    "alternator_max_a",
    "alternator_cut_in_rpm",
    "load_a",
    "pump_load_a",
    "metering_from_rpm",
    "prime_stroke_g",
    "prime_need_factor",
    "wet_plugs_from",
    "wet_plugs_g",
    "percolation_g",
    "line_vapour",
    "starter_hot_s",
    "engine_pump_psi",
    "electric_pump_psi",
    "suction_inhg",
    "suction_per_krpm_inhg",
)
# What only some aircraft have: left out, the part is not there (or does nothing).
_OPTIONAL_PARAMETERS: dict[str, float] = {
    "engines": 1,
    "fuel_injection": 0,  # 0 a carburettor, 1 continuous injection, 2 metered by a computer
    "gear_ratio": 1,
    "blower_ratio_per_krpm2": 0,
    "primer_g_s": 0,
    "injection_static_g_s": 0,
    "wobble_psi": 0,
    "lock_oil_per_h": 0,
    "start_sparks_both": 0,
    "inertia_kg_m2": 0,
    "inertia_motor_nm": 0,
    "inertia_free_rad_s": 1,
    "inertia_a": 0,
    "inertia_clutch_nm": 0,
    "alternator_2_max_a": 0,
    "alternator_2_cut_in_rpm": 0,
    "alternator_2_within_s": 0,
    "ground_power_v": 0,
    "coolant_heat_capacity_j_k": 0,
    "coolant_thermostat_k": 0,
    "coolant_radiator_w_k": 0,
    "radiator_blast_share": 0.5,
    "governor_low_rpm": 0,
    "governor_high_rpm": 0,
    "governor_needs_oil": 0,
    "governor_by_throttle": 0,
    "pitch_coarse_gain": 0,
    "pitch_rate_per_s": 0,
    "rpm_100": 0,
    "rotor_inertia_kg_m2": 0,
    "rotor_flat_w": 0,
    "rotor_collective_w": 0,
    "clutch_s": 1,
    "clutch_nm": 0,
    "feather_pitch": 0,
    "feather_per_s": 0,
    "flow_by_pressure": 0,  # the fuel-flow gauge measures the pressure before the nozzles
    "probe_way": 1,  # how far down its pipe an exhaust probe stands, against a usual one
    "throttle_by_collective": 0,  # how far raising the collective opens the throttle
    "lever_feathers_below": 0,
    "plug_fouling": 1,
    "blower_high_gear": 0,  # how much faster the second gear turns the blower
    "boost_limit_inhg": 0,  # a boost control closes the throttle above it
    "turbo_boost": 0,  # pressure rise of the turbocharger, wastegate shut, at the reference flow
    "wastegate_inhg": 0,  # the deck pressure at which the wastegate opens
    "boost_from_throttle": 0,  # a controller lets boost rise from this throttle on, in full at full throttle
    "intercooler_share": 0,
    "fuel_octane": 100,
    "tanks": 0,
    "tank_gal": 0,
    "standby_ah": 0,  # a small battery that carries the screens when the bus is dead
    "standby_load_a": 0,
}
_CYLINDER_PARAMETERS = ("mixture_spread", "mixture_spread_full_throttle", "head_cooling_share", "egt_probe_bias")

PARAMETERS = np.dtype(
    [(name, "f8") for name in (*_SCALAR_PARAMETERS, *_OPTIONAL_PARAMETERS)]
    + [(name, "f8", (MAX_CYLINDERS,)) for name in _CYLINDER_PARAMETERS]
)


@dataclass(frozen=True, slots=True)
class Lever:
    """A lever or switch of the simulated engine: where it starts, and where it rests in an aircraft that has none. What kind
    it is and whether both engines share it, the registry of signals says."""

    start: float = 0.0
    absent: float = 0.0


LEVERS: dict[str, Lever] = {
    "throttle": Lever(),
    "mixture": Lever(absent=1.0),
    "prop": Lever(start=1.0, absent=1.0),
    "carb_heat": Lever(),
    "cowl_flaps": Lever(start=1.0, absent=1.0),
    "collective": Lever(),
    "mag": Lever(),
    "lane_a": Lever(),
    "lane_b": Lever(),
    "master": Lever(),
    "starter": Lever(),
    "energise": Lever(),
    "mesh": Lever(),
    "primer": Lever(),
    "alternator": Lever(start=1.0, absent=1.0),
    "pump": Lever(),
    "backup_pump": Lever(),
    "ground_power": Lever(),
    "crossfeed": Lever(),
    "clutch": Lever(),
    "governor": Lever(),
    "blower": Lever(),
    "standby": Lever(),
    "standby_test": Lever(),
    "tank": Lever(),
}
RAMPED = tuple(name for name in LEVERS if SIGNALS[name].kind is Kind.LEVER and name != "tank")  # that is turned
# what a hand does at once: its effect is in `starting`
ACTIONS = ("prime_strokes", "prime_s", "wobble_strokes", "turn_blades")
CONTROLS = np.dtype([(name, "f8") for name in LEVERS])

# every instrument an aircraft may have, in the order in which `engine.read` writes them; then the probes
INSTRUMENTS = (
    *("rpm", "map_inhg", "ff_gph", "fp_psi", "oil_t_f", "oil_p_psi", "volts_v", "amps_a", "batt_amps_a"),
    *("suction_inhg", "cat_f", "oat_f", "palt_ft", "ias_kt", "rpm_pct", "rotor_pct", "coolant_t_f", "amps2_a", "tit_f"),
    *("batt2_amps_a", "blower_light"),
    *("egt", "cht"),
)
PROBES = ("egt", "cht")
PLAIN_INSTRUMENTS = tuple(name for name in INSTRUMENTS if name not in PROBES)
READ_WIDTH = len(PLAIN_INSTRUMENTS) + len(PROBES) * MAX_CYLINDERS  # of what `engine.read` writes of one engine
SHARED_INSTRUMENTS = tuple(name for name in INSTRUMENTS if BY_COLUMN.get(name) and BY_COLUMN[name].is_shared)

AIR = np.dtype([(name, "f8") for name in ("pressure_pa", "temperature_k", "humidity_ratio", "airspeed_m_s", "palt_ft")])

_OF_EACH_CYLINDER = (
    *("head_k", "probe_k", "equivalence_ratio", "plug_share", "fouled_left", "fouled_right"),
    *("leaded_left", "leaded_right", "holed"),
)
STATE = np.dtype(
    [
        (name, "f8")
        for name in (
            "time_s",
            "speed_rad_s",
            "hot_air",
            "heat_muff",
            "ice",
            "melt_water",
            "fuel_kg_s",
            "fuel_metered_kg_s",
            "film_kg",
            "vapour_kg_s",
            "last_throttle",
            "air_kg_s",
            "manifold_pa",
            "carburettor_k",
            "oil_k",
            "oil_grade",
            "viscosity",
            "viscosity_at_k",
            "oil_fill",
            "oil_pressure_psi",
            "charge_ah",
            "saturated_v",
            "bus_v",
            "alternator_a",
            "battery_a",
            "standby_used_ah",
            "standby_a",
            "suction_inhg",
            "fuel_pressure_psi",
            "roughness",
            "brake_w",
            "indicated_w",
            "friction_w",
            "cooling_w",
            "exhaust_w",
            "unburnt_w",
            "fuel_heat_w",
            "cranking_s",
            "strokes",
            "load_a",
            "wet",
            "line_k",
            "line_vapour",
            "cowl_k",
            "lock_oil",
            "throat_kg",
            "fire",
            "flywheel_rad_s",
            "starter_heat",
            "ran_s",
            "alternator_2_in",
            "alternator_2_a",
            "coolant_k",
            "pitch",
            "rotor_rad_s",
            "clutch_in",
            "governor_saw_rpm",
            "clutch_torque_nm",
            "unmetered_share",
            "turbo_ratio",
            "wastegate_late",
            "turbine_k",
            "charge_k",
            "intake_k",
            "boost_cut",
            "detonation_margin",
            "starved",
            "flow_shown_kg_s",
            "throttle_area_m2",
            "water_kg",
            "oil_share",
            "bearing_wear",
            "afterfire",
            "exhaust_fuel_j",
            "burnt_intake",
            "bent",
            "starter_stuck",
            "blower_in",
        )
    ]
    + [(name, "f8", (MAX_CYLINDERS,)) for name in _OF_EACH_CYLINDER]
    + [("tank_kg", "f8", (MAX_TANKS,))]
)


def parameters_from(section: Mapping[str, Any]) -> np.ndarray:
    """Return one PARAMETERS record (shape ()) from the profile's `bench` section.

    Raises:
        ProfileError: a constant, lever or instrument is missing, unknown, or has not one figure for each cylinder.
    """
    needed = {*_SCALAR_PARAMETERS, *_CYLINDER_PARAMETERS, "levers", "instruments"}
    if missing := sorted(needed - section.keys()):
        raise ProfileError(f"bench.{missing[0]} is missing; the simulated engine needs it.")
    known = needed | _OPTIONAL_PARAMETERS.keys() | {"sources", "positions", "flown_by", "second"}
    if unknown := sorted(section.keys() - known):
        raise ProfileError(f"bench.{unknown[0]} is not a constant of the simulated engine; remove it.")
    _check_names(section)
    record = np.zeros((), PARAMETERS)
    for name in _SCALAR_PARAMETERS:
        record[name] = section[name]
    for name, without in _OPTIONAL_PARAMETERS.items():
        record[name] = section.get(name, without)
    cylinders = int(section["cylinders"])
    if not 1 <= cylinders <= MAX_CYLINDERS:
        raise ProfileError(f"bench.cylinders is {cylinders}; the simulated engine has 1 to {MAX_CYLINDERS}.")
    if not 0 <= record["tanks"] <= MAX_TANKS or record["turbo_boost"] > 0 and record["wastegate_inhg"] <= 0:
        raise ProfileError(f"bench: tanks must be 0 to {MAX_TANKS}; a turbo_boost needs its wastegate_inhg.")
    for name in _CYLINDER_PARAMETERS:
        if len(section[name]) != cylinders:
            raise ProfileError(f"bench.{name} needs {cylinders} figures, one for each cylinder.")
        record[name][:cylinders] = section[name]
    return record


def _check_names(section: Mapping[str, Any]) -> None:
    for part, known in (("levers", LEVERS), ("positions", LEVERS), ("instruments", INSTRUMENTS)):
        if unknown := [name for name in section.get(part, ()) if name not in known]:
            raise ProfileError(f"bench.{part} names {unknown[0]!r}; known are {', '.join(known)}.")


def lever_names(section: Mapping[str, Any]) -> tuple[str, ...]:
    """Return the names of the aircraft's levers and switches in the order of the profile; a second engine's begin e2_."""
    own = tuple(section["levers"])
    if section.get("engines", 1) < 2:
        return own
    return own + tuple(f"e2_{name}" for name in own if not SIGNALS[name].is_shared)


def channel_names(section: Mapping[str, Any]) -> tuple[str, ...]:
    """Return the trace columns that the aircraft's sensors give, in the order of the profile; `egt` and `cht` stand for
    one probe at each cylinder, and a second engine's columns begin e2_."""
    probes = range(1, int(section["cylinders"]) + 1)
    own: list[str] = []
    for name in section["instruments"]:
        own += [f"{name}{number}_f" for number in probes] if name in PROBES else [name]
    if section.get("engines", 1) < 2:
        return tuple(own)
    return (*own, *(f"e2_{name}" for name in own if name not in SHARED_INSTRUMENTS))
