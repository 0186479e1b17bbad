"""The idle check: throttle closed from run-up speed, the engine keeps running at the type's idle."""

import numpy as np

from ..aircraft import Profile
from ..trace import Trace
from ..trace.finding import LOOK, STOP, Finding, Reasons

_FROM_RPM = 1300.0
_LOW_RPM = 1000.0
_ALIVE_RPM = 250.0
_MAP_FALLS_INHG = 1.0
_CLOSES_WITHIN_S = 12.0
_SETTLES_S = 2.0
_BACK_UP_RPM = 120.0
_ON_GROUND_KT = 35.0


def find_idle_checks(trace: Trace, profile: Profile) -> list[Finding]:
    """Return an `idle_check` finding for each time that the throttle was closed from run-up speed on the ground."""
    rpm = trace.signal("rpm")
    if rpm is None or len(trace) < 8:
        return []
    speed, t, scale = np.nan_to_num(rpm), trace.time_s, profile.speed_scale
    low = speed < _LOW_RPM * max(scale, 1.0)
    starts = (np.flatnonzero(low[1:] & ~low[:-1]) + 1).tolist()
    findings = []
    for row in starts:
        end, came_back = _end_of_idle(t, speed, row, scale)
        recent = (t >= t[row] - _CLOSES_WITHIN_S) & (t < t[row])
        if recent.any() and speed[recent].max() >= _FROM_RPM * scale and _closed_on_ground(trace, row, end):
            findings.extend(_judge_idle(trace, profile, speed, row, end, came_back))
    return findings


def _end_of_idle(t: np.ndarray, rpm: np.ndarray, row: int, scale: float) -> tuple[int, bool]:
    """Return (row at which the throttle was opened again, whether it was): RPM well above the settled idle. The dip
    below idle just after the throttle closes does not count."""
    settled = np.flatnonzero(t >= t[row] + _SETTLES_S)
    first = int(settled[0]) if settled.size else len(rpm)
    lowest = np.minimum.accumulate(rpm[first:])
    least = _LOW_RPM * max(scale, 1.0)
    up = np.flatnonzero(rpm[first:] > np.minimum(lowest + _BACK_UP_RPM, least + _BACK_UP_RPM))
    return (first + int(up[0]), True) if up.size else (len(rpm), False)


def _closed_on_ground(trace: Trace, row: int, end: int) -> bool:
    airspeed, throttle, mixture = (trace.signal(name) for name in ("ias", "throttle", "mixture"))
    pressure = trace.signal("map")
    if throttle is None and pressure is not None:  # a propeller that holds the engine down raises it
        before = pressure[max(row - max(round(4 * trace.rate_hz), 2), 0) : row]
        if np.isfinite(before).any() and np.nanmedian(pressure[row:end]) > np.nanmax(before) - _MAP_FALLS_INHG:
            return False
    if airspeed is not None and np.nanmax(airspeed[row:end], initial=0.0) > _ON_GROUND_KT:
        return False
    if mixture is not None and np.nanmin(mixture[row:end], initial=1.0) < 0.1:
        return False
    return throttle is None or bool(np.nanmin(throttle[row:end], initial=1.0) < 0.04)


def _judge_idle(trace: Trace, profile: Profile, rpm: np.ndarray, row: int, end: int, came_back: bool) -> list[Finding]:
    t = trace.time_s
    settled = np.arange(row, end)[(t[row:end] >= t[row] + _SETTLES_S)]
    throttle = trace.signal("throttle")
    if throttle is not None:
        settled = settled[throttle[settled] < 0.04]
    alive = settled[rpm[settled] > _ALIVE_RPM]
    stopped = bool((rpm[row:end] < 50).any())
    if len(alive) < 3 and not stopped:
        return []
    if not came_back and not stopped:
        return []
    idle_rpm = float(np.median(rpm[alive])) if len(alive) >= 3 else np.nan
    return [judge_idle(profile, float(t[row]), float(t[min(end, len(t) - 1)]), idle_rpm, stopped)]


def judge_idle(profile: Profile, start_s: float, end_s: float, idle_rpm: float, stopped: bool) -> Finding:
    """Return the finding of one idle check, measured or typed."""
    lowest, highest = profile.limit("idle_min_rpm"), profile.limit("idle_max_rpm")
    reasons = Reasons()
    if stopped:
        reasons.add(STOP, "The engine stopped with the throttle closed.", "Do not fly: idle speed or mixture is wrong.")
    elif idle_rpm < lowest:
        because = f"Idle is {idle_rpm:.0f} RPM; at least {lowest:.0f} keeps it running on the landing."
        reasons.add(LOOK, because, "A mechanic sets the idle stop.", "type")
    elif idle_rpm > highest:
        because = f"Idle is {idle_rpm:.0f} RPM; at most {highest:.0f}."
        reasons.add(LOOK, because, "See that the throttle closes fully; a mechanic sets the stop.", "type")
    return Finding.of(
        "idle_check",
        (start_s, end_s),
        reasons.outcome(f"Idle {idle_rpm:.0f} RPM; it keeps running."),
        {"idle_rpm": idle_rpm},
        {"idle_min_rpm": lowest, "idle_max_rpm": highest},
    )
