"""How deep a fall was, where others stand close by: rows that belong to a neighbour are no level."""

import numpy as np
import pytest

from jemmon.core.judgement.falls import Fall
from jemmon.core.judgement.recognition import RunUpSpans
from jemmon.core.trace.dip_fit import fit_all
from jemmon.core.trace.dips import Span
from jemmon.core.trace.engine_lags import Lags
from jemmon.core.trace.tachometer import Tachometer

LEVEL_RPM, DROP_RPM, GUSTS_RPM, GUSTS_LAST_S, NOISE_RPM = 1800.0, 70.0, 2.0, 2.0, 4.0


def _followed(since_s, lag_s):
    return 1 - np.exp(-np.maximum(since_s, 0.0) / lag_s)


def _two_falls(rng, rate_hz, lag_s, settle_s, drops_rpm=(DROP_RPM, DROP_RPM)):
    """Return (times, RPM, spans) of two falls of six seconds, gusts and noise on them: an exponential each way (arithmetic)."""
    t = np.arange(0, 24 + 2 * settle_s + 12, 1 / rate_hz)
    first_s = 12 + rng.uniform(0, 1 / rate_hz)
    edges = [(first_s, first_s + 6), (first_s + 6 + settle_s, first_s + 12 + settle_s)]
    rpm, keep = np.full(len(t), LEVEL_RPM), np.exp(-1 / rate_hz / GUSTS_LAST_S)
    for (down_s, up_s), drop in zip(edges, drops_rpm, strict=True):
        rpm -= drop * (_followed(t - down_s, lag_s) - _followed(t - up_s, lag_s))
    gusts, now = np.zeros(len(t)), GUSTS_RPM * rng.standard_normal()
    for row in range(len(t)):
        gusts[row] = now
        now = keep * now + GUSTS_RPM * np.sqrt(1 - keep**2) * rng.standard_normal()
    spans = [
        Span(int(np.searchsorted(t, down + np.log(2) * lag_s)), int(np.searchsorted(t, up + np.log(2) * lag_s)) - 1)
        for down, up in edges
    ]
    return t, rpm + gusts + NOISE_RPM * rng.standard_normal(len(t)), spans


def _errors(rate_hz, lag_s, lag_scale, settle_s, count=120, drops_rpm=(DROP_RPM, DROP_RPM)):
    """Return how far each drop and its level before were off [RPM] (falls, first and second, drop and level)."""
    rng = np.random.default_rng(20)
    off = []
    for _ in range(count):
        t, rpm, spans = _two_falls(rng, rate_hz, lag_s, settle_s, drops_rpm)
        fits = fit_all(
            t, rpm, [(s, False) for s in spans], spans, Lags.usual(lag_scale), Tachometer(NOISE_RPM, GUSTS_RPM, 0.0)
        )
        off.append([(f.drop_rpm - d, f.base_rpm - LEVEL_RPM) for f, d in zip(fits, drops_rpm, strict=True)])
    return np.array(off)


@pytest.mark.parametrize(("rate_hz", "lag_s", "lag_scale"), [(10.0, 0.6, 1.0), (4.0, 0.5, 1.0), (4.0, 0.95, 3.7)])
def test_no_side_is_read_too_small_for_the_next_one_that_begins(rate_hz, lag_s, lag_scale):
    off = _errors(rate_hz, lag_s, lag_scale, settle_s=7.0)
    assert abs(off[:, 0, 0].mean()) < 0.75, (
        "rows in which the next one has begun to fall are no level that RPM came back to"
    )
    assert abs(off[:, :, 1].mean()) < 0.35, "nor are those in which it falls itself the level before"


@pytest.mark.parametrize(
    ("lag_s", "lag_scale", "lags", "drops_rpm"), [(2.4, 9.3, 4.2, (170.0, 90.0)), (0.95, 3.7, 5.3, (600.0, 80.0))]
)
def test_what_a_slow_engine_has_still_to_come_back_by_is_not_taken_for_its_level(lag_s, lag_scale, lags, drops_rpm):
    settle_s = lags * lag_s
    off = _errors(4.0, lag_s, lag_scale, settle_s, drops_rpm=drops_rpm)
    left_rpm = drops_rpm[0] * np.exp(-settle_s / lag_s)
    assert left_rpm > 2.4, "the question is asked only where something is left"
    assert abs(off[:, 1, 1].mean()) < 0.8
    assert abs(off[:, 1, 0].mean()) < 1.6


@pytest.mark.parametrize("lag_s", [0.3, 0.5, 0.8])
def test_every_drop_is_near_what_its_rows_can_carry(lag_s):
    off = _errors(4.0, lag_s, 1.0, settle_s=9.0)
    assert off[:, :, 0].std() < 2.3, "1.9 RPM by the gusts and noise of such rows (least squares with all else known)"


def test_an_engine_that_runs_without_its_rotor_is_read_by_its_own_lag():
    """With the clutch out RPM falls within a second: a rotor's two seconds and more would leave the drop ten RPM short."""
    off = _errors(4.0, 0.5, 9.3, settle_s=8.0)
    assert abs(off[:, :, 0].mean()) < 1.5
    assert abs(off[:, :, 1].mean()) < 1.0


def test_every_fall_has_neighbours_of_each_kind():
    side, hot, cycle, other, feather = (Span(row, row + 4) for row in (40, 30, 20, 10, 0))
    spans = RunUpSpans(((side, "left"),), (hot,), (cycle,), (Fall(other, 1700.0, 60.0, {}),), (feather,))
    assert spans.every == [feather, other, cycle, hot, side], (
        "what is next to one belongs to its neighbour, in order of time"
    )
