"""Each fault of the simulated engine: what its needle does, which check names it, which engines have it, instruments that lie."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jemmon.core.base.errors import ScriptError
from jemmon.core.bench import Bench, Sensors
from jemmon.core.bench.bench import SensorTable
from jemmon.core.bench.faults import BY_NAME, ROWS, Place, fault_names, faults_of
from jemmon.core.judgement.judge import judge
from jemmon.core.judgement.registry import checks
from jemmon.core.trace import Trace
from tests.bench_table.faults import SIGNATURES, Signature, cruise, flown, run_up
from tests.core.builders import PROFILES

A, B = PROFILES["a-trainer"], PROFILES["b-tourer"]
EXACT = SensorTable(noise={}, rounding={}, lag_s={})


def test_every_fault_has_a_signature_and_none_is_of_no_fault():
    assert sorted(one.fault for one in SIGNATURES) == sorted(BY_NAME)
    assert all(bool(one.named) != bool(one.cannot) for one in SIGNATURES)


@pytest.mark.parametrize("one", SIGNATURES, ids=lambda one: one.fault)
def test_its_needle_moves_and_its_check_names_it(one: Signature):
    assert one.lowest <= one.moves() <= one.highest
    assert not one.named or one.named in one.findings() & checks().keys()


@pytest.mark.parametrize("kind", ["a-trainer", "b-tourer", "h-geared"])
@pytest.mark.parametrize("how", [run_up, cruise])
def test_whatever_is_wrong_a_record_is_judged(kind, how):
    """No fault, however bad, makes the judgement fail: engines that stop, flows of nothing, probes that are gone."""
    for row in faults_of(PROFILES[kind].bench)[::5]:
        columns = dict(flown(kind, how, f"{row.name}_1" if row.by_cylinder else row.name))
        judge(Trace(columns.pop("time_s"), columns), PROFILES[kind])


def test_an_engine_can_have_only_what_it_has():
    trainer, rotor, geared = (
        {row.name for row in faults_of(PROFILES[kind].bench)} for kind in ("a-trainer", "e-rotor", "h-geared")
    )
    assert "carburettor_ice" in trainer - geared
    assert "stuck_governor" not in trainer | rotor
    assert "stuck_freewheel" in rotor - trainer
    assert "dead_alternator_2" in geared - trainer
    assert "slow_feather" in {row.name for row in faults_of(PROFILES["d-twin"].bench)} - trainer


@pytest.mark.parametrize(("name", "size"), [("dead_plug_left_9", 1.0), ("gremlin", 0.5), ("late_timing_left", 1.2)])
def test_what_is_no_fault_of_this_engine_is_refused(name, size):
    with pytest.raises(ScriptError, match="fault"):
        Bench(A.bench).set_fault(name, size)


@given(st.sampled_from([name for name in fault_names(4) if name != "weak_battery"]), st.floats(0, 1))
def test_a_fault_of_size_nothing_is_none(name, seed):
    """Set and taken away again, the engine goes on as one that never had it."""
    healthy, mended = Bench(A.bench), Bench(A.bench)
    for bench in (healthy, mended):
        bench.make_running(1500)
        bench.set_lever("throttle", 0.2 + 0.5 * seed)
    mended.set_fault(name, 1.0)
    mended.set_fault(name, 0.0)
    for bench in (healthy, mended):
        bench.advance(2)
    assert np.array_equal(healthy.true_readings(), mended.true_readings())


def shown(fault: str, size: float, seconds: float = 20.0, moves: bool = False) -> tuple[Bench, np.ndarray, np.ndarray]:
    """Return (bench, what exact instruments show last, what is true) with a fault of an instrument."""
    bench = Bench(A.bench)
    bench.make_running(1800)
    bench.set_lever("throttle", 0.34)
    bench.advance(60)
    sensors = Sensors(bench, [3], EXACT)
    bench.set_fault(fault, size)
    row = sensors.read(0.5)[0]
    if moves:
        bench.set_lever("throttle", 0.6)
    for _ in range(round(seconds / 0.5)):
        bench.advance(0.5)
        row = sensors.read(0.5)[0]
    return bench, row, bench.true_readings()[0]


@pytest.mark.parametrize(
    ("fault", "channel", "expected"),
    [
        ("dead_egt_probe_2", "egt2_f", lambda true, outside: outside),
        ("drifting_cht_probe_3", "cht3_f", lambda true, outside: true - 10 * 20.5 / 60),
        ("tachometer_error", "rpm", lambda true, outside: 0.96 * true),
        ("flow_bias", "ff_gph", lambda true, outside: 1.1 * true),
        ("map_line_leak", "map_inhg", lambda true, outside: true + 0.25 * (29.92 - true)),
    ],
)
def test_a_faulty_instrument_shows_what_it_shows_and_the_engine_knows_nothing_of_it(fault, channel, expected):
    bench, row, true = shown(fault, 1.0)
    column = bench.channels.index(channel)
    assert row[column] == pytest.approx(expected(true[column], 59.0), rel=0.002, abs=0.2)
    others = np.delete(np.arange(len(true)), column)
    assert np.allclose(row[others], true[others], atol=0.05)


def test_a_stuck_probe_stays_where_it_was_and_one_of_half_the_size_does_not():
    stuck, half = shown("stuck_egt_probe_1", 0.6, moves=True), shown("stuck_egt_probe_1", 0.4, moves=True)
    column = stuck[0].channels.index("egt1_f")
    assert abs(stuck[1][column] - stuck[2][column]) > 20
    assert half[1][column] == pytest.approx(half[2][column], abs=0.1)


def test_a_tachometer_in_steps_shows_whole_steps_only():
    bench, row, _ = shown("tachometer_steps", 1.0)
    assert row[bench.channels.index("rpm")] % 50 == pytest.approx(0, abs=1e-6)


def test_a_second_engines_instrument_lies_alone():
    bench = Bench(PROFILES["d-twin"].bench)
    bench.make_running(1500)
    bench.advance(5)
    bench.set_fault("e2_tachometer_error", 1.0)
    row, true = Sensors(bench, [1], EXACT).read(1.0)[0], bench.true_readings()[0]
    first, second = bench.channels.index("rpm"), bench.channels.index("e2_rpm")
    assert row[first] == pytest.approx(true[first], abs=0.1)
    assert row[second] == pytest.approx(0.96 * true[second], rel=0.001)


@pytest.mark.parametrize(("size", "goes"), [(0.7, True), (0.9, False)])
def test_lead_leaves_in_minutes_of_heat_unless_it_bridges_the_plug(size, goes):
    bench = Bench(A.bench)
    bench.set_air(palt_ft=2000, ias_kt=95)
    bench.make_running(2300)
    bench.set_lever("throttle", 0.7)
    bench.set_lever("mixture", 0.8)
    bench.set_fault("leaded_plug_left_2", size)
    before = float(bench.state["leaded_left"][0][1])
    bench.advance(600)
    left = float(bench.state["leaded_left"][0][1])
    assert left < 0.6 * before if goes else left == before


def test_oil_that_is_lost_in_time_does_no_harm_and_too_late_seizes_for_good():
    for back_after_s, seizes in ((15, False), (200, True)):
        bench = Bench(A.bench)
        bench.set_air(palt_ft=2000, ias_kt=90)
        bench.make_running(2300)
        bench.set_lever("throttle", 0.6)
        bench.advance(30)
        bench.set_fault("no_oil_pressure", 1.0)
        bench.advance(back_after_s)
        bench.set_fault("no_oil_pressure", 0.0)
        bench.advance(120)
        assert (bench.state["speed_rad_s"][0] == 0) == seizes
        assert seizes or bench.state["bearing_wear"][0] == 0


def test_faults_of_every_place_are_there_and_each_says_what_it_does():
    assert {row.place for row in ROWS} == set(Place)
    assert all(row.says.endswith(".") for row in ROWS)
