"""Recognition and judgement on what the bench flew: random run-ups, leanings, starts, and faults that must show."""

from dataclasses import replace

import numpy as np
import pytest

from jemmon.core.aircraft.profile import Limit
from jemmon.core.bench import BenchScript, run_script
from jemmon.core.judgement.judge import judge
from jemmon.core.screen.record import EngineDrops, FlightLine, drop_sentence
from jemmon.core.trace import Trace
from tests.corpora.leanings import make_leaning, score_leanings
from tests.corpora.run_ups import score_run_ups

RUN_UP = [
    {"at": 0, "engine": {"running": True}},
    {"at": 1, "set": {"throttle": 0.34}},
    {"at": 140, "set": {"mag": "L"}},
    {"at": 147, "set": {"mag": "BOTH"}},
    {"at": 154, "set": {"mag": "R"}},
    {"at": 161, "set": {"mag": "BOTH"}},
    {"at": 180, "end": True},
]


def findings(profile, steps, *kinds, drop=()):
    run = run_script(BenchScript.from_json(steps), profile.bench)
    columns = {k: v for k, v in {**run.shown, **run.levers}.items() if k not in drop}
    return [f.to_json() for f in judge(Trace(run.time_s, columns), profile, kinds)]


@pytest.mark.parametrize(("rate_hz", "levers"), [(1.0, True), (1.0, False), (4.0, True), (4.0, False)])
def test_random_run_ups_are_found_and_measured(profile, rate_hz, levers):
    """A small sample of the corpus that `make bench` judges whole."""
    score = score_run_ups(profile, range(5_000, 5_012), rate_hz, levers)
    assert score.found >= 0.97 * (score.found + score.missed)
    assert score.false <= 1
    assert np.median(np.abs(score.errors_rpm)) < 3.0


@pytest.mark.parametrize(
    ("seed", "rate_hz"),
    [
        # a side that was taken while RPM still came back from the fall before
        (1_210_067, 1.0),
        (1_210_123, 1.0),
        (1_210_123, 4.0),
        # a switch that slipped for a second
        (1_170_111, 4.0),
        (1_300_071, 4.0),
        (1_310_010, 4.0),
    ],
)
def test_a_side_soon_after_another_fall_is_found_and_a_slip_is_no_side(profile, seed, rate_hz):
    """By needles alone."""
    score = score_run_ups(profile, range(seed, seed + 1), rate_hz, False)
    assert (score.missed, score.false) == (0, 0)
    assert np.abs(score.errors_rpm).max() < 13.0


def test_peaks_of_six_kinds_are_found_where_they_are():
    """One small part of the corpus of `make bench`: every kind once with random lag, rate, pull and noise."""
    score = score_leanings(range(7_000, 7_006))
    assert score.leanings == 6
    assert score.egt_within(True, 5) >= 0.9
    assert score.flow_within(True, 0.15) >= 0.9
    assert score.sides_wrong == 0
    assert np.quantile(np.abs(score.offsets_f), 0.8) <= 8
    assert len(score.powers_pct) >= 5
    assert np.quantile(np.abs(score.powers_pct), 0.8) <= 3


def test_lean_of_peak_is_a_look_where_the_type_allows_it_at_less_power_only():
    """The same leanings, each held against a limit well above its power and one well below it."""
    leanings = [made for made in map(make_leaning, range(8_000, 8_008)) if made.side == "lean"]
    assert len(leanings) >= 2
    for leaning in leanings:
        for most, allowed in ((leaning.power_pct + 10, True), (leaning.power_pct - 10, False)):
            limit = Limit(value=most, source="type", note="invented")
            profile = replace(leaning.profile, limits={**leaning.profile.limits, "lean_power_max_pct": limit})
            (lean,) = judge(leaning.trace, profile, ("lean",))
            assert ("book must allow it" in lean.because) != allowed
            assert allowed or lean.verdict == "look"
            assert allowed or lean.source == "type"


def test_manifold_pressure_that_follows_the_mixture_is_the_same_leaning():
    """A turbocharger with an open wastegate and a propeller on its stop: enriching back lowers the pressure by itself."""
    leaning = make_leaning(2_800_169)
    (lean,) = [f.to_json()["measured"] for f in judge(leaning.trace, leaning.profile, ("lean",))]
    assert (lean["side"], leaning.side) == ("rich", "rich")
    assert lean["offset_f"] == pytest.approx(leaning.offset_f, abs=10)


