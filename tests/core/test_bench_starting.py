"""The starting part of the simulated engine: each thing that can go wrong with a start goes wrong for its own reason."""

import numpy as np
import pytest

from jemmon.core.base.errors import ProfileError, ScriptError
from jemmon.core.bench import Bench, BenchScript, run_script
from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from jemmon.feeds.bench import check_bench
from tests.core.builders import PROFILES, changed
from tests.corpora.start_pilot import StartPilot

RPM = 60 / (2 * np.pi)


def standing(name: str, oat_c: float = 15.0, soak_h: float = 12.0, **levers) -> Bench:
    bench = Bench(PROFILES[name].bench)
    bench.set_air(palt_ft=600, oat_c=oat_c)
    bench.make_cold(soak_h)
    for lever, value in {"master": 1, **levers}.items():
        bench.set_lever(lever, value)
    bench.advance(1.0)
    return bench


def cranked_rpm(bench: Bench, seconds: float = 2.0) -> float:
    bench.set_lever("starter", 1)
    bench.advance(seconds)
    return float(bench.state["speed_rad_s"][0]) * RPM


def test_cold_oil_and_a_flat_battery_slow_the_starter():
    warm, cold = cranked_rpm(standing("a-trainer", 25.0)), cranked_rpm(standing("a-trainer", -20.0))
    assert cold < 0.8 * warm
    flat = standing("a-trainer", 25.0)
    flat.set_fault("weak_battery", 0.9)
    assert cranked_rpm(flat) < 0.8 * warm


def test_an_early_spark_kicks_against_the_starter():
    healthy, kicks = standing("a-trainer", mag="BOTH", mixture=1), standing("a-trainer", mag="BOTH", mixture=1)
    for bench in (healthy, kicks):
        bench.prime(3)
        bench.set_lever("throttle", 0.08)
    kicks.set_fault("no_start_retard", 1.0)
    assert cranked_rpm(healthy, 4.0) > 500
    assert cranked_rpm(kicks, 4.0) < 150


def test_a_starter_that_is_held_grows_hot_and_weak_and_rest_cools_it():
    bench = standing("a-trainer")
    bench.set_fault("hot_starter", 0.9)
    fresh = cranked_rpm(standing("a-trainer"), 10.0)
    bench.set_lever("starter", 1)
    bench.advance(40.0)
    hot = float(bench.state["starter_heat"][0])
    assert float(bench.state["speed_rad_s"][0]) * RPM < fresh
    bench.set_lever("starter", 0)
    bench.advance(120.0)
    assert bench.state["starter_heat"][0] < 0.4 * hot


def test_fuel_boils_in_hot_lines_half_an_hour_after_shutdown_and_a_pump_clears_it():
    shares = {hours: float(standing("b-tourer", 25.0, hours).state["line_vapour"][0]) for hours in (0.05, 0.5, 4.0)}
    assert shares[0.5] > 0.5
    assert max(shares[0.05], shares[4.0]) < 0.3 * shares[0.5]
    bench = standing("b-tourer", 25.0, 0.5, pump=1)
    bench.advance(20.0)
    assert bench.state["line_vapour"][0] < 0.4 * shares[0.5]


def test_a_fire_in_the_intake_is_drawn_in_by_the_drill_and_grows_without_it():
    sizes = {}
    for drill in (True, False):
        bench = standing("a-trainer", mag="BOTH")
        bench.set_lever("throttle", 1.0)  # pumped while it stands: fuel in the throat
        bench.advance(0.5)
        bench.set_lever("throttle", 0.05)
        bench.set_fault("backfire", 1.0)
        bench.set_lever("starter", 1)
        bench.advance(1.0)
        assert bench.state["fire"][0] > 0
        bench.set_lever("throttle", 1.0 if drill else 0.05)
        bench.set_lever("mixture", 0.0 if drill else 1.0)
        bench.set_lever("starter", 1.0 if drill else 0.0)
        bench.advance(4.0)
        sizes[drill] = float(bench.state["fire"][0])
    assert sizes[True] == 0
    assert sizes[False] > 0.3


