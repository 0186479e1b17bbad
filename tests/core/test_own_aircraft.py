"""An aircraft of one's own from the nearest kind: asked, answered, and nothing taken from the kind in silence."""

import re

import pytest

from jemmon.app.doors import profile_from
from jemmon.core.aircraft.own import own_profile
from jemmon.core.aircraft.questions import answered, by_id, questions_of
from jemmon.core.base.errors import ProfileError
from jemmon.core.judgement.registry import not_judged
from tests.core.builders import PROFILES

KINDS = sorted(PROFILES)


def answers_of(kind: str, only_needed: bool = False) -> dict[str, float]:
    """The kind's own figures, each a little larger: an answer is known from what the kind has."""
    return {
        q.id: min(q.kind_has * 1.01, q.highest) for q in questions_of(PROFILES[kind]) if q.needed or not only_needed
    }


@pytest.mark.parametrize("kind", KINDS)
def test_a_kind_asks_about_forty_figures_each_with_its_place_and_its_own_figure_in_range(kind):
    questions = questions_of(PROFILES[kind])
    assert 40 <= len(questions) <= 60
    assert len({question.id for question in questions}) == len(questions)
    for question in questions:
        assert question.lowest <= question.kind_has <= question.highest, question
        assert question.place
    subjects = [question.subject for question in questions]
    assert max(subjects.count(name) for name in subjects) <= 20, "a page a subject"


@pytest.mark.parametrize("kind", KINDS)
def test_with_every_answer_nothing_is_left_unjudged_and_without_them_all_of_it_says_so(kind):
    whole = profile_from(own_profile(PROFILES[kind], "Mine", "ZZ-MIN", answers_of(kind)))
    assert not not_judged(whole)
    bare = profile_from(own_profile(PROFILES[kind], "Mine", "ZZ-MIN", answers_of(kind, only_needed=True)))
    gone = {q.id.removeprefix("limits.") for q in questions_of(PROFILES[kind]) if q.id.startswith("limits.")}
    assert not gone & set(bare.limits)
    assert "oil_pressure_min_psi" in {name for row in not_judged(bare) for name in row.limits}
    assert all(limit.source == "common practice" for limit in bare.limits.values())
    assert bare.prime == ()
    assert bare.power is None


@pytest.mark.parametrize("kind", KINDS)
def test_no_speed_of_the_kind_stands_in_a_text_of_the_own_aircraft(kind):
    own = own_profile(PROFILES[kind], "Mine", "ZZ-MIN", answers_of(kind))
    told = {f"{value:g}" for value in answers_of(kind).values()}
    speeds = re.findall(r"\{([0-9.]+)\|kt\}", str([own["emergency"], own["phases"]]))
    assert set(speeds) <= told


def test_an_item_whose_limit_is_not_given_is_never_shown_as_expected():
    bare = profile_from(own_profile(PROFILES["a-trainer"], "Mine", "ZZ-MIN", answers_of("a-trainer", only_needed=True)))
    oil = [i for i in bare.items.values() if i.reading and i.reading.signal == "oil_p_psi" and i.reading.has_gap]
    assert oil
    assert all(item.reading.holds(60.0) is None for item in oil)


def test_what_is_missing_and_what_is_not_asked_is_refused_by_its_name():
    without = answers_of("a-trainer")
    del without["briefing.glide_kt"]
    with pytest.raises(ProfileError, match="glide") as refused:
        own_profile(PROFILES["a-trainer"], "Mine", "ZZ-MIN", without)
    assert refused.value.where == "briefing.glide_kt"
    with pytest.raises(ProfileError, match="not asked"):
        own_profile(PROFILES["a-trainer"], "Mine", "ZZ-MIN", {**answers_of("a-trainer"), "limits.tit_max_f": 1600})


@pytest.mark.parametrize(
    ("name", "value", "choice", "core"),
    [
        ("limits.oil_t_max_f", 118.0, "metric", 244.4),  # °C to °F
        ("limits.oil_pressure_max_psi", 6.9, "metric", 100.08),  # bar to psi: 1 bar is 14.5038 psi (NIST SP 811)
        ("engine.rated_power_hp", 108.0, "metric", 144.83),  # kW to hp: 0.7457 kW a horsepower (NIST SP 811)
        ("engine.displacement_l", 335.0, "us", 5.49),  # cubic inches: 16.387 cm3 each (NIST SP 811)
        ("briefing.glide_kt", 75.0, "mph", 65.17),  # statute miles: 1.609344 km against 1.852 km
    ],
)
def test_a_figure_is_taken_in_the_unit_that_the_handbook_prints(name, value, choice, core):
    question = by_id(PROFILES["a-trainer"])[name]
    assert answered(question, value, choice) == pytest.approx(core, abs=0.01)


def test_a_figure_in_the_wrong_unit_is_refused_with_the_range_in_the_unit_it_was_typed_in():
    question = by_id(PROFILES["a-trainer"])["limits.oil_pressure_max_psi"]
    assert answered(question, 200.0, "us") == 200.0
    with pytest.raises(ProfileError, match="3 to 200"):
        answered(question, 200.1, "us")
    with pytest.raises(ProfileError, match=r"0.2068 to 13\.79"):
        answered(question, 100.0, "metric")
    with pytest.raises(ProfileError, match="none of the units"):
        answered(question, 5.0, "imperial")
