"""One engine through one step: the parts called in the order in which the air meets them. Compiled; SI units.

`advance` is the only compiled function that Python calls to move engines; it runs engine by engine with element-wise
arithmetic, so that an engine does the same alone and in a batch.
"""

import math

from numba import njit

from . import combustion, electrics, heat, ignition, induction, metering, shaft

STEP_S = 0.02
_WATER_ROUGH = 0.25
_VAPOUR_REACHES_CYLINDER_S = 0.8


@njit
def _breathe(s, p, c, a, f, dt):
    """Move the heat door, the ice and the manifold; leave manifold pressure and air flow in the state."""
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    door = c.carb_heat * (1.0 - f.stuck_carb_heat)
    s.hot_air = s.hot_air + (door - s.hot_air) * dt / 0.7 if abs(door - s.hot_air) > 1e-7 else door
    muff = min(s.air_kg_s / 0.012, 1.0)
    s.heat_muff += (muff - s.heat_muff) * dt / 20.0
    intake_k = a.temperature_k + p.carb_heat_rise_k * s.hot_air * s.heat_muff
    s.carburettor_k = intake_k - 18.0 * min(s.air_kg_s / 0.02, 1.0) * 0.6
    melting = s.ice * s.hot_air * s.heat_muff / 6.0
    s.ice = max(s.ice - melting * dt, 0.0)
    s.melt_water += (melting - s.melt_water) * dt / 1.5
    flow = s.air_kg_s / p.reference_air_flow_kg_s
    loss = p.duct_loss_fraction * flow * flow + p.carb_heat_pressure_loss_fraction * s.hot_air
    upstream_pa = a.pressure_pa * (1.0 - loss)
    area = induction.throttle_area_m2(c.throttle, 1.0 - 0.2 * f.low_idle_stop, p) * (1.0 - 0.33 * s.ice)
    mean = _mean_mixture(s, p)
    charge_k = intake_k + 8.0 - 12.0 * (min(max(mean, 0.5), 1.6) - 1.0)
    s.manifold_pa, moist = induction.balance(area, upstream_pa, intake_k, charge_k, rpm, a.pressure_pa * 1.02, p)
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
def _fuel(s, p, c, f, dry_kg_s, density, dt):
    """Meter the fuel, delay it on the walls, add what evaporates; leave each cylinder's equivalence ratio."""
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    trim = 0.25 * (f.rich_idle - f.lean_idle)
    ratio = metering.carburettor_fuel_air(density, c.throttle, c.mixture, s.air_kg_s, trim, p)
    s.fuel_metered_kg_s = s.air_kg_s * ratio * metering.metering_signal(rpm)
    s.fuel_kg_s += (s.fuel_metered_kg_s - s.fuel_kg_s) * min(dt / p.mixture_delay_s, 1.0)
    opened = max(c.throttle - s.last_throttle, 0.0)
    s.last_throttle = c.throttle
    s.film_kg += opened * p.accelerator_pump_g * 1e-3
    vapour = metering.film_evaporation_kg_s(s.film_kg, s.head_k[0]) / p.prime_need_factor
    s.film_kg = s.film_kg - vapour * dt if s.film_kg > 1e-7 else 0.0
    s.vapour_kg_s += (vapour - s.vapour_kg_s) * dt / _VAPOUR_REACHES_CYLINDER_S
    inhaled = s.fuel_kg_s * metering.vaporised_share(s.head_k[0]) + s.vapour_kg_s
    for i in range(int(p.cylinders)):
        spread = 1.0 + p.mixture_spread[i] + p.mixture_spread_full_throttle[i] * c.throttle
        if dry_kg_s > 1e-6:
            s.equivalence_ratio[i] = min(inhaled / (dry_kg_s * metering.STOICHIOMETRIC_FUEL_AIR) * spread, 6.0)
        else:
            s.equivalence_ratio[i] = 0.0


