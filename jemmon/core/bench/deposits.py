"""Deposits on the plugs: they grow at idle on a rich mixture, and burn off once the tips are hot. K, s.

The temperature of a tip is the head's and a rise with pressure, speed and mixture; deposits burn above about 330 °C and
gather below about 180 °C (common practice; FAA-H-8083-32 on spark plug fouling; the edge is fitted to heads that warm in minutes).
"""

import math

from numba import njit

_TIP_RISE_K = 390.0  # at 100 kPa, 2,700 RPM, best mixture
_BURNS_FROM_K, _BURNS_PER_K_S = 600.0, 1.0 / 700.0
_FOULS_BELOW_K, _FOULS_FULLY_AT_K, _FOULS_PER_S = 460.0, 420.0, 1.0 / 1200.0
_RICH_FROM = 1.12
HARMLESS = 0.3  # a plug sparks as well with so much on it


@njit
def missed_share(fouled):
    """Return the share of sparks that a plug with so much on it (0 to 1) misses."""
    return max(fouled - HARMLESS, 0.0) / (1.0 - HARMLESS)


@njit
def tip_k(head_k, manifold_pa, rpm, equivalence_ratio, p):
    """Return the temperature of a plug's tip."""
    mixture = max(1.0 - 1.1 * abs(equivalence_ratio - 1.05), 0.3)
    return head_k + _TIP_RISE_K * (manifold_pa / 1e5) ** 0.8 * math.sqrt(rpm / 2700.0) * mixture


@njit
def follow_deposits(s, p, rpm, i, dt):
    """Grow or burn off the deposits of one cylinder's two plugs in one step."""
    phi = s.equivalence_ratio[i]
    tip = tip_k(s.head_k[i], s.manifold_pa, rpm, phi, p)
    burning = max(tip - _BURNS_FROM_K, 0.0) * _BURNS_PER_K_S
    fouling = 0.0
    if phi > _RICH_FROM and rpm > 200.0:
        cold = min(max((_FOULS_BELOW_K - tip) / (_FOULS_BELOW_K - _FOULS_FULLY_AT_K), 0.0), 1.0)
        fouling = p.plug_fouling * _FOULS_PER_S * cold * min((phi - _RICH_FROM) / 0.2, 1.0)
    keep = max(1.0 - burning * dt, 0.0)
    s.fouled_left[i] = min(s.fouled_left[i] * keep + fouling * dt, 1.0)
    s.fouled_right[i] = min(s.fouled_right[i] * keep + fouling * dt, 1.0)
