"""Figures of what is said in the air and on the take-off roll, each tried just inside and just outside of where it turns. Common
practice, but where a test says otherwise."""

import re

import numpy as np
import pytest

from jemmon.core.live.climb import climb_lines, follow_climb
from jemmon.core.live.descent import descent_lines
from jemmon.core.live.heat import cooling, heat_lines
from jemmon.core.live.rpm_ranges import speed_lines
from jemmon.core.live.take_off import follow_take_off, take_off_watch
from jemmon.core.power.settings import full_throttle_inhg
from tests.core.builders import PROFILES
from tests.core.test_in_the_air import flown, leaned, now_of, told, trace

A, B, TWIN, TURBO = (PROFILES[name] for name in ("a-trainer", "b-tourer", "d-twin", "i-turbo"))


def heat(profile, phase, samples, **levers):
    return told(heat_lines(profile, flown(profile, phase), samples, now_of(samples, **levers)))


def warming(comes_in_s: float, lag_s: float, noise_f: float):
    """A minute of a head that follows its power as a lump does: at the act figure so many seconds after it, settling 40 °F above
    (arithmetic)."""
    act, t = B.limit("cht_act_f"), np.arange(0, 60, 0.25)
    head = act + 40.0 * (1 - np.exp((comes_in_s + t[-1] - t) / lag_s))
    return trace(60, cht1_f=head + noise_f * np.random.default_rng(4).standard_normal(len(t)), ias_kt=95)


@pytest.mark.parametrize("noise_f", [0.0, 0.5])
@pytest.mark.parametrize("lag_s", [50.0, 80.0, 120.0])
@pytest.mark.parametrize(("comes_in_s", "said"), [(70.0, True), (120.0, False)])
def test_a_head_that_comes_to_its_limit_within_ninety_seconds_is_said(comes_in_s, said, lag_s, noise_f):
    """Lumped heat capacity (Incropera and DeWitt, chapter 5): by the rate alone it would seem to come far sooner."""
    words = heat(B, "climb", warming(comes_in_s, lag_s, noise_f))["head"]
    assert ("will be at" in words) == said
    if said:
        (told_s,) = (float(found) for found in re.findall(r"in (\d+) s", words))
        assert told_s == pytest.approx(comes_in_s, rel=0.3)


@pytest.mark.parametrize("lag_s", [50.0, 80.0, 120.0])
def test_a_head_that_settles_below_its_limit_is_not_said(lag_s):
    """The first minutes of every climb: 30 °F below and rising, it will stay 10 °F below."""
    act, t = B.limit("cht_act_f"), np.arange(0, 60, 0.25)
    head = act - 10 - 20 * np.exp(-(t - t[-1]) / lag_s)
    assert "will be at" not in heat(B, "climb", trace(60, cht1_f=head, ias_kt=95))["head"]


@pytest.mark.parametrize("seconds", [30.0, 60.0])
@pytest.mark.parametrize(("by_line_s", "said"), [(61.0, True), (66.0, False)])
def test_a_head_whose_rise_does_not_bend_yet_will_bend(by_line_s, said, seconds):
    """With the longest time constant, two minutes: 120 s x (1 - exp(-90 s / 120 s)) is 63 s by its straight line."""
    act, rises_f_s = B.limit("cht_act_f"), 0.3
    ends = act - by_line_s * rises_f_s
    coming = trace(seconds, cht1_f=(ends - (seconds - 0.25) * rises_f_s, ends), ias_kt=95)
    assert ("will be at" in heat(B, "climb", coming)["head"]) == said


@pytest.mark.parametrize(("above", "acts"), [(0.0, False), (0.6, True)])
def test_a_head_acts_above_its_figure(above, acts):
    hot = trace(60, cht1_f=B.limit("cht_act_f") + above, ias_kt=95)
    assert (", act at" in heat(B, "climb", hot)["head"]) == acts


@pytest.mark.parametrize(("fall_f_min", "said"), [(49.0, False), (51.0, True)])
def test_a_fall_of_a_head_is_noted_from_fifty_degrees_a_minute(fall_f_min, said):
    falling = trace(60, cht1_f=(390, 390 - fall_f_min), ias_kt=120)
    assert ("falling" in heat(B, "descent", falling)) == said


@pytest.mark.parametrize(("ago_s", "said"), [(35.0, True), (65.0, False)])
def test_a_fall_of_a_head_counts_for_forty_seconds(ago_s, said):
    fell = trace(200, cht1_f=390, ias_kt=120)
    late = fell.time_s > fell.time_s[-1] - ago_s
    fell.columns["cht1_f"][late] -= np.minimum(40, 60 * (np.arange(late.sum()) / 4) / 20)
    assert ("falling" in heat(B, "descent", fell)) == said


