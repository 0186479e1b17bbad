"""The plan before a flight: what to set for a power, what full throttle still gives by altitude, and the climb. Pure."""

from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..aircraft.airframe import M_S_PER_FPM, WATTS_PER_HP, airframe_of, climb_m_s
from ..base.atmosphere import density_altitude_ft, standard_density_ratio, standard_temperature_c
from ..base.errors import EventError, checked_number
from ..base.names import check_known
from ..fuel.schedule import TankSchedule, tank_schedule
from .map_limit import MapLimitChart, map_limit_chart, map_limit_inhg
from .margin import Band, band_to_avoid
from .percent import mixture_share, power_by_table_pct
from .schools import refusal
from .settings import Setting, fuel_flow_gph, full_throttle_inhg, settings_for

# common practice, but where it says otherwise
_STEP_FT, _LEAST_FPM = 1000.0, 50.0
_CLIMB_RICH_PCT_SHARE = 1.18  # a climb is flown richer than best power (common practice)


@dataclass(frozen=True, slots=True, kw_only=True)
class MixtureCurve:
    """Power as a share of that at best power [%] by distance from peak EGT [°F], negative lean of it, and the stretch of it that
    this power is not left in (lean end first)."""

    offset_f: tuple[float, ...]
    power_pct: tuple[float, ...]
    avoid_f: Band | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerLine:
    """Percent of rated power at full throttle at one RPM, by the altitudes of `Available`; None outside the type's table."""

    rpm: int
    pct: tuple[float | None, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Available:
    """What full throttle still gives by pressure altitude [ft], a line for each of three RPM."""

    palt_ft: tuple[float, ...]
    lines: tuple[PowerLine, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ClimbRow:
    """The climb up to an altitude [ft]: the rate there [ft/min], and the time, fuel [US gal] and distance so far."""

    palt_ft: int
    rate_fpm: float
    minutes: float
    fuel_gal: float
    distance_nm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """What to set for a power at an altitude, what full throttle still gives, the climb there, and the changes of tank."""

    density_altitude_ft: int
    engines: int
    rows: tuple[Setting, ...]
    refused: str | None
    available: Available
    climb: tuple[ClimbRow, ...]
    tanks: TankSchedule | None
    mixture: MixtureCurve
    map_limit: MapLimitChart | None
    map_limit_inhg: float | None


def plan(
    profile: Profile,
    pct: float,
    palt_ft: float,
    oat_c: float | None = None,
    target_id: str | None = None,
    fuel_gal: float | None = None,
    wind_kt: float = 0.0,
) -> Plan:
    """Return the plan for a power [% of rated] at a pressure altitude [ft].

    Raises:
        EventError: a figure out of range, or a lean target that the profile does not have.
    """
    checked_number("The power", pct, EventError, 20, 100)
    checked_number("The altitude", palt_ft, EventError, -1_000, 25_000)
    target = next((t for t in profile.lean_targets if t.id == target_id), None)
    if target_id:
        check_known("`target`", target_id, [t.id for t in profile.lean_targets], EventError)
    outside_c = standard_temperature_c(palt_ft) if oat_c is None else oat_c
    side, offset = (target.side, target.offset_f) if target else (None, None)
    rows = settings_for(profile, pct, palt_ft, outside_c, side, offset, fuel_gal, wind_kt)
    flow_gph = max((row.ff_gph for row in rows), default=0.0) * len(profile.engines)  # no setting here burns more
    return Plan(
        density_altitude_ft=round(density_altitude_ft(palt_ft, outside_c)),
        engines=int(profile.engine["count"]),
        rows=tuple(rows),
        refused=refusal(profile, target, pct, None) if target else None,
        available=available_by_altitude(profile),
        climb=climb_plan(profile, palt_ft),
        tanks=tank_schedule(profile, fuel_gal, flow_gph) if fuel_gal else None,
        mixture=mixture_curve(pct),
        map_limit=map_limit_chart(profile),
        map_limit_inhg=map_limit_inhg(profile, palt_ft, outside_c),
    )


def mixture_curve(pct: float) -> MixtureCurve:
    """Return the curve of a power [% of rated]."""
    offsets = np.arange(-100.0, 201.0, 5.0)
    shares = (100 * mixture_share("rich" if o >= 0 else "lean", abs(float(o))) for o in offsets)
    band = band_to_avoid(pct)
    return MixtureCurve(
        offset_f=tuple(offsets.tolist()),
        power_pct=tuple(round(share, 1) for share in shares),
        avoid_f=None if band is None else Band(lean_end=-band[1], rich_end=band[0]),
    )


def available_by_altitude(profile: Profile) -> Available:
    """Return percent of rated power at full throttle by pressure altitude [ft], one line for each of three RPM."""
    if profile.power is None:
        return Available(palt_ft=(), lines=())
    altitudes = [float(h) for h in np.arange(0, 14_001, 1000.0)]
    lines = []
    for rpm in (float(v) for v in np.linspace(profile.power.rpm[0], profile.power.rpm[-1], 3)):
        percents = [power_by_table_pct(profile, rpm, full_throttle_inhg(profile, rpm, h), h) for h in altitudes]
        lines.append(PowerLine(rpm=round(rpm), pct=tuple(None if p is None else round(p, 1) for p in percents)))
    return Available(palt_ft=tuple(altitudes), lines=tuple(lines))


def climb_plan(profile: Profile, to_ft: float) -> tuple[ClimbRow, ...]:
    """Return the climb from the field to an altitude [ft], a row each 1,000 ft. The rate falls with what full throttle still
    gives above what drag takes."""
    plan = profile.schedule
    if profile.power is None or "climb_fpm" not in plan:
        return ()
    airframe, engines = airframe_of(profile), int(profile.engine["count"])
    rated_w = float(profile.engine["rated_power_hp"]) * engines * WATTS_PER_HP
    here_ft, rpm = float(plan["palt_ground_ft"]), float(profile.power.rpm[-1])
    minutes, fuel, miles, rows = 0.0, 0.0, 0.0, []
    while here_ft < to_ft - 1:
        step = min(_STEP_FT, to_ft - here_ft)
        power = _power_at(profile, rpm, here_ft + step / 2)
        if power is None:
            break
        rate = climb_m_s(airframe, power / 100 * rated_w, plan["climb_kt"], here_ft + step / 2) / M_S_PER_FPM
        if rate < _LEAST_FPM:
            break
        took = step / rate
        here_ft, minutes = here_ft + step, minutes + took
        fuel += engines * fuel_flow_gph(profile, power, rpm=rpm) * _CLIMB_RICH_PCT_SHARE * took / 60
        miles += plan["climb_kt"] / float(np.sqrt(standard_density_ratio(here_ft))) * took / 60
        rows.append(
            ClimbRow(
                palt_ft=round(here_ft),
                rate_fpm=round(rate, -1),
                minutes=round(minutes, 1),
                fuel_gal=round(fuel, 1),
                distance_nm=round(miles, 1),
            )
        )
    return tuple(rows)


def _power_at(profile: Profile, rpm: float, palt_ft: float) -> float | None:
    """Return percent of rated power at full throttle, no further than the type's manifold pressure or its limit of the day."""
    of_the_day = map_limit_inhg(profile, palt_ft, standard_temperature_c(palt_ft))
    bounds = [full_throttle_inhg(profile, rpm, palt_ft), profile.find_limit("map_max_inhg"), of_the_day]
    return power_by_table_pct(profile, rpm, min(b for b in bounds if b is not None), palt_ft)
