"""The plan before a flight: what to set for a power, what full throttle still gives by altitude, and the climb. Pure."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ..aircraft import Profile
from ..aircraft.airframe import M_S_PER_FPM, airframe_of, climb_m_s
from ..aircraft.profile import LeanTarget
from ..base.atmosphere import density_altitude_ft, standard_density_ratio, standard_temperature_c
from ..base.errors import EventError, checked_number
from ..base.figures import figure
from ..base.names import check_known
from ..base.units import WATTS_PER_HP
from ..fuel.schedule import TankSchedule, tank_schedule
from ..fuel.tanks import reserve_minutes
from .map_limit import MapLimitChart, map_limit_chart, map_limit_inhg
from .margin import Band, band_to_avoid
from .percent import mixture_share, power_by_table_pct
from .schools import refusal
from .settings import Setting, fuel_flow_gph, full_throttle_inhg, settings_for

# common practice, but where it says otherwise
_STEP_FT, _LEAST_FPM = 1000.0, 50.0
_TAXI_MIN, _TAXI_SHARE = 10.0, 0.2  # of taxi and run-up, at a share of full flow (common practice)
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
class FuelBudget:
    """What of the fuel on board [US gal] is not for the cruise: taxi, the climb, the reserve at the flow of this cruise; and what
    is left for it. Negative: it does not reach."""

    on_board_gal: float
    taxi_gal: float
    climb_gal: float
    reserve_gal: float
    reserve_min: int
    cruise_gal: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """What to set for a power at an altitude, what full throttle still gives, the climb there, and the changes of tank; `assumed`
    says what was taken where nothing was asked for."""

    assumed: tuple[str, ...]
    density_altitude_ft: int
    engines: int
    rows: tuple[Setting, ...]
    refused: str | None
    available: Available
    climb: tuple[ClimbRow, ...]
    budget: FuelBudget | None
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
    climb = climb_plan(profile, palt_ft, outside_c - standard_temperature_c(palt_ft))
    budget = fuel_budget(profile, fuel_gal, climb, flow_gph) if fuel_gal and rows else None
    if budget is not None:
        engines = len(profile.engines)
        rows = [
            replace(row, to_reserve_h=round(max(budget.cruise_gal, 0.0) / (row.ff_gph * engines), 2)) for row in rows
        ]
    return Plan(
        assumed=tuple(_assumed(outside_c, oat_c, target, fuel_gal, wind_kt)),
        density_altitude_ft=round(density_altitude_ft(palt_ft, outside_c)),
        engines=int(profile.engine["count"]),
        rows=tuple(rows),
        refused=refusal(profile, target, pct, None) if target else None,
        available=available_by_altitude(profile),
        climb=climb,
        budget=budget,
        tanks=tank_schedule(profile, fuel_gal, flow_gph) if fuel_gal else None,
        mixture=mixture_curve(pct),
        map_limit=map_limit_chart(profile),
        map_limit_inhg=map_limit_inhg(profile, palt_ft, outside_c),
    )


def _assumed(
    outside_c: float, oat_c: float | None, target: LeanTarget | None, fuel_gal: float | None, wind_kt: float
) -> Iterator[str]:
    """Yield what a plan takes for granted, in words."""
    if oat_c is None:
        yield f"the standard day, {figure(outside_c, 'c')} up there"
    if target is None:
        yield "best power mixture"
    if not wind_kt:
        yield "no wind"
    if fuel_gal is None:
        yield "no fuel on board is given, so no hours and no range"


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


def fuel_budget(profile: Profile, fuel_gal: float, climb: tuple[ClimbRow, ...], flow_gph: float) -> FuelBudget:
    """Return what the fuel on board [US gal] is for: ten minutes of taxi and run-up at a fifth of full flow, the climb, the reserve
    of the type at this cruise's flow [US gal/h] (14 CFR 91.151, by day), and the cruise. Common practice."""
    taxi = len(profile.engines) * fuel_flow_gph(profile, 100.0) * _TAXI_SHARE * _TAXI_MIN / 60
    up, minutes = (climb[-1].fuel_gal if climb else 0.0), reserve_minutes(profile)
    board, taxi, up, reserve = (round(gal, 1) for gal in (fuel_gal, taxi, up, flow_gph * minutes / 60))
    return FuelBudget(
        on_board_gal=board,
        taxi_gal=taxi,
        climb_gal=up,
        reserve_gal=reserve,
        reserve_min=round(minutes),
        cruise_gal=round(board - taxi - up - reserve, 1),  # of the parts as they are shown: they add up
    )


_CLIMBED_BY = {"palt_ground_ft", "climb_kt", "cruise_kt", "climb_fpm"}


def climb_plan(profile: Profile, to_ft: float, warmer_c: float = 0.0) -> tuple[ClimbRow, ...]:
    """Return the climb from the field to an altitude [ft], a row each 1,000 ft. The rate falls with what full throttle still
    gives above what drag takes; `warmer_c` is how much warmer [°C] than the standard day the air is."""
    plan = profile.schedule
    if profile.power is None or not plan.keys() >= _CLIMBED_BY:
        return ()
    airframe, engines = airframe_of(profile), int(profile.engine["count"])
    rated_w = float(profile.engine["rated_power_hp"]) * engines * WATTS_PER_HP
    here_ft, rpm = float(plan["palt_ground_ft"]), float(profile.power.rpm[-1])
    minutes, fuel, miles, rows = 0.0, 0.0, 0.0, []
    while here_ft < to_ft - 1:
        step = min(_STEP_FT, to_ft - here_ft)
        middle_ft = here_ft + step / 2
        outside_c = standard_temperature_c(middle_ft) + warmer_c
        power, density_ft = (
            _power_at(profile, rpm, middle_ft, outside_c),
            max(density_altitude_ft(middle_ft, outside_c), -2_000.0),
        )
        if power is None:
            break
        rate = climb_m_s(airframe, power / 100 * rated_w, plan["climb_kt"], density_ft) / M_S_PER_FPM
        if rate < _LEAST_FPM:
            break
        took = step / rate
        here_ft, minutes = here_ft + step, minutes + took
        fuel += engines * fuel_flow_gph(profile, power, rpm=rpm) * _CLIMB_RICH_PCT_SHARE * took / 60
        miles += plan["climb_kt"] / float(np.sqrt(standard_density_ratio(density_ft))) * took / 60
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


def _power_at(profile: Profile, rpm: float, palt_ft: float, oat_c: float) -> float | None:
    """Return percent of rated power at full throttle, no further than the type's manifold pressure or its limit of the day."""
    of_the_day = map_limit_inhg(profile, palt_ft, oat_c)
    bounds = [full_throttle_inhg(profile, rpm, palt_ft), profile.find_limit("map_max_inhg"), of_the_day]
    return power_by_table_pct(profile, rpm, min(b for b in bounds if b is not None), palt_ft, oat_c)
