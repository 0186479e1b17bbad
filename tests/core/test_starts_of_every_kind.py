"""Starts of every shipped aircraft on its simulated engine, by its own procedure: each ends in the right words."""

import pytest

from jemmon.core.bench import Bench
from jemmon.core.judgement.judge import judge
from jemmon.core.screen.instruments import instruments
from tests.core.builders import PROFILES
from tests.corpora.start_pilot import StartPilot

ALL = sorted(PROFILES)
PRIMED = [name for name in ALL if PROFILES[name].start.unit != "none"]


def pilot(name: str, *args, **more) -> StartPilot:
    made = StartPilot(PROFILES[name], *args, **more)
    made.prepare()
    return made


def start_finding(made: StartPilot, profile) -> dict:
    return next(f.to_json() for f in judge(made.trace(), profile) if f.kind == "start")


@pytest.mark.parametrize("oat_c", [-10.0, 15.0, 28.0])
@pytest.mark.parametrize("name", ALL)
def test_a_cold_start_succeeds_by_the_screen(name, oat_c):
    made = pilot(name, oat_c)
    assert made.advice.kind == "cold"
    assert made.start() == 1
    made.wait(60.0)
    assert made.said[0] in ("CRANKING", "ENERGISING")
    assert "OIL PRESSURE ✓" in made.said
    assert "STOP THE ENGINE" not in made.said
    finding = start_finding(made, PROFILES[name])
    assert finding["measured"]["oil_pressure_s"] <= finding["limits"]["oil_pressure_time_s"]
    told = {event.kind: event for event in made.events}
    assert abs(finding["measured"]["first_fire_s"] - told["engine_fired"].at_s) <= made.dt
    assert abs(finding["measured"]["oil_pressure_s"] - told["oil_pressure_seen"].body["seconds"]) <= made.dt
    if name != "h-geared":  # its second alternator waits for a burst of speed
        assert finding["verdict"] == "within"


@pytest.mark.parametrize("name", ALL)
def test_a_hot_start_is_seen_as_one_and_succeeds_without_prime(name):
    made = pilot(name, 20.0, 0.5)
    assert made.advice.kind == "hot"
    assert made.advice.strokes == 0
    assert made.start(2) in (1, 2)


@pytest.mark.parametrize("name", PRIMED)
def test_a_flooded_engine_is_named_and_recovered(name):
    made = pilot(name, 15.0)
    made.prime(3 * made.advice.strokes)
    made.energise()
    assert not made.crank()
    made.rest()
    assert made.advice.kind == "flooded"
    assert "throttle" in made.advice.if_not
    assert made.start(3) > 0


def test_a_computers_engine_gives_no_fuel_with_the_throttle_open():
    fuel = []
    for throttle in (0.0, 1.0):
        made = pilot("h-geared", 15.0)
        made.lever("throttle", throttle)
        made.lever("starter", 1)
        made.wait(1.0)
        fuel.append(float(made.bench.state["film_kg"][0]))
    assert fuel[0] > 0
    assert fuel[1] == 0
    assert "computer cuts the fuel" in PROFILES["h-geared"].start.flooded


@pytest.mark.parametrize("name", PRIMED)
def test_too_little_prime_is_named_and_a_little_more_fires_it(name):
    made = pilot(name, 5.0)
    made.prime(1.0 if made.advice.strokes > 2 else 0.5)
    made.energise()
    assert not made.crank()
    assert made.said[-1] == "NO FIRE"
    made.rest()
    assert made.advice.kind == "cold"
    assert "under-primed" in made.advice.if_not
    assert made.start(3) > 0


@pytest.mark.parametrize("name", ALL)
def test_a_weak_battery_is_named_and_no_more_prime_is_asked_for(name):
    made = pilot(name, 5.0)
    if made.has("ground_power"):
        made.lever("ground_power", 0)
    made.bench.set_fault("weak_battery", 0.97)
    made.wait(1.0)
    if made.profile.start.energise_s:
        made.lever("energise", 1)
        made.wait(8.0)
        made.lever("energise", 0)
    assert not made.crank()
    assert "weak battery" in made.advice.if_not
    assert "never hand-turn" in made.advice.if_not


