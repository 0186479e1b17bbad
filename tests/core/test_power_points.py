"""Power by a handful of points, and what lies past the edge of a table: never in silence."""

import copy

import pytest

from jemmon.core.aircraft import profile_from_json
from jemmon.core.base.errors import ProfileError
from jemmon.core.power.percent import read_power
from jemmon.core.power.settings import settings_for
from tests.core.builders import PROFILES

TWIN = PROFILES["d-twin"]
# read off the type's own table, as one reads them off a handbook: rounded to half a percent
POINTS = [
    {"palt_ft": palt, "rpm": rpm, "map_inhg": pressure, "pct": round(2 * TWIN.power.percent(rpm, pressure, palt)) / 2}
    for palt, rpm, pressure in (
        (0, 1816, 21),
        (0, 2389, 21),
        (0, 2580, 29),
        (10000, 2102, 15),
        (10000, 2580, 21),
        (10000, 2389, 21),
        (0, 2102, 29),
    )
]


def by_points(points=POINTS):
    body = copy.deepcopy(dict(TWIN.body))
    body["power"] = {
        key: value
        for key, value in body["power"].items()
        if key not in ("pct", "palt_ft", "rpm", "map_inhg", "sources")
    }
    body["power"]["points"] = points
    del body["power"]["friction_pct"]
    return profile_from_json(body)


@pytest.mark.parametrize(
    ("rpm", "pressure", "palt"), [(2000, 22, 2000), (2400, 25, 4000), (2500, 18, 8000), (2200, 20, 6000)]
)
def test_a_few_points_give_what_the_whole_table_gives(rpm, pressure, palt):
    own = by_points().power.percent(rpm, pressure, palt)
    assert own == pytest.approx(TWIN.power.percent(rpm, pressure, palt), abs=2.0)


@pytest.mark.parametrize(
    ("points", "says"),
    [
        ([*POINTS[:-1], {**POINTS[-1], "pct": POINTS[-1]["pct"] + 14}], "is a figure mistyped|mistyped"),
        ([{**row, "palt_ft": 0} for row in POINTS], "at two altitudes"),
        ([{**row, "rpm": 2400} for row in POINTS], "two RPM"),
    ],
)
def test_points_that_do_not_make_a_formula_are_refused(points, says):
    with pytest.raises(ProfileError, match=says):
        by_points(points)


def test_four_points_are_too_few():
    with pytest.raises(ProfileError):
        by_points(POINTS[:4])


def test_past_the_edge_of_the_table_the_figure_says_so_and_far_past_there_is_none():
    edge = float(TWIN.power.map_inhg[-1])
    rpm = float(TWIN.power.rpm[1])
    assert "by the table" in read_power(TWIN, rpm, edge, 0, None).say
    beyond = read_power(TWIN, rpm, edge + 0.5, 0, None)
    assert beyond.best_pct is not None
    assert "past the edge" in beyond.say
    assert read_power(TWIN, rpm, edge + 5.0, 0, None).best_pct is None


def test_a_setting_past_the_edge_is_marked():
    rows = settings_for(TWIN, 65, 10_800)
    assert rows
    assert all("past the edge" in row.remark for row in rows)
    assert not any("past the edge" in row.remark for row in settings_for(TWIN, 65, 6_000))
