"""How far the last part of the charge is from going off by itself: the knock delay against the time the flame needs.

Knock delay in ms: 17.68 (ON/100)^3.402 p^-1.7 exp(3800/T), p in atm, T in K (Douaud and Eyzat, in Heywood; from memory). The
state of the end gas follows from charge, compression ratio and the heat set free; rich mixtures stand more (the second figure
of an aviation gasoline's grade, ASTM D910).
"""

import math

from numba import njit

from . import combustion

_ATM_PA = 101325.0
_BURN_DEG = 34.0  # of crank angle in which the last of the charge waits under pressure
_RICH_RATING_GAIN = 30.0  # grade 100/130: from the lean to the rich figure
_UNBURNT_EXPONENT = 0.285
_HEAD_WARMS_CHARGE = 0.18
_USUAL_HEAD_K = 420.0
_RESIDUAL_WARMS_K = 55.0  # residual gas and walls, from the manifold to the closing of the valve (Heywood)
_HEAT_WHEN_KNOCKING = 0.35


@njit
def knock_delay_ms(octane, pressure_pa, temperature_k):
    """Return how long [ms] an end gas of this state stands before it goes off."""
    p_atm = pressure_pa / _ATM_PA
    return 17.68 * (octane / 100.0) ** 3.402 * p_atm**-1.7 * math.exp(3800.0 / temperature_k)


@njit
def margin(manifold_pa, charge_k, head_k, equivalence_ratio, rpm, burnt, p):
    """Return the knock delay over the time that the flame needs: above 1 the charge burns in order, below 1 it detonates."""
    if rpm < 500.0 or burnt < 0.5:
        return 9.0
    start_k = charge_k + _RESIDUAL_WARMS_K + _HEAD_WARMS_CHARGE * (head_k - _USUAL_HEAD_K)
    heat = combustion.indicated_work(equivalence_ratio, p.compression_ratio) / 1.03e6
    compressed = p.compression_ratio**1.3
    peak_pa = 0.82 * manifold_pa * compressed * (1.0 + 1.15 * heat * burnt)
    end_k = start_k * (peak_pa / manifold_pa) ** _UNBURNT_EXPONENT
    rich = min(max((equivalence_ratio - 1.0) / 0.3, 0.0), 1.0)
    octane = p.fuel_octane + _RICH_RATING_GAIN * rich
    return min(knock_delay_ms(octane, peak_pa, end_k) / (_BURN_DEG / (6.0 * rpm) * 1e3), 9.0)


@njit
def knocking_heat(margin_now):
    """Return how much more heat a detonating charge gives to its walls, as a share."""
    return _HEAT_WHEN_KNOCKING * min(max((1.0 - margin_now) / 0.3, 0.0), 1.0)
