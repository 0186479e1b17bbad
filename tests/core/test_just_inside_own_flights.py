"""What counts as a held cruise and as a warm-up in an aircraft's own flights: each just inside and just outside of where it turns
(common practice, but where a test says otherwise)."""

import numpy as np
import pytest

from jemmon.core.drills.own_flights import find_cruise, find_warm_up
from tests.core.test_just_inside import trace

STEADY = {"rpm": 2300.0, "map_inhg": 23.0, "ff_gph": 8.0, "palt_ft": 5000.0, "ias_kt": 100.0, "oat_f": 40.0}


def cruise(seconds: float, **changed: object):
    t = np.arange(0, seconds, 0.25)
    columns = {**STEADY, "cht1_f": np.linspace(350.0, 380.0, len(t)), "egt1_f": 1400.0, **changed}
    return find_cruise(
        trace(seconds, **{name: value(t) if callable(value) else value for name, value in columns.items()})
    )


@pytest.mark.parametrize(("seconds", "held_s"), [(610, 600), (590, 300), (310, 300), (290, 120), (130, 120)])
def test_the_longest_of_three_lengths_is_taken(seconds, held_s):
    assert cruise(seconds).held_s == pytest.approx(held_s, abs=0.5)


def test_a_cruise_shorter_than_two_minutes_is_none():
    assert cruise(115) is None


@pytest.mark.parametrize(
    ("name", "width"), [("rpm", 40.0), ("map_inhg", 0.8), ("ff_gph", 0.8), ("palt_ft", 300.0), ("ias_kt", 15.0)]
)
@pytest.mark.parametrize(("share", "is_held"), [(0.97, True), (1.03, False)])
def test_a_cruise_is_held_within_what_a_pilot_calls_steady(name, width, share, is_held):
    """Of nine tenths of its rows: a few are noise."""

    def moves(t: np.ndarray) -> np.ndarray:
        return STEADY[name] + share * width / 0.9 * np.linspace(-0.5, 0.5, len(t))[np.argsort(np.sin(t * 7.3))]

    assert (cruise(130, **{name: moves}) is not None) == is_held


@pytest.mark.parametrize(("ias_kt", "flies"), [(49.0, False), (51.0, True)])
def test_a_cruise_is_flown(ias_kt, flies):
    assert (cruise(130, ias_kt=ias_kt) is not None) == flies


def test_a_cruise_is_read_off_at_its_two_ends():
    found = cruise(601, cht1_f=lambda t: np.where(t < 25, 340.0, np.where(t > 580, 380.0, 300.0)), cowl_flaps=0.4)
    assert (found.cht_from_f[1], found.cht_f[1], found.cowl_flaps) == (340.0, 380.0, 0.4)
    assert cruise(130).cowl_flaps == 0.0


@pytest.mark.parametrize(("until_s", "read_f"), [(11.0, 340.0), (9.0, 300.0)])
def test_each_end_of_a_cruise_is_read_off_over_twenty_seconds(until_s, read_f):
    """Their middle, so that what passes within ten of them is not taken for it (our own choice)."""
    assert cruise(600.5, cht1_f=lambda t: np.where(t < until_s, 340.0, 300.0)).cht_from_f[1] == read_f


def warm_up(seconds: float = 200.0, rises_f: float = 40.0):
    t = np.arange(0, 300.0, 0.25)
    oil_t_f = np.interp(t, [30.0, 30.0 + seconds], [60.0, 60.0 + rises_f])
    told = {"kind": "warm_up", "start_s": 0.0, "end_s": 35.0 + seconds}
    return find_warm_up(trace(300.0, oil_t_f=oil_t_f, rpm=1000.0, oat_f=50.0), [told])


@pytest.mark.parametrize(("seconds", "counts"), [(89.0, False), (91.0, True)])
def test_a_warm_up_takes_a_minute_and_a_half(seconds, counts):
    assert (warm_up(seconds) is not None) == counts


@pytest.mark.parametrize(("rises_f", "counts"), [(14.5, False), (15.5, True)])
def test_oil_that_hardly_warms_shows_no_warm_up(rises_f, counts):
    assert (warm_up(rises_f=rises_f) is not None) == counts


def test_oil_counts_from_half_a_minute_after_the_first_fire():
    found = warm_up(200.0)
    assert found.seconds == pytest.approx(200.0, abs=0.5)
    assert (found.from_f, found.to_f) == (pytest.approx(60.0, abs=0.5), pytest.approx(100.0, abs=0.5))
