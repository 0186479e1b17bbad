"""What makes a start: fuel put in beforehand, plugs that it wets, vapour in the lines, starters, and what resists them.

Prime lies as a film on the intake's walls and turns to vapour as air passes over it. A cylinder fires when that vapour
is within the limits of burning and its plugs are dry; what is richer than burns condenses on the plugs and wets them.
kg, K, s; figures of common practice.
"""

import math

import numpy as np
from numba import njit

from . import metering

_STILL_SHARE = 0.1  # of the evaporation: an intake without flow is soon saturated
_BLOWN_OUT_PER_S = 0.1  # of the liquid, by air that passes an engine which does not fire: an open throttle clears it
_FLOWING_SHARE = 0.02  # of the rated air flow: as a starter draws
_DRY_BY_AIR_S, _DRY_AT_REST_S, _DRY_BY_FIRE_S = 8.0, 400.0, 1.5
_NO_DEW_FROM_K = 345.0  # plugs this hot stay dry
_BOILS_FROM_K, _ALL_VAPOUR_K = 322.0, 340.0
_SOAK_PEAK_H, _SOAK_PEAK_K = 0.5, 40.0
_COWL_HEATS_S, _HOT_HEAD_K = 300.0, 400.0
_KICKS_BELOW = 0.45  # of the speed from which the engine meters its own fuel
LOCKS_AT = 0.5
_TURNED_CLEAR_BLADES = 9.0
_RATED_STARTER_K = 4.0
_VAPOUR_FROM_PA, _VAPOUR_SPAN_PA = 9.5e4, 1.5e4  # from 1,800 to 6,800 ft
_LOCKED_NM_PER_L = 60.0
_BURNS_THROUGH_S = 20.0  # a fire that nobody draws in spoils the carburettor
_OPEN_PRIMER_PER_S = 0.5  # strokes, against the suction of an idle that would be all of the air
_DRAGGED_ALONG_A = 60.0  # what a starter that stays engaged goes on drawing


@njit
def film_to_vapour_kg_s(s, p, dt):
    """Move the fuel that lies in the intake: from the throat to its walls, and from there to vapour [kg/s]."""
    flow = s.air_kg_s / (p.reference_air_flow_kg_s * _FLOWING_SHARE)
    flowing = min(flow, 1.0)
    drawn = s.throat_kg * min(dt / 2.0, 1.0) * flowing
    s.throat_kg -= drawn
    s.film_kg += drawn
    moved = _STILL_SHARE + (1.0 - _STILL_SHARE) * flowing
    blown_out = _BLOWN_OUT_PER_S * max(flow - 2.5, 0.0) * (1.0 - s.plug_share[0])
    s.film_kg *= 1.0 - min(blown_out * dt, 1.0)
    vapour = metering.film_evaporation_kg_s(s.film_kg, s.head_k[0]) / p.prime_need_factor * moved
    s.film_kg = s.film_kg - vapour * dt if s.film_kg > 1e-7 else 0.0
    return vapour * flowing


@njit
def primer_g(p):
    """Return a stroke of the hand primer, or a second of the electric one [g]."""
    return p.prime_stroke_g if p.prime_stroke_g > 0.0 else p.primer_g_s


@njit
def primed_kg_s(s, p, c, f, injected_share, rpm):
    """Return the fuel that an electric primer, or a pump through open nozzles, puts into a standing engine [kg/s].

    `injected_share` is what mixture and throttle let through the nozzles, 0 to 1."""
    flow = (
        _OPEN_PRIMER_PER_S * f.primer_open * primer_g(p) * 1e-3 * max(1.0 - s.manifold_pa / 1.0e5, 0.0) * (rpm > 300.0)
    )
    if c.primer > 0.5 and c.master > 0.5:
        flow += p.primer_g_s * 1e-3 * min(s.bus_v / p.battery_flat_v, 1.1)
    if p.injection_static_g_s > 0.0:
        pressure = min(s.fuel_pressure_psi / p.electric_pump_psi, 1.2)
        flow += p.injection_static_g_s * 1e-3 * pressure * injected_share * (1.0 - s.line_vapour)
    return flow


