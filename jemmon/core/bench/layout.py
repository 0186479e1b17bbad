"""How an engine's constants, levers, air, faults and state lie in memory: numpy records that the compiled step reads by name.

Everything is SI here, except where the name says otherwise. The constants come from the profile's `bench` section
(`parameters_from`); none is set here.
"""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..errors import ProfileError

MAX_CYLINDERS = 6

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
    "prime_stroke_g",
    "prime_need_factor",
    "engine_pump_psi",
    "electric_pump_psi",
    "suction_inhg",
    "suction_per_krpm_inhg",
)
_CYLINDER_PARAMETERS = ("mixture_spread", "mixture_spread_full_throttle", "head_cooling_share", "egt_probe_bias")

PARAMETERS = np.dtype(
    [(name, "f8") for name in _SCALAR_PARAMETERS] + [(name, "f8", (MAX_CYLINDERS,)) for name in _CYLINDER_PARAMETERS]
)

MAG_POSITIONS = ("OFF", "L", "R", "BOTH")
# lever -> (kind, what it starts at)
LEVERS: dict[str, tuple[str, float]] = {
    "throttle": ("fraction", 0.0),
    "mixture": ("fraction", 0.0),
    "carb_heat": ("fraction", 0.0),
    "mag": ("mag", 0.0),
    "master": ("switch", 0.0),
    "starter": ("switch", 0.0),
    "alternator": ("switch", 1.0),
    "pump": ("switch", 0.0),
}
CONTROLS = np.dtype([(name, "f8") for name in LEVERS])

AIR = np.dtype([(name, "f8") for name in ("pressure_pa", "temperature_k", "humidity_ratio", "airspeed_m_s", "palt_ft")])

_SCALAR_FAULTS = (
    "late_timing_left",
    "late_timing_right",
    "dead_magneto_left",
    "dead_magneto_right",
    "open_ground_left",
    "open_ground_right",
    "stuck_carb_heat",
    "no_oil_pressure",
    "dead_alternator",
    "weak_suction",
    "rich_idle",
    "lean_idle",
    "low_idle_stop",
)
FAULT_SIZES = np.dtype(
    [(name, "f8") for name in _SCALAR_FAULTS]
    + [("dead_plug_left", "f8", (MAX_CYLINDERS,)), ("dead_plug_right", "f8", (MAX_CYLINDERS,))]
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
            "oil_fill",
            "oil_pressure_psi",
            "charge_ah",
            "bus_v",
            "alternator_a",
            "battery_a",
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
        )
    ]
    + [(name, "f8", (MAX_CYLINDERS,)) for name in ("head_k", "probe_k", "equivalence_ratio", "plug_share")]
)


def parameters_from(section: Mapping[str, Any]) -> np.ndarray:
    """Return one PARAMETERS record (shape ()) from the profile's `bench` section.

    Raises:
        ProfileError: a constant is missing, unknown, or has not one figure for each cylinder.
    """
    names = set(_SCALAR_PARAMETERS) | set(_CYLINDER_PARAMETERS)
    if missing := sorted(names - section.keys()):
        raise ProfileError(f"bench.{missing[0]} is missing; the simulated engine needs it.")
    if unknown := sorted(section.keys() - names - {"sources"}):
        raise ProfileError(f"bench.{unknown[0]} is not a constant of the simulated engine; remove it.")
    record = np.zeros((), PARAMETERS)
    for name in _SCALAR_PARAMETERS:
        record[name] = section[name]
    cylinders = int(section["cylinders"])
    for name in _CYLINDER_PARAMETERS:
        if len(section[name]) != cylinders:
            raise ProfileError(f"bench.{name} needs {cylinders} figures, one for each cylinder.")
        record[name][:cylinders] = section[name]
    return record


def engine_levers() -> tuple[str, ...]:
    """Return the names of the levers and switches, in the order in which they are shown."""
    return tuple(LEVERS)
