"""Cells of RPM that are missing, by a sender or an ear that is not sure: what is not known has neither stopped nor fired."""

from collections import Counter

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from jemmon.core.trace.dropouts import bridged
from jemmon.core.trace.garbage import garbage
from jemmon.core.trace.signals import SIGNALS
from tests.core.builders import PROFILES
from tests.corpora.flights import whole_flight
from tests.corpora.garbage import score_garbage
from tests.strange.hands import failure, leaning, no_failure


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


def taken_out(name: str, values: list[float], apart_s: float) -> list[int]:
    """Return which rows of a signal, so many seconds apart, are taken for garbage."""
    signal = SIGNALS[name]
    return np.flatnonzero(
        garbage(np.array(values), np.arange(len(values)) * apart_s, signal.swings, signal.lowest)
    ).tolist()


# what is usual, one row of it, seconds between rows: just inside and just outside of what the needle does and comes back from
@pytest.mark.parametrize(
    ("name", "usual", "inside", "outside", "apart_s"),
    [
        ("rpm", 2_400.0, 2_755.0, 2_765.0, 0.5),
        ("rpm", 2_400.0, 3_115.0, 3_125.0, 1.0),
        ("rotor_pct", 100.0, 114.0, 116.0, 0.5),
        ("rotor_pct", 100.0, 129.0, 131.0, 1.0),
        ("rpm", 2_400.0, 3_115.0, 3_125.0, 4.0),
        ("rpm", 2_400.0, 845.0, 835.0, 4.0),
        ("rpm", 2_400.0, 845.0, 835.0, 1.0),
        ("rpm", 2_400.0, 125.0, 115.0, 6.0),
        ("rpm", 2_400.0, 3_115.0, 3_125.0, 6.0),
        ("map", 20.0, 22.9, 23.1, 1.0),
        ("map", 20.0, 7.1, 6.9, 1.0),
        ("map", 20.0, 23.9, 24.1, 3.0),
        ("oil_p", 60.0, 3.1, 2.9, 1.0),
        ("oil_p", 60.0, 77.0, 79.0, 1.0),
        ("oil_t", 180.0, 208.0, 212.0, 1.0),
        ("cht", 340.0, 388.0, 393.0, 1.0),
        ("tit", 1_520.0, 1_710.0, 1_715.0, 1.0),
        ("coolant_t", 180.0, 142.0, 140.0, 1.0),
        ("ff", 10.0, 11.9, 12.1, 1.0),
        ("ff", 10.0, 0.6, 0.4, 1.0),
        ("ff", 10.0, 12.9, 13.1, 4.0),
        ("egt", 1_420.0, 1_595.0, 1_605.0, 1.0),
        ("egt", 1_420.0, 1_200.0, 1_190.0, 1.0),
        ("egt", 1_420.0, 1_640.0, 1_650.0, 3.0),
        ("egt", 1_420.0, 1_050.0, 1_040.0, 3.0),
        ("egt", 1_420.0, 1_640.0, 1_650.0, 6.0),
        ("egt", 1_420.0, 825.0, 815.0, 6.0),
        ("palt", 8_000.0, 8_690.0, 8_710.0, 1.0),
        ("palt", 8_000.0, 7_310.0, 7_290.0, 1.0),
        ("ias", 110.0, 142.0, 144.0, 1.0),
        ("ias", 110.0, 39.0, 38.0, 1.0),
        ("palt", 2_000.0, 2_990.0, 3_010.0, 6.0),
        ("palt", 2_000.0, 1_010.0, 990.0, 6.0),
        ("volts", 14.0, 5.0, 4.8, 1.0),
        ("throttle", 0.7, 0.036, 0.034, 1.0),
        ("collective", 0.7, 0.036, 0.034, 1.0),
    ],
)
def test_one_row_away_is_garbage_where_no_needle_goes_and_comes_back(name, usual, inside, outside, apart_s):
    assert taken_out(name, [usual, usual, inside, usual, usual], apart_s) == []
    assert taken_out(name, [usual, usual, outside, usual, usual], apart_s) == [2]


