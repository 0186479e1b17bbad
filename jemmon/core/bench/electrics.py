"""Battery, starter, alternator and the bus between them; suction. V, A."""

import math

from numba import njit

_CHARGE_OHM = 0.16
_CHARGE_MOST_A = 20.0


@njit
def battery_open_v(charge_ah, p):
    """Return the voltage of the resting battery."""
    return p.battery_flat_v + (p.battery_full_v - p.battery_flat_v) * min(max(charge_ah / p.battery_ah, 0.0), 1.0)


@njit
def battery_resistance_ohm(charge_ah, temperature_k, p):
    """Return the inner resistance: more when flat and when cold."""
    share = min(max(charge_ah / p.battery_ah, 0.0), 1.0)
    return p.battery_ohm * (1.0 + 1.5 * (1.0 - share) ** 2) * (1.0 + 0.02 * max(288.15 - temperature_k, 0.0))


@njit
def starter(rpm, bus_v, p):
    """Return (torque on the crankshaft [N m], current [A]) of a series starter at this speed and voltage."""
    slip = max(1.0 - rpm / p.starter_free_rpm, 0.0)
    strength = bus_v / p.battery_flat_v
    return p.starter_stall_nm * slip * strength * strength, p.starter_stall_a * slip * strength


@njit
def alternator_most_a(rpm, p):
    """Return the most current that the alternator gives at this speed."""
    above = max(rpm - p.alternator_cut_in_rpm, 0.0)
    return p.alternator_max_a * (1.0 - math.exp(-above / 400.0))


@njit
def bus(rpm, load_a, starter_a, alternator_on, charge_ah, temperature_k, p):
    """Return (bus [V], alternator [A], battery [A], + charging)."""
    open_v = battery_open_v(charge_ah, p)
    ohm = battery_resistance_ohm(charge_ah, temperature_k, p)
    wanted = load_a + starter_a
    most = alternator_most_a(rpm, p) * alternator_on
    charge = min((p.alternator_v - open_v) / _CHARGE_OHM, _CHARGE_MOST_A)
    if most >= wanted + charge:
        return p.alternator_v, wanted + charge, charge
    if most >= wanted:
        charge = most - wanted
        return open_v + charge * _CHARGE_OHM, most, charge
    drawn = wanted - most
    return max(open_v - drawn * ohm, 0.0), most, -drawn


@njit
def suction_inhg(rpm, p):
    """Return the regulated suction of the gyro pump."""
    return min(p.suction_per_krpm_inhg * rpm / 1000.0, p.suction_inhg)
