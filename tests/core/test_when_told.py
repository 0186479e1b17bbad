"""How long after its end a check is told while the engine runs: soon enough to be of use, late enough that it has settled (common
practice)."""

import pytest

from jemmon.core.flight.fold import fold
from jemmon.core.judgement.judge import evidence_of, judge
from jemmon.core.live.checks import follow_checks
from tests.core.builders import PROFILES
from tests.core.test_just_inside import chopped, governed
from tests.core.test_just_inside_checks import A, E, cut, full_throttle, switched_off
from tests.core.test_just_inside_levers import closed, cycled, heated, switched

B = PROFILES["b-tourer"]
BOTH_SIDES = switched(("L", 30.0, 6.0), ("R", 42.0, 6.0))
IDLE = (A.limit("idle_min_rpm") + A.limit("idle_max_rpm")) / 2


def told(kind, profile, samples, ends_s, after_s) -> bool:
    """Whether the check that ended then is told so long after."""
    recent = samples.part(0, int((ends_s + after_s) * 4) + 1)
    made = follow_checks("f", profile, fold(profile, []), evidence_of(recent, profile, {}), (kind,))
    return bool(made)


@pytest.mark.parametrize(
    ("kind", "profile", "samples", "ends_s", "after_s"),
    [
        ("mag_check", A, BOTH_SIDES, 47.75, 1.2),
        ("carb_heat_check", A, heated(), 37.75, 4.0),
        ("prop_cycle", B, cycled(), 33.75, 8.0),
        ("idle_check", A, closed(idle=IDLE), 42.5, 1.0),
        ("alternator_check", A, switched_off(), 25.75, 4.0),
        ("shutdown_check", A, cut(), 45.0, 3.0),
        ("governor_check", E, governed(E.limit("rpm_pct_max_pct")), 33.75, 1.0),
        ("freewheel_check", E, chopped(8.0), None, 1.0),
        ("power_check", A, full_throttle(), None, 0.0),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_a_check_is_told_when_it_has_settled(kind, profile, samples, ends_s, after_s):
    if ends_s is None:
        ends_s = judge(samples, profile, (kind,), tell_gaps=False)[0].end_s
    if after_s:
        assert not told(kind, profile, samples, ends_s, max(after_s - 0.5, 0.25))
    assert told(kind, profile, samples, ends_s, after_s + 0.75)