def test_a_record_that_stops_while_the_mixture_moves_is_not_seconds_behind():
    """Cut everywhere in a quick pull, the flow at the end is what the next and last seconds show, not the pull's past."""
    leaning = make_leaning(2_700_417)
    flow = leaning.trace.signal("ff")
    errors = []
    for end in range(40, len(flow) - 3):
        for lean in judge(leaning.trace.part(0, end), leaning.profile, ("lean",)):
            errors.append(lean.measured["ff_gph"] / np.mean(flow[end - 3 : end + 2]) - 1)
    assert len(errors) > 10
    assert abs(np.mean(errors)) < 0.012
    assert np.max(np.abs(errors)) < 0.03


@pytest.mark.parametrize(
    ("fault", "verdict", "words"),
    [
        (None, "within", "within limits"),
        ({"fault": "open_ground_right", "size": 1}, "stop", "right magneto is not going off"),
        ({"fault": "dead_plug_left_2", "size": 1}, "stop", "cylinder 2 fell"),
        ({"fault": "late_timing_right", "size": 1}, "look", "differ"),
    ],
)
def test_each_magneto_fault_gets_its_verdict(profile, fault, verdict, words):
    steps = RUN_UP if fault is None else [RUN_UP[0], {"at": 0, **fault}, *RUN_UP[1:]]
    found = findings(profile, steps, "mag_check")
    assert len(found) == 1
    assert found[0]["verdict"] == verdict
    assert words in found[0]["because"]


def test_one_side_only_is_incomplete(profile):
    found = findings(profile, [s for s in RUN_UP if s.get("set", {}).get("mag") != "R"], "mag_check")
    assert [f["verdict"] for f in found] == ["incomplete"]


def test_without_switch_positions_the_sides_are_first_and_second(profile):
    found = findings(profile, RUN_UP, "mag_check", drop=("mag", "carb_heat", "throttle", "mixture"))
    assert found[0]["measured"]["drop_first_rpm"] == pytest.approx(57, abs=8)
    assert found[0]["verdict"] == "within"


HEAT = [
    {"at": 0, "engine": {"running": True}},
    {"at": 1, "set": {"throttle": 0.34}},
    {"at": 140, "set": {"carb_heat": 1}},
    {"at": 165, "set": {"carb_heat": 0}},
    {"at": 185, "end": True},
]


@pytest.mark.parametrize(
    ("fault", "verdict", "ice"),
    [
        (None, "within", False),
        ({"fault": "stuck_carb_heat", "size": 1}, "stop", False),
        ({"fault": "carburettor_ice", "size": 0.6}, "look", True),
    ],
)
def test_carburettor_heat_is_judged(profile, fault, verdict, ice):
    steps = HEAT if fault is None else [*HEAT[:2], {"at": 120, **fault}, *HEAT[2:]]
    found = findings(profile, steps, "carb_heat_check")
    assert (found[0]["verdict"], found[0]["measured"]["ice"]) == (verdict, ice)


START = [
    {"at": 0, "engine": {"soak_h": 12}},
    {"at": 2, "set": {"master": True, "mixture": 1, "throttle": 0.08, "mag": "BOTH"}},
    {"at": 5, "set": {"prime_strokes": 3}},
    {"at": 8, "set": {"starter": True}},
    {"at": 12, "set": {"starter": False}},
    {"at": 55, "end": True},
]


def test_a_start_gives_first_fire_cranking_and_oil_pressure(profile):
    measured = findings(profile, START, "start")[0]["measured"]
    assert 8 < measured["first_fire_s"] < 12
    assert measured["cranking_s"] == pytest.approx(measured["first_fire_s"] - 8, abs=0.3)
    assert 2 < measured["oil_pressure_s"] < 30


def test_no_oil_pressure_is_stop(profile):
    found = findings(profile, [START[0], {"at": 0, "fault": "no_oil_pressure", "size": 1}, *START[1:]], "start")
    assert found[0]["verdict"] == "stop"
    assert found[0]["measured"]["oil_pressure_s"] is None


@pytest.mark.parametrize(("fault", "verdict"), [(None, "within"), ("low_idle_stop", "look")])
def test_idle_is_judged(profile, fault, verdict):
    steps = [
        {"at": 0, "engine": {"running": True}},
        {"at": 1, "set": {"throttle": 0.34}},
        {"at": 60, "set": {"throttle": 0}, "ramp_s": 2},
        {"at": 75, "set": {"throttle": 0.12}, "ramp_s": 1},
        {"at": 90, "end": True},
    ]
    if fault:
        steps.insert(1, {"at": 0, "fault": fault, "size": 1})
    assert [f["verdict"] for f in findings(profile, steps, "idle_check")] == [verdict]


