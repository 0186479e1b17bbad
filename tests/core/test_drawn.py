"""A flight's trace as it is drawn and read off: every signal in words or figures, the whole or a part of it."""

import numpy as np
import pytest

from jemmon.core.fuel.tanks import tanks_of
from jemmon.core.screen.drawn import trace_points
from jemmon.core.trace import Trace
from jemmon.library.shipped import shipped_profiles

TRAINER = shipped_profiles()["a-trainer"]
TWIN = shipped_profiles()["d-twin"]
TIME_S = np.arange(0.0, 4000.0)


def trace(**columns) -> Trace:
    return Trace(TIME_S, {name: np.broadcast_to(np.asarray(v), TIME_S.shape) for name, v in columns.items()})


def channel(points, name):
    return next(row for row in points.channels if row.id == name)


def test_the_whole_is_thinned_and_a_part_is_not():
    points = trace_points(trace(rpm=TIME_S), TRAINER)
    assert 1500 <= len(points.time_s) <= 3000
    assert (points.start_s, points.end_s) == (0.0, 3999.0)
    part = trace_points(trace(rpm=TIME_S), TRAINER, 100.0, 110.0)
    assert part.time_s == tuple(float(s) for s in range(100, 111)), (
        "from the first to the last second asked for, both in"
    )
    assert channel(part, "rpm").values == part.time_s == part.rpm
    assert (part.start_s, part.end_s) == (0.0, 3999.0), "where the whole trace begins and ends is still said"


def test_a_part_beyond_the_trace_is_empty_and_no_error():
    part = trace_points(trace(rpm=TIME_S), TRAINER, 9000.0, 9100.0)
    assert part.time_s == ()
    assert part.channels == ()


def test_figures_are_in_the_core_s_unit_and_a_gap_is_no_figure():
    egt_c = np.where(TIME_S == 5, np.nan, 700.0)
    points = trace_points(trace(egt1_c=egt_c, egt2_f=1392.0), TRAINER, 4.0, 6.0)
    assert channel(points, "egt1_c").unit == "f"
    assert channel(points, "egt1_c").values == (1292.0, None, 1292.0)
    assert points.mean_egt_f == (1342.0, 1392.0, 1342.0), "a cylinder without a figure is left out of the mean"


def test_a_light_is_read_off_in_a_word():
    row = channel(trace_points(trace(blower_light=np.where(TIME_S > 5, 1.0, 0.0)), TRAINER, 5.0, 6.0), "blower_light")
    assert (row.unit, row.words) == ("", ("out", "lit"))


def test_a_signal_without_any_reading_is_no_channel():
    points = trace_points(trace(rpm=1000.0, oil_t_f=np.nan), TRAINER)
    assert [row.id for row in points.channels] == ["rpm"]


@pytest.mark.parametrize(("lever", "shown"), [(0.0, 0.0), (0.635, 63.5), (1.0, 100.0)])
def test_a_lever_is_read_in_percent_of_its_way(lever, shown):
    row = channel(trace_points(trace(throttle=lever), TRAINER), "throttle")
    assert (row.unit, row.values[0]) == ("pct", shown)


def test_switches_and_tanks_are_read_in_words():
    points = trace_points(trace(master=1.0, starter=0.0, mag=np.array("BOTH", dtype=object), tank=0.0), TRAINER)
    assert {name: channel(points, name).words[0] for name in ("master", "starter", "mag")} == {
        "master": "on",
        "starter": "off",
        "mag": "BOTH",
    }
    tourer = shipped_profiles()["b-tourer"]
    assert [channel(trace_points(trace(tank=at), tourer), "tank").words[0] for at in (0.0, 1.0)] == [
        tanks_of(tourer)[0],
        tanks_of(tourer)[-1],
    ]


def test_a_twin_s_channels_say_whose_they_are():
    points = trace_points(trace(rpm=1000.0, e2_rpm=1100.0, e2_cht3_f=300.0, volts_v=28.0), TWIN)
    assert [row.title for row in points.channels] == [
        "Left engine: RPM",
        "Right engine: RPM",
        "Right engine: CHT 3",
        "Bus voltage",
    ]
