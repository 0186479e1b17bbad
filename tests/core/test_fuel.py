"""Fuel by tank: nothing is left before somebody said what was there; change, watch, reserve; used by flow, through the fold."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jemmon.core.base.errors import EventError, ProfileError
from jemmon.core.base.figures import plain
from jemmon.core.flight.fold import check_pilot_event, fold
from jemmon.core.fuel.schedule import tank_schedule
from jemmon.core.fuel.tanks import Burn, fed_by, follow_flow, is_crossfed
from jemmon.core.live.fuel import follow_tank
from jemmon.core.screen.fuel import describe_fuel
from tests.core.builders import PROFILES, changed, data, events, needles

A, B, D, F, G = (PROFILES[k] for k in ("a-trainer", "b-tourer", "d-twin", "f-radial", "g-vee"))
FULL = [("fuel_on_board", {"tank": "Left", "gal": 30.0}), ("fuel_on_board", {"tank": "Right", "gal": 20.0})]


def shown(profile, rows, now_s: float = 100.0, flow: float | None = 12.0, pressure: float | None = 15.0) -> dict:
    known = {name: value for name, value in (("ff_gph", flow), ("fp_psi", pressure)) if value is not None}
    return data(describe_fuel(profile, fold(profile, events(*rows)), needles(now_s, **known), now_s))


def of_state(profile, fuel, now_s: float, **levers: float) -> dict:
    state = replace(fold(profile, []), fuel=fuel)
    moment = needles(now_s, levers=levers, ff_gph=10.0, e2_ff_gph=10.0, fp_psi=5.0)
    return data(describe_fuel(profile, state, moment, now_s))


def test_nothing_is_left_before_it_was_said_what_was_on_board():
    before = shown(B, [("tank_selected", {"tank": "Left"})])
    assert [row["remaining_gal"] for row in before["tanks"]] == [None, None]
    assert before["asks"] == ["Left", "Right"]
    assert before["minutes_left"] is None
    after = shown(B, [*FULL, ("tank_selected", {"tank": "Left"}), ("fuel_used", {"gal": 4.0})])
    assert [row["remaining_gal"] for row in after["tanks"]] == [26.0, 20.0]
    assert after["minutes_left"] == round(46 / 12 * 60)


def test_used_counts_for_the_tank_that_feeds():
    rows = [*FULL, ("tank_selected", {"tank": "Left"}), ("fuel_used", {"gal": 3.0})]
    rows += [("tank_selected", {"tank": "Right"}), ("fuel_used", {"gal": 5.0})]
    assert [row["used_gal"] for row in shown(B, rows)["tanks"]] == [3.0, 5.0]


def test_a_refilled_tank_counts_anew():
    rows = [*FULL, ("tank_selected", {"tank": "Left"}), ("fuel_used", {"gal": 9.0})]
    again = shown(B, [*rows, ("fuel_on_board", {"tank": "Left", "gal": 28.0})])
    assert again["tanks"][0]["remaining_gal"] == 28.0


@pytest.mark.parametrize(("now_s", "due"), [(100.0, 1703), (1900.0, -97)])
def test_a_change_is_due_after_half_an_hour(now_s, due):
    assert shown(B, [*FULL, ("tank_selected", {"tank": "Left"})], now_s)["due_s"] == due


def test_the_type_may_change_at_its_own_time_and_one_tank_never():
    own = changed("b-tourer", lambda body: body["fuel"].update(change_every_s=3600))
    assert shown(own, [("tank_selected", {"tank": "Left"})], 100.0)["due_s"] > 3000
    assert shown(A, [("tank_selected", {"tank": "Both"})], 9000.0)["due_s"] is None


def test_the_fullest_is_next_or_the_next_in_order_where_amounts_are_not_known():
    three = changed("g-vee", lambda body: body["fuel"].pop("change_by"))
    assert shown(three, [("tank_selected", {"tank": "Main"})])["next"] == "Left wing"
    rows = [
        ("fuel_on_board", {"tank": t, "gal": g}) for t, g in (("Left wing", 20.0), ("Right wing", 40.0), ("Drop", 0.0))
    ]
    assert shown(three, [("tank_selected", {"tank": "Main"}), *rows])["next"] == "Right wing"


def test_a_type_that_empties_its_tanks_in_order_changes_with_ten_minutes_left_and_never_to_an_empty_one():
    rows = [
        ("fuel_on_board", {"tank": t, "gal": g})
        for t, g in (("Main", 40.0), ("Left wing", 0.0), ("Right wing", 30.0), ("Drop", 0.0))
    ]
    now = shown(G, [*rows, ("tank_selected", {"tank": "Main"})], flow=60.0)
    assert (now["next"], now["due_s"]) == ("Right wing", 40 * 60 - 600)
    late = shown(G, [*rows, ("tank_selected", {"tank": "Main"}), ("fuel_used", {"gal": 31.0})], flow=60.0)
    assert late["due_s"] == 9 * 60 - 600, "with nine minutes left it is overdue"
    unknown = shown(G, [("tank_selected", {"tank": "Main"}, 5.0)], 105.0, flow=60.0)
    assert (unknown["next"], unknown["due_s"]) == ("Left wing", 1700)


def test_ten_seconds_are_watched_and_falling_pressure_is_said_at_once():
    tapped = ("tank_selected", {"tank": "Right"}, 50.0)
    rows = [("engine_fired", {"limit_s": 30.0}, 1.0), *FULL, tapped]
    assert shown(B, [*FULL, tapped], 54.0, pressure=0.5)["watch"] is None, "an engine that stands has no pressure"
    assert shown(B, rows, 54.0)["watch"] == {"left_s": 6, "low": False, "say": "Watch pressure and flow"}
    low = shown(B, rows, 54.0, pressure=0.5)["watch"]
    assert low["low"]
    assert "back to the tank before" in low["say"]
    assert shown(B, rows, 61.0)["watch"] is None


def test_below_the_reserve_it_is_said():
    rows = [*FULL, ("tank_selected", {"tank": "Left"}), ("fuel_used", {"gal": 30.0})]
    rows += [("tank_selected", {"tank": "Right"}), ("fuel_used", {"gal": 16.0})]
    assert shown(B, rows)["below_reserve"]
    assert not shown(B, FULL)["below_reserve"]


@pytest.mark.parametrize(
    "body", [{"tank": "Middle", "gal": 10}, {"tank": "Left", "gal": -1}, {"tank": "Left", "gal": "much"}, {"gal": 3}]
)
def test_a_tank_or_an_amount_that_cannot_be_is_refused(body):
    with pytest.raises(EventError):
        check_pilot_event(B, fold(B, []), "fuel_on_board", body)


@given(st.lists(st.tuples(st.floats(0.05, 20), st.floats(0, 40), st.floats(0, 40)), max_size=60))
def test_the_sum_of_the_flow_is_told_or_remembered_and_never_lost(samples):
    burn, told, now_s, burnt = Burn(), dict.fromkeys(("Left", "Right"), 0.0), 0.0, dict.fromkeys(("Left", "Right"), 0.0)
    burn, _ = follow_flow(burn, now_s, {"Left": 10.0})
    for step_s, *flows in samples:
        now_s += step_s
        by_tank = dict(zip(burnt, flows, strict=True))
        burn, gallons = follow_flow(burn, now_s, by_tank)
        for tank, flow in by_tank.items():
            burnt[tank] += flow * step_s / 3600
            told[tank] += gallons.get(tank, 0.0)
    for tank in burnt:
        assert told[tank] + burn.gal.get(tank, 0.0) == pytest.approx(burnt[tank], abs=1e-9)


def test_on_a_twin_each_engine_empties_its_own_tank_until_the_crossfeed_is_open():
    state = fold(D, events(*FULL)).fuel
    assert fed_by(D, state, {1: 9.0, 2: 11.0}, crossfed=False) == {"Left": 9.0, "Right": 11.0}
    assert fed_by(D, state, {1: 9.0, 2: 11.0}, crossfed=True) == {}, "nobody said from which tank"
    assert of_state(D, state, 9.0, crossfeed=1.0)["balance"].startswith("Crossfeed is open: tap")
    assert fed_by(D, state, {2: 11.0}, crossfed=False) == {"Right": 11.0}, "the left one's flow is not read just now"
    tapped = fold(D, events(*FULL, ("tank_selected", {"tank": "Left"}))).fuel
    assert fed_by(D, tapped, {1: 9.0, 2: 11.0}, crossfed=True) == {"Left": 20.0}
    assert fed_by(B, tapped, {1: 12.0}, crossfed=False) == {"Left": 12.0}
    shut = of_state(D, tapped, 4000.0)
    assert [row["feeds"] for row in shut["tanks"]] == [True, True]
    assert shut["due_s"] is None, "a twin whose engines have their own tanks changes none"


def test_two_engines_of_four_tanks_draw_on_their_own_sides_and_the_sooner_change_is_told():
    rows = [("tank_selected", {"tank": "Left front"}, 60.0), ("tank_selected", {"tank": "Right rear"}, 300.0)]
    state = fold(F, events(*rows)).fuel
    assert fed_by(F, state, {1: 40.0, 2: 42.0}, crossfed=False) == {"Left front": 40.0, "Right rear": 42.0}
    assert fed_by(F, state, {1: 40.0, 2: 42.0}, crossfed=True) == {"Right rear": 82.0}
    now = shown(F, rows, 400.0)
    assert [row["tank"] for row in now["tanks"] if row["feeds"]] == ["Left front", "Right rear"]
    assert (now["next"], now["due_s"]) == ("Left rear", 60 + 1800 - 400)
    alone = fold(F, events(rows[0])).fuel
    assert fed_by(F, alone, {1: 40.0, 2: 42.0}, crossfed=False) == {"Left front": 40.0}, (
        "nobody said what feeds the right"
    )
    full = [("fuel_on_board", {"tank": tank, "gal": 100.0}) for tank in F.body["fuel"]["tanks"]]
    used = [("fuel_used", {"gal": 10.0, "tank": "Right front"}), ("fuel_used", {"gal": 20.0, "tank": "Right rear"})]
    assert plain(shown(F, [*full, *used])["balance"]).startswith("Left engine heavier by 30.0 US gal")


@given(st.lists(st.sampled_from(["Left front", "Right front", "Left rear", "Right rear"]), max_size=12), st.booleans())
def test_what_the_engines_burn_is_counted_on_no_more_than_one_tank_each_and_never_twice(turned, crossfed):
    state = fold(F, events(*(("tank_selected", {"tank": tank}, 10.0 + n) for n, tank in enumerate(turned)))).fuel
    given_gph = fed_by(F, state, {1: 40.0, 2: 42.0}, crossfed)
    sides = {tank.split()[0] for tank in turned}
    expected = (82.0 if turned else 0.0) if crossfed else 40.0 * ("Left" in sides) + 42.0 * ("Right" in sides)
    assert sum(given_gph.values()) == pytest.approx(expected)


def test_a_planned_flight_changes_tanks_by_the_same_rules():
    plan = data(tank_schedule(B, 60.0, 12.0))
    assert [(row["minutes"], row["tank"]) for row in plan["changes"][:3]] == [(0, "Left"), (30, "Right"), (60, "Left")]
    assert [row["left_gal"] for row in plan["changes"][:3]] == [30.0, 30.0, 24.0]
    assert plan["reserve_minutes"] == 60 * 60 // 12 - 30
    assert plan["changes"][-1]["minutes"] < plan["reserve_minutes"]
    two = data(tank_schedule(F, 400.0, 80.0))["changes"]
    assert [(row["minutes"], row["tank"]) for row in two[:4]] == [
        (0, "Left front"),
        (0, "Right front"),
        (30, "Left rear"),
        (30, "Right rear"),
    ]
    assert [row["tank"] for row in data(tank_schedule(D, 80.0, 20.0))["changes"]] == ["Left", "Right"], (
        "nothing to change"
    )


@given(st.sampled_from("ABDFG"), st.floats(1, 800), st.floats(4, 150))
def test_no_plan_turns_to_an_empty_tank_or_plans_into_the_reserve(aircraft, fuel_gal, flow_gph):
    profile = {"A": A, "B": B, "D": D, "F": F, "G": G}[aircraft]
    plan = data(tank_schedule(profile, fuel_gal, flow_gph))
    sides = len(profile.engines) if len(profile.engines) > 1 else 1
    for row in plan["changes"][sides:]:
        assert row["left_gal"] >= 0.5
        assert row["minutes"] <= plan["reserve_minutes"]
    assert [row["minutes"] for row in plan["changes"]] == sorted(row["minutes"] for row in plan["changes"])


def test_a_crossfeed_is_open_by_its_lever_else_by_the_pilots_word():
    assert is_crossfed({"crossfeed": 1.0}, ())
    assert not is_crossfed({"crossfeed": 0.0}, ("crossfeed",))
    assert is_crossfed({}, ("crossfeed",))


@pytest.mark.parametrize(
    ("aircraft", "fuel", "words"),
    [
        ("d-twin", {"tanks": ["Left"]}, "1 tanks for 2 engines"),
        ("b-tourer", {"each_engine_its_own": True}, "2 tanks for 1 engines"),
        ("b-tourer", {"tanks": ["Left", "Left"]}, "one name"),
        ("f-radial", {"engine_tanks": [["Left front"], ["Right front", "Left rear"]]}, "belongs to one side"),
        ("g-vee", {"engine_tanks": [["Main"], ["Left wing", "Right wing"]]}, "2 sides for 1 engines"),
    ],
)
def test_tanks_that_cannot_be_are_refused_when_the_profile_is_read(aircraft, fuel, words):
    with pytest.raises(ProfileError, match=words):
        changed(aircraft, lambda body: body["fuel"].update(fuel))


def test_a_heavy_side_is_said_where_both_are_known():
    rows = [*FULL, ("fuel_used", {"gal": 8.0, "tank": "Right"})]
    assert plain(shown(D, rows)["balance"]).startswith("Left heavier by 18.0 US gal")
    assert shown(D, FULL[:1])["balance"] is None
    assert shown(B, rows)["balance"] is None, "a single balances by its changes of tank"
    level = [*FULL, ("fuel_used", {"gal": 8.0, "tank": "Left"})]
    assert shown(D, level)["balance"] is None


def test_an_aircraft_without_named_tanks_shows_none():
    bare = changed("b-tourer", lambda body: body.pop("fuel"))
    assert describe_fuel(bare, fold(bare, []), needles(1.0, ff_gph=10.0), 1.0) is None


def test_a_selector_that_the_needles_show_needs_no_tap_and_is_told_once():
    running = [("phase_entered", {"phase": "cruise"}), ("engine_fired", {"limit_s": 30.0})]
    state = fold(B, events(*running))
    (told,) = follow_tank("f", B, state, needles(5.0, {"tank": 1.0}))
    assert told.body == {"tank": "Right"}
    state = fold(B, events(*running, ("tank_seen", dict(told.body))))
    assert state.fuel.feeds == "Right"
    assert follow_tank("f", B, state, needles(6.0, {"tank": 1.0})) == []
    tapped = fold(B, events(*running, ("tank_seen", {"tank": "Right"}), ("tank_selected", {"tank": "Left"})))
    assert follow_tank("f", B, tapped, needles(7.0, {"tank": 1.0})) == [], (
        "the pilot's word stands until the lever moves"
    )
    assert follow_tank("f", A, fold(A, events(*running[1:])), needles(5.0, {})) == []
