"""Figures of a start and of what is kept of it, each tried just inside and just outside of where it turns. Common practice, but
where a test says otherwise."""

import numpy as np
import pytest

from jemmon.core.flight.fold import fold
from jemmon.core.judgement.judge import evidence_of
from jemmon.core.live.checks import follow_checks
from jemmon.core.start.advice import TOO_LITTLE, Attempt, advise_start
from jemmon.core.start.story import stories_of_trace
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES
from tests.core.test_just_inside import trace

A, RADIAL = PROFILES["a-trainer"], PROFILES["f-radial"]


def second_try(metal_c: float, shots: float, cranking_s: float) -> float:
    before = Attempt(metal_c=metal_c, strokes=shots, outcome=TOO_LITTLE, cranking_s=cranking_s)
    return advise_start(RADIAL, metal_c, now=[before]).strokes


@pytest.mark.parametrize(("metal_c", "shots", "leaves_in_40_s"), [(0.0, 9.0, 0.59), (-20.0, 14.0, 0.28)])
def test_a_prime_leaves_as_vapour_slower_from_cold_metal(metal_c, shots, leaves_in_40_s):
    """In 10 s at 37.8 °C, with a slope of 3,380 K (our own time; ASTM D323, D910): 1 - exp(-40 s / 10 s x exp(-3,380 K (1/T - 1/311
    K))) is 0.59 at 0 °C, 0.28 at -20 °C. What has left is given again."""
    more = second_try(metal_c, shots, 40.0) - second_try(metal_c, shots, 0.0)
    assert more == pytest.approx(leaves_in_40_s * shots, abs=0.6)


def started(cranked_s: float = 4.0, seconds: float = 240.0) -> Trace:
    """It is cranked, fires after a minute and a half, has oil pressure after five seconds; no needle shows the bus."""
    fired = np.arange(0.0, seconds, 0.25) - 90.0
    shown = trace(seconds, rpm=np.where(fired >= 0, 1000.0, 0.0), oil_p_psi=np.where(fired > 5, 60.0, 0.0))
    shown.columns["starter"] = np.where((fired < 0) & (fired >= -cranked_s), 1.0, 0.0)
    return shown


@pytest.mark.parametrize(("after_s", "is_told"), [(59.0, False), (61.0, True)])
def test_a_start_whose_charge_nothing_shows_is_told_after_a_minute(after_s, is_told):
    shown = started()
    recent = shown.part(0, int((90.0 + after_s) * 4) + 1)
    evidence = evidence_of(recent, A, {1: stories_of_trace(A, recent)})
    assert bool(follow_checks("f", A, fold(A, []), evidence, ("start",))) == is_told


@pytest.mark.parametrize(("ago_s", "belongs"), [(55.0, True), (65.0, False)])
def test_cranking_belongs_to_the_start_that_follows_within_a_minute(ago_s, belongs):
    shown = started(cranked_s=2.0)
    fired = shown.time_s - 90.0
    shown.columns["starter"][(fired >= -ago_s) & (fired < -ago_s + 5.0)] = 1.0
    (story,) = stories_of_trace(A, shown)
    assert story.cranking_s == pytest.approx(7.0 if belongs else 2.0, abs=0.6)


@pytest.mark.parametrize(("slows_s", "stops"), [(19.0, True), (28.0, False)])
def test_an_engine_that_runs_down_is_followed_for_twenty_seconds(slows_s, stops):
    """A needle that stays there longer has an engine that still turns it."""
    t = np.arange(0.0, 300.0, 0.25)
    firing = A.limit("rpm_firing_min")
    ends_s = 200.25 + slows_s
    rpm = np.interp(t, [90, 90.25, 200, 200.25, ends_s, ends_s + 0.25], [0, 1000, 1000, firing - 1, 0.7 * firing, 0])
    (story,) = stories_of_trace(A, trace(300.0, rpm=rpm, oil_p_psi=60.0))
    assert (story.stopped_s is not None) == stops
