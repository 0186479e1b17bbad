"""One engine through one step: the parts called in the order in which the air meets them. Compiled; SI units.

`advance` is the only compiled function that Python calls to move engines; it runs engine by engine with element-wise
arithmetic, so that an engine does the same alone and in a batch.
"""

import math

import numpy as np
from numba import njit

from . import (
    burning,
    charging,
    cylinder,
    electrics,
    heat,
    icing,
    ignition,
    induction,
    metering,
    shaft,
    starting,
    tanks,
    wear,
)
from .layout import MAX_CYLINDERS, READ_WIDTH

STEP_S = 0.02
_VAPOUR_REACHES_CYLINDER_S = 0.8
_WALLS_GIVE_BACK = 1.3
# of what hot air brings to the plate: evaporation and cool walls take the rest (common practice)
_HEAT_REACHES_VALVE = 0.66
_RAM_RECOVERED = 0.72  # half an inch of mercury at 120 kt (common practice)
_SUMMER_GRADE, _OIL_MOVES_K = 55.0, 0.02
_WATER_SHARE = 0.7  # of a slug
_WALLS_HEAT_OIL_K = 60.0  # cylinders so much hotter than the oil give it their whole share


@njit
def _breathe(s, p, c, a, f, dt):
    """Move the heat door, the ice and the manifold; leave manifold pressure and air flow in the state."""
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    door = c.carb_heat * (1.0 - f.stuck_carb_heat)
    s.hot_air = s.hot_air + (door - s.hot_air) * dt / 0.7 if abs(door - s.hot_air) > 1e-7 else door
    muff = min(s.air_kg_s / (0.1043 * p.reference_air_flow_kg_s), 1.0)
    s.heat_muff += (muff - s.heat_muff) * dt / 20.0
    intake_k = a.temperature_k + p.carb_heat_rise_k * s.hot_air * s.heat_muff
    s.carburettor_k = icing.throat_k(intake_k, c.throttle, s.air_kg_s, p) + 250.0 * s.fire
    icing.follow_ice(s, p, a, dt)
    flow = s.air_kg_s / p.reference_air_flow_kg_s
    loss = p.duct_loss_fraction * flow * flow + p.carb_heat_pressure_loss_fraction * s.hot_air
    charging.shift_blower(s, c)
    blown = charging.blower_ratio(rpm, s.blower_in > 0.5, p)
    charging.follow_turbo(s, p, a.pressure_pa * (1.0 - loss), s.turbine_k, c.throttle, dt)
    ram_pa = _RAM_RECOVERED * 0.5 * metering.SEA_LEVEL_DENSITY * a.airspeed_m_s * a.airspeed_m_s * (1.0 - s.hot_air)
    upstream_pa = (a.pressure_pa * (1.0 - loss) + ram_pa) * blown * s.turbo_ratio
    intake_k = charging.charged_k(intake_k, blown, s.turbo_ratio, p)
    charging.follow_boost_control(s, p, dt)
    opened = min(c.throttle + p.throttle_by_collective * c.collective, 1.0)  # a helicopter's collective opens it too
    area = induction.throttle_area_m2(opened, 1.0 - 0.2 * f.low_idle_stop, p) * (1.0 - icing.CLOSES * s.ice)
    area *= 1.0 - s.boost_cut
    s.throttle_area_m2 = area
    leak = 0.1 * max(f.intake_leak, s.burnt_intake) * induction.throttle_area_m2(0.0, 1.0, p)
    s.unmetered_share = leak / (area + leak)
    area += leak
    mean = _mean_mixture(s, p)
    cooled_again = (1.0 - _HEAT_REACHES_VALVE) * p.carb_heat_rise_k * s.hot_air * s.heat_muff
    charge_k = intake_k - cooled_again + 8.0 - 12.0 * (min(max(mean, 0.5), 1.6) - 1.0)
    s.charge_k = charge_k
    s.intake_k = intake_k - cooled_again
    against_pa = charging.exhaust_pa(s, a.pressure_pa)
    s.manifold_pa, moist = induction.balance(area, upstream_pa, intake_k, charge_k, a.temperature_k, rpm, against_pa, p)
    moist *= 1.0 / math.sqrt(1.0 + 0.6 * a.humidity_ratio)
    s.air_kg_s = moist
    return moist / (1.0 + a.humidity_ratio), upstream_pa / (induction.GAS_CONSTANT * intake_k)


