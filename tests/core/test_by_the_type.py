"""What belongs to a type and not to everyone: its hub, its two unlike ignitions, its burn-off, what stops it, its blades."""

from dataclasses import replace

import numpy as np
import pytest

from jemmon.core.base.errors import EventError
from jemmon.core.base.figures import figure, plain
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.judge import judge
from jemmon.core.judgement.magneto import asks_burn_off, burns_off, judge_magnetos
from jemmon.core.judgement.magneto_sides import Side
from jemmon.core.judgement.registry import checks, not_judged
from jemmon.core.judgement.trend import FlownFindings, trend_rows
from jemmon.core.judgement.typed_figures import rpm_of
from jemmon.core.live.take_off import take_off_watch
from jemmon.core.procedure.progress import lists_of
from jemmon.core.screen.start import describe_start
from jemmon.core.start.following import StartWatch
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, changed, events, needles

TOURER, RADIAL, TRAINER = PROFILES["b-tourer"], PROFILES["f-radial"], PROFILES["a-trainer"]


def cycle(dip_psi: float, drop_rpm: float = 300.0) -> Trace:
    """A propeller cycle at 1,700 RPM by its lever, oil pressure dipping by so much."""
    t = np.arange(0, 40, 0.5)
    away = (t >= 15) & (t < 19)
    return Trace(
        t,
        {
            "rpm": np.where(away, 1700 - drop_rpm, 1700.0),
            "map_inhg": np.where(away, 16.5, 15.0),
            "oil_p_psi": np.where(away, 60 - dip_psi, 60.0),
            "prop": np.where(away, 0.2, 1.0),
        },
    )


@pytest.mark.parametrize(
    ("hub", "dip_psi", "verdict"),
    [("oil", 0.9, "look"), ("oil", 1.1, "within"), ("electric", 0.0, "within")],
)
def test_an_oil_operated_hub_without_a_dip_is_a_look(hub, dip_psi, verdict):
    profile = changed("b-tourer", lambda body: body["engine"].update(propeller_hub=hub))
    (found,) = judge(cycle(dip_psi), profile, ("prop_cycle",))
    assert found.verdict == verdict


def test_a_cycle_that_falls_less_than_half_of_the_types_figure_is_a_look():
    half = TOURER.limit("prop_drop_rpm") / 2
    for drop, verdict in ((half - 2, "look"), (half + 2, "within")):
        (found,) = judge(cycle(5.0, drop), TOURER, ("prop_cycle",))
        assert found.verdict == verdict


def mixed(body: dict) -> None:
    """One magneto and one electronic ignition, each with its own limits; no difference limit."""
    body["engine"]["ignition"] = "magneto_and_electronic"
    note = {"source": "type", "note": "invented"}
    body["limits"] |= {"mag_drop_max_left_rpm": {"value": 170, **note}, "mag_drop_max_right_rpm": {"value": 60, **note}}
    del body["limits"]["mag_difference_max_rpm"]


MIXED = changed("a-trainer", mixed)


def checked(left: float, right: float):
    sides = [
        Side(name=name, base_rpm=1800, drop_rpm=drop, restored_rpm=1800, start_s=at, end_s=at + 8)
        for name, drop, at in (("left", left, 10.0), ("right", right, 30.0))
    ]
    return judge_magnetos(MIXED, sides)


@pytest.mark.parametrize(
    ("left", "right", "verdict"),
    [(169, 59, "within"), (171, 59, "stop"), (169, 61, "stop")],
)
def test_unlike_sides_have_limits_of_their_own_and_no_difference(left, right, verdict):
    found = checked(left, right)
    assert found.verdict == verdict
    assert (found.limits["drop_max_left_rpm"], found.limits["drop_max_right_rpm"]) == (170, 60)
    assert "difference_max_rpm" not in found.limits
    assert "Magnetos" not in [row.title for row in not_judged(MIXED)]


