"""A leaning on a box that shows no fuel flow: where it ended by the exhausts alone, and nothing that they do not show."""

import numpy as np
import pytest

from jemmon.core.aircraft import LeanTarget
from jemmon.core.judgement.check import Evidence
from jemmon.core.judgement.judge import judge
from jemmon.core.live.leaning import lean_by_exhausts
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES
from tests.core.test_pulled_mixture import below
from tests.strange.plain import lagged

STEP_S, PEAKS = 0.05, (1.02, 1.01, 1.0, 0.99)
# fuel for the air over time [s]: past every peak and back to rich, or past them once
THERE_AND_BACK = [(0, 1.35), (120, 1.35), (180, 0.9), (190, 0.9), (230, 1.12), (420, 1.12)]
ONCE = [(0, 1.35), (120, 1.35), (180, 0.9), (420, 0.9)]


def leaned(
    mixture_over_s: list[tuple[float, float]],
    row_s: float = 1.0,
    peaks: tuple[float, ...] = PEAKS,
    **columns: np.ndarray | float,
) -> Trace:
    """Return a cruise without fuel flow; a probe follows with 3 s (common practice)."""
    t = np.arange(0, mixture_over_s[-1][0], STEP_S)
    mixture = np.interp(t, *zip(*mixture_over_s, strict=True))
    rows, noise = np.arange(0, len(t), round(row_s / STEP_S)), np.random.default_rng(7)
    out = {"rpm": 2350 + noise.normal(0, 3, len(rows)), "palt_ft": np.full(len(rows), 6500.0)}
    for number, peak in enumerate(peaks, 1):
        egt = lagged(1480 - below(mixture / peak - 1), 3.0)
        out[f"egt{number}_f"] = np.round(egt[rows] + noise.normal(0, 1, len(rows)))
    return Trace(t[rows], out | {name: np.broadcast_to(values, len(rows)) for name, values in columns.items()})


def told(trace: Trace, aircraft: str = "b-tourer") -> list:
    return judge(trace, PROFILES[aircraft], ("lean",), tell_gaps=False)


@pytest.mark.parametrize("row_s", [0.25, 1.0, 2.0])
@pytest.mark.parametrize("flow", [{}, {"ff_gph": np.nan}])
def test_past_every_peak_and_back_is_rich_by_what_it_was(row_s, flow):
    (finding,) = told(leaned(THERE_AND_BACK, row_s, **flow))
    measured = finding.measured
    assert (measured["side"], measured["first_to_peak"], measured["reference"]) == ("rich", 1, 1)
    true_f = float(below(np.array(1.12 / PEAKS[0] - 1)))
    assert measured["offset_f"] == pytest.approx(true_f, abs=measured["offset_plus_minus_f"])
    assert measured["offset_plus_minus_f"] < 20
    assert [(peak["cylinder"], peak["ff_gph"]) for peak in measured["peaks"]] == [
        (1, None),
        (2, None),
        (3, None),
        (4, None),
    ]
    assert all(peak["egt_f"] == pytest.approx(1480, abs=12) for peak in measured["peaks"])
    passed_s = np.interp([-p for p in PEAKS], [-1.35, -0.9], [120, 180])
    assert [peak["at_s"] for peak in measured["peaks"]] == pytest.approx(list(passed_s), abs=2 + row_s)
    assert (measured["ff_gph"], measured["spread_gph"]) == (None, None)


def test_past_the_peaks_once_the_side_is_not_told_but_how_far_below_and_how_to_see_it():
    (finding,) = told(leaned(ONCE))
    assert (finding.verdict, finding.measured["side"], finding.measured["offset_f"]) == ("unknown", "unknown", None)
    assert "below peak on cylinder 1; on which side of it, EGT alone does not show" in finding.because
    assert "A little richer" in finding.next
    assert [peak["cylinder"] for peak in finding.measured["peaks"]] == [1, 2, 3, 4]


@pytest.mark.parametrize(
    ("left_at", "side", "passed"), [(1.0, "unknown", 0), (0.99, "peak", 1), (0.97, "peak", 3), (0.96, "unknown", 4)]
)
def test_a_mixture_left_among_the_peaks_is_at_peak(left_at, side, passed):
    (finding,) = told(leaned([(0, 1.35), (120, 1.35), (180, left_at), (420, left_at)]))
    assert (finding.measured["side"], len(finding.measured["peaks"])) == (side, passed)


