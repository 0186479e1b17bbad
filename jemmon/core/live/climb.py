"""The climb and the levelling off as they are flown: where to lean and how much, a look for traffic, the blower. Pure."""

import numpy as np

from ..aircraft import Profile
from ..aircraft.phases import PhaseKind
from ..base.figures import difference, figure
from ..flight.events import Event
from ..flight.state import FlightState
from ..power.settings import full_throttle_inhg
from ..trace import Trace
from ..trace.masks import slope
from ..trace.sample import Sample
from ..trace.signals import prefix_of
from .lines import AirLine, look, soft

# common practice, but where it says otherwise
_SLOPE_S, _CLIMBS_FPM = 15.0, 200.0
_TRAFFIC_FOR_S = 12.0
_USUAL_LEAN_FROM_FT = 3000.0
_NOTED_ABOVE_GROUND_FT, _NOTED_BELOW_FT = 500.0, 2500.0
_NEAR_F = 20.0
_LEVEL_WITHIN_FT = 250.0
_SPEED_RISES_KT_S = 0.15
_FULL_MAP = 0.93


def follow_climb(flight_id: str, profile: Profile, state: FlightState, now: Sample) -> list[Event]:
    """Return the event that notes the mean EGT of full rich soon after take-off: what the target-EGT school leans to later."""
    if state.climb_egt_f is not None or not profile.kind_of(state.phase).climbs:
        return []
    readings = now.readings
    egts = [v for name, v in readings.items() if name.startswith("egt")]
    above = readings.get("palt_ft", 0.0) - profile.schedule.get("palt_ground_ft", 0.0)
    if not egts or not _NOTED_ABOVE_GROUND_FT < above < _NOTED_BELOW_FT or "map_inhg" not in readings:
        return []
    full = full_throttle_inhg(profile, readings.get("rpm", float(profile.engine["rated_rpm"])), readings["palt_ft"])
    lever = now.levers.get("mixture")
    if readings["map_inhg"] < _FULL_MAP * full or (lever is not None and float(lever) < 0.95):
        return []
    body = {"egt_f": round(float(np.mean(egts)), 1), "palt_ft": round(readings["palt_ft"])}
    return [Event(id=f"{flight_id}:climb_egt", kind="climb_egt", at_s=now.at_s, body=body)]


def climb_lines(profile: Profile, state: FlightState, recent: Trace, now: Sample) -> list[AirLine]:
    """Return what is to be said in a climb and while levelling off, a line each."""
    altitude, speed = recent.signal("palt"), recent.signal("ias")
    kind = profile.kind_of(state.phase)
    if altitude is None or not kind.flies or kind.comes_down:
        return []
    rate_fpm = slope(recent, altitude, _SLOPE_S) * 60
    here = float(altitude[-1])
    said = []
    if rate_fpm > _CLIMBS_FPM and kind.climbs:
        said += _traffic(recent, altitude)
        said += _leaning(profile, state, now, here)
        said += _blower(profile, now, here)
    told = state.known.get("cruise_ft")  # of today, else as it is usually flown
    wanted = profile.schedule.get("cruise_ft") if told is None else float(told)
    if told is not None and kind.climbs and rate_fpm > _CLIMBS_FPM and _LEVEL_WITHIN_FT < float(told) - here <= 1000:
        said.append(soft("to_go", f"Less than 1,000 ft to go to {float(told):,.0f} ft."))
    said += _levelling(wanted, kind, here, rate_fpm, None if speed is None else slope(recent, speed, 10.0))
    return said


def _traffic(recent: Trace, altitude: np.ndarray) -> list[AirLine]:
    """Say so for some seconds after each thousand feet: lower the nose and look."""
    before = altitude[recent.time_s > recent.time_s[-1] - _TRAFFIC_FOR_S]
    passed = int(altitude[-1] // 1000) * 1000
    if before.size and before[0] < passed <= altitude[-1] and passed > 0:
        return [look("traffic", f"{passed:,} ft: lower the nose a moment, look for traffic.")]
    return []


def _leaning(profile: Profile, state: FlightState, now: Sample, here: float) -> list[AirLine]:
    power = profile.power_section
    school, start_ft = power.get("climb_lean", "steps"), power.get("lean_from_ft", _USUAL_LEAN_FROM_FT)
    if school == "none" or here < start_ft:
        return []
    egts = [v for name, v in now.readings.items() if name.startswith("egt")]
    if school == "target_egt" and state.climb_egt_f is not None and egts:
        away = float(np.mean(egts)) - state.climb_egt_f
        if abs(away) <= _NEAR_F:
            say = f"Mean EGT as it was full rich low down ({figure(state.climb_egt_f, 'f')}): leave the mixture."
            return [soft("climb_lean", say)]
        way = "Richer" if away > 0 else "Leaner"
        was = figure(state.climb_egt_f, "f")
        say = f"{way} by {difference(abs(away), 'f')}: back to the EGT that full rich gave ({was})."
        return [look("climb_lean", say)]
    thousand = int(here // 1000) * 1000
    if here - thousand > 500:
        return []
    say = f"{thousand:,} ft: a small step leaner; EGT a little up, RPM smooth. Richer if a CHT gets hot."
    return [soft("climb_lean", say)]


def _light_is_out(now: Sample, engine: int) -> bool:
    """Say whether a blower is set to high while its light stays out: its clutch did not take it (common practice)."""
    prefix = prefix_of(engine)
    position, light = now.levers.get(f"{prefix}blower"), now.readings.get(f"{prefix}blower_light")
    return position is not None and light is not None and float(position) > 0.5 and light < 0.5


def _blower(profile: Profile, now: Sample, here: float) -> list[AirLine]:
    if unshifted := [name for number, name in profile.engines if _light_is_out(now, number)]:
        whose = profile.whose(unshifted[0])
        return [look("blower", f"{whose}Blower at high and its light out: it did not shift. Back to low.")]
    shift_ft = profile.power_section.get("blower_shift_ft")
    position = now.levers.get("blower")
    if shift_ft is None or here < shift_ft or (position is not None and float(position) > 0.5):
        return []
    say = f"Above {shift_ft:,.0f} ft: throttle back a little, blower to high without dwelling, power again."
    return [look("blower", say)]


def _levelling(
    wanted: float | None, kind: PhaseKind, here: float, rate_fpm: float, rises_kt_s: float | None
) -> list[AirLine]:
    if wanted is None or abs(here - wanted) > _LEVEL_WITHIN_FT or rises_kt_s is None:
        return []
    if rises_kt_s > _SPEED_RISES_KT_S:
        return [soft("level_off", "Level: keep climb power while speed still rises.")]
    if kind.climbs and abs(rate_fpm) < _CLIMBS_FPM:
        return [look("level_off", "Speed has settled: cruise power, trim, then lean.")]
    return []
