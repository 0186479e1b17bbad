"""Cylinder heads, the exhaust probe's surroundings, and the oil. K, W, J."""

import math

from numba import njit

_STILL_AIR_M_S = 2.5
_COOLING_EXPONENT = 0.62
_COOLING_REFERENCE_M_S = 30.0
# times the speed from which the engine runs by itself, which is full speed (fitted: heads at 200 °F in 4 to 7 min)
_BLAST_TAKEN_AT = 6.0
_OIL_REFERENCE_K = 355.15
_OIL_VISCOSITY_K = 4500.0


@njit
def cooling_air_m_s(airspeed_m_s, rpm, p):
    """Return the speed of the air over the fins: the propeller's blast and the flight. A cowl that stands takes little of a slow
    propeller's blast, and more the faster it turns: about four tenths at warm-up speed."""
    taken = min(rpm / (_BLAST_TAKEN_AT * p.metering_from_rpm), 1.0)
    blast = p.blast_m_per_rev * rpm / 60.0 * taken
    return math.sqrt(airspeed_m_s * airspeed_m_s + blast * blast + _STILL_AIR_M_S**2)


@njit
def head_cooling_w(head_k, outside_k, air_m_s, share, density_ratio, p):
    """Return the heat that one head gives to the air [W]."""
    flow = (air_m_s * density_ratio / _COOLING_REFERENCE_M_S) ** _COOLING_EXPONENT
    return p.head_cooling_w_k * share * flow * (head_k - outside_k)


@njit
def probe_temperature_k(head_k, gas_k, air_kg_s, p):
    """Return what an exhaust probe settles at: gas cooled by the port, more so at little flow."""
    if air_kg_s <= 1e-5:
        return head_k
    reach = math.exp(-0.21 * max(air_kg_s / p.reference_air_flow_kg_s, 0.05) ** -0.2)
    return head_k + reach * (gas_k - head_k)


@njit
def turbine_inlet_k(head_k, gas_k, air_kg_s, p):
    """Return what the gas of one cylinder still has at the turbine: hotter than its probe, which is in pulses."""
    if air_kg_s <= 1e-5:
        return head_k
    reach = math.exp(-0.21 * max(air_kg_s / p.reference_air_flow_kg_s, 0.05) ** -0.2)
    return head_k + math.sqrt(reach) * (gas_k - head_k)


@njit
def oil_viscosity_ratio(oil_k):
    """Return the viscosity against that at 82 °C (common practice for a single-grade aviation oil)."""
    return math.exp(_OIL_VISCOSITY_K * (1.0 / max(oil_k, 233.0) - 1.0 / _OIL_REFERENCE_K))


@njit
def oil_pressure_psi(rpm, oil_k, fill, p):
    """Return the pressure behind the relief valve [psi]; thick oil lifts it far above the valve's setting."""
    viscosity = oil_viscosity_ratio(oil_k)
    pumped = 1.0 - math.exp(-p.oil_pump_per_krpm * rpm / 1000.0 * math.sqrt(viscosity))
    over = 1.0 + 0.08 * max(math.log(viscosity), 0.0)
    return p.oil_relief_psi * over * pumped * fill


@njit
def oil_filling_per_s(rpm, oil_k, p):
    """Return how fast the galleries fill [share per second]: slower with thick oil."""
    return p.oil_fill_per_krpm_s * rpm / 1000.0 / (1.0 + oil_viscosity_ratio(oil_k) / 60.0)


@njit
def cool_by_water(s, p, taken_w, outside_k, wind, shutter, dt):
    """Heat the coolant by what the heads gave to it [W], and cool it in its radiator; nothing without a coolant."""
    if p.coolant_heat_capacity_j_k <= 0.0:
        return
    opened = min(max((s.coolant_k - p.coolant_thermostat_k + 8.0) / 8.0, 0.04), 1.0) * (0.25 + 0.75 * shutter)
    given = p.coolant_radiator_w_k * opened * math.sqrt(wind) * (s.coolant_k - outside_k)
    s.coolant_k += (taken_w - given) * dt / p.coolant_heat_capacity_j_k
