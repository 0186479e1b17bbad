"""The take-off as it is made: what full power gives against what it should give today, said early enough to stop. Pure."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from ..aircraft import Profile
from ..base.figures import figure
from ..flight.events import Event
from ..flight.state import FlightState
from ..power.map_limit import map_limit_inhg
from ..power.settings import full_throttle_inhg, static_full_throttle_inhg, static_least_rpm
from ..trace import Trace
from ..trace.sample import Sample, outside_c, with_hottest
from ..trace.signals import BY_COLUMN, prefix_of

NOTHING: Mapping[int, float] = MappingProxyType({})
# common practice, but where a figure is the profile's: about three seconds to full, both rise evenly, when one can still stop
_FULL_THROTTLE, _NEARLY_FULL_MAP = 0.9, 0.9
# common practice, but where it says otherwise
_COMES_UP_S, _LOOKED_AT_S = 3.0, 12.0
_STILL_STOPS_KT, _STATIC_BELOW_KT = 55.0, 35.0
LOW_BY_INHG, _LEFT_GROUND_FT = 1.5, 30.0
_UNEVEN_INHG, _UNEVEN_RPM = 1.5, 75.0
_ENGINE_LIMITS = (
    ("oil_p_psi", "oil_pressure_min_psi", None),
    ("oil_t_f", "oil_t_take_off_min_f", "oil_t_max_f"),
    ("cht_max_f", None, "cht_max_f"),
    ("coolant_t_f", None, "coolant_t_take_off_max_f"),
    ("fp_psi", "fuel_pressure_min_psi", None),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeOffRow:
    """One figure of a take-off in its core unit, with the band of the day; `ok` None while it still comes up."""

    name: str
    value: float
    unit: str
    low: float | None
    high: float | None
    ok: bool | None


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeOffWatch:
    """A take-off that is being made: its figures, and what is out of range while there is still time to stop."""

    rows: tuple[TakeOffRow, ...]
    stop: str | None
    settled: bool


def take_off_watch(
    profile: Profile, state: FlightState, recent: Trace, now: Sample, own_lack_inhg: Mapping[int, float] = NOTHING
) -> TakeOffWatch | None:
    """Return a take-off that is being made, or None. `own_lack_inhg` is by how much each engine of this aircraft lacks the
    profile's manifold pressure as a rule [inHg]."""
    if profile.place(state.phase) > profile.place(profile.take_off.phase) or _flies(profile, recent, now):
        return None  # a go-around, a hover: nothing says stop to what flies
    since_s = _full_since_s(profile, recent)
    if since_s is None:
        return None
    settled = bool(recent.time_s[-1] - since_s >= _COMES_UP_S)
    rows = (*_power_rows(profile, now, settled, own_lack_inhg), *_engine_rows(profile, now))
    if not rows:
        return None
    wrong = [f"{row.name} {_words(row.value, row)}, {_band(row)}" for row in rows if row.ok is False]
    return TakeOffWatch(rows=rows, stop=f"Stop: {'; '.join(wrong)}" if wrong else None, settled=settled)


def follow_take_off(flight_id: str, profile: Profile, now: Sample, watch: TakeOffWatch | None) -> list[Event]:
    """Return the event of the flight's first take-off with nothing to stop for, for this aircraft's later ones; its id is the
    flight's own, so that it is kept once."""
    if watch is None or not watch.settled or watch.stop or profile.engine["propeller"] == "rotor":
        return []
    lacks = {}
    for number, _ in profile.engines:
        pressure = now.readings.get(f"{prefix_of(number)}map_inhg")
        if pressure is not None:
            rpm = now.readings.get(f"{prefix_of(number)}rpm")
            lacks[str(number)] = round(_full_today_inhg(profile, now, rpm) - pressure, 2)
    if not lacks:
        return []
    return [Event(id=f"{flight_id}:take_off_made", kind="take_off_made", at_s=now.at_s, body={"lacks_inhg": lacks})]


def _flies(profile: Profile, recent: Trace, now: Sample) -> bool:
    """Say whether the aircraft is too fast to stop, by the speed at which the type rotates, or has left the ground."""
    altitude = recent.signal("palt")
    risen = (
        altitude is not None
        and bool(np.isfinite(altitude).any())
        and altitude[-1] - np.nanmin(altitude) > _LEFT_GROUND_FT
    )
    return bool(risen or now.readings.get("ias_kt", 0.0) > _stops_until_kt(profile))


def _stops_until_kt(profile: Profile) -> float:
    """Return the airspeed [kt] up to which a take-off is stopped: the type's own for rotation, else the usual one."""
    own = profile.body.get("briefing", {}).get("rotate_kt")
    return _STILL_STOPS_KT if own is None else float(own)


def _band(row: TakeOffRow) -> str:
    if row.low is not None and (row.high is None or row.value <= row.high):
        return f"at least {_words(row.low, row)}"
    return f"at most {_words(row.high or 0.0, row)}"


