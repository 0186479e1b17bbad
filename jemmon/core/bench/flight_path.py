"""A simple flight path: what power the engines give against drag and weight makes airspeed and height. SI inside.

Drag is a parasite part that grows with dynamic pressure and an induced part that falls with it; both follow from two figures of
the profile, its cruise at 65 % at sea level and its climb at full power (common practice: propeller 80 % in cruise, 72 % in the
climb). A point, no pitch and no wind: enough for a climb, a cruise and a descent to be flown by their phase.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from ..atmosphere import standard_density_ratio

_G_M_S2, _DENSITY_KG_M3 = 9.80665, 1.225
_M_S_PER_KT, _M_S_PER_FPM = 0.514444, 0.00508
_CRUISE_PCT, _CRUISE_EFFICIENCY, _CLIMB_EFFICIENCY = 0.65, 0.80, 0.72
_KG_PER_HP, _WATTS_PER_HP = 6.5, 745.7
_STATIC_THRUST_UP_TO_M_S = 24.0  # below it the propeller gives thrust, not power
_ROLLING, _BRAKES_M_S2 = 0.04, 2.0
_ROTATES_AT = 0.8  # of the climb speed
_SPEED_LAG_S = 10.0
_FLAPS_BELOW_FT, _FLAPS_DRAG = 1500.0, 2.2
_CAPTURE_PER_S = 0.08


@dataclass(frozen=True, slots=True)
class Airframe:
    """Mass [kg], flat-plate area of the parasite drag [m2], induced drag times dynamic pressure [N Pa]."""

    mass_kg: float
    plate_m2: float
    induced_n_pa: float

    def drag_n(self, ias_m_s: float, more: float = 1.0) -> float:
        """Return the drag [N] at an indicated airspeed."""
        pressure = max(0.5 * _DENSITY_KG_M3 * ias_m_s * ias_m_s, 50.0)
        return pressure * self.plate_m2 * more + self.induced_n_pa / pressure


def airframe_of(plan: Mapping[str, float], rated_power_hp: float) -> Airframe:
    """Return the airframe that flies as the profile's `schedule` says, with all its engines' rated power."""
    mass = plan.get("mass_kg", _KG_PER_HP * rated_power_hp)
    rated_w = rated_power_hp * _WATTS_PER_HP
    fast, slow = plan["cruise_kt"] * _M_S_PER_KT, plan["climb_kt"] * _M_S_PER_KT
    level_w = _CRUISE_EFFICIENCY * _CRUISE_PCT * rated_w
    climb_w = _CLIMB_EFFICIENCY * rated_w - mass * _G_M_S2 * plan["climb_fpm"] * _M_S_PER_FPM
    q_fast, q_slow = (0.5 * _DENSITY_KG_M3 * v * v for v in (fast, slow))
    # two equations: power = speed x (pressure x plate + induced / pressure)
    determinant = fast * slow * (q_fast / q_slow - q_slow / q_fast)
    plate = (level_w * slow / q_slow - climb_w * fast / q_fast) / determinant
    induced = (climb_w * fast * q_fast - level_w * slow * q_slow) / determinant
    least = 0.2 * level_w / fast / q_fast
    return Airframe(mass, max(plate, least), max(induced, 0.0))


def next_flight_path(
    airframe: Airframe, phase: str, power_w: float, ias_kt: float, palt_ft: float, dt_s: float, plan: Mapping[str, float]
) -> tuple[float, float]:
    """Return (indicated airspeed [kt], pressure altitude [ft]) after `dt_s` with the engines' brake power [W]. The phase says
    what the pilot does: stand, climb at the climb speed, hold the cruising height, come down."""
    ground_ft = plan["palt_ground_ft"]
    sigma = standard_density_ratio(palt_ft)
    speed = ias_kt * _M_S_PER_KT
    true_m_s = max(speed / math.sqrt(sigma), 1.0)
    climb_m_s, cruise_ft = plan["climb_kt"] * _M_S_PER_KT, plan["cruise_ft"]
    in_air = palt_ft > ground_ft + 2
    if not in_air and phase not in ("take_off_climb", "cruise"):
        return max(speed - _BRAKES_M_S2 * dt_s, 0.0) / _M_S_PER_KT, ground_ft
    if not in_air and speed < 1.0 and phase == "cruise":
        return 0.0, ground_ft
    efficiency = _CLIMB_EFFICIENCY if phase == "take_off_climb" else _CRUISE_EFFICIENCY
    thrust = efficiency * max(power_w, 0.0) / max(true_m_s, _STATIC_THRUST_UP_TO_M_S)
    weight = airframe.mass_kg * _G_M_S2
    if not in_air and speed < _ROTATES_AT * climb_m_s:
        pull = thrust - airframe.drag_n(speed) * (speed / climb_m_s) ** 2 - _ROLLING * weight
        return max(speed + pull / airframe.mass_kg * dt_s, 0.0) / _M_S_PER_KT, ground_ft
    low = palt_ft < ground_ft + _FLAPS_BELOW_FT
    flaps = _FLAPS_DRAG if phase == "descent_landing" and low else 1.0
    excess_m_s = (thrust - airframe.drag_n(speed, flaps)) * true_m_s / weight  # of climb, or of speed instead
    if phase == "descent_landing":
        wanted = -plan["descent_fpm"] * _M_S_PER_FPM
    elif phase == "take_off_climb" or palt_ft < cruise_ft - 150:
        wanted = excess_m_s + (speed - climb_m_s) * true_m_s / (_G_M_S2 * _SPEED_LAG_S)
        wanted = min(max(wanted, -6.0), 15.0)
    else:
        wanted = (cruise_ft - palt_ft) * 0.3048 * _CAPTURE_PER_S
    speed += (excess_m_s - wanted) * _G_M_S2 / true_m_s * dt_s
    speed = max(speed, 0.72 * climb_m_s)  # the pilot lowers the nose before it stalls
    return speed / _M_S_PER_KT, max(palt_ft + wanted / 0.3048 * dt_s, ground_ft)
