"""The plan before a flight: what to set for a power, what full throttle still gives by height, and the climb. Pure."""

from dataclasses import asdict
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..aircraft.airframe import M_S_PER_FPM, WATTS_PER_HP, airframe_of, climb_m_s
from ..base.atmosphere import density_altitude_ft, standard_density_ratio, standard_temperature_c
from ..base.errors import EventError
from ..fuel.schedule import tank_schedule
from .map_limit import map_limit_chart, map_limit_inhg
from .margin import band_to_avoid
from .percent import mixture_share, power_by_table_pct
from .schools import refusal
from .settings import fuel_flow_gph, full_throttle_inhg, settings_for

_STEP_FT, _LEAST_FPM = 1000.0, 50.0
_CLIMB_RICH_PCT_SHARE = 1.18  # a climb is flown richer than best power


def plan(
    profile: Profile,
    pct: float,
    palt_ft: float,
    oat_c: float | None = None,
    target_id: str | None = None,
    fuel_gal: float | None = None,
    wind_kt: float = 0.0,
) -> dict[str, Any]:
    """Return settings, what is available by height, and the climb to this height.

    Raises:
        EventError: a figure that cannot be, or a lean target that the profile has not.
    """
    if not 20 <= pct <= 100 or not -1000 <= palt_ft <= 25_000:
        raise EventError(f"{pct:g} % at {palt_ft:g} ft cannot be planned: 20 to 100 %, -1,000 to 25,000 ft.")
    target = next((t for t in profile.lean_targets if t.id == target_id), None)
    if target_id and target is None:
        raise EventError(f"The profile has no lean target {target_id!r}.")
    outside_c = standard_temperature_c(palt_ft) if oat_c is None else oat_c
    side, offset = (target.side, target.offset_f) if target else (None, None)
    rows = settings_for(profile, pct, palt_ft, outside_c, side, offset, fuel_gal, wind_kt)
    flow_gph = max((row.ff_gph for row in rows), default=0.0) * len(profile.engines)  # no setting here burns more
    return {
        "density_altitude_ft": round(density_altitude_ft(palt_ft, outside_c)),
        "engines": int(profile.engine["count"]),
        "rows": [asdict(row) for row in rows],
        "refused": refusal(profile, target, pct, None) if target else None,
        "available": available_by_height(profile),
        "climb": climb_plan(profile, palt_ft),
        "tanks": tank_schedule(profile, fuel_gal, flow_gph) if fuel_gal else None,
        "mixture": mixture_curve(pct),
        "map_limit": map_limit_chart(profile),
        "map_limit_inhg": map_limit_inhg(profile, palt_ft, outside_c),
    }


def mixture_curve(pct: float) -> dict[str, Any]:
    """Return power as a share of that at best power [%] by distance from peak EGT [°F], negative lean of it, and the stretch of it
    that this power is not left in (`avoid_f`, lean end first)."""
    offsets = np.arange(-100.0, 201.0, 5.0)
    shares = [100 * mixture_share("rich" if o >= 0 else "lean", abs(float(o))) for o in offsets]
    band = band_to_avoid(pct)
    return {
        "offset_f": offsets.tolist(),
        "power_pct": [round(share, 1) for share in shares],
        "avoid_f": None if band is None else [-band[1], band[0]],
    }


def available_by_height(profile: Profile) -> dict[str, Any]:
    """Return percent of rated power at full throttle by pressure altitude, one line for each of three RPM."""
    if profile.power is None:
        return {"palt_ft": [], "lines": []}
    heights = np.arange(0, 14_001, 1000.0)
    speeds = [float(v) for v in np.linspace(profile.power.rpm[0], profile.power.rpm[-1], 3)]
    lines = []
    for rpm in speeds:
        percents = [power_by_table_pct(profile, rpm, full_throttle_inhg(profile, rpm, h), h) for h in heights]
        lines.append({"rpm": round(rpm), "pct": [None if p is None else round(p, 1) for p in percents]})
    return {"palt_ft": heights.tolist(), "lines": lines}


def climb_plan(profile: Profile, to_ft: float) -> list[dict[str, float]]:
    """Return the climb from the field, a row each 1,000 ft: rate [ft/min], and the time [min], fuel [US gal] and distance [nm]
    so far. The rate falls with what full throttle still gives above what drag takes."""
    plan = profile.schedule
    if profile.power is None or "climb_fpm" not in plan:
        return []
    airframe, engines = airframe_of(profile), int(profile.engine["count"])
    rated_w = float(profile.engine["rated_power_hp"]) * engines * WATTS_PER_HP
    height, rpm = float(plan["palt_ground_ft"]), float(profile.power.rpm[-1])
    minutes, fuel, miles, rows = 0.0, 0.0, 0.0, []
    while height < to_ft - 1:
        step = min(_STEP_FT, to_ft - height)
        power = _power_at(profile, rpm, height + step / 2)
        if power is None:
            break
        rate = climb_m_s(airframe, power / 100 * rated_w, plan["climb_kt"], height + step / 2) / M_S_PER_FPM
        if rate < _LEAST_FPM:
            break
        took = step / rate
        height, minutes = height + step, minutes + took
        fuel += engines * fuel_flow_gph(profile, power, rpm=rpm) * _CLIMB_RICH_PCT_SHARE * took / 60
        miles += plan["climb_kt"] / float(np.sqrt(standard_density_ratio(height))) * took / 60
        rows.append(
            {
                "palt_ft": round(height),
                "rate_fpm": round(rate, -1),
                "minutes": round(minutes, 1),
                "fuel_gal": round(fuel, 1),
                "distance_nm": round(miles, 1),
            }
        )
    return rows


def _power_at(profile: Profile, rpm: float, palt_ft: float) -> float | None:
    """Return percent of rated power at full throttle, no further than the type's manifold pressure or its limit of the day."""
    limit = profile.limits.get("map_max_inhg")
    of_the_day = map_limit_inhg(profile, palt_ft, standard_temperature_c(palt_ft))
    bounds = [full_throttle_inhg(profile, rpm, palt_ft), limit.value if limit else None, of_the_day]
    return power_by_table_pct(profile, rpm, min(b for b in bounds if b is not None), palt_ft)
