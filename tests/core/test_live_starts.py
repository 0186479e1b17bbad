"""What a start leaves behind: tries, warmth, strokes; and how the advice reads it back."""

import random
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from jemmon.core.base.weather import AirReport, describe_air
from jemmon.core.flight.events import Event
from jemmon.core.flight.fold import fold
from jemmon.core.live.starts import follow_starts, start_advice
from jemmon.core.start.advice import FIRED, TOO_LITTLE, TOO_MUCH, recorded_attempts
from jemmon.demo.weather_service import STATIONS, simulated_metar
from tests.core.builders import PROFILES, events, needles

A, B = PROFILES["a-trainer"], PROFILES["b-tourer"]


def follow(profile, state, *samples):
    """Follow samples in order; return the events of the last one, and what is remembered."""
    watches, made = {}, []
    for sample in samples:
        watches, made = follow_starts("f", profile, state, watches, sample)
    return made


def body_of(made, kind: str) -> dict:
    return next(event.body for event in made if event.kind == kind)


def cranking(since_s: float):
    return fold(A, events(("prime_stroke", {"strokes": 3}, 1.0), ("cranking_began", {}, since_s)))


def at(at_s: float, rpm: float, starter: float = 0.0, **more):
    return needles(at_s, levers={"starter": starter, "throttle": 0.08}, rpm=rpm, oat_f=50.0, cht1_f=52.0, **more)


def test_a_starter_let_go_without_a_fire_is_a_try_and_a_short_push_is_none():
    made = follow(A, cranking(10.0), at(14.0, 90, 1.0, volts_v=21.0), at(15.0, 90))
    tried = body_of(made, "start_failed")
    assert (tried["cranking_s"], tried["strokes"], tried["throttle"]) == (5.0, 3.0, 0.08)
    assert tried["metal_c"] == pytest.approx(11.1)
    assert tried["volts_v"] == 21.0
    short = follow(A, cranking(10.0), at(11.0, 90))
    assert "cranking_ended" in [event.kind for event in short]
    assert "start_failed" not in [event.kind for event in short]


def test_a_starter_let_go_of_a_firing_engine_is_no_failed_try():
    fired = [("cranking_began", {}, 10.0), ("engine_fired", {"limit_s": 30.0}, 14.0)]
    made = follow(A, fold(A, events(*fired)), at(15.0, 700))
    assert "start_failed" not in [event.kind for event in made]


def test_first_fire_keeps_what_the_advice_learns_from():
    fired = body_of(follow(A, cranking(10.0), at(11.5, 120, 1.0), at(12.0, 600, 1.0)), "engine_fired")
    assert (fired["strokes"], fired["limit_s"], fired["cranking_s"], fired["attempt"]) == (3.0, 30, 2.0, 1)


def test_the_oil_clock_is_longer_in_the_cold():
    cold = follow(A, fold(A, []), needles(12.0, rpm=600.0, oat_f=0.0))
    assert body_of(cold, "engine_fired")["limit_s"] == 60


def test_blades_are_counted_from_the_speed():
    state, watches = cranking(0.0), {}
    for step in range(41):
        watches, _ = follow_starts("f", A, state, watches, at(step * 0.25, 60.0, 1.0))
    assert watches[1].blades == pytest.approx(20, abs=1), "ten seconds at 60 RPM, two blades a turn"


def test_seconds_of_a_pump_are_prime_only_while_it_primes():
    levers = {"pump": 1.0, "mixture": 1.0, "throttle": 0.15}
    pumping = [needles(t, levers=levers, fp_psi=8.0, rpm=0.0, oat_f=50.0) for t in (0.0, 1.0, 2.0, 3.0)]
    off = needles(4.0, levers={**levers, "pump": 0.0}, fp_psi=1.0, rpm=0.0, oat_f=50.0)
    assert body_of(follow(B, fold(B, []), *pumping, off), "primed")["amount"] == 3.0
    cut_off = [needles(t, levers={**levers, "mixture": 0.0}, fp_psi=8.0, rpm=0.0) for t in (0.0, 1.0, 2.0, 3.0)]
    assert follow(B, fold(B, []), *cut_off, off) == []


def test_an_opened_throttle_of_a_standing_engine_is_prime_and_of_a_running_one_is_not():
    moved = [needles(t, levers={"throttle": x}, rpm=0.0) for t, x in ((0.0, 0.0), (1.0, 0.5), (2.0, 1.0), (3.0, 1.0))]
    assert body_of(follow(A, fold(A, []), *moved), "primed")["amount"] == pytest.approx(1.0)
    runs = fold(A, events(("engine_fired", {"limit_s": 30.0})))
    hot = [needles(t, levers={"throttle": x}, rpm=900.0) for t, x in ((1.0, 0.0), (2.0, 0.5), (3.0, 0.5))]
    assert "primed" not in [event.kind for event in follow(A, runs, *hot)]


def test_tries_are_read_back_by_what_came_after_them():
    failed = ("start_failed", {"strokes": 2.0, "metal_c": 5.0})
    more = [failed, ("engine_fired", {"strokes": 4.0, "metal_c": 5.0, "limit_s": 30})]
    same = [("start_failed", {"strokes": 4.0, "metal_c": 5.0}), ("engine_fired", {"strokes": 4.0, "metal_c": 5.0})]
    alone = [failed]
    old = [("engine_fired", {"limit_s": 30})]
    read = recorded_attempts([more, same, alone, old])
    assert [attempt.outcome for attempt in read] == [TOO_LITTLE, FIRED, TOO_MUCH], (
        "what fired after a clearing tells no amount"
    )


def test_advice_needs_a_temperature_a_table_and_a_standing_engine():
    cold = needles(1.0, oat_f=50.0)
    assert start_advice(A, fold(A, []), cold, []).kind == "cold"
    assert start_advice(A, fold(A, []), None, []) is None
    assert start_advice(B, fold(B, []), cold, []).unit == "seconds"
    assert start_advice(PROFILES["h-geared"], fold(PROFILES["h-geared"], []), cold, []).strokes == 0
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
        assert -3_000 < air.density_altitude_ft < 5_000


def test_a_report_of_the_31st_is_read_on_the_first_of_december(monkeypatch):
    """The month before has no such day: a report was refused then."""

    class FirstOfDecember(datetime):
        @classmethod
        def now(cls, tz=None):
            return datetime(2026, 12, 1, 0, 20, tzinfo=tz)

    monkeypatch.setattr("metar.Metar.datetime.datetime", FirstOfDecember)
    report = AirReport.from_metar("ZZLK 311150Z 29505KT 9999 SCT035 08/07 Q1014")
    assert (report.oat_c, report.dewpoint_c, report.wind_kt) == (8.0, 7.0, 5.0)


def test_the_next_start_of_the_same_flight_counts_its_strokes_anew():
    rows = [("prime_stroke", {"strokes": 3}), ("start_failed", {"strokes": 3.0}), ("engine_fired", {"limit_s": 30.0})]
    assert fold(A, events(*rows)).engine(1).primed == 3
    stopped = fold(A, events(*rows, ("engine_stopped", {}))).engine(1)
    assert (stopped.primed, stopped.tries) == (0, ())
    died = fold(A, events(*rows, ("engine_stopped", {"ran_s": 4.0, "strokes": 3.0, "metal_c": 10.0}))).engine(1)
    assert died.primed == 3, "what caught and died is a try of the same start"
    assert died.tries[-1]["died"]
