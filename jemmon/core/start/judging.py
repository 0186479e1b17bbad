"""The start: when it fired, how long it was cranked, and how long oil pressure took."""

import numpy as np

from ..aircraft import Profile
from ..trace import Trace
from ..trace.finding import INCOMPLETE, LOOK, STOP, UNKNOWN, Finding, Reasons

_TURNS_FROM = 0.06  # of the firing speed
_CHARGES_AFTER_S, _CHARGE_LOOKED_AT_S = 20.0, 120.0
_FIRES_ON_S = 2.0
_STOP_TEXT = "STOP THE ENGINE: mixture cut-off. Find the cause with a mechanic."


def oil_pressure_limit_s(profile: Profile, oat_c: float | None) -> float:
    """Return the longest time from first fire to oil pressure [s]; longer in the cold, by the profile."""
    cold = oat_c is not None and oat_c < profile.limit("oil_pressure_cold_below_c")
    return profile.limit("oil_pressure_time_cold_s" if cold else "oil_pressure_time_s")


def find_starts(trace: Trace, profile: Profile) -> list[Finding]:
    """Return a `start` finding for each time that the engine came to life from rest."""
    rpm = trace.speed()
    if rpm is None or len(trace) < 3:
        return []
    speed = np.nan_to_num(rpm)
    fires = speed > profile.limit("rpm_firing_min")
    findings = []
    at_rest = speed <= _TURNS_FROM * profile.limit("rpm_firing_min")
    last_stop = -1
    for row in (np.flatnonzero(fires[1:] & ~fires[:-1]) + 1).tolist():
        rests = np.flatnonzero(at_rest[last_stop + 1 : row])
        if rests.size == 0 or not _keeps_firing(trace, fires, row):
            continue
        first_rest = last_stop + 1 + int(rests[0])
        findings.append(_judge_start(trace, profile, speed, int(first_rest), int(row)))
        stops = np.flatnonzero(at_rest[row:])
        last_stop = row + int(stops[0]) - 1 if stops.size else len(trace)
    return findings


def _keeps_firing(trace: Trace, fires: np.ndarray, row: int) -> bool:
    soon = (trace.time_s >= trace.time_s[row]) & (trace.time_s <= trace.time_s[row] + _FIRES_ON_S)
    return bool(fires[soon].mean() > 0.6)


def _judge_start(trace: Trace, profile: Profile, rpm: np.ndarray, rest: int, fire: int) -> Finding:
    t = trace.time_s
    turning, cranking_s = _cranked(trace, profile, rpm, rest, fire)
    stopped = np.flatnonzero(rpm[fire:] < _TURNS_FROM * profile.limit("rpm_firing_min"))
    until = fire + int(stopped[0]) if stopped.size else len(trace)
    limit_s = oil_pressure_limit_s(profile, _oat_c(trace, fire))
    oil_s, verdict_rows = _oil(trace, profile, fire, until, limit_s)
    longest = profile.limit("starter_on_max_s")
    reasons = Reasons()
    volts_crank_v = _lowest_volts(trace, turning, rest, fire)
    for row in [*verdict_rows, *_electrics(trace, profile, rpm, fire, until, volts_crank_v)]:
        reasons.add(*row)
    if cranking_s > longest:
        because = f"The starter turned for {cranking_s:.0f} s in all; the limit at one time is {longest:.0f}."
        reasons.add(LOOK, because, f"Let it rest {profile.limit('starter_rest_s'):.0f} s.", "type")
    within = f"Oil pressure {oil_s:.0f} s after it fired; the limit is {limit_s:.0f} s."
    return Finding.of(
        "start",
        (
            float(t[rest if rest == 0 else min(rest, fire)]),
            float(t[fire] + oil_s) if np.isfinite(oil_s) else float(t[until - 1]),
        ),
        reasons.outcome(within),
        {
            "first_fire_s": float(t[fire]),
            "cranking_s": cranking_s,
            "oil_pressure_s": oil_s,
            "volts_crank_v": volts_crank_v,
        },
        {
            "oil_pressure_time_s": limit_s,
            "oil_pressure_min_psi": profile.limit("oil_pressure_min_psi"),
            "starter_on_max_s": longest,
        },
    )


def _cranked(trace: Trace, profile: Profile, rpm: np.ndarray, rest: int, fire: int) -> tuple[np.ndarray, float]:
    """Return (rows in which the starter turns the engine, seconds of them before it fired)."""
    switch = trace.signal(profile.start.turned_by)
    turns = (rpm > _TURNS_FROM * profile.limit("rpm_firing_min")) if switch is None else np.nan_to_num(switch) > 0.5
    steps = np.diff(trace.time_s, append=trace.time_s[-1])
    return turns, float(steps[rest:fire][turns[rest:fire]].sum())


