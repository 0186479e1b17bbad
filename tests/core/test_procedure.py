"""The lists: conditions, timers, counts, put-backs, gates, killer items, what nobody read; each shown to fire and not to."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jemmon.core.aircraft import Condition
from jemmon.core.base.errors import EventError, ProfileError
from jemmon.core.base.figures import plain
from jemmon.core.flight.events import Event
from jemmon.core.flight.fold import check_pilot_event, fold
from jemmon.core.flight.state import is_complete, open_item_ids
from jemmon.core.live.needles import follow_needles
from jemmon.core.procedure import notice
from jemmon.core.procedure.progress import lists_of, open_items
from jemmon.core.screen.lists import current_item, describe_item, due_items
from jemmon.core.trace.sample import Sample
from tests.core.builders import PROFILES, changed, events, find_item, needles, screen_of

A, B, D, F, G, H = (PROFILES[i] for i in ("a-trainer", "b-tourer", "d-twin", "f-radial", "g-vee", "h-geared"))
EVERYONE = pytest.mark.parametrize("profile", PROFILES.values(), ids=PROFILES)


def done(*items: str) -> list[tuple]:
    return [("item_done", {"item": item}) for item in items]


def list_ids(profile, phase: str, **facts) -> list[str]:
    return [one.id for one in lists_of(profile.phase(phase), {"start": "cold", **facts})]


def item_ids(profile, phase: str, **facts) -> list[str]:
    return [item.id for one in lists_of(profile.phase(phase), {"start": "cold", **facts}) for item in one.items]


def up_to(profile, phase: str, item: str) -> list[str]:
    """The items of a phase before one of them."""
    ids = item_ids(profile, phase)
    return ids[: ids.index(item)]


@EVERYONE
def test_every_aircraft_goes_through_all_its_lists_to_a_complete_end(profile):
    kept: list[tuple] = []
    for phase in profile.phases:
        kept.append(("phase_entered", {"phase": phase.id}))
        kept += done(*open_item_ids(profile, fold(profile, events(*kept)), phase.id))
        for pair in notice.still_away(profile, phase.id, fold(profile, events(*kept)).away, frozenset()):
            kept.append(("put_back_tapped", {"put_back": pair.id, "away": False}))
    state = fold(profile, events(*kept))
    assert all(is_complete(profile, state, phase.id) for phase in profile.phases)


@EVERYONE
def test_every_aircraft_has_what_a_pilot_expects(profile):
    titles = [one.title.lower() for phase in profile.phases for one in phase.lists]
    phases = [phase.id for phase in profile.phases]
    assert starts_read(profile, {}) == {"cold", "hot", "flooded"}
    for wanted in ("taxi", "run-up", "after take-off", "cruis", "shutdown"):
        assert any(wanted in title for title in titles) or wanted in ("taxi", "shutdown"), wanted
    assert phases[0] == "before_start"
    assert phases[-1] == "shutdown"
    drills = [drill["title"] for drill in profile.body["emergency"]]
    assert any("Fire" in drill for drill in drills)
    assert any("stops" in drill for drill in drills)


@pytest.mark.parametrize("start", ["cold", "hot", "flooded"])
@EVERYONE
def test_one_start_is_read_and_not_the_others(profile, start):
    assert starts_read(profile, {"start": start}) == {start}


def starts_read(profile, known):
    """Return which starts the lists are read for: of a list of their own, or of items inside each engine's start."""
    return {
        condition.equals
        for phase in profile.phases
        for one in lists_of(phase, known)
        for conditions in (one.only_if, *(item.only_if for item in one.items))
        for condition in conditions
        if condition.of == "start"
    }


def test_facts_bring_items_and_take_them_away():
    assert "preheat" in item_ids(A, "before_start", oat_c=-12)
    assert "preheat" not in item_ids(A, "before_start", oat_c=10)
    assert "lights" in item_ids(A, "before_start", night=True)
    assert "lights" not in item_ids(A, "before_start", night=False)
    assert "co" not in item_ids(A, "before_start", first_of_day=False)
    assert "lean_high" in item_ids(A, "before_start", density_altitude_ft=6_000)
    assert "lean_high" not in item_ids(A, "before_start", density_altitude_ft=2_000)


def test_blades_are_counted_only_after_it_has_stood():
    assert "blades" in list_ids(G, "before_start", stood_h=3)
    assert "blades" not in list_ids(G, "before_start", stood_h=0.2)


