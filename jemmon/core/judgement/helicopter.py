"""What a helicopter's run-up shows: the rotor turns soon after the clutch, and the freewheel lets go on a chop."""

import numpy as np

from ..aircraft import Profile
from ..trace import Trace
from ..trace.finding import LOOK, STOP, Finding, Reasons

_TURNS_FROM_PCT = 2.0
_CHOP_PCT, _CHOP_WITHIN_S = 8.0, 2.5
_FROM_PCT = 60.0
_PARTED_PCT = 3.0
_LOOKED_S = 6.0


def find_clutches(trace: Trace, profile: Profile) -> list[Finding]:
    """Return a `clutch` finding for each engagement: seconds until the rotor turns, held against the type's."""
    lever, rotor, t = trace.signal("clutch"), trace.signal("rotor_pct"), trace.time_s
    if lever is None or rotor is None:
        return []
    on = np.nan_to_num(lever) > 0.5
    findings = []
    for row in (np.flatnonzero(on[1:] & ~on[:-1]) + 1).tolist():
        turning = np.flatnonzero((t >= t[row]) & (np.nan_to_num(rotor) > _TURNS_FROM_PCT))
        limit = profile.limit("clutch_s")
        seconds = float(t[turning[0]] - t[row]) if turning.size else np.inf
        if rotor[max(row - 1, 0)] > _TURNS_FROM_PCT or (not turning.size and t[-1] - t[row] < limit):
            continue
        reasons = Reasons()
        if seconds > limit:
            because = f"The rotor did not turn within {limit:.0f} s of engaging the clutch."
            reasons.add(STOP, because, "Disengage, engine off; a mechanic looks at belts and clutch.", "type")
        outcome = reasons.outcome(f"The rotor turned {seconds:.0f} s after the clutch went in.")
        measured = {"rotor_turns_s": seconds}
        findings.append(
            Finding.of("clutch", (t[row], t[row] + min(seconds, limit)), outcome, measured, {"clutch_s": limit})
        )
    return findings


def find_freewheel_checks(trace: Trace, profile: Profile) -> list[Finding]:
    """Return a `freewheel_check` finding for each throttle chop with the rotor turning: the needles must part."""
    engine, rotor, t = trace.signal("rpm_pct"), trace.signal("rotor_pct"), trace.time_s
    airspeed, switch = trace.signal("ias"), trace.ignition()
    if engine is None or rotor is None or len(trace) < 8:
        return []
    back = np.searchsorted(t, t - _CHOP_WITHIN_S)
    chopped = (engine[back] - engine > _CHOP_PCT) & (engine[back] > _FROM_PCT) & (rotor[back] > _FROM_PCT)
    if airspeed is not None:
        chopped &= np.nan_to_num(airspeed) < 35
    if switch is not None:  # an engine that quits on one magneto lets the rotor go too
        chopped &= switch[back] == "BOTH"
    for name, share in (("throttle", 0.75), ("map", 0.9)):
        values = trace.signal(name)
        if values is not None and np.isfinite(values).any():
            chopped &= np.nan_to_num(values) < share * np.nan_to_num(values[back])
            break
    rows = np.flatnonzero(chopped)
    findings: list[Finding] = []
    for row in rows.tolist():
        if findings and t[row] - findings[-1].start_s < 2 * _LOOKED_S:
            continue
        soon = (t >= t[row]) & (t <= t[row] + _LOOKED_S)
        apart = float(np.nanmax(rotor[soon] - engine[soon]))
        reasons = Reasons()
        if apart < _PARTED_PCT:
            because = (
                f"Throttle chopped, and the needles stayed together ({apart:+.1f} %): the freewheel did not let go."
            )
            reasons.add(STOP, because, "Do not fly: no autorotation. A mechanic.")
        outcome = reasons.outcome(
            f"The needles parted by {apart:.0f} % on the chop: the freewheel lets go.", "common practice"
        )
        measured = {"parted_pct": apart}
        findings.append(Finding.of("freewheel_check", (t[back[row]], t[soon][-1]), outcome, measured, {}))
    return findings


def find_governor_checks(trace: Trace, profile: Profile) -> list[Finding]:
    """Return a `governor_check` finding for each time that the governor was switched on: it brings the speed up."""
    lever, engine, t = trace.signal("governor"), trace.signal("rpm_pct"), trace.time_s
    if lever is None or engine is None:
        return []
    on = np.nan_to_num(lever) > 0.5
    findings = []
    for row in (np.flatnonzero(on[1:] & ~on[:-1]) + 1).tolist():
        settled = (t > t[row] + 8.0) & (t < t[row] + 14.0) & on
        if not settled.any() or engine[row] < 78.0:
            continue
        figure, highest = float(np.nanmedian(engine[settled])), profile.limit("rpm_pct_max_pct")
        reasons = Reasons()
        if abs(figure - highest) > 3.0:
            because = f"With the governor on the engine stands at {figure:.0f} %; it brings about {highest:.0f}."
            reasons.add(
                LOOK, because, "Governor off and on; if it stays, fly by hand only after a mechanic has looked."
            )
        outcome = reasons.outcome(f"The governor brought the engine to {figure:.0f} %.")
        limits = {"rpm_pct_max_pct": highest}
        findings.append(Finding.of("governor_check", (t[row], t[settled][-1]), outcome, {"rpm_pct": figure}, limits))
    return findings