@pytest.mark.parametrize(("ias_kt", "said"), [(44.0, False), (46.0, True)])
def test_heads_are_watched_from_flying_speed_on(ias_kt, said):
    assert ("head" in heat(B, "climb", trace(60, cht1_f=380, ias_kt=ias_kt))) == said


@pytest.mark.parametrize(("below_f", "said"), [(30.0, True), (31.0, False)])
def test_a_turbine_is_said_thirty_degrees_before_its_limit(below_f, said):
    near = trace(60, tit_f=TURBO.limit("tit_max_f") - below_f, ias_kt=160)
    assert ("turbine" in heat(TURBO, "cruise", near)) == said


@pytest.mark.parametrize(
    ("changed", "said"),
    [
        ({"palt_ft": 7000}, False), ({"palt_ft": 7001}, True), ({"palt_ft": 4999}, True),
        ({"map_inhg": 24.0}, False), ({"map_inhg": 24.1}, True),
        ({"rpm": 2400}, False), ({"rpm": 2401}, True), ({"rpm": 2199}, True),
    ],
)  # fmt: skip
def test_a_mixture_is_set_again_after_so_much_of_a_change(changed, said):
    state = leaned(B, "cruise", palt_ft=6000, map_inhg=23, rpm=2300)
    now = trace(60, **{"palt_ft": 6000, "map_inhg": 23, "rpm": 2300, **changed}, ias_kt=140)
    assert ("lean_again" in told(heat_lines(B, state, now, now_of(now)))) == said


@pytest.mark.parametrize(("lever", "said"), [(0.45, False), (0.55, True)])
def test_a_mixture_is_set_again_with_carburettor_heat_on(lever, said):
    state = leaned(A, "cruise", palt_ft=6000)
    now = trace(60, palt_ft=6000, ias_kt=100)
    assert ("lean_again" in told(heat_lines(A, state, now, now_of(now, carb_heat=lever)))) == said


@pytest.mark.parametrize(
    ("egt_f", "cht_f", "said"), [(36.0, 0.0, True), (34.0, 0.0, False), (0.0, 26.0, True), (0.0, 24.0, False)]
)
def test_a_cylinder_is_apart_by_more_than_the_others_scatter(egt_f, cht_f, said):
    apart = trace(200, egt1_f=1400, egt2_f=1405, egt3_f=1390, cht1_f=350, cht2_f=352, cht3_f=348, ias_kt=140)
    apart.columns["egt2_f"][-200:] += egt_f
    apart.columns["cht2_f"][-200:] += cht_f
    assert ("apart" in heat(B, "cruise", apart)) == said


@pytest.mark.parametrize(("seconds", "said"), [(61.0, False), (65.0, True)])
def test_a_cylinder_is_held_against_how_it_was_a_minute_ago(seconds, said):
    apart = trace(seconds, egt1_f=1400, egt2_f=1405, egt3_f=1390, ias_kt=140)
    apart.columns["egt2_f"][-80:] += 80
    assert ("apart" in heat(B, "cruise", apart)) == said


@pytest.mark.parametrize(("share", "said"), [(0.04, True), (0.06, False)])
def test_no_cylinder_is_judged_while_power_moves(share, said):
    apart = trace(200, egt1_f=1400, egt2_f=1405, egt3_f=1390, rpm=(2300, 2300 * (1 + share)), ias_kt=140)
    apart.columns["egt2_f"][-200:] += 80
    assert ("apart" in heat(B, "cruise", apart)) == said


@pytest.mark.parametrize(("above_f", "waits"), [(1.0, True), (0.0, False)])
def test_the_engine_idles_until_its_heads_are_cool(above_f, waits):
    profile = next(one for one in PROFILES.values() if one.has_limit("cht_shutdown_max_f"))
    hot = trace(90, cht1_f=profile.limit("cht_shutdown_max_f") + above_f, rpm=800, rpm_pct=60)
    assert ("idle on until" in told(cooling(profile, hot))["cooling"]) == waits


def rolling(profile=A, phase="take_off_climb", **changed):
    usual = {"rpm": 2300.0, "map_inhg": 27.9, "throttle": 1.0, "ias_kt": 20.0, "palt_ft": 600.0, "oat_f": 59.0}
    samples = trace(20, **{**usual, **changed})
    return take_off_watch(profile, flown(profile, phase), samples, now_of(samples))


