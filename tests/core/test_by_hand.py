"""A flight without data: needles that are read out and typed count as long as they are fresh, and say their age."""

import pytest

from jemmon.core.base.errors import EventError
from jemmon.core.flight.fold import check_pilot_event, fold
from jemmon.core.live.by_hand import FAST_S, SLOW_S, gate_minutes_by_hand, sample_by_hand
from jemmon.core.live.following import follow_read
from jemmon.core.screen.frame import describe
from tests.core.builders import PROFILES, events

A = PROFILES["a-trainer"]
WARM_UP = "warm_up_taxi"
RUNS = ("engine_fired", {"limit_s": 30.0})


def read(needle: str, value: float) -> tuple:
    return ("needle_read", {"needle": needle, "value": value})


def test_a_needle_counts_while_it_is_fresh_and_keeps_its_figure_with_its_age():
    state = fold(A, events(RUNS, ("phase_entered", {"phase": WARM_UP}), read("oil_t_f", 80.0), read("rpm", 1000.0)))
    at_s = state.read["rpm"].at_s
    assert sample_by_hand(state, at_s + FAST_S).readings["rpm"] == 1000.0
    assert set(sample_by_hand(state, at_s + FAST_S + 1).readings) == {"oil_t_f"}
    assert sample_by_hand(state, at_s + SLOW_S + 1) is None
    frame = describe(A, state, None, at_s + 3_000.0)
    shown = {one.id: one for one in frame.instruments}
    assert shown["oil_t_f"].value == 80.0
    assert shown["oil_t_f"].age_s >= 3_000
    assert all(one.age_s is None for one in frame.instruments if one.id not in state.read)


def test_the_minutes_to_a_gate_come_from_two_readings():
    """Straight through two points: 20 °F in five minutes is 4 °F a minute (arithmetic)."""
    lowest = A.limit("oil_t_runup_min_f")
    rows = [RUNS, ("phase_entered", {"phase": WARM_UP}), read("oil_t_f", lowest - 40), read("oil_t_f", lowest - 20)]
    state = fold(A, events(*rows, step_s=300.0))
    at_s = state.read["oil_t_f"].at_s
    now = sample_by_hand(state, at_s)
    assert gate_minutes_by_hand(A, state, now)["runup"] == 5
    later = sample_by_hand(state, at_s + 120)
    assert gate_minutes_by_hand(A, state, later)["runup"] == 3
    once = fold(A, events(*rows[:3], step_s=300.0))
    assert gate_minutes_by_hand(A, once, sample_by_hand(once, once.read["oil_t_f"].at_s)) == {}


@pytest.mark.parametrize(("more_psi", "verdict"), [(-0.1, "running"), (0.0, "seen")])
def test_oil_pressure_that_is_read_stops_its_clock(more_psi, verdict):
    psi = A.limit("oil_pressure_min_psi") + more_psi
    state = fold(A, events(RUNS, read("oil_p_psi", psi), step_s=5.0))
    assert state.oil_clock.verdict == verdict


def test_an_item_is_judged_by_what_was_read():
    item = next(i for p in A.phases for one in p.lists for i in one.items if i.id == "oil_warm")
    phase = next(p.id for p in A.phases for one in p.lists for i in one.items if i.id == "oil_warm")
    asks = item.reading
    rows = [RUNS, ("phase_entered", {"phase": phase})]
    for value, expected in ((asks.lowest - 1, False), (asks.lowest + 1, True)):
        state = fold(A, events(*rows, read(asks.signal, value)))
        assert asks.holds(sample_by_hand(state, state.read[asks.signal].at_s).known[asks.signal]) is expected


def test_a_figure_beyond_its_limit_is_said_as_by_a_wire():
    state = fold(A, events(RUNS, read("oil_t_f", A.limit("oil_t_max_f") + 5)))
    frame = describe(A, state, sample_by_hand(state, 3.0), 3.0)
    assert next(one.state for one in frame.instruments if one.id == "oil_t_f") == "high"


@pytest.mark.parametrize("wrong", [read("mag", 1.0), read("nothing", 1.0), read("e2_rpm", 900.0), read("rpm", -1.0)])
def test_a_needle_that_there_is_not_or_that_no_sensor_shows_is_refused(wrong):
    with pytest.raises(EventError):
        check_pilot_event(A, fold(A, []), *wrong)


def test_lists_see_what_was_read_and_the_second_engine_has_its_own():
    twin = PROFILES["d-twin"]
    state = fold(twin, events(read("e2_oil_t_f", 150.0)))
    now = sample_by_hand(state, 1.0)
    assert now.of_engine(2).readings["oil_t_f"] == 150.0
    assert "oil_t_f" not in now.of_engine(1).readings
    assert isinstance(follow_read("f", twin, state, now), list)
