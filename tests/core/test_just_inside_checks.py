"""When a check looks at all: what counts as in the air, as full throttle, as idle, as a running engine; each just inside and just
outside of where it turns. Common practice, but where a test says otherwise."""

import numpy as np
import pytest

from jemmon.core.judgement.airborne import airborne, on_ground
from jemmon.core.judgement.check import Evidence
from jemmon.core.judgement.stretches import run_up_spans
from tests.core.builders import PROFILES, changed
from tests.core.test_just_inside import exceeded, trace, verdict_of

A, E = PROFILES["a-trainer"], PROFILES["e-rotor"]
# what lies a tenth above the type's own run-up counts too: here that is lower
LOW_RUN_UP = changed("a-trainer", lambda body: body["limits"]["runup_rpm"].update(value=1600))
SCALE = A.speed_scale  # direct-drive figures, by the type's rated speed


def flies_at_end(samples, profile=A) -> bool:
    return bool(airborne(Evidence(samples, profile))[-1])


@pytest.mark.parametrize(("ias_kt", "flies"), [(34.9, False), (35.1, True)])
def test_by_airspeed_it_flies_above_a_figure(ias_kt, flies):
    assert flies_at_end(trace(30.0, rpm=2400.0, ias_kt=ias_kt)) == flies


@pytest.mark.parametrize(("above_ft", "flies"), [(245.0, False), (255.0, True)])
def test_by_altitude_it_flies_well_above_where_it_was_lowest(above_ft, flies):
    height_ft = np.interp(
        np.arange(0, 300, 0.25), [0, 100, 200, 300], [600.0, 600.0, 600.0 + above_ft, 600.0 + above_ft]
    )
    assert flies_at_end(trace(300.0, rpm=1600.0 * SCALE, palt_ft=height_ft)) == flies


def test_a_leap_of_the_altimeter_is_no_flight():
    t = np.arange(0, 300, 0.25)
    height_ft = np.where((t > 150) & (t < 153), 1200.0, 600.0)
    assert not airborne(Evidence(trace(300.0, rpm=1200.0, palt_ft=height_ft), A)).any()


@pytest.mark.parametrize(
    ("rpm", "seconds", "flies"),
    [
        (2160.0, 42.0, True), (2140.0, 42.0, False), (2160.0, 38.0, False),
        (1965.0, 203.0, True), (1930.0, 203.0, False), (1990.0, 195.0, False),
    ],
)  # fmt: skip
def test_by_power_it_flies_that_held_more_than_anyone_does_on_the_ground(rpm, seconds, flies):
    t = np.arange(0, 60 + seconds, 0.25)
    speed = np.where(t < 60, 1000.0, rpm) * SCALE
    assert flies_at_end(trace(60 + seconds, rpm=speed), LOW_RUN_UP) == flies


@pytest.mark.parametrize(("after_s", "flies"), [(19.0, False), (21.0, True)])
def test_the_roll_of_a_take_off_is_ground(after_s, flies):
    t = np.arange(0, 160, 0.25)
    flown = airborne(Evidence(trace(160.0, rpm=np.where(t < 60, 1000.0, 2300.0) * SCALE), A))
    assert bool(flown[np.searchsorted(t, 60 + after_s)]) == flies


@pytest.mark.parametrize(("rpm", "flies"), [(1410.0, True), (1390.0, False)])
def test_after_a_flight_taxi_speed_is_ground(rpm, flies):
    t = np.arange(0, 400, 0.25)
    assert flies_at_end(trace(400.0, rpm=np.where(t < 300, 2300.0, rpm) * SCALE)) == flies


@pytest.mark.parametrize(
    ("low_s", "rpm", "flies"),
    [
        (39.0, 800.0, True),
        (44.0, 800.0, True),
        (47.0, 800.0, False),
        (218.0, 1000.0, True),
        (222.0, 1000.0, False),
        (218.0, 960.0, False),
    ],
)
def test_a_short_glide_between_two_powers_is_no_landing(low_s, rpm, flies):
    """One minute at any speed, four minutes faster than 980 RPM; the roll that would follow counts for 20 s of it. With the
    throttle closed it is on short final for 45 s."""
    t = np.arange(0, 700, 0.25)
    speed = np.where((t >= 300) & (t < 300 + low_s), rpm, 2300.0) * SCALE
    row = np.searchsorted(t, 300 + low_s - 0.5)
    assert bool(airborne(Evidence(trace(700.0, rpm=speed), A))[row]) == flies


@pytest.mark.parametrize(("away_s", "grounded"), [(149.0, True), (151.0, False)])
def test_minutes_after_taxiing_it_is_known_to_be_on_the_ground(away_s, grounded):
    t = np.arange(0, 400, 0.25)
    known = on_ground(Evidence(trace(400.0, rpm=np.where(t < 100, 1000.0, 1800.0) * SCALE), A))
    assert bool(known[np.searchsorted(t, 99.75 + away_s)]) == grounded