def test_what_is_not_known_is_shown_and_says_so():
    assert "preheat" in item_ids(A, "before_start")
    state = fold(A, events(*done(*up_to(A, "before_start", "preheat"))))
    shown = screen_of(A, state, None, 9.0)["item"]
    assert shown["id"] == "preheat"
    assert "Outside temperature" in shown["only_if"]


def test_the_second_engine_has_its_own_items_readings_and_order():
    assert [number for number, _ in F.engines] == [2, 1]
    ids = item_ids(D, "start")
    assert "xfeed_close@2" in ids
    assert "xfeed_close@1" not in ids
    assert D.items["oil_pressure@2"].reading.signal == "e2_oil_p_psi"
    state = fold(D, events(*done("oil_pressure@1")))
    assert "oil_pressure@2" in open_item_ids(D, state, "start")


def test_set_aside_needs_a_reason_and_keeps_the_list_open():
    with pytest.raises(EventError, match="reason"):
        check_pilot_event(A, fold(A, []), "item_set_aside", {"item": "seats", "how": "skipped", "reason": " "})
    state = fold(A, events(("item_set_aside", {"item": "seats", "how": "skipped", "reason": "cannot"})))
    assert "seats" in open_item_ids(A, state)
    assert "Seats, seat backs" in [m for one in screen_of(A, state, None, 2.0)["lists"] for m in one["missing"]]
    gone = fold(A, events(("item_set_aside", {"item": "seats", "how": "not_applicable", "reason": "not fitted"})))
    assert "seats" not in open_item_ids(A, gone)


def test_a_deferred_item_comes_back_at_its_gate_and_not_before():
    kept = [("item_set_aside", {"item": "seats", "how": "deferred", "reason": "busy"})]
    early = fold(A, events(*kept, ("phase_entered", {"phase": "run_up"})))
    assert current_item(A, early, 5.0).id == "into_wind"
    gate = fold(A, events(*kept, ("phase_entered", {"phase": "before_take_off"})))
    assert current_item(A, gate, 5.0).id == "seats"
    taken_up = fold(A, events(*kept, *done("seats"), ("phase_entered", {"phase": "before_take_off"})))
    assert current_item(A, taken_up, 5.0).id == "fuel_to"


def test_killer_items_are_due_again_after_an_interruption_and_not_without():
    kept = [("item_done", {"item": "fuel_on"}, 10), ("interrupted", {}, 20)]
    back = fold(A, events(*kept, ("resumed", {}, 900)))
    due = due_items(A, back, 901.0)
    assert [item.id for item, _ in due] == ["fuel_on"]
    assert "interrupted" in due[0][1]
    assert current_item(A, back, 901.0).id == "fuel_on"
    assert not due_items(A, fold(A, events(kept[0])), 901.0)
    again = fold(A, events(*kept, ("resumed", {}, 900), ("item_done", {"item": "fuel_on"}, 905)))
    assert not due_items(A, again, 906.0)


def test_killer_items_are_due_again_before_take_off_when_old_and_never_in_the_air():
    kept = [("item_done", {"item": "fuel_on"}, 10), ("phase_entered", {"phase": "before_take_off"}, 400)]
    state = fold(A, events(*kept))
    assert not due_items(A, state, 500.0)
    assert [item.id for item, _ in due_items(A, state, 700.0)] == ["fuel_on"]
    flying = fold(A, events(*kept, ("phase_entered", {"phase": "cruise"}, 800)))
    assert not due_items(A, flying, 5_000.0)


def test_an_item_held_by_a_clock_counts_down_from_its_start():
    item = "standby_test"
    earlier = done(*up_to(B, "before_start", item))
    before = screen_of(B, fold(B, events(*earlier)), None, 50.0)
    assert before["item"]["id"] == item
    assert before["item"]["held_left_s"] is None
    kept = [*earlier, ("timer_started", {"item": item}, 100)]
    state = fold(B, events(*kept))
    assert screen_of(B, state, None, 104.0)["item"]["held_left_s"] == 6.0
    assert screen_of(B, state, None, 111.0)["item"]["held_left_s"] == 0


def test_blades_are_counted_and_a_wrong_tap_taken_back():
    tap = ("counted", {"item": "count", "by": 1})
    state = fold(G, events(tap, tap, tap, ("undo", {"event": "e3"})))
    assert state.progress.counts["count"] == 2
    with pytest.raises(EventError, match="nothing to count"):
        check_pilot_event(G, state, "counted", {"item": "brakes"})


