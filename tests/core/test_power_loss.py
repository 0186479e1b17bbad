"""Power that goes in flight: recognised within seconds and named, and never told of a hand that closes a throttle.

The engines are those of `tests.strange`: windmilling, starved, unlit, iced or broken by published relations.
"""

from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from jemmon.core.flight.events import Event
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.check import Evidence
from jemmon.core.judgement.judge import judge
from jemmon.core.live.checks import follow_checks
from jemmon.core.live.power_loss import power_loss_now
from jemmon.core.live.ratings import power_warnings, pressures_ahead
from jemmon.core.trace import Trace
from jemmon.core.trace.sample import Sample
from tests.core.builders import PROFILES, screen_of
from tests.strange.hands import failure, no_failure, slowing

TOURER, TWIN = PROFILES["b-tourer"], PROFILES["d-twin"]
SEEDS = range(50_000, 50_012)


@pytest.mark.parametrize(("cause", "within_s"), [("fuel", 3.5), ("ignition", 3.0), ("mechanical", 3.5)])
def test_a_failing_engine_is_told_within_seconds_and_its_cause_named(cause, within_s):
    """Three seconds from the first reading that shows it; a probe and a flow sensor take the rest."""
    named, late = Counter(), []
    for seed in SEEDS:
        story = failure(seed, cause)
        (loss,) = story.of("loss")
        found = [f for f in judge(story.trace, PROFILES[story.kind], ("power_loss",)) if f.end_s > loss.start_s]
        assert found, f"{cause} {seed} {story.kind} without a word"
        assert found[0].verdict == "stop"
        named[found[0].measured["cause"]] += 1
        late.append(found[0].end_s - loss.start_s)
    assert np.quantile(late, 0.9) <= within_s
    assert named[cause] >= 8
    assert named[cause] + named["unknown"] >= 11


def test_ice_is_told_before_the_engine_stops():
    """Induction ice comes over a minute or two (FAA AC 20-113): manifold pressure sinks under a throttle that stays."""
    for seed in SEEDS:
        story = failure(seed, "carburettor_ice")
        (loss,) = story.of("loss")
        found = judge(story.trace, PROFILES[story.kind], ("power_loss",))
        assert found[0].measured["cause"] == "carburettor_ice"
        assert loss.start_s < found[0].end_s < loss.end_s - 20, "there is time to do something"


def test_no_closing_descending_levelling_leaning_hand_is_told_that_power_is_lost():
    told = [(seed, f.because) for seed in range(51_000, 51_040) for f in _told(no_failure(seed))]
    told += [(seed, f.because) for seed in range(51_000, 51_016) for f in _told(slowing(seed))]
    assert told == []


@pytest.mark.parametrize(("prop_to", "is_told"), [(0.2, False), (0.84, False), (0.86, True)])
def test_a_hand_that_pulls_the_propeller_back_knows_where_the_speed_went(prop_to, is_told):
    """Throttle open, the propeller far back at once: slower, less air and less fuel with it, exhausts a little cooler."""
    t = np.arange(0, 90, 0.25)
    back = np.clip((t - 60) / 2, 0, 1)
    speed = 2540 - 930 * back
    flown = {
        "rpm": speed,
        "ff_gph": 25.4 * speed / 2540 * 1.1,
        "egt1_f": 1300 - 25 * back,
        "map_inhg": 27.4 + 0.8 * back,
    }
    kept = {"throttle": np.ones(len(t)), "prop": np.where(t < 60, 1.0, prop_to), "ias_kt": np.full(len(t), 95.0)}
    assert bool(judge(Trace(t, {**flown, **kept}), TOURER, ("power_loss",))) is is_told


