"""The power check of a take-off, held on the brakes or rolling: what the engine gives at full throttle before it flies."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..base.atmosphere import standard_pressure_pa
from ..base.figures import beyond
from ..base.units import PASCAL_PER_INHG, celsius
from ..power.settings import static_least_rpm, static_share
from ..trace import Trace
from ..trace.finding import LOOK, STOP, WITHIN, Finding, Reasons
from ..trace.masks import rises
from ..trace.signals import SIGNALS
from .airborne import ON_GROUND_KT, airborne
from .check import TYPE, Check, Compared, Evidence, Ripe, Rule, Shown, TrendFigure

_IDLE_SHARE, _HIGH_SHARE = 0.6, 0.85  # of the static speed (common practice)
# common practice, but where it says otherwise
_COMES_UP_WITHIN_S = 30.0
_SETTLES_S, _LOOKED_AT_S, _LEAST_S = 3.0, 8.0, 2.0  # common practice: about three seconds to full
_FULL_THROTTLE = 0.85
# common practice: at full throttle an unblown engine shows about an inch less than outside; and where aircraft take off
_BELOW_OUTSIDE_INHG, _HIGHEST_FIELD_FT = 2.5, 10_000.0


def find_power_checks(evidence: Evidence) -> list[Finding]:
    """Return a `power_check` finding for each time that power came up for a take-off from low speed on the ground. Limits by
    the type."""
    trace, profile = evidence.trace, evidence.profile
    rpm = trace.signal("rpm")
    if rpm is None or len(trace) < 8:
        return []
    static = profile.limit("static_min_rpm")
    speed, t = np.nan_to_num(rpm), trace.time_s
    high, flies = speed > _HIGH_SHARE * static, airborne(evidence)
    findings = []
    for row in rises(high):
        before = (t >= t[row] - _COMES_UP_WITHIN_S) & (t < t[row])
        if not before.any() or speed[before].min() > _IDLE_SHARE * static or flies[row]:
            continue
        rows = np.flatnonzero((t >= t[row] + _SETTLES_S) & (t <= t[row] + _SETTLES_S + _LOOKED_AT_S))
        rows = _while_static(rows, ~high | flies)
        if not rows.size or t[rows[-1]] - t[rows[0]] < _LEAST_S:
            continue
        reaches = float(np.median(speed[rows])) >= _lowest_rpm(trace, profile, rows)
        if _is_full(trace, row, rows, unknown=reaches or _took_off(evidence, high, rows)):
            findings.append(_judge(trace, profile, speed, row, rows))
    return findings


def _lowest_rpm(trace: Trace, profile: Profile, rows: np.ndarray) -> float:
    """Return the least static speed of the day [RPM]."""
    return static_least_rpm(profile, *_air(trace, rows)) or np.nan


def _is_full(trace: Trace, row: int, rows: np.ndarray, unknown: bool) -> bool:
    """Say whether the throttle was full, from when power came up at `row` over the rows looked at: by the lever, else by manifold
    pressure near the air's outside, else `unknown`: a run-up looks like a weak take-off until it rolls."""
    throttle, pressure = trace.signal("throttle"), trace.signal("map")
    if throttle is not None and np.isfinite(throttle[row : rows[-1] + 1]).any():
        soon = (trace.time_s >= trace.time_s[row]) & (trace.time_s <= trace.time_s[row] + _SETTLES_S)
        return bool(np.nanmax(throttle[soon], initial=0.0) > _FULL_THROTTLE)
    if pressure is None or not np.isfinite(pressure[rows]).any():
        return unknown
    return bool(np.nanmedian(pressure[rows]) > _outside_inhg(trace, rows, pressure) - _BELOW_OUTSIDE_INHG)


def _outside_inhg(trace: Trace, rows: np.ndarray, pressure: np.ndarray) -> float:
    """Return the air's pressure outside [inHg]: by the altitude, else the most that the needle showed, as it does with the engine
    stopped; at least that of the highest airfields."""
    height_ft = _median(trace, "palt", rows)
    if np.isfinite(height_ft):
        return standard_pressure_pa(height_ft) / PASCAL_PER_INHG
    return max(float(np.nanmax(pressure[: rows[-1] + 1])), standard_pressure_pa(_HIGHEST_FIELD_FT) / PASCAL_PER_INHG)


