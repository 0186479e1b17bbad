"""Fuel tanks that run dry: the selected one feeds; empty, the fuel pressure falls first, then the engine starves. kg."""

from numba import njit

_BOWL_LASTS_S = 4.0


@njit
def feed(s, p, c, dt):
    """Take what the engine burnt from the selected tank; return the share (0 or 1) of its pressure that the line still has.
    An aircraft whose profile says nothing of its tanks never runs dry."""
    if p.tanks <= 0.0:
        return 1.0
    selected = int(c.tank * (p.tanks - 1.0) + 0.5)
    s.tank_kg[selected] = max(s.tank_kg[selected] - s.fuel_metered_kg_s * dt, 0.0)
    fed = 1.0 if s.tank_kg[selected] > 0.0 else 0.0
    s.starved += ((1.0 - fed) - s.starved) * dt / _BOWL_LASTS_S
    return fed
