"""Cylinder heads, the exhaust probe's surroundings, and the oil. K, W, J."""

import math

import numpy as np
from numba import njit

_STILL_AIR_M_S, _STILL_DUCT_M_S = 2.5, 0.1
_COOLING_EXPONENT = 0.62
_COOLING_REFERENCE_M_S = 30.0
# times the speed from which the engine runs by itself, which is full speed (fitted: heads at 200 °F in 4 to 7 min)
_BLAST_TAKEN_AT = 6.0
# hours in which what stands gives off 63 % of its heat (common practice)
HEAD_SOAK_H, COOLANT_SOAK_H, OIL_SOAK_H = 0.7, 1.2, 1.6
_FULL_SPEED = 1.13  # of the speed at which cylinders fill best
_SLOW_AIR_TAKES = 3.16  # a radiator in slow air is bounded by what that air can carry off
_STANDS_BELOW_RPM, _STANDS_BELOW_M_S = 20.0, 5.0
# single-grade aviation oils at 40 and 100 °C (common practice: SAE 30 about 100 and 11 mm2/s, SAE 60 about 280 and 24)
_THIN_GRADE, _THIN_AT_40_CST, _THIN_AT_100_CST = 30.0, 100.0, 11.2
_THICK_GRADE, _THICK_AT_40_CST, _THICK_AT_100_CST = 60.0, 280.0, 24.0
_FILLS_HALF_AS_FAST = 60.0  # times the viscosity of warm oil
_REFERENCE_CST = 34.4  # grade 50 at 82 °C
# the grade for the season: SAE 20 in deep frost to SAE 50 in summer (common practice of engine makers)
_SEASON_C, _SEASON_GRADE = (-25.0, -10.0, 5.0, 20.0), (20.0, 30.0, 40.0, 50.0)


@njit
def cooling_air_m_s(airspeed_m_s, rpm, p):
    """Return the speed of the air over the fins: the propeller's blast and the flight. A cowl that stands takes little of a slow
    propeller's blast, and more the faster it turns: about four tenths at warm-up speed."""
    taken = min(rpm / (_BLAST_TAKEN_AT * p.metering_from_rpm), 1.0)
    blast = p.blast_m_per_rev * rpm / 60.0 * taken
    return math.sqrt(airspeed_m_s * airspeed_m_s + blast * blast + _STILL_AIR_M_S**2)


@njit
def radiator_air_m_s(airspeed_m_s, rpm, p):
    """Return the speed of the air through a radiator: one under a wing gets little of a slow propeller's blast."""
    fast = min(rpm / (_FULL_SPEED * p.volumetric_efficiency_best_rpm), 1.0) ** 4
    share = p.radiator_blast_share + (1.0 - p.radiator_blast_share) * fast
    blast = share * p.blast_m_per_rev * rpm / 60.0
    return math.sqrt(airspeed_m_s * airspeed_m_s + blast * blast + _STILL_DUCT_M_S**2)


@njit
def stands(rpm, airspeed_m_s):
    """Return whether an engine is at rest on the ground and only soaks."""
    return rpm < _STANDS_BELOW_RPM and airspeed_m_s < _STANDS_BELOW_M_S


@njit
def soaked_w(part_k, outside_k, capacity_j_k, hours):
    """Return the heat [W] that a part of a standing engine gives off."""
    return capacity_j_k * (part_k - outside_k) / (hours * 3600.0)


@njit
def cooling_flow(air_m_s, density_ratio):
    """Return the share of its cooling at the reference airspeed that a head gets from air of this speed and density."""
    return (air_m_s * density_ratio / _COOLING_REFERENCE_M_S) ** _COOLING_EXPONENT


@njit
def probe_reach(air_kg_s, p):
    """Return how much of the gas above its head an exhaust probe shows: the port cools it, more so at little flow."""
    if air_kg_s <= 1e-5:
        return 0.0
    return math.exp(-0.21 * p.probe_way * max(air_kg_s / p.reference_air_flow_kg_s, 0.05) ** -0.2)


@njit
def turbine_reach(air_kg_s, p):
    """Return the same for the gas at the turbine, which is hotter than a probe that is in pulses."""
    if air_kg_s <= 1e-5:
        return 0.0
    return math.exp(-0.135 * max(air_kg_s / p.reference_air_flow_kg_s, 0.05) ** -0.2)


@njit
def kinematic_viscosity_cst(oil_k, grade):
    """Return the viscosity [mm2/s] of a single-grade oil, by ASTM D341 through its figures at 40 and 100 °C."""
    thick = (grade - _THIN_GRADE) / (_THICK_GRADE - _THIN_GRADE)
    at_40 = _THIN_AT_40_CST * (_THICK_AT_40_CST / _THIN_AT_40_CST) ** thick
    at_100 = _THIN_AT_100_CST * (_THICK_AT_100_CST / _THIN_AT_100_CST) ** thick
    upper, lower = math.log10(math.log10(at_40 + 0.7)), math.log10(math.log10(at_100 + 0.7))
    warmer = math.log10(max(oil_k, 233.0) / 313.15) / math.log10(373.15 / 313.15)
    return 10.0 ** (10.0 ** (upper + (lower - upper) * warmer)) - 0.7


@njit
def oil_viscosity_ratio(oil_k, grade):
    """Return the viscosity of an oil of this grade against that of grade 50 at 82 °C."""
    return kinematic_viscosity_cst(oil_k, grade) / _REFERENCE_CST


def grade_for(outside_k):
    """Return the grade (SAE) that engine makers recommend for starting in air of this temperature [K], shape as given."""
    return np.interp(np.asarray(outside_k) - 273.15, _SEASON_C, _SEASON_GRADE)


@njit
def oil_pressure_psi(rpm, viscosity, fill, p):
    """Return the pressure behind the relief valve [psi]; thick oil lifts it far above the valve's setting."""
    pumped = 1.0 - math.exp(-p.oil_pump_per_krpm * rpm / 1000.0 * math.sqrt(viscosity))
    over = 1.0 + 0.08 * max(math.log(viscosity), 0.0)
    return p.oil_relief_psi * over * pumped * fill


@njit
def oil_filling_per_s(rpm, viscosity, p):
    """Return how fast the galleries fill [share per second]: slower with thick oil."""
    return p.oil_fill_per_krpm_s * rpm / 1000.0 / (1.0 + viscosity / _FILLS_HALF_AS_FAST)


@njit
def cool_by_water(s, p, taken_w, outside_k, wind, shutter, is_standing, dt):
    """Heat the coolant by what the heads gave to it [W], and cool it in its radiator; nothing without a coolant."""
    if p.coolant_heat_capacity_j_k <= 0.0:
        return
    if is_standing:
        s.coolant_k -= soaked_w(s.coolant_k, outside_k, 1.0, COOLANT_SOAK_H) * dt
        return
    opened = min(max((s.coolant_k - p.coolant_thermostat_k + 8.0) / 8.0, 0.04), 1.0) * (0.25 + 0.75 * shutter)
    given = p.coolant_radiator_w_k * opened * min(math.sqrt(wind), _SLOW_AIR_TAKES * wind) * (s.coolant_k - outside_k)
    s.coolant_k += (taken_w - given) * dt / p.coolant_heat_capacity_j_k