def test_a_seed_gives_the_same_engine_alone_and_in_a_batch(profile):
    from jemmon.core.bench import Bench, Sensors

    alone, batch = Bench(profile.bench), Bench(profile.bench, engines=7)
    shown = []
    for bench, seeds in ((alone, [3]), (batch, range(7))):
        bench.make_running(1500)
        bench.set_lever("throttle", 0.4, ramp_s=3)
        sensors = Sensors(bench, list(seeds))
        for _ in range(20):
            bench.advance(0.25)
            last = sensors.read(0.25)
        shown.append(last)
    assert np.array_equal(shown[0][0], shown[1][3])


@pytest.mark.parametrize(
    ("drops", "words"),
    [
        (
            [("ZZ-A", 96.0), ("ZZ-B", 50.0), ("ZZ-A", None), ("ZZ-A", 74.0)],
            "ZZ-A: left drop 96 RPM, up 22 in 2 flights.",
        ),
        ([("ZZ-A", 60.0), ("ZZ-A", 70.0)], "down 10"),
        ([("ZZ-A", 60.0)], "No two flights"),
        ([], "No two flights"),
    ],
)
def test_the_sentence_over_flights_takes_one_aircraft_and_known_drops(drops, words):
    assert words in drop_sentence([line(*row) for row in drops])


def line(registration: str, drop_rpm: float | None, is_practice: bool = False) -> FlightLine:
    """A flight of a list, by its left drop."""
    texts = dict.fromkeys(("id", "aircraft", "pilot", "title", "source", "started_utc", "note"), "")
    return FlightLine(
        **texts,
        registration=registration,
        kind="practice" if is_practice else "by_hand",
        is_practice=is_practice,
        length_s=0.0,
        hidden=False,
        ended=True,
        findings=1,
        verdict=None,
        drop_left_rpm=drop_rpm,
        drop_right_rpm=None,
        drops=(),
    )


def test_the_sentence_names_the_drop_that_rose_most_and_its_engine():
    def twin(left: float, right: float) -> FlightLine:
        drops = (
            EngineDrops(engine="Left engine", first_rpm=80.0, second_rpm=left),
            EngineDrops(engine="Right engine", first_rpm=right, second_rpm=None),
            EngineDrops(engine="Left engine", first_rpm=10 * left, second_rpm=None, sides_known=False),
        )
        return replace(line("ZZ-T", 1.0), drops=drops)

    assert drop_sentence([twin(70, 95), line("ZZ-A", 60.0), twin(72, 80), line("ZZ-A", 50.0)]) == (
        "ZZ-T, right engine: left drop 95 RPM, up 15 in 2 flights."
    )
    assert "ZZ-T, left engine: right drop 90 RPM" in drop_sentence([twin(90, 80), twin(72, 80)])


def test_the_sentence_never_mixes_practice_with_real_flights():
    mixed = [line("ZZ-A", 200.0, True), line("ZZ-A", 60.0), line("ZZ-A", 70.0)]
    assert "left drop 60 RPM, down 10 in 2 flights" in drop_sentence(mixed)
    assert "left drop 200 RPM, up 50" in drop_sentence([line("ZZ-A", 200.0, True), line("ZZ-A", 150.0, True)])


def cold_start(warm_s: float) -> list[dict]:
    return [
        {"at": 0, "air": {"oat_c": 5, "palt_ft": 600}},
        {"at": 0, "engine": {"soak_h": 12}},
        {"at": 2, "set": {"master": True, "mixture": 1.0, "throttle": 0.08, "prime_strokes": 4}},
        {"at": 5, "set": {"mag": "BOTH", "starter": True}},
        {"at": 7, "set": {"starter": False}},
        {"at": 20, "set": {"throttle": 0.1}, "ramp_s": 2},
        {"at": 20 + warm_s, "set": {"throttle": 0.34}, "ramp_s": 3},
        {"at": 60 + warm_s, "end": True},
    ]


@pytest.mark.parametrize(("warm_s", "verdict"), [(60, "look"), (900, "within")])
def test_a_warm_up_is_timed_and_the_oil_held_against_its_gate(profile, warm_s, verdict):
    found = findings(profile, cold_start(warm_s), "warm_up")
    assert [f["verdict"] for f in found] == [verdict]
    assert found[0]["measured"]["seconds_s"] == pytest.approx(warm_s + 16, abs=3)


def test_no_high_power_is_no_warm_up_and_no_oil_reading_is_unknown(profile):
    assert findings(profile, [*cold_start(60)[:-2], {"at": 90, "end": True}], "warm_up") == []
    assert findings(profile, cold_start(60), "warm_up", drop=("oil_t_f",))[0]["verdict"] == "unknown"
