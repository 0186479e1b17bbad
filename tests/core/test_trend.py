"""Where a figure is going over flights: told before the limit, silent on a steady engine, silent on few flights."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jemmon.core.base.figures import plain
from jemmon.core.judgement.registry import checks
from jemmon.core.judgement.trend import figure_trend, latest_figure
from tests.core.builders import PROFILES
from tests.corpora.trends import false_alarm, told_before_limit

TRAINER = PROFILES["a-trainer"]


def test_wear_is_told_before_its_limit_and_steady_engines_are_left_alone():
    """Growth of 2 RPM a flight in noise of 8. A small sample: `make bench` holds 300 each to 97 % and 1 %."""
    assert np.mean([told_before_limit(seed) for seed in range(30_000, 30_080)]) >= 0.95
    assert np.mean([false_alarm(seed) for seed in range(40_000, 40_040)]) < 0.03


@given(st.lists(st.floats(-1e4, 1e4), max_size=4))
def test_fewer_than_five_flights_say_nothing(values):
    assert figure_trend(values, 150.0, "Drop", "rpm").message is None


@given(st.lists(st.integers(30, 140), min_size=5, max_size=40), st.booleans())
@settings(max_examples=60, deadline=None)
def test_a_mirrored_figure_with_a_lowest_limit_says_the_same(values, shifted):
    high = figure_trend(values, 150.0, "Figure", "rpm")
    low = figure_trend([-v for v in values], -150.0, "Figure", "rpm", is_low=True)
    assert (high.flights_left, high.jumped) == (low.flights_left, low.jumped)


def test_the_sentence_names_slope_level_limit_and_flights():
    trend = figure_trend([100 + 4 * n for n in range(10)], 150.0, "Left magneto drop", "rpm")
    assert trend.slope_per_flight == pytest.approx(4)
    assert trend.flights_left == 4
    assert "grows by 4.0 RPM a flight, now about 136" in plain(trend.message)
    falling = figure_trend([700 - 8 * n for n in range(10)], 600.0, "Idle", "rpm", is_low=True)
    assert "Idle falls" in falling.message


def test_what_is_not_sure_is_said_to_be_so():
    few = figure_trend([55.0, 62, 72, 77, 87], 150.0, "Left magneto drop", "rpm")
    assert few.message is None
    assert "about +7.8 RPM a flight, which may still be chance" in plain(few.summary)
    assert "five are needed" in figure_trend([55.0, 62], 150.0, "Left magneto drop", "rpm").summary


def test_one_wild_figure_moves_neither_slope_nor_level():
    values = [90.0, 92, 91, 89, 90, 300, 91, 90, 92, 89, 91]
    trend = figure_trend(values, 150.0, "Drop", "rpm")
    assert trend.message is None
    assert trend.level == pytest.approx(90.5, abs=2)


def test_a_jump_that_stays_is_told_and_one_that_does_not_is_not():
    steady = [80.0, 82, 79, 81, 80, 83, 78, 80]
    assert "jumped" in figure_trend([*steady, 110, 111, 109], 150.0, "Drop", "rpm").message
    assert figure_trend([*steady, 110, 111, 81], 150.0, "Drop", "rpm").message is None
    better = figure_trend([*steady, 50, 51, 49], 150.0, "Drop", "rpm")
    assert better.jumped
    assert better.message is None, "a figure that became better needs no mechanic"


def test_drops_are_brought_to_the_run_up_speed_and_the_last_check_counts():
    def check(base: float, drop: float) -> dict:
        return {"kind": "mag_check", "measured": {"base_rpm": base, "drop_left_rpm": drop, "drop_right_rpm": None}}

    found = figures_of([check(1800, 60), check(2000, 100)])
    assert found == {"drop_left": pytest.approx(90)}
    second = {**check(1800, 60), "engine": 2}
    assert figures_of([second]) == {}
    assert figures_of([second, check(1800, 70)], engine=2) == {"drop_left": pytest.approx(60)}
    idle = {"kind": "idle_check", "measured": {"idle_rpm": 650.0}}
    assert figures_of([idle]) == {"idle": 650.0}


def figures_of(findings: list[dict], engine: int = 1) -> dict[str, float]:
    """Every figure that the checks follow, of one flight of the trainer (run-up at 1,800 RPM)."""
    every = {
        figure.id: latest_figure(check.kind, figure, findings, TRAINER, engine)
        for check in checks().values()
        for figure in check.trends
    }
    return {name: value for name, value in every.items() if value is not None}