def test_a_figure_read_off_is_judged_by_its_limit():
    ids = item_ids(H, "run_up")
    kept = [("phase_entered", {"phase": "run_up"}), *done(*ids[: ids.index("lane_a")])]
    for value, within in ((60, True), (400, False), (0, False)):
        state = fold(H, events(*kept, ("item_measured", {"item": "lane_a", "value": value})))
        assert screen_of(H, state, None, 99.0)["item"]["measure"]["within"] is within


def test_items_set_things_away_and_put_them_back_with_a_running_clock():
    state = fold(G, events(("item_done", {"item": "pitch_lock"}, 100)))
    assert state.away == {"pitch_locked": 100.0}
    row = screen_of(G, replace(state, phase="run_up"), None, 130.0)["put_backs"][0]
    assert (row["seconds"], row["overdue"], row["keeps_open"]) == (30, False, True)
    assert screen_of(G, state, None, 400.0)["put_backs"][0]["overdue"]
    assert fold(G, events(*done("pitch_lock", "pitch_auto"))).away == {}


def test_a_phase_is_not_complete_with_something_away_unless_carried_on_with():
    kept = [*done(*item_ids(H, "before_start")), ("put_back_tapped", {"put_back": "alternator_off", "away": True})]
    assert not is_complete(H, fold(H, events(*kept)), "before_start")
    carried = fold(H, events(*kept, ("carry_on", {"put_back": "alternator_off"})))
    assert is_complete(H, carried, "before_start")
    assert "alternator_off" in carried.away
    back = [("put_back_tapped", {"put_back": "alternator_off", "away": away}) for away in (False, True)]
    again = fold(H, events(*kept, ("carry_on", {"put_back": "alternator_off"}), *back))
    assert not is_complete(H, again, "before_start"), (
        "set again after it was put back, it must be carried on with again"
    )


def test_a_taxi_lean_mixture_blocks_the_run_up_and_not_the_taxi_before():
    pair = next(p for p in B.put_backs if p.id == "taxi_lean")
    assert notice.blocks(B, pair, "warm_up")
    assert not notice.blocks(B, pair, "start")


def test_data_confirm_only_what_the_profile_says_they_may():
    green = needles(9.0, fp_psi=(H.limit("fuel_pressure_min_psi") + H.limit("fuel_pressure_max_psi")) / 2)
    ids = item_ids(H, "before_start")
    ready = fold(H, events(*done(*ids[: ids.index("main_pump")])))
    assert [e.body["item"] for e in follow_needles("f", H, ready, green) if e.kind == "item_seen"] == ["main_pump"]
    low = needles(9.0, fp_psi=10.0)
    assert not [e for e in follow_needles("f", H, ready, low) if e.kind == "item_seen"]
    rpm = fold(A, events(("phase_entered", {"phase": "run_up"}), *done(*up_to(A, "run_up", "set_runup"))))
    there = needles(9.0, rpm=A.limit("runup_rpm"))
    assert not [e for e in follow_needles("f", A, rpm, there) if e.kind == "item_seen"], "a needle only passes through"
    assert screen_of(A, rpm, there, 9.0)["item"]["as_expected"] is True
    paused = fold(H, [*events(*done(*ids[: ids.index("main_pump")])), *events(("interrupted", {}))])
    assert not [e for e in follow_needles("f", H, paused, green) if e.kind == "item_seen"], "nobody looks meanwhile"


def test_data_that_contradict_a_confirmed_item_open_it_again_with_a_note():
    held = changed(
        "b-tourer", lambda b: find_item(b, "pump_heard").update(reading={"signal": "fp_psi", "max": 2.5}, holds=True)
    )
    state = fold(held, events(*done("pump_heard")))
    made = [e for e in follow_needles("f", held, state, needles(20.0, fp_psi=9.0)) if e.kind == "item_reopened"]
    assert "now: Fuel pressure 9 psi" in plain(made[0].body["note"]), "in the unit on display"
    after = fold(held, [*events(*done("pump_heard")), replace(made[0], seq=9)])
    assert "pump_heard" in open_item_ids(held, after)
    assert not [e for e in follow_needles("f", held, state, needles(20.0, fp_psi=1.0)) if e.kind == "item_reopened"]
    assert not [e for e in follow_needles("f", held, state, needles(2.0, fp_psi=9.0)) if e.kind == "item_reopened"]


