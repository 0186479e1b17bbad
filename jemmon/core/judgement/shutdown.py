"""The idle mixture, read at shutdown: cut off slowly from idle, RPM rises a little as the mixture passes its best, then
the engine dies. No rise: the idle is lean; a large rise: it is rich (common practice: 10 to 50 RPM).
"""

import numpy as np

from ..aircraft import Profile
from ..trace import Trace
from ..trace.finding import LOOK, UNKNOWN, WITHIN, Finding, Reasons
from .check import PRACTICE, Check, Evidence, Ripe, Rule, Shown

# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
_BEFORE_S, _LOOKED_BACK_S = 12.0, 14.0
_RISE_LEAST_RPM, _RISE_MOST_RPM, _NOISE_RPM = 10.0, 50.0, 3.0  # common practice
_IDLE_BELOW_RPM, _DEAD_RPM, _SMOOTH_S = 1500.0, 150.0, 0.9
_TOO_QUICK_S = 2.5  # common practice
_ALIVE_SHARE, _LIVES_ON_S = (
    0.94,
    1.0,
)  # our own choice: a mixture that is cut slowly is felt a second before the engine dies


def find_shutdown_checks(evidence: Evidence) -> list[Finding]:
    """Return a `shutdown_check` finding where the engine was stopped from idle by its mixture. Common practice."""
    trace, profile = evidence.trace, evidence.profile
    rpm = trace.signal("rpm")
    if rpm is None or len(trace) < 8 or profile.engine["fuel_system"] == "electronic_injection":
        return []
    speed, t = np.nan_to_num(rpm), trace.time_s
    stops = np.flatnonzero((speed[1:] < _DEAD_RPM) & (speed[:-1] >= _DEAD_RPM)) + 1
    findings = []
    for row in stops.tolist():
        later = speed[(t > t[row] + 1.0) & (t < t[row] + 8.0)]
        if not later.size or later.max() < 100:
            finding = _judge(trace, profile, speed, row)
            findings += [] if finding is None else [finding]
    return findings


def _judge(trace: Trace, profile: Profile, speed: np.ndarray, row: int) -> Finding | None:
    t = trace.time_s
    began = _cut_off_begins(trace, row)
    if began is None:
        return None
    idle = (t >= t[began] - 8.0) & (t < t[began] - 0.3)
    falling = (t >= t[began] - 0.3) & (t <= t[row])
    if idle.sum() < 3 or falling.sum() < 3:
        return None
    if _only_by_flow(trace) and not _lives_on(t, speed, began, row):
        return None  # whatever stopped it took the fuel flow with it
    base = float(np.median(speed[idle]))
    if base > _IDLE_BELOW_RPM * profile.speed_scale or base < 300 or np.ptp(speed[idle]) > 0.12 * base:
        return None
    width = max(1, round(_SMOOTH_S * trace.rate_hz))
    part = speed[falling]
    level = np.convolve(part, np.ones(width) / width, mode="valid") if len(part) > width else part
    rise = max(float(level.max() - base), 0.0)
    seconds = float(t[row] - t[began])
    reasons = Reasons()
    if seconds < _TOO_QUICK_S:
        reasons.add(UNKNOWN, "The mixture was cut off too quickly to read it.", "Next time slowly, over some seconds.")
    elif rise < _RISE_LEAST_RPM - _NOISE_RPM:
        because = f"RPM rose by {rise:.0f} before the engine died: the idle mixture is lean."
        reasons.add(LOOK, because, "Tell a mechanic; a lean idle starts badly and stumbles.")
    elif rise > _RISE_MOST_RPM + _NOISE_RPM:
        because = f"RPM rose by {rise:.0f} before the engine died: the idle mixture is rich."
        reasons.add(LOOK, because, "Tell a mechanic; a rich idle fouls the plugs.")
    within = f"RPM rose by {rise:.0f}, then it died: the idle mixture is right."
    return Finding.of(
        "shutdown_check",
        (float(t[began]), float(t[row])),
        reasons.outcome(within, "common practice"),
        {"idle_rpm": base, "rise_rpm": rise},
        {"rise_min_rpm": _RISE_LEAST_RPM, "rise_max_rpm": _RISE_MOST_RPM},
    )


def _only_by_flow(trace: Trace) -> bool:
    lever = trace.signal("mixture")
    return lever is None or not np.isfinite(lever).any()


def _lives_on(t: np.ndarray, rpm: np.ndarray, began: int, row: int) -> bool:
    """Say whether the engine, which died at `row`, ran on for seconds on the less fuel that it got from row `began` on; speed in
    RPM."""
    base = float(np.median(rpm[(t >= t[began] - 8.0) & (t < t[began] - 0.3)]))
    alive = np.flatnonzero(rpm[began:row] > _ALIVE_SHARE * base)
    return bool(alive.size and t[began + alive[-1]] - t[began] >= _LIVES_ON_S)


def _cut_off_begins(trace: Trace, row: int) -> int | None:
    """Return the row at which the mixture began to go back: by the lever, else by the fuel flow."""
    t = trace.time_s
    back = int(np.searchsorted(t, t[row] - _LOOKED_BACK_S - _BEFORE_S))
    for name, share in (("mixture", 0.93), ("ff", 0.86)):
        values = trace.signal(name)
        if values is None or not np.isfinite(values[back:row]).any():
            continue
        part = np.nan_to_num(values[back : row + 1], nan=float(np.nanmedian(values[back:row])))
        early = part[: max(len(part) // 3, 1)]
        low = part < share * float(np.median(early))
        if not low[-1] and not low[-max(len(low) // 8, 1) :].any():
            return None
        high = np.flatnonzero(~low)
        return back + int(high[-1]) + 1 if high.size else None
    return None


CHECK = Check(
    kind="shutdown_check",
    title="Idle mixture",
    place=90,
    find=find_shutdown_checks,
    is_of=lambda profile: profile.engine["fuel_system"] != "electronic_injection",
    ripe=Ripe(after_s=3.0),
    shows=(Shown(measured="rise_rpm", title="Rise", most=("rise_max_rpm",), least=("rise_min_rpm",)),),
    measures="How far RPM rises before the engine dies, when the mixture is cut off slowly at idle.",
    rules=(
        Rule(WITHIN, f"{_RISE_LEAST_RPM:.0f} to {_RISE_MOST_RPM:.0f} RPM", PRACTICE),
        Rule(LOOK, "less: the idle mixture is lean; more: it is rich", PRACTICE),
        Rule(UNKNOWN, "cut off too quickly to read", PRACTICE),
    ),
)
