"""The numbers of today: what the day makes of a type's figures, and how a flight is told of them."""

import re

import numpy as np
import pytest

from jemmon.core.base.errors import OutOfRange
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.judge import judge
from jemmon.core.live.take_off import take_off_watch
from jemmon.core.power.settings import fuel_flow_gph
from jemmon.core.screen.today import DayAsked, today_page
from tests.core.builders import PROFILES, events, screen_of
from tests.core.test_in_the_air import flown, now_of, trace

DAY = {"elevation_ft": 1200.0, "altimeter_inhg": 29.80, "oat_c": 30.0}
WIND = {"runway_deg": 240.0, "wind_from_deg": 290.0, "wind_kt": 20.0}


def figures(kind: str, day=DAY, variation=0.0, **more) -> dict[str, float]:
    page = today_page(PROFILES[kind], {**day, **more}, DayAsked(variation_deg=variation))
    return {row.title: row.value for row in page.figures}


def test_the_density_altitude_of_the_page_is_that_of_the_air():
    page = today_page(PROFILES["a-trainer"], {**DAY, "dewpoint_c": 20.0}, DayAsked())
    rows = {row.title: row.value for row in page.figures}
    assert rows["Density altitude"] == page.air.density_altitude_ft
    # dry: 1,314 ft pressure altitude, ISA 12.4 °C; about 120 ft a degree (common practice), humid air some hundred more
    assert 3_300 < rows["Density altitude"] < 3_900


def test_a_fixed_pitch_turns_slower_at_rest_high_up_and_in_the_cold_and_no_more_is_asked_of_it_on_a_hot_day():
    """Cold air loads a propeller by 1 / T and adds to the power by T ** -0.5 only (SAE J1349): n goes with T ** (1/6)."""
    least = PROFILES["a-trainer"].limit("static_min_rpm")
    asked = [
        figures("a-trainer", {**DAY, "altimeter_inhg": 29.92, "elevation_ft": feet, "oat_c": oat_c})[
            "Static RPM, at least"
        ]
        for feet, oat_c in ((6_000.0, 3.0), (0.0, -20.0), (0.0, 35.0))
    ]
    assert asked == [
        pytest.approx(least * 0.9915, abs=5),  # to ten RPM
        pytest.approx(least * (253.15 / 288.15) ** (1 / 6), abs=5),
        least,
    ]
    assert all(rpm % 10 == 0 for rpm in asked)


@pytest.mark.parametrize("oat_c", [-15.0, 14.0, 30.0])
def test_page_watch_and_check_ask_the_same_static_speed(oat_c):
    profile, day = PROFILES["b-tourer"], {"elevation_ft": 900.0, "altimeter_inhg": 29.92, "oat_c": oat_c}
    page = figures("b-tourer", day)
    air = {"palt_ft": page["Pressure altitude"], "oat_f": oat_c * 1.8 + 32}
    rolls = trace(20, rpm=2500.0, map_inhg=27.0, throttle=1.0, ias_kt=20.0, **air)
    watch = take_off_watch(profile, flown(profile, profile.take_off.phase), rolls, now_of(rolls))
    (rpm,) = (row for row in watch.rows if row.name == "RPM")
    stands = trace(60, rpm=0.0, throttle=0.1, map_inhg=12.0, ias_kt=0.0, **air)
    full = stands.time_s > 20
    stands.columns["rpm"] = np.where(full, 2500.0, 900.0)
    stands.columns["throttle"], stands.columns["map_inhg"] = np.where(full, 1.0, 0.1), np.where(full, 27.0, 12.0)
    (found,) = judge(stands, profile, ("power_check",))
    assert page["Static RPM, at least"] == rpm.low == found.limits["static_min_rpm"]


@pytest.mark.parametrize(
    ("variation", "head", "cross"),
    [(0.0, 13, 15), (10.0, 15, 13), (-10.0, 10, 17)],  # 20 kt at 50°, 40° and 60° to the runway: cosine and sine
)
def test_the_wind_is_true_and_the_runway_magnetic(variation, head, cross):
    rows = figures("a-trainer", variation=variation, **WIND)
    assert (rows["Headwind"], rows["Crosswind"]) == (head, cross)


def test_a_tailwind_is_loud():
    wind = {"runway_deg": 100.0, "wind_from_deg": 290.0, "wind_kt": 20.0}
    loud = [row.title for row in today_page(PROFILES["a-trainer"], {**DAY, **wind}, DayAsked()).figures if row.look]
    assert loud == ["TAILWIND"]
    assert not any(row.look for row in today_page(PROFILES["a-trainer"], {**DAY, **WIND}, DayAsked()).figures)


