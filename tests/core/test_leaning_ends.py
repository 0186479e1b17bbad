"""Where a leaning ends: a mixture that has been set, another power, a descent. Figures by hand and common practice.

The trainer shows no manifold pressure here: its fixed pitch turns by power and airspeed, fuel flow goes with the air.
"""

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES
from tests.core.test_leaning_by_exhausts import PEAKS, leaned
from tests.core.test_pulled_mixture import below
from tests.strange.plain import lagged

_STEP_S = 0.25
RICH = 1.35  # fuel for the air, 1 where the exhausts are hottest


def over(t: np.ndarray, knots: list[tuple[float, float]]) -> np.ndarray:
    return np.interp(t, *zip(*knots, strict=True))


def flown(mixture, power=((0, 1.0),), ias_kt=None, palt_ft=None, slowed: float = 0.0, row_s: float = 1.0) -> Trace:
    """Return a flight of knots (time [s], figure): fuel for the air, air against cruise, airspeed, altitude. `slowed` is the share
    of its speed that the engine has lost a tenth lean of peak."""
    t, noise = np.arange(0, mixture[-1][0], _STEP_S), np.random.default_rng(5)
    rich, air = over(t, mixture), over(t, list(power))
    rpm = 2400 * (1 - slowed * np.clip((1 - rich) / 0.1, 0, 1)) * air ** (0.0 if ias_kt else 1 / 3)
    rows = slice(None, None, round(row_s / _STEP_S))
    shown = {
        "rpm": np.round(rpm[rows] + noise.normal(0, 3, len(t[rows]))),
        "ff_gph": np.round(8.0 * (air * rich)[rows] + noise.normal(0, 0.02, len(t[rows])), 1),
    }
    for number, peak in enumerate(PEAKS, 1):
        egt_f = lagged(1480 + 250 * (air - 1) - below(rich / peak - 1), 3.0 * 0.05 / _STEP_S)
        shown[f"egt{number}_f"] = np.round(egt_f[rows] + noise.normal(0, 1, len(t[rows])))
    for name, knots in (("ias_kt", ias_kt), ("palt_ft", palt_ft)):
        if knots is not None:
            shown[name] = np.round(over(t, knots)[rows])
    return Trace(t[rows], shown)


def told(trace: Trace, aircraft: str = "a-trainer") -> list:
    return judge(trace, PROFILES[aircraft], ("lean",), tell_gaps=False)


def set_and_enriched(rests_s: float, enriches_in_s: float = 8.0, to: float = 1.15) -> list[tuple[float, float]]:
    """Return a pull past every peak in a minute, a rest there, and the mixture richer again."""
    rest_ends = 180 + rests_s
    return [(0, RICH), (120, RICH), (180, 0.94), (rest_ends, 0.94), (rest_ends + enriches_in_s, to), (600, to)]


@pytest.mark.parametrize(("rests_s", "side"), [(45, "rich"), (75, "lean")])
def test_a_mixture_is_where_it_was_left_and_one_that_stayed_for_a_minute_was_set(rests_s, side):
    found = told(flown(set_and_enriched(rests_s)))
    assert found[-1].measured["side"] == side
    if side == "rich":
        true_f = float(below(np.array(1.15 / PEAKS[0] - 1)))
        assert found[-1].measured["offset_f"] == pytest.approx(true_f, abs=15)


def test_a_mixture_that_was_set_and_then_enriched_slowly_is_told_where_it_was_set():
    (found,) = told(flown(set_and_enriched(100, enriches_in_s=120, to=RICH)))
    assert found.measured["side"] == "lean"
    assert found.end_s == pytest.approx(285, abs=15)


@pytest.mark.parametrize("row_s", [0.5, 1.0, 3.0])
def test_a_fixed_pitch_that_leaning_slows_is_followed_to_its_end(row_s):
    """Six hundredths slower, by which the air seems less: what is told is where it rests, not where it was on the way."""
    trace = flown([(0, RICH), (120, RICH), (200, 0.9), (500, 0.9)], slowed=0.06, row_s=row_s)
    measured = told(trace)[-1].measured
    true_f = float(below(np.array(0.9 / PEAKS[3] - 1)))
    assert measured["side"] == "lean"
    assert measured["offset_f"] == pytest.approx(true_f, abs=20)


@pytest.mark.parametrize(("cruise_kt", "is_told"), [(88, True), (115, False)])
def test_less_power_at_the_top_of_a_climb_is_no_peak_that_was_passed(cruise_kt, is_told):
    """Leaned a little in the climb; then an eighth of the power goes, and the airspeed grows by a third, so that the propeller
    turns as before. The exhausts that cool with the power have passed no peak."""
    mixture = [(0, RICH), (60, RICH), (240, 1.12), (600, 1.12)]
    speeds = [(0, 80), (240, 80), (256, cruise_kt), (600, cruise_kt)]
    found = told(flown(mixture, [(0, 1.0), (258, 1.0), (266, 0.84), (600, 0.84)], ias_kt=speeds))
    passed = [finding for finding in found if finding.measured["peaks"]]
    assert bool(passed) is is_told


@pytest.mark.parametrize(("sinks_fpm", "is_told"), [(200, True), (300, False)])
def test_on_the_way_down_nobody_leans(sinks_fpm, is_told):
    mixture = [(0, RICH), (120, RICH), (180, 0.94), (190, 0.94), (220, 1.12), (420, 1.12)]
    height = [(0, 6500), (60, 6500), (420, 6500 - 6 * sinks_fpm)]
    assert bool(told(flown(mixture, palt_ft=height))) is is_told
    t = np.arange(0, 420, 1.0)
    assert bool(told(leaned(mixture, palt_ft=over(t, height)), "b-tourer")) is is_told


def test_a_descent_that_begins_after_the_leaning_leaves_it_as_it_is():
    mixture = [(0, RICH), (120, RICH), (180, 0.94), (190, 0.94), (220, 1.12), (420, 1.12)]
    height = [(0, 6500), (260, 6500), (420, 5100)]
    assert told(flown(mixture, palt_ft=height))[-1].measured["side"] == "rich"


def test_a_leaning_in_the_climb_that_passed_nothing_hides_none_in_the_cruise():
    """No fuel flow: what has passed no peak is still rich, and the next pull is told."""
    climb = [(0, 1.35), (100, 1.35), (200, 1.13), (700, 1.13)]
    trace = leaned([*climb, (760, 0.9), (770, 0.9), (810, 1.12), (1000, 1.12)])
    assert told(trace, "b-tourer")[-1].measured["side"] == "rich"
