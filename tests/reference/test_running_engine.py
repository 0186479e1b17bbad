"""The running engine on its propeller: magnetos, plugs, carburettor heat, idle, cut-off, oil, bus and prime."""

import numpy as np
import pytest
from CoolProp.CoolProp import PropsSI

from jemmon.core.bench.metering import relative_vapour_pressure
from tests.reference.dyno import SECTION, egts, reading, running, settle_heads, steady


def throttle_for(bench, rpm: float) -> float:
    """Find the throttle that holds `rpm`, by halving."""
    low, high = 0.0, 1.0
    for _ in range(14):
        middle = (low + high) / 2
        if steady(bench, 12.0, throttle=middle)["rpm"] < rpm:
            low = middle
        else:
            high = middle
    return (low + high) / 2


@pytest.fixture
def at_runup():
    bench = running(1800)
    throttle_for(bench, 1800)
    settle_heads(bench)
    throttle_for(bench, 1800)
    bench.advance(30)
    return bench


@pytest.mark.parametrize("side", ["L", "R"])
def test_one_healthy_magneto(at_runup, side):
    """Common practice; energy: 40 to 110 RPM, MAP +0.3 to 0.7 inHg, EGT +70 to 180 °F evenly, CHT falls."""
    before, egt_before = reading(at_runup), egts(at_runup)
    after = steady(at_runup, 10.0, mag=side)
    rises = egts(at_runup) - egt_before
    assert 40 <= before["rpm"] - after["rpm"] <= 110
    assert 0.3 <= after["map_inhg"] - before["map_inhg"] <= 0.7
    assert 70 <= rises.min() <= rises.max() <= 180
    assert np.ptp(rises) <= 40
    later = steady(at_runup, 60.0)
    assert later["cht1_f"] < before["cht1_f"]


def test_a_slow_probe_shows_most_of_the_rise_after_five_seconds():
    """A first-order probe of 3 s shows 1 - exp(-5/3) = 81 % after 5 s (arithmetic)."""
    from jemmon.core.bench import Sensors
    from jemmon.core.bench.bench import SensorTable

    bench = running(1800)
    steady(bench, 60.0, throttle=0.32)
    sensors = Sensors(bench, [1], SensorTable(noise={}, rounding={}))
    column = bench.channels.index("egt1_f")
    before, true_before = sensors.read(60.0)[0][column], egts(bench)[0]
    bench.set_lever("mag", "L")
    for _ in range(50):
        bench.advance(0.1)
        shown = sensors.read(0.1)[0][column]
    assert (shown - before) / (egts(bench)[0] - true_before) == pytest.approx(0.8, abs=0.08)


def test_one_dead_plug(at_runup):
    """Common practice; energy: that cylinder 60 to 150 °F up on both; on its magneto EGT collapses, 200 RPM, rough."""
    usual = egts(at_runup)
    at_runup.set_fault("dead_plug_left_2", 1.0)
    at_runup.advance(30)
    assert 60 <= (egts(at_runup) - usual)[1] <= 150
    on_both = reading(at_runup)["rpm"]
    on_left = steady(at_runup, 10.0, mag="L")["rpm"]
    assert on_both - on_left >= 200
    assert egts(at_runup)[1] < usual[1] - 200
    assert at_runup.state["roughness"][0] > 0.3


def test_open_ground_lead_gives_no_drop_on_the_other_side(at_runup):
    """Common practice: no drop with L selected means that the right magneto is not going off."""
    at_runup.set_fault("open_ground_right", 1.0)
    before = reading(at_runup)["rpm"]
    assert steady(at_runup, 8.0, mag="L")["rpm"] == pytest.approx(before, abs=2)
    assert before - steady(at_runup, 8.0, mag="R")["rpm"] > 40
    assert steady(at_runup, 8.0, mag="OFF")["rpm"] > 1000


def test_carburettor_heat(at_runup):
    """Common practice: about 45 K costs 50 to 150 RPM at fixed pitch; EGT falls 10 to 60 °F at full rich."""
    before, egt_before = reading(at_runup), egts(at_runup).mean()
    hot = steady(at_runup, 15.0, carb_heat=1.0)
    assert 50 <= before["rpm"] - hot["rpm"] <= 150
    assert 10 <= egt_before - egts(at_runup).mean() <= 60
    assert steady(at_runup, 8.0, carb_heat=0.0)["rpm"] == pytest.approx(before["rpm"], abs=3)


def test_carburettor_ice_melts_under_heat_and_ends_above_the_first_figure(at_runup):
    """Common practice; CAA leaflet on piston engine icing: a recovery while hot, and more than before when cold."""
    at_runup.set_fault("carburettor_ice", 0.6)
    iced = steady(at_runup, 5.0)["rpm"]
    lowest = min(steady(at_runup, 0.5, carb_heat=1.0)["rpm"] for _ in range(20))
    recovered = steady(at_runup, 25.0)["rpm"]
    assert recovered > lowest + 15
    assert steady(at_runup, 10.0, carb_heat=0.0)["rpm"] > iced + 20


def test_static_and_idle_speed_are_in_the_profiles_range():
    bench = running(1000)
    settle_heads(bench)
    assert 2230 <= steady(bench, 30.0, throttle=1.0)["rpm"] <= 2420
    assert 600 <= steady(bench, 30.0, throttle=0.0)["rpm"] <= 800


