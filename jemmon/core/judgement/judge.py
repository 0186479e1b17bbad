"""All findings of a trace: each check of the registry in turn. Nothing here knows whether the trace is live or recorded."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from ..aircraft import Profile
from ..start.story import StartStory
from ..trace import Trace
from ..trace.finding import Finding
from .check import Check, Evidence
from .registry import cannot_be_found, checks, judged_with_gaps, with_gaps_said

_COARSE_HZ = 0.2 * 0.99  # common practice: a side is left for four to ten seconds, and one row of it proves nothing
FLIGHT_GAP_S = 600.0  # common practice: what a recorder writes after ten minutes of silence is another flight


def too_coarse_hz(trace: Trace) -> float | None:
    """Return the rate [Hz] of a trace whose rows are too far apart for what a pilot does in a few seconds, else None."""
    return trace.rate_hz if 0 < trace.rate_hz < _COARSE_HZ else None


def coarse_words(trace: Trace) -> tuple[str, ...]:
    """Return what cannot be judged of a trace because its rows are too far apart."""
    if (rate_hz := too_coarse_hz(trace)) is None:
        return ()
    titles = ", ".join(check.title.lower() for check in checks().values() if check.is_traced and check.on_card)
    return (f"Rows {1 / rate_hz:.0f} s apart are too far for checks of a few seconds; not judged: {titles}.",)


def judge(trace: Trace, profile: Profile, kinds: Sequence[str] | None = None, tell_gaps: bool = True) -> list[Finding]:
    """Return the findings of a trace in order of time, of both engines; `kinds` narrows what is looked for. A check that the
    profile lacks a limit for is `unknown`, and names it; `tell_gaps` also those that cannot be seen without it. What a long gap
    divides is judged piece by piece."""
    found: list[Finding] = []
    for stretch in trace.stretches(FLIGHT_GAP_S):
        for number in (1, 2) if trace.has_second_engine else (1,):
            evidence = Evidence(stretch.of_engine(number).without_dropouts(), profile)
            found += [replace(finding, engine=number) for finding in judge_engine(evidence, kinds, tell_gaps)]
    return sorted(found, key=lambda finding: (finding.start_s, finding.kind, finding.engine))


def evidence_of(trace: Trace, profile: Profile, told: Mapping[int, tuple[StartStory, ...]]) -> dict[int, Evidence]:
    """Return what each engine showed by its number; `told` are the starts that a live flight has followed."""
    numbers = [number for number, _ in profile.engines]
    return {
        number: Evidence(trace.of_engine(number).without_dropouts(), profile, told.get(number, ()))
        for number in numbers
    }


def judge_engine(evidence: Evidence, kinds: Sequence[str] | None = None, tell_gaps: bool = True) -> list[Finding]:
    """Return the findings of one engine, its number not yet set."""
    found: list[Finding] = []
    is_coarse = too_coarse_hz(evidence.shown) is not None
    for kind, check in checks().items():
        if is_coarse and check.is_traced and check.on_card:
            continue  # a few seconds on one side fall between two rows
        if kinds is None or kind in kinds:
            found += _findings(check, evidence, tell_gaps)
    return found


def _findings(check: Check, evidence: Evidence, tell_gaps: bool) -> list[Finding]:
    profile, trace = evidence.profile, evidence.shown
    if check.missing(profile, check.finds_by) or not check.applies_to(profile) and check.needs:
        span_s = (float(trace.time_s[0]), float(trace.time_s[-1])) if len(trace) else (0.0, 0.0)
        gap = cannot_be_found(check, profile, span_s) if tell_gaps and len(trace) else None
        return [] if gap is None else [gap]
    filled, missing = judged_with_gaps(check, profile)
    return [with_gaps_said(finding, missing) for finding in check.find(evidence.judged_by(filled))]