def test_without_pumping_a_backfire_finds_nothing_to_burn():
    bench = standing("a-trainer", mag="BOTH")
    bench.set_fault("backfire", 1.0)
    bench.set_lever("starter", 1)
    bench.advance(2.0)
    assert bench.state["fire"][0] == 0


def test_turned_through_by_hand_the_oil_is_gone():
    bench = standing("f-radial", pump=1)
    assert bench.state["lock_oil"][0] > 0.5
    bench.act("turn_blades", 9)
    assert bench.state["lock_oil"][0] < 0.1
    fresh = Bench(PROFILES["f-radial"].bench)
    fresh.make_cold(0.3)
    assert fresh.state["lock_oil"][0] < 0.5, "a short stand does not lock it"


def standby_amps(bench: Bench, seconds: float = 1.0) -> float:
    bench.advance(seconds)
    return float(bench.true_readings()[0, bench.channels.index("batt2_amps_a")])


def test_a_standby_battery_carries_its_screens_on_test_and_on_a_dead_bus_until_it_is_empty():
    bench = standing("j-glass", standby=1)
    assert standby_amps(bench) == pytest.approx(0.0, abs=0.01), "armed beside a bus that is alive"
    bench.set_lever("standby_test", 1)
    assert standby_amps(bench, 60) == pytest.approx(-4.2)
    bench.set_lever("standby_test", 0)
    assert 0 < standby_amps(bench) < 0.5, "what the test took is filled again"
    bench.set_lever("master", 0)
    assert standby_amps(bench) == pytest.approx(-4.2)
    assert standby_amps(bench, 6000) == 0, "empty after an hour and a half"
    bench = standing("j-glass", standby=0, master=0)
    assert standby_amps(bench) == 0, "not armed"


def test_two_engines_share_one_bus():
    bench = standing("d-twin")
    before = float(bench.state["bus_v"][0])
    bench.set_lever("e2_starter", 1)
    bench.advance(0.3)
    assert bench.state["bus_v"][0] == bench.state["bus_v"][1] < before - 0.5
    assert bench.state["speed_rad_s"][0] == 0 < bench.state["speed_rad_s"][1]


def test_the_crossfeed_gives_the_first_engines_pressure_to_the_second():
    made = StartPilot(PROFILES["d-twin"])
    made.prepare()
    assert made.start() == 1
    made.lever("pump", 0)
    made.wait(5.0)
    assert made.now.readings["e2_fp_psi"] < 0.4
    made.lever("crossfeed", 1)
    made.wait(3.0)
    assert made.now.readings["e2_fp_psi"] > PROFILES["d-twin"].limit("fuel_pressure_min_psi")


def test_the_governor_holds_its_speed_and_the_lever_moves_it():
    bench = Bench(PROFILES["b-tourer"].bench)
    bench.make_running(2000)
    bench.set_air(palt_ft=600, ias_kt=120)
    bench.set_lever("throttle", 0.7)
    speeds = []
    for lever in (1.0, 0.6):
        bench.set_lever("prop", lever)
        bench.advance(30.0)
        speeds.append(float(bench.state["speed_rad_s"][0]) * RPM)
    rated = PROFILES["b-tourer"].engine["rated_rpm"]
    assert speeds[0] == pytest.approx(rated, abs=40)
    assert 0.7 * rated < speeds[1] < 0.9 * rated


def test_the_rotor_runs_on_when_the_engine_is_throttled():
    bench = Bench(PROFILES["e-rotor"].bench)
    bench.make_running(1500)
    for lever, value in (("throttle", 0.3), ("clutch", 1), ("governor", 1)):
        bench.set_lever(lever, value)
    bench.advance(120.0)
    pct = dict(zip(bench.channels, bench.true_readings()[0], strict=True))
    assert pct["rotor_pct"] == pytest.approx(pct["rpm_pct"], abs=0.5)
    assert pct["rpm_pct"] == pytest.approx(PROFILES["e-rotor"].limit("rpm_pct_max_pct"), abs=1)
    bench.set_lever("governor", 0)
    bench.set_lever("throttle", 0.0)
    bench.advance(2.0)
    pct = dict(zip(bench.channels, bench.true_readings()[0], strict=True))
    assert pct["rotor_pct"] > pct["rpm_pct"] + 5, "the needles part on a throttle chop"