def test_a_helicopter_has_its_limit_of_the_day_and_a_fixed_pitch_no_manifold_pressure():
    assert "Limit of the day" in figures("e-rotor")
    chart = PROFILES["e-rotor"].body["never_exceed"]
    cold = figures("e-rotor", {"elevation_ft": 0.0, "altimeter_inhg": 29.92, "oat_c": chart["oat_c"][0]})
    assert cold["Never-exceed speed of the day"] == chart["kt"][0][0]
    assert figures("e-rotor")["Never-exceed speed of the day"] < cold["Never-exceed speed of the day"]
    assert "Never-exceed speed of the day" not in figures("a-trainer")
    assert "Manifold pressure at full throttle" not in figures("a-trainer")
    assert figures("d-twin")["Manifold pressure at full throttle"] < 29.0


def test_the_weather_that_a_flight_is_told_has_the_wind_by_the_compass():
    page = today_page(PROFILES["a-trainer"], {**DAY, **WIND}, DayAsked(cruise_ft=5_500.0, variation_deg=10.0))
    assert page.weather["wind_from_deg"] == 280.0
    assert page.cruise_ft == 5_500.0
    assert today_page(PROFILES["a-trainer"], DAY, DayAsked()).cruise_ft == PROFILES["a-trainer"].schedule["cruise_ft"]


def test_without_a_pressure_nothing_is_worked_out_and_nonsense_is_refused():
    assert figures("a-trainer", {"oat_c": 10.0}) == {}
    with pytest.raises(OutOfRange):
        figures("a-trainer", {**DAY, "oat_c": 99.0})


def test_the_fuel_lasts_to_the_reserve_at_the_flow_of_the_highest_cruise():
    """FAA-H-8083-25 (from memory): endurance is usable fuel over flow; 14 CFR 91.151: half an hour by day stays."""
    profile = PROFILES["a-trainer"]

    def lasts(gal: float):
        figures = today_page(profile, DAY, DayAsked(fuel_gal=gal)).figures
        return next(row for row in figures if row.title == "Minutes to the reserve")

    flow_gph = fuel_flow_gph(profile, 75.0)
    assert lasts(20.0).value == pytest.approx((20.0 / flow_gph - 0.5) * 60, abs=1)
    assert not lasts(20.0).look
    assert lasts(flow_gph / 2 - 0.1).look
    assert not lasts(flow_gph / 2 + 0.1).look
    assert not any(row.title == "Minutes to the reserve" for row in today_page(profile, DAY, DayAsked()).figures)


@pytest.mark.parametrize("name", ["b-tourer", "d-twin", "f-radial", "i-turbo"])
def test_the_page_says_of_manifold_pressure_what_the_take_off_watch_stops_for(name):
    profile = PROFILES[name]
    page = today_page(profile, DAY, DayAsked())
    row = next(one for one in page.figures if one.title == "Manifold pressure at full throttle")
    (stops_at_inhg,) = (float(figure) for figure in re.findall(r"\{([0-9.]+)\|inhg\}", row.note))
    rated = float(profile.engine["rated_rpm"])
    for map_inhg, stops in ((stops_at_inhg - 0.5, True), (stops_at_inhg + 0.1, False)):
        air = {"palt_ft": page.air.pressure_altitude_ft, "oat_f": DAY["oat_c"] * 1.8 + 32}
        rolls = trace(20, rpm=rated, map_inhg=map_inhg, throttle=1.0, ias_kt=20.0, **air)
        watch = take_off_watch(profile, flown(profile, profile.take_off.phase), rolls, now_of(rolls))
        assert ("anifold" in (watch.stop or "")) == stops, watch.stop
    assert stops_at_inhg < row.value


def test_a_rotors_manifold_pressure_is_no_look_for_less():
    page = today_page(PROFILES["e-rotor"], DAY, DayAsked())
    (row,) = (one for one in page.figures if one.title == "Manifold pressure at full throttle")
    assert "stop" not in row.note
    assert "look" not in row.note


@pytest.mark.parametrize(
    ("name", "has_ice"), [("a-trainer", True), ("f-radial", True), ("b-tourer", False), ("h-geared", False)]
)
def test_ice_in_the_carburettor_is_told_of_engines_that_have_one(name, has_ice):
    damp = {**DAY, "oat_c": 12.0, "dewpoint_c": 11.0}
    assert bool(today_page(PROFILES[name], damp, DayAsked()).air.icing) == has_ice
    state = fold(PROFILES[name], events(("weather", damp)))
    assert bool(screen_of(PROFILES[name], state, None, 1.0)["air"]["icing"]) == has_ice