def test_a_phase_that_has_begun_is_offered_and_its_unread_lists_are_late():
    state = fold(A, [])
    running = needles(50.0, rpm=1_000.0, oil_p_psi=50.0)
    made = [e for e in follow_needles("f", A, state, running) if e.kind == "phase_seen"]
    assert made[0].body == {"phase": "start"}
    after = fold(A, [replace(made[0], seq=1)])
    shown = screen_of(A, after, running, 51.0)
    assert shown["notices"]["begun"]["title"] == "Start"
    assert shown["notices"]["late"] == [], "the list on the screen is not called late"
    entered = screen_of(A, replace(after, phase="start"), running, 51.0)
    assert entered["notices"]["late"][0]["title"] == "Day and weather"
    assert entered["notices"]["late"][0]["unread"]
    assert not [e for e in follow_needles("f", A, after, running) if e.kind == "phase_seen"], "said once"
    assert not [e for e in follow_needles("f", A, state, needles(50.0, rpm=0.0)) if e.kind == "phase_seen"]


def test_a_list_by_heart_that_nobody_confirmed_is_late_too():
    memory = next(one for phase in A.phases for one in phase.lists if one.memory and one.title == "After take-off")
    home = next(phase.id for phase in A.phases if memory in phase.lists)
    following = A.phases[A.place(home) + 1].id
    entered = fold(A, events(("phase_entered", {"phase": following})))
    assert memory.title in [one["title"] for one in screen_of(A, entered, None, 2.0)["notices"]["late"]]
    done = fold(
        A, events(*[("item_done", {"item": i.id}) for i in memory.items], ("phase_entered", {"phase": following}))
    )
    assert memory.title not in [one["title"] for one in screen_of(A, done, None, 9.0)["notices"]["late"]]


@pytest.mark.parametrize(("volts", "away"), [(27.2, True), (26.8, False)])
def test_ground_power_shows_at_rest_by_the_bus_in_any_weather_and_stays_on_until_the_pilot_says_so(volts, away):
    radial = PROFILES["f-radial"]
    plugged = needles(5.0, oat_c=18.0, rpm=0.0, e2_rpm=0.0, volts_v=volts)
    made = [e for e in follow_needles("f", radial, fold(radial, []), plugged) if e.kind == "put_back_away"]
    assert [e.body["put_back"] for e in made] == (["ground_power"] if away else [])
    after = fold(radial, [replace(e, seq=n) for n, e in enumerate(made, 1)])
    running = needles(5.0, oat_c=18.0, rpm=900.0, e2_rpm=0.0, volts_v=volts)
    assert not [e for e in follow_needles("f", radial, fold(radial, []), running) if e.kind == "put_back_away"]
    cranked = needles(8.0, oat_c=18.0, rpm=60.0, e2_rpm=0.0, volts_v=19.0)
    assert not [e for e in follow_needles("f", radial, after, cranked) if e.kind == "put_back_back"]


POWER = needles(80.0, levers={"throttle": 1.0}, rpm=2_250.0)


def test_take_off_power_with_something_unproven_is_said_at_once():
    state = fold(A, events(("phase_entered", {"phase": "warm_up_taxi"})))
    shown = screen_of(A, state, POWER, 80.0)["notices"]["unproven"]
    assert "oil pressure" in shown
    assert any("magnetos" in line for line in shown)
    made = [e for e in follow_needles("f", A, state, POWER) if e.kind == "take_off_unproven"]
    assert len(made) == 1
    assert not [
        e for e in follow_needles("f", A, fold(A, [replace(made[0], seq=1)]), POWER) if e.kind == "take_off_unproven"
    ]
    assert not screen_of(A, state, needles(80.0, levers={"throttle": 0.3}, rpm=1_800.0), 80.0)["notices"]["unproven"]


def finding(kind: str, verdict: str) -> tuple:
    return ("finding", {"kind": kind, "verdict": verdict, "measured": {}, "because": "", "start_s": 0})


def test_take_off_power_is_quiet_when_all_is_proven_and_a_half_check_proves_nothing():
    proven = [
        *done("oil_pressure", "oil_warm", "mixture_take_off"),
        finding("carb_heat_check", "within"),
        ("phase_entered", {"phase": "take_off_climb"}),
    ]
    for verdict, missing in (
        ("within", []),
        ("look", ["magnetos"]),
        ("stop", ["magnetos"]),
        ("incomplete", ["magnetos"]),
        ("unknown", ["magnetos"]),
    ):
        state = fold(A, events(finding("mag_check", verdict), *proven))
        assert screen_of(A, state, POWER, 80.0)["notices"]["unproven"] == missing, verdict


