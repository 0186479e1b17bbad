"""Checks by their levers: when a switch or a lever makes a magneto, hot air, a cycle, an idle of it; each just inside and just
outside of where it turns. Common practice, but where a test says otherwise."""

import numpy as np
import pytest

from jemmon.core.judgement.judge import judge
from jemmon.core.judgement.magneto import burn_off_rpm
from jemmon.core.live.burn_off import burnt_s
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, changed
from tests.core.test_just_inside import trace, verdict_of

A, B = PROFILES["a-trainer"], PROFILES["b-tourer"]


def switched(*sides, base=1800.0, rate_hz=4.0, drop=90.0, seconds=120.0) -> Trace:
    """A run-up with its ignition switch: each side is (L or R, from s, for s)."""
    t = np.arange(0, seconds, 1 / rate_hz)
    rpm, switch = np.full(t.size, base), np.full(t.size, "BOTH", dtype=object)
    for side, from_s, for_s in sides:
        rows = (t >= from_s) & (t < from_s + for_s)
        rpm[rows], switch[rows] = base - drop, side
    return Trace(t, {"rpm": rpm, "mag": switch})


def sides_of(samples, profile=A) -> int:
    """How many sides were measured in all."""
    found = judge(samples, profile, ("mag_check",), tell_gaps=False)
    return sum(name.startswith("drop_") and "plus" not in name and value is not None and np.isfinite(value)
               for one in found for name, value in one.measured.items())  # fmt: skip


@pytest.mark.parametrize(("rate_hz", "held_s", "sides"), [(4.0, 1.75, 1), (4.0, 1.25, 0), (1.0, 3.0, 1), (1.0, 2.0, 0)])
def test_a_side_is_held_for_a_moment_and_in_rows_a_second_apart_for_longer(rate_hz, held_s, sides):
    assert sides_of(switched(("L", 30.0, held_s), rate_hz=rate_hz)) == sides


@pytest.mark.parametrize(("rpm", "sides"), [(690.0, 0), (710.0, 1)])
def test_a_switch_that_is_turned_with_the_engine_hardly_running_is_no_check(rpm, sides):
    assert sides_of(switched(("L", 30.0, 5.0), base=rpm * A.speed_scale, drop=20.0)) == sides


@pytest.mark.parametrize(("apart_s", "checks"), [(58.0, 1), (62.0, 2)])
def test_two_sides_are_one_check_within_a_minute(apart_s, checks):
    """docs/formats.md: a check ends when the engine has been left on both for so long."""
    samples = switched(("L", 30.0, 6.0), ("R", 36.0 + apart_s, 6.0), seconds=180.0)
    assert len(judge(samples, A, ("mag_check",), tell_gaps=False)) == checks


@pytest.mark.parametrize(("off_bands", "verdict"), [(2.9, "within"), (3.1, "look")])
def test_a_check_far_from_its_speed_proves_nothing(off_bands, verdict):
    base = A.limit("runup_rpm") + off_bands * A.limit("runup_band_rpm")
    found = judge(switched(("L", 30.0, 6.0), ("R", 42.0, 6.0), base=base), A, ("mag_check",), tell_gaps=False)
    assert (found[-1].verdict == "within") == (verdict == "within")


def heated(held_s=8.0, rpm=1800.0, drop=80.0, throttle=0.4, moved=0.0) -> Trace:
    t = np.arange(0, 90, 0.25)
    hot = (t >= 30) & (t < 30 + held_s)
    return trace(90.0, rpm=np.where(hot, rpm - drop, rpm), carb_heat=hot * 1.0, throttle=throttle + moved * hot)


@pytest.mark.parametrize(
    ("made", "found"),
    [
        ({"held_s": 2.75}, True), ({"held_s": 1.75}, False),
        ({"rpm": 1110.0, "drop": 60.0}, True), ({"rpm": 1000.0, "drop": 60.0}, False),
        ({"moved": 0.09}, True), ({"moved": 0.11}, False),
    ],
)  # fmt: skip
def test_heat_is_checked_at_power_with_the_throttle_still(made, found):
    assert (verdict_of("carb_heat_check", A, heated(**made)) != "nothing") == found


