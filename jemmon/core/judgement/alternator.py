"""The alternator tried on the ground: switched off briefly the bus falls to the battery, on again it charges."""

import numpy as np

from ..aircraft import Profile
from ..trace import Trace
from ..trace.finding import INCOMPLETE, LOOK, WITHIN, Finding, Reasons
from ..trace.masks import runs
from .check import NOT_BACK, PRACTICE, TYPE, Check, Evidence, Ripe, Rule, Shown

_SAME_SPEED = 0.6  # of the highest: below it an alternator gives little by itself (common practice)
_BACK_WITHIN_S, _FALLS_V, _LONGEST_OFF_S = 6.0, 0.6, 30.0  # common practice


def find_alternator_checks(evidence: Evidence) -> list[Finding]:
    """Return an `alternator_check` finding for each time that the alternator was switched off briefly: the bus
    falls to the battery, and comes back. By the switch where known, else by the volts. Limits by the type."""
    trace, profile = evidence.trace, evidence.profile
    volts, rpm = trace.signal("volts"), trace.speed()
    if volts is None or rpm is None or len(trace) < 8 or not np.isfinite(volts).any():
        return []
    findings, firing = [], profile.find_limit("rpm_firing_min") or 0.0
    for first, last in _off_rows(trace, profile, volts):
        t = trace.time_s
        before = (t >= t[first] - 4.0) & (t < t[first])
        off = (t >= t[first] + 0.4) & (t <= t[last])
        after = (t > t[last] + 0.8) & (t <= t[last] + _BACK_WITHIN_S)
        if before.any() and off.any() and rpm[first] > firing:
            figures = [float(np.nanmedian(volts[rows])) if rows.any() else np.nan for rows in (before, off, after)]
            findings.append(_judge_alternator(profile, float(t[first]), float(t[last]), *figures))
    return findings


def _off_rows(trace: Trace, profile: Profile, volts: np.ndarray) -> list[tuple[int, int]]:
    switch = trace.signal("alternator")
    t = trace.time_s
    if switch is not None and np.isfinite(switch).any():
        off = np.nan_to_num(switch, nan=1.0) < 0.5
    else:
        charging = profile.limit("volts_charging_min_v")
        off = np.nan_to_num(volts, nan=charging) < charging - _FALLS_V
        speed = trace.speed()
        if speed is not None:  # at a low speed the alternator gives little by itself
            off &= np.nan_to_num(speed) > _SAME_SPEED * np.nanmax(speed[np.isfinite(speed)], initial=0.0)
    return [(a, b) for a, b in runs(off) if a > 0 and 0.8 <= t[b] - t[a] + 0.2 <= _LONGEST_OFF_S and b + 1 < len(t)]


def _judge_alternator(
    profile: Profile, start_s: float, end_s: float, before_v: float, off_v: float, after_v: float
) -> Finding:
    charging, reasons = profile.limit("volts_charging_min_v"), Reasons()
    if before_v - off_v < _FALLS_V:
        because = (
            f"Off, the bus stayed at {off_v:.1f} V: the alternator gave nothing before, or its switch does nothing."
        )
        reasons.add(LOOK, because, "Look at volts with a load on; then a mechanic.")
    if not np.isfinite(after_v):
        reasons.add(INCOMPLETE, "Not seen back on.", "Alternator on, and look at the volts.")
    elif after_v < charging:
        because = f"On again, the bus is at {after_v:.1f} V; at least {charging:g} V shows that it charges."
        reasons.add(LOOK, because, "Alternator off, wait, on again. No charge: do not fly.", "type")
    within = f"Off, the bus fell to {off_v:.1f} V; on again {after_v:.1f} V: the alternator responds."
    measured = {"before_v": before_v, "off_v": off_v, "restored_v": after_v}
    limits = {"volts_charging_min_v": charging}
    return Finding.of("alternator_check", (start_s, end_s), reasons.outcome(within), measured, limits)


CHECK = Check(
    kind="alternator_check",
    title="Alternator",
    place=34,
    find=find_alternator_checks,
    is_of=lambda profile: True,
    finds_by=("volts_charging_min_v",),
    ripe=Ripe(after_s=4.0),
    on_card=True,
    is_traced=True,
    shows=(
        Shown(measured="off_v", title="Off", unit="v"),
        Shown(measured="restored_v", title="On again", unit="v", least=("volts_charging_min_v",)),
    ),
    measures="The bus before, with the alternator off, and on again.",
    rules=(
        Rule(WITHIN, "the bus falls by 0.6 V at least and charges again", TYPE),
        Rule(LOOK, "it does not drop: the alternator gave nothing before", PRACTICE),
        Rule(LOOK, "it does not charge again", TYPE),
        NOT_BACK,
    ),
)
