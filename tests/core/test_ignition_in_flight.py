"""One ignition that stops in flight: told by the exhausts alone, and by nothing that a hand or the air does."""

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES
from tests.strange import hands

A = PROFILES["a-trainer"]


def told(
    rise_f: float = 110.0,
    odd_f: float | None = None,
    flow: float = 1.0,
    pressure: float = 1.0,
    rpm: float = 0.975,
    lasts_s: float = 90.0,
    ias_kt: float = 95.0,
    kind: str = "a-trainer",
    rate_hz: float = 2.0,
    **levers: object,
) -> list:
    """What is told of three minutes of cruise in which, after 90 s, figures go to a share of theirs and every exhaust rises."""
    t = np.arange(0, 180, 1 / rate_hz)
    after = (t >= 90) & (t < 90 + lasts_s)
    rng = np.random.default_rng(5)

    def moved(base: float, share: float, noise: float) -> np.ndarray:
        return base * np.where(after, share, 1.0) + noise * rng.standard_normal(len(t))

    columns = {
        "rpm": moved(2400, rpm, 3),
        "map_inhg": moved(23.0, pressure, 0.03),
        "ff_gph": moved(8.0, flow, 0.03),
        "ias_kt": np.full(len(t), ias_kt),
    }
    for number in range(1, 5):
        own = odd_f if odd_f is not None and number == 3 else rise_f
        columns[f"egt{number}_f"] = 1350 + 10 * number + np.where(after, own, 0) + 1.5 * rng.standard_normal(len(t))
    for name, values in levers.items():
        columns[name] = np.array([values] * len(t), dtype=object) if isinstance(values, str) else np.asarray(values(t))
    return judge(Trace(t, columns), PROFILES[kind], ("ignition_lost",))


def test_every_exhaust_that_rises_at_once_is_one_ignition_less():
    (finding,) = told()
    assert finding.verdict == "look"
    assert finding.measured["egt_rise_f"] == pytest.approx(110, abs=4)
    assert finding.measured["rpm_fall"] == pytest.approx(60, abs=6)
    assert 90 <= finding.start_s <= 100


@pytest.mark.parametrize(
    ("inside", "outside"),
    [
        ({"rise_f": 55.0}, {"rise_f": 46.0}),
        ({"odd_f": 56.0}, {"odd_f": 44.0}),  # less than half of what the others rise by
        ({"flow": 0.981}, {"flow": 0.966}),
        ({"flow": 1.032}, {"flow": 1.05}),
        ({"pressure": 0.976, "flow": 0.976}, {"pressure": 0.96, "flow": 0.96}),
        ({"pressure": 1.14, "flow": 1.14}, {"pressure": 1.17, "flow": 1.17}),
        ({"rpm": 0.93}, {"rpm": 0.91}),
        ({"rpm": 1.002}, {"rpm": 1.01}),
        ({"lasts_s": 20.0}, {"lasts_s": 7.0}),
        ({"ias_kt": 40.0}, {"ias_kt": 30.0}),
        ({"rate_hz": 0.5}, {"rate_hz": 0.02}),
    ],
)
def test_just_inside_it_is_told_and_just_outside_it_is_not(inside, outside):
    assert len(told(**inside)) == 1
    assert told(**outside) == []


@pytest.mark.parametrize("lever", ["throttle", "mixture"])
def test_what_a_hand_did_is_not_told(lever):
    assert told(**{lever: lambda t: np.where(t < 88, 0.7, 0.66)}) == []
    assert len(told(**{lever: lambda t: np.full(len(t), 0.7)})) == 1


def test_a_switch_on_one_side_explains_it():
    assert told(mag="L") == []
    assert len(told(mag="BOTH")) == 1
    assert len(told(mag="")) == 1, "a record without a word says nothing of the switch"


def test_one_probe_alone_tells_nothing_and_a_broken_one_hides_nothing():
    assert told(rise_f=0.0, odd_f=120.0) == []
    t = np.arange(0, 180, 0.5)
    dead = np.full(len(t), 59.0)
    assert len(told(egt3_f=lambda _: dead)) == 1


@pytest.mark.parametrize("seed", range(8_800, 8_812))
def test_no_flight_of_another_making_has_one(seed):
    for make in (hands.flight, hands.no_failure):
        story = make(seed)
        assert not judge(story.trace, PROFILES[story.kind], ("ignition_lost",))


@pytest.mark.parametrize("lane", ["lane_a", "lane_b"])
@pytest.mark.parametrize(("share", "count"), [(0.0, 0), (1.0, 1)])
def test_a_lane_that_is_off_explains_it(lane, share, count):
    assert len(told(**{lane: lambda t: np.full(len(t), share)})) == count
