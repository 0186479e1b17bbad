"""All cylinders at once: the highest CHT, the exhaust furthest from the others, left against right, and what is not read."""

import pytest

from jemmon.core.base.figures import plain
from jemmon.core.screen.cylinders import describe_cylinders
from tests.core.builders import PROFILES, needles

TRAINER, TWIN = PROFILES["a-trainer"], PROFILES["d-twin"]


def test_the_highest_head_and_the_odd_exhaust_are_named():
    now = needles(egt1_f=1_300, egt2_f=1_310, egt3_f=1_220, egt4_f=1_330, cht1_f=340, cht2_f=355, cht3_f=350)
    (engine,) = describe_cylinders(TRAINER, now)
    assert (engine.hottest, engine.odd) == (2, 3)
    assert [one.number for one in engine.cylinders] == [1, 2, 3, 4]
    assert engine.cylinders[2].egt_apart_f == pytest.approx(-90)
    assert engine.cylinders[3].cht_f is None
    assert engine.cht_act_f == TRAINER.limit("cht_act_f")
    assert plain(engine.say) == (
        "Highest CHT: cylinder 2, 355 °F. EGT furthest from the others: cylinder 3, 90 °F below."
    )


def test_each_engine_of_a_twin_has_its_own():
    left, right = describe_cylinders(TWIN, needles(cht1_f=300, cht2_f=290, e2_cht1_f=310, e2_cht2_f=340))
    assert (left.name, left.hottest, left.odd) == ("Left engine", 1, None)
    assert (right.name, right.hottest) == ("Right engine", 2)


@pytest.mark.parametrize(
    ("left_cht_f", "left_egt_f", "said"),
    [
        (372, 1_390, ("32 °F above", "20 °F below")),
        (340, 1_410, ("the same as", "the same as")),
        (330, 1_420, ("10 °F below", "10 °F above")),
    ],
)
def test_left_is_held_against_right(left_cht_f, left_egt_f, said):
    readings = {f"egt{n}_f": left_egt_f for n in (1, 2, 3)} | {f"e2_egt{n}_f": 1_410 for n in (1, 2, 3)}
    left, right = describe_cylinders(TWIN, needles(cht1_f=left_cht_f, e2_cht1_f=340, **readings))
    words = f"Highest CHT {said[0]} the other engine's; middle EGT {said[1]} the other engine's."
    assert plain(left.say).endswith(words)
    turned = {"above": "below", "below": "above"}
    mirrored = " ".join(turned.get(word, word) for word in words.split(" "))
    assert plain(right.say).endswith(mirrored)


def test_an_engine_that_does_not_run_is_held_against_nothing():
    cold = {f"e2_egt{n}_f": 60 for n in (1, 2, 3)}
    left, _ = describe_cylinders(TWIN, needles(cht1_f=300, egt1_f=1_300, e2_cht1_f=60, **cold))
    assert "other engine" not in left.say


@pytest.mark.parametrize(("egts", "odd"), [((1_300, 1_400), None), ((1_300, 1_400, 1_310), 2)])
def test_two_exhausts_alone_have_no_middle(egts, odd):
    readings = {f"egt{number}_f": value for number, value in enumerate(egts, 1)}
    (engine,) = describe_cylinders(TRAINER, needles(**readings))
    assert engine.odd == odd
    assert engine.hottest is None


def test_without_probes_there_is_nothing_to_show():
    assert describe_cylinders(TRAINER, needles(rpm=1_000)) == ()
    assert describe_cylinders(TRAINER, None) == ()


@pytest.mark.parametrize(("hottest_egt_f", "odd"), [(499.0, None), (501.0, 3)])
def test_of_an_engine_that_does_not_run_no_cylinder_is_odd(hottest_egt_f, odd):
    now = needles(egt1_f=90, egt2_f=95, egt3_f=hottest_egt_f, cht1_f=80, cht2_f=81)
    (engine,) = describe_cylinders(TRAINER, now)
    assert engine.odd == odd
    assert engine.hottest == (None if odd is None else 2)
    assert ("does not run" in engine.say) == (odd is None)