@pytest.mark.parametrize(("rpm", "found"), [(1390.0, 0), (1420.0, 1), (2400.0, 1), (2440.0, 0)])
def test_a_run_up_is_looked_for_about_its_speed(rpm, found):
    t = np.arange(0, 60, 0.25)
    speed = np.where((t > 20) & (t < 40), rpm, 1000.0) * SCALE
    assert len(run_up_spans(Evidence(trace(60.0, rpm=speed), A))) == found


@pytest.mark.parametrize(("seconds", "found"), [(9.75, 0), (10.75, 1)])
def test_a_run_up_lasts_ten_seconds(seconds, found):
    t = np.arange(0, 60, 0.25)
    speed = np.where((t > 20) & (t <= 20 + seconds), 1800.0, 1000.0) * SCALE
    assert len(run_up_spans(Evidence(trace(60.0, rpm=speed), A))) == found


@pytest.mark.parametrize(("pause_s", "found"), [(7.0, 1), (9.0, 2)])
def test_a_short_pause_parts_no_run_up(pause_s, found):
    t = np.arange(0, 90, 0.25)
    away = (t < 10) | (t > 70) | (t > 40) & (t < 40 + pause_s)
    assert len(run_up_spans(Evidence(trace(90.0, rpm=np.where(away, 1000.0, 1800.0) * SCALE), A))) == found


# ---- full throttle ---------------------------------------------------------------------------------------------------

STATIC = A.limit("static_min_rpm")


def full_throttle(low=0.4, rpm=STATIC + 20.0, throttle=1.0, begins_s=20.0, rises_s=0.0, holds_s=40.0):
    t = np.arange(0, 90, 0.25)
    ends = begins_s + rises_s + holds_s
    speed = np.interp(
        t, [begins_s - 0.25, begins_s + rises_s, ends, ends + 0.25], [low * STATIC, rpm, rpm, low * STATIC]
    )
    return trace(90.0, rpm=speed, throttle=np.where((t >= begins_s) & (t <= ends), throttle, 0.1), ias_kt=0.0)


@pytest.mark.parametrize(
    ("made", "verdict"),
    [
        ({"low": 0.59}, "within"), ({"low": 0.61}, "nothing"),
        ({"throttle": 0.86}, "within"), ({"throttle": 0.84}, "nothing"),
        ({"rpm": 0.86 * STATIC}, "stop"), ({"rpm": 0.84 * STATIC}, "nothing"),
        ({"holds_s": 5.5}, "within"), ({"holds_s": 4.0}, "nothing"),
    ],
)  # fmt: skip
def test_full_throttle_from_low_speed_is_a_power_check(made, verdict):
    assert verdict_of("power_check", A, full_throttle(**made)) == verdict


@pytest.mark.parametrize(("waits_s", "verdict"), [(28.0, "within"), (32.0, "nothing")])
def test_power_comes_up_within_half_a_minute_of_idle(waits_s, verdict):
    t = np.arange(0, 120, 0.25)
    speed = np.select([t < 20, t < 20 + waits_s], [0.4 * STATIC, 0.75 * STATIC], STATIC + 20.0)
    throttle = np.where(t < 20 + waits_s, 0.4, 1.0)
    assert verdict_of("power_check", A, trace(120.0, rpm=speed, throttle=throttle, ias_kt=0.0)) == verdict


@pytest.mark.parametrize(("below_inhg", "verdict"), [(2.4, "within"), (2.6, "nothing")])
def test_without_a_lever_full_throttle_is_near_the_pressure_outside(below_inhg, verdict):
    """29.92 inHg at sea level (ISO 2533)."""
    whole = full_throttle()
    pressure = np.where(whole.columns["throttle"] > 0.5, 29.92 - below_inhg, 12.0)
    shown = trace(90.0, rpm=whole.columns["rpm"], map_inhg=pressure, palt_ft=0.0, ias_kt=0.0)
    assert verdict_of("power_check", A, shown) == verdict


# ---- governor, alternator, shutdown, exceedance ----------------------------------------------------------------------


@pytest.mark.parametrize(("from_pct", "verdict"), [(78.5, "within"), (77.5, "nothing")])
def test_a_governor_is_judged_from_the_speed_at_which_it_works(from_pct, verdict):
    t = np.arange(0, 60, 0.25)
    speed = np.where(t < 24, from_pct, E.limit("rpm_pct_max_pct"))
    shown = trace(60.0, rpm_pct=speed, rotor_pct=speed, governor=np.where(t < 20, 0.0, 1.0))
    assert verdict_of("governor_check", E, shown) == verdict


