"""The charge of each cylinder burns: work, heat to walls and exhaust, roughness, what the probes show. Compiled; SI units."""

import math

from numba import njit

from . import charging, combustion, cylinder, deposits, detonation, heat, ignition, induction, metering, shaft, wear

_STANDARD_K, _INTAKE_HEAT_J_KG_K = 288.15, 1005.0  # what a warm intake brings leaves through the exhaust
# standard deviation of a cylinder's torque over its mean: smooth below the first, wholly rough above both (common practice)
_SMOOTH_BELOW, _ROUGH_SPAN = 0.016, 0.205
_WATER_COSTS, _WATER_ROUGH, _BANG_ROUGH = 0.25, 12.0, 0.5
_EARLY_KNOCKS = 0.25  # of the detonation margin: ten degrees early
_BANG_K, _BANGS_FULLY_J = 80.0, 2.0e5
_FLAPS_SHUT, _BAFFLE = 0.86, 0.2  # of the cooling air: left with the flaps shut, lost with a baffle


@njit
def _felt(work_w, squared, scatter, cylinders):
    """Return how rough an engine feels, 0 to 1: by what its cylinders' torques differ, and each from cycle to cycle."""
    if work_w <= 0.0:
        return 0.0
    mean = work_w / cylinders
    uneven = max(squared / cylinders / (mean * mean) - 1.0, 0.0)
    return min(max((math.sqrt(uneven + scatter * scatter) - _SMOOTH_BELOW) / _ROUGH_SPAN, 0.0), 1.0)


@njit
def _bang(s, c, f, unburnt_w, rpm, dt):
    """Light what gathers unburnt in the exhaust: when sparks come back after a while without, or again and again with a leak."""
    s.afterfire -= s.afterfire * dt / 0.5
    firing = s.plug_share[0]
    if rpm > 800.0 and firing < 0.1:
        s.exhaust_fuel_j += unburnt_w * dt
    elif firing > 0.5 and s.exhaust_fuel_j > 0.0:
        s.afterfire = min(s.afterfire + s.exhaust_fuel_j / _BANGS_FULLY_J, 1.0)
        s.exhaust_fuel_j = 0.0
    now_and_then = math.sin(2.2 * s.time_s) + math.sin(5.9 * s.time_s) > 1.6
    if f.afterfire > 0.0 and c.throttle < 0.15 and rpm > 900.0 and now_and_then:
        s.afterfire = max(s.afterfire, f.afterfire)


@njit
def _ignite(s, p, c, a, f, i, rpm):
    """Light one charge; return (share of cycles that burn, their work and wall heat against two plugs, how early the spark)."""
    switch = ignition.switch_position(c)
    is_cranked = max(c.starter, c.mesh) > 0.5 and rpm < 0.6 * p.metering_from_rpm
    aloft = ignition.leaks_aloft(a.pressure_pa, s.manifold_pa)
    left = ignition.spark_share(switch, rpm, True, is_cranked, aloft, s, f, i) * (1.0 - s.wet)
    right = ignition.spark_share(switch, rpm, False, is_cranked, aloft, s, f, i) * (1.0 - s.wet)
    fires, work, wall = ignition.firing(left, right, f, p)
    burnt = fires * combustion.burn_share(s.equivalence_ratio[i]) * cylinder.compresses(s, f, i)
    return burnt, work, wall, ignition.early(left, right, f)


@njit
def _shares(s, p, f, i, rpm, air_kg_s, burnt, work_each, wall_each, early, dt):
    """Return where the heat of one cylinder's fuel goes [W]: work, walls (more when it detonates), unburnt, exhaust. `work_each`
    and `wall_each` scale the curves of combustion."""
    phi = s.equivalence_ratio[i]
    fuel_heat = air_kg_s * combustion.HEAT_PER_KG_AIR_J * phi
    curve = combustion.work_curve(phi)
    gain = combustion.compression_gain(p.compression_ratio)
    knock = detonation.margin(s, p, i, curve * gain * burnt, rpm) if burnt > 0.5 else detonation.SAFE
    knock *= 1.0 - _EARLY_KNOCKS * early
    s.detonation_margin = min(s.detonation_margin, knock)
    knocks = detonation.intensity(knock)
    wear.wear_piston(s, i, knocks, dt)
    work_each *= cylinder.work_left(s, f, i, rpm) * detonation.work_left(knocks)
    wall_each *= cylinder.wall_heats(f, i) * detonation.more_heat(knocks)
    work = air_kg_s * burnt * work_each * curve
    wall = air_kg_s * burnt * wall_each * combustion.wall_curve(phi)
    unburnt = burnt * air_kg_s * combustion.unburnt_heat(phi) + (1.0 - burnt) * fuel_heat
    return work, wall, unburnt, max(fuel_heat - work - wall - unburnt, 0.0)


