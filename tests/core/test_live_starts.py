"""What a start leaves behind: tries, warmth, strokes; and how the advice reads it back."""

import random
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from jemmon.core.flight import Event, fold
from jemmon.core.judgement.start_advice import FIRED, TOO_LITTLE, TOO_MUCH, recorded_attempts
from jemmon.core.live import follow_needles, start_advice
from jemmon.core.weather import AirReport, describe_air
from jemmon.demo.weather_service import STATIONS, simulated_metar
from tests.core.builders import PROFILES, events, needles

A, B = PROFILES["a-trainer"], PROFILES["b-tourer"]


def kinds(made: list[Event]) -> list[str]:
    return [event.kind for event in made]


def cranking(since_s: float) -> list[Event]:
    return events(("prime_stroke", {"strokes": 3}, 1.0), ("put_back_away", {"put_back": "starter"}, since_s))


def let_go(at_s: float, rpm: float):
    return needles(at_s, levers={"starter": 0.0, "mag": "BOTH"}, rpm=rpm, oat_f=50.0, cht1_f=52.0)


def test_a_starter_let_go_without_a_fire_is_a_try_and_a_short_push_is_none():
    made = follow_needles("f", A, fold(A, cranking(10.0)), let_go(15.0, 90.0))
    tried = next(event for event in made if event.kind == "start_failed")
    assert tried.body == {"cranking_s": 5.0, "metal_c": pytest.approx(11.1), "strokes": 3.0}
    assert "start_failed" not in kinds(follow_needles("f", A, fold(A, cranking(10.0)), let_go(11.0, 90.0)))


def test_a_starter_let_go_of_a_firing_engine_is_no_failed_try():
    state = fold(A, [*cranking(10.0), Event(id="x", kind="engine_fired", at_s=14.0, body={"limit_s": 30.0}, seq=3)])
    assert "start_failed" not in kinds(follow_needles("f", A, state, let_go(15.0, 700.0)))


def test_first_fire_keeps_what_the_advice_learns_from():
    fired = follow_needles(
        "f", A, fold(A, cranking(10.0)), needles(12.0, levers={"starter": 1.0}, rpm=600.0, oat_f=41.0)
    )
    body = next(event.body for event in fired if event.kind == "engine_fired")
    assert (body["strokes"], body["metal_c"], body["limit_s"]) == (3.0, 5.0, 30)


def test_the_oil_clock_is_longer_in_the_cold():
    cold = follow_needles("f", A, fold(A, []), needles(12.0, rpm=600.0, oat_f=0.0))
    assert next(e.body["limit_s"] for e in cold if e.kind == "engine_fired") == 60


def test_tries_are_read_back_by_what_came_after_them():
    failed = ("start_failed", {"strokes": 2.0, "metal_c": 5.0})
    more = [failed, ("engine_fired", {"strokes": 4.0, "metal_c": 5.0, "limit_s": 30})]
    same = [("start_failed", {"strokes": 4.0, "metal_c": 5.0}), ("engine_fired", {"strokes": 4.0, "metal_c": 5.0})]
    alone = [failed]
    old = [("engine_fired", {"limit_s": 30})]
    read = recorded_attempts([more, same, alone, old])
    assert [attempt.outcome for attempt in read] == [TOO_LITTLE, FIRED, TOO_MUCH, FIRED]


def test_advice_needs_a_temperature_a_table_and_a_standing_engine():
    cold = needles(1.0, oat_f=50.0)
    assert start_advice(A, fold(A, []), cold, []).kind == "cold"
    assert start_advice(A, fold(A, []), None, []) is None
    assert start_advice(B, fold(B, []), cold, []) is None, "a profile without a prime table gets no strokes"
    assert start_advice(A, fold(A, events(("engine_fired", {"limit_s": 30.0}))), cold, []) is None
    typed = fold(A, events(("weather", {"oat_c": -12.0})))
    assert start_advice(A, typed, None, []).strokes > start_advice(A, fold(A, []), cold, []).strokes


def test_failed_tries_of_this_start_ask_for_more():
    tried = Event(id="t", kind="start_failed", at_s=20.0, body={"strokes": 3.0, "metal_c": 10.0}, seq=1)
    again = replace(tried, id="u", seq=2)
    before = start_advice(A, fold(A, []), needles(1.0, oat_f=50.0), [])
    after = start_advice(A, fold(A, [tried, again]), needles(30.0, oat_f=50.0), [])
    assert after.strokes > before.strokes
    assert "Rest the starter" in after.if_not


def test_every_hour_of_the_simulated_weather_can_be_read_and_used():
    dice, day = random.Random(3), datetime(2026, 1, 1, tzinfo=UTC)
    for _ in range(300):
        station = dice.choice(sorted(STATIONS))
        report = AirReport.from_metar(simulated_metar(station, day + timedelta(hours=dice.randrange(9_000))))
        air = describe_air({"oat_c": report.oat_c, "altimeter_inhg": report.altimeter_inhg, "elevation_ft": 400})
        assert -3_000 < air["density_altitude_ft"] < 5_000


def test_the_next_start_of_the_same_flight_counts_its_strokes_anew():
    rows = [("prime_stroke", {"strokes": 3}), ("start_failed", {"strokes": 3.0}), ("engine_fired", {"limit_s": 30.0})]
    assert fold(A, events(*rows)).strokes == 3
    stopped = fold(A, events(*rows, ("engine_stopped", {})))
    assert (stopped.strokes, stopped.tries) == (0, ())
