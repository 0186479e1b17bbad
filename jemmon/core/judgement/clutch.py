"""A helicopter's clutch: the rotor turns within the type's seconds of engaging it."""

import numpy as np

from ..trace.finding import STOP, WITHIN, Finding, Reasons
from ..trace.masks import rises
from .check import TYPE, Check, Evidence, Ripe, Rule

_TURNS_FROM_PCT = 2.0  # common practice


def find_clutches(evidence: Evidence) -> list[Finding]:
    """Return a `clutch` finding for each engagement: seconds until the rotor turns, held against the type's."""
    trace, profile = evidence.trace, evidence.profile
    lever, rotor, t = trace.signal("clutch"), trace.signal("rotor_pct"), trace.time_s
    if lever is None or rotor is None:
        return []
    on = np.nan_to_num(lever) > 0.5
    findings = []
    for row in rises(on):
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


CHECK = Check(
    kind="clutch",
    title="Clutch",
    place=20,
    find=find_clutches,
    is_of=lambda profile: profile.engine["propeller"] == "rotor",
    finds_by=("clutch_s",),
    ripe=Ripe(),
    on_card=True,
    measures="From the clutch to the first turn of the rotor.",
    rules=(Rule(WITHIN, "the rotor turns in time", TYPE), Rule(STOP, "it does not", TYPE)),
)
