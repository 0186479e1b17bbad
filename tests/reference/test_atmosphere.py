"""The standard atmosphere and humid air against published tables and reference libraries."""

import ambiance
import fluids.atmosphere
import numpy as np
import pytest

from jemmon.core.base.atmosphere import (
    air_density,
    density_altitude_ft,
    humidity_ratio,
    standard_pressure_pa,
    standard_temperature_c,
)
from jemmon.core.base.errors import OutOfRange

ALTITUDES_FT = [-1_000, 0, 1_000, 5_000, 8_000, 15_000, 25_000]


@pytest.mark.parametrize("altitude_ft", ALTITUDES_FT)
def test_pressure_temperature_and_density_agree_with_two_libraries(altitude_ft):
    """ICAO Doc 7488 through `ambiance` and `fluids`; both take geometric height, ours is geopotential."""
    geopotential_m = altitude_ft * 0.3048
    geometric_m = float(np.ravel(ambiance.Atmosphere.geop2geom_height(geopotential_m))[0])
    theirs = ambiance.Atmosphere(geometric_m)
    other = fluids.atmosphere.ATMOSPHERE_1976(geometric_m)
    kelvin = standard_temperature_c(altitude_ft) + 273.15
    density = air_density(standard_pressure_pa(altitude_ft), standard_temperature_c(altitude_ft))
    for pressure_pa, temperature_k, rho in (
        (theirs.pressure[0], theirs.temperature[0], theirs.density[0]),
        (other.P, other.T, other.rho),
    ):
        assert standard_pressure_pa(altitude_ft) == pytest.approx(pressure_pa, rel=1e-4)
        assert kelvin == pytest.approx(temperature_k, rel=1e-4)
        assert density == pytest.approx(rho, rel=1e-4)


@pytest.mark.parametrize(
    ("altitude_ft", "inhg"), [(0, 29.92), (1_000, 28.86), (5_000, 24.90), (10_000, 20.58)], ids=str
)
def test_pressure_table_of_the_pilots_handbook(altitude_ft, inhg):
    """FAA-H-8083-25, chapter on weather theory, standard atmosphere table (figures from memory, two decimals)."""
    assert standard_pressure_pa(altitude_ft) / 3386.389 == pytest.approx(inhg, abs=0.006)


def test_density_altitude_in_standard_air_is_the_pressure_altitude():
    for altitude_ft in ALTITUDES_FT:
        assert density_altitude_ft(altitude_ft, standard_temperature_c(altitude_ft)) == pytest.approx(
            altitude_ft, abs=1
        )


def test_density_altitude_rises_about_120_ft_per_degree():
    """Common practice: 120 ft of density altitude for each °C above standard."""
    per_degree = (density_altitude_ft(3_000, 30) - density_altitude_ft(3_000, 20)) / 10
    assert 110 < per_degree < 130


def test_humid_air_is_lighter_than_dry_air():
    """14 g of water per kg of air at 20 °C dew point and sea level: psychrometric charts give 14.7 g/kg (from memory)."""
    assert humidity_ratio(101_325, 20) == pytest.approx(0.0147, rel=0.01)
    assert air_density(101_325, 30, 20) < air_density(101_325, 30)


@pytest.mark.parametrize("altitude_ft", [-2_001, 36_090, np.nan])
def test_altitudes_outside_the_range_are_refused(altitude_ft):
    with pytest.raises(OutOfRange, match="pressure altitude"):
        standard_pressure_pa(altitude_ft)