def _took_off(evidence: Evidence, high: np.ndarray, rows: np.ndarray) -> bool:
    """Say whether the aircraft rolled or flew under the power that it had in the rows looked at: nobody takes off with less than
    all of it."""
    trace, later = evidence.trace, np.flatnonzero(~high[rows[0] :])
    end = rows[0] + int(later[0]) if later.size else len(high)
    ias = trace.signal("ias")
    rolled = ias is not None and bool(np.nanmax(ias[rows[0] : end], initial=0.0) > ON_GROUND_KT)
    return rolled or bool(airborne(evidence)[rows[0] : end].any())


def _while_static(rows: np.ndarray, ends: np.ndarray) -> np.ndarray:
    """Return the rows up to where power or standstill ends: a fixed pitch speeds up with the aircraft."""
    first = np.flatnonzero(ends[rows])
    return rows[: int(first[0])] if first.size else rows


def _judge(trace: Trace, profile: Profile, speed: np.ndarray, row: int, rows: np.ndarray) -> Finding:
    static_rpm = float(np.median(speed[rows]))
    lowest, highest = _lowest_rpm(trace, profile, rows), profile.limit("static_max_rpm")
    palt_ft, oat_c = _air(trace, rows)
    reasons = Reasons()
    if static_rpm < lowest:
        shown = f"Full throttle gives {beyond(static_rpm, lowest)} RPM; at least {lowest:,.0f}"
        because = f"{shown}: the engine does not make its power."
        reasons.add(STOP, because, "Throttle closed, stop. Find the cause before another take-off.", "type")
    elif static_rpm > highest + SIGNALS["rpm"].slack:  # a governor holds its most, and the needle moves about it
        because = f"Full throttle gives {beyond(static_rpm, highest)} RPM; at most {highest:,.0f}: needle, propeller or governor."
        reasons.add(LOOK, because, "Have tachometer, pitch stop and governor looked at.", "type")
    within = f"Full throttle gives {static_rpm:,.0f} RPM, {lowest:,.0f} to {highest:,.0f} by the type."
    return Finding.of(
        "power_check",
        (float(trace.time_s[row]), float(trace.time_s[rows[-1]])),
        reasons.outcome(within),
        {
            "static_rpm": static_rpm,
            "map_inhg": _median(trace, "map", rows),
            "ff_gph": _median(trace, "ff", rows),
            "palt_ft": palt_ft,
            "oat_c": oat_c,
        },
        {"static_min_rpm": lowest, "static_max_rpm": highest},
    )


def _air(trace: Trace, rows: np.ndarray) -> tuple[float, float]:
    """Return the pressure altitude [ft] and the outside temperature [°C], NaN where no needle shows it."""
    return _median(trace, "palt", rows), celsius(_median(trace, "oat", rows))


def _median(trace: Trace, signal: str, rows: np.ndarray) -> float:
    values = trace.signal(signal)
    known = np.zeros(0) if values is None else values[rows][np.isfinite(values[rows])]
    return float(np.median(known)) if known.size else np.nan


def _on_the_standard_day(measured: Mapping[str, Any], profile: Profile) -> float:
    """Return what a fixed pitch's static RPM is multiplied with for the standard day at sea level. What an older version kept has
    the density altitude alone."""
    if "density_altitude_ft" in measured:
        return 1 / static_share(profile, measured["density_altitude_ft"])
    return 1 / static_share(profile, measured.get("palt_ft"), measured.get("oat_c"))


CHECK = Check(
    kind="power_check",
    title="Full power",
    place=50,
    find=find_power_checks,
    is_of=lambda profile: profile.engine["propeller"] == "fixed_pitch",
    finds_by=("static_min_rpm",),
    needs=("static_max_rpm",),
    ripe=Ripe(),
    trends=(
        TrendFigure(
            id="static",
            title="Full-throttle RPM",
            unit="rpm",
            measured="static_rpm",
            limit="static_min_rpm",
            is_low=True,
            scale=_on_the_standard_day,
        ),
    ),
    compared=(Compared(measured="static_rpm", title="Full throttle", apart=40.0),),
    shows=(Shown(measured="static_rpm", title="Full throttle", least=("static_min_rpm",)),),
    measures=f"The median of RPM from {_SETTLES_S:.0f} s after full throttle, for {_LOOKED_AT_S:.0f} s at the most and below "
    f"{ON_GROUND_KT:.0f} kt: held on the brakes or rolling.",
    rules=(
        Rule(WITHIN, "in the type's static range", TYPE),
        Rule(STOP, "below: the engine does not make its power", TYPE),
        Rule(LOOK, "above by more than a needle can tell: needle, propeller or governor", TYPE),
    ),
)
