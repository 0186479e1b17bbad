"""Falls of RPM at run-up speed that may be a magneto, carburettor heat or neither: told with their figures, never passed over."""

from ..trace.dips import in_groups
from ..trace.finding import UNKNOWN, Finding
from .check import PRACTICE, Check, Evidence, Ripe, Rule, Shown
from .recognition import ONE_CHECK_GAP_S, recognise


def find_unexplained_drops(evidence: Evidence) -> list[Finding]:
    """Return an `unexplained_drop` finding for the falls of one run-up that cannot be told apart. Common practice."""
    t, falls = evidence.trace.time_s, evidence.once(recognise).unexplained
    findings = []
    for own in in_groups(t, falls, lambda fall: fall.span, ONE_CHECK_GAP_S):
        drops = ", ".join(f"{fall.depth_rpm:.0f}" for fall in own)
        because = (
            f"RPM dropped by {drops} and came back; a magneto, carburettor heat or the throttle: the data do not tell."
        )
        findings.append(
            Finding.of(
                CHECK.kind,
                (float(t[own[0].span.first]), float(t[own[-1].span.last])),
                (
                    UNKNOWN,
                    because,
                    "If it was a check, type its figures; else check once more, one thing at a time.",
                    PRACTICE,
                ),
                {"drops_rpm": [fall.depth_rpm for fall in own], "at_s": [float(t[fall.span.first]) for fall in own]},
                {},
            )
        )
    return findings


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
    rules=(Rule(UNKNOWN, "it may be a magneto, carburettor heat, or a touched throttle", PRACTICE),),
)
