"""All findings of a trace: each recogniser in turn. Nothing here knows whether the trace is live or recorded."""

from collections.abc import Sequence

from ..aircraft import Profile
from ..trace import Trace
from .finding import Finding
from .idle import find_idle_checks
from .mixture import find_leanings
from .run_up import find_run_up_checks
from .start import find_starts
from .warm_up import find_warm_ups

KINDS = ("start", "warm_up", "mag_check", "carb_heat_check", "idle_check", "lean")


def judge(trace: Trace, profile: Profile, kinds: Sequence[str] = KINDS) -> list[Finding]:
    """Return the findings of a trace in order of time; `kinds` narrows what is looked for."""
    findings: list[Finding] = []
    if "start" in kinds:
        findings += find_starts(trace, profile)
    if "warm_up" in kinds:
        findings += find_warm_ups(trace, profile)
    if {"mag_check", "carb_heat_check"} & set(kinds):
        findings += [f for f in find_run_up_checks(trace, profile) if f.kind in kinds]
    if "idle_check" in kinds:
        findings += find_idle_checks(trace, profile)
    if "lean" in kinds:
        findings += find_leanings(trace, profile)
    return sorted(findings, key=lambda finding: (finding.start_s, finding.kind))
