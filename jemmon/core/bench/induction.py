"""Air into the cylinders: throttle plate, choked below a pressure ratio of 0.528, against what the cylinders draw.

The flow function of an ideal nozzle, for air, is replaced by an ellipse through its two known points (choke and no
flow). It keeps within 0.5 % of isentropic flow and makes the balance a quadratic. SI units.
"""

import math

from numba import njit

GAS_CONSTANT = 287.05287
CHOKE_RATIO = 0.528
CHOKED_FLOW = 0.6847  # sqrt(gamma) (2/(gamma+1))^((gamma+1)/(2 gamma-2)) for gamma 1.4
_SPAN = 1.0 - CHOKE_RATIO
# warm air takes less heat from the walls on its way in: power goes with T^-0.4 to T^-0.6 at one pressure altitude (SAE J1349)
_STANDARD_K, _WARM_DAY_GAIN = 288.15, 0.46


@njit
def nozzle_flow(area_m2, upstream_pa, upstream_k, pressure_ratio):
    """Return the air [kg/s] through an effective area at a ratio of downstream to upstream pressure."""
    choked = area_m2 * upstream_pa * CHOKED_FLOW / math.sqrt(GAS_CONSTANT * upstream_k)
    x = max((pressure_ratio - CHOKE_RATIO) / _SPAN, 0.0)
    return choked * math.sqrt(max(1.0 - x * x, 0.0))


@njit
def throttle_area_m2(lever, idle_stop, p):
    """Return the effective area [m2] of the butterfly plate; `idle_stop` scales the gap that the stop leaves."""
    closed = math.radians(p.throttle_closed_angle_deg)
    angle = closed + (math.pi / 2 - closed) * lever
    opened = 1.0 - math.cos(angle) / math.cos(closed)
    return (p.throttle_area_idle_cm2 * idle_stop + p.throttle_area_open_cm2 * opened) * 1e-4


@njit
def balance(area_m2, upstream_pa, upstream_k, charge_k, outside_k, rpm, exhaust_pa, p):
    """Return (manifold pressure [Pa], air [kg/s]) at which plate and cylinders pass the same air."""
    n = rpm / 1000.0
    best = p.volumetric_efficiency_best_rpm / 1000.0
    efficiency = p.volumetric_efficiency * (1.0 - 0.02 * (n - best) ** 2)
    efficiency *= (outside_k / _STANDARD_K) ** _WARM_DAY_GAIN
    swept_m3_s = p.displacement_l * 1e-3 * rpm / 120.0
    draw = efficiency * swept_m3_s / ((p.compression_ratio - 1.0) * GAS_CONSTANT * charge_k)
    choked = area_m2 * upstream_pa * CHOKED_FLOW / math.sqrt(GAS_CONSTANT * upstream_k)
    a = draw * (p.compression_ratio * CHOKE_RATIO * upstream_pa - exhaust_pa)
    b = draw * p.compression_ratio * upstream_pa * _SPAN
    if b <= 0.0:
        return upstream_pa, 0.0
    if a >= choked:
        x = (choked - a) / b
    else:
        x = (choked * math.sqrt(b * b + choked * choked - a * a) - a * b) / (b * b + choked * choked)
    return upstream_pa * (CHOKE_RATIO + _SPAN * x), max(a + b * x, 0.0)