def _words(value: float, row: TakeOffRow) -> str:
    return f"{value:,.0f}" if row.unit == "rpm" else figure(value, row.unit)


def _full_since_s(profile: Profile, recent: Trace) -> float | None:
    """Return since when power has been full, or None where it is not: by the throttle, else by manifold pressure."""
    throttle, pressure = recent.signal("throttle"), recent.signal("map")
    last = recent.time_s > recent.time_s[-1] - _LOOKED_AT_S
    if throttle is not None:
        full = np.nan_to_num(throttle[last]) > _FULL_THROTTLE
    elif pressure is not None:
        altitude = recent.signal("palt")
        outside = full_throttle_inhg(
            profile, float(profile.engine["rated_rpm"]), 0 if altitude is None else altitude[-1]
        )
        full = np.nan_to_num(pressure[last]) > _NEARLY_FULL_MAP * outside
    else:
        return None
    if not full[-1]:
        return None
    away = np.flatnonzero(~full)
    times = recent.time_s[last]
    return float(times[away[-1] + 1] if away.size else times[0])


def _power_rows(profile: Profile, now: Sample, settled: bool, own_lack_inhg: Mapping[int, float]) -> list[TakeOffRow]:
    rows = []
    for number, name in profile.engines:
        prefix, whose = prefix_of(number), profile.whose(name)
        rpm, pressure = now.readings.get(f"{prefix}rpm"), now.readings.get(f"{prefix}map_inhg")
        static = now.readings.get("ias_kt", 0.0) < _STATIC_BELOW_KT or profile.engine["propeller"] != "fixed_pitch"
        if rpm is not None and profile.has_limit("static_min_rpm") and static:
            least = static_least_rpm(profile, now.readings.get("palt_ft"), outside_c(now.readings))
            band = least, profile.find_limit("static_max_rpm")
            rows.append(_row(f"{whose}RPM", rpm, "rpm", *band, settled))
        if pressure is not None:
            band = _expected_map(profile, now, rpm, own_lack_inhg.get(number, 0.0))
            rows.append(_row(f"{whose}Manifold pressure", pressure, "inhg", *band, settled))
    return [*rows, *_evenness(now, settled)]


def _evenness(now: Sample, settled: bool) -> list[TakeOffRow]:
    """Return the row that holds two engines against each other: one that lags shows here first."""
    for name, unit, most in (("map_inhg", "inhg", _UNEVEN_INHG), ("rpm", "rpm", _UNEVEN_RPM)):
        left, right = now.readings.get(name), now.readings.get(f"e2_{name}")
        if left is not None and right is not None:
            return [_row("Left and right apart by", abs(left - right), unit, None, most, settled)]
    return []


def _full_today_inhg(profile: Profile, now: Sample, rpm: float | None) -> float:
    """Return the manifold pressure [inHg] of full throttle, standing, at this altitude."""
    altitude = now.readings.get("palt_ft", 0.0)
    return static_full_throttle_inhg(profile, rpm or float(profile.engine["rated_rpm"]), altitude)


def _expected_map(
    profile: Profile, now: Sample, rpm: float | None, own_lack_inhg: float
) -> tuple[float | None, float | None]:
    oat_c = outside_c(now.readings)
    of_the_day = None if oat_c is None else map_limit_inhg(profile, now.readings.get("palt_ft", 0.0), oat_c)
    most = of_the_day if of_the_day is not None else profile.find_limit("map_max_inhg")
    if profile.engine["propeller"] == "rotor":
        return None, most
    return round(_full_today_inhg(profile, now, rpm) - own_lack_inhg - LOW_BY_INHG, 1), most


def _engine_rows(profile: Profile, now: Sample) -> list[TakeOffRow]:
    readings, rows = with_hottest(now.readings), []
    for column, least, most in _ENGINE_LIMITS:
        signal = BY_COLUMN[column]
        low, high = (profile.find_limit(name) if name else None for name in (least, most))
        for number, engine in profile.engines:
            own = f"{prefix_of(number)}{column}"
            if own not in readings or (low is None and high is None):
                continue
            name = f"{profile.whose(engine)}{signal.title}"
            row = _row(name, readings[own], signal.unit, low, high, True, signal.slack)
            if number == 1 or not row.ok:  # the second engine's only where it has something to say
                rows.append(row)
    return rows


def _row(
    name: str,
    value: float,
    unit: str,
    low: float | None,
    high: float | None,
    settled: bool,
    slack: float | None = None,
) -> TakeOffRow:
    """Return a figure held against its band; beyond an end by no more than a needle can show. A least power has its allowance in
    the band itself."""
    above = {"rpm": BY_COLUMN["rpm"].slack, "inhg": BY_COLUMN["map_inhg"].slack}[unit] if slack is None else slack
    inside = bool((low is None or value >= low - (slack or 0.0)) and (high is None or value <= high + above))
    return TakeOffRow(
        name=name, value=round(float(value), 1), unit=unit, low=low, high=high, ok=inside if settled else None
    )