@njit
def _mean_mixture(s, p):
    total = 0.0
    for i in range(int(p.cylinders)):
        total += s.equivalence_ratio[i]
    return total / p.cylinders


@njit
def _metered(s, p, c, f, rpm, density):
    """Return the fuel that the metering gives [kg/s]."""
    trim = 0.25 * (f.rich_idle - f.lean_idle)
    if p.fuel_injection == 0.0:
        ratio = metering.carburettor_fuel_air(density, c.throttle, c.mixture, s.air_kg_s, trim, p)
        pressed, signal = 1.0, metering.metering_signal(rpm, p)
        signal += (1.0 - signal) * metering.drawn_while_cranking(rpm, s.head_k[0])
    else:
        ratio = metering.injected_fuel_air(c.throttle, c.mixture, s.air_kg_s, trim, p)
        pressed, signal = min(s.fuel_pressure_psi / (0.5 * p.engine_pump_psi), 1.0), metering.metering_signal(rpm, p)
    return s.air_kg_s * (1.0 - s.unmetered_share) * ratio * signal * pressed * (1.0 - s.line_vapour) * (1.0 - s.starved)


@njit
def _without_water(s, dt):
    """Return the share of what is metered that is fuel, while slugs of water pass."""
    if s.water_kg <= 0.0:
        return 1.0
    s.water_kg = max(s.water_kg - s.fuel_metered_kg_s * _WATER_SHARE * dt, 0.0)
    return 1.0 - _WATER_SHARE * (math.sin(3.0 * s.time_s) > -0.3)


@njit
def _prime(s, p, c, f, rpm, dt):
    """Put into the intake what primers and open nozzles give a standing or cranking engine."""
    if p.fuel_injection == 2.0:
        pressed = s.fuel_pressure_psi > 0.7 * p.electric_pump_psi
        clearing = c.throttle > 0.9
        if 60.0 < rpm < 0.45 * p.metering_from_rpm and pressed and not clearing and ignition.switch_position(c) > 0.0:
            wanted = metering.cranking_film_kg(s.air_kg_s, s.head_k[0]) * (1.0 - s.line_vapour)
            s.film_kg += max(wanted - s.film_kg, 0.0) * dt / 0.3
        return
    still = 1.0 - metering.metering_signal(rpm, p)
    s.film_kg += starting.primed_kg_s(s, p, c, f, metering.nozzles_open(c.throttle, c.mixture, p) * still, rpm) * dt
    opened = max(c.throttle - s.last_throttle, 0.0) * p.accelerator_pump_g * 1e-3
    if rpm < 40.0:
        s.throat_kg += opened
    else:
        s.film_kg += opened


@njit
def _fuel(s, p, c, f, dry_kg_s, density, dt):
    """Meter the fuel, delay it on the walls, add what evaporates; leave each cylinder's equivalence ratio."""
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    s.fuel_metered_kg_s = _metered(s, p, c, f, rpm, density)
    s.flow_shown_kg_s = s.fuel_metered_kg_s
    if p.flow_by_pressure > 0.0:
        s.flow_shown_kg_s *= p.cylinders / metering.nozzles_left(f, p)
    s.fuel_metered_kg_s *= _without_water(s, dt)
    s.fuel_kg_s += (s.fuel_metered_kg_s - s.fuel_kg_s) * min(dt / p.mixture_delay_s, 1.0)
    if c.throttle < s.last_throttle:  # the walls of a closing throttle give back only so much more than it meters
        s.fuel_kg_s = min(s.fuel_kg_s, max(_WALLS_GIVE_BACK * s.fuel_metered_kg_s, 0.0))
    _prime(s, p, c, f, rpm, dt)
    s.last_throttle = c.throttle
    vapour = starting.film_to_vapour_kg_s(s, p, dt)
    s.vapour_kg_s += (vapour - s.vapour_kg_s) * dt / _VAPOUR_REACHES_CYLINDER_S
    inhaled = s.fuel_kg_s * metering.vaporised_share(s.head_k[0]) + s.vapour_kg_s
    starting.wet_the_plugs(s, p, rpm, dry_kg_s, inhaled, dt)
    idle_m2 = induction.throttle_area_m2(0.0, 1.0, p)
    for i in range(int(p.cylinders)):
        spread = 1.0 + p.mixture_spread[i] + p.mixture_spread_full_throttle[i] * c.throttle
        spread *= metering.nozzle_share(f, i, p) * cylinder.undiluted(f, i, s.throttle_area_m2, idle_m2, p.cylinders)
        if dry_kg_s > 1e-6:
            s.equivalence_ratio[i] = min(inhaled / (dry_kg_s * metering.STOICHIOMETRIC_FUEL_AIR) * spread, 6.0)
        else:
            s.equivalence_ratio[i] = 0.0