def test_by_hand_entering_the_take_off_asks_for_the_proofs():
    state = fold(D, events(("phase_entered", {"phase": "take_off"})))
    assert len(screen_of(D, state, None, 80.0)["notices"]["unproven"]) == len(D.take_off.needs)
    assert not screen_of(D, fold(D, events(("phase_entered", {"phase": "climb"}))), None, 80.0)["notices"]["unproven"]


def test_while_the_oil_warms_other_items_are_offered_with_the_minutes_left():
    kept = [
        ("phase_entered", {"phase": "warm_up_taxi"}),
        *done(*(item for item in item_ids(A, "warm_up_taxi") if item != "oil_warm")),
    ]
    state = fold(A, events(*kept))
    cold, warm = needles(9.0, oil_t_f=60.0), needles(9.0, oil_t_f=90.0)
    booting = ("timer_started", {"item": "screens"}, 60)
    screens = fold(H, events(*done(*up_to(H, "before_start", "screens")), booting))
    offered = [row["id"] for row in screen_of(H, screens, None, 70.0)["notices"]["meanwhile"]]
    assert {"lanes_on", "warning_lights"} <= set(offered)
    assert all(H.items[name].meanwhile for name in offered)
    assert not screen_of(H, screens, None, 120.0)["notices"]["meanwhile"]
    assert screen_of(A, state, cold, 9.0)["item"]["as_expected"] is False
    assert screen_of(A, state, warm, 9.0)["notices"]["meanwhile"] == []
    rows = [(float(t), 60.0 + t * 0.1) for t in range(0, 60, 5)]
    assert notice.minutes_left(rows, 75.0) == pytest.approx((75 - rows[-1][1]) / 0.1 / 60, rel=1e-6)
    assert notice.minutes_left([(t, 60.0 - v / 100) for t, v in rows], 75.0) is None


def test_the_briefing_is_due_again_after_a_delay_and_says_runway_and_blue_line():
    air = {
        "oat_c": 12,
        "altimeter_inhg": 29.92,
        "wind_from_deg": 240,
        "wind_kt": 20,
        "elevation_ft": 600,
        "runway_deg": 270,
    }
    kept = [("weather", air), *done("briefing"), ("phase_entered", {"phase": "before_take_off"})]
    state = fold(D, events(*kept))
    shown = screen_of(D, state, None, 60.0)
    assert "headwind 17 kt, from the left 10 kt" in shown["briefing"]["lines"][0]
    assert any("88 kt" in plain(line) for line in shown["briefing"]["lines"])
    assert shown["notices"]["briefing_due"] is None
    assert "read it again" in screen_of(D, state, None, 800.0)["notices"]["briefing_due"]
    assert "not entered" in screen_of(D, fold(D, []), None, 1.0)["briefing"]["lines"][0]


def test_how_a_list_is_read_is_switched_for_that_list_alone():
    state = fold(A, events(("list_style", {"list": "run_up", "style": "two"}), ("phase_entered", {"phase": "run_up"})))
    assert screen_of(A, state, None, 1.0)["lists"][0]["style"] == "two"
    other = screen_of(A, replace(state, phase="before_take_off"), None, 1.0)["lists"][0]
    assert (other["style"], other["flow_done"]) == ("flow_verify", False)
    swept = fold(A, events(("flow_done", {"list": "before_take_off"}), ("phase_entered", {"phase": "before_take_off"})))
    assert screen_of(A, swept, None, 1.0)["lists"][0]["flow_done"]


def test_conditions_hold_by_value_above_and_below_and_say_unknown():
    hot = Condition(of="oat_c", above=30.0)
    assert [hot.holds({"oat_c": t}) for t in (31, 30)] == [True, False]
    assert hot.holds({}) is None
    between = Condition(of="oat_c", above=0.0, below=10.0)
    assert [between.holds({"oat_c": t}) for t in (-1, 5, 11)] == [False, True, False]


ACTS = st.sampled_from(
    ["done", "aside", "take_up", "undo", "phase", "pause", "resume", "away", "back", "carry", "count", "fact"]
)


