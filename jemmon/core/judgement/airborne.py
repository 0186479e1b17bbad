"""When the aircraft was in the air, from whatever the trace has: airspeed, else altitude and the power that was held.

What belongs on the ground is not looked for in the air, and the reverse. Of a recorded trace the whole is known; of a running
flight only the past, and the same rules read that.
"""

from itertools import pairwise

import numpy as np

from ..trace import Trace
from ..trace.masks import runs
from .check import Evidence

ON_GROUND_KT = 35.0  # common practice: slower is no flight
# common practice. Power that no one holds on the ground, and for how long [s]; what is taxi speed, how long after a flight before
# it is believed; what altitude tells
_FLIES_RPM, _FLIES_S, _CRUISES_RPM, _CRUISES_S = 2150.0, 40.0, 1950.0, 200.0
_ABOVE_RUN_UP = 1.1  # of the type's run-up speed (common practice)
_GOES_AT_S, _TAXI_RPM, _LANDED_S = 20.0, 1400.0, 60.0
_FLARES_S = 45.0  # common practice: with the throttle closed on short final, until it has rolled out
# our own choice: idle as a share of taxi speed, which a propeller that the air turns on final stays above, for so long [s] at most
_IDLES, _FINAL_S = 0.75, 90.0
# common practice: half of a usual descent [ft/min], held longer than a ripple of the air lasts [s]; what its rate is taken over [s]
_DESCENDS_FPM, _DESCENDS_S, _RATE_S = 250.0, 30.0, 20.0
_ALTITUDE_FT, _SMOOTH_S, _BETWEEN_S, _NEAR_TAXI_S = 250.0, 10.0, 240.0, 150.0
# our own choice: how long [s] and how level [ft] it stands on the ground; a glide with the throttle closed loses 200 ft meanwhile
_STANDS_S, _LEVEL_FT = 30.0, 60.0


def airborne(evidence: Evidence) -> np.ndarray:
    """Return the rows (rows,) in which the aircraft is taken to be in the air. Common practice."""
    return evidence.once(_airborne)


def _airborne(evidence: Evidence) -> np.ndarray:
    trace, profile = evidence.trace, evidence.profile
    airspeed = trace.signal("ias")
    if airspeed is not None and np.isfinite(airspeed).mean() > 0.5:
        known = np.isfinite(airspeed)
        return np.asarray(np.interp(trace.time_s, trace.time_s[known], airspeed[known]) > ON_GROUND_KT)
    rpm, t = trace.signal("rpm"), trace.time_s
    if rpm is None or len(trace) < 3 or not np.isfinite(rpm).any():
        return np.zeros(len(trace), dtype=bool)
    speed = np.interp(t, t[np.isfinite(rpm)], rpm[np.isfinite(rpm)])
    taxi_rpm = _TAXI_RPM * profile.speed_scale
    flies = _high(trace, speed < taxi_rpm)
    if profile.engine["propeller"] != "rotor":  # that turns at its one speed on the ground too
        run_up = _ABOVE_RUN_UP * (profile.find_limit("runup_rpm") or 0.0)
        for least, least_s in ((_FLIES_RPM, _FLIES_S), (_CRUISES_RPM, _CRUISES_S)):
            flies |= _held(t, speed, max(least * profile.speed_scale, run_up), least_s)
    return _until_taxi(t, speed, flies, taxi_rpm)


def on_ground(evidence: Evidence) -> np.ndarray:
    """Return the rows (rows,) in which the aircraft is known to be on the ground: slow, or not in the air and within minutes of
    taxi speed. Common practice."""
    trace, profile, flies = evidence.trace, evidence.profile, airborne(evidence)
    airspeed = trace.signal("ias")
    if airspeed is not None and np.isfinite(airspeed).mean() > 0.5:
        return ~flies
    rpm, t = trace.signal("rpm"), trace.time_s
    if rpm is None or not len(trace):
        return np.zeros(len(trace), dtype=bool)
    taxi = t[np.nan_to_num(rpm, nan=np.inf) < _TAXI_RPM * profile.speed_scale]
    if not taxi.size:
        return np.zeros(len(trace), dtype=bool)
    after = np.clip(np.searchsorted(taxi, t), 0, len(taxi) - 1)
    near = np.minimum(np.abs(taxi[after] - t), np.abs(taxi[np.maximum(after - 1, 0)] - t)) < _NEAR_TAXI_S
    return np.asarray(near & ~flies)