@pytest.mark.parametrize(
    ("fault", "lowest", "highest"), [(None, 10, 50), ("lean_idle", -60, 9.9), ("rich_idle", 50.1, 200)]
)
def test_slow_idle_cut_off(fault, lowest, highest):
    """Common practice: RPM rises 10 to 50, then dies; no rise = idle lean, more = rich."""
    bench = running(1000)
    settle_heads(bench)
    if fault:
        bench.set_fault(fault, 1.0)
    before = steady(bench, 30.0, throttle=0.06)["rpm"]
    bench.set_lever("mixture", 0.0, ramp_s=12.0)
    highest_seen = max(steady(bench, 0.2)["rpm"] for _ in range(75))
    assert lowest <= highest_seen - before <= highest
    assert steady(bench, 5.0)["rpm"] == 0


@pytest.mark.parametrize(("oat_c", "within_s"), [(15, 30), (-10, 60)])
def test_oil_pressure_after_start(oat_c, within_s):
    """Common practice: above 25 psi within 30 s at 15 °C."""
    bench = cold_start(oat_c)
    shown = [steady(bench, 1.0)["oil_p_psi"] for _ in range(within_s)]
    assert shown[0] < 25
    assert max(shown) > 25


def test_cold_oil_reads_far_above_normal_and_falls_as_it_warms():
    """Common practice."""
    bench = cold_start(-15)
    cold = steady(bench, 60.0, throttle=0.1)["oil_p_psi"]
    warm = steady(bench, 1500.0, throttle=0.1)["oil_p_psi"]
    assert cold > 1.4 * warm


def cold_start(oat_c: float, strokes: float | None = None):
    """Crank a cold engine with as many strokes as the arithmetic of bench.md wants; return it, running or not."""
    bench = running()
    bench.set_air(oat_c=oat_c)
    for name in ("throttle", "carb_heat"):
        bench.set_lever(name, 0.0)
    bench.set_lever("throttle", 0.06)
    bench.make_cold()
    bench.state["last_throttle"] = 0.06
    bench.prime(strokes if strokes is not None else 3.0 * relative_vapour_pressure(288.15) / vapour(oat_c))
    bench.set_lever("starter", True)
    for _ in range(60):
        if steady(bench, 0.1)["rpm"] > 400:
            break
    bench.set_lever("starter", False)
    return bench


def vapour(oat_c: float) -> float:
    return relative_vapour_pressure(oat_c + 273.15)


@pytest.mark.parametrize("oat_c", [30, 15, 0, -10])
def test_enough_prime_fires_and_too_little_does_not(oat_c):
    """Arithmetic of a film that evaporates; common practice: 1 to 2 strokes warm, 2 to 4 mild, 4 to 6 cold."""
    assert steady(cold_start(oat_c), 3.0)["rpm"] > 500
    needed = 3.0 * vapour(15) / vapour(oat_c)
    assert steady(cold_start(oat_c, strokes=0.25 * needed), 3.0)["rpm"] < 60
    assert steady(cold_start(oat_c, strokes=0), 3.0)["rpm"] < 60


def test_needed_prime_falls_with_temperature_as_vapour_pressure_rises():
    """`CoolProp`: isopentane and isooctane, which bracket avgas, change by the same factor within a third, 0 to 38 °C."""
    ours = vapour(37.8) / vapour(0.0)
    light, heavy = (
        PropsSI("P", "T", 310.95, "Q", 0, fluid) / PropsSI("P", "T", 273.15, "Q", 0, fluid)
        for fluid in ("Isopentane", "n-Octane")
    )
    assert light * 0.9 < ours < heavy


def test_bus_volts():
    """Common practice, 24 V system: about 25 V at rest with a light load, 24 V about half flat; 28 V charging."""
    bench = running()
    bench.make_cold()
    assert steady(bench, 2.0)["volts_v"] == pytest.approx(25.0, abs=0.3)
    bench.set_fault("weak_battery", 0.5)
    assert steady(bench, 2.0)["volts_v"] == pytest.approx(24.0, abs=0.3)
    assert steady(running(1200), 10.0, throttle=0.12)["volts_v"] == pytest.approx(28.0, abs=0.3)
    bench = running(1200)
    bench.set_fault("dead_alternator", 1.0)
    assert steady(bench, 10.0, throttle=0.12)["volts_v"] < 25.5


def test_cranking_pulls_the_bus_down_and_turns_slower_when_cold():
    warm, cold = cold_crank(15), cold_crank(-20)
    assert warm["volts_v"] < 24
    assert cold["rpm"] < 0.8 * warm["rpm"]


def cold_crank(oat_c: float):
    bench = running()
    bench.set_air(oat_c=oat_c)
    bench.make_cold()
    return steady(bench, 2.0, throttle=0.05, starter=True, mag="OFF")


def test_a_weak_suction_pump_shows():
    bench = running(1800)
    assert steady(bench, 10.0, throttle=0.32)["suction_inhg"] == pytest.approx(SECTION["suction_inhg"], abs=0.05)
    bench.set_fault("weak_suction", 0.5)
    assert steady(bench, 10.0)["suction_inhg"] < 3.0
