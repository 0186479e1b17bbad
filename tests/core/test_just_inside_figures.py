"""Figures of the small rules, each tried just inside and just outside of where it turns: what is typed, asked back, compared,
warned of and named. The figures are common practice, but where a test says otherwise."""

import numpy as np
import pytest

from jemmon.core.base.errors import EventError
from jemmon.core.flight.fold import check_pilot_event, fold
from jemmon.core.judgement.engine_health import causes, nozzle_drift
from jemmon.core.judgement.registry import checks
from jemmon.core.judgement.trend import figure_trend
from jemmon.core.judgement.typed import judge_typed
from jemmon.core.judgement.typed_figures import rpm_of
from jemmon.core.live.workings import speed_working
from jemmon.core.power.settings import settings_for
from jemmon.core.power.wanted import check_wanted, power_choices, wanted_steps
from jemmon.core.procedure.notice import low_rotor, minutes_left
from jemmon.core.screen.cards import summarise
from jemmon.core.screen.cylinders import describe_cylinders
from jemmon.core.trace import Trace
from tests.core.builders import PROFILES, changed, events, needles

A, B, D, E, H = (PROFILES[name] for name in ("a-trainer", "b-tourer", "d-twin", "e-rotor", "h-geared"))


@pytest.mark.parametrize(("peak_f", "taken"), [(799.0, False), (800.0, True), (1800.0, True), (1801.0, False)])
def test_a_typed_peak_is_a_usual_exhaust_temperature(peak_f, taken):
    body = {"check": "lean", "peak_egt_f": peak_f, "target_egt_f": peak_f - 100.0}
    if taken:
        check_pilot_event(B, fold(B, []), "typed_reading", body)
    else:
        with pytest.raises(EventError, match="usual exhaust gas temperature"):
            check_pilot_event(B, fold(B, []), "typed_reading", body)


@pytest.mark.parametrize(("shown", "rpm"), [(75.0, 0.75), (109.0, 1.09)])
def test_a_tachometer_in_percent_is_read_as_percent(shown, rpm):
    assert rpm_of(E, {"rpm": shown}, "rpm") == pytest.approx(rpm * float(E.engine["rpm_at_100_pct"]))


@pytest.mark.parametrize(("profile", "most"), [(A, 1.1 * A.limit("rpm_max")), (H, 1.1 * H.limit("rpm_max"))])
def test_a_typed_speed_is_asked_back_a_tenth_beyond_the_types_highest(profile, most):
    assert rpm_of(profile, {"rpm": most - 1}, "rpm") == most - 1
    with pytest.raises(EventError, match="Type it again"):
        rpm_of(profile, {"rpm": most + 1}, "rpm")


@pytest.mark.parametrize(("rpm", "taken"), [(499.0, False), (500.0, True)])
def test_a_typed_speed_is_asked_back_below_what_a_run_up_turns(rpm, taken):
    if taken:
        assert rpm_of(A, {"rpm": rpm}, "rpm") == rpm
    else:
        with pytest.raises(EventError, match="500"):
            rpm_of(A, {"rpm": rpm}, "rpm")


@pytest.mark.parametrize(
    ("title", "kind", "measured", "apart"),
    [
        ("Idle", "idle_check", "idle_rpm", 60.0),
        ("RPM on both magnetos", "mag_check", "base_rpm", 40.0),
        ("Difference of the drops", "mag_check", "difference_rpm", 30.0),
        ("Full throttle", "power_check", "static_rpm", 40.0),
    ],
)
@pytest.mark.parametrize(("more", "far"), [(0.0, False), (1.0, True)])
def test_two_engines_at_equal_levers_are_far_apart_beyond_a_figure_of_each_check(
    title, kind, measured, apart, more, far
):
    usual = {"kind": kind, "verdict": "within", "because": kind, "next": "", "limits": {}}
    figures = ((1, 700.0), (2, 700.0 + apart + more))
    told = [("finding", {**usual, "measured": {measured: value}, "engine": number}) for number, value in figures]
    idle = (
        "finding",
        {**usual, "kind": "idle_check", "measured": {}, "engine": 1},
    )  # a card needs something of the run-up
    card = summarise(D, fold(D, events(("phase_entered", {"phase": "run_up"}), idle, *told)))
    assert [row.far for row in card.twin if row.title == title] == [far]


