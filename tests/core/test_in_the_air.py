"""What is said of a take-off, a climb, temperatures, a change of power and the mixture, from samples and events."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jemmon.core.base.errors import EventError
from jemmon.core.base.figures import figure, plain
from jemmon.core.flight.events import Event
from jemmon.core.flight.fold import check_pilot_event, fold
from jemmon.core.flight.state import FlightState
from jemmon.core.judgement.engine_health import causes, nozzle_drift
from jemmon.core.judgement.judge import evidence_of
from jemmon.core.live.climb import climb_lines, follow_climb
from jemmon.core.live.descent import descent_lines
from jemmon.core.live.heat import cooling, heat_lines
from jemmon.core.live.leaning import lean_by_rpm, lean_working, probe_behind_f
from jemmon.core.live.ratings import power_warnings
from jemmon.core.live.rpm_ranges import speed_lines
from jemmon.core.live.take_off import take_off_watch
from jemmon.core.power.map_limit import map_limit_inhg
from jemmon.core.power.margin import band_to_avoid, detonation_margin
from jemmon.core.power.schools import MixtureAdvice, mixture_advice
from jemmon.core.power.wanted import WantedPower, power_choices, wanted_steps
from jemmon.core.screen.working import work_out
from jemmon.core.trace import Trace
from jemmon.core.trace.sample import Sample
from tests.core.builders import PROFILES, events, needles

A, B, E, G, H = (PROFILES[name] for name in ("a-trainer", "b-tourer", "e-rotor", "g-vee", "h-geared"))


def trace(seconds: float = 120, **columns) -> Trace:
    """Samples four times a second; a column is a figure, or two figures that it runs between."""
    t = np.arange(0, seconds, 0.25)
    made = {}
    for name, value in columns.items():
        made[name] = np.linspace(*value, len(t)) if isinstance(value, tuple) else np.full(len(t), value, dtype=float)
    return Trace(t, made)


def now_of(samples: Trace, **levers) -> Sample:
    readings = {name: float(values[-1]) for name, values in samples.columns.items()}
    return Sample(at_s=float(samples.time_s[-1]), readings=readings, levers=levers)


def told(lines) -> dict[str, str]:
    return {line.id: plain(line.say) for line in lines}


def flown(profile, phase: str, *events: tuple[str, dict]) -> FlightState:
    """The state of a running engine in a phase, after further events."""
    rows = [("phase_entered", {"phase": phase}), ("engine_fired", {"limit_s": 30.0}), *events]
    return fold(
        profile, [Event(id=str(k), kind=kind, at_s=float(k), body=b, seq=k + 1) for k, (kind, b) in enumerate(rows)]
    )


ROLLING = flown(A, "take_off_climb")


def test_nothing_says_stop_to_what_flies():
    weak = trace(20, rpm=2100, map_inhg=20, throttle=1.0, ias_kt=50, palt_ft=600, oat_f=59)
    assert take_off_watch(A, ROLLING, weak, now_of(weak)).stop
    go_around = flown(A, "descent_landing")
    assert take_off_watch(A, go_around, weak, now_of(weak)) is None
    lifted = trace(20, rpm=2100, map_inhg=27.9, throttle=1.0, ias_kt=50, palt_ft=(600, 660), oat_f=59)
    assert take_off_watch(A, ROLLING, lifted, now_of(lifted)) is None


def test_the_other_engines_heads_are_watched_too():
    twin = PROFILES["d-twin"]
    hot = trace(60, cht1_f=350, e2_cht1_f=420, ias_kt=95)
    assert told(heat_lines(twin, flown(twin, "climb"), hot, now_of(hot)))["head"].startswith(
        "Right engine, cylinder 1 at 420"
    )


def test_a_take_off_out_of_range_says_stop_while_it_can_and_one_in_range_does_not():
    weak = trace(20, rpm=2100, map_inhg=27.9, throttle=1.0, ias_kt=20, palt_ft=600, oat_f=59, oil_p_psi=60)
    good = trace(20, rpm=2300, map_inhg=27.9, throttle=1.0, ias_kt=20, palt_ft=600, oat_f=59, oil_p_psi=60)
    said = take_off_watch(A, ROLLING, weak, now_of(weak))
    assert plain(said.stop).startswith("Stop: RPM 2,100, at least 2,")
    assert take_off_watch(A, ROLLING, good, now_of(good)).stop is None
    fast = trace(20, rpm=2100, map_inhg=27.9, throttle=1.0, ias_kt=70, palt_ft=600, oat_f=59)
    assert take_off_watch(A, ROLLING, fast, now_of(fast)) is None, "it flies: nothing says stop any more"


def test_on_a_twin_the_engine_that_lags_and_the_second_oil_pressure_stop_the_take_off():
    twin = PROFILES["i-turbo"]
    full = twin.limit("rpm_max") - 10
    usual = {"rpm": full, "e2_rpm": full, "map_inhg": 32.3, "e2_map_inhg": 32.1, "oil_p_psi": 64, "e2_oil_p_psi": 63}
    air = {"throttle": 1.0, "ias_kt": 20, "palt_ft": 600, "oat_f": 59}

    def stop(**changed) -> str | None:
        rolling = trace(20, **{**usual, **changed}, **air)
        return take_off_watch(twin, flown(twin, "take_off"), rolling, now_of(rolling)).stop

    assert stop() is None
    assert "Left and right apart by 1.9 inHg, at most 1.5 inHg" in plain(stop(e2_map_inhg=30.4))
    assert "Right engine: Oil pressure 20 psi, at least " in plain(stop(e2_oil_p_psi=20))


def test_power_that_still_comes_up_is_not_judged():
    rising = trace(20, rpm=1800, map_inhg=20, throttle=0.2, ias_kt=0, palt_ft=600, oat_f=59)
    rising.columns["throttle"][-6:] = 1.0
    said = take_off_watch(A, ROLLING, rising, now_of(rising))
    assert said.stop is None
    assert not said.settled


def test_a_helicopter_takes_off_below_the_limit_of_the_day():
    high = trace(
        20, rpm_pct=102, map_inhg=24.6, throttle=1.0, ias_kt=0, palt_ft=6000, oat_f=32, oil_p_psi=60, oil_t_f=150
    )
    said = take_off_watch(E, flown(E, "take_off"), high, now_of(high)).stop
    assert "Manifold pressure 24.6 inHg, at most 2" in plain(said)
    assert any("limit of the day" in words for words in power_warnings(E, flown(E, "take_off"), now_of(high), 0.0))


@pytest.mark.parametrize(("share", "is_said"), [(0.68, True), (0.65, False)])
def test_an_engine_that_dies_draws_the_air_outside_whatever_the_limit_of_the_day(share, is_said):
    slow = trace(
        20, rpm_pct=100 * share * E.engine["rated_rpm"] / E.engine["rpm_at_100_pct"], map_inhg=29, palt_ft=0, oat_f=59
    )
    said = power_warnings(E, flown(E, "shutdown"), now_of(slow), 0.0)
    assert any("limit of the day" in words for words in said) is is_said


@given(st.floats(0, 10_000), st.floats(-20, 40))
def test_the_limit_of_the_day_lies_inside_its_chart_and_falls_with_height(palt_ft, oat_c):
    limit = map_limit_inhg(E, palt_ft, oat_c)
    assert 20.3 <= limit <= 24.1
    assert map_limit_inhg(E, min(palt_ft + 500, 10_000), oat_c) <= limit + 1e-9
    assert map_limit_inhg(B, palt_ft, oat_c) is None


def test_each_thousand_feet_asks_for_a_look_and_the_type_for_its_way_of_leaning():
    passing = trace(20, palt_ft=(3950, 4050), ias_kt=95, rpm=2500, map_inhg=25, egt1_f=1330, egt2_f=1340)
    state = flown(B, "climb", ("climb_egt", {"egt_f": 1280.0, "palt_ft": 1500}))
    said = told(climb_lines(B, state, passing, now_of(passing)))
    assert said["traffic"].startswith("4,000 ft")
    assert said["climb_lean"].startswith("Richer by 55 °F"), "hotter than full rich was low down"
    level = trace(40, palt_ft=4080, ias_kt=95, rpm=2500, map_inhg=25, egt1_f=1330)
    assert "traffic" not in told(climb_lines(B, state, level, now_of(level)))
    step = told(climb_lines(A, flown(A, "take_off_climb"), passing, now_of(passing)))
    assert step["climb_lean"].startswith("4,000 ft: a small step leaner")


def test_the_egt_of_full_rich_is_noted_once_and_low_down():
    low = trace(5, palt_ft=1500, ias_kt=95, rpm=2700, map_inhg=26.8, egt1_f=1270, egt2_f=1290)
    state = flown(B, "climb")
    noted = follow_climb("f", B, state, now_of(low, mixture=1.0))
    assert noted[0].body["egt_f"] == 1280
    assert not follow_climb("f", B, flown(B, "climb", ("climb_egt", dict(noted[0].body))), now_of(low, mixture=1.0))
    assert not follow_climb("f", B, state, now_of(low, mixture=0.7)), "leaned: not the reference"


def test_levelling_off_keeps_climb_power_until_speed_has_come():
    faster = trace(40, palt_ft=5950, ias_kt=(95, 110), rpm=2500, map_inhg=25)
    settled = trace(40, palt_ft=6000, ias_kt=135, rpm=2500, map_inhg=25)
    state = flown(B, "climb")
    assert "keep climb power" in told(climb_lines(B, state, faster, now_of(faster)))["level_off"]
    assert "cruise power, trim" in told(climb_lines(B, state, settled, now_of(settled)))["level_off"]


def test_a_blower_is_shifted_at_its_height():
    radial = PROFILES["f-radial"]
    high = trace(40, palt_ft=(8100, 8400), ias_kt=105, rpm=2100, map_inhg=28)
    assert (
        "blower to high" in told(climb_lines(radial, flown(radial, "climb"), high, now_of(high, blower=0.0)))["blower"]
    )
    assert "blower" not in told(climb_lines(radial, flown(radial, "climb"), high, now_of(high, blower=1.0)))


def test_a_blower_whose_light_stays_out_did_not_shift():
    radial = PROFILES["f-radial"]
    high = trace(40, palt_ft=(8100, 8400), ias_kt=105, rpm=2100, map_inhg=28, blower_light=1.0, e2_blower_light=0.0)
    state = flown(radial, "climb")
    shifted = now_of(high, blower=1.0, e2_blower=0.0)
    assert "did not shift" not in told(climb_lines(radial, state, high, shifted)).get("blower", "")
    said = told(climb_lines(radial, state, high, now_of(high, blower=1.0, e2_blower=1.0)))["blower"]
    assert "did not shift" in said
    assert said.startswith("Right"), "whose light it is"


def test_a_hot_head_is_said_before_it_is_too_hot():
    act = B.limit("cht_act_f")
    hot = trace(60, cht1_f=380, cht2_f=act + 10, ias_kt=95)
    coming = trace(60, cht1_f=380, cht2_f=(act - 30, act - 9), ias_kt=95)
    calm = trace(60, cht1_f=350, cht2_f=372, ias_kt=95)
    state = flown(B, "climb")
    assert (
        f"Cylinder 2 at {act + 10:.0f} °F, act at {act:.0f} °F: nose down"
        in told(heat_lines(B, state, hot, now_of(hot)))["head"]
    )
    assert f"will be at {act:.0f} °F in" in told(heat_lines(B, state, coming, now_of(coming)))["head"]
    assert told(heat_lines(B, state, calm, now_of(calm)))["head"] == "CHT 350 °F to 372 °F, hottest cylinder 2."


def test_in_a_descent_heat_comes_before_the_throttle():
    slow, fast = trace(60, rpm=2100, cht1_f=340, ias_kt=80), trace(60, rpm=2400, cht1_f=340, ias_kt=80)
    state = flown(A, "descent_landing")
    assert "below 2,000 RPM" in told(descent_lines(A, state, slow, now_of(slow, carb_heat=0.0)))["carb_heat"]
    assert "carb_heat" not in told(descent_lines(A, state, slow, now_of(slow, carb_heat=1.0)))
    assert "carb_heat" not in told(descent_lines(A, state, fast, now_of(fast, carb_heat=0.0)))


def leaned(profile, phase: str, **measured) -> FlightState:
    """The state after a leaning that was left at these figures, in a phase."""
    lean = {"kind": "lean", "verdict": "within", "because": "", "measured": {"side": "rich", **measured}}
    return flown(profile, phase, ("finding", lean), ("put_back_away", {"put_back": "cruise_lean"}))


def test_a_descent_asks_for_a_step_richer_each_thousand_feet_until_it_is_rich():
    state = leaned(B, "descent", palt_ft=6000, map_inhg=23, rpm=2300)
    for height_ft, step in ((5600, None), (4900, "1,000 ft"), (3700, "2,000 ft")):
        low = trace(60, palt_ft=height_ft, map_inhg=20, rpm=2300, ias_kt=120)
        said = told(descent_lines(B, state, low, now_of(low, mixture=0.6)))
        assert ("richer" in said) == (step is not None)
        assert step is None or step in said["richer"]
        assert "richer" not in told(descent_lines(B, state, low, now_of(low, mixture=1.0)))
        assert "lean_again" not in told(heat_lines(B, state, low, now_of(low, mixture=0.6)))


def test_a_propeller_pushed_forward_in_one_go_is_named_and_a_slow_one_or_a_go_around_is_not():
    state = flown(B, "before_landing")
    jumped = trace(60, rpm=2100, map_inhg=15, ias_kt=90)
    jumped.columns["rpm"][-12:] = np.linspace(2100, 2600, 12)
    slowly = trace(60, rpm=(2100, 2600), map_inhg=15, ias_kt=90)
    assert "slowly" in told(descent_lines(B, state, jumped, now_of(jumped)))["propeller"]
    assert "propeller" not in told(descent_lines(B, state, slowly, now_of(slowly)))
    pushed = trace(60, rpm=jumped.columns["rpm"], map_inhg=15, ias_kt=90)
    pushed.columns["map_inhg"][-12:] = np.linspace(15, 28, 12)
    assert "propeller" not in told(descent_lines(B, state, pushed, now_of(pushed))), "power came up with it"


def test_rpm_held_in_a_range_to_avoid_is_named_and_rpm_that_passes_it_is_not():
    twin = PROFILES["d-twin"]
    ((low, high),) = twin.power_section["avoid_rpm"]
    middle = (low + high) / 2
    held, passes = trace(30, rpm=2300, e2_rpm=middle), trace(30, rpm=2300, e2_rpm=(low - 150, high + 150))
    state = flown(twin, "cruise")
    assert told(speed_lines(twin, state, held, now_of(held))) == {
        f"avoid_{low}": f"Right engine: RPM is in the range to avoid, {low:,} to {high:,}: pass it, do not stay."
    }
    assert told(speed_lines(twin, state, passes, now_of(passes))) == {}
    both = trace(30, rpm=middle - 20, e2_rpm=middle)
    assert told(speed_lines(twin, state, both, now_of(both)))[f"avoid_{low}"].startswith(
        "Left engine and Right engine:"
    )


def test_a_turbine_near_its_limit_bounds_the_leaning_on_either_engine():
    twin = PROFILES["i-turbo"]
    most = twin.limit("tit_max_f")
    hot, cool = (trace(60, tit_f=1500, e2_tit_f=most - apart, ias_kt=160) for apart in (16, 60))
    state = flown(twin, "cruise")
    said = told(heat_lines(twin, state, hot, now_of(hot)))
    assert said["turbine"] == (
        f"Right engine, turbine inlet at {most - 16:,.0f} °F, limit {most:,.0f} °F: richer, or less power."
    )
    assert "turbine" not in told(heat_lines(twin, state, cool, now_of(cool)))


def test_a_fast_fall_is_a_note_and_never_a_stop():
    falling = trace(60, cht1_f=(390, 320), ias_kt=120)
    line = next(x for x in heat_lines(B, flown(B, "descent"), falling, now_of(falling)) if x.id == "falling")
    assert line.kind == "soft"
    assert "disputed" in line.say


def test_what_changed_since_the_mixture_was_set_asks_to_lean_again():
    state = leaned(B, "cruise", palt_ft=6000, map_inhg=23, rpm=2300)
    same = trace(60, palt_ft=6200, map_inhg=23.1, rpm=2310, ias_kt=140)
    lower = trace(60, palt_ft=4500, map_inhg=24.6, rpm=2310, ias_kt=140)
    assert "lean_again" not in told(heat_lines(B, state, same, now_of(same)))
    said = told(heat_lines(B, state, lower, now_of(lower)))["lean_again"]
    assert "altitude changed by -1,500 ft" in said
    assert "manifold pressure changed by +1.6 inHg" in said


def test_a_cylinder_that_moves_away_from_the_others_gets_its_likeliest_cause():
    apart = trace(200, egt1_f=1400, egt2_f=1405, egt3_f=1390, cht1_f=350, cht2_f=352, cht3_f=348, ias_kt=140)
    apart.columns["egt2_f"][-200:] += 80
    said = told(heat_lines(B, flown(B, "cruise"), apart, now_of(apart)))["apart"]
    assert said.startswith("Cylinder 2 differs from the others (EGT +80")
    assert "plug" in said


def test_a_cylinder_apart_on_the_second_engine_is_named_with_its_engine():
    own = {f"e2_egt{k}_f": 1400 + k for k in (1, 2, 3)} | {f"egt{k}_f": 1400 + k for k in (1, 2, 3)}
    apart = trace(200, **own, ias_kt=140)
    apart.columns["e2_egt3_f"][-200:] += 60
    twin = PROFILES["d-twin"]
    said = told(heat_lines(twin, flown(twin, "cruise"), apart, now_of(apart)))["apart"]
    assert said.startswith("Right engine, cylinder 3 differs from the others (EGT +60 °F")


def test_causes_are_ordered_by_what_moved():
    assert "plug" in causes(80, 0)[0].what
    assert "nozzle" in causes(60, 40)[0].what
    assert "baffle" in causes(0, 40)[0].what
    assert "detonation" in causes(-30, 40)[0].what


def test_a_nozzle_that_drifts_is_told_over_leanings_and_an_even_engine_is_not():
    rng = np.random.default_rng(4)

    def leaning(moved: float) -> dict:
        flows = 12 * (1 + np.array([0.0, 0.01, -0.01, 0.005]) + rng.normal(0, 0.002, 4))
        flows[2] *= 1 + moved
        return {"peaks": [{"cylinder": k + 1, "ff_gph": float(f)} for k, f in enumerate(flows)]}

    drifting = nozzle_drift([leaning(0.006 * k) for k in range(9)])
    assert [row.cylinder for row in drifting] == [3]
    assert "leaner" in drifting[0].say
    assert nozzle_drift([leaning(0.0) for _ in range(9)]) == ()
    assert nozzle_drift([leaning(0.05)] * 2) == ()
    without_flow = {"peaks": [{"cylinder": number, "egt_f": 1450.0, "ff_gph": None} for number in range(1, 5)]}
    assert nozzle_drift([without_flow] * 9) == ()


def test_the_engine_idles_on_until_it_is_cool():
    most = B.limit("cht_shutdown_max_f")
    hot, cool = trace(90, cht1_f=(most + 40, most + 10), rpm=1000), trace(90, cht1_f=330, rpm=1000)
    assert f"idle on until below {most:.0f} °F, about 1 min" in told(cooling(B, hot))["cooling"]
    assert "enough for the cut-off" in told(cooling(B, cool))["cooling"]
    turbine = trace(90, tit_f=1400, rpm=1800)
    assert "Turbine at 1,400 °F" in told(cooling(H, turbine))["cooling"]
    both = PROFILES["i-turbo"]
    hurried, rested = (trace(90 + s, tit_f=1100, e2_tit_f=1150, cht1_f=320, rpm=1000) for s in (0, 180))
    assert "Idle on for" in told(cooling(both, hurried))["cooling"]
    done = told(cooling(both, rested))["cooling"]
    assert done == "Hottest CHT at 320 °F, turbine at 1,150 °F, idled 180 s: enough for the cut-off."
    lost = trace(270, tit_f=1300, e2_tit_f=1150, cht1_f=320, rpm=1000)
    lost.columns["tit_f"][-1] = np.nan
    assert "turbine at 1,150" in told(cooling(both, lost))["cooling"]
    approach = trace(270, tit_f=1100, cht1_f=320, rpm=1000, e2_rpm=1000)
    approach.columns["e2_rpm"][:-240] = 1800
    said = told(cooling(both, approach))["cooling"]
    assert said == "Idle on for 120 s before the cut-off.", "an approach at low power is no idling"
    rotor = trace(60, rpm_pct=65)
    assert "Idle on for 60 s" in told(cooling(E, rotor))["cooling"]


def test_a_wanted_power_is_shown_in_its_order_and_then_left_alone():
    wanted = {"title": "75 %", "rpm": 2500, "map_inhg": 24.0}
    up = wanted_steps(B, wanted, 2200, 20.0, mixture_is_lean=True)
    assert up.steps == (
        "Mixture rich, or set for the new power",
        "RPM 2,500",
        f"Manifold pressure {figure(24.0, 'inhg')}",
    )
    down = wanted_steps(B, wanted, 2700, 28.0, mixture_is_lean=False)
    assert down.steps == (f"Manifold pressure {figure(24.0, 'inhg')}", "RPM 2,500")
    near = wanted_steps(B, wanted, 2520, 24.4, mixture_is_lean=False)
    assert near == WantedPower(title="75 %", steps=(), there=True, say="Within the band: leave it.")
    assert wanted_steps(A, {"title": "65 %", "rpm": 2300, "map_inhg": None}, 2500, 24, False).say.startswith(
        "Throttle: close"
    )


@given(st.floats(0, 9000), st.floats(-20, 35))
def test_what_may_be_asked_for_lies_in_the_types_table(palt_ft, oat_c):
    for choice in power_choices(B, palt_ft, oat_c, "lean_30"):
        assert 1900 <= choice.rpm <= 2700
        assert choice.map_inhg <= 30


def test_a_power_that_no_engine_has_is_refused():
    state = flown(B, "cruise")
    for body in ({"title": ""}, {"title": "x", "rpm": 90_000}, {"title": "x", "map_inhg": "much"}):
        with pytest.raises(EventError):
            check_pilot_event(B, state, "power_wanted", body)
    check_pilot_event(B, state, "power_wanted", {})
    assert wanted_steps(A, {"title": "x", "rpm": None, "map_inhg": 20}, 2300, 24, False).steps == (
        f"Manifold pressure {figure(20.0, 'inhg')}",
    )


def test_more_power_with_a_cruise_mixture_is_warned_of():
    lean = {"kind": "lean", "verdict": "within", "because": "", "measured": {"side": "rich", "offset_f": 50.0}}
    state = flown(B, "cruise", ("finding", lean), ("put_back_away", {"put_back": "cruise_lean"}))
    high, low = trace(5, rpm=2600, map_inhg=25, palt_ft=2000), trace(5, rpm=2200, map_inhg=20, palt_ft=2000)
    assert any("rich before more power" in words for words in power_warnings(B, state, now_of(high), 0.0))
    assert power_warnings(B, state, now_of(low), 0.0) == ()


def test_detents_and_the_computer_say_what_is_allowed():
    below = next(row["below_rpm"] for row in G.power_section["detents"] if "below_rpm" in row)
    assert mixture_advice(G, below, 34, 0.62) == MixtureAdvice(
        how="detents", say="At this power RICH or LEAN.", wrong=False
    )
    assert mixture_advice(G, below + 1, 34, 0.62).wrong, "no more than the list allows"
    high = mixture_advice(G, 2850, 46, 0.62)
    assert high.wrong
    assert high.say == "LEAN is not for this power: RICH."
    assert "computer" in mixture_advice(H, 5000, 35, None).say
    assert mixture_advice(B, 2300, 23, 0.7) is None


def test_a_hand_faster_than_the_probes_is_told():
    slow, fast = trace(60, ff_gph=(15, 12)), trace(60, ff_gph=(15, 5))
    assert probe_behind_f(slow, 3.0) < 15
    assert probe_behind_f(fast, 3.0) > 35


def test_without_an_egt_gauge_the_highest_rpm_is_the_mark():
    t = np.arange(0, 60, 0.25)
    lever = np.clip(1 - (t - 10) / 60, 0.3, 1)
    rpm = 2400 + 25 * np.sin(np.clip((t - 10) / 30, 0, 1.6) * np.pi)
    said = lean_by_rpm(Trace(t, {"rpm": rpm, "mixture": lever}), A)
    assert "highest RPM, 2,425" in said.say
    assert lean_by_rpm(Trace(t, {"rpm": rpm, "mixture": np.ones(len(t))}), A) is None
    assert (
        "rough" in lean_working(evidence_of(Trace(t, {"rpm": rpm, "mixture": lever}), B, {})[1], flown(B, "cruise")).say
    )


@given(st.floats(45, 100))
def test_the_band_to_avoid_widens_with_power(pct):
    band, more = band_to_avoid(pct), band_to_avoid(pct + 5)
    if band is not None:
        assert more[0] > band[0] >= 40
        assert more[1] > band[1] >= 0


def test_the_margin_shrinks_towards_peak_and_with_pressure():
    at = [
        detonation_margin(B, 2500, pressure, 60, 400, "rich", offset)
        for pressure, offset in ((22, 150), (22, 20), (29, 20))
    ]
    assert at == sorted(at, reverse=True)
    assert at[0] > 1.5 * at[2]


def test_on_the_roll_nobody_is_asked_to_wait_for_a_steady_needle():
    tourer = PROFILES["b-tourer"]
    t = np.arange(0, 20, 0.5)
    recent = Trace(t, {"rpm": np.linspace(900, 2690, len(t)), "ias_kt": np.full(len(t), 20.0)})
    roll = [p.id for p in tourer.phases if tourer.kind_of(p.id).name == "take_off"][0]
    state = fold(tourer, events(("phase_entered", {"phase": roll}), ("engine_fired", {"limit_s": 30.0})))
    now = needles(20.0, rpm=2_690.0, ias_kt=20.0)
    assert work_out(tourer, state, recent, evidence_of(recent, tourer, {}), now).working.speed is None
