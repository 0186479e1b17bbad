"""A mixture that is leaned slowly is placed; one that is pulled faster than the probes follow gets no figure it cannot have."""

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES
from tests.strange.plain import lagged

STEP_S, PEAKS_GPH = 0.05, (8.6, 8.5, 8.4, 8.3)


def leaned(seconds: float, to_gph: float, probe_s: float = 3.0, row_s: float = 1.0) -> Trace:
    """Return a cruise that is leaned to a fuel flow in so many seconds. An exhaust's curve is a bend between two straight lines
    (common practice), its probe follows with a first-order lag."""
    t = np.arange(0, 420, STEP_S)
    flow = np.interp(t, [0, 120, 120 + seconds, 420], [11.5, 11.5, to_gph, to_gph])
    noise = np.random.default_rng(3)
    rows = np.arange(0, len(t), round(row_s / STEP_S))

    def shown(values: np.ndarray, sigma: float, rounding: float) -> np.ndarray:
        return np.asarray(np.round((values[rows] + noise.normal(0, sigma, len(rows))) / rounding) * rounding)

    columns = {"rpm": shown(np.full_like(t, 2350.0), 3, 1), "map_inhg": shown(np.full_like(t, 22.0), 0.05, 0.1)}
    columns |= {"ff_gph": shown(flow, 0.03, 0.1), "palt_ft": shown(np.full_like(t, 6500.0), 5, 10)}
    for number, peak in enumerate(PEAKS_GPH, 1):
        columns[f"egt{number}_f"] = shown(lagged(1480 - below(flow / peak - 1), probe_s), 1, 1)
    return Trace(t[rows], columns)


def below(away: np.ndarray) -> np.ndarray:
    return np.where(away > 0, 120 * (np.hypot(1, away / 0.08) - 1), 110 * (np.hypot(1, away / 0.05) - 1))


def placed(trace: Trace) -> tuple[str, dict, str]:
    finding = judge(trace, PROFILES["j-glass"], ("lean",), tell_gaps=False)[-1]
    return finding.verdict, dict(finding.measured), finding.because


@pytest.mark.parametrize(("to_gph", "side", "counted_from"), [(7.8, "lean", 8.3), (9.4, "unknown", None)])
def test_a_slow_leaning_is_placed_where_a_peak_was_passed(to_gph, side, counted_from):
    _, measured, _ = placed(leaned(60.0, to_gph))
    assert measured["side"] == side
    if counted_from is not None:
        true_f = float(below(np.array(to_gph / counted_from - 1)))
        assert measured["offset_f"] == pytest.approx(true_f, abs=15)
        assert [one["cylinder"] for one in measured["peaks"]] == [1, 2, 3, 4]


@pytest.mark.parametrize("row_s", [0.25, 1.0, 2.0])
@pytest.mark.parametrize("to_gph", [7.2, 7.8])
def test_of_a_mixture_pulled_at_once_no_peak_and_no_offset_is_told(to_gph, row_s):
    verdict, measured, because = placed(leaned(2.5, to_gph, row_s=row_s))
    assert verdict == "unknown"
    assert measured["side"] in ("lean", "unknown")
    assert measured["offset_f"] is None
    assert measured["peaks"] == []
    assert "faster than the EGTs follow" in because


@pytest.mark.parametrize(("seconds", "is_told"), [(8.0, False), (12.0, False), (30.0, True)])
def test_the_slowest_pull_and_the_quickest_leaning(seconds, is_told):
    _, measured, _ = placed(leaned(seconds, 7.5))
    assert (measured["offset_f"] is not None) == is_told
