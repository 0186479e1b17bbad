"""Lists out as text and in again: nothing is lost, and what comes from anywhere is matched so that data can still carry it."""

import contextlib

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jemmon.core.aircraft import profile_from_json
from jemmon.core.aircraft.list_text import KEPT, KNOWN, OWN, lists_as_text, lists_from_text
from jemmon.core.base.errors import ProfileError
from jemmon.library.shipped import item_library
from tests.core.builders import PROFILES

TRAINER = dict(PROFILES["a-trainer"].body)
EVERYONE = pytest.mark.parametrize("profile", PROFILES.values(), ids=list(PROFILES))


def read(text, body=TRAINER):
    return lists_from_text(text, body, item_library())


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
    assert dict(made.found)["GPS position"] == OWN
    assert brakes["response"] == "Hold"
    assert profile_from_json(made.body).items["mags"].check == "mag_check"


def test_what_the_profile_has_not_comes_from_the_library():
    made = read("# Before start\n## Mine\n- Oxygen | Quantity read, mask tried\n")
    (item,) = items_of(made, "before_start", "Mine")
    assert (item["of"], dict(made.found)["Oxygen"]) == ("oxygen", KNOWN)
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