@njit
def _grade(s, f):
    """Return the grade of the oil: the season's, or what was left in from summer."""
    return s.oil_grade + f.summer_oil * max(_SUMMER_GRADE - s.oil_grade, 0.0)


@njit
def _turn(s, p, c, a, f, indicated_w, dt):
    """Balance the torques on the shaft; return (friction power [W], starter current [A])."""
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    effective = max(s.speed_rad_s, 0.5)
    density = a.pressure_pa / (induction.GAS_CONSTANT * a.temperature_k)
    friction = shaft.friction_torque_nm(rpm, s.viscosity, p) * wear.rubbing(s)
    pumping = (charging.exhaust_pa(s, a.pressure_pa) - s.manifold_pa) * p.displacement_l * 1e-3 / (4.0 * math.pi)
    crank, starter_a = starting.starter_torque_nm(s, p, c, f, rpm, dt)
    wear.bend_rod(s, s.lock_oil > starting.LOCKS_AT, crank > 0.0, dt)
    blower_w = charging.blower_drag_w(rpm, s.blower_in > 0.5, s.air_kg_s, a.temperature_k, p)
    drag = (
        friction
        + pumping
        + blower_w / effective
        + starting.resisting_nm(s, p, f, rpm, crank > 0.0, indicated_w / effective)
    )
    drag += shaft.compression_nm(rpm, crank > 0.0, p) + wear.seized_nm(s, p)
    propeller = shaft.propeller_torque_nm(s.speed_rad_s, a.airspeed_m_s, density, s.pitch, p)
    before = s.speed_rad_s
    torque = indicated_w / effective + crank - propeller
    torque -= shaft.rotor_torque_nm(s, c, p, f, torque - drag, a.airspeed_m_s, density, dt)
    if before < 0.05 and torque < drag:
        s.speed_rad_s = 0.0
    else:
        s.speed_rad_s = max(before + (torque - drag) * dt / p.shaft_inertia_kg_m2, 0.0)
    s.indicated_w = indicated_w
    s.friction_w = drag * before
    s.brake_w = indicated_w - drag * before
    return drag * before - blower_w, starter_a  # a blower heats the charge, not the oil


@njit
def _oil(s, p, a, c, f, friction_w, wall_w, dt):
    """Heat and pump the oil; its pressure works the propeller's governor."""
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    warm = min(max((s.oil_k - p.oil_thermostat_k + 25.0) / 25.0, 0.12), 1.5)
    wind = heat.cooling_air_m_s(a.airspeed_m_s, rpm, p) / 30.0
    cooling = p.oil_cooling_w_k * warm * math.sqrt(wind) * (s.oil_k - a.temperature_k)
    if heat.stands(rpm, a.airspeed_m_s):
        cooling = heat.soaked_w(s.oil_k, a.temperature_k, p.oil_heat_capacity_j_k, heat.OIL_SOAK_H)
    walls = min(max((s.head_k[0] - s.oil_k) / _WALLS_HEAT_OIL_K, 0.0), 1.0)
    heating = p.oil_friction_share * friction_w + p.oil_wall_heat_share * wall_w * walls
    s.oil_k += (heating - cooling) * dt / p.oil_heat_capacity_j_k
    if (
        s.viscosity == 0.0 or abs(s.oil_k - s.viscosity_at_k) > _OIL_MOVES_K
    ):  # a curve of logarithms, followed in small steps
        s.viscosity, s.viscosity_at_k = heat.oil_viscosity_ratio(s.oil_k, _grade(s, f)), s.oil_k
    if rpm > 20.0:
        s.oil_fill = min(s.oil_fill + heat.oil_filling_per_s(rpm, s.viscosity, p) * dt, 1.0)
    ideal = heat.oil_pressure_psi(rpm, s.viscosity, s.oil_fill * s.oil_fill * s.oil_fill, p) * (1.0 - f.no_oil_pressure)
    ideal *= wear.oil_reaches(s)
    wear.follow_oil(s, p, f, rpm, dt)
    s.oil_pressure_psi += (ideal - s.oil_pressure_psi) * dt / 0.3
    shaft.govern(s, c, p, f, rpm, min(s.oil_pressure_psi / (0.4 * p.oil_relief_psi), 1.0), dt)