@pytest.mark.parametrize(("swing", "steady"), [(0.019, True), (0.021, False)])
@pytest.mark.parametrize("seconds_ago", [0.0, 2.5])
def test_a_speed_is_steady_that_stayed_within_two_percent_for_three_seconds(swing, steady, seconds_ago):
    item = next(
        i for phase in A.phases for one in phase.lists for i in one.items if i.reading and i.reading.signal == "rpm"
    )
    middle = (item.reading.lowest + item.reading.highest) / 2 if item.reading.highest else item.reading.lowest + 50.0
    time_s = np.arange(0.0, 20.0, 0.25)
    rpm = np.full(time_s.size, middle)
    rpm[-1 - round(seconds_ago * 4)] += swing * middle
    said = speed_working(Trace(time_s, {"rpm": rpm}), item)
    assert said.near
    assert ("steady" in said.say) == steady


def test_what_a_speed_did_more_than_three_seconds_ago_leaves_it_steady():
    item = next(
        i for phase in A.phases for one in phase.lists for i in one.items if i.reading and i.reading.signal == "rpm"
    )
    time_s = np.arange(0.0, 20.0, 0.25)
    rpm = np.full(time_s.size, item.reading.lowest + 20.0)
    rpm[-14] += 100.0
    assert "steady" in speed_working(Trace(time_s, {"rpm": rpm}), item).say


@pytest.mark.parametrize(("collective", "warned"), [(0.049, False), (0.051, True)])
def test_low_rotor_is_said_from_a_raised_collective_on(collective, warned):
    """The published horn is silent with the collective fully down."""
    low = E.limit("rotor_horn_pct") - 1
    assert bool(low_rotor(E, {"rotor_pct": low, "collective": collective})) == warned


@pytest.mark.parametrize(("below_horn", "warned"), [(0.1, True), (0.0, False)])
def test_low_rotor_is_said_below_the_horn(below_horn, warned):
    rotor = E.limit("rotor_horn_pct") - below_horn
    assert bool(low_rotor(E, {"rotor_pct": rotor, "collective": 0.5})) == warned


@pytest.mark.parametrize(("rotor_pct", "warned"), [(50.0, False), (51.0, True)])
def test_a_rotor_that_is_being_stopped_is_not_low(rotor_pct, warned):
    assert bool(low_rotor(E, {"rotor_pct": rotor_pct, "collective": 0.5})) == warned


@pytest.mark.parametrize(("rows", "every_s", "told"), [(5, 5.0, True), (5, 4.9, False), (4, 10.0, False)])
def test_minutes_left_want_five_rows_over_twenty_seconds(rows, every_s, told):
    readings = [(n * every_s, 100.0 + n * every_s / 60.0 * 10.0) for n in range(rows)]
    left = minutes_left(readings, readings[-1][1] + 30.0)
    assert (left == pytest.approx(3.0)) if told else (left is None)


@pytest.mark.parametrize(("to_go", "told"), [(119.0, True), (121.0, False)])
def test_minutes_left_are_not_told_beyond_two_hours(to_go, told):
    readings = [(n * 10.0, 100.0 + n / 6.0) for n in range(6)]  # a degree a minute
    assert (minutes_left(readings, readings[-1][1] + to_go) is not None) == told


@pytest.mark.parametrize(
    ("egt_up_f", "cht_up_f", "first"),
    [
        (31.0, 19.0, "a plug that does not fire"),
        (29.0, 19.0, "a probe"),
        (31.0, 21.0, "a nozzle that gives too little"),
        (29.0, 21.0, "a baffle or its seal"),
        (-14.0, 21.0, "a baffle or its seal"),
        (-16.0, 21.0, "detonation"),
    ],
)
def test_what_a_hot_cylinder_may_have(egt_up_f, cht_up_f, first):
    assert causes(egt_up_f, cht_up_f)[0].what == first


@pytest.mark.parametrize(("moved", "leanings", "told"), [(0.016, 3, True), (0.014, 3, False), (0.05, 2, False)])
def test_a_nozzle_drifts_by_more_than_its_leanings_scatter(moved, leanings, told):
    """Flow at peak of cylinder 1 of 3 grows by a share of their mean over the leanings."""

    def leaning(share):
        flows = (10.0 * (1 + share), 10.0 - 5.0 * share, 10.0 - 5.0 * share)
        return {"peaks": [{"cylinder": n, "ff_gph": flow} for n, flow in enumerate(flows, 1)]}

    drifts = nozzle_drift([leaning(moved * n / (leanings - 1)) for n in range(leanings)])
    assert [d.cylinder for d in drifts if d.moved_pct > 0] == ([1] if told else [])