def cycled(drop=420.0, lever=0.2, held_s=4.0, base=1900.0, back=0.0, oil_dip=6.0, again_s=None) -> Trace:
    t = np.arange(0, 120, 0.25)
    starts = [30.0] + ([] if again_s is None else [30.0 + held_s + again_s])
    rows = np.any([(t >= at) & (t < at + held_s) for at in starts], axis=0)
    rpm = np.where(rows, base - drop * np.clip(t - 30, 0, 1), np.where(t > 30, base + back, base))
    return trace(120.0, rpm=rpm, prop=np.where(rows, lever, 1.0), oil_p_psi=np.where(rows, 60.0 - oil_dip, 60.0),
                 map_inhg=np.where(rows, 17.5, 17.0))  # fmt: skip


USUAL = B.limit("prop_drop_rpm")


@pytest.mark.parametrize(
    ("made", "verdict"),
    [
        ({"drop": 0.51 * USUAL}, "within"), ({"drop": 0.49 * USUAL}, "look"),
        ({"lever": 0.79}, "within"), ({"lever": 0.81}, "nothing"),
        ({"held_s": 19.5}, "within"), ({"held_s": 20.5}, "nothing"),
        ({"base": 1210.0 * B.speed_scale}, "within"), ({"base": 1190.0 * B.speed_scale}, "nothing"),
        ({"back": 49.0}, "within"), ({"back": 51.0}, "look"), ({"back": -51.0}, "look"),
        ({"oil_dip": 1.1}, "within"), ({"oil_dip": 0.9}, "look"),
    ],
)  # fmt: skip
def test_a_cycle_by_its_lever(made, verdict):
    """A cycle falls at least half of the type's figure and comes back; an oil-operated hub shows it in the oil pressure."""
    oil = changed("b-tourer", lambda body: body["engine"].update(propeller_hub="oil"))
    assert verdict_of("prop_cycle", oil, cycled(**made)) == verdict


@pytest.mark.parametrize(
    ("falls_s", "held_s", "verdict"),
    [
        (3.4, 8.0, "within"), (3.6, 8.0, "look"),  # four fifths of it after 2.8 s, and half a row
        (4.0, 2.75, "within"), (4.0, 3.0, "look"),  # still falling when it came back, after 2.6 s and a row
        (6.2, 6.0, "look"), (12.0, 6.0, "look"),
    ],
)  # fmt: skip
def test_a_pitch_that_moves_slowly_is_told(falls_s, held_s, verdict):
    t = np.arange(0, 120, 0.25)
    away = (t >= 30) & (t < 30 + held_s)
    rpm = np.where(away, 1900.0 - USUAL * np.clip((t - 30) / falls_s, 0, 1), 1900.0)
    shown = trace(120.0, rpm=rpm, prop=np.where(away, 0.2, 1.0), map_inhg=np.where(away, 17.5, 17.0))
    assert verdict_of("prop_cycle", B, shown) == verdict


@pytest.mark.parametrize(("again_s", "series"), [(29.0, 1), (31.0, 2)])
def test_cycles_that_follow_each_other_are_one_series(again_s, series):
    assert len(judge(cycled(again_s=again_s), B, ("prop_cycle",), tell_gaps=False)) == series


def closed(idle=650.0, throttle=0.0, lasts_s=10.0, closes_s=2.0, from_rpm=1800.0, mixture=1.0) -> Trace:
    t = np.arange(0, 120, 0.25)
    ends = 30 + closes_s + lasts_s
    rpm = np.interp(t, [30, 30 + closes_s, ends, ends + 1], [from_rpm, idle, idle, 1300.0])
    low = (t >= 30) & (t < ends)
    return trace(120.0, rpm=rpm, throttle=np.where(low, throttle, 0.4), mixture=np.where(low, mixture, 1.0))


