"""Conversions at the edges against the exact and published factors: NIST SP 811, appendix B (inch of mercury at 32 °F 3,386.38 Pa,
pound-force per square inch 6,894.757 Pa, horsepower of 550 ft·lbf/s 745.6999 W, US gallon 3.785412 L), the Weights and Measures Act
1985 (gallon 4.54609 L), exact definitions (pound 0.45359237 kg, foot 0.3048 m, nautical mile 1,852 m, statute mile 1,609.344 m).
Avgas 6.0 lb to the gallon: FAA-H-8083-1, within two parts in a hundred of ours."""

import pytest

from jemmon.core.base.units import DISPLAYS, TO_CORE


@pytest.mark.parametrize(
    ("core", "suffix", "written", "value"),
    [
        ("f", "c", 100.0, 212.0),
        ("f", "c", -40.0, -40.0),
        ("inhg", "kpa", 101.325, 29.9213),
        ("inhg", "hpa", 1013.25, 29.9213),
        ("inhg", "psi_boost", 4.0, 29.9213 + 4.0 * 6894.757 / 3386.38),
        ("gph", "lph", 37.85412, 10.0),
        ("gph", "impgph", 10.0, 45.4609 / 3.785412),
        ("psi", "kpa", 413.685, 60.0),
        ("psi", "bar", 4.0, 400_000 / 6894.757),
        ("ft", "m", 1_000.0, 3280.84),
        ("kt", "mph", 100.0, 160_934.4 / 1852.0),
        ("kt", "kmh", 185.2, 100.0),
        ("gal", "l", 3.785412, 1.0),
    ],
)
def test_a_column_is_read_in_the_cores_unit(core, suffix, written, value):
    assert TO_CORE[core][suffix].to_core(written) == pytest.approx(value, rel=2e-5)
    assert TO_CORE[core][suffix].from_core(value) == pytest.approx(written, rel=2e-5)


@pytest.mark.parametrize(("suffix", "written"), [("lbh", 60.0), ("kgh", 60.0 * 0.45359237)])
def test_fuel_by_weight_is_six_pounds_to_the_gallon(suffix, written):
    assert TO_CORE["gph"][suffix].to_core(written) == pytest.approx(10.0, rel=0.02)


@pytest.mark.parametrize(
    ("core", "choice", "value", "shown"),
    [
        ("f", "metric", 212.0, 100.0),
        ("inhg", "metric", 29.9213, 1013.25),
        ("inhg", "boost", 38.06536, 4.0),
        ("gph", "metric", 10.0, 37.85412),
        ("gph", "imperial", 12.0095, 10.0),
        ("psi", "metric", 58.0151, 4.0),
        ("gal", "metric", 10.0, 37.85412),
        ("gal", "imperial", 12.0095, 10.0),
        ("kt", "mph", 86.8976, 100.0),
        ("kt", "kmh", 100.0, 185.2),
        ("c", "us", 100.0, 212.0),
        ("hp", "metric", 100.0, 74.56999),
        ("l", "us", 1.0, 61.0237),
        ("kg", "us", 1.0, 2.204623),
        ("m", "us", 1.0, 39.37008),
        ("qt", "metric", 8.0, 7.570824),
        ("qt", "imperial", 6.00475, 10.0),
    ],
)
def test_a_figure_is_shown_in_the_pilots_unit(core, choice, value, shown):
    display = DISPLAYS[core][choice]
    assert value * display.scale + display.shift == pytest.approx(shown, rel=3e-5)