@njit
def _supply(s, p, a, c, f, starter_a, dt):
    """Draw from the bus, pump fuel and gyro air; boil what is hot in the lines."""
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    s.load_a = starter_a + p.pump_load_a * ((c.pump > 0.0) + (c.backup_pump > 0.5)) * (c.master > 0.5)
    s.suction_inhg += (electrics.suction_inhg(rpm, p) * (1.0 - f.weak_suction) - s.suction_inhg) * dt / 0.5
    fuel_psi = p.engine_pump_psi * (1.0 - f.weak_engine_pump) * min(rpm / (1.4 * p.metering_from_rpm), 1.0)
    if p.fuel_injection == 2.0:
        fuel_psi = 0.0  # a computer's injection has electric pumps only
    if c.master > 0.5 and (c.pump > 0.0 or c.backup_pump > 0.5):
        strength = min(s.bus_v / (0.8 * p.battery_flat_v), 1.0)
        strength *= max(c.pump * (1.0 - f.dead_fuel_pump), (c.backup_pump > 0.5) * 1.0)
        fuel_psi = max(fuel_psi, p.electric_pump_psi * strength)
    fuel_psi *= tanks.feed(s, p, c, dt)
    tau = 0.4 if fuel_psi >= s.fuel_pressure_psi or p.wobble_psi <= 0.0 else 40.0  # a check valve holds hand pressure
    s.fuel_pressure_psi += (fuel_psi - s.fuel_pressure_psi) * dt / tau
    starting.boil_the_lines(s, p, c, f, a.temperature_k, a.pressure_pa, rpm, dt)
    starting.burn_in_the_intake(s, c, f, rpm, s.plug_share[0], dt)


@njit
def _feed_across(states, p, controls, first, count, dt):
    """Let an engine's own fuel pump feed the other through the crossfeed."""
    if count < 2 or controls[first].crossfeed < 0.5:
        return
    highest = max(states[first].fuel_pressure_psi, states[first + 1].fuel_pressure_psi)
    for k in range(first, first + 2):
        s = states[k]
        if s.fuel_pressure_psi < 0.9 * highest:
            s.fuel_pressure_psi += (0.9 * highest - s.fuel_pressure_psi) * dt / 0.2


@njit
def step(s, p, c, a, f, dt):
    """Move one engine's state by one step, all but the bus, which an aircraft's engines share."""
    dry_kg_s, density = _breathe(s, p, c, a, f, dt)
    _fuel(s, p, c, f, dry_kg_s, density, dt)
    indicated_w, wall_w = burning.burn(s, p, c, a, f, dry_kg_s, dt)
    friction_w, starter_a = _turn(s, p, c, a, f, indicated_w, dt)
    _oil(s, p, a, c, f, friction_w, wall_w, dt)
    _supply(s, p, a, c, f, starter_a, dt)
    s.time_s += dt


@njit
def _toward(value, target, most):
    """Return `value` moved towards `target` by `most` at the most: a hand on a lever."""
    return min(max(target, value - most), value + most)


@njit
def _move_levers(c, target, most):
    c.throttle = _toward(c.throttle, target[0], most[0])
    c.mixture = _toward(c.mixture, target[1], most[1])
    c.prop = _toward(c.prop, target[2], most[2])
    c.carb_heat = _toward(c.carb_heat, target[3], most[3])
    c.cowl_flaps = _toward(c.cowl_flaps, target[4], most[4])
    c.collective = _toward(c.collective, target[5], most[5])


@njit(cache=True)
def advance(states, parameters, controls, airs, faults, steps, targets, travel_per_step, per_aircraft):
    """Move every engine by `steps` steps of STEP_S. All arrays shape (engines,); `targets` and `travel_per_step`
    (shape (engines, levers), in the order of `layout.RAMPED`) say where the hand takes these levers and how fast;
    every `per_aircraft` engines share one aircraft's bus and fuel."""
    for first in range(0, states.shape[0], per_aircraft):
        for _ in range(steps):
            for k in range(first, first + per_aircraft):
                _move_levers(controls[k], targets[k], travel_per_step[k])
                if parameters[k].rpm_100 > 0.0:
                    rises = shaft.watch_rise_rpm_s(states[k], STEP_S)
                    if controls[k].governor > 0.5 and controls[k].throttle == targets[k, 0]:
                        shaft.wind_throttle(states[k], controls[k], parameters[k], rises, STEP_S)
                        targets[k, 0] = controls[k].throttle
                step(states[k], parameters[k], controls[k], airs[k], faults[k], STEP_S)
            p, outside_k = parameters[first], airs[first].temperature_k
            electrics.share_bus(states, p, controls, faults, first, per_aircraft, outside_k, STEP_S)
            _feed_across(states, p, controls, first, per_aircraft, STEP_S)


