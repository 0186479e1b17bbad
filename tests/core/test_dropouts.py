"""Cells of RPM that are missing, by a sender or an ear that is not sure: what is not known has neither stopped nor fired."""

from collections import Counter

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from jemmon.core.trace.dropouts import bridged
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
    values, time_s = np.array([1.0, np.nan, 3.0]), np.array([0.0, gap_s / 2, gap_s])
    assert bool(np.isfinite(bridged(values, time_s)[1])) == is_closed
