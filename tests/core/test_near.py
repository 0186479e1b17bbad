"""Figures that are offered near the expected one when a run-up is typed: by the type's limits, each a needle's step apart."""

import pytest

from jemmon.core.screen.near import near_figures
from tests.core.builders import PROFILES

A = PROFILES["a-trainer"]


def test_around_the_run_up_speed_the_likeliest_first():
    assert near_figures(A, "mag_check", "base_rpm") == (1800, 1775, 1825, 1750, 1850)
    assert near_figures(A, "carb_heat_check", "base_rpm") == near_figures(A, "mag_check", "base_rpm")


def test_drops_reach_to_the_limit_and_a_step_beyond():
    drops = near_figures(A, "mag_check", "left_rpm")
    assert drops == (-30, -60, -90, -120, -150, -180)
    assert -A.limit("mag_drop_max_rpm") in drops
    assert min(drops) < -A.limit("mag_drop_max_rpm"), "what is beyond is offered like the rest"
    assert near_figures(A, "carb_heat_check", "low_rpm")[0] < 0


def test_sides_that_differ_have_drops_of_their_own():
    mixed = PROFILES["m-mixed"]
    left, right = near_figures(mixed, "mag_check", "left_rpm"), near_figures(mixed, "mag_check", "right_rpm")
    assert left[4] == pytest.approx(-mixed.limit("mag_drop_max_left_rpm"), abs=5)
    assert right[4] == pytest.approx(-mixed.limit("mag_drop_max_right_rpm"), abs=5)


def test_the_idle_reaches_over_both_ends_of_its_band():
    idle = near_figures(A, "idle_check", "idle_rpm")
    assert idle[0] < A.limit("idle_min_rpm") < idle[1]
    assert idle[-2] < A.limit("idle_max_rpm") < idle[-1]


def test_back_on_both_it_is_the_same_figure_first_and_where_nothing_is_expected_nothing_is_offered():
    assert near_figures(A, "mag_check", "restored_rpm")[0] == 0
    assert near_figures(A, "mixture_check", "peak_egt_f") == ()
