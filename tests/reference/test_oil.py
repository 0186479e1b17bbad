"""The oil of the simulated engines against ASTM D341 and published figures of aviation oils (figures from memory)."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jemmon.core.bench import Bench
from jemmon.core.bench.heat import grade_for, kinematic_viscosity_cst
from tests.reference.dyno import SECTION


@pytest.mark.parametrize(
    ("grade", "celsius", "low", "high"),
    [(30, 100, 9.3, 12.5), (40, 100, 12.5, 16.3), (50, 100, 16.3, 21.9), (60, 100, 21.9, 26.1)]
    + [(50, 40, 170, 230), (30, 40, 85, 115)],
)  # fmt: skip
def test_a_grade_is_as_thick_as_its_class_says(grade, celsius, low, high):
    """SAE J300: kinematic viscosity classes at 100 °C; at 40 °C common practice of straight mineral oils."""
    assert low <= kinematic_viscosity_cst(celsius + 273.15, grade) <= high


@given(st.floats(20, 60), st.floats(-20, 30), st.floats(45, 95))
def test_it_is_a_straight_line_on_the_chart(grade, cold_c, warm_c):
    """ASTM D341: log10(log10(viscosity + 0.7)) falls in a straight line with log10 of absolute temperature."""

    def height(celsius: float) -> tuple[float, float]:
        kelvin = celsius + 273.15
        return np.log10(kelvin), np.log10(np.log10(kinematic_viscosity_cst(kelvin, grade) + 0.7))

    (x0, y0), (x1, y1), (x2, y2) = height(cold_c), height(40.0), height(warm_c)
    assert (y1 - y0) / (x1 - x0) == pytest.approx((y2 - y1) / (x2 - x1), rel=1e-6)


@pytest.mark.parametrize(("celsius", "grade"), [(-30, 20), (-10, 30), (5, 40), (20, 50), (40, 50)])
def test_the_oil_of_the_season(celsius, grade):
    """Common practice of engine makers: thinner grades for colder starts."""
    assert grade_for(celsius + 273.15) == pytest.approx(grade)


@given(st.floats(0.2, 3.0), st.floats(0.1, 1.5))
@settings(max_examples=15)
def test_standing_on_is_the_same_as_having_stood(first_h, more_h):
    """Arithmetic: an engine that stood for a while and stands on soaks as one that stood for both together."""
    standing, stood = Bench(SECTION), Bench(SECTION)
    for bench, hours in ((standing, first_h), (stood, first_h + more_h)):
        bench.set_air(oat_c=10)
        bench.make_cold(hours)
    standing.advance(more_h * 3600)
    for part in ("oil_k", "line_k", "cowl_k"):
        assert standing.state[part][0] == pytest.approx(stood.state[part][0], abs=0.3)
    assert standing.state["head_k"][0][0] == pytest.approx(stood.state["head_k"][0][0], abs=0.3)
