"""The torque balance on engine and propeller. N m, rad/s."""

import math

from numba import njit

RPM_PER_RAD_S = 60.0 / (2.0 * math.pi)


@njit
def propeller_power_w(speed_rad_s, airspeed_m_s, density_kg_m3, p):
    """Return the power [W] that a fixed-pitch propeller takes, by its advance ratio."""
    revs = speed_rad_s / (2.0 * math.pi)
    if revs < 0.05:
        return 0.0
    advance = airspeed_m_s / (revs * p.propeller_diameter_m)
    coefficient = p.propeller_cp0 + p.propeller_cp1 * advance + p.propeller_cp2 * advance * advance
    return max(coefficient, -0.03) * density_kg_m3 * revs**3 * p.propeller_diameter_m**5


@njit
def friction_torque_nm(rpm, viscosity_ratio, p):
    """Return the friction of the engine; thick oil drags, most at low speed."""
    n = rpm / 1000.0
    drag = 1.0 + 0.15 * max(viscosity_ratio**0.4 - 1.0, 0.0) / (1.0 + n)
    bar = (p.friction_bar + p.friction_bar_per_krpm * n + p.friction_bar_per_krpm2 * n * n) * drag
    return bar * 1e5 * p.displacement_l * 1e-3 / (4.0 * math.pi)
