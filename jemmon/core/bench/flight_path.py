"""A simple flight path: what power the engines give against drag and weight makes airspeed and height. SI inside.

A point, no pitch and no wind: enough for a climb, a cruise and a descent to be flown by their phase.
"""

import math
from collections.abc import Mapping

from ..aircraft.airframe import CLIMB_EFFICIENCY, CRUISE_EFFICIENCY, M_S_PER_FPM, M_S_PER_KT, Airframe
from ..aircraft.phases import CRUISE, PhaseKind
from ..base.atmosphere import G_M_S2, standard_density_ratio
from ..base.units import METRE_PER_FOOT

_STATIC_THRUST_UP_TO_M_S = 24.0  # below it the propeller gives thrust, not power
_ROLLING, _BRAKES_M_S2 = 0.04, 2.0
_ROTATES_AT = 0.8  # of the climb speed
_SPEED_LAG_S = 10.0
_FLAPS_BELOW_FT, _FLAPS_DRAG = 1500.0, 2.2
_CAPTURE_PER_S = 0.08


def next_flight_path(
    airframe: Airframe,
    kind: PhaseKind,
    power_w: float,
    ias_kt: float,
    palt_ft: float,
    dt_s: float,
    plan: Mapping[str, float],
) -> tuple[float, float]:
    """Return (indicated airspeed [kt], pressure altitude [ft]) after `dt_s` with the engines' brake power [W]. The kind of
    phase says what the pilot does: stand, climb at the climb speed, hold the cruising height, come down."""
    ground_ft = plan["palt_ground_ft"]
    sigma = standard_density_ratio(palt_ft)
    speed = ias_kt * M_S_PER_KT
    true_m_s = max(speed / math.sqrt(sigma), 1.0)
    climb_m_s, cruise_ft = plan["climb_kt"] * M_S_PER_KT, plan["cruise_ft"]
    in_air = palt_ft > ground_ft + 2
    climbs, descends = kind.climbs, kind.comes_down
    if not in_air and not climbs and kind.name != CRUISE:
        return max(speed - _BRAKES_M_S2 * dt_s, 0.0) / M_S_PER_KT, ground_ft
    if not in_air and speed < 1.0 and not climbs:
        return 0.0, ground_ft
    efficiency = CLIMB_EFFICIENCY if climbs else CRUISE_EFFICIENCY
    thrust = efficiency * max(power_w, 0.0) / max(true_m_s, _STATIC_THRUST_UP_TO_M_S)
    weight = airframe.mass_kg * G_M_S2
    if not in_air and speed < _ROTATES_AT * climb_m_s:
        pull = thrust - airframe.drag_n(speed) * (speed / climb_m_s) ** 2 - _ROLLING * weight
        return max(speed + pull / airframe.mass_kg * dt_s, 0.0) / M_S_PER_KT, ground_ft
    low = palt_ft < ground_ft + _FLAPS_BELOW_FT
    flaps = _FLAPS_DRAG if descends and low else 1.0
    excess_m_s = (thrust - airframe.drag_n(speed, flaps)) * true_m_s / weight  # of climb, or of speed instead
    if descends:
        wanted = -plan["descent_fpm"] * M_S_PER_FPM
    elif climbs or palt_ft < cruise_ft - 150:
        wanted = excess_m_s + (speed - climb_m_s) * true_m_s / (G_M_S2 * _SPEED_LAG_S)
        wanted = min(max(wanted, -6.0), 15.0)
    else:
        wanted = (cruise_ft - palt_ft) * METRE_PER_FOOT * _CAPTURE_PER_S
    speed += (excess_m_s - wanted) * G_M_S2 / true_m_s * dt_s
    speed = max(speed, 0.72 * climb_m_s)  # the pilot lowers the nose before it stalls
    return speed / M_S_PER_KT, max(palt_ft + wanted / METRE_PER_FOOT * dt_s, ground_ft)