@pytest.mark.parametrize("name", ALL)
def test_no_oil_pressure_ends_in_stop(name):
    made = pilot(name, 15.0)
    made.bench.set_fault("no_oil_pressure", 1.0, made.engine - 1)
    assert made.start(2) > 0
    limit_s = made.state.engine(made.engine).oil_clock.limit_s
    made.wait(limit_s)
    assert made.said[-1] == "STOP THE ENGINE"
    assert made.state.engine(made.engine).oil_clock.verdict == "missing"
    finding = start_finding(made, PROFILES[name])
    assert finding["verdict"] == "stop"
    assert "STOP THE ENGINE" in finding["next"]


@pytest.mark.parametrize("name", ALL)
def test_a_dead_alternator_is_named(name):
    made = pilot(name, 15.0)
    for row in range(made.bench.per_aircraft):
        made.bench.set_fault("dead_alternator", 1.0, row)
    if made.has("ground_power"):
        made.bench.set_lever("ground_power", 0)
    made.wait(1.0)
    assert made.start(2) > 0
    made.warm_up(45.0)
    said = " ".join(made.shown().warnings)
    assert "does not charge" in said
    finding = start_finding(made, PROFILES[name])
    assert finding["verdict"] == "look"
    assert "does not charge" in finding["because"]


def test_an_alternator_that_is_not_yet_switched_on_is_not_called_dead():
    """Some lists switch it on after the start; the item that asks for it stays open."""
    made = pilot("a-trainer", 15.0)
    made.lever("alternator", 0)
    assert made.start(2) > 0
    made.lever("throttle", 0.25)
    made.wait(45.0)
    assert "not_charging" not in made.kinds
    made.wait(45.0)
    assert "not_charging" in made.kinds, "it was forgotten"


def test_a_dead_alternator_is_named_soon_after_it_was_switched_on():
    made = pilot("a-trainer", 15.0)
    made.lever("alternator", 0)
    assert made.start(2) > 0
    made.lever("throttle", 0.25)
    made.wait(30.0)
    made.bench.set_fault("dead_alternator", 1.0, 0)
    made.lever("alternator", 1)
    made.wait(9.0)
    assert "not_charging" in made.kinds


def test_a_bus_that_a_hungry_battery_holds_down_is_charged_where_the_ammeter_shows_it():
    """One of two alternators at its most, after a cold start: 13.3 V of 13.5, and the battery takes all that is left."""
    made = pilot("h-geared", -12.0)
    assert made.start(3) > 0
    made.lever("throttle", 0.15)
    lowest_v = 99.0
    for _ in range(50):
        made.wait(1.0)
        lowest_v = min(lowest_v, made.now.readings["volts_v"])
    assert lowest_v < made.profile.limit("volts_charging_min_v")
    assert "not_charging" not in made.kinds


@pytest.mark.parametrize("name", ["d-twin", "f-radial"])
def test_the_second_engine_of_a_twin_is_started_and_judged_by_itself(name):
    made = pilot(name, 15.0)
    order = [number for number, _ in PROFILES[name].engines]
    assert made.start() == 1
    made.wait(20.0)
    made.engine = order[1]
    made.prepare()
    assert made.advice.kind == "cold", "the other engine is still cold"
    assert made.start() == 1
    made.wait(20.0)
    starts = [f for f in judge(made.trace(), PROFILES[name]) if f.kind == "start"]
    fired = {f.engine: f.measured["first_fire_s"] for f in starts}
    assert fired[order[0]] < fired[order[1]]
    assert all(made.state.engine(n).oil_clock.verdict == "seen" for n in (1, 2))


def test_a_second_alternator_that_did_not_cut_in_is_called_within_a_minute():
    for burst, called in ((True, False), (False, True)):
        made = pilot("h-geared", 15.0)
        assert made.start() == 1
        made.lever("throttle", 0.3 if burst else 0.1, ramp_s=1.0)
        made.wait(6.0)
        made.lever("throttle", 0.12)
        fired_s = made.state.engine(made.engine).fired_s
        while made.at_s < fired_s + 60:
            made.wait(made.dt)
        assert ("alternator_2_missing" in made.kinds) == called
        assert ("second alternator" in " ".join(made.shown().warnings)) == called


