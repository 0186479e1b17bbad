"""What one cylinder has wrong with it: a valve that sticks while cold, a broken ring, a hole, a hot spot, a leak in its pipe. K."""

from numba import njit

_FREE_FROM_K, _STICKS_TO_K = 390.0, 330.0  # a sticking valve frees as its guide warms (common practice)
_RING_LOSES, _RING_LOSES_COLD, _RING_SEALS_RPM, _RING_PASSES = 0.3, 0.25, 2500.0, 0.12
_HOLE_LOSES, _HOLE_PASSES, _BENT_LOSES = 0.25, 0.55, 0.5
_PRE_IGNITION_HEATS, _PRE_IGNITION_COSTS = 0.9, 0.2
_LEAK_PASSES = 0.1  # of the idle gap's area, at size 1
_EXHAUST_LEAK_K = 50.0


@njit
def _cold(head_k):
    return min(max((_FREE_FROM_K - head_k) / (_FREE_FROM_K - _STICKS_TO_K), 0.0), 1.0)


@njit
def compresses(s, f, i):
    """Return the share of the charge that this cylinder keeps: its valves close, its rings and its piston hold."""
    kept = 1.0 - f.stuck_valve[i] * _cold(s.head_k[i])
    return kept * (1.0 - _HOLE_PASSES * s.holed[i]) * (1.0 - _RING_PASSES * f.broken_ring[i])


@njit
def work_left(s, f, i, rpm):
    """Return the factor that this cylinder's leaks and hot spots leave of its work."""
    slow = min(max(1.0 - rpm / _RING_SEALS_RPM, 0.0), 1.0)
    ring = f.broken_ring[i] * (_RING_LOSES * slow + _RING_LOSES_COLD * _cold(s.head_k[i]))
    bent = _BENT_LOSES * s.bent if i == 0 else 0.0
    lost = min(ring + _HOLE_LOSES * s.holed[i] + bent, 0.95)
    return (1.0 - lost) * (1.0 - _PRE_IGNITION_COSTS * f.pre_ignition[i])


@njit
def wall_heats(f, i):
    """Return the factor by which a hot spot that lights the charge too early heats this cylinder's walls."""
    return 1.0 + _PRE_IGNITION_HEATS * f.pre_ignition[i]


@njit
def undiluted(f, i, area_m2, idle_area_m2, cylinders):
    """Return what is left of this cylinder's mixture when air comes in at its pipe: much at idle, little with an open throttle."""
    leak = _LEAK_PASSES * f.leaking_pipe[i] * idle_area_m2
    return area_m2 / cylinders / (area_m2 / cylinders + leak)


@njit
def probe_misses_k(f, i):
    """Return how much less an exhaust probe behind a leak shows [K]."""
    return _EXHAUST_LEAK_K * f.exhaust_leak[i]
