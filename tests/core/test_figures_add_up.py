"""What is shown beside each other adds up: a pilot who subtracts two figures of the screen finds the third."""

import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jemmon.core.flight.fold import fold
from jemmon.core.judgement.magneto import judge_magnetos
from jemmon.core.live.workings import magneto_working
from jemmon.core.power.plan import ClimbRow, fuel_budget
from jemmon.core.screen.cards import summarise
from jemmon.core.screen.findings import shown_finding
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, events
from tests.core.test_just_inside import LEAST, side

A, ROTOR, TWIN = (PROFILES[name] for name in ("a-trainer", "e-rotor", "d-twin"))
DROPS = st.floats(LEAST + 1, LEAST + 40)


@settings(max_examples=60, deadline=None)
@given(DROPS, DROPS)
def test_the_difference_is_that_of_the_drops_as_they_are_read_out(left, right):
    finding = judge_magnetos(A, [side("left", left), side("right", right, start_s=10.0)])
    one, other, apart = (float(figure) for figure in re.findall(r"\d+(?:\.\d+)?", finding.because))
    assert abs(one - other) == apart
    shown = {row.title: row.value for row in shown_finding(A, finding.to_json()).figures}
    assert abs(round(shown["Left drop"]) - round(shown["Right drop"])) == shown["Difference"]


def test_a_tachometer_in_percent_adds_up_to_its_tenths():
    full = float(ROTOR.engine["rpm_at_100_pct"])
    sides = [side("left", 0.0126 * full), side("right", 0.0174 * full, start_s=10.0)]  # 1.3 and 1.7, 0.48 apart
    assert "1.3 %, R 1.7 %, difference 0.4 %" in judge_magnetos(ROTOR, sides).because


@settings(max_examples=40, deadline=None)
@given(st.floats(1700, 1900), st.floats(20, 150))
def test_a_drop_as_it_is_made_is_that_of_the_speeds_beside_it(base, drop):
    time_s = np.arange(0.0, 30.0, 0.25)
    rows = [("phase_entered", {"phase": "run_up"}), ("put_back_away", {"put_back": "one_magneto"}, 20.0)]
    rpm = np.where(time_s > 20.0, base - drop, base)
    working = magneto_working(Trace(time_s, {"rpm": rpm}), A, fold(A, events(*rows)))
    assert working.base_rpm - working.now_rpm == working.drop_rpm


@pytest.mark.parametrize(("left", "right", "gap"), [(640.4, 645.6, 6), (640.6, 645.4, 4)])
def test_two_engines_side_by_side_add_up(left, right, gap):
    rows = [
        ("typed_reading", {"check": "idle_check", "engine": number, "idle_rpm": rpm})
        for number, rpm in ((1, left), (2, right))
    ]
    card = summarise(TWIN, fold(TWIN, events(("phase_entered", {"phase": "run_up"}), *rows)))
    (idle,) = [row for row in card.twin if row.title == "Idle"]
    assert (idle.left, idle.right, idle.gap) == (round(left), round(right), gap)


@settings(max_examples=40, deadline=None)
@given(st.floats(5.0, 50.0), st.floats(5.0, 14.0), st.floats(0.0, 4.0))
def test_what_the_fuel_is_for_adds_up_to_what_is_on_board(fuel_gal, flow_gph, climb_gal):
    climb = (ClimbRow(palt_ft=5000, rate_fpm=500, minutes=8.0, fuel_gal=climb_gal, distance_nm=10.0),)
    budget = fuel_budget(A, fuel_gal, climb, flow_gph)
    parts = budget.taxi_gal + budget.climb_gal + budget.reserve_gal + budget.cruise_gal
    assert parts == pytest.approx(budget.on_board_gal, abs=1e-6)
