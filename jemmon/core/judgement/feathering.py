"""The feathering check of a twin: at a low speed on the ground the lever goes to feather, RPM falls quickly, and the
lever comes out again before RPM is low.

The lever shows it where it is known; else a drop faster than any cycle makes, from near the speed of the check.
"""

import numpy as np
from scipy.ndimage import maximum_filter1d

from ..aircraft import Profile
from ..trace import Trace
from ..trace.finding import INCOMPLETE, LOOK, WITHIN, Finding, Reasons
from ..trace.masks import runs
from .airborne import airborne
from .check import NOT_BACK, PRACTICE, TYPE, Check, Evidence, Ripe, Rule, Shown

# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
FEATHERS_BELOW = 0.05
_BEFORE_S, _FALLS_WITHIN_S, _COMES_BACK_S, _BACK_WITHIN_S = 3.0, 1.6, 4.0, 7.5
_QUICK_RPM_S, _TOO_LOW_SHARE, _BACK_SHARE = 200.0, 0.5, 0.06  # common practice; a type may have its own pace
_LONGEST_S = 12.0  # common practice
_STOPS_WITHIN_S, _STOPPED_RPM = 4.0, 50.0  # common practice: an engine that is cut stands within seconds
# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25: a feathering told by its needles alone
_TELLS_FROM_HZ, _ONE_ROW_SHARE = 1.8, 0.7
_FALLS_FOR_S, _NEAR_RPM = 4.0, 14.0
_GOES_COLD_F = 180.0
# at run-up speed a deep drop is a dying magneto, or a cycle in one long pull; at idle it is the ignition, off for a second
_NEAR_ITS_SPEED = (0.7, 1.2)
# the share is less for blades of metal, which fall slower: seed 2,900,396
_FELL_WITHIN_S, _DEEP_SHARE, _MAP_RISES_INHG = 3.2, 0.28, 0.3
_DEEP_SHARE_BETWEEN_ROWS = 0.23  # rows a second apart do not show the lowest; seeds 2,600,000 to 2,600,599


def find_feather_checks(evidence: Evidence) -> list[Finding]:
    """Return a `feather_check` finding for each time that a propeller went towards feather on the ground. Limits by the type."""
    trace, profile = evidence.trace, evidence.profile
    rpm = trace.signal("rpm")
    if rpm is None or len(trace) < 8:
        return []
    return [_judge(trace, profile, np.nan_to_num(rpm), first, last) for first, last in feather_rows(evidence)]


def feather_rows(evidence: Evidence) -> list[tuple[int, int]]:
    """Return (first row, last row) of each time that the lever stood in feather on the ground, the engine running."""
    trace, profile = evidence.trace, evidence.profile
    lever, rpm = trace.signal("prop"), trace.signal("rpm")
    if rpm is None or "feather_check_rpm" not in profile.limits:
        return []
    speed = np.nan_to_num(rpm)
    away = _held_far_down(trace, speed) if lever is None else np.nan_to_num(lever, nan=1.0) < FEATHERS_BELOW
    away &= ~airborne(evidence)
    rows = runs(away)
    if lever is None:
        rows = [(fall_begins(trace, speed, a), b) for a, b in rows if not _stops(trace, speed, b)]
    t, usual = trace.time_s, profile.limit("feather_check_rpm")
    least, most = (0.5, np.inf) if lever is not None else _NEAR_ITS_SPEED
    short = [(a, b) for a, b in rows if t[b] - t[a] < _LONGEST_S]
    return [(a, b) for a, b in short if least * usual < speed[max(a - 1, 0)] < most * usual]


def _held_far_down(trace: Trace, rpm: np.ndarray) -> np.ndarray:
    """Return the rows in which RPM fell by more than a cycle does within seconds, and manifold pressure rose."""
    pressure, t = trace.signal("map"), trace.time_s
    if pressure is None or not np.isfinite(pressure).any():
        return np.zeros(len(trace), dtype=bool)
    smooth = np.nan_to_num(pressure, nan=float(np.nanmedian(pressure)))
    around = maximum_filter1d(smooth, 2 * max(1, round(trace.rate_hz)) + 1)  # a closing throttle moves it before RPM
    back, earlier = (np.searchsorted(t, t - seconds) for seconds in (_FELL_WITHIN_S, 2 * _FELL_WITHIN_S))
    risen = smooth - np.maximum(around[back], around[earlier]) > _MAP_RISES_INHG
    deep = _DEEP_SHARE if trace.rate_hz >= _TELLS_FROM_HZ else _DEEP_SHARE_BETWEEN_ROWS
    fallen = (rpm < (1 - deep) * rpm[back]) & risen & (rpm > 200)
    for egt in trace.cylinders("egt").values():  # held down it cools; misfiring on a dying magneto it goes cold
        fallen &= ~(egt - egt[back] < -_GOES_COLD_F)
    return np.asarray(fallen)


