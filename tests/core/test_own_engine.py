"""The simulated engine fitted to flights of another one: an engine whose constants are known is flown, judged, and found again."""

import pytest

from jemmon.core.bench import BenchScript, run_script
from jemmon.core.drills.own_engine import fit_engine
from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from tests.bench_table.faults import run_up
from tests.core.builders import PROFILES

TRUE = {
    "one_plug_left_work": 0.89,
    "one_plug_right_work": 0.94,
    "carb_heat_rise_k": 48.0,
    "throttle_area_idle_cm2": 0.33,
}


def flights_of(kind: str, seeds: range, **changed) -> list[list[dict]]:
    section = {**PROFILES[kind].bench, **changed}
    steps = [*run_up(kind, None)[:-1], {"at": 240, "set": {"throttle": 1.0}, "ramp_s": 3}]
    script = BenchScript.from_json(
        [*steps, {"at": 275, "set": {"throttle": 0.1}, "ramp_s": 2}, {"at": 290, "end": True}]
    )
    runs = [run_script(script, section, 4.0, seed) for seed in seeds]
    traces = [Trace(run.time_s, {**run.shown, **run.levers}) for run in runs]
    return [[finding.published() for finding in judge(trace, PROFILES[kind])] for trace in traces]


def test_an_engine_is_found_again_by_its_flights():
    found = fit_engine(PROFILES["a-trainer"], flights_of("a-trainer", range(3), **TRUE))
    assert {row.title for row in found.figures} == {
        "Drop on left",
        "Drop on right",
        "Drop with hot air",
        "Idle",
        "Static RPM",
    }
    assert all(row.flights == 3 for row in found.figures)
    assert found.worst_rpm < 6, found.figures
    worst_before = max(abs(row.before - row.shown) for row in found.figures)
    assert worst_before > 20, "it was another engine"
    for name, value in TRUE.items():
        assert found.constants[name] == pytest.approx(value, rel=0.08), name


def test_what_no_flight_shows_stays_and_is_said():
    only_idle = [[f for f in flight if f["kind"] == "idle_check"] for flight in flights_of("a-trainer", range(1))]
    found = fit_engine(PROFILES["a-trainer"], only_idle)
    assert list(found.constants) == ["throttle_area_idle_cm2"]
    assert any(line.startswith("Drop on left: no flight") for line in found.not_fitted)
    nothing = fit_engine(PROFILES["a-trainer"], [])
    assert (nothing.constants, nothing.figures) == ({}, ())
    assert len(nothing.not_fitted) >= 5


def test_a_governed_propeller_has_no_static_speed_to_be_fitted_and_a_rotor_is_left_alone():
    found = fit_engine(PROFILES["b-tourer"], flights_of("b-tourer", range(1)))
    assert {row.title for row in found.figures} == {"Drop on left", "Drop on right", "Idle"}
    assert found.worst_rpm < 6, found.figures
    assert fit_engine(PROFILES["e-rotor"], []).constants == {}
