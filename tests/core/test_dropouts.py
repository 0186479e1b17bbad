"""Cells of RPM that are missing, by a sender or an ear that is not sure: what is not known has neither stopped nor fired."""

from collections import Counter

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from jemmon.core.trace.dropouts import bridged, without_lone_leaps
from tests.core.builders import PROFILES
from tests.corpora.flights import whole_flight


def with_gaps(trace: Trace, share: float, seed: int) -> Trace:
    draw = np.random.default_rng(seed)
    rpm = np.where(draw.random(len(trace)) < share, np.nan, trace.columns["rpm"])
    return Trace(trace.time_s, {**trace.columns, "rpm": rpm})


@pytest.mark.parametrize("profile_id", ["a-trainer", "b-tourer"])
@pytest.mark.parametrize("seed", [401, 402])
def test_single_cells_that_are_missing_change_no_verdict(profile_id, seed):
    profile, trace = PROFILES[profile_id], whole_flight(profile_id)
    whole = Counter((one.kind, one.verdict) for one in judge(trace, profile))
    gappy = Counter((one.kind, one.verdict) for one in judge(with_gaps(trace, 0.02, seed), profile))
    assert gappy == whole


def test_a_trace_that_begins_without_a_figure_has_no_start():
    profile = PROFILES["a-trainer"]
    time_s = np.arange(0, 60, 0.25)
    rpm = np.where(time_s < 0.5, np.nan, 1_790.0 + np.sin(time_s))
    assert [one.kind for one in judge(Trace(time_s, {"rpm": rpm}), profile)] == []


def test_an_engine_that_is_seen_to_stop_at_idle_is_still_a_stop():
    profile = PROFILES["a-trainer"]
    time_s = np.arange(0, 60, 0.25)
    rpm = np.interp(time_s, [0, 20, 22, 30, 31, 60], [1_800, 1_800, 650, 650, 0, 0])
    found = judge(Trace(time_s, {"rpm": rpm}), profile)
    assert ("idle_check", "stop") in [(one.kind, one.verdict) for one in found]


@pytest.mark.parametrize(("gap_s", "is_closed"), [(2.9, True), (3.1, False)])
def test_a_gap_is_bridged_up_to_three_seconds(gap_s, is_closed):
    values = np.array([1.0, 1.0, 1.0, np.nan, 3.0, 3.0, 3.0])
    time_s = np.array([0.0, 0.25, 0.5, 0.5 + gap_s / 2, 0.5 + gap_s, 0.75 + gap_s, 1.0 + gap_s])
    assert bool(np.isfinite(bridged(values, time_s)[3])) == is_closed


@pytest.mark.parametrize(
    ("lone", "may_fall", "is_kept"),
    [
        (129.0, False, True),
        (131.0, False, False),
        (36.0, False, True),
        (34.0, False, False),
        (34.0, True, True),
        (131.0, True, False),
    ],
)
def test_a_lone_row_that_no_engine_does_is_taken_out(lone, may_fall, is_kept):
    values = without_lone_leaps(np.array([100.0, 100.0, lone, 100.0, 100.0]), np.arange(5.0), may_fall)
    assert bool(np.isfinite(values[2])) == is_kept
    assert np.isfinite(values[[0, 1, 3, 4]]).all()


@pytest.mark.parametrize(
    ("after", "apart_s", "is_kept"), [(95.0, 1.0, False), (80.0, 1.0, True), (100.0, 3.9, False), (100.0, 4.1, True)]
)
def test_a_leap_is_one_only_between_rows_that_agree_and_are_near(after, apart_s, is_kept):
    values = without_lone_leaps(np.array([100.0, 100.0, 500.0, after, after]), np.arange(5) * apart_s)
    assert bool(np.isfinite(values[2])) == is_kept


@pytest.mark.parametrize(("missing", "is_closed"), [(1, True), (2, False)])
def test_of_slow_rows_one_that_is_missing_is_bridged(missing, is_closed):
    values = np.array([1.0, *[np.nan] * missing, 2.0, 3.0, 4.0, 5.0])
    assert np.isfinite(bridged(values, np.arange(len(values)) * 6.0)).all() == is_closed


@pytest.mark.parametrize(("column", "garbage"), [("rpm", 9500.0), ("rpm", 0.0), ("ff_gph", 90.0), ("map_inhg", 70.0)])
def test_a_row_of_garbage_in_cruise_is_no_engine_that_fails(column, garbage):
    t = np.arange(0, 400, 1.0)
    columns = {"rpm": np.full(400, 2400.0), "ff_gph": np.full(400, 9.0), "map_inhg": np.full(400, 23.0)}
    columns[column][250] = garbage
    found = judge(Trace(t, {**columns, "ias_kt": np.full(400, 110.0)}), PROFILES["a-trainer"], tell_gaps=False)
    assert [finding.kind for finding in found if finding.verdict == "stop"] == []


def test_a_second_row_of_it_is_what_the_engine_does():
    values = without_lone_leaps(np.array([100.0, 100.0, 200.0, 200.0, 100.0]), np.arange(5.0))
    assert values.tolist() == [100.0, 100.0, 200.0, 200.0, 100.0]