@pytest.mark.parametrize(("flow_left", "is_told"), [(0.45, True), (0.55, False)])
def test_fuel_that_stops_right_after_the_propeller_was_pulled_back_is_told(flow_left, is_told):
    """No propeller halves the flow: the moment after the first reduction of power is one of the worst."""
    t = np.arange(0, 70, 0.25)
    flown = {"rpm": np.full(len(t), 2300.0), "map_inhg": np.full(len(t), 25.0), "throttle": np.ones(len(t))}
    fails = {"prop": np.where(t < 60, 1.0, 0.7), "ff_gph": np.where(t < 62, 20.0, 20 * flow_left)}
    trace = Trace(t, {**flown, **fails, "ias_kt": np.full(len(t), 100.0)})
    assert bool(judge(trace, TOURER, ("power_loss",))) is is_told


@pytest.mark.parametrize(("to_kt", "is_told"), [(95.0, True), (60.0, False), (0.0, False)])
def test_a_fixed_pitch_slows_with_the_airspeed_and_loses_nothing(to_kt, is_told):
    """The nose goes up, or the wheels touch: at one advance ratio the speed of a windmilling propeller is that of the air."""
    t = np.arange(0, 90, 0.25)
    pulled = np.clip((t - 60) / 5, 0, 1)
    speed = 2300 * (1 - 0.12 * pulled)
    flown = {
        "rpm": speed,
        "ff_gph": 6.0 * speed / 2300,
        "throttle": np.full(len(t), 0.5),
        "egt1_f": np.full(len(t), 1350.0),
    }
    air = {"ias_kt": 95 - (95 - to_kt) * pulled, "palt_ft": np.full(len(t), 2000.0)}
    assert bool(judge(Trace(t, {**flown, **air}), PROFILES["a-trainer"], ("power_loss",))) is is_told


def landed(propeller_waits_s: float, extra_egt_f: float = 0.0, flow_left: float = 1.0) -> Trace:
    """A landing roll with the throttle left where it was on the approach: from 156 kt on it slows by 4 kt a second, and from its
    low pitch stop on the propeller with it, a little later; fuel and exhausts follow the air that the engine takes."""
    t = np.arange(0, 90, 0.25)
    air = np.clip(156 - 4 * np.clip(t - 60, 0, None), 30, None)
    share = 1 - 0.85 * (1 - np.clip(156 - 4 * np.clip(t - 60 - propeller_waits_s, 0, None), 30, None) / 156)
    fails = np.where(t < 66, 0.0, 1.0)
    return Trace(
        t,
        {
            "rpm": 2820 * share,
            "map_inhg": np.full(len(t), 21.2),
            "ff_gph": 46 * share * (1 - (1 - flow_left) * fails),
            "egt1_f": 1480 - 440 * (1 - share) - extra_egt_f * fails,
            "throttle": np.full(len(t), 0.3),
            "ias_kt": air,
        },
    )


@pytest.mark.parametrize("waits_s", [0.0, 1.0, 2.0])
@pytest.mark.parametrize(
    ("left_out", "fault", "is_told"),
    [
        ((), {}, False),
        (("egt1_f",), {}, False),
        (("throttle",), {}, False),
        ((), {"extra_egt_f": 250.0}, True),
        ((), {"flow_left": 0.45}, True),
        (("egt1_f",), {"flow_left": 0.4}, True),
    ],
)
def test_a_landing_roll_with_the_throttle_open_is_no_loss_and_hides_none(waits_s, left_out, fault, is_told):
    trace = landed(waits_s, **fault)
    kept = {name: values for name, values in trace.columns.items() if name not in left_out}
    assert bool(judge(Trace(trace.time_s, kept), PROFILES["g-vee"], ("power_loss",))) is is_told


@pytest.mark.parametrize(("rpm_to", "is_told"), [(2000.0, True), (2055.0, True), (2100.0, False), (2400.0, False)])
def test_pressure_that_sinks_as_the_propeller_speeds_up_is_no_ice(rpm_to, is_told):
    """Forward on the approach: an engine that turns faster behind the same throttle draws a lower manifold pressure."""
    t = np.arange(0, 140, 0.25)
    forward = np.clip((t - 60) / 4, 0, 1)
    flown = {
        "rpm": 2000 + (rpm_to - 2000) * forward,
        "map_inhg": 18 * (1 - 0.1 * forward),
        "throttle": np.full(len(t), 0.3),
        "ias_kt": np.full(len(t), 95.0),
        "palt_ft": np.full(len(t), 1500.0),
    }
    assert bool(judge(Trace(t, flown), TWIN, ("power_loss",))) is is_told