@pytest.mark.parametrize(("comes_s", "verdict"), [(7.5, "within"), (12.5, "look")])
def test_a_governor_has_eight_seconds(comes_s, verdict):
    t = np.arange(0, 60, 0.25)
    speed = np.where(t < 20 + comes_s, 85.0, E.limit("rpm_pct_max_pct"))
    shown = trace(60.0, rpm_pct=speed, rotor_pct=speed, governor=np.where(t < 20, 0.0, 1.0))
    assert verdict_of("governor_check", E, shown) == verdict


def switched_off(seconds=6.0, fall_v=2.0, low_share=1.0, with_switch=True, firing=1800.0):
    t = np.arange(0, 90, 0.25)
    off = (t >= 20) & (t < 20 + seconds)
    volts = np.where(off, A.limit("volts_charging_min_v") - fall_v, A.limit("volts_charging_min_v") + 0.2)
    speed = np.where(off, low_share, 1.0) * firing
    return trace(90.0, rpm=speed, volts_v=volts, **({"alternator": np.where(off, 0.0, 1.0)} if with_switch else {}))


@pytest.mark.parametrize(
    ("made", "verdict"),
    [
        ({"seconds": 29.5}, "within"), ({"seconds": 31.0}, "nothing"), ({"seconds": 0.5}, "nothing"),
        ({"with_switch": False}, "within"),
        ({"with_switch": False, "fall_v": 0.65}, "within"), ({"with_switch": False, "fall_v": 0.55}, "nothing"),
        ({"with_switch": False, "low_share": 0.61}, "within"), ({"with_switch": False, "low_share": 0.59}, "nothing"),
    ],
)  # fmt: skip
def test_an_alternator_that_was_off_briefly_was_tried(made, verdict):
    assert verdict_of("alternator_check", A, switched_off(**made)) == verdict


def cut(rise_rpm=25.0, dies_s=5.0, idle_rpm=700.0):
    t = np.arange(0, 60, 0.25)
    rich_rpm = idle_rpm + rise_rpm
    at_s = [40, 40 + 0.3 * dies_s, 40 + 0.6 * dies_s, 40 + dies_s]
    speed = np.interp(t, at_s, [idle_rpm, rich_rpm, rich_rpm, 0.0])
    return trace(60.0, rpm=speed, mixture=np.interp(t, [40, 40 + 0.8 * dies_s], [1.0, 0.0]))


@pytest.mark.parametrize(
    ("made", "verdict"),
    [
        ({"rise_rpm": 8.0}, "within"), ({"rise_rpm": 5.0}, "look"),
        ({"rise_rpm": 51.0}, "within"), ({"rise_rpm": 56.0}, "look"),
        ({"dies_s": 2.0}, "unknown"), ({"dies_s": 4.0}, "within"),
        ({"idle_rpm": 1420.0}, "within"), ({"idle_rpm": 1460.0}, "nothing"),
    ],
)  # fmt: skip
def test_the_rise_of_a_slow_cut_off(made, verdict):
    """10 to 50 RPM, and 3 that a needle may show."""
    assert verdict_of("shutdown_check", A, cut(**made)) == verdict


@pytest.mark.parametrize(("gap_s", "count"), [(4.0, "stop"), (6.0, "nothing")])
def test_two_short_times_beyond_a_limit_are_one_where_they_follow_each_other(gap_s, count):
    t = np.arange(0, 300, 0.25)
    over = (t >= 200) & (t < 202) | (t >= 202 + gap_s) & (t < 204 + gap_s)
    oil_f = np.where(over, A.limit("oil_t_max_f") + 5, 180.0)
    assert verdict_of("exceedance", A, trace(300.0, rpm=2400.0, oil_p_psi=60.0, oil_t_f=oil_f)) == count


@pytest.mark.parametrize(("ran_s", "verdict"), [(58.0, "nothing"), (70.0, "stop")])
def test_a_limit_counts_on_an_engine_that_has_run_for_a_minute(ran_s, verdict):
    t = np.arange(0, 300, 0.25)
    speed = np.where(t < 100, 0.0, 1000.0)
    low = (t > 102) & (t < 100 + ran_s)
    oil_psi = np.where(t < 100, 0.0, np.where(low, A.limit("oil_pressure_min_psi") - 5, 60.0))
    usual = {"oil_t_f": 180.0, "cht1_f": 350.0}
    assert verdict_of("exceedance", A, trace(300.0, rpm=speed, oil_p_psi=oil_psi, **usual)) == verdict


@pytest.mark.parametrize(("rpm", "verdict"), [(990.0, "nothing"), (1010.0, "look")])
def test_above_idle_the_usual_oil_pressure_counts_where_a_type_allows_less_at_idle(rpm, verdict):
    profile = next(one for one in PROFILES.values() if one.has_limit("oil_pressure_idle_min_psi"))
    least = profile.limit("oil_pressure_min_psi") - 5
    assert least > profile.limit("oil_pressure_idle_min_psi")
    told = exceeded("oil_p_psi", least, 20.0, profile, rpm=rpm * profile.speed_scale)
    assert (told != "nothing") == (verdict != "nothing")
