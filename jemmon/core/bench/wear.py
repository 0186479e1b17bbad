"""What breaks: bearings without oil, pistons that detonate, oil that leaks away, rods that a hydraulic lock bends.

Shares from 0 (whole) to 1 (gone); seconds of common practice: an engine without oil pressure seizes within one to five minutes.
"""

import math

from numba import njit

from . import detonation

_DRY_BELOW = 0.1  # of the relief valve's pressure
_TURNS_FROM_RPM = 500.0
_SEIZES_AT_FULL_SPEED_S = 70.0
_FULL_SPEED = 6.0  # times the speed from which the engine runs by itself
_HEALS_BELOW, _HEALS_IN_S = 0.3, 60.0  # a film comes back as long as nothing is scored
_LEAKS_OUT_S, _BREATHES_OUT_S = 600.0, 900.0
_SUCKS_AIR_BELOW = 0.3
_SEIZED_NM_PER_L = 120.0
_BENDS_IN_S = 2.0


@njit
def oil_reaches(s):
    """Return the share of its pressure that the pump still makes: with little oil it draws air, and flutters."""
    if s.oil_share >= _SUCKS_AIR_BELOW:
        return 1.0
    flutter = 0.8 + 0.2 * math.sin(7.0 * s.time_s)
    return max(s.oil_share / _SUCKS_AIR_BELOW, 0.0) * flutter


@njit
def follow_oil(s, p, f, rpm, dt):
    """Lose oil by a leak and through holed pistons, and wear the bearings that turn without pressure."""
    if rpm > 300.0:
        holed = 0.0
        for i in range(int(p.cylinders)):
            holed = max(holed, s.holed[i])
        s.oil_share = max(s.oil_share - (f.oil_leak / _LEAKS_OUT_S + holed / _BREATHES_OUT_S) * dt, 0.0)
    if s.bearing_wear >= 1.0:
        return
    if rpm > _TURNS_FROM_RPM and s.oil_pressure_psi < _DRY_BELOW * p.oil_relief_psi:
        speed = min(rpm / (_FULL_SPEED * p.metering_from_rpm), 1.2)
        s.bearing_wear = min(s.bearing_wear + speed / _SEIZES_AT_FULL_SPEED_S * dt, 1.0)
    elif s.bearing_wear < _HEALS_BELOW:
        s.bearing_wear = max(s.bearing_wear - dt / _HEALS_IN_S, 0.0)


@njit
def rubbing(s):
    """Return the factor by which worn bearings rub more."""
    return 1.0 + 4.0 * s.bearing_wear**3


@njit
def seized_nm(s, p):
    """Return what holds an engine whose bearings have seized [N m]."""
    return _SEIZED_NM_PER_L * p.displacement_l * (s.bearing_wear >= 1.0)


@njit
def wear_piston(s, i, knocks, dt):
    """Burn a piston that detonates."""
    s.holed[i] = min(s.holed[i] + detonation.holed_per_s(knocks) * dt, 1.0)


@njit
def bend_rod(s, is_locked, is_turned, dt):
    """Bend a connecting rod where a starter is kept on a locked cylinder."""
    if is_locked and is_turned:
        s.bent = min(s.bent + dt / _BENDS_IN_S, 1.0)
