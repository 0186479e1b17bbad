"""Lists composed from the library: a reference says only what differs, and what is kept is whole."""

import json

import pytest

from jemmon.core.aircraft import profile_from_json
from jemmon.core.aircraft.composition import library_from_json, unfolded
from jemmon.core.base.errors import ProfileError
from jemmon.core.trace.sample import Sample
from jemmon.library.shipped import FOLDER, item_library, whole_profile
from tests.core.builders import PROFILES, changed

LIBRARY = library_from_json(
    [
        {
            "id": "tow_bar",
            "slot": "cockpit",
            "challenge": "Tow bar",
            "response": "Off",
            "why": "It meets it.",
            "killer": True,
        },
        {"id": "pump", "slot": "cockpit", "challenge": "Pump", "response": "On", "why": "Proven.", "lever": "pump"},
    ]
)


def items_of(*items):
    body = {"phases": [{"lists": [{"items": list(items)}]}]}
    return unfolded(body, LIBRARY)["phases"][0]["lists"][0]["items"]


def test_a_name_alone_is_the_whole_item_and_keeps_the_name_by_which_the_library_knows_it():
    assert items_of("tow_bar") == [
        {
            "id": "tow_bar",
            "challenge": "Tow bar",
            "response": "Off",
            "why": "It meets it.",
            "killer": True,
            "of": "tow_bar",
        }
    ]


def test_what_differs_wins_and_null_takes_away():
    (item,) = items_of({"of": "pump", "id": "pump_2", "response": "Off", "lever": None})
    assert (item["id"], item["of"], item["response"], item["challenge"]) == ("pump_2", "pump", "Off", "Pump")
    assert "lever" not in item


def test_an_item_in_full_stays_as_it_is_though_the_library_knows_its_name():
    whole = {"id": "pump", "of": "pump", "challenge": "Old", "response": "Old", "why": "Old"}
    assert items_of(whole) == [whole], "a kept profile does not change with the library"


def test_an_unknown_reference_is_refused_with_the_nearest():
    with pytest.raises(ProfileError, match="there is no 'tow_bars'; did you mean 'tow_bar'"):
        items_of("tow_bars")
    with pytest.raises(ProfileError, match="used once"):
        library_from_json([{"id": "a"}, {"id": "a"}])


@pytest.mark.parametrize(
    "nonsense", [None, 3, [], {"phases": 3}, {"phases": [3]}, {"phases": [{"lists": [{"items": 1}]}]}]
)
def test_what_is_not_a_profile_comes_back_as_it_is(nonsense):
    assert unfolded(nonsense, LIBRARY) == nonsense


def test_every_shipped_profile_composes_most_of_its_items_and_is_kept_whole():
    for path in sorted(FOLDER.glob("?-*.json")):
        body = json.loads(path.read_text())
        kept = profile_from_json(whole_profile(body)).body
        items = [item for phase in kept["phases"] for one in phase["lists"] for item in one["items"]]
        assert all({"id", "challenge", "response", "why"} <= item.keys() for item in items)
        assert sum("of" in item for item in items) > 0.9 * len(items), path.name
        assert whole_profile(kept) == kept, "what is kept asks the library nothing more"


def test_a_third_of_the_library_says_where_the_control_is_and_what_it_is_mistaken_for():
    library = item_library()
    confused = [row for row in library.values() if "mistaken_for" in row]
    assert len(confused) > len(library) / 3


def test_nothing_of_the_library_is_left_over():
    used = {item.of for profile in PROFILES.values() for item in profile.items.values()}
    assert {name for name in item_library() if name not in used} == set()


def seen(**levers):
    return Sample(at_s=1.0, readings={}, levers=levers).known


@pytest.mark.parametrize(
    ("levers", "holds"),
    [
        ({"prop": 1.0, "e2_prop": 1.0}, True),
        ({"prop": 1.0, "e2_prop": 0.3}, False),
        ({"prop": 0.3, "e2_prop": 1.0}, False),
        ({"prop": 1.0}, None),
    ],
)
def test_one_item_for_both_engines_reads_both(levers, holds):
    reading = PROFILES["d-twin"].items["props_to"].reading
    assert reading.worst(seen(**levers))[2] is holds


def test_what_both_engines_share_has_one_name_in_each_engines_list():
    twin = PROFILES["d-twin"]
    assert twin.items["alternator@2"].reading.signal == "volts_v"
    assert twin.items["xfeed_close@2"].lever == "crossfeed"
    assert twin.items["oil_pressure@2"].reading.signal == "e2_oil_p_psi"


@pytest.mark.parametrize(
    ("units", "says"),
    [
        ({"families": {"temprature": "metric"}}, "did you mean 'temperature'"),
        ({"families": {"speed": "metric"}}, "there is no 'metric'"),
        ({"gauges": {"oil_temp_f": "metric"}}, "there is no 'oil_temp_f'"),
        ({"gauges": {"oil_t_f": "kelvin"}}, "there is no 'kelvin'"),
    ],
)
def test_units_that_there_are_not_are_refused(units, says):
    with pytest.raises(ProfileError, match=says):
        changed("a-trainer", lambda body: body.update(units=units))


def test_a_gauge_with_marks_of_its_own_is_named_beside_its_unit():
    own = changed("d-twin", lambda body: body.update(units={"gauges": {"oil_t_f": "metric"}}))
    assert own.units.of("e2_oil_t_f", "f") == "f@oil_t_f"
    assert own.units.of("egt3_f", "f") == "f"
    assert PROFILES["d-twin"].units.of("oil_t_f", "f") == "f"