@pytest.mark.parametrize(("climbed_ft", "watched"), [(29.0, True), (31.0, False)])
def test_what_has_left_the_ground_is_not_stopped(climbed_ft, watched):
    assert (rolling(palt_ft=(600.0, 600.0 + climbed_ft)) is not None) == watched


@pytest.mark.parametrize(("more_kt", "watched"), [(0.0, True), (1.0, False)])
def test_a_take_off_is_stopped_up_to_the_speed_at_which_the_type_rotates(more_kt, watched):
    rotates = float(A.body["briefing"]["rotate_kt"])
    assert (rolling(ias_kt=rotates + more_kt) is not None) == watched


@pytest.mark.parametrize(("ias_kt", "judged"), [(34.0, True), (36.0, False)])
def test_a_fixed_propellers_speed_is_static_only_below_some_airspeed(ias_kt, judged):
    assert ("RPM" in [row.name for row in rolling(ias_kt=ias_kt).rows]) == judged


@pytest.mark.parametrize(("throttle", "full"), [(0.89, False), (0.91, True)])
def test_a_take_off_begins_with_the_throttle_nearly_open(throttle, full):
    assert (rolling(throttle=throttle) is not None) == full


@pytest.mark.parametrize(("share", "full"), [(0.89, False), (0.91, True)])
def test_without_a_lever_a_take_off_begins_at_nearly_full_manifold_pressure(share, full):
    outside = full_throttle_inhg(A, float(A.engine["rated_rpm"]), 600.0)
    samples = trace(20, rpm=2300.0, map_inhg=share * outside, ias_kt=20.0, palt_ft=600.0, oat_f=59.0)
    assert (take_off_watch(A, flown(A, "take_off_climb"), samples, now_of(samples)) is not None) == full


@pytest.mark.parametrize(("open_s", "settled"), [(2.75, False), (3.25, True)])
def test_power_is_given_three_seconds_to_come_up(open_s, settled):
    throttle = np.where(np.arange(0, 20, 0.25) > 19.75 - open_s - 0.125, 1.0, 0.2)
    weak = trace(20, rpm=2000.0, map_inhg=20.0, ias_kt=20.0, palt_ft=600.0, oat_f=59.0)
    weak.columns["throttle"] = throttle
    watch = take_off_watch(A, flown(A, "take_off_climb"), weak, now_of(weak))
    assert watch.settled == settled
    assert bool(watch.stop) == settled


@pytest.mark.parametrize(("short_inhg", "stops"), [(1.3, False), (1.7, True)])
def test_a_take_off_is_stopped_that_lacks_an_inch_and_a_half_of_manifold_pressure(short_inhg, stops):
    good = rolling()
    ((event,)) = [follow_take_off("f", A, now_of(trace(20, rpm=2300, map_inhg=27.9, palt_ft=600)), good)]
    (lack,) = event[0].body["lacks_inhg"].values()
    assert bool(rolling(map_inhg=27.9 + lack - short_inhg).stop) == stops


@pytest.mark.parametrize(("apart_rpm", "stops"), [(89.0, False), (91.0, True)])
def test_engines_without_a_manifold_pressure_are_held_against_each_other_by_speed(apart_rpm, stops):
    """75 RPM, and 15 that a needle may show."""
    full = TWIN.limit("rpm_max") - 10.0
    samples = trace(20, rpm=full, e2_rpm=full - apart_rpm, throttle=1.0, ias_kt=20.0, palt_ft=600.0, oat_f=59.0)
    watch = take_off_watch(TWIN, flown(TWIN, "take_off"), samples, now_of(samples))
    row = next(row for row in watch.rows if row.name.startswith("Left and right"))
    assert (row.ok is False) == stops


@pytest.mark.parametrize(("lower_ft", "said"), [(999, False), (1000, True)])
def test_a_step_richer_is_asked_for_each_thousand_feet(lower_ft, said):
    state = leaned(B, "descent", palt_ft=6000, map_inhg=23, rpm=2300)
    low = trace(60, palt_ft=6000 - lower_ft, map_inhg=20, rpm=2300, ias_kt=120)
    assert ("richer" in told(descent_lines(B, state, low, now_of(low, mixture=0.6)))) == said


@pytest.mark.parametrize(("lever", "said"), [(0.94, True), (0.96, False)])
def test_no_step_richer_is_asked_of_a_mixture_that_is_rich(lever, said):
    state = leaned(B, "descent", palt_ft=6000, map_inhg=23, rpm=2300)
    low = trace(60, palt_ft=4000, map_inhg=20, rpm=2300, ias_kt=120)
    assert ("richer" in told(descent_lines(B, state, low, now_of(low, mixture=lever)))) == said