@njit
def wet_the_plugs(s, p, rpm, dry_kg_s, inhaled_kg_s, dt):
    """Wet the plugs with what is too rich to burn; dry them by air, by time, and by firing."""
    if rpm > 40.0:
        burnt_clean = s.plug_share[0] * min(rpm / p.metering_from_rpm, 1.0)
        cold = min(max((_NO_DEW_FROM_K - s.head_k[0]) / 60.0, 0.0), 1.0)
        excess = (inhaled_kg_s - p.wet_plugs_from * dry_kg_s * metering.STOICHIOMETRIC_FUEL_AIR) * cold
        if excess > 0.0:
            s.wet = min(s.wet + excess * (1.0 - burnt_clean) * dt / (p.wet_plugs_g * 1e-3), 1.0)
        else:
            flow = min(s.air_kg_s / (p.reference_air_flow_kg_s * _FLOWING_SHARE), 2.0)
            s.wet *= 1.0 - dt * flow / _DRY_BY_AIR_S
        s.wet *= 1.0 - dt * burnt_clean / _DRY_BY_FIRE_S
    s.wet *= 1.0 - dt / _DRY_AT_REST_S
    if s.wet < 1e-4:
        s.wet = 0.0


@njit
def boil_the_lines(s, p, c, f, outside_k, outside_pa, rpm, dt):
    """Let fuel boil in hot lines, and cool and flush them by flow; `line_vapour` is the share of fuel that is missing."""
    pumping = 1.0 if max(c.pump, c.backup_pump) > 0.0 and c.master > 0.5 and s.bus_v > 0.5 * p.battery_flat_v else 0.0
    flowing = max(pumping, min(rpm / 1000.0, 0.6))
    s.line_k += (outside_k + 8.0 - s.line_k) * flowing * dt / 20.0
    if rpm < 20.0:  # a standing cowl gives its heat away; the solution of both lines is `soaked_line_k`
        s.line_k += (s.cowl_k - (s.line_k - outside_k)) * dt / (_SOAK_PEAK_H * 3600.0)
        s.cowl_k -= s.cowl_k * dt / (_SOAK_PEAK_H * 3600.0)
    else:
        hot = min(max((s.head_k[0] - outside_k) / (_HOT_HEAD_K - 288.15), 0.0), 1.0)
        s.cowl_k += (_SOAK_PEAK_K * math.e * hot - s.cowl_k) * dt / _COWL_HEATS_S
    boils = min(max((s.line_k - _BOILS_FROM_K) / (_ALL_VAPOUR_K - _BOILS_FROM_K), 0.0), 1.0) * p.line_vapour
    tau = 15.0 if boils > s.line_vapour else 25.0 - 20.0 * flowing
    s.line_vapour += (boils - s.line_vapour) * dt / tau
    if f.vapour_in_climb > 0.0 and pumping < 0.5 and rpm > 500.0:
        thin = min(max((_VAPOUR_FROM_PA - outside_pa) / _VAPOUR_SPAN_PA, 0.0), 1.0)
        s.line_vapour = max(s.line_vapour, f.vapour_in_climb * thin * (0.6 + 0.4 * math.sin(2.0 * s.time_s)))


def soaked_line_k(outside_k, soak_h):
    """Return the temperature of the fuel lines under the cowl [K] so long after shutdown: hottest after half an hour."""
    x = soak_h / _SOAK_PEAK_H
    return outside_k + _SOAK_PEAK_K * x * math.exp(1.0 - x)


def soaked_cowl_k(soak_h):
    """Return by how much the air under the cowl [K] would still heat the lines so long after shutdown."""
    return _SOAK_PEAK_K * math.e * math.exp(-soak_h / _SOAK_PEAK_H)


def boiled_share(line_k):
    """Return the share of the fuel in lines at this temperature that has boiled."""
    return np.clip((line_k - _BOILS_FROM_K) / (_ALL_VAPOUR_K - _BOILS_FROM_K), 0.0, 1.0)


