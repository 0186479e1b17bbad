"""The slots of a magneto check fill as the sides are made, and are empty again for the next check."""

from dataclasses import replace

import pytest

from jemmon.core.bench import BenchScript, run_script
from jemmon.core.judgement.judge import evidence_of, judge
from jemmon.core.live.magneto_slots import magneto_slots
from jemmon.core.trace import Trace, moments_of
from tests.core.builders import PROFILES

A = PROFILES["a-trainer"]
ITEM = next(item for item in A.items.values() if item.check == "mag_check")
SIDES = [(60, "L"), (67, "BOTH"), (75, "R"), (82, "BOTH")]


@pytest.fixture(scope="module")
def trace() -> Trace:
    moved = [{"at": at, "set": {"mag": position}} for at, position in SIDES]
    steps = [{"at": 0, "engine": {"running": True}}, {"at": 1, "set": {"throttle": 0.34}}, *moved]
    run = run_script(BenchScript.from_json([*steps, {"at": 170, "end": True}]), A.bench)
    return Trace(run.time_s, {**run.shown, **run.levers})


def slots_at(trace: Trace, at_s: float, profile=A, item=ITEM):
    seen = trace.part(0, int(at_s / (trace.time_s[1] - trace.time_s[0])) + 1)
    now = next(iter(moments_of(seen, [len(seen) - 1])))
    return magneto_slots(evidence_of(seen, profile, {})[1], item, now)


def test_the_sides_fill_one_after_the_other(trace):
    assert [slot.state for slot in slots_at(trace, 55)] == ["open", "open"]
    going = slots_at(trace, 65)
    assert [slot.state for slot in going] == ["going", "open"]
    assert [slot.name for slot in going] == ["left", "right"]
    assert going[0].most == A.limit("mag_drop_max_rpm")
    half = slots_at(trace, 73)
    assert [slot.state for slot in half] == ["done", "open"]
    (judged,) = judge(trace, A, ("mag_check",))
    assert half[0].drop == pytest.approx(judged.measured["drop_left_rpm"], abs=4)
    assert [slot.state for slot in slots_at(trace, 79)] == ["done", "going"]
    assert [slot.state for slot in slots_at(trace, 92)] == ["done", "done"]


def test_a_minute_on_both_begins_the_next_check(trace):
    assert [slot.state for slot in slots_at(trace, 138)] == ["done", "done"]
    assert [slot.state for slot in slots_at(trace, 150)] == ["open", "open"]


def test_another_check_and_a_profile_without_the_limit_have_none(trace):
    other = next(item for item in A.items.values() if item.check == "carb_heat_check")
    assert slots_at(trace, 92, item=other) == ()
    limits = {name: limit for name, limit in A.limits.items() if name != "mag_drop_max_rpm"}
    assert slots_at(trace, 92, profile=replace(A, limits=limits)) == ()