def descends(trace: Trace) -> np.ndarray:
    """Return the rows (rows,) of each descent that was held; none where no altitude shows it. Common practice."""
    altitude, t = trace.signal("palt"), trace.time_s
    if altitude is None or np.isfinite(altitude).sum() < 3:
        return np.zeros(len(trace), dtype=bool)
    known = np.isfinite(altitude)
    before_ft, after_ft = (np.interp(t + by_s, t[known], altitude[known]) for by_s in (-_RATE_S / 2, _RATE_S / 2))
    held = np.zeros(len(t), dtype=bool)
    for first, last in runs((before_ft - after_ft) / _RATE_S * 60.0 > _DESCENDS_FPM):
        held[first : last + 1] = t[last] - t[first] >= _DESCENDS_S
    return held


def _held(t: np.ndarray, speed: np.ndarray, least_rpm: float, least_s: float) -> np.ndarray:
    """Return the rows of each stretch at such a speed that lasted; one that began from lower is a take-off, and its roll ground."""
    held = np.zeros(len(t), dtype=bool)
    for first, last in runs(speed > least_rpm):
        if t[last] - t[first] >= least_s:
            began = int(np.searchsorted(t, t[first] + _GOES_AT_S)) if first > 0 else 0
            held[min(began, last) : last + 1] = True
    return held


def _high(trace: Trace, is_slow: np.ndarray) -> np.ndarray:
    """Return the rows in which altitude is well above the ground; `is_slow` are those at taxi speed or less. Nothing where it
    hardly changes."""
    altitude, t = trace.signal("palt"), trace.time_s
    if altitude is None or np.isfinite(altitude).sum() < 3:
        return np.zeros(len(trace), dtype=bool)
    known = np.isfinite(altitude)
    smooth = np.interp(t, t[known], altitude[known])
    width = max(round(_SMOOTH_S * trace.rate_hz), 1)
    if len(smooth) > width:
        smooth = np.convolve(
            np.pad(smooth, (width // 2, width - 1 - width // 2), mode="edge"), np.ones(width) / width, "valid"
        )
    return np.asarray(smooth > _ground_ft(t, smooth, is_slow) + _ALTITUDE_FT)


def _ground_ft(t: np.ndarray, altitude_ft: np.ndarray, is_slow: np.ndarray) -> np.ndarray:
    """Return the height of the ground (rows,) by where it stood on it, which is another field's after the top of a flight: at taxi
    speed or less, and level, since no glide is. The lowest that there is where it never did. Our own choice."""
    before_ft, after_ft = (np.interp(t + by_s, t, altitude_ft) for by_s in (-_STANDS_S / 2, _STANDS_S / 2))
    stands = [
        (first, last)
        for first, last in runs(is_slow & (np.abs(after_ft - before_ft) < _LEVEL_FT))
        if t[last] - t[first] >= _STANDS_S
    ]
    if not stands:
        return np.full(len(t), np.quantile(altitude_ft, 0.02))
    ground_ft = np.full(len(t), np.median(altitude_ft[slice(*stands[0])]))
    for (_, left), (first, last) in pairwise(stands):
        top = left + int(np.argmax(altitude_ft[left : first + 1]))
        ground_ft[top:] = np.median(altitude_ft[first : last + 1])
    return ground_ft


def _until_taxi(t: np.ndarray, speed: np.ndarray, flies: np.ndarray, taxi_rpm: float) -> np.ndarray:
    """Fill what lies between two times in the air where nobody could have taxied: a descent, an approach, a glide."""
    stretches = runs(flies)
    filled = flies.copy()
    for (_, last), (first, _) in pairwise(stretches):
        between = slice(last + 1, first)
        if (
            t[first] - t[last] < _LANDED_S
            or (speed[between] > taxi_rpm).all()
            or t[first] - t[last] < _BETWEEN_S
            and (speed[between] > 0.7 * taxi_rpm).all()
        ):
            filled[between] = True
    for _, last in stretches:  # a descent at less power, until taxi speed comes
        later = np.flatnonzero(speed[last + 1 :] < taxi_rpm)
        end = _rolled_out(t, speed, last + 1 + int(later[0]), taxi_rpm) if later.size else len(t)
        filled[last + 1 : end] = True
    return filled


def _rolled_out(t: np.ndarray, speed: np.ndarray, slow: int, taxi_rpm: float) -> int:
    """Return the row from which a flight is over whose throttle was closed to land at row `slow`: the air that turned the propeller
    on final is gone, and it has come down to idle."""
    idle = np.flatnonzero(speed[slow:] < _IDLES * taxi_rpm)
    at_idle_s = t[slow + int(idle[0])] if idle.size else t[-1]
    return int(np.searchsorted(t, np.clip(at_idle_s, t[slow] + _FLARES_S, t[slow] + _FINAL_S)))
