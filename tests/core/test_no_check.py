"""What pilots do with a throttle and an ignition switch beside the checks, and what is no check because of it. Common practice."""

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES

KINDS = ("mag_check", "carb_heat_check", "prop_cycle", "feather_check", "unexplained_drop")


def driven(knots, row_s: float = 0.5, seed: int = 1, **columns) -> Trace:
    """Return a trace whose speed goes by straight lines through (time [s], RPM), with a tachometer's noise; `columns` are knots
    too."""
    t = np.arange(0, knots[-1][0], row_s)
    r = np.random.default_rng(seed)
    shown = {"rpm": np.round(np.interp(t, *zip(*knots, strict=True)) + r.normal(0, 2, len(t)))}
    return Trace(t, shown | {name: np.interp(t, *zip(*own, strict=True)) for name, own in columns.items()})


def told(trace: Trace, aircraft: str = "a-trainer", kinds=KINDS):
    return [(f.kind, f.verdict) for f in judge(trace, PROFILES[aircraft], kinds, tell_gaps=False)]


@pytest.mark.parametrize("row_s", [0.25, 1.0, 2.0])
def test_stopping_on_the_way_to_the_run_up_is_no_drop_that_came_back(row_s):
    taxi = [(0, 1250), (60, 1250), (62, 1050), (72, 1050), (76, 1800), (110, 1800)]
    assert told(driven(taxi, row_s)) == []


@pytest.mark.parametrize("row_s", [0.25, 1.0, 2.0])
def test_a_throttle_closed_after_the_run_up_does_not_come_back_by_taking_off(row_s):
    ends = [(0, 1800), (30, 1800), (32, 750), (40, 750), (42, 1050), (60, 1050), (64, 2300), (80, 2300)]
    assert told(driven(ends, row_s)) == []
    assert told(driven(ends[:4], row_s)) == []  # and the trace may end there


@pytest.mark.parametrize(("comes_back_to", "is_told"), [(1715, True), (1705, False)])
def test_what_comes_back_much_lower_was_throttled(comes_back_to, is_told):
    """A fall of 120: by more than 90 RPM too low, or half of a deeper one, it is another throttle."""
    side = [(0, 1800), (30, 1800), (31, 1680), (37, 1680), (38, comes_back_to), (70, comes_back_to)]
    assert bool(told(driven(side))) is is_told


@pytest.mark.parametrize(("comes_back_to", "is_told"), [(2030, True), (2070, False)])
def test_what_goes_past_the_level_before_was_throttled(comes_back_to, is_told):
    """Ice that has gone gives less than 250 RPM at run-up speed (common practice)."""
    side = [(0, 1800), (30, 1800), (31, 1680), (37, 1680), (38, comes_back_to), (60, comes_back_to)]
    assert bool(told(driven(side))) is is_told


def test_a_check_after_which_the_throttle_is_opened_is_still_told():
    side = [(0, 1800), (30, 1800), (31, 1720), (37, 1720), (38, 1800), (41, 1800), (44, 2300), (70, 2300)]
    assert told(driven(side)) != []


@pytest.mark.parametrize(("idle_rpm", "is_told"), [(1090, False), (1150, True)])
def test_an_ignition_that_is_off_for_a_second_at_idle_is_no_feathering(idle_rpm, is_told):
    """The radial's propeller is feathered at 1,600 RPM; from seven tenths of it on a deep fall may be that."""
    low = 0.55 * idle_rpm
    knots = [(0, idle_rpm), (40, idle_rpm), (41.2, low), (42.2, low), (43.2, idle_rpm), (70, idle_rpm)]
    pressure = [(0, 11), (40, 11), (41.2, 12), (42.2, 12), (43.2, 11), (70, 11)]
    found = told(driven(knots, 0.25, map_inhg=pressure), "f-radial", ("feather_check",))
    assert bool(found) is is_told


@pytest.mark.parametrize(("rolls_s", "is_told"), [(70, False), (100, True)])
def test_a_throttle_that_closes_to_land_is_no_check(rolls_s, is_told):
    """Nothing shows the airspeed: from the throttle closed on short final until it has rolled out 90 s pass, where
    it does not come down to idle before."""
    lands = 300 + rolls_s
    knots = [
        (0, 2400),
        (290, 2400),
        (294, 1350),
        (lands, 1350),
        (lands + 1, 1250),
        (lands + 6, 1250),
        (lands + 7, 1350),
    ]
    assert bool(told(driven([*knots, (lands + 40, 1350)]), kinds=("unexplained_drop", "mag_check"))) is is_told