def random_event(profile, act: str, n: int) -> tuple:
    items, phases = list(profile.items), [p.id for p in profile.phases]
    item, pair = items[n % len(items)], profile.put_backs[n % len(profile.put_backs)].id
    return {
        "done": ("item_done", {"item": item}),
        "aside": (
            "item_set_aside",
            {"item": item, "how": ("deferred", "skipped", "not_applicable")[n % 3], "reason": "x"},
        ),
        "take_up": ("item_taken_up", {"item": item}),
        "undo": ("undo", {"event": f"e{n % 40}"}),
        "phase": ("phase_entered", {"phase": phases[n % len(phases)]}),
        "pause": ("interrupted", {}),
        "resume": ("resumed", {}),
        "away": ("put_back_tapped", {"put_back": pair, "away": True}),
        "back": ("put_back_tapped", {"put_back": pair, "away": False}),
        "carry": ("carry_on", {"put_back": pair}),
        "count": (
            "counted",
            {"item": next(i.id for i in profile.items.values() if i.count_to or i.id == items[-1]), "by": n % 5},
        ),
        "fact": ("fact", {"name": "start", "value": ("cold", "hot", "flooded")[n % 3]}),
    }[act]


@given(
    st.sampled_from(sorted(PROFILES)),
    st.lists(st.tuples(ACTS, st.integers(0, 400), st.integers(0, 300)), max_size=40),
    st.randoms(use_true_random=False),
)
@settings(max_examples=80, deadline=None)
def test_any_sequence_of_two_hands_is_safe(profile_id, rows, dice):
    """Any order of any events: no error, no complete list with an open item, no lost put-back, repeats change nothing."""
    profile, clock = PROFILES[profile_id], 0.0
    kept: list[Event] = []
    for number, (act, n, wait) in enumerate(rows, 1):
        clock += wait
        kind, body = random_event(profile, act, n)
        if kind == "counted" and not profile.items[body["item"]].count_to:
            continue
        check_pilot_event(profile, fold(profile, kept), kind, body)
        kept.append(Event(id=f"e{number}", kind=kind, at_s=clock, body=body, seq=number))
    state = fold(profile, kept)
    shown = screen_of(profile, state, None, clock)
    for phase in profile.phases:
        waiting = open_item_ids(profile, state, phase.id)
        assert not (waiting and is_complete(profile, state, phase.id))
    assert {row["id"] for row in shown["put_backs"]} == set(state.away)
    undone = {e.body["event"] for e in kept if e.kind == "undo"}
    last: dict[str, bool] = {}
    for event in kept:
        if event.kind == "put_back_tapped" and event.id not in undone:
            last[event.body["put_back"]] = bool(event.body["away"])
        item = (
            profile.items.get(str(event.body.get("item")))
            if event.kind == "item_done" and event.id not in undone
            else None
        )
        if item:
            last |= {item.back: False} if item.back else {}
            last |= {item.away: True} if item.away else {}
    assert {name for name, away in last.items() if away} == set(state.away)
    shuffled = kept[:]
    dice.shuffle(shuffled)
    assert fold(profile, shuffled) == state, "seq alone orders what two browsers sent"


def test_repeats_alone_change_nothing_but_the_time_of_the_confirmation():
    once = fold(A, events(*done("brakes"), ("interrupted", {})))
    again = fold(
        A, events(*done("brakes"), ("interrupted", {}), ("interrupted", {}), ("item_taken_up", {"item": "brakes"}))
    )
    assert again.progress == once.progress
    away = ("put_back_tapped", {"put_back": "control_lock", "away": True})
    assert fold(A, events(away, away)).away == fold(A, events(away)).away


def _misspelt(body):
    body["limits"]["oil_presure_min_psi"] = body["limits"]["oil_pressure_min_psi"]


TWO_STARTS = [{"of": "start", "is": "hot"}, {"of": "start", "is": "cold"}]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (
            _misspelt,
            "did you mean 'oil_pressure_min_psi'",
        ),
        (lambda b: b["limits"]["oil_pressure_min_psi"].update(value=2500), "unit right"),
        (lambda b: b["limits"]["runup_rpm"].update(value=180), "unit right"),
        (lambda b: find_item(b, "seats").update(only_if=[{"of": "oat_c", "above": 10, "below": 5}]), "never hold"),
        (
            lambda b: find_item(b, "seats").update(
                only_if=[{"of": "start", "is": "hot"}, {"of": "start", "is": "cold"}]
            ),
            "cannot be",
        ),
        (lambda b: find_item(b, "seats").update(reading={"signal": "rpm", "min": 9, "max": 5}), "never hold"),
        (lambda b: find_item(b, "seats").update(away="nothing"), "put-back pair 'nothing'"),
        (lambda b: find_item(b, "seats").update(gate="moon"), "phase 'moon'"),
        (lambda b: b["phases"][0]["lists"][0].update(id="run_up"), "Two lists"),
        (
            lambda b: b["phases"][0]["lists"][1].update(title=b["phases"][0]["lists"][0]["title"]),
            "Two lists of a phase",
        ),
        (lambda b: find_item(b, "seats").update(why="x" * 5_000_000), "is too long"),
        (lambda b: b.update(id="<script>"), "wrong at \\$.id"),
        (lambda b: b["briefing"].pop("turn_back_ft"), "turn_back_ft"),
    ],
)
def test_a_profile_with_an_error_is_refused_by_its_place(change, says):
    with pytest.raises(ProfileError, match=says) as caught:
        changed("a-trainer", change)
    assert len(str(caught.value)) < 500


