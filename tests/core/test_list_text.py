"""Lists out as text and in again: nothing is lost, and what comes from anywhere is matched so that data can still carry it."""

import contextlib
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jemmon.core.aircraft import profile_from_json
from jemmon.core.aircraft.list_text import KEPT, KNOWN, OWN, lists_as_text, lists_from_text
from jemmon.core.aircraft.matching import best_match, heading_of
from jemmon.core.base.errors import ProfileError
from jemmon.library.shipped import item_library
from tests.core.builders import PROFILES

TRAINER = dict(PROFILES["a-trainer"].body)
EVERYONE = pytest.mark.parametrize("profile", PROFILES.values(), ids=list(PROFILES))


def read(text, body=TRAINER):
    return lists_from_text(text, body, item_library())


def how(made) -> dict[str, str]:
    return {match.line: match.how for match in made.found}


def items_of(made, phase, title):
    phases = {row["id"]: row for row in made.body["phases"]}
    return next(one["items"] for one in phases[phase]["lists"] if one["title"] == title)


@EVERYONE
def test_out_and_in_again_changes_nothing(profile):
    made = lists_from_text(lists_as_text(profile.body), profile.body, item_library())
    assert made.body == profile.body
    assert made.count(KEPT) == len(made.found)


@given(st.permutations(range(6)), st.sets(st.integers(0, 5), max_size=4))
def test_items_moved_and_left_out_keep_what_data_need(order, dropped):
    run_up = next(one for phase in TRAINER["phases"] for one in phase["lists"] if one["id"] == "run_up")
    kept = [run_up["items"][k] for k in order if k not in dropped]
    text = "\n".join(["# Run-up", "## Run-up", *(f"- {i['challenge']} | {i['response']}" for i in kept)])
    assert items_of(read(text), "run_up", "Run-up") == kept


PASTED = """
RUN-UP

BRAKES .......... HOLD
MAGS ............ L, BOTH, R, BOTH
Carb heat - On, drop, off
3. Alternator: Load on, amps answer
GPS position      Agrees with the field
"""


def test_plain_text_pasted_from_anywhere_is_matched_so_that_data_still_carry_it():
    made = read(PASTED)
    brakes, mags, heat, alternator, position = items_of(made, "run_up", "Run-up")
    assert (mags["id"], mags["check"], mags["challenge"]) == ("mags", "mag_check", "Mags")
    assert (heat["id"], heat["check"]) == ("carb_heat", "carb_heat_check")
    assert alternator["id"] == "alt_check"
    assert (position["challenge"], position["response"]) == ("GPS position", "Agrees with the field")
    assert how(made)["GPS position"] == OWN
    assert brakes["response"] == "Hold"
    assert profile_from_json(made.body).items["mags"].check == "mag_check"


def test_what_the_profile_has_not_comes_from_the_library():
    made = read("# Before start\n## Mine\n- Oxygen | Quantity read, mask tried\n")
    (item,) = items_of(made, "before_start", "Mine")
    assert (item["of"], how(made)["Oxygen"]) == ("oxygen", KNOWN)
    assert "slot" not in item


def test_a_reason_below_an_item_is_its_own_and_lists_that_are_not_named_stay():
    made = read("# Run-up\n## Run-up\n- Magnetos | Left, both, right, both\n    Because the book says so.\n")
    (mags,) = items_of(made, "run_up", "Run-up")
    assert mags["why"] == "Because the book says so."
    assert made.body["phases"][0] == TRAINER["phases"][0]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "Nothing in this text is an item"),
        ("# Run-up\n## Run-up\n", "Nothing in this text is an item"),
        ("Magnetos | Both", "stands under no phase"),
        ("# Rnu-up\n- Magnetos | Both", "none of the profile's phases|stands under no phase"),
    ],
)
def test_what_cannot_be_read_is_said_with_its_place(text, says):
    with pytest.raises(ProfileError, match=says):
        read(text)


@given(st.text(max_size=400))
def test_any_text_is_read_or_refused_in_words(text):
    with contextlib.suppress(ProfileError):
        assert read(text).found


PASTED_LISTS = Path(__file__).parent.parent / "data" / "pasted"
OF_KIND = {"1": "a-trainer", "2": "a-trainer", "3": "d-twin", "4": "e-rotor", "5": "f-radial", "6": "b-tourer"}


