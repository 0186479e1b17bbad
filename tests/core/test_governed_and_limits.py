"""Checks beside the magnetos: propeller cycles, a governor that hides a drop, full power, and limits passed."""

import pytest

from jemmon.core.base.figures import plain
from jemmon.core.bench import BenchScript, run_script
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.judge import evidence_of, judge
from jemmon.core.live.checks import follow_checks
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, changed, events

A, B = PROFILES["a-trainer"], PROFILES["b-tourer"]
RUNNING = {"at": 0, "engine": {"running": True}}


def trace_of(profile, steps, drop=(), rate_hz: float = 4.0, seed: int = 3) -> Trace:
    run = run_script(BenchScript.from_json([RUNNING, *steps]), profile.bench, rate_hz, seed)
    columns = {**run.shown, **run.levers}
    return Trace(run.time_s, {name: values for name, values in columns.items() if name not in drop})


def found(profile, steps, kind: str, **more) -> list[dict]:
    return [f.to_json() for f in judge(trace_of(profile, steps, **more), profile) if f.kind == kind]


def cycles(count: int, lever: float = 0.0):
    steps = [{"at": 1, "set": {"throttle": 0.3}, "ramp_s": 2}]
    for n in range(count):
        steps += [
            {"at": 40 + 14 * n, "set": {"prop": lever}, "ramp_s": 1},
            {"at": 44 + 14 * n, "set": {"prop": 1.0}, "ramp_s": 1},
        ]
    return [*steps, {"at": 60 + 14 * count, "end": True}]


@pytest.mark.parametrize("drop", [(), ("prop",)], ids=["lever known", "needles alone"])
@pytest.mark.parametrize("count", [1, 3])
def test_propeller_cycles_are_counted_and_measured(count, drop):
    (finding,) = found(B, cycles(count), "prop_cycle", drop=drop)
    measured = finding["measured"]
    assert measured["count"] == count
    assert measured["drop_rpm"] > 180
    assert measured["map_rise_inhg"] > 0.2
    assert measured["restored_rpm"] == pytest.approx(measured["base_rpm"], abs=30)
    assert finding["verdict"] == "within"


def test_a_pitch_that_does_not_move_is_seen_with_the_lever_only():
    stuck = changed("b-tourer", lambda b: b["bench"].update(pitch_rate_per_s=0.0))
    (finding,) = found(stuck, cycles(1), "prop_cycle")
    assert finding["verdict"] == "look"
    assert "hardly changes" in finding["because"]
    assert found(stuck, cycles(1), "prop_cycle", drop=("prop",)) == []


def test_a_fixed_pitch_has_no_propeller_cycle_and_magnetos_are_none():
    magnetos = [
        {"at": 1, "set": {"throttle": 0.34}},
        {"at": 60, "set": {"mag": "L"}},
        {"at": 67, "set": {"mag": "BOTH"}},
        {"at": 74, "set": {"mag": "R"}},
        {"at": 81, "set": {"mag": "BOTH"}},
        {"at": 95, "end": True},
    ]
    assert found(A, magnetos, "prop_cycle") == []
    governed = [{"at": 1, "set": {"throttle": 0.3}}, *magnetos[1:]]
    assert found(B, governed, "prop_cycle", drop=("prop",)) == []
    assert found(B, governed, "prop_cycle") == []


def magnetos_at(prop: float, throttle: float):
    return [
        {"at": 1, "set": {"throttle": throttle, "prop": prop}, "ramp_s": 2},
        {"at": 60, "set": {"mag": "L"}},
        {"at": 70, "set": {"mag": "BOTH"}},
        {"at": 80, "set": {"mag": "R"}},
        {"at": 90, "set": {"mag": "BOTH"}},
        {"at": 105, "end": True},
    ]


def test_under_a_governor_that_governs_the_magneto_reading_is_unknown():
    (held,) = found(B, magnetos_at(prop=0.1, throttle=0.45), "mag_check")
    assert abs(held["measured"]["drop_left_rpm"]) < 12
    assert held["verdict"] == "unknown"
    assert "governor" in held["because"]
    assert "full fine" in held["next"]


def test_on_the_fine_stop_the_same_engine_shows_its_drops():
    (open_pitch,) = found(B, magnetos_at(prop=1.0, throttle=0.3), "mag_check")
    assert open_pitch["measured"]["drop_left_rpm"] > 30
    assert open_pitch["verdict"] in ("within", "look")


def test_a_magneto_that_does_not_go_off_is_still_an_alarm_under_a_governor():
    live = [{"at": 0, "fault": "open_ground_right", "size": 1}, *magnetos_at(prop=0.1, throttle=0.45)]
    (finding,) = found(B, live, "mag_check")
    assert finding["verdict"] == "stop"
    assert "not going off" in finding["because"]