@njit
def burn_in_the_intake(s, c, f, rpm, fires, dt):
    """Let a backfire light the fuel that lies in the throat; air and no fuel put it out, and so does a running engine."""
    fuel = s.throat_kg + s.film_kg
    if f.backfire >= 0.5 and s.fire == 0.0 and rpm > 40.0 and fires < 0.9 and fuel > 2e-3:
        s.fire = 0.2
    if s.fire > 0.0:
        s.burnt_intake = min(s.burnt_intake + s.fire * dt / _BURNS_THROUGH_S, 1.0)
        cut = c.mixture < 0.1 and c.throttle > 0.5 and rpm > 40.0
        drawn_in = cut or rpm > 500.0
        s.fire = min(max(s.fire + (-0.25 if drawn_in or fuel < 1e-4 else 0.1) * dt, 0.0), 1.0)
        s.film_kg *= 1.0 - min(0.2 * dt, 1.0)
        s.throat_kg *= 1.0 - min(0.2 * dt, 1.0)


@njit
def starter_torque_nm(s, p, c, f, rpm, dt):
    """Return (torque on the crankshaft [N m], current [A]) of a direct or an inertia starter; both grow hot."""
    torque, amps = 0.0, 0.0
    powered = c.master > 0.5 or c.ground_power > 0.5
    strength = s.bus_v / p.battery_flat_v * max(1.0 - max(s.starter_heat - 1.0, 0.0) * _RATED_STARTER_K, 0.0)
    if s.starter_stuck > 0.5:
        amps += _DRAGGED_ALONG_A * powered
        if not powered:
            s.starter_stuck = 0.0
    elif f.sticking_starter >= 0.5 and c.starter > 0.5 and rpm > p.starter_free_rpm:
        s.starter_stuck = 1.0
    if c.starter > 0.5 and powered:
        slip = max(1.0 - rpm / p.starter_free_rpm, 0.0)
        torque = p.starter_stall_nm * slip * strength * strength
        amps = p.starter_stall_a * slip * s.bus_v / p.battery_flat_v
        s.cranking_s += dt
    if p.inertia_kg_m2 > 0.0:
        if c.energise > 0.5 and powered:
            slip = max(1.0 - s.flywheel_rad_s / p.inertia_free_rad_s, 0.0)
            amps = p.inertia_a * (0.15 + 0.85 * slip) * s.bus_v / p.battery_flat_v
            s.flywheel_rad_s += p.inertia_motor_nm * slip * strength * strength * dt / p.inertia_kg_m2
        torque += _mesh(s, p, c, rpm, dt)
        s.flywheel_rad_s = max(s.flywheel_rad_s - 0.004 * s.flywheel_rad_s * dt, 0.0)
    heated = amps / max(p.starter_stall_a, p.inertia_a)
    s.starter_heat = max(s.starter_heat + (heated / p.starter_hot_s - s.starter_heat / 90.0) * dt, 0.0)
    return torque, amps


@njit
def _mesh(s, p, c, rpm, dt):
    """Return the torque that a slipping clutch takes from the flywheel to the crankshaft [N m]; the gear is 1:100."""
    if c.mesh < 0.5:
        return 0.0
    crank = rpm / 60.0 * 2.0 * math.pi
    if s.flywheel_rad_s / 100.0 <= crank:
        return 0.0
    torque = p.inertia_clutch_nm
    s.flywheel_rad_s = max(s.flywheel_rad_s - torque / 100.0 * dt / p.inertia_kg_m2, crank * 100.0)
    s.cranking_s += dt
    return torque


@njit
def resisting_nm(s, p, f, rpm, cranking, fired_nm):
    """Return what holds the crankshaft besides friction: oil above a piston, a spark that comes too early."""
    held = 0.0
    if s.lock_oil > LOCKS_AT:
        held += _LOCKED_NM_PER_L * p.displacement_l
    if cranking and f.no_start_retard > 0.0 and rpm < _KICKS_BELOW * p.metering_from_rpm:
        held += 1.3 * f.no_start_retard * fired_nm  # what burns before the top pushes back, and more
    return held


def turned_through(lock_oil, blades):
    """Return what is left of the oil above the pistons after turning the propeller slowly through some blades."""
    return np.maximum(lock_oil - blades / _TURNED_CLEAR_BLADES, 0.0)
