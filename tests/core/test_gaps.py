"""A profile with a gap: each limit deleted in turn, a whole flight is judged and shown, nothing is taken from elsewhere."""

import math
from dataclasses import replace

import pytest

from jemmon.core.aircraft import Profile
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.judge import evidence_of, judge
from jemmon.core.judgement.registry import checks, not_judged
from jemmon.core.live.checks import follow_checks
from jemmon.core.live.following import Following, follow
from jemmon.core.screen.frame import describe
from jemmon.core.screen.working import work_out
from jemmon.core.trace import Trace, moments_of
from tests.core.builders import PROFILES, changed, events
from tests.corpora.flights import moments, whole_flight

# kinds that have the very limits of a relative, only other figures: the relative stands for them
_LIKE_A_RELATIVE = ("j-glass", "k-hover", "l-field", "n-amphib")
LIMITS = [(name, limit) for name, one in PROFILES.items() if name not in _LIKE_A_RELATIVE for limit in one.limits]
_KNOWN = {check.kind: check for check in checks().values()}


def without(profile_id: str, limit: str) -> Profile:
    whole = PROFILES[profile_id]
    return replace(whole, limits={name: own for name, own in whole.limits.items() if name != limit})


def test_a_profile_may_come_with_a_gap():
    assert not changed("a-trainer", lambda body: body["limits"].pop("rpm_max")).has_limit("rpm_max")


def every_fourth(trace: Trace) -> Trace:
    """Once a second is enough here."""
    return Trace(trace.time_s[::4], {name: values[::4] for name, values in trace.columns.items()})


def shown_through(profile: Profile, trace: Trace, turn: int) -> None:
    """Show the flight at one or two moments, each in a phase of its own, with all that is worked out; other ones at each turn."""
    every = list(zip(profile.phases, moments(trace, len(profile.phases)), strict=True))
    for phase, row in every[turn % 8 :: 8]:
        state = fold(profile, events(("phase_entered", {"phase": phase.id}), ("engine_fired", {"limit_s": 30.0})))
        recent = trace.part(max(row - 240, 0), row + 1)
        now = next(iter(moments_of(trace.of_engine(1), [row])))
        evidence = evidence_of(recent, profile, {})
        follow("f", profile, state, Following(), now)
        follow_checks("f", profile, state, evidence)
        worked = work_out(profile, state, recent, evidence, now)
        describe(profile, state, now, now.at_s, worked=worked)


@pytest.mark.parametrize(
    ("name", "limit", "turn"),
    [(name, limit, turn) for turn, (name, limit) in enumerate(LIMITS)],
    ids=[f"{name}-{limit}" for name, limit in LIMITS],
)
def test_each_limit_deleted_in_turn(name, limit, turn):
    bare, trace = without(name, limit), whole_flight(name)
    found = judge(every_fourth(trace), bare)
    for finding in found:
        check = _KNOWN[finding.kind]
        assert not any(isinstance(value, float) and math.isinf(value) for value in finding.limits.values())
        assert limit not in finding.limits or math.isnan(finding.limits[limit] or math.nan)
        if limit in check.needs and finding.verdict == "within":
            raise AssertionError(f"{finding.kind} is within without {limit}")
    needing = [
        check for check in _KNOWN.values() if limit in (*check.needs, *check.finds_by) and check.applies_to(bare)
    ]
    listed = {row.title for row in not_judged(bare)}
    assert {check.title for check in needing} <= listed
    shown_through(bare, trace, turn)


def test_a_relative_stands_for_the_kinds_that_are_left_out():
    known = {limit for name, limit in LIMITS}
    for name in _LIKE_A_RELATIVE:
        assert set(PROFILES[name].limits) <= known, name
