"""The take-off as it is made: what full power gives against what it should give today, said early enough to stop. Pure."""

from typing import Any

import numpy as np

from ..aircraft import Profile
from ..base.figures import figure
from ..flight.fold import FlightState
from ..power.map_limit import map_limit_inhg
from ..power.settings import full_throttle_inhg
from ..trace import Trace
from .following import Now, outside_temperature_c, with_derived

_FULL_THROTTLE, _NEARLY_FULL_MAP = 0.9, 0.9
_COMES_UP_S = 3.0  # common practice: about three seconds to full
_STILL_STOPS_KT, _STATIC_BELOW_KT = 55.0, 35.0
_LOW_BY_INHG, _LEFT_GROUND_FT = 1.5, 30.0
_LOOKED_AT_S = 12.0
_UNEVEN_INHG, _UNEVEN_RPM = 1.5, 75.0  # common practice: both rise evenly
_ENGINE_LIMITS = (
    ("oil_p_psi", "oil_pressure_min_psi", None, "Oil pressure"),
    ("oil_t_f", "oil_t_take_off_min_f", "oil_t_max_f", "Oil temperature"),
    ("cht_max_f", None, "cht_max_f", "Hottest head"),
    ("coolant_t_f", None, "coolant_t_take_off_max_f", "Coolant"),
    ("fp_psi", "fuel_pressure_min_psi", None, "Fuel pressure"),
)


def take_off_watch(profile: Profile, state: FlightState, recent: Trace, now: Now) -> dict[str, Any] | None:
    """Return `{rows, stop}` of a take-off that is being made, or None. A row is a figure with the band of the day and whether it
    is inside; `stop` says what is out of range while there is still time to stop."""
    if profile.place(state.phase) > profile.place(profile.take_off.phase) or _flies(recent, now):
        return None  # a go-around, a hover: nothing says stop to what flies
    since_s = _full_since_s(profile, recent)
    if since_s is None:
        return None
    settled = bool(recent.time_s[-1] - since_s >= _COMES_UP_S)
    rows = [*_power_rows(profile, now, settled), *_engine_rows(profile, now)]
    if not rows:
        return None
    wrong = [row for row in rows if row["ok"] is False]
    stop = None
    if wrong:
        stop = "Stop: " + "; ".join(f"{row['name']} {_words(row['value'], row)}, {_band(row)}" for row in wrong)
    return {"rows": rows, "stop": stop, "settled": settled}


def _flies(recent: Trace, now: Now) -> bool:
    """Say whether the aircraft is too fast to stop, or has left the ground."""
    height = recent.signal("palt")
    risen = height is not None and bool(np.isfinite(height).any()) and height[-1] - np.nanmin(height) > _LEFT_GROUND_FT
    return bool(risen or now.readings.get("ias_kt", 0.0) > _STILL_STOPS_KT)


def _band(row: dict[str, Any]) -> str:
    if row["low"] is not None and row["value"] < row["low"]:
        return f"at least {_words(row['low'], row)}"
    return f"at most {_words(row['high'], row)}"


def _words(value: float, row: dict[str, Any]) -> str:
    return f"{value:,.0f}" if row["unit"] == "rpm" else figure(value, row["unit"])


def _full_since_s(profile: Profile, recent: Trace) -> float | None:
    """Return since when power has been full, or None where it is not: by the throttle, else by manifold pressure."""
    throttle, pressure = recent.signal("throttle"), recent.signal("map")
    last = recent.time_s > recent.time_s[-1] - _LOOKED_AT_S
    if throttle is not None:
        full = np.nan_to_num(throttle[last]) > _FULL_THROTTLE
    elif pressure is not None:
        height = recent.signal("palt")
        outside = full_throttle_inhg(profile, float(profile.engine["rated_rpm"]), 0 if height is None else height[-1])
        full = np.nan_to_num(pressure[last]) > _NEARLY_FULL_MAP * outside
    else:
        return None
    if not full[-1]:
        return None
    away = np.flatnonzero(~full)
    times = recent.time_s[last]
    return float(times[away[-1] + 1] if away.size else times[0])


def _power_rows(profile: Profile, now: Now, settled: bool) -> list[dict[str, Any]]:
    rows = []
    for number, name in profile.engines:
        prefix, whose = ("e2_" if number == 2 else ""), profile.whose(name)
        rpm, pressure = now.readings.get(f"{prefix}rpm"), now.readings.get(f"{prefix}map_inhg")
        static = now.readings.get("ias_kt", 0.0) < _STATIC_BELOW_KT or profile.engine["propeller"] != "fixed_pitch"
        if rpm is not None and "static_min_rpm" in profile.limits and static:
            band = profile.limit("static_min_rpm"), profile.limit("static_max_rpm")
            rows.append(_row(f"{whose}RPM", rpm, "rpm", *band, settled))
        if pressure is not None:
            rows.append(_row(f"{whose}Manifold pressure", pressure, "inhg", *_expected_map(profile, now, rpm), settled))
    return [*rows, *_evenness(now, settled)]


def _evenness(now: Now, settled: bool) -> list[dict[str, Any]]:
    """Return the row that holds two engines against each other: one that lags shows here first."""
    for name, unit, most in (("map_inhg", "inhg", _UNEVEN_INHG), ("rpm", "rpm", _UNEVEN_RPM)):
        left, right = now.readings.get(name), now.readings.get(f"e2_{name}")
        if left is not None and right is not None:
            return [_row("Left and right apart by", abs(left - right), unit, None, most, settled)]
    return []


def _expected_map(profile: Profile, now: Now, rpm: float | None) -> tuple[float | None, float | None]:
    height = now.readings.get("palt_ft", 0.0)
    oat_c = outside_temperature_c(now.readings)
    of_the_day = None if oat_c is None else map_limit_inhg(profile, height, oat_c)
    limit = profile.limits.get("map_max_inhg")
    most = of_the_day if of_the_day is not None else (limit.value if limit else None)
    if profile.engine["propeller"] == "rotor":
        return None, most
    least = full_throttle_inhg(profile, rpm or float(profile.engine["rated_rpm"]), height) - _LOW_BY_INHG
    return round(least, 1), most


def _engine_rows(profile: Profile, now: Now) -> list[dict[str, Any]]:
    readings, rows = with_derived(now.readings), []
    for signal, least, most, name in _ENGINE_LIMITS:
        low, high = (profile.limits[n].value if n and n in profile.limits else None for n in (least, most))
        for number, engine in profile.engines:
            own = f"e2_{signal}" if number == 2 else signal
            if own not in readings or (low is None and high is None):
                continue
            row = _row(f"{profile.whose(engine)}{name}", readings[own], signal.rsplit("_", 1)[-1], low, high, True)
            if number == 1 or not row["ok"]:  # the second engine's only where it has something to say
                rows.append(row)
    return rows


def _row(name: str, value: float, unit: str, low: float | None, high: float | None, settled: bool) -> dict[str, Any]:
    inside = bool((low is None or value >= low) and (high is None or value <= high + 0.02 * abs(high)))
    return {
        "name": name,
        "value": round(float(value), 1),
        "unit": unit,
        "low": low,
        "high": high,
        "ok": inside if settled else None,
    }
