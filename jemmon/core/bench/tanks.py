"""Fuel tanks that run dry: the selected one feeds; empty, the fuel pressure falls first, then the engine starves. kg."""

import math

from numba import njit

_BOWL_LASTS_S = 4.0
_FLUTTERS_S = 6.0  # before a tank is empty its outlet draws air now and then (common practice: 2 to 10 s)


@njit
def feed(s, p, c, dt):
    """Take what the engine burnt from the selected tank; return the share of its pressure that the line still has, 0 to 1: it
    flutters first.
    An aircraft whose profile says nothing of its tanks never runs dry."""
    if p.tanks <= 0.0:
        return 1.0
    selected = int(c.tank * (p.tanks - 1.0) + 0.5)
    s.tank_kg[selected] = max(s.tank_kg[selected] - s.fuel_metered_kg_s * dt, 0.0)
    left_s = s.tank_kg[selected] / max(s.fuel_metered_kg_s, 1e-5)
    fed = 1.0
    if left_s <= 0.0:
        fed = 0.0
    elif left_s < _FLUTTERS_S and math.sin(9.0 * s.time_s) > 0.0:
        fed = 0.3 + 0.7 * left_s / _FLUTTERS_S
    s.starved += ((1.0 - fed) - s.starved) * dt / _BOWL_LASTS_S
    return fed