def test_trends_of_unlike_sides_are_held_against_their_own_limits():
    flown = [
        FlownFindings(flight=f"f{n}", day=f"2026-01-{n + 1:02}", findings=(checked(100, 40).to_json(),))
        for n in range(3)
    ]
    rows = {row.title: row.limit for row in trend_rows(MIXED, flown)}
    assert rows["Left magneto drop"] == 170
    assert rows["Right magneto drop"] == 60
    assert "Difference of the drops" not in rows


@pytest.mark.parametrize(
    ("kind", "burns"),
    [("a-trainer", True), ("d-twin", True), ("e-rotor", False), ("g-vee", False), ("h-geared", False)],
)
def test_a_burn_off_is_the_types_own(kind, burns):
    """None above 2,200 RPM, none for rotors, detents, lanes (common practice), unless the profile has its own."""
    profile = PROFILES[kind]
    assert burns_off(profile) is burns
    most = profile.limit_of_side("mag_drop_max_rpm", "left")
    side = Side(name="left", base_rpm=1800, drop_rpm=most + 40, restored_rpm=1800, start_s=0, end_s=8)
    found = judge_magnetos(
        profile, [side, replace(side, name="right", start_s=20, end_s=28)], {"left": True, "right": True}
    )
    assert asks_burn_off(found.to_json()) is burns
    assert ("no burn-off" in found.next) is not burns


@pytest.mark.parametrize(("run_up_rpm", "burns"), [(1980, True), (2030, False)])
def test_no_burn_off_above_2200_rpm(run_up_rpm, burns):
    def faster(body):
        body["limits"]["runup_rpm"]["value"] = run_up_rpm
        body["limits"].pop("burn_off_rpm", None)

    assert burns_off(changed("a-trainer", faster)) is burns


def test_what_stops_an_engine_is_said_in_its_own_words():
    geared, needle = PROFILES["h-geared"], needles(60.0, rpm=2000.0)
    for profile, word in ((TRAINER, "ixture cut-off"), (geared, "oth lanes and pumps off")):
        late = fold(
            profile, events(("engine_fired", {"limit_s": 20.0}), ("oil_pressure_missing", {"limit_s": 20.0}, 30.0))
        )
        line = describe_start(profile, late, {}, needle, 31.0).large.line
        assert word in line
        turning = fold(profile, events(("cranking_began", {})))
        assert word in describe_start(profile, turning, {}, needle, 2.0).large.line


def held(profile, still_s: float, rows: int, volts_v: float):
    """The starter held for so long without rotation."""
    state = fold(profile, events(("cranking_began", {})))
    watch = StartWatch(turning_s=still_s, still_s=still_s, still_rows=rows, volts_v=volts_v)
    return describe_start(profile, state, {1: watch, 2: watch}, needles(3.0, rpm=0.0), 3.0).large


@pytest.mark.parametrize(
    ("still_s", "rows", "volts_v", "say"),
    [
        (0.9, 4, 9.0, "CRANKING"),
        (1.1, 1, 9.0, "CRANKING"),
        (1.1, 2, 9.0, "LET GO"),
        (1.1, 2, 25.0, "NO ROTATION SEEN"),  # the bus is not pulled down: the starter does not push
    ],
)
def test_a_starter_that_turns_nothing_is_let_go(still_s, rows, volts_v, say):
    assert held(TOURER, still_s, rows, volts_v).say == say


def test_a_tachometer_that_does_not_show_cranking_says_only_that_no_rotation_is_seen():
    blind = changed("b-tourer", lambda body: body["start"].pop("shows_cranking"))
    assert held(blind, 2.0, 5, 9.0).say == "NO ROTATION SEEN"


