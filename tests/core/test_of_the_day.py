"""Figures of the day: what full power should give here, the climb and the airspeed in warm air, fuel that is not for the cruise."""

import pytest

from jemmon.core.aircraft import profile_from_json
from jemmon.core.base.atmosphere import standard_temperature_c
from jemmon.core.base.figures import plain
from jemmon.core.base.weather import describe_air, icing_likelihood
from jemmon.core.flight.take_offs import own_lack_inhg
from jemmon.core.power.margin import band_to_avoid
from jemmon.core.power.plan import climb_plan, plan
from jemmon.core.power.settings import cruise_tas_kt, settings_for, static_share
from tests.core.builders import PROFILES
from tests.corpora.take_offs import STANDING, full_power

TRAINER, TOURER, ROTOR = PROFILES["a-trainer"], PROFILES["b-tourer"], PROFILES["e-rotor"]


@pytest.mark.parametrize("kind", STANDING)
@pytest.mark.parametrize("palt_ft", [0, 600, 2000, 5000])
def test_no_healthy_engine_is_told_to_stop_on_any_day(kind, palt_ft):
    for oat_c in (-10, 15, 35):
        watch, _ = full_power(kind, palt_ft, oat_c)
        assert watch is not None
        assert watch.stop is None, f"{oat_c} °C: {watch.stop}"


@pytest.mark.parametrize("kind", STANDING)
@pytest.mark.parametrize("palt_ft", [0, 5000])
def test_three_inches_short_are_told(kind, palt_ft):
    assert "anifold pressure" in full_power(kind, palt_ft, 15, short_inhg=3.0)[0].stop


def test_a_take_off_is_held_against_the_aircrafts_own_earlier_ones():
    _, healthy = full_power("b-tourer", 600, 15)
    short_inhg = 1.4 - healthy["1"]
    watch, lacks = full_power("b-tourer", 600, 15, short_inhg)
    assert watch.stop is None
    assert lacks["1"] == pytest.approx(1.4, abs=0.01)
    assert full_power("b-tourer", 600, 15, short_inhg + 0.6)[0].stop, "two inches short, nothing known of this aircraft"
    own = own_lack_inhg([{"lacks_inhg": {"1": 0.9}}] * 3)[1]
    assert full_power("b-tourer", 600, 15, short_inhg + 0.6, own)[0].stop is None, "as it always was"
    assert full_power("b-tourer", 600, 15, 3.0 - healthy["1"], own)[0].stop, "three short are told all the same"
    assert full_power("b-tourer", 600, 15, 3.0)[1] is None, "a take-off to be stopped teaches nothing"


@pytest.mark.parametrize(
    ("lacks", "own"),
    [
        ([0.5, 0.7], None),
        ([0.5, 0.7, 0.6], 0.6),
        ([4.0, 4.0, 4.0], 1.0),
        ([-3.0] * 3, -1.0),
        ([0.9] * 8 + [0.1] * 10, 0.1),
    ],
)
def test_a_habit_is_three_take_offs_of_this_season_and_an_inch_at_most(lacks, own):
    assert own_lack_inhg([{"lacks_inhg": {"2": lack}} for lack in lacks]).get(2) == own


@pytest.mark.parametrize(
    ("palt_ft", "oat_c", "share"),
    [
        *((0, None, 1.0), (5_000, None, 0.9929), (8_000, None, 0.9879)),
        *((0, 15.0, 1.0), (0, -25.0, 0.9754), (0, 35.0, 1.0113), (5_000, -25.0, 0.9929 * 0.9811)),
    ],
)
def test_static_rpm_falls_with_height_and_with_cold(palt_ft, oat_c, share):
    """Gagg and Farrar (1934) over a propeller's cube law: n/n0 = ((1.132 s - 0.132) / s) ** (1/3); s by ICAO Doc 7488. Power goes
    with T ** -0.5 (SAE J1349), the air that the propeller takes with 1 / T: n with T ** (1/6)."""
    assert static_share(TRAINER, palt_ft, oat_c) == pytest.approx(share, abs=2e-4)
    assert static_share(ROTOR, palt_ft, oat_c) == 1.0
    assert static_share(TRAINER, None) == static_share(TRAINER, float("nan")) == 1.0
    assert static_share(TRAINER, 5_000, float("nan")) == static_share(TRAINER, 5_000)


@pytest.mark.parametrize("kind", STANDING)
@pytest.mark.parametrize("oat_c", [-40.0, -20.0])
def test_a_cold_day_stops_no_healthy_take_off(kind, oat_c):
    """Dense air loads a propeller by more than it adds to the power: a healthy engine turns slower."""
    assert full_power(kind, 0, oat_c)[0].stop is None


def test_a_climb_in_warm_air_is_slower():
    """A trainer loses a tenth to a quarter of its climb at 2,000 ft in ISA + 20 (common practice)."""
    usual, warm = (climb_plan(TRAINER, 3_000, warmer)[1].rate_fpm for warmer in (0.0, 20.0))
    assert 0.75 * usual <= warm <= 0.92 * usual
    outside_c = standard_temperature_c(5_000)
    assert (
        plan(TRAINER, 65, 5_000, outside_c + 20).climb[-1].minutes
        > plan(TRAINER, 65, 5_000, outside_c).climb[-1].minutes
    )


