"""The simulated engine fitted to flights of another one: an engine whose constants are known is flown, judged, and found again."""

import pytest

from jemmon.core.bench import Bench, BenchScript, run_script
from jemmon.core.drills.own_engine import OwnFlight, fit_engine
from jemmon.core.drills.own_flights import find_cruise
from jemmon.core.judgement.judge import judge
from jemmon.core.start.advice import book_strokes, liked_share
from jemmon.core.start.attempts import FIRED, TOO_LITTLE, Attempt
from jemmon.core.trace import Trace
from tests.bench_table.faults import run_up
from tests.core.builders import PROFILES

TRUE = {
    "one_plug_left_work": 0.89,
    "one_plug_right_work": 0.94,
    "carb_heat_rise_k": 48.0,
    "throttle_area_idle_cm2": 0.33,
}


def with_both_engines(step: dict) -> dict:
    """The same done with the second engine's levers too."""
    levers = step.get("set", {})
    return {**step, "set": {**levers, **{f"e2_{name}": value for name, value in levers.items()}}} if levers else step


def flights_of(kind: str, seeds: range, **changed) -> list[OwnFlight]:
    section = {**PROFILES[kind].bench, **changed}
    steps = [*run_up(kind, None)[:-1], {"at": 240, "set": {"throttle": 1.0}, "ramp_s": 3}]
    steps += [{"at": 275, "set": {"throttle": 0.1}, "ramp_s": 2}, {"at": 290, "end": True}]
    if len(PROFILES[kind].engines) > 1:
        steps = [with_both_engines(step) for step in steps]
    script = BenchScript.from_json(steps)
    runs = [run_script(script, section, 4.0, seed) for seed in seeds]
    traces = [Trace(run.time_s, {**run.shown, **run.levers}) for run in runs]
    return [OwnFlight([finding.published() for finding in judge(trace, PROFILES[kind])]) for trace in traces]


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
    flights = flights_of("a-trainer", range(1))
    only_idle = [OwnFlight([f for f in flight.findings if f["kind"] == "idle_check"]) for flight in flights]
    found = fit_engine(PROFILES["a-trainer"], only_idle)
    assert list(found.constants) == ["throttle_area_idle_cm2"]
    assert any(line.startswith("Drop on left: no flight") for line in found.not_fitted)
    nothing = fit_engine(PROFILES["a-trainer"], [])
    assert (nothing.constants, nothing.figures) == ({}, ())
    assert len(nothing.not_fitted) >= 8


def test_a_governed_propeller_has_no_static_speed_to_be_fitted_and_a_rotor_is_left_alone():
    found = fit_engine(PROFILES["b-tourer"], flights_of("b-tourer", range(1)))
    assert {row.title for row in found.figures} == {"Drop on left", "Drop on right", "Idle"}
    assert found.worst_rpm < 6, found.figures
    assert fit_engine(PROFILES["e-rotor"], []).constants == {}


def flown(kind: str, *steps: dict, **changed) -> Trace:
    """An invented flight of an engine with other constants, as its needles show it."""
    run = run_script(BenchScript.from_json(list(steps)), {**PROFILES[kind].bench, **changed}, 2.0, 5)
    return Trace(run.time_s, {**run.shown, **run.levers})


def in_cruise(kind: str, seconds: float = 420, **changed) -> Trace:
    air = {"palt_ft": 4000, "oat_c": 4, "ias_kt": 95}
    levers = {"throttle": 0.62, "mixture": 0.72, "prop": 0.6, "alternator": True}
    has = {name: value for name, value in levers.items() if name in PROFILES[kind].bench["levers"]}
    steps = [{"at": 0, "air": air}, {"at": 0, "engine": {"running": True}}, {"at": 1, "set": has, "ramp_s": 3}]
    return flown(kind, *steps, {"at": seconds, "end": True}, **changed)


