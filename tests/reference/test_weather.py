"""The air at the field against the METAR code, published worked examples and reference libraries."""

import psychrolib
import pytest

from jemmon.core.base.atmosphere import humidity_ratio, saturation_pressure_pa
from jemmon.core.base.errors import OutOfRange
from jemmon.core.base.weather import (
    AirReport,
    describe_air,
    icing_likelihood,
    pressure_altitude_ft,
    wind_on_runway,
)

psychrolib.SetUnitSystem(psychrolib.SI)

# invented reports in the form of WMO No. 306, FM 15
REPORTS = [
    "ZZLK 251250Z 24012KT 9999 SCT035 12/09 Q1013",
    "ZZBR 250650Z VRB02KT CAVOK M05/M07 Q1032",
    "ZZTH 251350Z 20018G31KT 4000 -SHRA BKN012 27/22 A2984",
    "ZZTH 251350Z 00000KT 0300 FG VV001 04/04 A3021",
]


@pytest.mark.parametrize(
    ("text", "oat_c", "dewpoint_c", "altimeter_inhg", "wind_from_deg", "wind_kt", "gust_kt"),
    [
        (REPORTS[0], 12, 9, 29.91, 240, 12, None),
        (REPORTS[1], -5, -7, 30.47, None, 2, None),
        (REPORTS[2], 27, 22, 29.84, 200, 18, 31),
        (REPORTS[3], 4, 4, 30.21, 0, 0, None),
    ],
)
def test_groups_of_the_code_mean_what_the_manual_says(
    text, oat_c, dewpoint_c, altimeter_inhg, wind_from_deg, wind_kt, gust_kt
):
    """WMO No. 306, FM 15, decoded by hand: dddff(Gff)KT, VRB no direction, 00000KT calm, T'T'/T'dT'd with M below zero, Q whole
    hectopascals (1 inHg is 33.8639 hPa), A hundredths of an inch."""
    report = AirReport.from_metar(text)
    assert (report.oat_c, report.dewpoint_c) == (oat_c, dewpoint_c)
    assert report.altimeter_inhg == pytest.approx(altimeter_inhg, abs=0.006)
    assert (report.wind_from_deg, report.wind_kt, report.gust_kt) == (wind_from_deg, wind_kt, gust_kt)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "no weather today",
        "<html>42</html>",
        "ZZLK",
        "ZZLK 251250Z",
        "ZZLK 251250Z 24012KT 9999 12/19 Q1013",
        "ZZLK\x00",
    ],
)
def test_nonsense_is_refused_in_words(text):
    with pytest.raises(OutOfRange):
        AirReport.from_metar(text)


@pytest.mark.parametrize("oat_c", [-20.0, 0.0, 15.0, 35.0])
def test_humid_air_agrees_with_psychrolib(oat_c):
    """ASHRAE Handbook, Fundamentals, as psychrolib computes it; within 1 % above freezing, 2 % over supercooled water."""
    if oat_c >= 0:
        assert saturation_pressure_pa(oat_c) == pytest.approx(psychrolib.GetSatVapPres(oat_c), rel=0.01)
        ours = humidity_ratio(101_325.0, oat_c)
        assert ours == pytest.approx(psychrolib.GetHumRatioFromTDewPoint(oat_c, 101_325.0), rel=0.01)
    else:
        assert saturation_pressure_pa(oat_c) > 0.98 * psychrolib.GetSatVapPres(oat_c)


@pytest.mark.parametrize(
    ("altimeter", "correction_ft"), [(28.0, 1_824), (28.5, 1_340), (29.0, 863), (29.5, 392), (30.5, -531)]
)
def test_pressure_altitude_agrees_with_the_handbooks_table(altimeter, correction_ft):
    """FAA-H-8083-25, field elevation against pressure, chart's correction column (from memory); 2 ft."""
    assert pressure_altitude_ft(0.0, altimeter) == pytest.approx(correction_ft, abs=2)
    assert pressure_altitude_ft(3_000.0, altimeter) == pytest.approx(3_000 + correction_ft, abs=2)


def test_density_altitude_of_a_hot_field_agrees_with_the_rule_of_120_ft_for_a_degree():
    """Common practice: 120 ft for each °C above standard; a rule for low fields, so within 8 % at 5,000 ft."""
    air = describe_air({"oat_c": 35, "altimeter_inhg": 29.92, "elevation_ft": 5_000})
    assert air.density_altitude_ft - 5_000 == pytest.approx(120 * (35 - 5.1), rel=0.08)


@pytest.mark.parametrize(("gust_kt", "across_kt"), [(None, 10), (30, 15), (15, 10)])
def test_gusts_count_across_the_runway_and_not_along_it(gust_kt, across_kt):
    """Common practice: the crosswind is that of the gusts, the headwind that of the steady wind; 30° off gives half."""
    body = {"wind_from_deg": 300, "wind_kt": 20, "gust_kt": gust_kt, "runway_deg": 270}
    air = describe_air({name: value for name, value in body.items() if value is not None})
    assert (air.headwind_kt, air.crosswind_kt, air.crosswind_from) == (17, across_kt, "right")


def test_wind_components_of_round_angles():
    """Trigonometry: 30° off gives half the wind across, 90° off all of it; a tailwind is negative."""
    head, cross = wind_on_runway(300, 20, 270)
    assert (head, cross) == (pytest.approx(17.32, abs=0.01), pytest.approx(10.0))
    assert wind_on_runway(180, 20, 270)[1] == pytest.approx(-20)
    assert wind_on_runway(90, 20, 270)[0] == pytest.approx(-20)


def test_the_run_up_faces_the_wind_and_a_calm_asks_for_nothing():
    assert describe_air({"wind_from_deg": 243, "wind_kt": 12}).face_deg == 240
    assert describe_air({"wind_from_deg": 2, "wind_kt": 12}).face_deg == 360
    assert describe_air({"wind_from_deg": 243, "wind_kt": 1}).face_deg is None


@pytest.mark.parametrize(
    ("oat_c", "dewpoint_c", "likely"),
    [
        (5, 4, "serious at any power"),
        (12, 9, "serious at any power"),
        (20, 14, "serious at glide power"),
        (-25, -27, "unlikely"),
        (40, 5, "unlikely"),
    ],
)
def test_icing_follows_the_published_chart(oat_c, dewpoint_c, likely):
    """FAA SAIB CE-09-35, chart of carburettor icing (points from memory): none in dry cold or hot dry air."""
    assert icing_likelihood(oat_c, dewpoint_c) == likely


@pytest.mark.parametrize(
    "body",
    [
        {"oat_c": 80},
        {"altimeter_inhg": 1013},
        {"oat_c": "warm"},
        {"oat_c": 10, "dewpoint_c": 20},
        {"wind_from_deg": 400},
        {"runway_deg": -3},
    ],
)
def test_typed_figures_that_cannot_be_are_asked_back(body):
    with pytest.raises(OutOfRange):
        describe_air(body)
