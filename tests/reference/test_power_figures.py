"""Percent power as the pilot is told it, against published figures and against the simulated engines' true brake power."""

import pytest

from jemmon.core.power import full_throttle_inhg, mixture_share, power_by_flow_pct, power_by_table_pct
from jemmon.core.power.percent import temperature_share
from jemmon.core.power.settings import fuel_flow_gph
from tests.core.builders import PROFILES


@pytest.mark.parametrize("height_ft", [0, 5000, 10_000])
def test_full_throttle_power_follows_gagg_and_farrar(height_ft):
    """Gagg and Farrar 1934: P/P0 = 1.132 sigma - 0.132, unblown at fixed RPM."""
    for name in ("a-trainer", "b-tourer", "d-twin"):
        profile = PROFILES[name]
        rpm = float(profile.power.rpm[-1])
        here, sea = (power_by_table_pct(profile, rpm, full_throttle_inhg(profile, rpm, h), h) for h in (height_ft, 0))
        sigma = (1 - 6.8756e-6 * height_ft) ** 4.2559  # ICAO Doc 7488
        assert here / sea == pytest.approx(1.132 * sigma - 0.132, abs=0.035)


def test_fuel_flow_lean_of_peak_gives_the_power_that_the_heat_in_it_allows():
    """A brake efficiency of 32 to 34 % lean of peak at compression 8.5 (Heywood 1988 and Taylor 1985, from memory), 43.5 MJ/kg and
    0.72 kg/L (ASTM D910); 0.38 to 0.42 lb/hp/h says the same."""
    tourer = PROFILES["b-tourer"]
    power_w = power_by_flow_pct(tourer, 10.0) / 100 * tourer.engine["rated_power_hp"] * 745.7
    heat_w = 10.0 * 3.785411784 * 0.72 * 43.5e6 / 3600
    assert 0.32 <= power_w / heat_w <= 0.345
    assert 0.38 <= 10.0 * 6.0 / (power_w / 745.7) <= 0.42


def test_colder_air_gives_about_one_percent_for_six_degrees_or_a_little_more():
    """Common practice: about 1 % for 10 °F (6 °C), some books up to twice that."""
    gain = temperature_share(PROFILES["b-tourer"], 0, 9) / temperature_share(PROFILES["b-tourer"], 0, 15) - 1
    assert 0.009 <= gain <= 0.021


def test_the_mixture_costs_what_the_books_say():
    """Taylor, Heywood; common practice: best power 75 to 125 °F rich, 94 to 98 % at peak, 86 to 94 % at 50 °F lean."""
    brake = {
        offset: mixture_share("rich" if offset >= 0 else "lean", abs(offset)) * 1.15 - 0.15 for offset in (-50, 0, 100)
    }
    assert brake[100] == pytest.approx(1.0, abs=0.005)
    assert 0.94 <= brake[0] <= 0.98
    assert 0.86 <= brake[-50] <= 0.94


def test_consumption_is_that_of_handbooks():
    """Heywood; common practice: 0.45 to 0.53 lb/hp/h at best power, 0.38 to 0.43 at peak, compression 8.5."""
    tourer = PROFILES["b-tourer"]
    for side, offset, low, high in (("rich", 100, 0.45, 0.53), ("peak", 0, 0.38, 0.43)):
        pounds = fuel_flow_gph(tourer, 65, side, offset) * 6.0 / (0.65 * tourer.engine["rated_power_hp"])
        assert low <= pounds <= high
