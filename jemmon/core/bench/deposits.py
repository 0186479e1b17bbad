"""Deposits on the plugs: they grow at idle on a rich mixture, and burn off once the tips are hot. K, s.

The temperature of a tip is the head's and a rise with pressure, speed and mixture; deposits burn above about 365 °C and
gather below about 180 °C (common practice; FAA-H-8083-32 on spark plug fouling; the edge is fitted to heads that warm in minutes).
"""

import math

from numba import njit

_TIP_RISE_K = 390.0  # at 100 kPa, 2,700 RPM, best mixture
_BURNS_FROM_K, _BURNS_PER_K_S = 640.0, 1.0 / 350.0
_FOULS_BELOW_K, _FOULS_FULLY_AT_K, _FOULS_PER_S = 460.0, 420.0, 1.0 / 1200.0
# lead leaves at hotter tips and more slowly, and a plug that it has bridged keeps it (common practice)
_LEAD_LEAVES_FROM_K, _LEAD_LEAVES_PER_K_S, LEAD_STAYS = 670.0, 1.0 / 9000.0, 0.8
_RICH_FROM = 1.12
HARMLESS = 0.3  # a plug sparks as well with so much on it


@njit
def missed_share(fouled):
    """Return the share of sparks that a plug with so much on it (0 to 1) misses."""
    return max(fouled - HARMLESS, 0.0) / (1.0 - HARMLESS)


@njit
def tip_rise_k(manifold_pa, rpm):
    """Return how much hotter than its head a plug's tip is at the hottest mixture [K]."""
    return _TIP_RISE_K * (manifold_pa / 1e5) ** 0.8 * math.sqrt(rpm / 2700.0)


@njit
def tip_k(head_k, rise_k, equivalence_ratio):
    """Return the temperature of a plug's tip; `rise_k` as `tip_rise_k` says."""
    return head_k + rise_k * max(1.0 - 1.1 * abs(equivalence_ratio - 1.05), 0.3)


@njit
def follow_deposits(s, p, rpm, rise_k, i, dt):
    """Grow or burn off the deposits of one cylinder's two plugs in one step."""
    phi = s.equivalence_ratio[i]
    tip = tip_k(s.head_k[i], rise_k, phi)
    burning = max(tip - _BURNS_FROM_K, 0.0) * _BURNS_PER_K_S
    fouling = 0.0
    if phi > _RICH_FROM and rpm > 200.0:
        cold = min(max((_FOULS_BELOW_K - tip) / (_FOULS_BELOW_K - _FOULS_FULLY_AT_K), 0.0), 1.0)
        fouling = p.plug_fouling * _FOULS_PER_S * cold * min((phi - _RICH_FROM) / 0.2, 1.0)
    keep = max(1.0 - burning * dt, 0.0)
    s.fouled_left[i] = min(s.fouled_left[i] * keep + fouling * dt, 1.0)
    s.fouled_right[i] = min(s.fouled_right[i] * keep + fouling * dt, 1.0)
    scavenged = max(1.0 - max(tip - _LEAD_LEAVES_FROM_K, 0.0) * _LEAD_LEAVES_PER_K_S * dt, 0.0)
    if s.leaded_left[i] < LEAD_STAYS:
        s.leaded_left[i] *= scavenged
    if s.leaded_right[i] < LEAD_STAYS:
        s.leaded_right[i] *= scavenged
