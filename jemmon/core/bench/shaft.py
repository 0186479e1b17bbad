"""The torque balance on engine and propeller. N m, rad/s."""

import math

from numba import njit

_GOVERNOR_SEES_S, _GOVERNOR_AHEAD_S = 0.25, 1.0  # common practice
RPM_PER_RAD_S = 60.0 / (2.0 * math.pi)
_HUNTS, _HUNTS_EVERY_S = 0.06, 3.0
# without oil a feathering hub goes coarse and one that is driven coarse by oil goes fine; pins keep a slow one from feathering
_DRIFTS_PER_S, _PINS_HOLD_BELOW_RPM = 0.25, 800.0
# an autorotation: from this airspeed on, fully at this one, with so much collective (common practice)
_GLIDE_FROM_M_S, _GLIDE_M_S, _GLIDE_COLLECTIVE = 10.0, 28.0, 0.1
# how a windmilling blade stalls: power coefficients of -0.02 at 100 kt and -0.05 at 67 kt, and an engine that stops at 40 to 50 kt
# (common practice for a fixed-pitch trainer; from memory)
_STALLS, _STALLS_MORE = 0.57, 0.42


@njit
def propeller_torque_nm(speed_rad_s, airspeed_m_s, density_kg_m3, pitch, p):
    """Return the torque [N m] that a propeller takes from the engine, by its advance ratio and its pitch (0 fine, 1 coarse);
    less than nothing where the air drives it. Up to the advance ratio at which it takes nothing the power coefficient is a
    parabola; beyond, torque over airspeed squared, which has a value at rest too, carries it on with the same slope."""
    coarse = 1.0 + p.pitch_coarse_gain * pitch
    diameter = p.propeller_diameter_m
    revs = speed_rad_s / p.gear_ratio / (2.0 * math.pi)
    if p.propeller_cp2 >= 0.0:  # a fan takes what it takes, whatever the airspeed
        return p.propeller_cp0 * density_kg_m3 * revs * revs * diameter**5 / (2.0 * math.pi * p.gear_ratio)
    root = math.sqrt(p.propeller_cp1 * p.propeller_cp1 - 4.0 * p.propeller_cp2 * p.propeller_cp0)
    nothing = (p.propeller_cp1 + root) / (-2.0 * p.propeller_cp2)  # the advance ratio of fine pitch
    if airspeed_m_s < nothing * revs * diameter * coarse:
        advance = airspeed_m_s / (revs * diameter * coarse)
        coefficient = p.propeller_cp0 + p.propeller_cp1 * advance + p.propeller_cp2 * advance * advance
        torque = coarse * coefficient * density_kg_m3 * revs * revs * diameter**5
    else:
        beyond = 1.0 - nothing * revs * diameter * coarse / max(airspeed_m_s, 1e-6)
        driven = root / nothing * beyond * (1.0 - _STALLS * beyond - _STALLS_MORE * beyond * beyond)
        torque = -driven * density_kg_m3 * airspeed_m_s * airspeed_m_s * diameter**3 / coarse
    return torque / (2.0 * math.pi * p.gear_ratio)


@njit
def friction_torque_nm(rpm, viscosity_ratio, p):
    """Return the friction of the engine; thick oil drags, most at low speed."""
    n = rpm / 1000.0
    drag = 1.0 + 0.15 * max(viscosity_ratio**0.36 - 1.0, 0.0) / (1.0 + n)
    bar = (p.friction_bar + p.friction_bar_per_krpm * n + p.friction_bar_per_krpm2 * n * n) * drag
    return bar * 1e5 * p.displacement_l * 1e-3 / (4.0 * math.pi)


@njit
def compression_nm(rpm, cranking, p):
    """Return what the compressions cost an engine that turns too slowly to carry itself over them, without a starter."""
    if cranking or rpm <= 0.0:
        return 0.0
    slow = max(1.0 - rpm / (0.6 * p.metering_from_rpm), 0.0)
    return 25.0 * p.displacement_l * slow