@pytest.mark.parametrize(("after", "is_kept"), [(2_250.0, False), (2_100.0, True)])
def test_it_is_garbage_only_between_rows_that_agree(after, is_kept):
    assert (taken_out("rpm", [2_400.0, 2_400.0, 3_200.0, after, after], 1.0) == []) is is_kept


@pytest.mark.parametrize(("apart_s", "is_kept"), [(1.1, False), (1.2, True)])
def test_nothing_goes_to_nothing_and_back_within_two_seconds_whatever_else_it_does(apart_s, is_kept):
    throttle_opens = [1_000.0, 1_400.0, 0.0, 2_000.0, 2_300.0]
    assert (taken_out("rpm", throttle_opens, apart_s) == []) is is_kept
    assert taken_out("rpm", [1_000.0, 1_400.0, 9_000.0, 2_000.0, 2_300.0], 1.0) == [2]


@pytest.mark.parametrize(("rows", "is_garbage"), [(3, True), (4, False)])
def test_several_rows_running_are_garbage_for_two_seconds_at_most(rows, is_garbage):
    values = [1_700.0, 1_700.0, *[0.0] * rows, 1_700.0, 1_700.0]
    assert taken_out("rpm", values, 0.5) == (list(range(2, 2 + rows)) if is_garbage else [])


def test_what_comes_back_from_garbage_is_none_and_a_missing_cell_beside_it_hides_nothing():
    values = [2_400.0, 2_400.0, 24_000.0, 2_400.0, 2_400.0, np.nan, 24_000.0, 2_400.0, 2_400.0]
    assert taken_out("rpm", values, 0.25) == [2, 6]


def test_slow_rows_are_held_against_all_that_two_of_them_ever_showed():
    taxi_and_climb = [900.0, 2_400.0, 900.0, 900.0, 2_300.0, 2_300.0, 2_300.0]
    assert taken_out("rpm", taxi_and_climb, 6.0) == []
    assert taken_out("rpm", [900.0, 3_000.0, 900.0, 900.0, 2_300.0, 2_300.0, 2_300.0], 6.0) == [1]
    assert taken_out("rpm", [2_300.0, 2_300.0, 9_000.0, 2_300.0], 8.1) == [], (
        "so far apart nothing is known between them"
    )


@pytest.mark.parametrize(
    ("first", "apart_s", "asleep", "rows"),
    [(1_500.0, 1.0, 2, 2), (1_400.0, 1.0, 2, 0), (1_500.0, 1.0, 1, 1), (1_500.0, 1.2, 1, 0)],
)
def test_a_box_that_wakes_up_writes_nothing_first(first, apart_s, asleep, rows):
    assert taken_out("rpm", [0.0] * asleep + [first] * 3, apart_s) == list(range(rows))


@pytest.mark.parametrize(("of_hundred", "is_garbage"), [(4, True), (5, False)])
def test_a_sender_that_is_broken_is_not_tidied_up(of_hundred, is_garbage):
    values = np.full(100, 1_420.0)
    values[10 : 10 + 4 * of_hundred : 4] = 200.0
    assert bool(taken_out("egt", values.tolist(), 1.0)) is is_garbage


def test_an_engine_that_starts_is_no_garbage():
    assert taken_out("rpm", [0.0, 0.0, 110.0, 130.0, 0.0, 120.0, 700.0, 0.0, 100.0, 650.0, 1_100.0, 1_000.0], 1.0) == []
    assert taken_out("ias", [0.0, 4.0, 0.0, 12.0, 0.0, 0.0], 1.0) == []
    assert taken_out("ias", [0.0, 0.0, 130.0, 0.0, 0.0], 1.0) == [2]