@njit
def _f(kelvin):
    return kelvin * 1.8 - 459.67


@njit(cache=True)
def read(states, parameters, airs, out):
    """Write each engine's true readings, in the trace's units, into `out` (shape (engines, instruments + probes)).

    The order is that of `layout.INSTRUMENTS`; then the exhaust probes, then the heads, MAX_CYLINDERS each.
    """
    for k in range(states.shape[0]):
        s, p, a = states[k], parameters[k], airs[k]
        row = out[k]
        rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
        row[0] = rpm
        row[1] = s.manifold_pa / 3386.389
        row[2] = s.flow_shown_kg_s * 3600.0 / 0.72 / 3.785411784
        row[3] = s.fuel_pressure_psi
        row[4] = _f(s.oil_k)
        row[5] = s.oil_pressure_psi
        row[6] = s.bus_v
        row[7] = s.alternator_a
        row[8] = s.battery_a
        row[9] = s.suction_inhg
        row[10] = _f(s.carburettor_k)
        row[11] = _f(a.temperature_k)
        row[12] = a.palt_ft
        row[13] = a.airspeed_m_s / 0.514444
        row[14] = rpm / p.rpm_100 * 100.0 if p.rpm_100 > 0.0 else 0.0
        row[15] = s.rotor_rad_s * shaft.RPM_PER_RAD_S / p.rpm_100 * 100.0 if p.rpm_100 > 0.0 else 0.0
        row[16] = _f(s.coolant_k)
        row[17] = s.alternator_2_a
        row[18] = _f(s.turbine_k)
        row[19] = s.standby_a
        row[20] = s.blower_in
        for i in range(int(p.cylinders)):
            row[21 + i] = _f(s.probe_k[i]) + p.egt_probe_bias[i]
            row[21 + MAX_CYLINDERS + i] = _f(s.head_k[i])


@njit(cache=True)
def sense(states, parameters, airs, columns, shown, follow, noise, sigma, jitters_from_rad_s, rough_per):
    """Bring what sensors show (shape (aircraft, channels)) up to date, and return it with their noise (the same shape).

    `columns` says where each channel is among the true readings of one aircraft's engines, one after the other; `follow` (aircraft,
    channels) which share of the way a sensor makes, `noise` (aircraft, channels) its draw, `sigma` (channels,) its size; a stopped
    engine's tachometer does not jitter, a rough one's does more, by `rough_per`.
    """
    aircraft, channels = shown.shape
    engines = states.shape[0] // aircraft
    true = np.zeros((states.shape[0], READ_WIDTH))
    read(states, parameters, airs, true)
    figures = np.empty_like(shown)
    for k in range(aircraft):
        speed, roughness = 0.0, 0.0
        for e in range(k * engines, (k + 1) * engines):
            speed = max(speed, states[e].speed_rad_s)
            roughness = max(roughness, states[e].roughness)
        alive = min(speed / jitters_from_rad_s, 1.0)
        for c in range(channels):
            here = true[k * engines + columns[c] // READ_WIDTH, columns[c] % READ_WIDTH]
            shown[k, c] += follow[k, c] * (here - shown[k, c])
            jitter = noise[k, c] * sigma[c] * alive
            if c == 0 and sigma[0] > 0.0:
                jitter *= 1.0 + roughness * rough_per / sigma[0]
            figures[k, c] = shown[k, c] + jitter
    return figures


@njit(cache=True)
def rounded(figures, rounding):
    """Return figures (shape (aircraft, channels)) to the steps (channels,) that their gauges show."""
    out = np.empty_like(figures)
    for k in range(figures.shape[0]):
        for c in range(figures.shape[1]):
            out[k, c] = np.rint(figures[k, c] / rounding[c]) * rounding[c]
    return out
