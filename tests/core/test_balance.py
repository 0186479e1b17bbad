"""Loading just inside and just outside: each limit, the fuel burned, the ballast."""

import pytest

from jemmon.core.aircraft.balance import Balance, Station, balance_from, loading_sheet
from jemmon.core.base.errors import ProfileError

STATIONS = (
    Station(id="front", title="Front seats", arm_m=0.95),
    Station(id="fuel", title="Fuel", arm_m=1.2, is_fuel=True, most_kg=100.0),
    Station(id="bags", title="Baggage", arm_m=2.4, most_kg=50.0, takes_ballast=True),
)


def sheet(loads, burned=0.0, **changes):
    own = Balance(
        **{
            "empty_kg": 700.0,
            "empty_arm_m": 1.0,
            "empty_across_m": 0.0,
            "stations": STATIONS,
            "envelope": ((0.99, 600.0), (1.10, 600.0), (1.10, 1_100.0), (1.02, 1_100.0)),
            "across": (),
            "most_take_off_kg": 1_000.0,
            "most_landing_kg": 950.0,
            "most_zero_fuel_kg": 920.0,
            **changes,
        }
    )
    return loading_sheet(own, loads, burned)


def against(made) -> dict[str, tuple[str, ...]]:
    return {state.title: state.against for state in made.states}


@pytest.mark.parametrize(
    ("loads", "burned", "title", "is_over"),
    [
        ({"front": 200.0, "fuel": 100.0}, 60.0, "Take-off", False),
        ({"front": 200.0, "fuel": 100.0, "bags": 0.1}, 60.0, "Take-off", True),
        ({"front": 200.0, "fuel": 100.0}, 50.0, "Landing", False),
        ({"front": 200.0, "fuel": 100.0}, 49.9, "Landing", True),
        ({"front": 220.0, "fuel": 80.0}, 60.0, "Without fuel", False),
        ({"front": 220.1, "fuel": 79.0}, 60.0, "Without fuel", True),
    ],
)
def test_each_greatest_mass(loads, burned, title, is_over):
    words = " ".join(against(sheet(loads, burned, envelope=((0, 0), (3, 0), (3, 2_000), (0, 2_000))))[title])
    assert ("above the greatest mass" in words) is is_over


def test_ahead_and_behind_are_said_with_the_distance():
    assert "ahead of the forward limit" in against(sheet({"front": 290.0}, most_take_off_kg=2e3))["Take-off"][0]
    assert "behind the aft limit" in against(sheet({"bags": 60.0}))["Take-off"][0]


def test_fuel_that_is_burned_moves_the_centre_of_gravity():
    states = sheet({"front": 150.0, "fuel": 100.0}, 80.0).states
    assert states[0].mass_kg - states[1].mass_kg == pytest.approx(80.0)
    assert states[0].arm_m > states[1].arm_m > states[2].arm_m  # fuel is behind the rest


def test_a_station_takes_so_much_and_no_more():
    assert sheet({"bags": 50.0}).over == ()
    assert "at most 50 kg" in sheet({"bags": 50.1}).over[0]


def test_ballast_is_named_only_where_it_is_needed_and_helps():
    assert sheet({"front": 100.0, "bags": 10.0}).ballast is None
    needed = sheet({"front": 200.0}).ballast
    assert needed is not None
    assert needed.station == "Baggage"
    ahead = sheet({"front": 200.0, "bags": needed.mass_kg})
    assert all(not words for words in against(ahead).values())
    less = sheet({"front": 200.0, "bags": needed.mass_kg - 0.2})
    assert any(against(less).values())
    assert sheet({"bags": 49.0}).ballast is None, "more ballast does not help an aft loading"


@pytest.mark.parametrize(
    ("loads", "burned", "where"),
    [({"nose": 1.0}, 0.0, "nose"), ({"front": -1.0}, 0.0, "front"), ({"fuel": 10.0}, 10.1, "burned_kg")],
)
def test_a_loading_that_is_none_is_refused_by_its_place(loads, burned, where):
    with pytest.raises(ProfileError) as refused:
        sheet(loads, burned)
    assert refused.value.where == where


def test_corners_that_enclose_nothing_are_refused():
    body = {
        **{"empty_kg": 700.0, "empty_arm_m": 1.0, "stations": [], "most_take_off_kg": 900.0},
        "envelope": [{"arm_m": arm, "mass_kg": 600.0} for arm in (1.0, 1.1, 1.2)],
    }
    with pytest.raises(ProfileError, match="enclose nothing"):
        balance_from(body)
    assert balance_from(None) is None


@pytest.mark.parametrize(("mass_kg", "taken"), [(20_000.0, True), (20_001.0, False), (-0.1, False)])
def test_a_load_is_one_that_a_piston_aircraft_carries(mass_kg, taken):
    if taken:
        assert sheet({"front": mass_kg})
    else:
        with pytest.raises(ProfileError, match="0 to 20,000 kg"):
            sheet({"front": mass_kg})