def _stops(trace: Trace, rpm: np.ndarray, row: int) -> bool:
    """Say whether the engine stood still within seconds after a row: it was shut down. Speed in RPM."""
    soon = (trace.time_s >= trace.time_s[row]) & (trace.time_s <= trace.time_s[row] + _STOPS_WITHIN_S)
    return bool(rpm[soon].min() < _STOPPED_RPM)


def fall_begins(trace: Trace, rpm: np.ndarray, row: int) -> int:
    """Return the row at which a fall that was seen at `row` began: the last near the level before. Speed in RPM."""
    first = int(np.searchsorted(trace.time_s, trace.time_s[row] - _FALLS_FOR_S))
    part = rpm[first : row + 1]
    high = np.flatnonzero(part > part.max() - _NEAR_RPM)
    return first + int(high[-1]) if high.size else row


def _judge(trace: Trace, profile: Profile, rpm: np.ndarray, first: int, last: int) -> Finding:
    t = trace.time_s
    before = (t >= t[first] - _BEFORE_S) & (t < t[first])
    base = float(np.median(rpm[before])) if before.any() else float(rpm[first])
    during = (t >= t[first]) & (t <= t[last] + 1.0)
    lowest = float(rpm[during].min())
    rows = np.flatnonzero(during)
    seconds = max(float(t[rows[np.argmin(rpm[rows])]] - t[first]), 0.5)
    after = (t > t[last] + _COMES_BACK_S) & (t <= t[last] + _BACK_WITHIN_S)
    restored = float(np.median(rpm[after])) if after.sum() >= 2 else np.nan
    fall = base - lowest
    early = rows[t[rows] <= t[first] + _FALLS_WITHIN_S]
    moved_s = float(t[early[-1]] - t[first]) + 0.5 / max(trace.rate_hz, 0.2)  # the lever moved between two rows
    pace = (base - float(rpm[early[-1]])) / max(moved_s, 0.5)
    own = profile.limits.get("feather_fall_min_rpm_s")
    quick = own.value if own else _QUICK_RPM_S
    if trace.rate_hz < _TELLS_FROM_HZ:
        quick *= _ONE_ROW_SHARE  # one row a second does not tell when the lever moved
    reasons = Reasons()
    if pace < quick and trace.signal("prop") is not None:  # by the needles alone its beginning is not known well enough
        because = f"RPM dropped by {fall:.0f} in {seconds:.1f} s: too slow to feather a dead engine in time."
        reasons.add(LOOK, because, "Once more with warm oil; if it stays, a mechanic.")
    if lowest < _TOO_LOW_SHARE * base:
        because = f"RPM went down to {lowest:.0f} before the lever came out."
        reasons.add(LOOK, because, "Out again sooner: a low speed in coarse pitch strains the engine.")
    if not np.isfinite(restored):
        reasons.add(INCOMPLETE, "Not seen back out of feather.", "Lever forward; wait until RPM is steady.")
    elif abs(restored - base) > _BACK_SHARE * base:
        because = f"Out of feather RPM is {restored - base:+.0f} from before."
        reasons.add(LOOK, because, "Lever full forward; check again, then a mechanic.")
    within = f"It feathers: RPM dropped by {fall:.0f} in {seconds:.1f} s and came back."
    return Finding.of(
        "feather_check",
        (t[first], t[last]),
        reasons.outcome(within, "common practice"),
        {"base_rpm": base, "fall_rpm": fall, "fall_rpm_per_s": pace, "restored_rpm": restored},
        {"quick_from_rpm_per_s": quick},
    )


CHECK = Check(
    kind="feather_check",
    title="Feathering",
    place=33,
    find=find_feather_checks,
    finds_by=("feather_check_rpm",),
    may_use=("feather_fall_min_rpm_s",),
    ripe=Ripe(after_s=8.0),
    on_card=True,
    is_traced=True,
    shows=(
        Shown(measured="fall_rpm", title="Drop"),
        Shown(measured="restored_rpm", title="Back at"),
        Shown(measured="base_rpm", title="From"),
    ),
    measures="How fast RPM drops with the lever in feather, how low it gets, and whether it comes back.",
    rules=(
        Rule(WITHIN, "it drops at the type's pace (else 200 RPM a second) and comes back", TYPE),
        Rule(LOOK, "slower: too slow to feather a dead engine in time", TYPE),
        Rule(LOOK, "below half of its speed before the lever came out, or not back", PRACTICE),
        NOT_BACK,
    ),
)