def test_a_list_by_heart_is_confirmed_as_a_whole_and_taken_back_as_a_whole():
    landing = [
        ("phase_entered", {"phase": "before_landing"}),
        ("item_done", {"item": "lean"}),
        ("list_done", {"list": "landing"}),
    ]
    state = fold(B, events(*landing))
    final = [i.id for one in B.phase("before_landing").lists if one.id == "final" for i in one.items]
    assert open_item_ids(B, state) == ["gear_l", *final], (
        "the gear has a tap of its own, and the final is a list of its own"
    )
    assert "cruise_lean" not in state.away, "rich again is part of the list"
    assert open_item_ids(B, fold(B, events(*landing, ("undo", {"event": "e3"})))) == item_ids(B, "before_landing")
    with pytest.raises(EventError, match="there is no 'nothing'"):
        check_pilot_event(B, state, "list_done", {"list": "nothing"})


def test_a_confirmed_line_keeps_the_reading_that_was_on_the_screen():
    state = fold(A, events(("item_done", {"item": "master_on", "shown": 25.1})))
    lines = [row for one in screen_of(A, state, None, 61.0)["lists"] for row in one["items"]]
    line = next(row for row in lines if row["id"] == "master_on")
    assert (line["state"], line["shown"], line["unit"], line["age_s"]) == ("done", 25.1, "v", 60)
    for nonsense in ([1], "x" * 99, float("inf"), True):
        with pytest.raises(EventError, match="shown"):
            check_pilot_event(A, state, "item_done", {"item": "seats", "shown": nonsense})


@pytest.mark.parametrize(("column", "value", "word"), [("blower_light", 1.0, "lit"), ("blower_light", 0.0, "out")])
def test_a_light_is_shown_in_a_word_and_kept_as_it_was(column, value, word):
    vee = PROFILES["g-vee"]
    state = fold(vee, events(("phase_entered", {"phase": "run_up"})))
    item = next(item for item in vee.phase("run_up").items if item.id == "blower_check")
    shown = describe_item(vee, item, state, Sample(at_s=9.0, readings={column: value}, levers={}), 9.0)
    assert (shown.shown, shown.in_a_word, shown.as_expected) == (value, word, None), "nothing is expected of it"


def test_a_switch_is_shown_in_a_word_and_a_needle_in_figures():
    glass = PROFILES["j-glass"]
    now = Sample(at_s=9.0, readings={"batt2_amps_a": -4.2}, levers={"standby": 1.0})
    shown = {
        item.id: describe_item(glass, item, fold(glass, events()), now, 9.0)
        for item in glass.phase("before_start").items
        if item.id in ("standby_test", "standby_armed")
    }
    assert (shown["standby_armed"].in_a_word, shown["standby_armed"].as_expected) == ("on", True)
    assert (shown["standby_test"].in_a_word, shown["standby_test"].shown) == (None, -4.2)


@pytest.mark.parametrize(
    ("rows", "does"),
    [
        ([], "item"),
        ([("interrupted", {})], "resume"),
        ([("list_style", {"list": "the_day", "style": "two"})], "answer"),
        ([("phase_entered", {"phase": "before_take_off"})], "flow"),
        ([("phase_entered", {"phase": "before_take_off"}), ("flow_done", {"list": "before_take_off"})], "item"),
        ([("phase_entered", {"phase": "descent_landing"})], "by_heart"),
        ([("phase_entered", {"phase": "shutdown"}), *done(*item_ids(A, "shutdown"))], "end"),
        ([("phase_entered", {"phase": "run_up"}), *done(*item_ids(A, "run_up"))], "next_phase"),
        ([("flight_ended", {})], "record"),
    ],
)
def test_the_one_button_does_what_the_moment_asks(rows, does):
    assert screen_of(A, fold(A, events(*rows)), None, 60.0)["step"]["does"] == does