def matched(name: str):
    """Return (line, the items of the library that it may mean, the one it was matched with) of a pasted list."""
    rows = (PASTED_LISTS / name).read_text(encoding="utf-8").splitlines()
    meant = [row.rsplit(" => ", 1)[1].split() for row in rows if " => " in row]
    text = "\n".join(row.rsplit(" => ", 1)[0] for row in rows)
    made = read(text, PROFILES[OF_KIND[name[0]]].body)
    profile_from_json(made.body)
    assert len(made.found) == len(meant)
    return [(f.line, m, f.of if f.how != OWN else "-") for f, m in zip(made.found, meant, strict=True)]


def test_six_lists_in_other_words_are_matched_with_the_library_and_no_killer_item_wrongly():
    library = item_library()
    rows = [row for path in sorted(PASTED_LISTS.glob("*.txt")) for row in matched(path.name)]
    assert len(rows) > 150
    right = sum(got in meant for _, meant, got in rows)
    assert right >= 0.8 * len(rows), f"{right} of {len(rows)}"
    kills = [(line, got) for line, meant, got in rows if got not in meant and library.get(got, {}).get("killer")]
    assert kills == []
    missed = [
        (line, got)
        for line, meant, got in rows
        if got not in (*meant, "-") and all(library.get(one, {}).get("killer") for one in meant)
    ]
    assert missed == [], "what kills is matched rightly, or stays the pilot's own"


@pytest.mark.parametrize(
    ("challenge", "response", "item"),
    [
        ("Magnetos", "off", "mags_off"),
        ("Mags", "both", "mags_to"),
        ("Carb heat", "hot", None),  # before take-off it is cold: what is to be done contradicts the item
        ("Flaps", "up", None),
        ("Undercarriage", "up", None),
    ],
)
def test_what_is_to_be_done_decides_which_item_is_meant(challenge, response, item):
    rows = [item_library()[name] for name in ("mags_to", "mags_off", "heat_to", "flaps_to", "gear_l")]
    found = best_match(challenge, response, rows)
    if item is None:
        assert found is None or found.row["id"] == "flaps_to"
    else:
        assert found is not None
        assert found.row["id"] == item


@pytest.mark.parametrize(
    ("title", "phase", "slot"),
    [
        ("BEFORE STARTING ENGINE", "before_start", "cockpit"),
        ("Engine start", "start", "start"),
        ("RUNUP", "run_up", "run_up"),
        ("Power checks", "run_up", "run_up"),
        ("Pre take off vital actions", "before_take_off", "lineup"),
        ("After Takeoff", "take_off", "after_take_off"),
        ("Downwind", "before_landing", "landing"),
        ("After landing", "after_landing", "clear_rwy"),
        ("Securing", "shutdown", "shutdown"),
    ],
)
def test_a_heading_names_a_part_of_the_flight(title, phase, slot):
    meant = heading_of(title)
    assert meant.kinds[0] == phase
    assert slot in meant.slots


def test_a_heading_in_plain_text_finds_its_phase_and_a_line_alone_is_an_item():
    made = read("RUNUP\nBrakes: held\nInto wind\nMags: left, right, both\n\nAFTER LANDING\nFlaps: up\n")
    items = items_of(made, "run_up", "RUNUP")
    assert [item["challenge"] for item in items] == ["Brakes", "Into wind", "Mags"]
    assert items[2]["check"] == "mag_check"
    assert [item["challenge"] for item in items_of(made, "descent_landing", "After landing")] == ["Flaps"]
    left = [item["id"] for one in made.body["phases"][3]["lists"] if one["title"] == "Run-up" for item in one["items"]]
    assert "mags" not in left, "an item that the new list has taken is not read twice"


def test_pasted_lists_stand_instead_of_all_of_their_phase_where_that_is_asked_and_other_phases_stay():
    body = PROFILES["a-trainer"].body
    first, second = body["phases"][:2]
    text = f"# {first['title']}\n## My own list\n- Cushion | Under me\n"
    beside = lists_from_text(text, body, item_library()).body["phases"]
    instead = lists_from_text(text, body, item_library(), instead=True).body["phases"]
    assert [one["title"] for one in beside[0]["lists"]] == [*(one["title"] for one in first["lists"]), "My own list"]
    assert [one["title"] for one in instead[0]["lists"]] == ["My own list"]
    assert instead[1] == second