@pytest.mark.parametrize(("above", "said"), [(150.0, True), (151.0, False)])
def test_heat_is_asked_for_a_little_above_its_speed(above, said):
    low = trace(60, rpm=A.limit("carb_heat_below_rpm") + above, cht1_f=340, ias_kt=80)
    state = flown(A, "descent_landing")
    assert ("carb_heat" in told(descent_lines(A, state, low, now_of(low, carb_heat=0.0)))) == said


@pytest.mark.parametrize(
    ("rpm_s", "ago_s", "said"), [(85, 0.0, True), (75, 0.0, False), (120, 5.0, True), (120, 8.0, False)]
)
def test_a_propeller_that_goes_forward_in_a_jump_is_said_for_some_seconds(rpm_s, ago_s, said):
    speed = 2100 + rpm_s * np.clip(np.arange(0, 60, 0.25) - (59.75 - 2.0 - ago_s), 0.0, 2.0)
    jumped = trace(60, rpm=2100, map_inhg=15, ias_kt=90)
    jumped.columns["rpm"] = speed
    assert ("propeller" in told(descent_lines(B, flown(B, "before_landing"), jumped, now_of(jumped)))) == said


@pytest.mark.parametrize(("held_s", "said"), [(7.5, False), (8.5, True)])
def test_a_range_to_avoid_is_named_after_eight_seconds_in_it(held_s, said):
    ((low, high),) = TWIN.power_section["avoid_rpm"]
    speed = np.where(np.arange(0, 30, 0.25) > 29.75 - held_s, (low + high) / 2, low - 150.0)
    held = trace(30, rpm=2300, e2_rpm=2300)
    held.columns["rpm"] = speed
    assert bool(told(speed_lines(TWIN, flown(TWIN, "cruise"), held, now_of(held)))) == said


def climb(profile=B, phase="climb", seconds=60, state=None, **columns):
    samples = trace(seconds, **columns)
    return told(climb_lines(profile, state or flown(profile, phase), samples, now_of(samples)))


@pytest.mark.parametrize(("rate_fpm", "said"), [(190.0, False), (210.0, True)])
def test_a_climb_is_one_from_two_hundred_feet_a_minute(rate_fpm, said):
    assert ("traffic" in climb(palt_ft=(3002 - rate_fpm, 3002), ias_kt=95)) == said


@pytest.mark.parametrize(("ago_s", "said"), [(11.0, True), (13.0, False)])
def test_traffic_is_looked_for_for_some_seconds_after_each_thousand_feet(ago_s, said):
    ends = 3000 + ago_s * 10.0
    assert ("traffic" in climb(palt_ft=(ends - 597.5, ends), ias_kt=95)) == said


@pytest.mark.parametrize(("rises_kt_s", "waits"), [(0.16, True), (0.14, False)])
def test_climb_power_stays_while_speed_rises(rises_kt_s, waits):
    cruise_ft = float(B.schedule["cruise_ft"])
    said = climb(palt_ft=cruise_ft, ias_kt=(100.0, 100.0 + 59.75 * rises_kt_s))["level_off"]
    assert said.startswith("Level: keep" if waits else "Speed has settled")


@pytest.mark.parametrize(("off_ft", "said"), [(249.0, True), (251.0, False)])
def test_level_is_within_so_many_feet(off_ft, said):
    assert ("level_off" in climb(palt_ft=float(B.schedule["cruise_ft"]) - off_ft, ias_kt=(100, 120))) == said


@pytest.mark.parametrize(
    ("above_ft", "map_share", "mixture", "noted"),
    [
        (501, 1.0, 1.0, True), (499, 1.0, 1.0, False), (2499, 1.0, 1.0, True), (2501, 1.0, 1.0, False),
        (1000, 0.94, 1.0, True), (1000, 0.92, 1.0, False), (1000, 1.0, 0.94, False), (1000, 1.0, 0.96, True),
    ],
)  # fmt: skip
def test_the_egt_of_full_rich_is_noted_low_down_and_at_full_power(above_ft, map_share, mixture, noted):
    palt_ft = float(B.schedule.get("palt_ground_ft", 0.0)) + above_ft
    map_inhg = map_share * full_throttle_inhg(B, 2500.0, palt_ft)
    now = trace(10, palt_ft=palt_ft, map_inhg=map_inhg, rpm=2500.0, egt1_f=1250, egt2_f=1270, ias_kt=95)
    events = follow_climb("f", B, flown(B, "climb"), now_of(now, mixture=mixture))
    assert bool(events) == noted
    assert not noted or events[0].body["egt_f"] == 1260
