"""The warm-up: how long from first fire to the first high power, and how warm the oil was then.

High power is a third more than the speed that the engine was warmed at, held for some seconds: the profile's run-up RPM
plays no part in it.
"""

from itertools import pairwise

import numpy as np

from ..aircraft import Profile
from ..base.figures import figure
from ..trace import Trace
from ..trace.finding import LOOK, UNKNOWN, WITHIN, Finding, Reasons
from .check import PRACTICE, TYPE, Check, Evidence, Ripe, Rule

# common practice: high power is a third more than the speed of the first minute, held
_HIGHER_BY, _HELD_S = 1.33, 4.0
# common practice, but where it says otherwise
_SETTLED_AFTER_S, _WARMED_AT_OVER_S = 8.0, 60.0


def find_warm_ups(evidence: Evidence) -> list[Finding]:
    """Return a `warm_up` finding for each start that was followed by high power. Limits by the type."""
    trace, profile = evidence.shown, evidence.profile
    rpm = trace.speed()
    if rpm is None:
        return []
    speed, t = np.nan_to_num(rpm), trace.time_s
    starts = [story.fired_s for story in evidence.starts]
    findings = []
    for fired_s, next_s in pairwise([*starts, np.inf]):
        rows = np.flatnonzero((t >= fired_s + _SETTLED_AFTER_S) & (t < next_s))
        row = _first_high_power(t, speed, rows, profile.limit("rpm_firing_min"))
        if row is not None:
            findings.append(_judge_warm_up(trace, profile, fired_s, row))
    return findings


def _first_high_power(t: np.ndarray, speed: np.ndarray, rows: np.ndarray, firing_rpm: float) -> int | None:
    early = speed[rows[t[rows] <= t[rows[0]] + _WARMED_AT_OVER_S]] if rows.size else np.zeros(0)
    running = early[early > firing_rpm]
    if not running.size:
        return None
    is_high = speed[rows] >= _HIGHER_BY * float(np.median(running))
    for row in rows[is_high].tolist():
        held = speed[(t >= t[row]) & (t <= t[row] + _HELD_S)]
        if (held >= speed[row] * 0.9).mean() > 0.9 and t[-1] - t[row] >= _HELD_S:
            return int(row)
    return None


def _judge_warm_up(trace: Trace, profile: Profile, fired_s: float, row: int) -> Finding:
    oil = trace.signal("oil_t")
    seconds = float(trace.time_s[row] - fired_s)
    oil_t_f = float(oil[row]) if oil is not None and np.isfinite(oil[row]) else np.nan
    gate = profile.limits.get("oil_t_runup_min_f")
    reasons = Reasons()
    if gate is None or not np.isfinite(oil_t_f):
        reasons.add(UNKNOWN, "There is no oil temperature, or no gate to hold it against.", "Read the gauge and say.")
    elif oil_t_f < gate.value:
        because = f"The oil was at {figure(oil_t_f, 'f')} when power came up; the gate is {figure(gate.value, 'f')}."
        reasons.add(LOOK, because, "Warm it up further before high power.", gate.source)
    within = f"{seconds / 60:.0f} min from first fire to high power, the oil at {figure(oil_t_f, 'f')}."
    return Finding.of(
        "warm_up",
        (fired_s, float(trace.time_s[row])),
        reasons.outcome(within, gate.source if gate else "common practice"),
        {"seconds_s": seconds, "oil_t_f": oil_t_f},
        {"oil_t_runup_min_f": gate.value} if gate else {},
    )


CHECK = Check(
    kind="warm_up",
    title="Warm-up",
    place=15,
    find=find_warm_ups,
    is_of=lambda profile: True,
    finds_by=("rpm_firing_min",),
    needs=("oil_t_runup_min_f",),
    ripe=Ripe(after_s=5.0),
    measures="From the first fire to the first high power: a third more than the speed of its first minute, held for "
    f"{_HELD_S:.0f} s. The oil temperature then is held against the type's gate.",
    rules=(
        Rule(WITHIN, "the oil has passed the gate", TYPE),
        Rule(LOOK, "power came up before the oil passed the gate", TYPE),
        Rule(UNKNOWN, "no oil temperature, or no gate", PRACTICE),
    ),
)