@njit
def _warm_probe(s, f, i, air_kg_s, exhaust_w, reach):
    """Warm one exhaust probe; return the gas [K] that leaves the cylinder."""
    phi = s.equivalence_ratio[i]
    gas_k = s.head_k[i]
    if air_kg_s > 1e-6:
        brought = _INTAKE_HEAT_J_KG_K * (s.intake_k - _STANDARD_K)
        gas_kg_s = air_kg_s * (1.0 + metering.STOICHIOMETRIC_FUEL_AIR * phi)
        gas_k = combustion.exhaust_gas_temperature(exhaust_w / gas_kg_s + brought, phi)
    s.probe_k[i] = s.head_k[i] + reach * (gas_k - s.head_k[i]) - cylinder.probe_misses_k(f, i) + _BANG_K * s.afterfire
    return gas_k


@njit
def _cooling_w_k(s, p, c, a, rpm):
    """Return what one head of a usual place gives off for each kelvin above its air, or its coolant [W/K]."""
    if heat.stands(rpm, a.airspeed_m_s):
        return heat.soaked_w(1.0, 0.0, p.head_heat_capacity_j_k, heat.HEAD_SOAK_H)
    if p.coolant_heat_capacity_j_k > 0.0:
        return p.head_cooling_w_k * min(0.05 + rpm / 1500.0, 1.0)
    density_ratio = a.pressure_pa / (induction.GAS_CONSTANT * a.temperature_k) / metering.SEA_LEVEL_DENSITY
    flow = heat.cooling_flow(heat.cooling_air_m_s(a.airspeed_m_s, rpm, p), density_ratio)
    return p.head_cooling_w_k * flow * (_FLAPS_SHUT + (1.0 - _FLAPS_SHUT) * c.cowl_flaps)


@njit
def burn(s, p, c, a, f, dry_kg_s, dt):
    """Burn the charge of each cylinder, heat heads and probes; return (indicated power [W], wall heat [W])."""
    rpm = s.speed_rad_s * shaft.RPM_PER_RAD_S
    cylinders = int(p.cylinders)
    air_each = dry_kg_s / cylinders
    standing = heat.stands(rpm, a.airspeed_m_s)
    is_wet = p.coolant_heat_capacity_j_k > 0.0 and not standing
    around_k = s.coolant_k if is_wet else a.temperature_k
    cooling_w_k = _cooling_w_k(s, p, c, a, rpm)
    work_each = combustion.dilution(charging.exhaust_pa(s, a.pressure_pa), s.manifold_pa)
    work_each *= combustion.compression_gain(p.compression_ratio)
    work_each *= 1.0 - _WATER_COSTS * min(s.melt_water * 18.0, 1.0)
    wall_each = combustion.wall_scale(rpm, s.manifold_pa)
    tip_rise_k = deposits.tip_rise_k(s.manifold_pa, rpm)
    reach, turbine_reach = heat.probe_reach(s.air_kg_s, p), heat.turbine_reach(s.air_kg_s, p)
    s.detonation_margin = detonation.SAFE
    turbine_k = work_w = wall_w = exhaust_w = unburnt_w = squared = scatter = into_coolant_w = 0.0
    for i in range(cylinders):
        burnt, plug_work, plug_wall, early = _ignite(s, p, c, a, f, i, rpm)
        s.plug_share[i] = burnt
        work, wall, unburnt, exhaust = _shares(
            s, p, f, i, rpm, air_each, burnt, work_each * plug_work, wall_each * plug_wall, early, dt
        )
        gas_k = _warm_probe(s, f, i, air_each, exhaust, reach)
        turbine_k += (s.head_k[i] + turbine_reach * (gas_k - s.head_k[i])) / cylinders
        place = 1.0 if is_wet or standing else p.head_cooling_share[i] * (1.0 - _BAFFLE * f.lost_baffle[i])
        cooled = cooling_w_k * place * (s.head_k[i] - around_k)
        into_coolant_w += cooled
        deposits.follow_deposits(s, p, rpm, tip_rise_k, i, dt)
        into_head = p.head_wall_heat_share * wall + p.head_port_heat_share * exhaust
        s.head_k[i] += (into_head - cooled) * dt / p.head_heat_capacity_j_k
        work_w += work
        wall_w += wall
        exhaust_w += exhaust
        unburnt_w += unburnt
        squared += work * work
        scatter += combustion.cyclic_scatter(s.equivalence_ratio[i]) / cylinders
    s.turbine_k = turbine_k
    s.fuel_heat_w, s.exhaust_w, s.unburnt_w = work_w + wall_w + exhaust_w + unburnt_w, exhaust_w, unburnt_w
    s.cooling_w = wall_w
    _bang(s, c, f, unburnt_w, rpm, dt)
    radiator_m_s = heat.radiator_air_m_s(a.airspeed_m_s, rpm, p)
    heat.cool_by_water(s, p, into_coolant_w, a.temperature_k, radiator_m_s / 30.0, c.cowl_flaps, standing, dt)
    rough = _felt(work_w, squared, scatter, cylinders) + _WATER_ROUGH * s.melt_water + _BANG_ROUGH * s.afterfire
    s.roughness += (min(rough, 1.0) * min(rpm / 500.0, 1.0) - s.roughness) * dt / 0.4
    return work_w, wall_w