@pytest.mark.parametrize("kind", ["a-trainer", "b-tourer", "l-field"])
def test_how_warm_it_runs_in_cruise_is_found_again(kind):
    bench = PROFILES[kind].bench
    true = {
        "head_cooling_w_k": bench["head_cooling_w_k"] * 0.85,
        "egt_probe_bias": [bias + 30 - 8 * place for place, bias in enumerate(bench["egt_probe_bias"])],
    }
    found = fit_engine(PROFILES[kind], [OwnFlight([], in_cruise(kind, **true))])
    levels = {row.title: row for row in found.figures}
    heads, exhausts = levels["CHT in cruise, mean of all"], levels["EGT in cruise, mean of all"]
    assert abs(heads.before - heads.shown) > 15, "it was another engine"
    assert abs(heads.left) < 3
    assert abs(exhausts.left) < 3
    assert found.constants["head_cooling_w_k"] == pytest.approx(true["head_cooling_w_k"], rel=0.05)
    assert found.constants["egt_probe_bias"] == pytest.approx(true["egt_probe_bias"], abs=6)


@pytest.mark.parametrize(("seconds", "is_found"), [(115, False), (160, True)])
def test_a_cruise_is_held_for_two_minutes_and_more(seconds, is_found):
    assert (find_cruise(in_cruise("a-trainer", seconds)) is not None) is is_found


def test_how_long_it_takes_to_warm_is_found_again():
    true = {"oil_heat_capacity_j_k": PROFILES["a-trainer"].bench["oil_heat_capacity_j_k"] * 1.3}
    steps = [
        {"at": 0, "engine": {"running": True, "oil_t_f": 45}},
        {"at": 1, "set": {"throttle": 0.15}},
        {"at": 500, "end": True},
    ]
    told = {"kind": "warm_up", "start_s": 2.0, "end_s": 480.0, "measured": {}}
    found = fit_engine(PROFILES["a-trainer"], [OwnFlight([told], flown("a-trainer", *steps, **true))])
    (oil,) = [row for row in found.figures if row.title.startswith("Oil")]
    assert oil.before - oil.shown > 4, "it was another engine"
    assert abs(oil.left) < 1.5
    assert found.constants["oil_heat_capacity_j_k"] == pytest.approx(true["oil_heat_capacity_j_k"], rel=0.12)


def starts(kind: str, needs: float) -> list[Attempt]:
    """Six starts of an engine that needs so many times its book: the book's prime is too little, its own fires."""
    profile, made = PROFILES[kind], []
    for metal_c in (-2.0, 5.0, 12.0):
        book = book_strokes(profile, metal_c)
        made.append(Attempt(metal_c=metal_c, strokes=book, outcome=TOO_LITTLE))
        made.append(Attempt(metal_c=metal_c, strokes=needs * book, outcome=FIRED))
    return made


def test_the_prime_that_it_likes_is_that_of_its_starts():
    history = starts("a-trainer", 1.7)
    found = fit_engine(PROFILES["a-trainer"], [], history)
    assert found.constants == {"prime_need_factor": pytest.approx(1.6, abs=0.25)}
    assert liked_share(PROFILES["a-trainer"], history[:2]) is None, "two starts may be weather"
    assert fit_engine(PROFILES["a-trainer"], [], history[:2]).constants == {}


def test_each_engine_of_a_twin_is_fitted_by_itself():
    changed = {"second": {"one_plug_left_work": 0.88}}
    found = fit_engine(PROFILES["d-twin"], flights_of("d-twin", range(2), **changed))
    first, second = found.constants["one_plug_left_work"], found.constants["second"]["one_plug_left_work"]
    assert second == pytest.approx(0.88, abs=0.01)
    assert first == pytest.approx(PROFILES["d-twin"].bench["one_plug_left_work"], abs=0.01)
    fitted = Bench({**PROFILES["d-twin"].bench, **found.constants}).parameters["one_plug_left_work"]
    assert list(fitted) == [first, second], "and flown so"


def test_a_mixture_with_positions_is_leaned_like_the_flight_and_its_probes_are_found_again():
    biases = [bias + 40 for bias in PROFILES["g-vee"].bench["egt_probe_bias"]]
    found = fit_engine(PROFILES["g-vee"], [OwnFlight([], in_cruise("g-vee", egt_probe_bias=biases))])
    assert found.constants["egt_probe_bias"] == pytest.approx(biases, abs=8)


def test_a_cruise_that_the_simulated_engine_cannot_fly_is_not_fitted_to():
    flight = in_cruise("a-trainer")
    thirsty = Trace(flight.time_s, {**flight.columns, "ff_gph": flight.columns["ff_gph"] * 3})
    found = fit_engine(PROFILES["a-trainer"], [OwnFlight([], thirsty)])
    assert found.constants == {}
    assert any(line.startswith("EGT and CHT in cruise") for line in found.not_fitted)
