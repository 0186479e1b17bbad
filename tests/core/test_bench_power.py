"""What is done to the air before the throttle, detonation, tanks that run dry, and the path that power and drag make."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jemmon.core.aircraft.airframe import airframe_of, climb_m_s
from jemmon.core.aircraft.phases import PHASE_KINDS
from jemmon.core.bench import Bench
from jemmon.core.bench.flight_path import next_flight_path
from tests.core.builders import PROFILES


def flown(name: str, throttle: float = 1.0, seconds: float = 90, palt_ft: float = 0, **levers) -> Bench:
    bench = Bench(PROFILES[name].bench)
    bench.set_air(palt_ft=palt_ft, ias_kt=100)
    bench.make_running(2000)
    for lever, value in {"throttle": throttle, **levers}.items():
        bench.set_lever(lever, value)
    bench.advance(seconds)
    return bench


def turbocharged(palt_ft: float = 0) -> Bench:
    """The turbocharged twin at full throttle."""
    return flown("i-turbo", palt_ft=palt_ft)


def inhg(bench: Bench) -> float:
    return float(bench.state["manifold_pa"][0]) / 3386.389


def test_a_turbocharger_holds_manifold_pressure_up_to_its_critical_altitude():
    low, high, above = (inhg(turbocharged(h)) for h in (0, 10_000, 24_000))
    assert high == pytest.approx(low, abs=0.4)
    assert above < high - 3, "the wastegate is shut: no more to give"


def test_the_turbine_is_hotter_than_the_exhaust_probes():
    bench = turbocharged()
    shown = dict(zip(bench.channels, bench.true_readings()[0], strict=True))
    assert shown["tit_f"] > shown["egt1_f"] + 20


def test_the_second_gear_of_a_blower_gives_more_pressure_and_takes_its_power():
    low, high = flown("f-radial", 0.55), flown("f-radial", 0.55, blower="HIGH")
    assert inhg(high) > inhg(low) + 1.5
    assert high.state["friction_w"][0] > low.state["friction_w"][0] * 1.02


def test_the_light_of_a_blower_is_lit_where_oil_pressure_holds_its_second_gear():
    low, high = flown("g-vee", 0.55), flown("g-vee", 0.55, blower="HIGH")
    place = high.channels.index("blower_light")
    assert low.true_readings()[0, place] == 0
    assert high.true_readings()[0, place] == 1
    high.set_air(palt_ft=0, ias_kt=0)
    high.set_lever("mixture", 0.0)
    high.advance(120)
    assert high.true_readings()[0, place] == 0, "nothing works its clutch without oil pressure"


def test_boost_control_keeps_manifold_pressure_at_its_limit():
    assert inhg(flown("g-vee")) == pytest.approx(48.5, abs=0.15)
    assert inhg(flown("g-vee", palt_ft=9000)) < 40, "above its rated height there is nothing left to hold"


def test_high_pressure_low_speed_and_a_leaner_mixture_bring_detonation_near():
    margins = [
        float(flown("b-tourer", mixture=mixture, prop=prop, seconds=200).state["detonation_margin"][0])
        for mixture, prop in ((1.0, 1.0), (0.7, 1.0), (0.7, 0.0))
    ]
    assert margins == sorted(margins, reverse=True)
    assert margins[0] > 2 * margins[2]


def test_a_detonating_engine_heats_its_heads():
    calm, knocking = (
        Bench({**PROFILES["b-tourer"].bench, "fuel_octane": octane}, turbo_boost=0.6, wastegate_inhg=38)
        for octane in (130, 80)
    )
    for bench in (calm, knocking):
        bench.set_air(oat_c=30, ias_kt=100)
        bench.make_running(2000)
        bench.set_lever("throttle", 1.0)
        bench.set_lever("mixture", 0.75)
        bench.advance(120)
    assert knocking.state["detonation_margin"][0] < 1 < calm.state["detonation_margin"][0]
    assert knocking.state["head_k"][0][0] > calm.state["head_k"][0][0] + 10


def test_a_lost_baffle_heats_one_head_alone():
    whole, lost = flown("b-tourer", 0.6, 300), Bench(PROFILES["b-tourer"].bench)
    lost.set_air(ias_kt=100)
    lost.make_running(2000)
    lost.set_fault("lost_baffle_3", 1.0)
    lost.set_lever("throttle", 0.6)
    lost.advance(300)
    hotter = lost.state["head_k"][0][:6] - whole.state["head_k"][0][:6]
    assert hotter[2] > 15
    assert abs(hotter[[0, 1, 3, 4, 5]]).max() < 2


def test_an_empty_tank_shows_in_fuel_pressure_before_the_engine_starves_and_the_other_saves_it():
    bench = flown("b-tourer", 0.6, 30)
    bench.state["tank_kg"][0][0] = 0.01
    bench.advance(3)
    low = bench.state["fuel_pressure_psi"][0]
    turns = bench.state["brake_w"][0]
    assert low < 5
    bench.advance(12)
    assert bench.state["brake_w"][0] < 0.3 * turns
    bench.set_lever("tank", "RIGHT")
    bench.advance(15)
    assert bench.state["brake_w"][0] > 0.8 * turns


@pytest.mark.parametrize("name", list(PROFILES))
def test_an_aircraft_takes_off_climbs_cruises_and_lands_by_its_power(name):
    profile = PROFILES[name]
    plan, airframe = profile.schedule, airframe_of(profile)
    rated_w = float(profile.engine["rated_power_hp"]) * profile.engine["count"] * 745.7
    ias, height, seconds = 0.0, plan["palt_ground_ft"], 0.0
    while height < plan["cruise_ft"] - 160 and seconds < 1500:
        ias, height = next_flight_path(airframe, PHASE_KINDS["take_off"], rated_w * 0.9, ias, height, 0.25, plan)
        seconds += 0.25
    assert height > plan["cruise_ft"] - 200
    assert ias == pytest.approx(plan["climb_kt"], abs=3)
    for _ in range(2400):
        ias, height = next_flight_path(airframe, PHASE_KINDS["cruise"], rated_w * 0.65, ias, height, 0.25, plan)
    assert height == pytest.approx(plan["cruise_ft"], abs=30)
    assert 0.85 * plan["cruise_kt"] < ias < 1.05 * plan["cruise_kt"]
    for _ in range(9000):
        ias, height = next_flight_path(airframe, PHASE_KINDS["descent"], rated_w * 0.2, ias, height, 0.25, plan)
    assert height == plan["palt_ground_ft"]
    assert ias == 0


@given(st.floats(0, 12_000), st.floats(0.3, 1.0))
def test_less_power_and_more_height_climb_less(palt_ft, share):
    profile = PROFILES["b-tourer"]
    airframe, full_w = airframe_of(profile), 285 * 745.7
    rate = climb_m_s(airframe, share * full_w, 95, palt_ft)
    assert rate <= climb_m_s(airframe, full_w, 95, palt_ft) + 1e-9
    assert climb_m_s(airframe, full_w, 95, palt_ft + 1000) < climb_m_s(airframe, full_w, 95, palt_ft)