def _told(story):
    return judge(story.trace, PROFILES[story.kind], ("power_loss",))


def cruise(flow_left: float, map_left: float = 1.0, rows_s: float = 0.5, fp_left: float = 1.0) -> Trace:
    """A governed engine in cruise whose fuel flow, manifold pressure and fuel pressure go to such shares at 60 s."""
    t = np.arange(0, 80, rows_s)
    gone = t >= 60
    return Trace(
        t,
        {
            "rpm": np.full(len(t), 2300.0),
            "map_inhg": np.where(gone, 22 * map_left, 22.0),
            "ff_gph": np.where(gone, 12 * flow_left, 12.0),
            "fp_psi": np.where(gone, 20 * fp_left, 20.0),
            "ias_kt": np.full(len(t), 120.0),
        },
    )


@pytest.mark.parametrize(
    ("trace", "is_told"),
    [
        (cruise(0.51), False),
        (cruise(0.49), True),
        (cruise(0.49, map_left=0.92), False),  # a throttle takes manifold pressure with it
        (cruise(0.49, map_left=0.94), True),
        (cruise(0.74, fp_left=0.59), True),
        (cruise(0.76, fp_left=0.59), False),
        (cruise(0.74, fp_left=0.61), False),
    ],
)
def test_how_much_fuel_flow_is_a_loss_of_power(trace, is_told):
    found = judge(trace, TOURER, ("power_loss",))
    assert bool(found) is is_told
    if is_told:
        assert found[0].measured == {"cause": "fuel", "at_s": 60.0, "is_question": False}


@pytest.mark.parametrize(("rows_s", "needed"), [(0.5, 2), (1.0, 3), (2.0, 3)])
def test_two_rows_at_two_a_second_else_three(rows_s, needed):
    (found,) = judge(cruise(0.3, rows_s=rows_s), TOURER, ("power_loss",))
    assert found.end_s == 60.0 + (needed - 1) * rows_s


def test_a_flow_that_is_gone_altogether_is_told_with_what_it_was():
    (found,) = judge(cruise(0.0), TOURER, ("power_loss",))
    assert "fuel flow {12.00|gph} to {0.00|gph}" in found.because


def test_a_mixture_that_is_cut_by_hand_is_no_loss_and_neither_is_the_ground():
    trace = cruise(0.1)
    gone = trace.time_s >= 60
    by_hand = Trace(
        trace.time_s, {**trace.columns, "mixture": np.where(gone, 0.0, 1.0), "throttle": np.full(len(gone), 0.6)}
    )
    assert judge(by_hand, TOURER, ("power_loss",)) == []
    ground = Trace(trace.time_s, {**trace.columns, "ias_kt": np.zeros(len(gone))})
    assert judge(ground, TOURER, ("power_loss",)) == []


def test_without_throttle_and_manifold_pressure_it_is_a_question():
    t = np.arange(0, 80, 1.0)
    for left, is_told in ((0.87, True), (0.89, False)):
        rpm = np.where(t >= 60, 2400 * left, 2400.0)
        found = judge(Trace(t, {"rpm": rpm, "ias_kt": np.full(len(t), 90.0)}), PROFILES["a-trainer"], ("power_loss",))
        assert bool(found) is is_told
        if is_told:
            assert found[0].verdict == "look"
            assert found[0].because.startswith("Power is down: was it you?")


