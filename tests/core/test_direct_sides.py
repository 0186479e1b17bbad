"""A key that goes from one magneto straight to the other, without both between: every drop counts from the level on both.

The engine is a first-order lag (common practice: 0.25 to 1 s for blades of wood to metal), its exhausts rise on one magneto.
"""

import numpy as np
import pytest
from scipy.signal import lfilter

from jemmon.core.judgement.exhausts import egt_changes
from jemmon.core.judgement.falls import levels
from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from jemmon.core.trace.dips import Span
from tests.core.builders import PROFILES

TRAINER = PROFILES["a-trainer"]
_STEP_S = 0.05


def lagged(values: np.ndarray, lag_s: float) -> np.ndarray:
    share = 1 - np.exp(-_STEP_S / lag_s)
    return np.asarray(lfilter([share], [1, share - 1], values - values[0]) + values[0])


def tried(sides, row_s=0.25, seed=0, egt_f=(70.0, 70.0)) -> Trace:
    """Return a run-up at 1,700 RPM in which `sides` (switch, seconds, drop [RPM]) follow one another at once, from 30 s on."""
    r, t = np.random.default_rng(seed), np.arange(0, 70, _STEP_S)
    switch, drop, rise = np.full(len(t), "BOTH", dtype=object), np.zeros(len(t)), np.zeros(len(t))
    at_s = 30.0
    for number, (side, seconds, drop_rpm) in enumerate(sides):
        there = (t >= at_s) & (t < at_s + seconds)
        switch[there], drop[there] = side, drop_rpm
        rise[there] = 0.0 if side == "BOTH" else egt_f[number % 2]
        at_s += seconds
    rows = slice(None, None, round(row_s / _STEP_S))
    rpm = 1700 - lagged(drop, 0.5)
    shown = {"rpm": np.round(rpm[rows] + r.normal(0, 3, len(t[rows]))), "mag": switch[rows]}
    for cylinder in (1, 2, 3, 4):
        shown[f"egt{cylinder}_f"] = np.round(1000 + lagged(rise, 2.0)[rows] + r.normal(0, 1, len(t[rows])))
    return Trace(t[rows], shown)


def check_of(trace: Trace):
    (found,) = judge(trace, TRAINER, ("mag_check",))
    return found


@pytest.mark.parametrize("row_s", [0.25, 1.0])
@pytest.mark.parametrize(("first_rpm", "second_rpm"), [(110, 60), (60, 110), (80, 80), (40, 120)])
def test_both_drops_are_counted_from_the_level_on_both(row_s, first_rpm, second_rpm):
    for seed in range(4):
        found = check_of(tried([("R", 5.0, first_rpm), ("L", 5.0, second_rpm)], row_s, seed))
        measured = found.measured
        assert measured["drop_right_rpm"] == pytest.approx(first_rpm, abs=9)
        assert measured["drop_left_rpm"] == pytest.approx(second_rpm, abs=9)
        assert measured["difference_rpm"] == pytest.approx(abs(first_rpm - second_rpm), abs=14)
        assert measured["restored_rpm"] == pytest.approx(1700, abs=8)


def test_two_good_sides_are_within_and_one_that_is_too_low_is_told():
    assert check_of(tried([("L", 5, 90), ("R", 5, 85)])).verdict == "within"
    assert check_of(tried([("L", 5, 90), ("R", 5, 170)])).verdict == "stop"


def test_a_side_that_drops_nothing_is_told_though_the_needle_rises_to_it():
    """Right, then left: the needle goes up again by the whole of the right drop. That the right magneto is not grounded shows."""
    found = check_of(tried([("R", 5, 90), ("L", 5, 0)]))
    assert found.verdict == "stop"
    assert found.because.startswith("No drop on left")


def test_a_first_side_too_short_to_measure_is_not_what_the_next_is_counted_from():
    found = check_of(tried([("R", 1.0, 90), ("L", 5.0, 60)]))
    assert found.measured["drop_left_rpm"] == pytest.approx(60, abs=9)
    assert found.because == "Only one side was checked (left)."


@pytest.mark.parametrize("between_s", [0.0, 0.5, 5.0])
def test_a_moment_on_both_between_them_changes_nothing(between_s):
    found = check_of(tried([("R", 5, 110), ("BOTH", between_s, 0), ("L", 5, 60)]))
    assert found.measured["drop_right_rpm"] == pytest.approx(110, abs=9)
    assert found.measured["drop_left_rpm"] == pytest.approx(60, abs=9)


def test_exhausts_are_counted_from_both_too():
    rises = check_of(tried([("R", 6, 80), ("L", 6, 80)])).measured["egt_rise_f"]
    assert all(rise == pytest.approx(66, abs=6) for side in ("left", "right") for rise in rises[side].values())


def test_two_sides_that_no_switch_shows_may_look_like_one_and_the_pilot_is_told_so():
    trace = tried([("R", 5, 80), ("L", 5, 80)])
    alone = Trace(trace.time_s, {name: values for name, values in trace.columns.items() if name != "mag"})
    found = check_of(alone)
    assert found.verdict == "incomplete"
    assert found.next == "Check the other side too, back on both before it: two sides at once look like one."


@pytest.mark.parametrize("seed", range(6))
def test_a_second_side_soon_after_the_first_is_counted_from_the_level_on_both(seed):
    """Rows a second apart, no switch: three seconds after the first side its needle and its exhausts are still on their way back,
    and those rows are no level."""
    trace = tried([("L", 4, 75), ("BOTH", 3, 0), ("R", 6, 38)], row_s=1.0, seed=seed)
    alone = Trace(trace.time_s, {name: values for name, values in trace.columns.items() if name != "mag"})
    measured = check_of(alone).measured
    assert measured["drop_first_rpm"] == pytest.approx(75, abs=14)
    assert measured["drop_second_rpm"] == pytest.approx(38, abs=14)


def test_rows_on_their_way_back_from_the_fall_before_are_no_level():
    t = np.arange(0, 20, 1.0)
    rpm = np.array([1700.0] * 8 + [1610, 1600, 1600, 1650, 1690, 1700, 1660, 1650, 1650, 1650, 1700, 1700])
    # nothing says that a fall came before: the highest that was held
    assert levels(t, rpm, Span(14, 17)) == (1700.0, 1650.0)
    assert levels(t, rpm, Span(14, 17), ended_s=10.0) == (1690.0, 1650.0)


def test_an_exhaust_that_was_on_its_way_back_has_risen_by_more_than_its_figures_say():
    """A probe of 3.2 s, 80 °F on one magneto for 5 s, 3 s on both, 5 s on the other: half a lag's rest is left when it begins."""
    t = np.arange(0, 60, 1.0)
    fine = np.arange(0, 60, _STEP_S)
    alone = ((fine >= 30) & (fine < 35)) | ((fine >= 38) & (fine < 43))
    egt = np.interp(t, fine, 1000 + lagged(80.0 * alone, 3.2))
    egt += np.arange(len(t)) % 2 * 0.5  # a probe that never moves is broken
    trace = Trace(t, {"rpm": np.full(len(t), 1700.0), "egt1_f": egt})
    plain = egt_changes(trace, Span(38, 42))[1]
    own = egt_changes(trace, Span(38, 42), of_its_own=True, ended_s=35.0)[1]
    assert own == pytest.approx(80 * (1 - np.exp(-4 / 3.2)), abs=12)
    assert own - plain > 10
