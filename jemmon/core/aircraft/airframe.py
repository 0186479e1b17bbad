"""What an airframe takes: drag and weight from a few figures of the profile. SI.

Drag is a parasite part that grows with dynamic pressure and an induced part that falls with it; both follow from its cruise at
65 % at sea level and its climb at full power (common practice: propeller 80 % in cruise, 72 % in the climb).
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from ..base.atmosphere import G_M_S2, standard_density_ratio
from ..base.units import KM_PER_NAUTICAL_MILE, METRE_PER_FOOT, WATTS_PER_HP
from . import Profile

M_S_PER_KT, M_S_PER_FPM = KM_PER_NAUTICAL_MILE / 3.6, METRE_PER_FOOT / 60
CRUISE_EFFICIENCY, CLIMB_EFFICIENCY = 0.80, 0.72
_DENSITY_KG_M3 = 1.225
_CRUISE_PCT = 0.65
_KG_PER_HP = 6.5


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


def airframe_of(profile: Profile) -> Airframe:
    """Return the airframe that flies as the profile's `flown_by` says, with all its engines' rated power."""
    plan: Mapping[str, float] = profile.flown_by
    rated_power_hp = float(profile.engine["rated_power_hp"]) * int(profile.engine["count"])
    mass = plan.get("mass_kg", _KG_PER_HP * rated_power_hp)
    rated_w = rated_power_hp * WATTS_PER_HP
    fast, slow = plan["cruise_kt"] * M_S_PER_KT, plan["climb_kt"] * M_S_PER_KT
    level_w = CRUISE_EFFICIENCY * _CRUISE_PCT * rated_w
    climb_w = CLIMB_EFFICIENCY * rated_w - mass * G_M_S2 * plan["climb_fpm"] * M_S_PER_FPM
    q_fast, q_slow = (0.5 * _DENSITY_KG_M3 * v * v for v in (fast, slow))
    # two equations: power = speed x (pressure x plate + induced / pressure)
    determinant = fast * slow * (q_fast / q_slow - q_slow / q_fast)
    plate = (level_w * slow / q_slow - climb_w * fast / q_fast) / determinant
    induced = (climb_w * fast * q_fast - level_w * slow * q_slow) / determinant
    least = 0.2 * level_w / fast / q_fast
    return Airframe(mass, max(plate, least), max(induced, 0.0))


def climb_m_s(airframe: Airframe, power_w: float, ias_kt: float, density_ft: float) -> float:
    """Return the rate of climb [m/s] that the engines' brake power [W] gives at an indicated airspeed and density altitude [ft]."""
    speed = ias_kt * M_S_PER_KT
    true_m_s = speed / math.sqrt(standard_density_ratio(density_ft))
    return (CLIMB_EFFICIENCY * power_w - airframe.drag_n(speed) * true_m_s) / (airframe.mass_kg * G_M_S2)