def test_a_second_alternator_that_is_dead_is_called_though_its_speed_was_reached():
    made = pilot("h-geared", 15.0)
    made.bench.set_fault("dead_alternator_2", 1.0)
    assert made.start() == 1
    made.lever("throttle", 0.3, ramp_s=1.0)
    made.wait(50.0)
    assert made.state.engine(made.engine).alternator_2 is False
    assert start_finding(made, PROFILES["h-geared"])["verdict"] == "look"


@pytest.mark.parametrize("rate_hz", [1.0, 4.0])
@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("drops_out", [False, True])
def test_a_missing_oil_pressure_is_called_after_the_limit_and_one_sample_at_the_most(rate_hz, seed, drops_out):
    made = pilot("a-trainer", 15.0, seed=seed, rate_hz=rate_hz)
    made.bench.set_fault("no_oil_pressure", 1.0)
    assert made.start() == 1
    if drops_out:
        made.drops_out = {"oil_p_psi"}
        made.wait(1.0)
        assert "No oil-pressure reading" in made.shown().large.line
    while "oil_pressure_missing" not in made.kinds:
        made.wait(made.dt)
        assert made.at_s < 120
    fired_s = next(e.at_s for e in made.events if e.kind == "engine_fired")
    called_s = next(e.at_s for e in made.events if e.kind == "oil_pressure_missing")
    limit_s = PROFILES["a-trainer"].limit("oil_pressure_time_s")
    assert limit_s < called_s - fired_s <= limit_s + made.dt + 1e-6


def test_a_hydraulic_lock_is_not_forced():
    made = StartPilot(PROFILES["f-radial"], 15.0)
    made.lever("master", 1)
    made.lever("pump", 1)
    made.energise()
    assert not made.crank(0.3)
    assert "hydraulic lock" in made.advice.if_not
    assert "never turn it backwards" in made.advice.if_not


def test_an_inertia_starter_that_is_meshed_too_early_does_not_carry_it_over():
    turned = []
    for seconds in (2.0, 14.0):
        bench = Bench(PROFILES["f-radial"].bench)
        bench.act("turn_blades", 12)
        bench.set_lever("master", 1)
        bench.set_lever("energise", 1)
        bench.advance(seconds)
        bench.set_lever("energise", 0)
        bench.set_lever("mesh", 1)
        bench.advance(4.0)
        turned.append(float(bench.state["speed_rad_s"][0]))
    assert turned[0] < 0.3 * turned[1]


def test_a_starter_held_past_its_limit_is_told_to_be_let_go():
    made = pilot("b-tourer", 15.0)
    made.lever("starter", 1)
    made.wait(PROFILES["b-tourer"].limit("starter_on_max_s") + 1)
    assert made.shown().large.say == "LET GO"
    assert made.shown().starter.over
    made.lever("starter", 0)
    made.wait(1.0)
    starter = made.shown().starter
    assert 50 < starter.rest_left_s <= starter.rest_s == made.profile.limit("starter_rest_s")


def test_a_starter_that_draws_on_the_bus_is_no_dead_alternator_of_the_engine_that_runs():
    made = pilot("f-radial", -12.0)
    order = [number for number, _ in PROFILES["f-radial"].engines]
    assert made.start() > 0
    made.lever("ground_power", 0)
    made.lever("throttle", 0.2)  # as fast as an alternator wants
    made.wait(21.0)
    assert made.state.engine(order[0]).charging
    made.engine = order[1]
    made.lever("energise", 1)
    lowest_v, needles = 99.0, set()
    for _ in range(100):
        made.wait(0.25)
        (bus,) = [one for one in instruments(made.profile, made.state, made.now, made.at_s) if one.id == "volts_v"]
        needles.add(bus.state)
        lowest_v = min(lowest_v, bus.value)
    assert lowest_v < made.profile.limit("volts_min_v"), "it draws as much as it does"
    assert needles == {"ok"}
    assert "not_charging" not in made.kinds
    starts = [f for f in judge(made.trace(), made.profile) if f.kind == "start"]
    assert not any("does not charge" in finding.because for finding in starts)
