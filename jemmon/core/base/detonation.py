"""How far the last part of the charge is from going off by itself: the knock delay against the time that the flame needs.

Knock delay in ms: 17.68 (ON/100)^3.402 p^-1.7 exp(3800/T), p in atm, T in K (Douaud and Eyzat, in Heywood; from memory). The
state of the end gas follows from charge, compression ratio and the heat set free; rich mixtures stand more (the second figure
of an aviation gasoline's grade, ASTM D910). Plain functions of figures: the simulated engine compiles them, the display
beside the leaning calls them.
"""

import math

# Douaud and Eyzat 1978 and Heywood 1988, from memory, but where it says otherwise
_ATM_PA = 101325.0
_BURN_DEG = 38.0  # of crank angle in which the last of the charge waits under pressure
_RICH_RATING_GAIN = 30.0  # grade 100/130: from the lean to the rich figure
_RICH_RATED_AT = 0.6  # richer than stoichiometric (ASTM D909, from memory)
_UNBURNT_EXPONENT = 0.285
_HEAD_WARMS_CHARGE = 0.18
_USUAL_HEAD_K = 420.0
_RESIDUAL_WARMS_K = 55.0  # residual gas and walls, from the manifold to the closing of the valve (Heywood)
_SAFE = 9.0  # where nothing burns, and the most that is said


def knock_delay_ms(octane: float, pressure_pa: float, temperature_k: float) -> float:
    """Return how long [ms] an end gas at this pressure [Pa] and temperature [K] waits before it ignites.

    Source: Douaud and Eyzat, in Heywood (from memory).
    """
    p_atm = pressure_pa / _ATM_PA
    return float(17.68 * (octane / 100.0) ** 3.402 * p_atm**-1.7 * math.exp(3800.0 / temperature_k))


def end_gas(
    manifold_pa: float, charge_k: float, head_k: float, heat: float, compression_ratio: float
) -> tuple[float, float]:
    """Return (pressure [Pa], temperature [K]) of the last of the charge; `heat` is what is set free, as a share of the indicated
    work of a compression of 8.5 at stoichiometric (arithmetic of a crank-angle calculation; Heywood for the residual)."""
    start_k = charge_k + _RESIDUAL_WARMS_K + _HEAD_WARMS_CHARGE * (head_k - _USUAL_HEAD_K)
    peak_pa = 0.82 * manifold_pa * compression_ratio**1.3 * (1.0 + 1.15 * heat)
    return peak_pa, start_k * (peak_pa / manifold_pa) ** _UNBURNT_EXPONENT


def delay_over_flame(delay_ms: float, rpm: float) -> float:
    """Return a knock delay [ms] over the time that the flame needs at a speed [RPM]: above 1 the charge burns in order.
    (Heywood 1988, from memory)."""
    return min(delay_ms / (_BURN_DEG / (6.0 * rpm) * 1e3), _SAFE)


def octane_at(octane: float, equivalence_ratio: float) -> float:
    """Return the octane figure of a mixture: between the lean and the rich figure of the fuel's grade, which is rated with a
    mixture far richer than full rich (ASTM D909, D910)."""
    return octane + _RICH_RATING_GAIN * min(max((equivalence_ratio - 1.0) / _RICH_RATED_AT, 0.0), 1.0)