@pytest.mark.parametrize(("below_f", "side"), [(19.0, "peak"), (31.0, "unknown")])
def test_a_mixture_near_a_peak_while_one_cylinder_has_not_passed_is_at_peak(below_f, side):
    """Nearer than 25 °F, as this probe shows it."""
    ends = np.linspace(0.85, 1.0, 301)
    left_at = float(ends[np.argmin(np.abs(below(ends - 1) - below_f))])
    pulled = [(0, 1.35), (120, 1.35), (180, left_at), (420, left_at)]
    (finding,) = told(leaned(pulled, peaks=(1.0, 1.0, 1.0, 0.8)))
    assert (finding.measured["side"], len(finding.measured["peaks"])) == (side, 3)


def test_a_mixture_that_never_came_to_a_peak_says_so():
    (finding,) = told(leaned([(0, 1.35), (120, 1.35), (180, 1.12), (420, 1.12)]))
    assert finding.because == "No cylinder was seen to pass its peak."
    assert finding.measured["peaks"] == []


@pytest.mark.parametrize(("rest_s", "found"), [(25, 1), (4, 0)])
def test_it_is_told_once_the_exhausts_rest(rest_s, found):
    there, settles_s = THERE_AND_BACK[:-1], 9
    assert len(told(leaned([*there, (there[-1][0] + settles_s + rest_s, 1.12)]))) == found


def test_of_a_mixture_that_was_pulled_at_once_no_peak_is_told():
    (finding,) = told(leaned([(0, 1.35), (120, 1.35), (122.0, 0.9), (128, 0.9), (130, 1.12), (420, 1.12)], 0.5))
    assert finding.measured["offset_f"] is None
    assert finding.verdict == "unknown"


@pytest.mark.parametrize(("row_s", "side"), [(3.5, "rich"), (5.0, "unknown")])
def test_rows_too_far_apart_for_the_way_there_and_back_name_no_side(row_s, side):
    slow = [(0, 1.35), (120, 1.35), (200, 0.88), (230, 0.88), (290, 1.12), (480, 1.12)]
    assert [finding.measured["side"] for finding in told(leaned(slow, row_s))] == [side]


@pytest.mark.parametrize(("lower_inhg", "found"), [(0.3, 1), (1.5, 0)])
def test_another_power_is_no_leaning(lower_inhg, found):
    rows = np.arange(0, 420, 1.0)
    pressure = np.interp(rows, [0, 200, 203, 420], [23.0, 23.0, 23.0 - lower_inhg, 23.0 - lower_inhg])
    full = told(leaned(THERE_AND_BACK, map_inhg=pressure))
    assert len([finding for finding in full if finding.measured["side"] == "rich"]) == found


@pytest.mark.parametrize("moved_s", [60, 300])
def test_a_leaning_is_told_beside_a_throttle_that_moved_before_or_after(moved_s):
    rows = np.arange(0, 420, 1.0)
    pressure = np.interp(rows, [0, moved_s, moved_s + 3, 420], [25.0, 25.0, 22.0, 22.0])
    assert "rich" in [finding.measured["side"] for finding in told(leaned(THERE_AND_BACK, map_inhg=pressure))]


@pytest.mark.parametrize(("rich", "told_again"), [(1.12, False), (1.4, True)])
def test_from_lean_back_to_rich_is_no_leaning(rich, told_again):
    """After a mixture that may rest lean, what passes the peak again may be the way back; from far below it is another leaning."""
    again = [(420, 0.9), (440, rich), (520, rich), (580, 0.9), (590, 0.9), (630, 1.12), (800, 1.12)]
    sides = [finding.measured["side"] for finding in told(leaned([*ONCE[:-1], *again]))]
    assert sides[0] == "unknown"
    assert ("rich" in sides) == told_again