TAKE_OFF = [
    {"at": 30, "set": {"throttle": 1.0}, "ramp_s": 3},
    {"at": 45, "air": {"ias_kt": 60}},
    {"at": 60, "end": True},
]


def test_full_power_is_measured_before_the_aircraft_flies():
    (finding,) = found(A, TAKE_OFF, "power_check")
    assert finding["verdict"] == "within"
    low, high = A.limit("static_min_rpm"), A.limit("static_max_rpm")
    assert low < finding["measured"]["static_rpm"] < high
    assert finding["measured"]["map_inhg"] > 26
    assert finding["measured"]["ff_gph"] > 8


STATIC_TYPES = [p for p in PROFILES.values() if p.bench is not None and "static_max_rpm" in p.limits]


@pytest.mark.parametrize("rate_hz", [1.0, 4.0])
@pytest.mark.parametrize("profile", STATIC_TYPES, ids=lambda profile: profile.id)
def test_no_healthy_engine_is_doubted_at_full_power(profile, rate_hz):
    """A governor holds its type's most, and its needle moves by a few RPM about it."""
    findings = found(profile, TAKE_OFF, "power_check", rate_hz=rate_hz)
    assert findings
    assert {finding["verdict"] for finding in findings} == {"within"}, [finding["because"] for finding in findings]


def test_an_engine_that_does_not_make_its_power_is_stopped():
    weak = [{"at": 0, "fault": "dead_magneto_left", "size": 1}, {"at": 0, "fault": "late_timing_right", "size": 1}]
    (finding,) = found(A, [*weak, *TAKE_OFF], "power_check")
    assert finding["verdict"] == "stop"
    assert "stop" in finding["next"]


def test_a_run_up_is_no_power_check_and_neither_is_power_in_the_air():
    run_up = [{"at": 10, "set": {"throttle": 0.34}}, {"at": 40, "set": {"throttle": 0.1}}, {"at": 60, "end": True}]
    assert found(A, run_up, "power_check") == []
    go_around = [{"at": 1, "air": {"ias_kt": 70}}, {"at": 30, "set": {"throttle": 1.0}}, {"at": 50, "end": True}]
    assert found(A, go_around, "power_check") == []


def test_a_limit_passed_for_seconds_is_an_exceedance_of_that_cylinder_and_a_moment_is_none():
    cool = changed("a-trainer", lambda b: b["limits"]["cht_max_f"].update(value=310))
    climb = [{"at": 1, "set": {"throttle": 1.0}}, {"at": 250, "end": True}]
    over = found(cool, climb, "exceedance")
    assert {f["measured"]["signal"] for f in over} == {"cht"}
    assert {f["measured"]["cylinder"] for f in over} <= {1, 2, 3, 4}
    assert all(f["measured"]["worst"] > 310 and f["measured"]["seconds_s"] > 3 for f in over)
    assert all(f["verdict"] == "stop" for f in over)
    assert all(f["because"].startswith("CHT of cylinder ") for f in over)
    assert found(A, climb, "exceedance") == []
    slow = changed("a-trainer", lambda b: b["limits"]["rpm_max"].update(value=2_000))
    (fast,) = found(slow, climb, "exceedance")
    assert plain(fast["because"]).count("RPM") == 2, "each figure says its unit, and nothing says it twice"


def test_low_oil_pressure_of_a_running_engine_is_one_and_of_a_starting_one_is_not():
    fails = [{"at": 90, "fault": "no_oil_pressure", "size": 1}, {"at": 120, "end": True}]
    (finding,) = [f for f in found(A, fails, "exceedance") if f["measured"]["signal"] == "oil_p"]
    assert finding["measured"]["worst"] < A.limit("oil_pressure_min_psi")
    cold = [
        {"at": 0, "engine": {"soak_h": 12}},
        {"at": 1, "set": {"master": True, "mixture": 1, "throttle": 0.08, "mag": "BOTH", "prime_strokes": 3}},
        {"at": 3, "set": {"starter": True}},
        {"at": 6, "set": {"starter": False}},
        {"at": 50, "end": True},
    ]
    assert found(A, cold, "exceedance") == []


def test_live_each_cylinder_beyond_its_limit_is_told_once():
    cool = changed("a-trainer", lambda b: b["limits"]["cht_max_f"].update(value=415))
    recent = trace_of(
        cool, [{"at": 1, "set": {"throttle": 1.0}}, {"at": 250, "set": {"throttle": 0.1}}, {"at": 600, "end": True}]
    )
    told = [
        e
        for e in follow_checks("f", cool, fold(cool, []), evidence_of(recent, cool, {}))
        if e.body["kind"] == "exceedance"
    ]
    assert len(told) == len({e.id for e in told}) >= 2
    state = fold(cool, events(*[("finding", e.body) for e in told]))
    again = follow_checks("f", cool, state, evidence_of(recent, cool, {}))
    assert not [e for e in again if e.body["kind"] == "exceedance"]
