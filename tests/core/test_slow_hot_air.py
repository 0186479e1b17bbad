"""Hot air that comes and goes slowly: by half of its fall RPM has long left the level before, and the rows
next to its deepest part show a share of it.

Air ducts warm in 1 to 15 s (common practice, as tests/strange has them); the fall is an exponential behind the engine's own lag.
"""

import numpy as np
import pytest

from jemmon.core.judgement.carburettor_heat import Heated, judge_heat
from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from jemmon.core.trace.dips import find_dips
from tests.core.builders import PROFILES
from tests.strange.hands import run_up

A = PROFILES["a-trainer"]
BASE_RPM, ENGINE_S = 1_700.0, 0.4
ON_S, OFF_S, END_S = 60.0, 72.0, 110.0


def settled(since_s, lag_s):
    """Return the share of a first-order change that has come (rows,)."""
    return 1 - np.exp(-np.maximum(since_s, 0) / lag_s)


def hot_air(t, air_s, depth_rpm):
    """Return RPM (rows,) of an application of heat, as far as it came until it was shut off [RPM]."""
    warm = settled(t - ON_S, air_s)
    reached = settled(np.array([OFF_S - ON_S]), air_s)[0]
    warm = np.where(t > OFF_S, reached * np.exp(-np.maximum(t - OFF_S, 0) / air_s), warm)
    return BASE_RPM - depth_rpm / reached * warm


def sides(t, rpm, drops_rpm=(80.0, 70.0)):
    """Return RPM with two magneto sides before, each of 7 s."""
    for at_s, drop_rpm in zip((20.0, 40.0), drops_rpm, strict=True):
        rpm = rpm - drop_rpm * (settled(t - at_s, ENGINE_S) - settled(t - at_s - 7.0, ENGINE_S))
    return rpm


def heats(t, rpm):
    return [f for f in judge(Trace(t, {"rpm": rpm}), A, tell_gaps=False) if f.kind == "carb_heat_check"]


@pytest.mark.parametrize("air_s", [1.0, 2.0, 3.5, 5.0, 8.0])
@pytest.mark.parametrize("row_s", [0.25, 1.0])
def test_the_drop_of_hot_air_is_what_it_came_to_however_slowly(air_s, row_s):
    """Rows a second were 50 RPM off where the air came in 2 to 4 s: the level before was not among the rows fitted."""
    t = np.arange(0, END_S, row_s)
    rpm = sides(t, hot_air(t, air_s, 75.0)) + np.random.default_rng(int(air_s * 10)).normal(0, 1.0, t.size)
    (told,) = heats(t, rpm)
    assert told.measured["drop_rpm"] == pytest.approx(75.0, abs=4.0)
    assert told.measured["base_rpm"] == pytest.approx(BASE_RPM, abs=2.0)
    assert told.measured["drop_plus_minus_rpm"] < 6.0
    assert told.verdict == "within"


@pytest.mark.parametrize("touched_s", [6.0, 9.0])
def test_a_throttle_that_was_touched_before_slow_hot_air_is_no_part_of_its_fall(touched_s):
    """It was 40 RPM further open until some seconds before."""
    t = np.arange(0, END_S, 0.25)
    rpm = hot_air(t, 4.0, 60.0) + 40.0 * (1 - settled(t - (ON_S - touched_s), ENGINE_S))
    (told,) = heats(t, sides(t, rpm) + np.random.default_rng(4).normal(0, 1.0, t.size))
    assert told.measured["drop_rpm"] == pytest.approx(60.0, abs=6.0)


@pytest.mark.parametrize(("touched_s", "row_s"), [(4.5, 0.25), (6.0, 0.25), (6.0, 0.5)])
def test_a_throttle_that_was_touched_is_no_hot_air_that_came_slowly(touched_s, row_s):
    """A little less throttle (13 RPM) some seconds before the heat was taken for the beginning of its fall."""
    t, off = np.arange(0, END_S, row_s), []
    lever = ((t >= ON_S) & (t < OFF_S)).astype(float)
    for seed in range(8):
        rpm = hot_air(t, 0.6, 80.0) + 13.0 * (1 - settled(t - (ON_S - touched_s), ENGINE_S))
        rpm += np.random.default_rng(seed).normal(0, 3.0, t.size)
        (told,) = judge(Trace(t, {"rpm": rpm, "carb_heat": lever}), A, ("carb_heat_check",), tell_gaps=False)
        off.append(told.measured["base_rpm"] - BASE_RPM)
    assert abs(np.mean(off)) < 2.5


@pytest.mark.parametrize("air_s", [4.0, 6.0, 9.0])
def test_a_fall_that_comes_and_goes_slowly_is_one_fall_and_held_to_be_long(air_s):
    t = np.arange(0, END_S, 0.25)
    (dip,) = find_dips(t, hot_air(t, air_s, 60.0) + np.random.default_rng(1).normal(0, 1.0, t.size))
    assert t[dip.first] < ON_S + 5.0
    assert t[dip.last] > OFF_S + 0.5


