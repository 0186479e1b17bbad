"""The feathering check of a twin: at a low speed on the ground the lever goes to feather, RPM falls quickly, and the
lever comes out again before RPM is low.

The lever tells where it is known; else a fall faster than any cycle makes, from near the speed of the check.
"""

import numpy as np

from ..aircraft import Profile
from ..trace import Trace
from .finding import INCOMPLETE, LOOK, Finding, Reasons

FEATHERS_BELOW = 0.05
_ON_GROUND_KT = 35.0
_BEFORE_S, _FALLS_WITHIN_S, _BACK_WITHIN_S = 3.0, 1.6, 12.0
_QUICK_RPM_S, _TOO_LOW_SHARE, _BACK_SHARE = 120.0, 0.5, 0.06
_LONGEST_S = 12.0


def find_feather_checks(trace: Trace, profile: Profile) -> list[Finding]:
    """Return a `feather_check` finding for each time that a propeller went towards feather on the ground."""
    rpm = trace.signal("rpm")
    if rpm is None or len(trace) < 8:
        return []
    return [_judge(trace, profile, np.nan_to_num(rpm), first, last) for first, last in feather_rows(trace, profile)]


def feather_rows(trace: Trace, profile: Profile) -> list[tuple[int, int]]:
    """Return (first row, last row) of each time that the lever stood in feather on the ground, the engine running."""
    lever, rpm, airspeed = trace.signal("prop"), trace.signal("rpm"), trace.signal("ias")
    if lever is None or rpm is None or "feather_check_rpm" not in profile.limits or not np.isfinite(lever).any():
        return []
    away = np.nan_to_num(lever, nan=1.0) < FEATHERS_BELOW
    if airspeed is not None:
        away &= np.nan_to_num(airspeed) < _ON_GROUND_KT
    edges = np.flatnonzero(np.diff(np.concatenate([[0], away.astype(int), [0]])))
    rows = [(int(a), int(b) - 1) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    t, least = trace.time_s, 0.5 * profile.limit("feather_check_rpm")
    return [(a, b) for a, b in rows if t[b] - t[a] < _LONGEST_S and np.nan_to_num(rpm[max(a - 1, 0)]) > least]


def _judge(trace: Trace, profile: Profile, rpm: np.ndarray, first: int, last: int) -> Finding:
    t = trace.time_s
    before = (t >= t[first] - _BEFORE_S) & (t < t[first])
    base = float(np.median(rpm[before])) if before.any() else float(rpm[first])
    during = (t >= t[first]) & (t <= t[last] + 1.0)
    lowest = float(rpm[during].min())
    seconds = max(float(t[int(np.flatnonzero(during)[np.argmin(rpm[during])])] - t[first]), 0.5)
    after = (t > t[last] + 2.0) & (t <= t[last] + _BACK_WITHIN_S)
    restored = float(np.median(rpm[after][-max(3, int(after.sum() // 3)) :])) if after.sum() >= 3 else np.nan
    fall, pace = base - lowest, (base - lowest) / seconds
    reasons = Reasons()
    if pace < _QUICK_RPM_S:
        because = f"RPM fell by {fall:.0f} in {seconds:.1f} s: too slow to feather a dead engine in time."
        reasons.add(LOOK, because, "Once more with warm oil; if it stays, a mechanic.")
    if lowest < _TOO_LOW_SHARE * base:
        because = f"RPM went down to {lowest:.0f} before the lever came out."
        reasons.add(LOOK, because, "Out again sooner: a low speed in coarse pitch strains the engine.")
    if not np.isfinite(restored):
        reasons.add(INCOMPLETE, "Not seen back out of feather.", "Lever forward, and let it settle.")
    elif abs(restored - base) > _BACK_SHARE * base:
        because = f"Out of feather RPM stands {restored - base:+.0f} from before."
        reasons.add(LOOK, because, "Lever full forward; check again, then a mechanic.")
    within = f"It feathers: RPM fell by {fall:.0f} in {seconds:.1f} s and came back."
    return Finding.of(
        "feather_check",
        (t[first], t[last]),
        reasons.outcome(within, "common practice"),
        {"base_rpm": base, "fall_rpm": fall, "fall_rpm_per_s": pace, "restored_rpm": restored},
        {"quick_from_rpm_per_s": _QUICK_RPM_S},
    )