def test_a_killer_item_of_a_list_by_heart_is_confirmed_by_itself():
    kept = [("phase_entered", {"phase": "before_landing"}), ("list_done", {"list": "landing"})]
    shown = screen_of(B, fold(B, events(*kept)), None, 60.0)
    assert (shown["step"]["does"], shown["item"]["id"]) == ("item", "gear_l")


def test_what_the_needles_contradict_is_asked_back_and_stays_marked():
    at_mags = next(item for phase in A.phases for item in phase.items if item.id == "mags_both")
    before = [i.id for phase in A.phases for i in phase.items]
    rows = [("phase_entered", {"phase": "start"})]
    rows += [("item_done", {"item": i}) for i in before[: before.index("mags_both")]]
    off, both = (needles(99.0, levers={"mag": where}, rpm=0.0) for where in ("OFF", "BOTH"))
    state = fold(A, events(*rows))
    assert current_item(A, state, 99.0).id == at_mags.id
    assert screen_of(A, state, off, 99.0)["step"] | {"list": None} == {
        "does": "item",
        "list": None,
        "say": "Not BOTH yet: tick anyway",
        "to": None,
        "doubtful": True,
        "small": False,
    }
    assert not screen_of(A, state, both, 99.0)["step"]["doubtful"]
    for shown, contradicted in (("OFF", True), ("BOTH", False)):
        done = fold(A, events(*rows, ("item_done", {"item": "mags_both", "shown": shown})))
        lines = [line for one in screen_of(A, done, both, 99.0)["lists"] for line in one["items"]]
        assert next(line for line in lines if line["id"] == "mags_both")["contradicted"] is contradicted


@pytest.mark.parametrize("profile_id", sorted(PROFILES))
def test_only_what_starts_it_leaves_a_few_items_with_the_propeller_and_the_oil_among_them(profile_id):
    profile = PROFILES[profile_id]
    state = fold(profile, events(("only_what_starts", {}), ("fact", {"name": "start", "value": "cold"})))
    left = [
        item
        for phase in profile.phases
        if phase.kind.name in ("before_start", "start")
        for item in open_items(phase, state.progress, state.known)
        if item.id not in state.progress.aside
    ]
    assert 5 <= len(left) <= 14 * len(profile.engines)
    assert any(item.watch == "start" for item in left)
    assert any(item.reading and item.reading.signal.endswith("oil_p_psi") for item in left)
    later = profile.phases[3].items[0]
    assert later.id not in state.progress.aside
    assert state.progress.is_short


def test_a_list_is_not_cut_once_the_engine_runs():
    running = fold(A, events(("engine_fired", {"limit_s": 30.0})))
    with pytest.raises(EventError, match="engine runs"):
        check_pilot_event(A, running, "only_what_starts", {})


@pytest.mark.parametrize(("cht_f", "is_open"), [(B.limit("cht_act_f"), False), (B.limit("cht_act_f") + 1, True)])
def test_a_hot_cylinder_opens_the_climb_s_item_again_that_the_needles_had_confirmed(cht_f, is_open):
    climb = ("phase_entered", {"phase": "climb"})
    before = [item.id for item in B.phase("climb").items]
    taken = done(*before[: before.index("climb_cht")])
    cool = Sample(at_s=20.0, readings={"cht1_f": 350.0}, levers={})
    state = fold(B, events(climb, *taken))
    (seen,) = [event for event in follow_needles("f", B, state, cool) if event.kind == "item_seen"]
    assert seen.body["item"] == "climb_cht"
    state = fold(B, events(climb, *taken, ("item_seen", dict(seen.body))))
    later = Sample(at_s=90.0, readings={"cht1_f": cht_f}, levers={})
    told = [event.body["item"] for event in follow_needles("f", B, state, later) if event.kind == "item_reopened"]
    assert told == (["climb_cht"] if is_open else [])


@pytest.mark.parametrize(
    ("phase", "ground", "after_take_off"),
    [("take_off", True, False), ("climb", True, True), ("cruise", False, True), ("after_landing", False, True)],
)
def test_a_list_of_the_ground_is_late_until_the_climb_is_over(phase, ground, after_take_off):
    """Then nothing of it can be done any more: the record says that it stayed open, and no line stands all flight long."""
    state = fold(B, events(("engine_fired", {"limit_s": 30.0}), ("phase_entered", {"phase": phase})))
    late = {row["phase"] for row in screen_of(B, state, None, 10.0)["notices"]["late"]}
    assert ("before_take_off" in late) == ground
    assert ("take_off" in late) == after_take_off