def test_a_side_on_a_level_that_falls_away_and_comes_back_is_still_told_apart():
    """A throttle that sinks and is put back over a minute, with a side in it: the side is a step, the rest is not."""
    t = np.arange(0, 120, 0.25)
    level = BASE_RPM - np.interp(t, [20, 40, 70, 90], [0, 60, 60, 0])
    step = 70.0 * (settled(t - 50, ENGINE_S) - settled(t - 57, ENGINE_S))
    (dip,) = find_dips(t, level - step + np.random.default_rng(2).normal(0, 1.0, t.size))
    assert t[dip.first] == pytest.approx(50.5, abs=1.0)
    assert t[dip.last] == pytest.approx(57.2, abs=1.0)


# rows, step of the tachometer, and how the heat was judged before: told STOP by half of its fall, measured short by 12 RPM or more,
# or passed over without a word
STRANGE = (1_600_008, 1_600_307, 1_600_443, 1_620_112, 1_620_271, 1_620_351, 1_620_582)


@pytest.mark.parametrize("seed", STRANGE)
def test_slow_hot_air_of_strange_run_ups_is_told_with_its_figure(seed):
    story = run_up(seed)
    (true,) = story.of("heat")
    found = judge(story.trace, PROFILES[story.kind], ("carb_heat_check",), tell_gaps=False)
    (told,) = [f for f in found if f.kind == "carb_heat_check"]
    assert told.measured["drop_rpm"] == pytest.approx(true.drop_rpm, abs=12 + story.panel.rpm_step / 2)
    assert abs(told.measured["drop_rpm"] - true.drop_rpm) < told.measured["drop_plus_minus_rpm"]
    assert told.verdict != "stop"


LEAST_RPM = A.limit("carb_heat_drop_min_rpm")


@pytest.mark.parametrize(
    ("drop_rpm", "plus_minus_rpm", "verdict"),
    [
        (LEAST_RPM - 5, 4.9, "stop"),
        (LEAST_RPM - 5, 5.1, "look"),
        (LEAST_RPM - 1, np.nan, "stop"),  # a figure that was typed
        (LEAST_RPM, 20.0, "within"),
    ],
)
def test_a_drop_that_may_be_large_enough_is_no_stop(drop_rpm, plus_minus_rpm, verdict):
    heated = Heated(base_rpm=BASE_RPM, drop_rpm=drop_rpm, restored_rpm=BASE_RPM, plus_minus_rpm=plus_minus_rpm)
    assert judge_heat(A, (0.0, 9.0), heated).verdict == verdict


@pytest.mark.parametrize(("comes_up_rpm", "verdict"), [(500.0, "incomplete"), (0.0, "within")])
def test_heat_while_rpm_still_comes_up_has_no_figure(comes_up_rpm, verdict):
    """The engine comes back from a dead side, or the throttle is opened, as the lever is pulled: told was a drop of minus 500."""
    t = np.arange(0, END_S, 0.25)
    rpm = hot_air(t, 1.0, 75.0) - comes_up_rpm * (t < ON_S + 1.5)
    lever = ((t >= ON_S) & (t < OFF_S)).astype(float)
    (told,) = judge(Trace(t, {"rpm": rpm, "carb_heat": lever}), A, ("carb_heat_check",), tell_gaps=False)
    assert told.verdict == verdict
    assert np.isnan(told.measured["drop_rpm"]) == (verdict == "incomplete")


@pytest.mark.parametrize(("comes_up_rpm", "has_figure"), [(116.0, False), (110.0, True)])
def test_how_far_rpm_may_come_up_as_the_heat_comes_on(comes_up_rpm, has_figure):
    t = np.arange(0, END_S, 0.25)
    rpm = hot_air(t, 1.0, 75.0) - comes_up_rpm * (t <= ON_S)  # of it 17 are taken by the hot air in the first row
    lever = ((t >= ON_S) & (t < OFF_S)).astype(float)
    (told,) = judge(Trace(t, {"rpm": rpm, "carb_heat": lever}), A, ("carb_heat_check",), tell_gaps=False)
    assert np.isfinite(told.measured["drop_rpm"]) == has_figure


@pytest.mark.parametrize(("stays_rpm", "creeps_rpm_s"), [(12.0, 0.0), (0.0, -0.4), (0.0, 0.4)])
def test_the_drop_is_from_the_level_that_was_cold(stays_rpm, creeps_rpm_s):
    """A duct that warmed at once and gives its last heat back slowly is no throttle that creeps: of the first the level
    before counts alone, of the second that during the heat."""
    t, rng = np.arange(0, END_S, 0.25), np.random.default_rng(9)
    last_heat = stays_rpm * np.exp(-np.maximum(t - OFF_S, 0) / 7.0) * (t > OFF_S)
    fall = 60.0 * (settled(t - ON_S, 0.7) - settled(t - OFF_S, 0.7))
    rpm = BASE_RPM - fall - last_heat * settled(t - OFF_S, 1.2) + creeps_rpm_s * (t - ON_S) + rng.normal(0, 1.0, len(t))
    lever = ((t >= ON_S) & (t < OFF_S)).astype(float)
    (told,) = judge(Trace(t, {"rpm": rpm, "carb_heat": lever}), A, ("carb_heat_check",), tell_gaps=False)
    assert told.measured["drop_rpm"] == pytest.approx(60.0, abs=2.5)
