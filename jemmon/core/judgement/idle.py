"""The idle check: throttle closed from run-up speed, the engine keeps running at the type's idle."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..base.figures import beyond
from ..trace import Trace
from ..trace.finding import LOOK, STOP, WITHIN, Finding, Reasons
from ..trace.masks import rises
from .airborne import airborne
from .check import PRACTICE, TYPE, Check, Compared, Evidence, Field, Ripe, Rule, Shown, TrendFigure
from .recognition import recognise
from .typed_figures import rpm_of

# common practice: from which speed a throttle is closed and how fast, what idling is (of a direct-drive engine)
_FROM_RPM, _LOW_RPM, _ALIVE_RPM, _STOPPED_RPM = 1300.0, 1000.0, 250.0, 50.0
# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
_CLOSES_WITHIN_S, _SETTLES_S = 12.0, 2.0
_MAP_FALLS_INHG, _BACK_UP_RPM = 1.0, 120.0
_TYPED_STOPPED_RPM = 100.0
# common practice: so long is a closed throttle looked at; and no stop is set so far above the type's highest idle
_LOOKED_AT_S, _FAR_FROM_CLOSED = 25.0, 1.3


def find_idle_checks(evidence: Evidence) -> list[Finding]:
    """Return an `idle_check` finding for each time that the throttle was closed from run-up speed on the ground. Limits by
    the type."""
    trace, profile = evidence.trace, evidence.profile
    rpm = trace.signal("rpm")
    if rpm is None or len(trace) < 8:
        return []
    speed, t, scale = np.nan_to_num(rpm), trace.time_s, profile.speed_scale
    low = speed < _LOW_RPM * max(scale, 1.0)
    flies = airborne(evidence)
    on_one = [span for span, _ in evidence.once(recognise).magnetos]
    findings, closed = [], -1
    for row in rises(low):
        recent = slice(int(np.searchsorted(t, t[row] - _CLOSES_WITHIN_S)), row)
        fast = np.flatnonzero(speed[recent] >= _FROM_RPM * scale)
        if flies[recent].any() or not fast.size or recent.start + int(fast[-1]) == closed:
            continue
        if any(span.first - 1 <= row <= span.last + 1 for span in on_one):
            continue  # an engine that sinks on a dead magneto was not throttled
        closed = recent.start + int(fast[-1])  # a speed that wanders about the least is still the same closing
        end, came_back = _end_of_idle(t, speed, row, scale)
        if _closed_on_ground(trace, row, end):
            findings.extend(_judge_idle(trace, profile, speed, (closed + 1, row, end), came_back))
    return findings


def _end_of_idle(t: np.ndarray, rpm: np.ndarray, row: int, scale: float) -> tuple[int, bool]:
    """Return (row at which the throttle was opened again, whether it was): RPM well above the settled idle. The dip
    below idle just after the throttle closes does not count."""
    first = int(np.searchsorted(t, t[row] + _SETTLES_S))
    lowest = np.minimum.accumulate(rpm[first:])
    least = _LOW_RPM * max(scale, 1.0)
    up = np.flatnonzero(rpm[first:] > np.minimum(lowest + _BACK_UP_RPM, least + _BACK_UP_RPM))
    return (first + int(up[0]), True) if up.size else (len(rpm), False)


def _closed_on_ground(trace: Trace, row: int, end: int) -> bool:
    throttle, mixture = trace.signal("throttle"), trace.signal("mixture")
    pressure = trace.signal("map")
    if throttle is None and pressure is not None:  # a propeller that holds the engine down raises it
        before = pressure[max(row - max(round(4 * trace.rate_hz), 2), 0) : row]
        if np.isfinite(before).any() and np.nanmedian(pressure[row:end]) > np.nanmax(before) - _MAP_FALLS_INHG:
            return False
    if mixture is not None and np.nanmin(mixture[row:end], initial=1.0) < 0.1:
        return False
    return throttle is None or bool(np.nanmin(throttle[row:end], initial=1.0) < 0.04)


def _judge_idle(
    trace: Trace, profile: Profile, rpm: np.ndarray, rows: tuple[int, int, int], came_back: bool
) -> list[Finding]:
    """Judge one closing: `rows` are where it began, where the speed was low, and where it ended."""
    closed, row, end = rows
    t, known_rpm = trace.time_s, trace.signal("rpm")
    assert known_rpm is not None
    settled = np.arange(row, end)[(t[row:end] >= t[row] + _SETTLES_S)]
    throttle = trace.signal("throttle")
    if throttle is not None:
        settled = settled[throttle[settled] < 0.04]
    alive = settled[rpm[settled] > _ALIVE_RPM]
    stopped = bool((known_rpm[row:end] < _STOPPED_RPM).any())  # what is not known has not stopped
    if len(alive) < 3 and not stopped:
        return []
    if not came_back and not stopped:
        return []
    idle_rpm = float(np.median(rpm[alive])) if len(alive) >= 3 else np.nan
    end_s = float(t[min(end, len(t) - 1)])
    most_rpm, lasts_s = profile.limit("idle_max_rpm"), end_s - t[closed]
    is_fast = idle_rpm > _FAR_FROM_CLOSED * most_rpm or idle_rpm > most_rpm and lasts_s > _LOOKED_AT_S
    if throttle is None and is_fast and not stopped:
        return []  # a speed that a hand set to wait with: nothing shows that the throttle was closed
    return [judge_idle(profile, float(t[row]), end_s, idle_rpm, stopped)]


def judge_idle(profile: Profile, start_s: float, end_s: float, idle_rpm: float, stopped: bool) -> Finding:
    """Return the finding of one idle check, measured or typed. Figures in RPM; limits by the type."""
    lowest, highest = profile.limit("idle_min_rpm"), profile.limit("idle_max_rpm")
    reasons = Reasons()
    if stopped:
        reasons.add(STOP, "The engine stopped with the throttle closed.", "Do not fly: idle speed or mixture is wrong.")
    elif idle_rpm < lowest:
        because = f"Idle is {beyond(idle_rpm, lowest)} RPM; at least {lowest:.0f} keeps it running on the landing."
        reasons.add(LOOK, because, "A mechanic sets the idle stop.", "type")
    elif idle_rpm > highest:
        because = f"Idle is {beyond(idle_rpm, highest)} RPM; at most {highest:.0f}."
        reasons.add(LOOK, because, "See that the throttle closes fully; a mechanic sets the stop.", "type")
    return Finding.of(
        "idle_check",
        (start_s, end_s),
        reasons.outcome(f"Idle {idle_rpm:.0f} RPM; it keeps running."),
        {"idle_rpm": idle_rpm},
        {"idle_min_rpm": lowest, "idle_max_rpm": highest},
    )


def _judge_typed(profile: Profile, body: Mapping[str, Any], at_s: float) -> Finding:
    """Return the finding of a typed `idle_rpm`. Raises EventError."""
    idle_rpm = rpm_of(profile, body, "idle_rpm", lowest=0.0)
    return judge_idle(profile, at_s, at_s, idle_rpm, stopped=idle_rpm < _TYPED_STOPPED_RPM)


CHECK = Check(
    kind="idle_check",
    title="Idle",
    place=40,
    find=find_idle_checks,
    is_of=lambda profile: profile.engine["propeller"] != "rotor",
    needs=("idle_min_rpm", "idle_max_rpm"),
    ripe=Ripe(after_s=1.0),
    on_card=True,
    must_be_judged=True,
    is_traced=True,
    trends=(TrendFigure(id="idle", title="Idle", unit="rpm", measured="idle_rpm", limit="idle_min_rpm", is_low=True),),
    compared=(Compared(measured="idle_rpm", title="Idle", apart=60.0),),
    fields=(Field(name="idle_rpm", title="Idle"),),
    judge_typed=_judge_typed,
    shows=(Shown(measured="idle_rpm", title="Idle", most=("idle_max_rpm",)),),
    measures=f"The median from {_SETTLES_S:.0f} s after the throttle closed, on the ground.",
    rules=(
        Rule(WITHIN, "in the type's range", TYPE),
        Rule(LOOK, "below or above it", TYPE),
        Rule(STOP, "the engine stops", PRACTICE),
    ),
)
