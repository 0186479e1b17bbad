"""Airspeed and altitude by a plain schedule of phase and power, until a flight path takes its place."""

from collections.abc import Mapping

_AIRSPEED_LAG_S = 12.0
_GROUND_LAG_S = 4.0


def next_flight_path(
    phase: str, throttle: float, rpm: float, ias_kt: float, palt_ft: float, dt_s: float, plan: Mapping[str, float]
) -> tuple[float, float]:
    """Return (indicated airspeed [kt], pressure altitude [ft]) after `dt_s`. On the ground the aircraft stands."""
    ground = plan["palt_ground_ft"]
    flying = palt_ft > ground + 5 or ias_kt > 50
    target_kt, climb_fpm = 0.0, 0.0
    if phase == "take_off_climb" and rpm > 1900 and throttle > 0.6:
        target_kt = plan["climb_kt"]
        climb_fpm = plan["climb_fpm"] if ias_kt > 55 and palt_ft < plan["cruise_ft"] else 0.0
    elif phase == "cruise" and flying:
        target_kt = plan["cruise_kt"] * min(max(rpm, 1500) / 2400, 1.1)
        climb_fpm = max(min((plan["cruise_ft"] - palt_ft) * 4, plan["climb_fpm"]), -plan["descent_fpm"])
    elif phase == "descent_landing" and palt_ft > ground + 1:
        target_kt, climb_fpm = plan["descent_kt"], -plan["descent_fpm"]
    lag_s = _AIRSPEED_LAG_S if target_kt else _GROUND_LAG_S
    ias_kt += (target_kt - ias_kt) * min(dt_s / lag_s, 1.0)
    return max(ias_kt, 0.0), max(palt_ft + climb_fpm * dt_s / 60, ground)
