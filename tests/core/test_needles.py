"""The instruments of a phase: figure, limits, out of limits or not, and which come by themselves."""

import re

import pytest

from jemmon.core.flight.fold import fold
from jemmon.core.screen.instruments import instrument, instruments, unit_of
from jemmon.core.trace.sample import with_hottest
from tests.core.builders import PROFILES, events, needles, screen_of

A, D, E = (PROFILES[i] for i in ("a-trainer", "d-twin", "e-rotor"))
RUNNING = events(("engine_fired", {"limit_s": 30.0}), ("oil_pressure_seen", {"seconds": 3.0}))


@pytest.mark.parametrize(
    ("name", "value", "runs", "state"),
    [
        ("oil_p_psi", 60.0, True, "ok"),
        ("oil_p_psi", 10.0, True, "low"),
        ("oil_p_psi", 10.0, False, "ok"),
        ("oil_p_psi", 140.0, True, "high"),
        ("cht_max_f", 495.0, True, "high"),
        ("rpm", 2_700.0, True, "high"),
        ("rpm", A.limit("rpm_max") + 10, True, "ok"),  # it trembles
        ("rpm", A.limit("rpm_max") + 20, True, "high"),
        ("volts_v", 0.0, False, "ok"),
        ("volts_v", 22.0, False, "low"),
        ("suction_inhg", 3.0, True, "ok"),
        ("oil_p_psi", None, True, "none"),
    ],
)
def test_a_figure_is_held_against_its_limits(name, value, runs, state):
    readings = {"rpm": 1_000.0} | ({name: value} if value is not None else {})
    assert instrument(A, name, readings, runs).state == state


def test_suction_is_judged_from_run_up_speed_on():
    assert instrument(A, "suction_inhg", {"rpm": 1_800.0, "suction_inhg": 3.0}, True).state == "low"


def test_what_is_out_of_limits_comes_by_itself_and_only_while_the_engine_runs():
    hot = needles(9.0, rpm=1_000.0, cht1_f=300.0, cht2_f=520.0, oil_p_psi=60.0)
    running = fold(A, RUNNING)
    extra = [row.id for row in instruments(A, running, hot, 0.0) if row.came_by_itself]
    assert extra == ["cht_max_f"]
    assert not [row for row in instruments(A, fold(A, []), hot, 0.0) if row.came_by_itself]


def test_no_phase_shows_more_than_five_and_each_is_known():
    for profile in PROFILES.values():
        for phase in profile.phases:
            shown = instruments(profile, fold(profile, events(("phase_entered", {"phase": phase.id}))), None, 0.0)
            assert len(shown) == len(phase.instruments) <= 5, (profile.id, phase.id)


def test_a_twins_needles_carry_the_engines_name_and_shared_ones_do_not():
    assert instrument(D, "rpm", {}, True).label == "RPM, left engine"
    assert instrument(D, "e2_rpm", {}, True).label == "RPM, right engine"
    assert instrument(D, "volts_v", {}, True).label == "Bus voltage"
    assert instrument(A, "rpm", {}, True).label == "RPM"
    with pytest.raises(KeyError):
        instrument(A, "moon", {}, True)


def test_a_helicopter_reads_in_percent():
    row = instrument(E, "rpm_pct", {"rpm_pct": 106.0}, True)
    assert (row.unit, row.state, row.high) == ("pct", "high", E.limit("rpm_pct_max_pct"))


@pytest.mark.parametrize(
    ("phase", "state"), [("warm_up", "ok"), ("run_up", "ok"), ("take_off", "low"), ("cruise", "low")]
)
def test_a_rotor_that_turns_slowly_is_low_where_it_carries_the_aircraft(phase, state):
    phase_id = next(p.id for p in E.phases if E.kind_of(p.id).name == phase)
    slow = needles(90.0, rpm_pct=75.0, rotor_pct=75.0, oil_p_psi=60.0)
    there = fold(E, events(("phase_entered", {"phase": phase_id}), ("engine_fired", {"limit_s": 30.0})))
    assert {row.state for row in instruments(E, there, slow, 90.0, ("rotor_pct",)) if row.id == "rotor_pct"} == {state}


def test_the_air_outside_is_no_manifold_pressure_too_high():
    assert instrument(E, "map_inhg", {"rpm_pct": 0.0, "map_inhg": 29.9}, False).state == "ok"
    assert instrument(E, "map_inhg", {"rpm_pct": 90.0, "map_inhg": 29.9}, True).state == "high"
    assert instrument(E, "map_inhg", {"rpm_pct": 30.0, "map_inhg": 29.9}, True).state == "ok", "it dies"


def test_the_hottest_head_is_derived_and_units_follow_the_name():
    assert with_hottest({"cht1_f": 300.0, "cht2_f": 350.0})["cht_max_f"] == 350.0
    assert "cht_max_f" not in with_hottest({"rpm": 1.0})
    assert [unit_of(n) for n in ("rpm", "e2_oil_t_f", "egt3_f", "throttle")] == ["rpm", "f", "f", ""]


def test_the_bus_may_fall_while_a_starter_turns_to_that_limit_and_no_further():
    least, crank_least = A.limit("volts_min_v"), A.limit("volts_crank_min_v")
    for volts, cranks, state in (
        (least - 0.2, False, "low"),
        (least - 0.2, True, "ok"),
        (crank_least + 0.1, True, "ok"),
        (crank_least - 0.2, True, "low"),
    ):
        assert instrument(A, "volts_v", {"volts_v": volts}, False, cranks).state == state


# a figure with its unit as plain text would not follow the units that were chosen
RAW = re.compile(r"\d\s?(?:°F|°C|inHg|hPa|psi|bar|gal|L)\b|°[FC]")


def words_of(shown) -> list[str]:
    if isinstance(shown, dict):
        return [words for part in shown.values() for words in words_of(part)]
    return [words for part in shown for words in words_of(part)] if isinstance(shown, list) else [str(shown)]


@pytest.mark.parametrize("name", sorted(PROFILES))
def test_no_word_of_any_phase_has_a_unit_of_its_own(name):
    profile = PROFILES[name]
    for phase in profile.phases:
        there = fold(profile, [*RUNNING, *events(("phase_entered", {"phase": phase.id}, 9.0))])
        found = [words for words in words_of(screen_of(profile, there, None, 10.0)) if RAW.search(words)]
        assert found == [], phase.id


@pytest.mark.parametrize(("kind", "is_on_ground"), [("warm_up", True), ("take_off", False), ("cruise", False)])
def test_nobody_is_told_to_stop_an_engine_in_the_air(kind, is_on_ground):
    """What is wrong since the start stays said; what to do about it on the ground does not."""
    geared = PROFILES["h-geared"]
    phase = next(p.id for p in geared.phases if geared.kind_of(p.id).name == kind)
    told = ("alternator_2_missing", {"within_s": 60.0}), ("not_charging", {"volts_v": 12.1})
    there = fold(geared, events(("engine_fired", {"limit_s": 30.0}), *told, ("phase_entered", {"phase": phase})))
    now = needles(200.0, rpm=5_200.0, oil_t_f=90.0, oil_p_psi=140.0, volts_v=12.1)
    said = " ".join(screen_of(geared, there, now, 200.0)["start"]["warnings"])
    assert "second alternator" in said
    assert "does not charge" in said
    for words in ("stop and start again", "Not for flight", "cold and thick", "on cold oil"):
        assert (words in said) is is_on_ground, words