@pytest.mark.parametrize(
    ("target", "until_s", "say", "peaks"),
    [
        ("rich", 150, "Lean on, slowly", 0),
        ("rich", 188, "Cylinder 1 has peaked: richer, over its peak again", 4),
        ("rich", 236, "Leaner", 4),
        ("lean", 173, "Lean on until the last has peaked", 2),
        ("lean", 186, "Richer", 4),
    ],
)
def test_the_way_is_told_while_a_hand_leans(target, until_s, say, peaks):
    trace = leaned(THERE_AND_BACK, 0.5)
    rows = int(np.searchsorted(trace.time_s, until_s))
    chosen = LeanTarget(id=target, name=target, side=target, offset_f=30.0, source="common practice")
    working = lean_by_exhausts(Evidence(trace.part(0, rows), PROFILES["b-tourer"]), chosen)
    assert (working.say, len(working.peaks)) == (say, peaks)
    assert working.first == (1 if peaks else None)
    assert [len(drawn) for drawn in working.egt_f.values()] == [len(working.ago_s)] * 4
    assert working.ago_s[-1] == 0
    assert list(working.ago_s) == sorted(working.ago_s)
    assert working.flow_gph == ()


def test_at_the_target_says_so_and_no_leaning_says_nothing():
    trace = leaned(THERE_AND_BACK)
    below_f = float(below(np.array(1.12 / PEAKS[0] - 1)))
    for offset_f, say in ((below_f, "At the target"), (below_f + 40, "Richer"), (below_f - 40, "Leaner")):
        target = LeanTarget(id="rich", name="rich", side="rich", offset_f=offset_f, source="common practice")
        working = lean_by_exhausts(Evidence(trace.part(0, 260), PROFILES["b-tourer"]), target)
        assert (working.say, working.side) == (say, "rich")
        assert working.offset_f == pytest.approx(below_f, abs=14)
    assert lean_by_exhausts(Evidence(trace.part(0, 110), PROFILES["b-tourer"]), target) is None


def test_a_broken_probe_says_nothing_of_a_peak():
    trace = leaned(THERE_AND_BACK)
    broken = np.random.default_rng(9).uniform(200, 1900, len(trace.time_s))
    (finding,) = told(Trace(trace.time_s, {**trace.columns, "egt3_f": broken}))
    assert finding.measured["side"] == "rich"
    assert 3 not in [peak["cylinder"] for peak in finding.measured["peaks"]]


@pytest.mark.parametrize("side", ["rich", "lean"])
def test_a_hand_that_is_faster_than_the_probes_is_slowed_and_every_figure_is_one(side):
    t = np.arange(0, 420, 2.0)
    egt = np.interp(t, [0, 120, 128, 132, 420], [1100, 1100, 1480, 1250, 1250])  # a top of one row
    columns = {"rpm": 2350 + np.sin(t), "palt_ft": 6500 + 0 * t} | {
        f"egt{k}_f": egt + k + np.sin(t + k) for k in (1, 2, 3)
    }
    target = LeanTarget(id=side, name=side, side=side, offset_f=50.0, source="common practice")
    working = lean_by_exhausts(Evidence(Trace(t, columns).part(0, 80), PROFILES["b-tourer"]), target)
    assert working.say.startswith("Slower")
    assert len(working.peaks) == 3
    assert all(1_200 < peak.egt_f < 1_500 for peak in working.peaks)
    assert (working.offset_f, working.to_target_f) == (None, None)


@pytest.mark.parametrize("lag_s", [1.5, 3.0, 6.0])
@pytest.mark.parametrize("waits_s", [45.0, 55.0, 90.0])
def test_a_run_up_that_was_cut_out_of_its_flight_is_no_leaning(lag_s, waits_s):
    """On one magneto every exhaust rises; between the sides the engine is left on both for a while."""
    t = np.arange(0, 112 + waits_s, STEP_S)
    left, right = (t >= 40) & (t < 46), (t >= 46 + waits_s) & (t < 52 + waits_s)
    noise = np.random.default_rng(3)
    columns = {"rpm": lagged(1800.0 - 70 * left - 90 * right, 0.5)[::5] + noise.normal(0, 2, len(t[::5]))}
    for number in range(1, 5):
        columns[f"egt{number}_f"] = lagged(1250.0 + 5 * number + 90.0 * (left | right), lag_s)[::5]
    found = judge(Trace(t[::5], columns), PROFILES["a-trainer"], tell_gaps=False)
    assert {finding.kind for finding in found} == {"mag_check"}