@njit
def _burn(s, p, c, a, f, dry_kg_s, dt):
    """Burn the charge of each cylinder, heat heads and probes; return (indicated power [W], wall heat [W])."""
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    cylinders = int(p.cylinders)
    air_each = dry_kg_s / cylinders
    wind = heat.cooling_air_m_s(a.airspeed_m_s, rpm, p)
    density_ratio = a.pressure_pa / (induction.GAS_CONSTANT * a.temperature_k) / 1.225
    dilution = combustion.dilution(a.pressure_pa * 1.02, s.manifold_pa) * (
        1.0 - _WATER_ROUGH * min(s.melt_water * 6.0, 1.0)
    )
    work_w = wall_w = exhaust_w = unburnt_w = uneven = 0.0
    for i in range(cylinders):
        phi = s.equivalence_ratio[i]
        left = ignition.spark_share(c.mag, rpm, True, f, i)
        right = ignition.spark_share(c.mag, rpm, False, f, i)
        fires, plug_work, plug_wall = ignition.firing(left, right, f, p)
        burnt = fires * combustion.burn_share(phi)
        s.plug_share[i] = burnt
        fuel_heat = air_each * combustion.HEAT_PER_KG_AIR_J * phi
        work = air_each * burnt * dilution * plug_work * combustion.indicated_work(phi, p.compression_ratio)
        wall = air_each * burnt * plug_wall * combustion.wall_heat(phi, rpm, s.manifold_pa)
        unburnt = burnt * air_each * combustion.unburnt_heat(phi) + (1.0 - burnt) * fuel_heat
        exhaust = max(fuel_heat - work - wall - unburnt, 0.0)
        gas_kg_s = air_each * (1.0 + metering.STOICHIOMETRIC_FUEL_AIR * phi)
        gas_k = s.head_k[i]
        if air_each > 1e-6:
            gas_k = combustion.exhaust_gas_temperature(exhaust / gas_kg_s, phi)
        s.probe_k[i] = heat.probe_temperature_k(s.head_k[i], gas_k, s.air_kg_s, p)
        into_head = p.head_wall_heat_share * wall + p.head_port_heat_share * exhaust
        cooled = heat.head_cooling_w(s.head_k[i], a.temperature_k, wind, p.head_cooling_share[i], density_ratio, p)
        s.head_k[i] += (into_head - cooled) * dt / p.head_heat_capacity_j_k
        work_w += work
        wall_w += wall
        exhaust_w += exhaust
        unburnt_w += unburnt
        uneven += abs(burnt - 1.0)
    s.fuel_heat_w = work_w + wall_w + exhaust_w + unburnt_w
    s.exhaust_w = exhaust_w
    s.unburnt_w = unburnt_w
    s.cooling_w = wall_w
    running = min(rpm / 500.0, 1.0)
    s.roughness += (min(uneven / cylinders * 3.0 + s.melt_water * 4.0, 1.0) * running - s.roughness) * dt / 0.4
    return work_w, wall_w


@njit
def _turn(s, p, c, a, indicated_w, dt):
    """Balance the torques on the shaft; return (friction power [W], starter current [A])."""
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    effective = max(s.speed_rad_s, 0.5)
    density = a.pressure_pa / (induction.GAS_CONSTANT * a.temperature_k)
    friction = shaft.friction_torque_nm(rpm, heat.oil_viscosity_ratio(s.oil_k), p)
    pumping = (a.pressure_pa * 1.02 - s.manifold_pa) * p.displacement_l * 1e-3 / (4.0 * math.pi)
    drag = friction + pumping
    propeller = shaft.propeller_power_w(s.speed_rad_s, a.airspeed_m_s, density, p) / effective
    crank, starter_a = 0.0, 0.0
    if c.starter > 0.5 and c.master > 0.5:
        crank, starter_a = electrics.starter(rpm, s.bus_v, p)
        s.cranking_s += dt
    torque = indicated_w / effective + crank - propeller
    before = s.speed_rad_s
    if before < 0.05 and torque < drag:
        s.speed_rad_s = 0.0
    else:
        s.speed_rad_s = max(before + (torque - drag) * dt / p.shaft_inertia_kg_m2, 0.0)
    s.indicated_w = indicated_w
    s.friction_w = drag * before
    s.brake_w = indicated_w - drag * before
    return drag * before, starter_a


