"""The start: when it fired, how long it was cranked, and how long oil pressure took."""

import numpy as np

from ..aircraft import Profile
from ..trace import Trace
from .finding import INCOMPLETE, LOOK, STOP, UNKNOWN, Finding, Reasons

_CRANKING_RPM = 25.0
_FIRES_ON_S = 2.0
_STOP_TEXT = "STOP THE ENGINE: mixture cut-off. Find the cause with a mechanic."


def oil_pressure_limit_s(profile: Profile, oat_c: float | None) -> float:
    """Return the longest time from first fire to oil pressure [s]; longer in the cold, by the profile."""
    cold = oat_c is not None and oat_c < profile.limit("oil_pressure_cold_below_c")
    return profile.limit("oil_pressure_time_cold_s" if cold else "oil_pressure_time_s")


def find_starts(trace: Trace, profile: Profile) -> list[Finding]:
    """Return a `start` finding for each time that the engine came to life from rest."""
    rpm = trace.signal("rpm")
    if rpm is None or len(trace) < 3:
        return []
    speed = np.nan_to_num(rpm)
    fires = speed > profile.limit("rpm_firing_min")
    findings = []
    at_rest = speed <= _CRANKING_RPM
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
    steps = np.diff(t, append=t[-1])
    starter = trace.signal("starter")
    turning = (rpm > _CRANKING_RPM) if starter is None else np.nan_to_num(starter) > 0.5
    cranking_s = float(steps[rest:fire][turning[rest:fire]].sum())
    stopped = np.flatnonzero(rpm[fire:] < _CRANKING_RPM)
    until = fire + int(stopped[0]) if stopped.size else len(trace)
    limit_s = oil_pressure_limit_s(profile, _oat_c(trace, fire))
    oil_s, verdict_rows = _oil(trace, profile, fire, until, limit_s)
    longest = profile.limit("starter_on_max_s")
    reasons = Reasons()
    for row in verdict_rows:
        reasons.add(*row)
    if cranking_s > longest:
        because = f"The starter turned for {cranking_s:.0f} s in all; the limit at one time is {longest:.0f}."
        reasons.add(LOOK, because, f"Let it rest {profile.limit('starter_rest_s'):.0f} s.", "type")
    within = f"Oil pressure {oil_s:.0f} s after it fired; the limit is {limit_s:.0f} s."
    verdict, because, then, source = reasons.outcome(within)
    return Finding(
        kind="start",
        start_s=float(t[rest if rest == 0 else min(rest, fire)]),
        end_s=float(t[fire] + oil_s) if np.isfinite(oil_s) else float(t[until - 1]),
        verdict=verdict,
        measured={"first_fire_s": float(t[fire]), "cranking_s": cranking_s, "oil_pressure_s": oil_s},
        limits={
            "oil_pressure_time_s": limit_s,
            "oil_pressure_min_psi": profile.limit("oil_pressure_min_psi"),
            "starter_on_max_s": longest,
        },
        because=because,
        next=then,
        source=source,
    )


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