def _lowest_volts(trace: Trace, turning: np.ndarray, rest: int, fire: int) -> float:
    volts = trace.signal("volts")
    rows = np.zeros(0) if volts is None else volts[rest:fire][turning[rest:fire]]
    return float(np.nanmin(rows)) if np.isfinite(rows).any() else np.nan


def _electrics(
    trace: Trace, profile: Profile, rpm: np.ndarray, fire: int, until: int, volts_crank_v: float
) -> list[tuple[str, str, str, str]]:
    """Return what speaks against battery and alternators: volts while cranking, no charge at warm-up speed after a
    while, a second alternator that gives nothing."""
    t, volts, limits = trace.time_s, trace.signal("volts"), profile.limits
    against: list[tuple[str, str, str, str]] = []
    least = limits.get("volts_crank_min_v")
    if least is not None and volts_crank_v < least.value:
        because = f"The bus fell to {volts_crank_v:.1f} V while cranking; a healthy battery keeps {least.value:g}."
        against.append((LOOK, because, "Charge the battery, have it tested.", least.source))
    after = (t > t[fire] + _CHARGES_AFTER_S) & (t <= t[fire] + _CHARGE_LOOKED_AT_S) & (t <= t[until - 1])
    if "warm_up_min_rpm" in limits:
        after &= rpm >= 0.97 * limits["warm_up_min_rpm"].value
    charge = limits.get("volts_charging_min_v")
    if charge is not None and volts is not None and after.sum() >= 5:
        shown = float(np.nanmax(volts[after])) if np.isfinite(volts[after]).any() else np.nan
        if shown < charge.value:
            because = f"The alternator does not charge: {shown:.1f} V at the most, at least {charge.value:g}."
            against.append((LOOK, because, "Not for flight as it is; a mechanic.", charge.source))
    second = trace.signal("amps2")
    if "alt2_within_s" in limits and second is not None:
        within_s = limits["alt2_within_s"].value
        rows = (t >= t[fire]) & (t <= t[fire] + within_s)
        if t[until - 1] - t[fire] >= within_s and not (np.nan_to_num(second[rows]) > 1.0).any():
            because = f"The second alternator did not cut in within {within_s:.0f} s."
            then = f"Once above {profile.limit('alt2_cut_in_rpm'):,.0f} RPM; if it stays out, stop and start again."
            against.append((LOOK, because, then, limits["alt2_within_s"].source))
    return against


def _oat_c(trace: Trace, row: int) -> float | None:
    oat = trace.signal("oat")
    if oat is None or not np.isfinite(oat[: row + 1]).any():
        return None
    return float((np.nanmedian(oat[: row + 1]) - 32) / 1.8)


def _oil(
    trace: Trace, profile: Profile, fire: int, until: int, limit_s: float
) -> tuple[float, list[tuple[str, str, str, str]]]:
    """Return (seconds to oil pressure or NaN, reasons against)."""
    pressure = trace.signal("oil_p")
    t = trace.time_s
    if pressure is None or not np.isfinite(pressure[fire:until]).any():
        return np.nan, [(UNKNOWN, "There is no oil-pressure reading.", "Read the gauge and say.", "common practice")]
    enough = np.flatnonzero(np.nan_to_num(pressure[fire:until]) >= profile.limit("oil_pressure_min_psi"))
    seconds = float(t[fire + enough[0]] - t[fire]) if enough.size else np.nan
    if np.isfinite(seconds) and seconds <= limit_s:
        return seconds, []
    if np.isfinite(seconds):
        return seconds, [
            (STOP, f"Oil pressure came after {seconds:.0f} s; the limit is {limit_s:.0f} s.", _STOP_TEXT, "type")
        ]
    ran_s = float(t[until - 1] - t[fire])
    if ran_s > limit_s:
        return np.nan, [
            (STOP, f"No oil pressure {ran_s:.0f} s after it fired; the limit is {limit_s:.0f} s.", _STOP_TEXT, "type")
        ]
    if until < len(trace):
        because = f"It ran for {ran_s:.0f} s and stopped before oil pressure showed."
        return np.nan, [(INCOMPLETE, because, "Start again when the starter has rested.", "common practice")]
    because = f"{ran_s:.0f} s since it fired and no oil pressure yet; the limit is {limit_s:.0f} s."
    return np.nan, [(INCOMPLETE, because, "Watch the oil pressure.", "type")]