@njit
def govern(s, c, p, f, rpm, oil_share, dt):
    """Move the pitch towards the speed that is asked for, between its stops, as fast as the hub (and its oil) allows; a
    lever in its feather position takes it beyond coarse, and out again."""
    if p.pitch_rate_per_s <= 0.0:
        return
    lost = p.governor_needs_oil * max(1.0 - 2.0 * oil_share, 0.0) * (s.oil_fill > 0.95)
    if lost > 0.0 and p.feather_pitch > 1.0 and rpm > _PINS_HOLD_BELOW_RPM:
        s.pitch = min(
            s.pitch + _DRIFTS_PER_S * lost * dt, p.feather_pitch
        )  # spring and counterweights take it to coarse
        return
    if lost > 0.0 and p.feather_pitch <= 1.0 or f.runaway_propeller >= 0.5:
        s.pitch = max(
            s.pitch - _DRIFTS_PER_S * max(lost, f.runaway_propeller >= 0.5) * dt, 0.0
        )  # the blades turn to fine
        return
    if p.feather_pitch > 1.0 and (c.prop < p.lever_feathers_below or s.pitch > 1.0):
        out = p.feather_pitch if c.prop < p.lever_feathers_below else 0.0
        most = p.feather_per_s * (1.0 - f.slow_feather) * dt
        s.pitch += min(max(out - s.pitch, -most), most)
        return
    asked = c.prop
    if p.governor_by_throttle > 0.0:
        asked = min(max(1.3 * c.throttle, 0.0), 1.0)
    target = p.governor_low_rpm + (p.governor_high_rpm - p.governor_low_rpm) * asked
    if s.pitch > 0.0:  # it hunts only while it governs
        target *= 1.0 + _HUNTS * f.surging_governor * math.sin(2.0 * math.pi * s.time_s / _HUNTS_EVERY_S)
    error = min(max((rpm - target) / (0.04 * target), -1.0), 1.0)
    power = 1.0 - p.governor_needs_oil * (1.0 - oil_share)
    if error > 0.0:
        error *= power
    rate = p.pitch_rate_per_s * max(1.0 - 1.5 * f.slow_governor, 0.04) * (f.stuck_governor < 0.5)
    s.pitch = min(max(s.pitch + error * rate * dt, 0.0), 1.0)


@njit
def _autorotation_nm(s, p, airspeed_m_s, density_kg_m3):
    """Return what the air that comes from below in a glide gives to a rotor that no engine drives: full speed at best-glide
    airspeed with the collective nearly down, less with it raised."""
    full = p.rpm_100 / RPM_PER_RAD_S
    glides = min(max((airspeed_m_s - _GLIDE_FROM_M_S) / (_GLIDE_M_S - _GLIDE_FROM_M_S), 0.0), 1.0)
    given_w = (p.rotor_flat_w + _GLIDE_COLLECTIVE * p.rotor_collective_w) * s.rotor_rad_s / full * density_kg_m3 / 1.225
    given = given_w * glides / max(s.rotor_rad_s, 1.0)
    return max(given - max(s.clutch_torque_nm, 0.0), 0.0)


@njit
def rotor_torque_nm(s, c, p, f, free_nm, airspeed_m_s, density_kg_m3, dt):
    """Return the torque [N m] that clutch and freewheel take from the engine, and move the rotor (its speed is kept as
    that of an engine turning with it). `free_nm`: what the engine would have left for itself without a rotor."""
    if p.rotor_inertia_kg_m2 <= 0.0:
        return 0.0
    moved = (1.0 if c.clutch > 0.5 else -2.0) * dt / p.clutch_s
    s.clutch_in = min(max(s.clutch_in + moved, 0.0), 1.0)
    full = p.rpm_100 / RPM_PER_RAD_S
    share = s.rotor_rad_s / full
    drag_w = (p.rotor_flat_w + p.rotor_collective_w * c.collective) * share**3 * density_kg_m3 / 1.225
    drag = drag_w / max(s.rotor_rad_s, 1.0) - _autorotation_nm(s, p, airspeed_m_s, density_kg_m3)
    slip = s.speed_rad_s - s.rotor_rad_s
    together = 1.0 / (1.0 / p.shaft_inertia_kg_m2 + 1.0 / p.rotor_inertia_kg_m2)
    grip = p.clutch_nm * s.clutch_in * s.clutch_in
    # what lets both turn alike after this step: a clutch that has closed is stiff, it does not swing
    holds_back = -grip if f.stuck_freewheel >= 0.5 else 0.0
    alike = together * (free_nm / p.shaft_inertia_kg_m2 + drag / p.rotor_inertia_kg_m2 + slip / dt)
    s.clutch_torque_nm = min(max(alike, holds_back), grip)
    torque = s.clutch_torque_nm
    s.rotor_rad_s = max(s.rotor_rad_s + (torque - drag) * dt / p.rotor_inertia_kg_m2, 0.0)
    return torque


@njit
def watch_rise_rpm_s(s, dt):
    """Let a governor see the speed, which it does whether it is switched on or not; return how fast it sees it rise [RPM/s]."""
    seen = (s.speed_rad_s * RPM_PER_RAD_S - s.governor_saw_rpm) / _GOVERNOR_SEES_S
    s.governor_saw_rpm += seen * dt
    return seen


@njit
def wind_throttle(s, c, p, rises, dt):
    """Turn the throttle as a helicopter's governor does, above four fifths of full speed; a hand that moves it wins. It looks
    ahead by how fast the speed `rises` [RPM/s], else it would run past its own speed (common practice: 1 to 2 % at most);
    it closes twice as fast as it opens."""
    rpm = s.speed_rad_s * RPM_PER_RAD_S
    if rpm < 0.8 * p.rpm_100:
        return
    error = min(max((p.governor_high_rpm - rpm - _GOVERNOR_AHEAD_S * rises) / p.rpm_100, -0.1), 0.05)
    c.throttle = min(max(c.throttle + 2.0 * error * dt, 0.0), 1.0)