@pytest.mark.parametrize(("blades", "is_said"), [(11, True), (12, False)])
def test_blades_that_were_skipped_are_said_before_the_starter(blades, is_said):
    first = RADIAL.engines[0][0]
    turned = {"action": "turn_blades", "amount": blades, "engine": first}
    rows = [("fact", {"name": "stood_h", "value": 2.0}), ("hand_action", turned), ("phase_entered", {"phase": "start"})]
    state = fold(RADIAL, events(*rows))
    warnings = describe_start(RADIAL, state, {}, None, 10.0).warnings
    assert any("blades not turned through" in words for words in warnings) is is_said


def test_every_check_is_still_needed_by_a_type_with_two_magnetos():
    assert checks()["mag_check"].not_needed_by(TRAINER) == ()


@pytest.mark.parametrize("kind", ["a-trainer", "b-tourer", "d-twin"])
def test_at_a_high_density_altitude_no_list_asks_for_full_rich(kind):
    """Normally aspirated engines above about 5,000 ft are started and flown less than full rich (common practice)."""
    profile = PROFILES[kind]
    for density_ft, is_plain in ((6_000.0, False), (4_000.0, True)):
        known = {"start": "cold", "density_altitude_ft": density_ft}
        asked = [
            item.response
            for phase in profile.phases
            for one in lists_of(phase, known)
            for item in one.items
            if item.challenge.startswith("Mixture") and not phase.kind.flies
        ]
        assert ("Rich" in asked) is (is_plain and kind == "a-trainer")
        assert is_plain or any("altitude" in words or "elevation" in words for words in asked)


def test_detents_allow_no_more_than_the_list_says():
    vee = PROFILES["g-vee"]
    lean = next(row for row in vee.power_section["detents"] if row["name"] == "LEAN")
    words = vee.items["auto_lean"].response
    assert plain(figure(lean["below_map_inhg"], "inhg")) in plain(words)
    assert f"{lean['below_rpm']:,.0f}" in words


@pytest.mark.parametrize("kind", ["f-radial", "g-vee"])
def test_the_rating_and_its_limit_give_the_same_minutes(kind):
    profile = PROFILES[kind]
    assert "five minutes" in profile.limits["map_max_inhg"].note
    assert [row["seconds"] for row in profile.power_section["ratings"]] == [300]


def test_what_a_helicopter_sets_at_its_shutdown_stays_set():
    rotor = PROFILES["e-rotor"]
    last = next(phase for phase in rotor.phases if phase.kind.name == "shutdown")
    assert {item.away for item in last.items} & {"governor_off", "rotor_brake"} == set()


@pytest.mark.parametrize(
    ("kind", "typed", "rpm"),
    [("e-rotor", 75.0, 0.75 * PROFILES["e-rotor"].engine["rpm_at_100_pct"]), ("h-geared", 4000.0, 4000.0)],
)
def test_a_typed_speed_is_what_the_types_tachometer_shows(kind, typed, rpm):
    profile = PROFILES[kind]
    assert rpm_of(profile, {"base_rpm": typed}, "base_rpm") == pytest.approx(rpm)
    too_fast = profile.find_limit("rpm_max") or profile.engine["rpm_at_100_pct"]
    with pytest.raises(EventError):
        rpm_of(profile, {"base_rpm": 2 * too_fast}, "base_rpm")


@pytest.mark.parametrize(("ias_kt", "is_watched"), [(51.0, True), (53.0, False)])
def test_a_take_off_is_stopped_until_the_types_own_rotation(ias_kt, is_watched):
    assert TRAINER.body["briefing"]["rotate_kt"] == 52
    t = np.arange(0, 20, 0.5)
    flown = Trace(t, {"throttle": np.ones(len(t)), "rpm": np.full(len(t), 2300.0), "ias_kt": np.full(len(t), ias_kt)})
    state = fold(TRAINER, events(("phase_entered", {"phase": "take_off_climb"}), ("engine_fired", {"limit_s": 30.0})))
    watch = take_off_watch(TRAINER, state, flown, needles(19.5, rpm=2300.0, ias_kt=ias_kt, oil_p_psi=60.0))
    assert (watch is not None) is is_watched
