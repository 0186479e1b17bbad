"""How deep a fall was, where others stand close by: rows that belong to a neighbour are no level."""

import numpy as np
import pytest

from jemmon.core.judgement.falls import Fall
from jemmon.core.judgement.judge import judge
from jemmon.core.judgement.recognition import RunUpSpans
from jemmon.core.trace import Trace
from jemmon.core.trace.dip_fit import fit_all
from jemmon.core.trace.dips import Span
from jemmon.core.trace.engine_lags import Lags
from jemmon.core.trace.tachometer import Tachometer
from tests.core.builders import PROFILES

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
    side, hot, cycle, other, feather, slip = (Span(row, row + 4) for row in (50, 40, 30, 20, 10, 0))
    spans = RunUpSpans(((side, "left"),), (hot,), (cycle,), (Fall(other, 1700.0, 60.0, {}),), (feather,), (slip,))
    assert spans.every == [slip, feather, other, cycle, hot, side], (
        "what is next to one belongs to its neighbour, in order of time"
    )


def _slipped(t, at_s):
    """Return how far RPM lies below its level [RPM] (rows,) for slips of the switch of 0.8 s."""
    return sum(60.0 * (_followed(t - s, 0.5) - _followed(t - s - 0.8, 0.5)) for s in at_s)


@pytest.mark.parametrize("rate_hz", [1.0, 4.0])
def test_a_slip_of_the_switch_is_no_gust_whether_or_not_it_is_known_of(rate_hz):
    rng, found = np.random.default_rng(5), []
    t = np.arange(0, 72, 1 / rate_hz)
    for _ in range(60):
        rpm = LEVEL_RPM - _slipped(t, (8.0, 31.0, 52.0)) + NOISE_RPM * rng.standard_normal(t.size)
        found.append(Tachometer.seen_in(t, rpm, []).gusts_rpm)
    assert np.mean(found) < 2.3, "a calm engine; slips made it 6 RPM and more"


def test_gusts_are_still_seen_as_gusts():
    rng, found = np.random.default_rng(6), []
    t, keep = np.arange(0, 72, 0.25), np.exp(-0.25 / GUSTS_LAST_S)
    for _ in range(40):
        gusts, now = np.zeros(t.size), 0.0
        for row in range(t.size):
            gusts[row] = now
            now = keep * now + 5.0 * np.sqrt(1 - keep**2) * rng.standard_normal()
        rpm = LEVEL_RPM + gusts + NOISE_RPM * rng.standard_normal(t.size)
        found.append(Tachometer.seen_in(t, rpm, []).gusts_rpm)
    assert 2.7 < np.mean(found) < 5.4, "five RPM, of which twelve seconds show most"


@pytest.mark.parametrize("has_switch", [True, False])
def test_a_slip_just_before_a_side_is_not_its_level(has_switch):
    """The level before was read up to 5 RPM low from rows in which RPM came back from the slip."""
    rng, off = np.random.default_rng(7), []
    t = np.arange(0, 70, 0.25)
    for _ in range(30):
        sides = [(22.0, 29.0), (44.0, 51.0)]
        slips = [down - rng.uniform(3.0, 3.8) for down, _ in sides]
        rpm = LEVEL_RPM - _slipped(t, slips) + NOISE_RPM * rng.standard_normal(t.size)
        switch = np.full(t.size, "BOTH", dtype=object)
        for at_s in slips:
            switch[(t >= at_s) & (t < at_s + 0.8)] = "L"
        for (down_s, up_s), side in zip(sides, "LR", strict=True):
            rpm -= DROP_RPM * (_followed(t - down_s, 0.5) - _followed(t - up_s, 0.5))
            switch[(t >= down_s) & (t < up_s)] = side
        trace = Trace(t, {"rpm": rpm} | ({"mag": switch} if has_switch else {}))
        (told,) = (f for f in judge(trace, PROFILES["a-trainer"], ("mag_check",), tell_gaps=False))
        names = ("left", "right") if has_switch else ("first", "second")
        drops_rpm = [told.measured[f"drop_{name}_rpm"] for name in names]
        off += [drop_rpm - DROP_RPM for drop_rpm in drops_rpm if drop_rpm is not None]
    assert len(off) > 54
    assert abs(np.mean(off)) < 0.9
    assert np.std(off) < 2.4