@pytest.mark.parametrize(
    ("rpm", "map_inhg", "there"),
    [
        (2340.0, 22.0, True),
        (2341.0, 22.0, False),
        (2300.0, 22.59, True),
        (2300.0, 22.61, False),
    ],
)
def test_a_wanted_power_is_reached_within_its_band(rpm, map_inhg, there):
    profile = changed("b-tourer", lambda body: [body["power"].pop(name, None) for name in ("band_rpm", "band_inhg")])
    wanted = {"title": "65 %", "rpm": 2300.0, "map_inhg": 22.0}
    assert wanted_steps(profile, wanted, rpm, map_inhg, False).there == there


@pytest.mark.parametrize(("old", "told"), [(30, True), (31, False)])
def test_a_trend_looks_at_the_newest_thirty_flights(old, told):
    """Figures that stand still but for one flight that was wild: so many flights ago it counts, or does not."""
    values = [50.0 + n % 2 for n in range(40)]
    plain = figure_trend(values, 100.0, "Drop", "rpm")
    values[-old : -old + 1] = [90.0]
    assert (figure_trend(values, 100.0, "Drop", "rpm") != plain) == told


@pytest.mark.parametrize(("rich_f", "verdict"), [(34.0, "look"), (36.0, "within")])
def test_a_typed_mixture_is_not_set_close_to_peak(rich_f, verdict):
    """The hottest heads are there, at any power."""
    body = {"check": "lean", "peak_egt_f": 1450.0, "target_egt_f": 1450.0 - rich_f}
    assert judge_typed(B, body, 10.0).verdict == verdict


@pytest.mark.parametrize(("exhaust_f", "runs"), [(499.0, False), (501.0, True)])
def test_of_an_engine_whose_exhausts_are_cold_no_cylinder_is_told_apart(exhaust_f, runs):
    now = needles(egt1_f=exhaust_f, egt2_f=exhaust_f - 60, egt3_f=exhaust_f - 70, cht1_f=200.0, cht2_f=210.0)
    (engine,) = describe_cylinders(B, now)
    assert (engine.hottest, engine.odd) == ((2, 1) if runs else (None, None))
    assert ("does not run" in engine.say) is not runs


@pytest.mark.parametrize(
    ("body", "taken"),
    [
        ({"rpm": 7999.0}, True),
        ({"rpm": 8001.0}, False),
        ({"map_inhg": 79.0}, True),
        ({"map_inhg": 81.0}, False),
        ({"rpm": 0.0}, False),
        ({"title": "x" * 61}, False),
    ],
)
def test_a_wanted_power_is_one_that_a_piston_engine_has(body, taken):
    wanted = {"title": "a power", **body}
    if taken:
        check_wanted(wanted)
    else:
        with pytest.raises(EventError):
            check_wanted(wanted)


@pytest.mark.parametrize("oat_c", [-25.0, 5.0, 30.0])
def test_a_fixed_pitch_is_offered_in_flight_what_its_plan_sets(oat_c):
    offered = {choice.id: choice.rpm for choice in power_choices(A, 3000.0, oat_c)}
    (planned,) = settings_for(A, 65.0, 3000.0, oat_c)
    assert offered["pct_65"] == planned.rpm


def test_a_fixed_pitch_is_offered_no_power_that_full_throttle_does_not_give_up_there():
    """In the standard atmosphere a plain engine has about 70 % left at 9,500 ft (Gagg and Farrar 1934)."""
    assert [choice.id for choice in power_choices(A, 9500.0, None)] == ["pct_65", "pct_55"]
    assert "pct_75" in {choice.id for choice in power_choices(A, 3000.0, None)}


@pytest.mark.parametrize(
    ("side", "offset_f", "is_same"),
    [("rich", 53.9, True), ("rich", 54.1, False), ("rich", 45.9, False), ("lean", 50.0, False)],
)
def test_a_mixture_that_is_nudged_is_told_again(side, offset_f, is_same):
    same_place = checks()["lean"].same_place
    assert same_place({"side": "rich", "offset_f": 50.0}, {"side": side, "offset_f": offset_f}) == is_same
