"""All findings of a trace: each recogniser in turn. Nothing here knows whether the trace is live or recorded."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from ..aircraft import Profile
from ..aircraft.profile import NEEDED_BY_CHECK
from ..start.judging import find_starts
from ..trace import Trace
from ..trace.finding import Finding
from .exceedance import find_exceedances
from .feathering import find_feather_checks
from .gauges import find_alternator_checks, find_gauges, find_run_up_heat
from .helicopter import find_clutches, find_freewheel_checks, find_governor_checks
from .idle import find_idle_checks
from .magneto import name_sides
from .mixture import find_leanings
from .mixture_check import find_mixture_checks
from .power_check import find_power_checks
from .propeller import find_prop_cycles
from .run_up import find_run_up_checks
from .shutdown import find_shutdown_checks
from .warm_up import find_warm_ups

# what finds each kind; magnetos and carburettor heat are told apart by one
_FINDERS: tuple[tuple[tuple[str, ...], Callable[[Trace, Profile], list[Finding]]], ...] = (
    (("start",), find_starts),
    (("warm_up",), find_warm_ups),
    (("mag_check", "carb_heat_check"), find_run_up_checks),
    (("prop_cycle",), find_prop_cycles),
    (("feather_check",), find_feather_checks),
    (("alternator_check",), find_alternator_checks),
    (("mixture_check",), find_mixture_checks),
    (("gauges",), find_gauges),
    (("run_up_heat",), find_run_up_heat),
    (("clutch",), find_clutches),
    (("freewheel_check",), find_freewheel_checks),
    (("governor_check",), find_governor_checks),
    (("idle_check",), find_idle_checks),
    (("power_check",), find_power_checks),
    (("shutdown_check",), find_shutdown_checks),
    (("lean",), find_leanings),
    (("exceedance",), find_exceedances),
)
_OWN_SPEED = {"start", "warm_up", "exceedance"}  # these read the tachometer as the type has it, RPM or percent
KINDS = tuple(kind for kinds, _ in _FINDERS for kind in kinds)


def judge(trace: Trace, profile: Profile, kinds: Sequence[str] = KINDS) -> list[Finding]:
    """Return the findings of a trace in order of time, of both engines; `kinds` narrows what is looked for. A check for
    which the profile has no limits is not looked for."""
    findings = _judge_engine(trace.of_engine(1), profile, kinds)
    if trace.has_second_engine:
        findings += [replace(finding, engine=2) for finding in _judge_engine(trace.of_engine(2), profile, kinds)]
    return sorted(findings, key=lambda finding: (finding.start_s, finding.kind, finding.engine))


def _by_habit(finding: Finding, profile: Profile) -> Finding:
    """Name the sides of a magneto check that the needles do not tell, where the profile knows the pilot's habit."""
    first = profile.engine.get("mag_first")
    if first is None or finding.kind != "mag_check" or "drop_first_rpm" not in finding.measured:
        return finding
    body = name_sides(finding.to_json(), str(first))
    because = f"{body['because']} (Taken as {first} first, by the habit in the profile.)"
    return replace(finding, measured=body["measured"], because=because, next=body["next"])


def _judge_engine(trace: Trace, profile: Profile, kinds: Sequence[str]) -> list[Finding]:
    kinds = [kind for kind in kinds if all(limit in profile.limits for limit in NEEDED_BY_CHECK.get(kind, ()))]
    full = profile.engine.get("rpm_at_100_pct")
    in_rpm = trace if full is None else trace.in_rpm(float(full))
    findings: list[Finding] = []
    for found, find in _FINDERS:
        if set(found) & set(kinds):
            made = find(trace if set(found) & _OWN_SPEED else in_rpm, profile)
            findings += [_by_habit(finding, profile) for finding in made if finding.kind in kinds]
    return findings
