"""Drills on an aircraft of one's own: which it can fly, and that they are flown and scored on it as on the kind."""

import json
from dataclasses import replace
from pathlib import Path

import pytest

from jemmon.app.doors import profile_from
from jemmon.core.aircraft.own import own_profile
from jemmon.core.base.errors import DrillError
from jemmon.core.drills import PilotScript, fly, score
from jemmon.core.drills.drill import with_words, words_of
from jemmon.core.drills.owned import flown_on, is_like, kind_of
from jemmon.core.drills.score import WELL_FLOWN
from jemmon.library.practice import drawn_drill, shipped_drills
from tests.core.builders import PROFILES
from tests.core.test_own_aircraft import answers_of


def own_of(kind: str):
    return profile_from(own_profile(PROFILES[kind], "Mine", "ZZ-MIN", answers_of(kind)))


@pytest.mark.parametrize("kind", PROFILES)
def test_an_aircraft_made_from_a_kind_flies_that_kinds_drills(kind):
    assert kind_of(own_of(kind), PROFILES) == kind


def test_other_controls_needles_or_cylinders_are_another_aircraft():
    kind, own = PROFILES["a-trainer"], own_of("a-trainer")
    bench = own.bench
    assert is_like(kind, own)
    more = {**bench, "instruments": [*bench["instruments"], "carb_air_f"]}
    assert is_like(kind, replace(own, bench=more)), "a needle more is no harm"
    for changed in (
        {"instruments": bench["instruments"][1:]},
        {"levers": [*bench["levers"], "prop"]},
        {"cylinders": 6},
    ):
        assert not is_like(kind, replace(own, bench={**bench, **changed})), changed


def test_what_cannot_be_flown_on_an_aircraft_says_why():
    drill = drawn_drill(shipped_drills()["no-charge"], 1)
    kind = PROFILES[drill.aircraft]
    with pytest.raises(DrillError, match="other controls or needles"):
        flown_on(drill, kind, PROFILES["d-twin"])
    with pytest.raises(DrillError, match="no phase"):
        flown_on(replace(drill, phase="hover"), kind, own_of(drill.aircraft))


@pytest.mark.parametrize("name", ["no-charge", "dead-magneto", "no-oil-pressure", "ice-in-cruise"])
def test_a_drill_on_an_own_aircraft_is_scored_by_its_own_engine(name):
    drill = drawn_drill(shipped_drills()[name], 1)
    own = own_of(drill.aircraft)
    mine = flown_on(drill, PROFILES[drill.aircraft], own)
    assert mine.aircraft == own.id
    pilots = json.loads((Path("tests/drills") / f"{name}.json").read_text(encoding="utf-8"))
    steps = with_words(pilots["good"], words_of(shipped_drills()[name], 1))
    good, idle = (score(mine, fly(mine, own.bench, PilotScript.from_json(said)), own) for said in (steps, []))
    assert (good.fact, good.total >= 95) == (WELL_FLOWN, True), good
    assert idle.total < 90