@njit
def _oil_and_electrics(s, p, c, a, f, friction_w, wall_w, starter_a, dt):
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    warm = min(max((s.oil_k - p.oil_thermostat_k + 25.0) / 25.0, 0.12), 1.5)
    wind = heat.cooling_air_m_s(a.airspeed_m_s, rpm, p) / 30.0
    cooling = p.oil_cooling_w_k * warm * math.sqrt(wind) * (s.oil_k - a.temperature_k)
    heating = p.oil_friction_share * friction_w + p.oil_wall_heat_share * wall_w
    s.oil_k += (heating - cooling) * dt / p.oil_heat_capacity_j_k
    if rpm > 20.0:
        s.oil_fill = min(s.oil_fill + heat.oil_filling_per_s(rpm, s.oil_k, p) * dt, 1.0)
    ideal = heat.oil_pressure_psi(rpm, s.oil_k, s.oil_fill * s.oil_fill * s.oil_fill, p) * (1.0 - f.no_oil_pressure)
    s.oil_pressure_psi += (ideal - s.oil_pressure_psi) * dt / 0.3
    load = 0.0
    if c.master > 0.5:
        load = p.load_a + p.pump_load_a * (c.pump > 0.5)
    on = (c.alternator > 0.5) * (c.master > 0.5) * (1.0 - f.dead_alternator)
    volts, s.alternator_a, s.battery_a = electrics.bus(rpm, load, starter_a, on, s.charge_ah, a.temperature_k, p)
    s.bus_v = volts if c.master > 0.5 else 0.0
    s.charge_ah = min(max(s.charge_ah + s.battery_a * dt / 3600.0, 0.0), p.battery_ah)
    s.suction_inhg += (electrics.suction_inhg(rpm, p) * (1.0 - f.weak_suction) - s.suction_inhg) * dt / 0.5
    fuel_psi = p.engine_pump_psi * min(rpm / 600.0, 1.0)
    if c.pump > 0.5 and c.master > 0.5:
        fuel_psi = max(fuel_psi, p.electric_pump_psi * min(s.bus_v / p.battery_flat_v, 1.0))
    s.fuel_pressure_psi += (fuel_psi - s.fuel_pressure_psi) * dt / 0.4


@njit
def step(s, p, c, a, f, dt):
    """Move one engine's state by one step."""
    dry_kg_s, density = _breathe(s, p, c, a, f, dt)
    _fuel(s, p, c, f, dry_kg_s, density, dt)
    indicated_w, wall_w = _burn(s, p, c, a, f, dry_kg_s, dt)
    friction_w, starter_a = _turn(s, p, c, a, indicated_w, dt)
    _oil_and_electrics(s, p, c, a, f, friction_w, wall_w, starter_a, dt)
    s.time_s += dt


@njit
def _toward(value, target, most):
    """Return `value` moved towards `target` by `most` at the most: a hand on a lever."""
    return min(max(target, value - most), value + most)


@njit(cache=True)
def advance(states, parameters, controls, airs, faults, steps, targets, travel_per_step):
    """Move every engine by `steps` steps of STEP_S. All arrays shape (engines,); `targets` and `travel_per_step`
    (shape (engines, 3): throttle, mixture, carburettor heat) say where the hand takes these levers and how fast."""
    for k in range(states.shape[0]):
        s, p, c, a, f = states[k], parameters[k], controls[k], airs[k], faults[k]
        for _ in range(steps):
            c.throttle = _toward(c.throttle, targets[k, 0], travel_per_step[k, 0])
            c.mixture = _toward(c.mixture, targets[k, 1], travel_per_step[k, 1])
            c.carb_heat = _toward(c.carb_heat, targets[k, 2], travel_per_step[k, 2])
            step(s, p, c, a, f, STEP_S)


@njit(cache=True)
def read(states, parameters, airs, out):
    """Write each engine's true readings, in the trace's units, into `out` (shape (engines, channels)).

    The order of the channels is that of `bench.channel_names`.
    """
    for k in range(states.shape[0]):
        s, p, a = states[k], parameters[k], airs[k]
        n = int(p.cylinders)
        row = out[k]
        row[0] = s.speed_rad_s * shaft.RPM_PER_RAD_S
        row[1] = s.manifold_pa / 3386.389
        row[2] = s.fuel_metered_kg_s * 3600.0 / 0.72 / 3.785411784
        row[3] = s.fuel_pressure_psi
        row[4] = s.oil_k * 1.8 - 459.67
        row[5] = s.oil_pressure_psi
        row[6] = s.bus_v
        row[7] = s.alternator_a
        row[8] = s.battery_a
        row[9] = s.suction_inhg
        row[10] = s.carburettor_k * 1.8 - 459.67
        row[11] = a.temperature_k * 1.8 - 459.67
        row[12] = a.palt_ft
        row[13] = a.airspeed_m_s / 0.514444
        for i in range(n):
            row[14 + i] = s.probe_k[i] * 1.8 - 459.67 + p.egt_probe_bias[i]
            row[14 + n + i] = s.head_k[i] * 1.8 - 459.67
