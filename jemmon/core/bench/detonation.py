"""The detonation margin of the simulated engine: the physics of `base.detonation`, compiled, with this engine's own heat."""

from numba import njit

from ..base import detonation
from . import combustion

_HEAT_WHEN_KNOCKING = 0.35
_delay_ms, _end_gas = njit(detonation.knock_delay_ms), njit(detonation.end_gas)
_over_flame, _octane_at = njit(detonation.delay_over_flame), njit(detonation.octane_at)


@njit
def margin(manifold_pa, charge_k, head_k, equivalence_ratio, rpm, burnt, p):
    """Return the knock delay over the time that the flame needs: above 1 the charge burns in order, below 1 it detonates."""
    if rpm < 500.0 or burnt < 0.5:
        return 9.0
    heat = combustion.indicated_work(equivalence_ratio, p.compression_ratio) / 1.03e6 * burnt
    peak_pa, end_k = _end_gas(manifold_pa, charge_k, head_k, heat, p.compression_ratio)
    return _over_flame(_delay_ms(_octane_at(p.fuel_octane, equivalence_ratio), peak_pa, end_k), rpm)


@njit
def knocking_heat(margin_now):
    """Return how much more heat a detonating charge gives to its walls, as a share."""
    return _HEAT_WHEN_KNOCKING * min(max((1.0 - margin_now) / 0.3, 0.0), 1.0)
