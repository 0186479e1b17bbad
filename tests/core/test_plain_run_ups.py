"""Run-ups of a third making: levels, steps and lags, no physics of ours. What each mend of the recognition is for stands alone."""

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES
from tests.corpora.plain import score_plain
from tests.strange.plain import lagged

STEP_S = 0.05  # of `lagged`


def steps(falls: list[tuple[float, float, float, float]], row_s: float, base_rpm: float = 1900.0, **more) -> Trace:
    """Return a run-up whose RPM falls (from, to, RPM, lag) and comes back, in rows so far apart; `more` are columns as functions of
    the time and of how far RPM has fallen."""
    t = np.arange(0, 130, STEP_S)
    fall = sum(lagged(np.where((t >= a) & (t < b), rpm, 0.0), lag) for a, b, rpm, lag in falls)
    rows = np.arange(0, len(t), round(row_s / STEP_S))
    noise = np.random.default_rng(7).normal(0, 2.0, len(rows))
    columns = {"rpm": np.round((base_rpm - fall)[rows] + noise)}
    return Trace(t[rows], columns | {name: np.round(of(t, fall)[rows], 1) for name, of in more.items()})


def told(trace: Trace, aircraft: str = "b-tourer") -> list[tuple[str, dict]]:
    kinds = ("mag_check", "carb_heat_check", "prop_cycle", "unexplained_drop")
    return [(f.kind, f.measured) for f in judge(trace, PROFILES[aircraft], kinds, tell_gaps=False)]


def test_run_ups_of_a_third_making_are_told_by_their_names():
    score = score_plain(range(20_000, 20_080))
    assert score.silent == 0
    assert score.found / score.done >= 0.8, score.notes
    assert score.wrong <= 4, score.notes
    assert score.within(12) >= 0.95
    assert score.covered() >= 0.83


SIDES = [(70.0, 76.0, 80.0, 0.5), (81.0, 87.0, 95.0, 0.5)]
QUICK = [(40.0, 42.0, 420.0, 0.8), (47.0, 49.0, 420.0, 0.8)]


@pytest.mark.parametrize("row_s", [0.25, 1.0])
def test_a_cycle_that_is_over_in_two_seconds_is_one(row_s):
    found = dict(told(steps(QUICK + SIDES, row_s)))
    assert found["prop_cycle"]["count"] == 2
    assert found["mag_check"]["drop_first_rpm"] == pytest.approx(80, abs=6)


@pytest.mark.parametrize(("rpm", "is_cycle"), [(120.0, False), (300.0, True)])
def test_a_short_fall_is_a_cycle_where_no_slip_of_a_switch_costs_as_much(rpm, is_cycle):
    short = [(40.0, 42.0, rpm, 0.4), (47.0, 49.0, rpm, 0.4)]
    found = dict(told(steps(short + SIDES, 1.0)))
    assert ("prop_cycle" in found) == is_cycle
    assert "unexplained_drop" not in found
    assert found["mag_check"]["drop_second_rpm"] == pytest.approx(95, abs=8)


def test_cycles_after_the_magnetos_are_cycles_however_many():
    late = [(a + 60, b + 60, rpm, lag) for a, b, rpm, lag in (*QUICK, (54.0, 56.0, 420.0, 0.8))]
    found = dict(told(steps([(30.0, 36.0, 80.0, 0.5), (41.0, 47.0, 95.0, 0.5), *late], 0.5)))
    assert found["prop_cycle"]["count"] == 3
    assert "unexplained_drop" not in found


@pytest.mark.parametrize("second_rpm", [150.0, 250.0])
def test_a_cycle_that_is_pulled_less_far_than_the_first_is_one_too(second_rpm):
    cycles = [(40.0, 42.5, 420.0, 0.8), (47.0, 50.0, second_rpm, 0.8), (55.0, 57.5, 350.0, 0.8)]
    found = dict(told(steps(cycles + SIDES, 0.25)))
    assert found["prop_cycle"]["count"] == 3
    assert "unexplained_drop" not in found


def test_of_more_falls_than_are_weighed_at_once_none_is_weighed_alone():
    """Three cycles, hot air, both sides twice: the eighth was parted from the others, and told as something else."""
    cycles = [(40.0, 42.5, 420.0, 0.8), (47.0, 49.5, 400.0, 0.8), (54.0, 56.5, 410.0, 0.8)]
    sides = [(82.0, 87.0, 80.0, 0.5), (91.0, 96.0, 95.0, 0.5), (100.0, 105.0, 80.0, 0.5), (109.0, 114.0, 95.0, 0.5)]
    found = told(steps([*cycles, (61.0, 70.0, 75.0, 1.6), *sides], 0.25), "d-twin")
    assert sorted(kind for kind, _ in found) == ["carb_heat_check", "mag_check", "prop_cycle"]
    assert len(dict(found)["mag_check"]["repeats"]) == 2


def test_a_slip_of_the_switch_is_still_no_check():
    found = told(steps([(40.0, 41.0, 140.0, 0.4), *SIDES], 0.25))
    assert [kind for kind, _ in found] == ["mag_check"]
    assert found[0][1]["drop_second_rpm"] == pytest.approx(95, abs=6)


@pytest.mark.parametrize("share", [0.15, 0.5, 1.0])
def test_manifold_pressure_that_rises_by_any_share_hides_no_cycle(share):
    risen = steps(QUICK + SIDES, 0.5, map_inhg=lambda _, fall: 17 * (1 + share * fall / (1900 - fall)))
    found = dict(told(risen))
    assert found["prop_cycle"]["count"] == 2
    assert found["mag_check"]["drop_second_rpm"] == pytest.approx(95, abs=8)


def test_manifold_pressure_that_falls_with_rpm_is_a_throttle():
    closed = steps(QUICK + SIDES, 0.5, map_inhg=lambda t, fall: 17 - np.where(t < 60, fall / 420 * 4, 0.0))
    assert "prop_cycle" not in dict(told(closed))


@pytest.mark.parametrize("gap_s", [3.0, 3.5, 4.0, 5.0])
def test_rows_two_seconds_apart_and_sides_close_together_are_read_in_full(gap_s):
    first = (50.0, 57.0, 100.0, 0.4)
    second = (57.0 + gap_s, 63.0 + gap_s, 150.0, 0.4)
    measured = dict(told(steps([first, second], 2.0), "j-glass"))["mag_check"]
    assert measured["drop_first_rpm"] == pytest.approx(100, abs=8)
    assert measured["drop_second_rpm"] == pytest.approx(150, abs=8)