def test_true_airspeed_grows_in_warm_air_by_its_density():
    """At the same power and drag true airspeed goes with the cube root of thinner air: 20 K of 278 K are 2.3 %."""
    outside_c = standard_temperature_c(5_000)
    ratio = cruise_tas_kt(TRAINER, 65, 5_000, outside_c + 20) / cruise_tas_kt(TRAINER, 65, 5_000, outside_c)
    assert ratio == pytest.approx((1 + 20 / (outside_c + 273.15)) ** (1 / 3), abs=1e-3)


def test_a_fixed_pitch_has_one_rpm_for_a_power_and_no_manifold_pressure():
    rows = settings_for(TRAINER, 65, 3_000)
    assert len(rows) == 1
    assert rows[0].map_inhg is None
    assert settings_for(TRAINER, 75, 3_000)[0].rpm > rows[0].rpm
    warm = settings_for(TRAINER, 65, 3_000, 40.0)
    assert warm[0].rpm > rows[0].rpm, "thinner air takes more turns"


def test_a_rotor_turns_at_its_governed_speed_alone():
    rows = settings_for(ROTOR, 70, 1_000)
    assert [row.rpm for row in rows] == [ROTOR.engine["rpm_at_100_pct"]]


def test_nothing_below_the_types_least_rpm_is_proposed():
    limits = {**TOURER.body["limits"], "cruise_min_rpm": {"value": 2200, "source": "type", "note": "invented"}}
    slow = profile_from_json({**TOURER.body, "limits": limits})
    assert min(row.rpm for row in settings_for(TOURER, 55, 4_000)) < 2200
    assert min(row.rpm for row in settings_for(slow, 55, 4_000)) == 2200


def test_the_fuel_that_is_not_for_the_cruise_is_told_beside_it():
    told = plan(TOURER, 65, 6_000, fuel_gal=50)
    budget = told.budget
    parts = budget.taxi_gal + budget.climb_gal + budget.reserve_gal + budget.cruise_gal
    assert parts == pytest.approx(50, abs=0.15)
    row = told.rows[-1]
    assert row.to_reserve_h == pytest.approx(budget.cruise_gal / row.ff_gph, abs=0.02)
    assert row.to_reserve_h < row.endurance_h
    assert plan(TOURER, 65, 6_000).budget is None


def test_a_turbocharged_profile_without_a_simulated_engine_still_has_its_settings():
    body = {name: part for name, part in PROFILES["i-turbo"].body.items() if name != "bench"}
    alone = profile_from_json(body)
    assert [row.rpm for row in settings_for(alone, 65, 8_000)] == [
        row.rpm for row in settings_for(PROFILES["i-turbo"], 65, 8_000)
    ]
    assert settings_for(alone, 65, 8_000)


@pytest.mark.parametrize(("power_pct", "rich_f"), [(65, 60), (75, 100), (85, 140)])
def test_the_band_to_avoid_is_wide_on_the_rich_side_at_high_power(power_pct, rich_f):
    """About 20 to 60 °F rich of peak is hottest, and the band widens with power on both sides (common practice)."""
    band = band_to_avoid(power_pct)
    assert band[0] == pytest.approx(rich_f, abs=1)


@pytest.mark.parametrize(
    ("oat_c", "depression", "word"),
    [
        (-3.9, 1, "serious at any power"),
        (-4.1, 1, "serious at glide power"),
        (-7.1, 1, "possible"),
        (-12.1, 1, "unlikely"),
    ],
)
def test_the_icing_areas_end_in_the_cold_the_gravest_first(oat_c, depression, word):
    """FAA SAIB CE-09-35 and AC 20-113 (from memory): below about -10 °C there is little water left in the air."""
    assert icing_likelihood(oat_c, oat_c - depression) == word


@pytest.mark.parametrize(("source", "is_said"), [("metar", True), ("typed", False)])
def test_the_wind_of_a_report_is_true_and_a_runway_magnetic(source, is_said):
    """WMO No. 306 FM 15: the wind of a METAR is from true north. What a pilot types is in the runway's own terms."""
    air = describe_air({"source": source, "wind_from_deg": 240, "wind_kt": 12, "runway_deg": 270})
    assert (air.wind_note is not None) is is_said


def test_a_plan_says_what_it_takes_for_granted():
    bare = plan(TRAINER, 65, 4_000)
    assert [plain(words) for words in bare.assumed] == [
        "the standard day, 45 °F up there",
        "best power mixture",
        "no wind",
        "no fuel on board is given, so no hours and no range",
    ]
    asked = plan(TRAINER, 65, 4_000, 10.0, TRAINER.lean_targets[0].id, 20.0, -10.0)
    assert asked.assumed == ()