IDLE = (A.limit("idle_min_rpm") + A.limit("idle_max_rpm")) / 2


@pytest.mark.parametrize(
    ("made", "found"),
    [
        ({}, True), ({"throttle": 0.03}, True), ({"throttle": 0.05}, False),
        ({"from_rpm": 1310.0 * A.speed_scale}, True), ({"from_rpm": 1290.0 * A.speed_scale}, False),
        ({"mixture": 0.11}, True), ({"mixture": 0.09}, False),
    ],
)  # fmt: skip
def test_a_throttle_closed_from_run_up_speed_is_an_idle_check(made, found):
    assert (verdict_of("idle_check", A, closed(idle=IDLE, **made)) != "nothing") == found


@pytest.mark.parametrize(("rpm", "found"), [(995.0, True), (1005.0, False)])
def test_what_idles_fast_is_still_looked_at_below_a_thousand(rpm, found):
    assert (verdict_of("idle_check", A, closed(idle=rpm)) == "look") == found


@pytest.mark.parametrize(("fell_rpm", "verdict"), [(51.0, "within"), (49.0, "stop")])
def test_an_engine_that_stands_with_the_throttle_closed_is_a_stop(fell_rpm, verdict):
    shown = closed(idle=IDLE)
    shown.columns["rpm"][(shown.time_s > 37) & (shown.time_s < 40)] = fell_rpm
    assert verdict_of("idle_check", A, shown) == verdict


@pytest.mark.parametrize(
    ("share", "mixture", "counted"),
    [(0.95, 0.6, True), (0.93, 0.6, False), (1.0, 0.92, True), (1.0, 0.94, False)],
)
def test_a_burn_off_counts_near_its_speed_and_leaned(share, mixture, counted):
    rpm = np.where(np.arange(0, 90, 0.25) < 45, 1000.0, share * burn_off_rpm(A))
    burnt = burnt_s(trace(90.0, rpm=rpm, mixture=mixture), A, 0.0)
    assert burnt == pytest.approx(44.75 if counted else 0.0, abs=0.5)


def test_a_burn_off_counts_from_when_it_was_asked_for():
    t = np.arange(0, 300, 0.25)
    fast = (t > 20) & (t < 60) | (t > 200)
    shown = trace(300.0, rpm=np.where(fast, 1.0, 0.5) * burn_off_rpm(A), mixture=0.6)
    assert burnt_s(shown, A, 100.0) == pytest.approx(99.75, abs=0.5)


def left_on_both(waits_s: float, has_switch: bool) -> Trace:
    """A side, so long on both, the other side; by the switch, or by the needles alone."""
    t = np.arange(0, 160.0 + waits_s, 0.25)
    left, right = (t >= 40) & (t < 46), (t >= 46 + waits_s) & (t < 52 + waits_s)
    rpm = 1800.0 - 70 * left - 90 * right + np.random.default_rng(3).normal(0, 2, t.size)
    columns = {f"egt{number}_f": 1250.0 + 5 * number + 60.0 * (left | right) for number in range(1, 5)}
    if has_switch:
        columns["mag"] = np.where(left, "L", np.where(right, "R", "BOTH")).astype(object)
    return Trace(t, {"rpm": np.where((t < 20) | (t > 130 + waits_s), 1000.0, rpm), **columns})


@pytest.mark.parametrize("has_switch", [True, False])
@pytest.mark.parametrize(("waits_s", "checks"), [(58.0, ["within"]), (62.0, ["incomplete", "incomplete"])])
def test_a_check_ends_when_the_engine_was_left_on_both_for_a_minute(waits_s, checks, has_switch):
    """docs/formats.md: earlier sides belong to the same check, later ones to another."""
    found = judge(left_on_both(waits_s, has_switch), A, ("mag_check",), tell_gaps=False)
    assert [finding.verdict for finding in found] == checks
