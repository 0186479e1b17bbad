"""A helicopter's governor: switched on, it brings the engine to the type's speed."""

import numpy as np

from ..trace.finding import LOOK, WITHIN, Finding, Reasons
from ..trace.masks import rises
from .check import PRACTICE, TYPE, Check, Evidence, Ripe, Rule

_FROM_PCT, _SETTLES_S, _LOOKED_UNTIL_S, _WITHIN_PCT = 78.0, 8.0, 14.0, 3.0  # common practice


def find_governor_checks(evidence: Evidence) -> list[Finding]:
    """Return a `governor_check` finding for each time that the governor was switched on: it brings the speed up. Common
    practice."""
    trace, profile = evidence.trace, evidence.profile
    lever, engine, t = trace.signal("governor"), trace.signal("rpm_pct"), trace.time_s
    if lever is None or engine is None:
        return []
    on = np.nan_to_num(lever) > 0.5
    findings = []
    for row in rises(on):
        settled = (t > t[row] + _SETTLES_S) & (t < t[row] + _LOOKED_UNTIL_S) & on
        if not settled.any() or engine[row] < _FROM_PCT:
            continue
        figure, highest = float(np.nanmedian(engine[settled])), profile.limit("rpm_pct_max_pct")
        reasons = Reasons()
        if abs(figure - highest) > _WITHIN_PCT:
            because = f"With the governor on the engine is at {figure:.0f} %; it brings about {highest:.0f}."
            reasons.add(
                LOOK, because, "Governor off and on; if it stays, fly by hand only after a mechanic has looked."
            )
        outcome = reasons.outcome(f"The governor brought the engine to {figure:.0f} %.")
        limits = {"rpm_pct_max_pct": highest}
        findings.append(Finding.of("governor_check", (t[row], t[settled][-1]), outcome, {"rpm_pct": figure}, limits))
    return findings


CHECK = Check(
    kind="governor_check",
    title="Governor",
    place=39,
    find=find_governor_checks,
    is_of=lambda profile: profile.engine["propeller"] == "rotor",
    needs=("rpm_pct_max_pct",),
    ripe=Ripe(after_s=1.0),
    on_card=True,
    measures="What the engine is brought to after the governor is switched on.",
    rules=(
        Rule(WITHIN, f"within {_WITHIN_PCT:.0f} % of the type's figure", TYPE),
        Rule(LOOK, "farther off", PRACTICE),
    ),
)
