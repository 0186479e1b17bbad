"""Falls of RPM at run-up speed that may be a magneto, carburettor heat or neither, or that look like heat where a type has no
figures for it: told with their figures, never passed over."""

from collections.abc import Iterator, Sequence

import numpy as np

from ..trace.dips import Span, in_groups
from ..trace.finding import UNKNOWN, Finding
from .check import PRACTICE, Check, Evidence, Ripe, Rule, Shown
from .falls import Fall, levels
from .recognition import ONE_CHECK_GAP_S, checks_heat, recognise


def find_unexplained_drops(evidence: Evidence) -> list[Finding]:
    """Return an `unexplained_drop` finding for the falls of one run-up that cannot be told apart, and one for each that looks like
    hot air where the type has no figures for it. Common practice."""
    falls = evidence.once(recognise).unexplained
    groups = in_groups(evidence.trace.time_s, falls, lambda fall: fall.span, ONE_CHECK_GAP_S)
    told = [*(_unexplained(evidence, own) for own in groups), *_hot_without_figures(evidence)]
    return sorted(told, key=lambda finding: finding.start_s)


def _unexplained(evidence: Evidence, falls: Sequence[Fall]) -> Finding:
    drops = ", ".join(f"{fall.depth_rpm:.0f}" for fall in falls)
    because = (
        f"RPM dropped by {drops} and came back; a magneto, carburettor heat or the throttle: the data do not tell."
    )
    then = "If it was a check, type its figures; else check once more, one thing at a time."
    return _told(evidence, [(fall.span, fall.depth_rpm) for fall in falls], because, then)


def _hot_without_figures(evidence: Evidence) -> Iterator[Finding]:
    """Yield a finding for each fall that looks like hot air, of a type that has neither that check nor figures for it; none where
    the lever shows what it was."""
    trace, rpm = evidence.trace, evidence.trace.signal("rpm")
    if rpm is None or trace.signal("carb_heat") is not None or checks_heat(evidence.profile):
        return
    filled = np.interp(trace.time_s, trace.time_s[np.isfinite(rpm)], rpm[np.isfinite(rpm)])
    for span in evidence.once(recognise).hot:
        base_rpm, low_rpm = levels(trace.time_s, filled, span)
        because = f"RPM dropped by {base_rpm - low_rpm:.0f} and came back, as on carburettor heat; the type has no figures for it."
        then = "Enter what the handbook says of it in the aircraft's limits, to have it judged."
        yield _told(evidence, [(span, base_rpm - low_rpm)], because, then)


def _told(evidence: Evidence, falls: Sequence[tuple[Span, float]], because: str, then: str) -> Finding:
    t = evidence.trace.time_s
    measured = {"drops_rpm": [rpm for _, rpm in falls], "at_s": [float(t[span.first]) for span, _ in falls]}
    span_s = (float(t[falls[0][0].first]), float(t[falls[-1][0].last]))
    return Finding.of(CHECK.kind, span_s, (UNKNOWN, because, then, PRACTICE), measured, {})


CHECK = Check(
    kind="unexplained_drop",
    title="Unexplained drop",
    place=32,
    find=find_unexplained_drops,
    ripe=Ripe(after_s=4.0, follows_rpm=True),
    is_traced=True,
    shows=(Shown(measured="drops_rpm", title="Drops"),),
    measures="Falls of RPM at run-up speed that came back, and that no lever, exhaust, manifold pressure or order of falls assigns "
    "to a check.",
    rules=(
        Rule(UNKNOWN, "it may be a magneto, carburettor heat, or a touched throttle", PRACTICE),
        Rule(UNKNOWN, "it looks like carburettor heat, and the type has no figures for that", PRACTICE),
    ),
)