def pulled(flow=0.7, rpm=0.92, egt_f=-60.0, fp=1.0, then_flow=None, then_s=65.0, until_s=100.0, **levers) -> Trace:
    """A cruise in which fuel flow, speed and exhausts go to such shares and so far at 60 s, and fuel flow perhaps further later."""
    t = np.arange(0, until_s, 0.5)
    gone = t >= 60
    flow_gph = np.where(gone, 8 * flow, 8.0)
    if then_flow is not None:
        flow_gph[t >= then_s] = 8 * then_flow
    shown = {
        "rpm": np.where(gone, 2400 * rpm, 2400.0),
        "map_inhg": np.full(len(t), 22.0),
        "ff_gph": flow_gph,
        "fp_psi": np.where(gone, 5 * fp, 5.0),
        "ias_kt": np.full(len(t), 100.0),
    }
    shown |= {f"egt{n}_f": np.where(gone, 1350.0 + egt_f, 1350.0) + np.arange(len(t)) % (n + 1) for n in (1, 2, 3)}
    return Trace(t, shown | {name: np.full(len(t), value) for name, value in levers.items()})


@pytest.mark.parametrize(
    ("aircraft", "trace", "verdict"),
    [
        ("a-trainer", pulled(), "look"),
        ("a-trainer", pulled(mixture=0.8), "stop"),  # the lever is seen, and did not move
        ("a-trainer", pulled(flow=0.51), "look"),
        ("a-trainer", pulled(flow=0.49), "stop"),
        ("a-trainer", pulled(rpm=0.87), "look"),
        ("a-trainer", pulled(rpm=0.85), "stop"),
        ("a-trainer", pulled(egt_f=-148), "look"),
        ("a-trainer", pulled(egt_f=-152), "stop"),
        ("a-trainer", pulled(fp=0.61), "look"),
        ("a-trainer", pulled(fp=0.59), "stop"),
        ("b-tourer", pulled(rpm=0.97), "look"),
        ("b-tourer", pulled(rpm=0.95), "stop"),  # far lean of peak a governor still holds its speed
        ("a-trainer", pulled(egt_f=-15), "look"),
        ("a-trainer", pulled(egt_f=0), "stop"),  # no exhaust answers: it takes less air, and no hand leaned
    ],
)
def test_what_a_pulled_mixture_would_look_like_is_a_question_unless_a_lever_denies_it(aircraft, trace, verdict):
    """Far lean of peak an engine runs slower on two thirds of its fuel, and its exhausts are no cooler than rich ones (common
    practice)."""
    (found,) = judge(trace, PROFILES[aircraft], ("power_loss",))
    assert found.verdict == verdict
    assert found.because.startswith("Power is down: was it you?") is (verdict == "look")


@pytest.mark.parametrize(("then_s", "verdicts"), [(79.5, ["stop"]), (80.5, ["look"])])
def test_a_question_is_answered_by_what_comes_within_twenty_seconds(then_s, verdicts):
    found = judge(pulled(then_flow=0.3, then_s=then_s), PROFILES["a-trainer"], ("power_loss",))
    assert [f.verdict for f in found] == verdicts
    assert found[0].measured["at_s"] == 60.0


def test_a_running_flight_asks_first_and_then_says_that_power_is_lost():
    profile, events = PROFILES["a-trainer"], []
    whole = pulled(then_flow=0.3, until_s=70.0)
    for rows in range(122, len(whole) + 1, 2):
        seen = Trace(whole.time_s[:rows], {name: values[:rows] for name, values in whole.columns.items()})
        state = fold(profile, [replace(event, seq=n) for n, event in enumerate(events, 1)])
        events += follow_checks("f", profile, state, {1: Evidence(seen, profile)}, ("power_loss",))
    assert [(event.at_s, event.body["verdict"]) for event in events] == [(60.5, "look"), (65.5, "stop")]


def flown(profile, engine: int = 1, verdict: str = "stop"):
    body = {"kind": "power_loss", "engine": engine, "start_s": 60.0, "end_s": 61.0, "verdict": verdict}
    body |= {
        "measured": {"cause": "fuel", "at_s": 60.0},
        "limits": {},
        "because": "Power is lost.",
        "next": "",
        "source": "common practice",
    }
    events = [("phase_entered", {"phase": "cruise"}), ("engine_fired", {"limit_s": 30.0}), ("finding", body)]
    return fold(profile, [Event(id=str(n), kind=kind, at_s=n, body=b, seq=n) for n, (kind, b) in enumerate(events, 1)])


