"""What is done to the air before the throttle, and what bounds it: gear-driven blower, turbocharger, boost control.

A blower's ratio goes with the square of its speed; a turbocharger's with the heat of the exhaust, up to the deck pressure at
which its wastegate opens (common practice). Pa, K, W.
"""

import math

from numba import njit

_COMPRESSOR_EXPONENT, _COMPRESSOR_EFFICIENCY = 0.286, 0.7
_BLOWER_HEAT_EXPONENT = 0.35
_TURBO_LAG_S = 1.2
# a wastegate lags behind a throttle that is slammed open: 1 to 3 inHg too much with cold oil (common practice)
_LATE, _LATE_COLD, _CATCHES_UP_S, _WARM_OIL_K = 0.02, 0.13, 4.0, 345.0
_REFERENCE_GAS_K = 1100.0
_STANDARD_PA = 101325.0
_BACK_PRESSURE = 0.45  # of the boost: what the turbine dams up before it
_INHG_PA = 3386.389
_AIR_J_KG_K = 1005.0
_SHIFTS_FROM_PSI = 20.0  # a blower's clutches are worked by engine oil (common practice)


@njit
def shift_blower(s, c):
    """Let oil pressure hold the second gear in where it is chosen; what its light shows."""
    s.blower_in = 1.0 if c.blower > 0.5 and s.oil_pressure_psi >= _SHIFTS_FROM_PSI else 0.0


@njit
def blower_ratio(rpm, high, p):
    """Return the pressure ratio of a gear-driven blower at this speed; `high` is its second gear."""
    gear = p.blower_high_gear if high and p.blower_high_gear > 0.0 else 1.0
    return 1.0 + p.blower_ratio_per_krpm2 * rpm * rpm * 1e-6 * gear * gear


@njit
def blower_drag_w(rpm, high, air_kg_s, intake_k, p):
    """Return what a gear-driven blower takes from the shaft [W]: the work of compression."""
    work = blower_ratio(rpm, high, p) ** _COMPRESSOR_EXPONENT - 1.0
    return air_kg_s * _AIR_J_KG_K * intake_k * max(work, 0.0) / _COMPRESSOR_EFFICIENCY


@njit
def _cold_oil(s):
    """Return how slowly cold oil works a controller, 0 to 1."""
    return min(max((_WARM_OIL_K - s.oil_k) / 50.0, 0.0), 1.0)


@njit
def follow_turbo(s, p, outside_pa, gas_k, throttle, dt):
    """Move the turbocharger's ratio to what its exhaust gives, at most to where the wastegate opens; that comes late when the
    throttle is opened, later with cold oil: an overboost."""
    if p.turbo_boost <= 0.0:
        s.turbo_ratio = 1.0
        return
    flow = s.air_kg_s / p.reference_air_flow_kg_s
    thinner = math.sqrt(_STANDARD_PA / outside_pa)  # the turbine expands further where the air outside is thin
    closed = 1.0 + p.turbo_boost * flow**1.2 * gas_k / _REFERENCE_GAS_K * thinner
    opened = max(throttle - s.last_throttle, 0.0)
    s.wastegate_late += opened * (_LATE + _LATE_COLD * _cold_oil(s)) - s.wastegate_late * dt / _CATCHES_UP_S
    gate = max(p.wastegate_inhg * _INHG_PA / outside_pa, 1.0)
    if p.boost_from_throttle > 0.0:
        asked = min(max((throttle - p.boost_from_throttle) / (1.0 - p.boost_from_throttle), 0.0), 1.0)
        gate = 1.0 + (gate - 1.0) * asked
    wanted = min(closed, gate * (1.0 + s.wastegate_late))
    s.turbo_ratio += (wanted - s.turbo_ratio) * dt / _TURBO_LAG_S


@njit
def charged_k(intake_k, blown, turbo, p):
    """Return the temperature before the throttle [K] after blower and turbocharger; an intercooler takes its share."""
    heated = 1.0 + (turbo**_COMPRESSOR_EXPONENT - 1.0) / _COMPRESSOR_EFFICIENCY * (1.0 - p.intercooler_share)
    return intake_k * heated * blown**_BLOWER_HEAT_EXPONENT


@njit
def exhaust_pa(s, outside_pa):
    """Return the pressure against which the cylinders empty themselves."""
    return outside_pa * (1.02 + _BACK_PRESSURE * (s.turbo_ratio - 1.0))


@njit
def follow_boost_control(s, p, dt):
    """Close the throttle by what keeps manifold pressure at the limit of the boost control, where there is one."""
    if p.boost_limit_inhg <= 0.0:
        return
    over = s.manifold_pa / (p.boost_limit_inhg * _INHG_PA) - 1.0
    s.boost_cut = min(max(s.boost_cut + 3.0 * (1.0 - 0.6 * _cold_oil(s)) * over * dt, 0.0), 0.97)