@pytest.mark.parametrize("column", ["rpm", "map_inhg", "ff_gph", "egt", "ias_kt", "palt_ft"])
@pytest.mark.parametrize("shown", [0.0, 9_999.0])
@pytest.mark.parametrize("seed", [900_007, 900_009])
def test_a_leaning_is_told_as_it_was_when_a_box_writes_garbage_now_and_then(column, shown, seed):
    story = leaning(seed)
    draw, columns = np.random.default_rng(seed), dict(story.trace.columns)
    for name in [one for one in columns if one.startswith(column)]:
        columns[name] = np.where(draw.random(len(story.trace)) < 0.004, shown, columns[name])
    dirty = Trace(story.trace.time_s, columns)
    clean, told = (judge(trace, PROFILES[story.kind], tell_gaps=False) for trace in (story.trace, dirty))
    assert Counter((one.kind, one.verdict) for one in told) == Counter((one.kind, one.verdict) for one in clean)
    assert [one.measured["side"] for one in told if one.kind == "lean"] == [
        one.measured["side"] for one in clean if one.kind == "lean"
    ]


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


def test_a_second_row_of_it_is_what_the_engine_does_where_rows_are_slow():
    assert taken_out("rpm", [1_000.0, 1_000.0, 2_000.0, 2_000.0, 1_000.0], 1.0) == []


def test_a_sender_that_is_noisy_at_idle_writes_no_garbage():
    assert taken_out("ff", [0.6, 0.62, 0.9, 0.61, 0.6], 1.0) == []
    assert taken_out("ff", [0.6, 0.62, 12.5, 0.61, 0.6], 1.0) == [2]


def test_a_throttle_that_is_pumped_or_closed_for_longer_is_the_pilots():
    assert taken_out("throttle", [0.0, 0.0, 0.8, 0.0, 0.0], 0.5) == []
    assert taken_out("throttle", [0.7, 0.7, 0.0], 0.25) == []
    assert taken_out("throttle", [0.7, 0.7, 0.0, 0.7, 0.7], 1.2) == []


@pytest.mark.parametrize(
    ("name", "usual", "inside", "outside"),
    [
        ("map", 24.0, 1.3, 1.1),
        ("map", 24.0, 47.0, 49.0),
        ("egt", 1_420.0, 1_595.0, 1_605.0),
        ("egt", 1_420.0, 1_200.0, 1_190.0),
    ],
)
def test_of_a_last_row_that_goes_further_than_it_can_so_soon_the_next_one_says(name, usual, inside, outside):
    assert taken_out(name, [usual, usual, inside], 0.5) == []
    assert taken_out(name, [usual, usual, outside], 0.5) == [2]
    assert taken_out(name, [usual, usual, outside], 0.7) == [], "where rows are slow it is told at once"


def test_a_throttle_that_one_row_shows_closed_does_not_hide_a_loss_of_power():
    story = failure(910_012)
    before = np.flatnonzero(story.trace.time_s > story.of("loss")[0].start_s - 22.0)[0]
    dirty = {**story.trace.columns, "throttle": story.trace.columns["throttle"].copy()}
    dirty["throttle"][before] = 0.0
    found = judge(Trace(story.trace.time_s, dirty), PROFILES[story.kind], tell_gaps=False)
    assert [one.verdict for one in found if one.kind == "power_loss"] == ["stop"]


@pytest.mark.parametrize("seed", [910_003, 910_007, 910_033])
def test_a_last_row_without_pressure_is_no_stop(seed):
    story = no_failure(seed)
    end = len(story.trace) // 2
    part = story.trace.part(0, end)
    part.columns["map_inhg"][-1] = 0.0
    assert "power_loss" not in [one.kind for one in judge(part, PROFILES[story.kind], tell_gaps=False)]


def test_garbage_in_one_reading_changes_nothing_that_is_told():
    score = score_garbage(range(1_302_000, 1_302_016))
    assert (score.traces, score.notes) == (16, [])