@pytest.mark.parametrize(("at_s", "is_shown"), [(61.0, True), (241.0, True), (241.1, False)])
def test_the_first_actions_are_shown_with_the_side_and_for_three_minutes(at_s, is_shown):
    shown = power_loss_now(TWIN, flown(TWIN, engine=2), None, at_s)
    assert (shown is not None) is is_shown
    if shown:
        assert shown.engine == "Right:" or shown.engine.startswith("Right")
        drill = next(row for row in TWIN.body["emergency"] if row.get("when") == "power_loss")
        assert shown.steps == tuple(drill["steps"])


@pytest.mark.parametrize(
    ("verdict", "at_s", "is_small"), [("stop", 61.0, True), ("look", 61.0, False), ("stop", 241.1, False)]
)
def test_nothing_large_leads_on_while_power_is_lost(verdict, at_s, is_small):
    assert screen_of(TWIN, flown(TWIN, verdict=verdict), None, at_s)["step"]["small"] is is_small


@pytest.mark.parametrize(("beyond_kt", "has_time"), [(0.0, True), (-0.1, False)])
def test_on_a_twin_a_clock_runs_and_from_blue_line_on_there_is_time(beyond_kt, has_time):
    """At or above best single-engine climb accuracy comes before speed; below it the nose does (common practice)."""
    blue_line_kt = TWIN.body["briefing"]["blue_line_kt"]
    now = Sample(at_s=70, readings={"ias_kt": blue_line_kt + beyond_kt}, levers={})
    shown = power_loss_now(TWIN, flown(TWIN), now, 72.4)
    assert (shown.since_s, shown.has_time) == (12, has_time)
    assert not power_loss_now(TWIN, flown(TWIN), None, 72.4).has_time
    assert power_loss_now(TWIN, flown(TWIN, verdict="look"), now, 72.4).since_s is None
    single = power_loss_now(TOURER, flown(TOURER), Sample(at_s=70, readings={"ias_kt": 120.0}, levers={}), 72.4)
    assert (single.since_s, single.has_time) == (None, False)


def test_a_slow_aircraft_has_landed_and_a_question_says_so():
    slow, fast = (Sample(at_s=70, readings={"ias_kt": kt}, levers={}) for kt in (34.0, 36.0))
    assert power_loss_now(TOURER, flown(TOURER), slow, 70.0) is None
    assert power_loss_now(TOURER, flown(TOURER), fast, 70.0) is not None
    assert power_loss_now(TOURER, flown(TOURER, verdict="look"), fast, 70.0).is_question


def test_a_dying_engine_is_never_told_that_manifold_pressure_is_ahead():
    now = Sample(at_s=70, readings={"rpm": 1900.0, "map_inhg": 28.0, "ias_kt": 100.0}, levers={})
    alive = fold(TOURER, [Event(id="1", kind="engine_fired", at_s=0, body={"limit_s": 30.0}, seq=1)])
    assert pressures_ahead(TOURER, alive, now, 70.0)
    assert not pressures_ahead(TOURER, flown(TOURER), now, 70.0)


@pytest.mark.parametrize(("beyond", "is_said"), [(-0.1, True), (0.1, False)])
def test_fuel_pressure_below_the_types_least_is_said_at_once(beyond, is_said):
    least = TOURER.limit("fuel_pressure_min_psi")
    now = Sample(at_s=70, readings={"rpm": 2300.0, "fp_psi": least + beyond, "ias_kt": 100.0}, levers={})
    running = fold(TOURER, [Event(id="1", kind="engine_fired", at_s=0, body={"limit_s": 30.0}, seq=1)])
    assert any(words.startswith("Fuel pressure") for words in power_warnings(TOURER, running, now, 70.0)) is is_said
    assert power_warnings(TOURER, fold(TOURER, []), now, 70.0) == ()


