"""Battery, alternators, ground power and the bus between them; suction. V, A."""

import math

from numba import njit

# what a battery takes just after a start, what it takes at most; how its plates saturate as it charges, and how soon that is gone
# when it gives (common practice: +30 A after a start, less than 3 A after 25 minutes; lead-acid, from memory)
_TAKES_A, _TAKES_MOST_A = 30.0, 40.0
_OVERVOLTAGE, _SURGES, _SURGES_EVERY_S = 0.2, 0.1, 2.0
_SATURATES, _SATURATES_IN_S, _GIVES_IN_S = 0.95, 480.0, 40.0
# an armed standby battery carries its screens from this share of the alternator's voltage down; what it takes while it fills,
# tapering from the last tenth (common practice: near zero in a healthy run-up)
_DEAD_BUS_SHARE, _STANDBY_TAKES_A, _STANDBY_TAPERS_FROM = 0.7, 1.0, 0.1


@njit
def battery_open_v(charge_ah, p):
    """Return the voltage of the resting battery."""
    return p.battery_flat_v + (p.battery_full_v - p.battery_flat_v) * min(max(charge_ah / p.battery_ah, 0.0), 1.0)


@njit
def battery_resistance_ohm(charge_ah, temperature_k, p):
    """Return the inner resistance: more when flat and when cold."""
    share = min(max(charge_ah / p.battery_ah, 0.0), 1.0)
    return p.battery_ohm * (1.0 + 6.0 * (1.0 - share) ** 3) * (1.0 + 0.02 * max(288.15 - temperature_k, 0.0))


@njit
def alternator_most_a(rpm, p):
    """Return the most current that the alternator gives at this speed."""
    above = max(rpm - p.alternator_cut_in_rpm, 0.0)
    return p.alternator_max_a * (1.0 - math.exp(-above / 400.0))


@njit
def second_alternator_a(s, p, rpm, f, dt):
    """Return the most current of an alternator that comes in at its cut-in speed, and only within a time after firing."""
    if p.alternator_2_max_a <= 0.0:
        return 0.0
    s.ran_s = s.ran_s + dt if rpm > p.metering_from_rpm else 0.0
    if s.ran_s == 0.0:
        s.alternator_2_in = 0.0
    elif rpm > p.alternator_2_cut_in_rpm and s.ran_s < p.alternator_2_within_s:
        s.alternator_2_in = 1.0
    return p.alternator_2_max_a * s.alternator_2_in * (1.0 - f.dead_alternator_2)


@njit
def _regulated_v(f, time_s, p):
    """Return what the regulator holds: too much with one that fails, and up and down with one that surges."""
    hunts = _SURGES * f.surging_alternator * math.sin(2.0 * math.pi * time_s / _SURGES_EVERY_S)
    return p.alternator_v * (1.0 + _OVERVOLTAGE * f.overvoltage + hunts)


@njit
def _follow_charge(battery, p, amps, above_v, dt):
    """Fill or empty the battery: while it charges its plates saturate by what the regulator holds above its rest."""
    if amps > 0.0:
        battery.saturated_v += (_SATURATES * above_v - battery.saturated_v) * dt / _SATURATES_IN_S
    else:
        battery.saturated_v -= battery.saturated_v * dt / _GIVES_IN_S
    battery.charge_ah = min(max(battery.charge_ah + amps * dt / 3600.0, 0.0), p.battery_ah)


@njit
def share_bus(states, p, controls, faults, first, count, temperature_k, dt):
    """Put the loads of an aircraft's engines and its alternators on its one bus; the first engine's state keeps the
    battery. Leaves volts, alternator and battery amperes (+ charging) in every state."""
    battery = states[first]
    c = controls[first]
    connected, plugged = c.master > 0.5, c.ground_power > 0.5 and p.ground_power_v > 0.0
    wanted = p.load_a if connected else 0.0
    most = 0.0
    for k in range(first, first + count):
        s, own, f = states[k], controls[k], faults[k]
        rpm = s.speed_rad_s * 60.0 / (2.0 * math.pi)
        wanted += s.load_a
        on = (own.alternator > 0.5) * connected * (1.0 - f.dead_alternator) * (f.open_field < 0.5)
        s.alternator_a = alternator_most_a(rpm, p) * on
        s.alternator_2_a = second_alternator_a(s, p, rpm, f, dt) * connected
        most += s.alternator_a + s.alternator_2_a
    open_v = battery_open_v(battery.charge_ah, p)
    regulated_v = _regulated_v(faults[first], battery.time_s, p)
    ohm = battery_resistance_ohm(battery.charge_ah, temperature_k, p)
    charge_ohm = max(p.alternator_v - p.battery_full_v, 0.2) / _TAKES_A
    charge = min(max(regulated_v - open_v - battery.saturated_v, 0.0) / charge_ohm, _TAKES_MOST_A)
    used = wanted
    if plugged:
        volts, amps, used = p.ground_power_v - 0.002 * wanted, 0.0, 0.0
    elif not connected:
        volts, amps = 0.0, 0.0
    elif most >= wanted + charge:
        volts, amps, used = regulated_v, charge, wanted + charge
    elif most >= wanted:
        amps = most - wanted
        volts, used = open_v + battery.saturated_v + amps * charge_ohm, most
    else:
        amps, used = most - wanted, most
        volts = max(open_v + amps * ohm, 0.0)
    _follow_charge(battery, p, amps, regulated_v - open_v, dt)
    share = used / most if most > 0.0 else 0.0
    for k in range(first + 1, first + count):
        battery.suction_inhg = max(battery.suction_inhg, states[k].suction_inhg)
    for k in range(first, first + count):
        s = states[k]
        s.bus_v, s.battery_a, s.charge_ah = volts, amps, battery.charge_ah
        s.standby_a = standby_a(s, c, p, dt)
        s.suction_inhg = max(s.suction_inhg, states[first].suction_inhg)  # pumps share one line, with check valves
        s.alternator_a *= share
        s.alternator_2_a *= share


@njit
def standby_a(s, c, p, dt):
    """Return the current of the standby battery (+ charging): its load on test or where it is armed and the bus is dead, else a
    trickle that fills what was used. Leaves what was used [Ah] in the state."""
    if p.standby_ah <= 0.0:
        return 0.0
    is_empty = s.standby_used_ah >= p.standby_ah
    is_armed = c.standby > 0.5
    carries = c.standby_test > 0.5 or is_armed and s.bus_v < _DEAD_BUS_SHARE * p.alternator_v
    if carries:
        amps = 0.0 if is_empty else -p.standby_load_a
    elif is_armed:
        amps = _STANDBY_TAKES_A * min(s.standby_used_ah / (_STANDBY_TAPERS_FROM * p.standby_ah), 1.0)
    else:
        amps = 0.0
    s.standby_used_ah = min(max(s.standby_used_ah - amps * dt / 3600.0, 0.0), p.standby_ah)
    return amps


@njit
def suction_inhg(rpm, p):
    """Return the regulated suction of the gyro pump."""
    return min(p.suction_per_krpm_inhg * rpm / 1000.0, p.suction_inhg)