@pytest.mark.parametrize("name", ["b-tourer", "d-twin", "f-radial", "g-vee"])
def test_an_engine_of_a_type_gives_about_its_rated_power(name):
    bench = Bench(PROFILES[name].bench)
    bench.make_running(1500)
    bench.set_lever("throttle", 1.0)
    bench.advance(40.0)
    assert float(bench.state["brake_w"][0]) / 745.7 == pytest.approx(PROFILES[name].engine["rated_power_hp"], rel=0.07)


@pytest.mark.parametrize("name", sorted(PROFILES))
def test_a_seed_gives_the_same_engine_alone_and_in_a_batch(name):
    per = Bench(PROFILES[name].bench).per_aircraft
    alone, batch = Bench(PROFILES[name].bench), Bench(PROFILES[name].bench, engines=3 * per)
    for bench in (alone, batch):
        bench.make_running(1200)
        bench.set_lever("throttle", 0.4)
        bench.advance(6.0)
    assert np.array_equal(alone.true_readings()[0], batch.true_readings()[2])


def test_a_script_drives_a_second_engine_and_its_trace_is_judged_apart():
    steps = [
        {"at": 0, "engine": {"soak_h": 12}},
        {"at": 1, "set": {"master": True, "e2_pump": True, "e2_mixture": 1, "e2_throttle": 0.08, "e2_mag": "BOTH"}},
        {"at": 4, "set": {"e2_prime_s": 4}},
        {"at": 6, "set": {"e2_starter": True}},
        {"at": 9, "set": {"e2_starter": False}},
        {"at": 60, "end": True},
    ]
    run = run_script(BenchScript.from_json(steps), PROFILES["d-twin"].bench)
    found = [f for f in judge(Trace(run.time_s, {**run.shown, **run.levers}), PROFILES["d-twin"]) if f.kind == "start"]
    assert [(f.engine, f.verdict) for f in found] == [(2, "within")]
    assert 6 < found[0].measured["first_fire_s"] < 9


@pytest.mark.parametrize(
    ("steps", "match"),
    [
        ({"e2_throttle": 1}, "no lever 'e2_throttle'"),
        ({"mesh": True}, "no lever 'mesh'"),
        ({"e2_prime_s": 2}, "no action 'e2_prime_s'"),
    ],
)
def test_what_an_aircraft_has_not_is_refused(steps, match):
    script = BenchScript.from_json([{"at": 0, "set": steps}])
    with pytest.raises(ScriptError, match=match):
        run_script(script, PROFILES["a-trainer"].bench)


def test_a_named_position_is_understood_and_another_refused():
    bench = Bench(PROFILES["g-vee"].bench)
    bench.set_lever("mixture", "LEAN")
    bench.advance(0.1)
    assert bench.levers["mixture"][0] == pytest.approx(0.62)
    with pytest.raises(ScriptError, match="CUT-OFF, LEAN, RICH"):
        bench.set_lever("mixture", "SOMEWHERE")


@pytest.mark.parametrize(
    ("change", "match"),
    [
        (lambda b: b["bench"]["levers"].append("sail"), "names 'sail'"),
        (lambda b: b["bench"].update(wings=2), "bench.wings"),
        (lambda b: b["bench"].pop("instruments"), "bench.instruments is missing"),
        (lambda b: b["bench"].update(tanks=9), "tanks must be"),
        (lambda b: b["start"].update(unit="buckets"), "unit"),
    ],
)
def test_a_wrong_bench_or_start_section_is_refused(change, match):
    with pytest.raises(ProfileError, match=match):
        check_bench(changed("b-tourer", change))