@pytest.mark.parametrize(("again_s", "times"), [(115.0, 1), (125.0, 2)])
def test_power_that_comes_back_and_goes_within_two_minutes_is_the_same_event(again_s, times):
    t = np.arange(0, 260, 0.5)
    gone = (t >= 60) & (t < 64) | (t >= 60 + again_s) & (t < 64 + again_s)
    columns = {"rpm": 2300.0, "map_inhg": 22.0, "ff_gph": np.where(gone, 4.0, 12.0), "ias_kt": 120.0}
    trace = Trace(t, {name: np.broadcast_to(values, len(t)).astype(float) for name, values in columns.items()})
    assert len(judge(trace, TOURER, ("power_loss",))) == times


@pytest.mark.parametrize(
    ("rpm", "flow_gph", "is_told"),
    [
        (1310.0, 12.0, True), (1290.0, 12.0, False),
        (2300.0, 1.05, True), (2300.0, 0.95, False),
    ],
)  # fmt: skip
def test_an_engine_that_gave_nothing_loses_nothing(rpm, flow_gph, is_told):
    """Below a direct-drive engine's 1,300 RPM, or a twelfth of what full power burns (common practice: 0.45 lb/hp/h)."""
    scale, rated = TOURER.speed_scale, float(TOURER.engine["rated_power_hp"]) / 50.0
    t = np.arange(0, 80, 0.5)
    trace = Trace(
        t,
        {
            "rpm": np.full(len(t), rpm * scale),
            "map_inhg": np.full(len(t), 22.0),
            "ff_gph": np.where(t < 60, 1.0, 0.3) * flow_gph * (rated if flow_gph < 2 else 1.0),
            "ias_kt": np.full(len(t), 120.0),
        },
    )
    assert bool(judge(trace, TOURER, ("power_loss",))) is is_told


ICED = PROFILES["a-trainer"]


@pytest.mark.parametrize(
    ("changed", "is_told"),
    [
        ({}, True),
        ({"map_left": 0.94}, False), ({"map_left": 0.90}, True),
        ({"rpm_left": 0.98}, False), ({"rpm_left": 0.955}, True),
        ({"climbs_ft": 170.0}, False), ({"climbs_ft": 130.0}, True),
        ({"throttle_moves": 0.04}, False), ({"throttle_moves": 0.02}, True),
        ({"over_s": 240.0}, False),
    ],
)  # fmt: skip
def test_how_far_pressure_sinks_in_a_minute_is_ice(changed, is_told):
    asked = {"map_left": 0.9, "rpm_left": 0.95, "climbs_ft": 0.0, "throttle_moves": 0.0, "over_s": 60.0, **changed}
    t = np.arange(0, 400, 0.5)
    share = np.clip((t - 100) / asked["over_s"], 0, 1)
    trace = Trace(
        t,
        {
            "rpm": 2300 * (1 - (1 - asked["rpm_left"]) * share),
            "map_inhg": 23 * (1 - (1 - asked["map_left"]) * share),
            "throttle": 0.6 + asked["throttle_moves"] * (t >= 130),
            "palt_ft": 3000 + asked["climbs_ft"] * (t >= 130),
            "ias_kt": np.full(len(t), 90.0),
        },
    )
    assert bool(judge(trace, ICED, ("power_loss",))) is is_told


@pytest.mark.parametrize(
    ("lands_s", "idles_rpm", "is_asked"), [(170.0, 700.0, False), (190.0, 700.0, True), (170.0, 300.0, True)]
)
def test_power_that_was_taken_to_land_asks_nothing_of_a_record(lands_s, idles_rpm, is_asked):
    """On the ground within three minutes, and the engine idles there."""
    t = np.arange(0, 420, 1.0)
    rpm = np.select([t < 60, t < 60 + lands_s], [2400.0, 1700.0], idles_rpm)
    trace = Trace(t, {"rpm": rpm, "ias_kt": np.where(t < 60 + lands_s, 90.0, 0.0)})
    assert bool(judge(trace, ICED, ("power_loss",))) is is_asked
