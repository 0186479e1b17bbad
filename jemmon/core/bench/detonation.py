"""The detonation margin of the simulated engine: the physics of `base.detonation`, compiled, with this engine's own heat."""

from numba import njit

from ..base import detonation

SAFE = 9.0  # the most that is told
_THROTTLED_PA = 4e4  # a charge so thin never detonates
# what a fully detonating charge does: heat to its walls, work lost, and seconds until it has burnt a hole (common practice)
_HEAT_WHEN_KNOCKING, _WORK_LOST, _HOLES_IN_S = 0.8, 0.05, 150.0
_KNOCKS_FULLY_AT = 0.2  # below a margin of 1
_delay_ms, _end_gas = njit(detonation.knock_delay_ms), njit(detonation.end_gas)
_over_flame, _octane_at = njit(detonation.delay_over_flame), njit(detonation.octane_at)


@njit
def margin(s, p, i, work_j_kg, rpm):
    """Return the knock delay of one cylinder over the time that the flame needs: above 1 the charge burns in order, below 1 it
    detonates. `work_j_kg` is the indicated work of a kilogram of its air."""
    if rpm < 500.0 or s.manifold_pa < _THROTTLED_PA:
        return SAFE
    peak_pa, end_k = _end_gas(s.manifold_pa, s.charge_k, s.head_k[i], work_j_kg / 1.03e6, p.compression_ratio)
    return _over_flame(_delay_ms(_octane_at(p.fuel_octane, s.equivalence_ratio[i]), peak_pa, end_k), rpm)


@njit
def intensity(margin_now):
    """Return how heavily a charge detonates at this margin, 0 to 1."""
    return min(max((1.0 - margin_now) / _KNOCKS_FULLY_AT, 0.0), 1.0)


@njit
def more_heat(knocks):
    """Return the factor by which a charge that detonates so heavily heats its walls."""
    return 1.0 + _HEAT_WHEN_KNOCKING * knocks


@njit
def work_left(knocks):
    """Return the factor that detonation leaves of the work."""
    return 1.0 - _WORK_LOST * knocks


@njit
def holed_per_s(knocks):
    """Return how fast detonation wears a piston away [share per second]."""
    return knocks / _HOLES_IN_S
