"""Each limit just inside and just outside, and the verdict that follows: no simulated engine is needed for it."""

from dataclasses import replace
from functools import partial

import numpy as np
import pytest

from jemmon.core.aircraft import Profile
from jemmon.core.flight.fold import fold
from jemmon.core.judgement.carburettor_heat import Heated, judge_heat
from jemmon.core.judgement.check import Evidence
from jemmon.core.judgement.idle import judge_idle
from jemmon.core.judgement.judge import judge
from jemmon.core.judgement.magneto import Side, judge_magnetos
from jemmon.core.judgement.registry import checks
from jemmon.core.live.leaning import LeanWorking, lean_working
from jemmon.core.live.take_off import take_off_watch
from jemmon.core.procedure.gates import gate_rows
from jemmon.core.procedure.progress import killers_due
from jemmon.core.screen.start import describe_start
from jemmon.core.start.following import StartWatch, starter_rest_s
from jemmon.core.start.story import StartStory
from jemmon.core.trace import Trace
from jemmon.core.trace.signals import SIGNALS
from tests.core.builders import PROFILES, events, needles

A, B, D, E, F, H, TURBO = (
    PROFILES[k] for k in ("a-trainer", "b-tourer", "d-twin", "e-rotor", "f-radial", "h-geared", "i-turbo")
)
HAIR = 0.01


def trace(seconds: float = 60.0, rate_hz: float = 4.0, **columns) -> Trace:
    """Samples; a column is a figure, or an array of them."""
    t = np.arange(0, seconds, 1 / rate_hz)
    return Trace(t, {name: np.broadcast_to(np.asarray(v, dtype=float), t.shape).copy() for name, v in columns.items()})


def verdict_of(kind: str, profile: Profile, flown: Trace) -> str:
    found = judge(flown, profile, (kind,))
    return found[-1].verdict if found else "nothing"


# ---- magnetos --------------------------------------------------------------------------------------------------------

BASE = A.limit("runup_rpm")
MIDDLE = (A.limit("mag_drop_min_rpm") + A.limit("mag_drop_max_rpm")) / 2


def side(name: str, drop: float, restored: float = 0.0, base: float = BASE, start_s: float = 0.0, **more) -> Side:
    return Side(
        name=name,
        base_rpm=base,
        drop_rpm=drop,
        restored_rpm=base + restored,
        start_s=start_s,
        end_s=start_s + 5,
        **more,
    )


def mags(left: float, right: float, restored: float = 0.0, base: float = BASE, profile: Profile = A) -> str:
    sides = [side("left", left, restored, base), side("right", right, restored, base, 10.0)]
    return judge_magnetos(profile, sides).verdict


MOST, LEAST, APART = (A.limit(f"mag_{name}_rpm") for name in ("drop_max", "drop_min", "difference_max"))
BACK, BAND = A.limit("mag_restored_within_rpm"), A.limit("runup_band_rpm")


@pytest.mark.parametrize(
    ("given", "verdict"),
    [
        ((MOST - HAIR, MOST - HAIR), "within"),
        ((MOST + HAIR, MOST - HAIR), "stop"),
        ((MOST - HAIR, MOST + HAIR), "stop"),
        ((LEAST + HAIR, LEAST + HAIR), "within"),
        ((LEAST - HAIR, LEAST + HAIR), "stop"),
        ((LEAST + HAIR, LEAST - HAIR), "stop"),
        ((MIDDLE, MIDDLE + APART - HAIR), "within"),
        ((MIDDLE, MIDDLE + APART + HAIR), "look"),
        ((MIDDLE + APART + HAIR, MIDDLE), "look"),
        ((MIDDLE, MIDDLE, BACK - HAIR), "within"),
        ((MIDDLE, MIDDLE, BACK + HAIR), "look"),
        ((MIDDLE, MIDDLE, -BACK - HAIR), "look"),
        ((MIDDLE, MIDDLE, np.nan), "incomplete"),
        ((MIDDLE, MIDDLE, 0.0, BASE + 3 * BAND - HAIR), "within"),
        ((MIDDLE, MIDDLE, 0.0, BASE + 3 * BAND + HAIR), "look"),
        ((MIDDLE, MIDDLE, 0.0, BASE - 3 * BAND - HAIR), "look"),
    ],
)
def test_magnetos(given, verdict):
    assert mags(*given) == verdict


def test_one_side_alone_is_incomplete_and_no_pass():
    assert judge_magnetos(A, [side("left", MIDDLE)]).verdict == "incomplete"


@pytest.mark.parametrize(("fall_f", "plugs"), [(-21.9, []), (-22.1, ["2 left"])])
def test_a_plug_is_named_from_the_fall_that_no_noise_makes(fall_f, plugs):
    rises = {1: 90.0, 2: fall_f, 3: 88.0, 4: 92.0}
    finding = judge_magnetos(A, [side("left", MIDDLE, egt_rise_f=rises), side("right", MIDDLE, start_s=10.0)])
    assert finding.measured["suspect_plugs"] == plugs


@pytest.mark.parametrize(("rise_f", "verdict"), [(15.1, "unknown"), (14.9, "stop")])
def test_a_drop_that_a_governor_hides_is_unknown_where_every_exhaust_rose(rise_f, verdict):
    rises = dict.fromkeys(range(1, 7), rise_f)
    base = B.limit("runup_rpm")
    sides = [side(name, 0.0, base=base, start_s=s, egt_rise_f=rises) for name, s in (("left", 0.0), ("right", 10.0))]
    assert judge_magnetos(B, sides).verdict == verdict


# ---- carburettor heat, idle ------------------------------------------------------------------------------------------

HOT_LEAST, HOT_MOST, COLD_BACK, ICE = (
    A.limit(f"carb_heat_{name}_rpm") for name in ("drop_min", "drop_max", "restored_within", "ice_gain")
)


@pytest.mark.parametrize(
    ("drop", "restored", "verdict"),
    [
        (HOT_LEAST + HAIR, 0.0, "within"),
        (HOT_LEAST - HAIR, 0.0, "stop"),
        (HOT_MOST - HAIR, 0.0, "within"),
        (HOT_MOST + HAIR, 0.0, "look"),
        (HOT_LEAST + 5, -COLD_BACK + HAIR, "within"),
        (HOT_LEAST + 5, -COLD_BACK - HAIR, "look"),
        (HOT_LEAST + 5, ICE + HAIR, "look"),
        (HOT_LEAST + 5, np.nan, "incomplete"),
    ],
)
def test_carburettor_heat(drop, restored, verdict):
    assert (
        judge_heat(A, (0.0, 9.0), Heated(base_rpm=1800.0, drop_rpm=drop, restored_rpm=1800.0 + restored)).verdict
        == verdict
    )


def test_more_rpm_than_before_is_ice_from_its_figure_on():
    for more, ice in ((ICE - HAIR, False), (ICE + HAIR, True)):
        assert (
            judge_heat(
                A, (0.0, 9.0), Heated(base_rpm=1800.0, drop_rpm=HOT_LEAST + 5, restored_rpm=1800.0 + more)
            ).measured["ice"]
            is ice
        )


IDLE_LEAST, IDLE_MOST = A.limit("idle_min_rpm"), A.limit("idle_max_rpm")


@pytest.mark.parametrize(
    ("rpm", "verdict"),
    [(IDLE_LEAST, "within"), (IDLE_LEAST - HAIR, "look"), (IDLE_MOST, "within"), (IDLE_MOST + HAIR, "look")],
)
def test_idle(rpm, verdict):
    assert judge_idle(A, 0.0, 5.0, rpm, stopped=False).verdict == verdict
    assert judge_idle(A, 0.0, 5.0, rpm, stopped=True).verdict == "stop"


# ---- start -----------------------------------------------------------------------------------------------------------

OIL_S, ON_S = A.limit("oil_pressure_time_s"), A.limit("starter_on_max_s")
STARTED = StartStory(
    began_s=1.0, fired_s=4.0, cranking_s=3.0, longest_crank_s=3.0, volts_v=22.0, oil_limit_s=OIL_S, until_s=90.0,
    oil_s=6.0, charging=True,
)  # fmt: skip
CRANK_V = A.limit("volts_crank_min_v")


@pytest.mark.parametrize(
    ("more", "verdict"),
    [
        ({}, "within"),
        ({"oil_s": OIL_S}, "within"),
        ({"oil_s": OIL_S + HAIR}, "stop"),
        ({"oil_s": None, "oil_late": True}, "stop"),
        ({"oil_s": None}, "incomplete"),
        ({"longest_crank_s": ON_S}, "within"),
        ({"longest_crank_s": ON_S + HAIR}, "look"),
        ({"volts_v": CRANK_V}, "within"),
        ({"volts_v": CRANK_V - HAIR}, "look"),
        ({"charging": False, "charging_v": 24.0}, "look"),
        ({"charging": None}, "within"),
    ],
)
def test_a_start(more, verdict):
    told = (replace(STARTED, **more),)
    shown = trace(90.0, rpm=1000.0, oil_p_psi=50.0)
    (finding,) = checks()["start"].find(Evidence(shown, A, told))
    assert finding.verdict == verdict


@pytest.mark.parametrize(("until_s", "charging", "told"), [(63.0, None, False), (65.0, None, True), (20.0, True, True)])
def test_a_start_is_told_with_its_charge_or_a_minute_after_it_fired(until_s, charging, told):
    shown = trace(until_s + 0.25, rpm=1000.0, oil_p_psi=50.0)
    (finding,) = checks()["start"].find(Evidence(shown, A, (replace(STARTED, charging=charging),)))
    assert checks()["start"].ripe.is_ripe(finding, shown) == told


def test_a_second_alternator_that_stays_out_is_looked_at():
    story = replace(STARTED, alternator_2=False)
    for told, verdict in ((STARTED, "within"), (story, "look")):
        (finding,) = checks()["start"].find(Evidence(trace(90.0, rpm=1000.0, oil_p_psi=50.0), H, (told,)))
        assert finding.verdict == verdict


def test_the_starter_rests_in_full_after_half_its_limit_and_in_proportion_after_less():
    rest_s = A.limit("starter_rest_s")
    for cranked_s, share in ((ON_S / 2, 1.0), (ON_S, 1.0), (ON_S / 4, 0.5)):
        state = fold(
            A, events(("start_tap", {"what": "crank"}, 10.0), ("start_tap", {"what": "let_go"}, 10.0 + cranked_s))
        )
        assert starter_rest_s(A, state.engine(1), 10.0 + cranked_s) == pytest.approx(rest_s * share, abs=1.0)


def cranked(seconds: float) -> str:
    state = fold(A, events(("start_tap", {"what": "crank"}, 10.0)))
    return describe_start(A, state, {}, None, 10.0 + seconds).large.say


def test_the_starter_is_let_go_at_its_limit():
    assert (cranked(ON_S - HAIR), cranked(ON_S)) == ("CRANKING", "LET GO")


def energising(seconds: float, volts: float, **sources: float) -> str:
    watch = StartWatch(at_s=9.0, energising_s=seconds)
    now = needles(9.0, levers={"energise": 1.0, "master": 1.0, **sources}, rpm=0.0, volts_v=volts)
    number = F.engines[0][0]
    own = {f"e2_{k}" if number == 2 and k not in sources else k: v for k, v in now.levers.items()}
    prefixed = needles(9.0, levers=own, **now.readings)
    return describe_start(F, fold(F, []), {number: watch}, prefixed, 9.0).large.say


def test_an_inertia_starter_gets_three_quarters_of_its_time_on_a_weak_bus():
    _, high = F.start.energise_s
    least = F.limit("volts_min_v")
    assert energising(high - 0.1, least) == "MESH WHEN READY"
    assert energising(high + 0.1, least) == "MESH NOW"
    weak = max(0.75 * high, F.start.energise_s[0])
    assert energising(weak - 0.1, least - 1.1) == "MESH WHEN READY"
    assert energising(weak + 0.1, least - 1.1) == "MESH NOW"
    assert energising(weak + 0.1, least - 0.9) == "MESH WHEN READY", "not a volt below: no weak bus"


def test_on_ground_power_it_is_energised_shorter():
    _, high = F.start.energise_ground_power_s
    least = F.limit("volts_min_v")
    assert high < F.start.energise_s[1]
    assert energising(high - 0.1, least, ground_power=1.0) == "MESH WHEN READY"
    assert energising(high + 0.1, least, ground_power=1.0) == "MESH NOW"
    assert energising(high + 0.1, least, ground_power=0.0) == "MESH WHEN READY", "on the battery"


# ---- warm-up, gauges, temperatures -----------------------------------------------------------------------------------

GATE_F = A.limit("oil_t_runup_min_f")


@pytest.mark.parametrize(("oil_f", "verdict"), [(GATE_F, "within"), (GATE_F - HAIR, "look"), (np.nan, "unknown")])
def test_warm_up(oil_f, verdict):
    speed = np.where(np.arange(0, 240, 0.25) < 150, 1000.0, 1800.0)
    flown = trace(240.0, rpm=speed, oil_t_f=oil_f, oil_p_psi=50.0)
    (finding,) = checks()["warm_up"].find(Evidence(flown, A, (replace(STARTED, until_s=240.0),)))
    assert finding.verdict == verdict


def at_run_up(**columns) -> Trace:
    healthy = {"suction_inhg": 5.0, "volts_v": 27.8, "oil_p_psi": 60.0, "fp_psi": 4.5}
    return trace(60.0, rpm=BASE, alternator=1.0, **{**healthy, **columns})


@pytest.mark.parametrize(
    ("column", "limit", "outward", "verdict"),
    [
        ("suction_inhg", "suction_min_inhg", -1, "look"),
        ("suction_inhg", "suction_max_inhg", 1, "look"),
        ("volts_v", "volts_charging_min_v", -1, "look"),
        ("volts_v", "volts_max_v", 1, "look"),
        ("oil_p_psi", "oil_pressure_min_psi", -1, "stop"),
        ("oil_p_psi", "oil_pressure_max_psi", 1, "look"),
        ("fp_psi", "fuel_pressure_min_psi", -1, "look"),
        ("fp_psi", "fuel_pressure_max_psi", 1, "look"),
    ],
)
def test_gauges_at_run_up_speed(column, limit, outward, verdict):
    figure, slack = A.limit(limit), SIGNALS[column.rsplit("_", 1)[0]].slack
    assert verdict_of("gauges", A, at_run_up(**{column: figure + outward * (slack - HAIR)})) == "within"
    assert verdict_of("gauges", A, at_run_up(**{column: figure + outward * (slack + HAIR)})) == verdict


ACT_F = A.limit("cht_act_f")


@pytest.mark.parametrize(
    ("end_f", "seconds", "said"),
    [(ACT_F - 14, 100.0, "look"), (ACT_F - 17, 100.0, "nothing"), (ACT_F - 14, 80.0, "nothing")],
)
def test_a_run_up_grows_hot(end_f, seconds, said):
    rising = np.linspace(end_f - 20, end_f, int(seconds * 4))
    assert verdict_of("run_up_heat", A, trace(seconds, rpm=BASE, cht1_f=rising, cht2_f=rising - 30)) == said


# ---- alternator, power, propeller, feathering, rotor -----------------------------------------------------------------


def switched_off(off_v: float, back_v: float) -> Trace:
    t = np.arange(0, 60, 0.25)
    off = (t >= 20) & (t < 26)
    volts = np.where(off, off_v, np.where(t < 20, 27.8, back_v))
    return trace(60.0, rpm=BASE, volts_v=volts, alternator=np.where(off, 0.0, 1.0))


CHARGES_V = A.limit("volts_charging_min_v")


@pytest.mark.parametrize(
    ("off_v", "back_v", "verdict"),
    [(25.0, CHARGES_V, "within"), (25.0, CHARGES_V - HAIR, "look"), (27.19, 27.8, "within"), (27.21, 27.8, "look")],
)
def test_alternator(off_v, back_v, verdict):
    assert verdict_of("alternator_check", A, switched_off(off_v, back_v)) == verdict


def full_throttle(rpm: float) -> Trace:
    t = np.arange(0, 60, 0.25)
    speed = np.where(t < 20, 1000.0, rpm)
    return trace(60.0, rpm=speed, throttle=np.where(t < 20, 0.1, 1.0), ias_kt=0.0)


STATIC_LEAST, STATIC_MOST = A.limit("static_min_rpm"), A.limit("static_max_rpm")


@pytest.mark.parametrize(
    ("rpm", "verdict"),
    [
        (STATIC_LEAST, "within"),
        (STATIC_LEAST - 1, "stop"),
        (STATIC_MOST + 14.9, "within"),
        (STATIC_MOST + 15.1, "look"),
    ],
)
def test_full_throttle(rpm, verdict):
    """Above its most by no more than a needle can tell, as live in the take-off and by the limit of RPM itself."""
    assert verdict_of("power_check", A, full_throttle(rpm)) == verdict


def governed(percent: float) -> Trace:
    t = np.arange(0, 60, 0.25)
    speed = np.where(t < 24, 85.0, percent)
    return trace(60.0, rpm_pct=speed, rotor_pct=speed, governor=np.where(t < 20, 0.0, 1.0))


@pytest.mark.parametrize(("off", "verdict"), [(2.9, "within"), (3.1, "look"), (-2.9, "within"), (-3.1, "look")])
def test_a_governor_brings_the_engine_to_its_speed(off, verdict):
    assert verdict_of("governor_check", E, governed(E.limit("rpm_pct_max_pct") + off)) == verdict


def chopped(parts_by: float, begun_pct: float = 102.0, closed_to: float = 0.0) -> Trace:
    t = np.arange(0, 60, 0.25)
    engine = np.where(t < 30, begun_pct, np.maximum(begun_pct - 25 * (t - 30), 60.0))
    rotor = np.where(t < 30, begun_pct, engine + parts_by)
    return trace(60.0, rpm_pct=engine, rotor_pct=rotor, throttle=np.where(t < 30, 0.7, closed_to), ias_kt=0.0)


@pytest.mark.parametrize(("parts_by", "verdict"), [(3.1, "within"), (2.9, "stop")])
def test_the_freewheel_lets_go(parts_by, verdict):
    assert verdict_of("freewheel_check", E, chopped(parts_by)) == verdict


def test_needles_that_stay_together_name_both_causes_where_no_throttle_is_known():
    """A magneto that is far too weak keeps them together as well: by RPM alone it is a stop, and not the freewheel's alone."""
    whole = chopped(0.4)
    alone = Trace(whole.time_s, {name: whole.columns[name] for name in ("rpm_pct", "rotor_pct")})
    (known,), (unknown,) = (judge(shown, E, ("freewheel_check",), tell_gaps=False) for shown in (whole, alone))
    assert known.verdict == unknown.verdict == "stop"
    assert "magneto" in unknown.because
    assert "magneto" not in known.because


@pytest.mark.parametrize(
    ("shown", "verdict"),
    [((), "unknown"), (("throttle",), "within"), (("map_inhg",), "within")],
)
def test_needles_that_part_prove_a_freewheel_only_where_it_was_the_throttle(shown, verdict):
    """An engine that quits on a dead magneto lets its rotor go as well: it is not passed for a chop."""
    whole = chopped(8.0)
    pressure = np.where(whole.time_s < 30, 18.0, 10.0)
    columns = {"map_inhg": pressure, **whole.columns}
    kept = {name: values for name, values in columns.items() if name in ("rpm_pct", "rotor_pct", *shown)}
    assert verdict_of("freewheel_check", E, Trace(whole.time_s, kept)) == verdict


@pytest.mark.parametrize(
    ("begun_pct", "closed_to", "found"), [(109.5, 0.14, True), (110.5, 0.14, False), (109.5, 0.16, False)]
)
def test_a_governor_that_winds_the_throttle_back_chops_nothing(begun_pct, closed_to, found):
    assert E.limit("rotor_max_pct") == 110
    assert (verdict_of("freewheel_check", E, chopped(0.4, begun_pct, closed_to)) == "stop") == found


def brought_back(seconds: float, lever_s: float | None = None) -> Trace:
    """The throttle taken back from 90 %, the needles together: so many seconds until RPM has slowed to 60 %, its drag by the square
    of its speed; the lever's own seconds where it is in the data."""
    t = np.arange(0, 60, 0.25)
    share = np.clip((t - 30) / seconds, 0, 1)
    speed = 1 / (1 / 90 + (1 / 60 - 1 / 90) * share)
    levers = {} if lever_s is None else {"throttle": 0.3 - 0.3 * np.clip((t - 30) / lever_s, 0, 1)}
    return trace(60.0, rpm_pct=speed, rotor_pct=speed + 0.2, ias_kt=0.0, **levers)


# by 0.13 and 0.12 a second of the inverse of 100 %; four fifths to a third of the lever's way in 1.5 and 2 s
@pytest.mark.parametrize(
    ("seconds", "lever_s", "verdicts"),
    [
        (4.3, None, ["stop"]),
        (4.6, None, []),
        (4.3, 9.0, ["stop"]),
        (6.0, 9.0, []),
        (6.0, 3.2, ["stop"]),
        (6.0, 4.4, []),
    ],
)
def test_needles_that_stay_together_over_a_throttle_brought_back_slowly_are_no_stop(seconds, lever_s, verdicts):
    """A light rotor left alone slows by a tenth of its speed in a second: as fast as the engine then, with nothing wrong."""
    assert [
        f.verdict for f in judge(brought_back(seconds, lever_s), E, ("freewheel_check",), tell_gaps=False)
    ] == verdicts


OF_A_RUN_UP = {"unexplained_drop", "mag_check", "carb_heat_check"}


@pytest.mark.parametrize(("from_pct", "to_pct"), [(80.0, 65.0), (100.0, 75.0)])
def test_a_chop_whose_needles_stay_together_is_no_drop_beside_it(from_pct, to_pct):
    """By RPM alone, and opened again after some seconds: the STOP is all that is told of it."""
    t = np.arange(0, 90, 0.25)
    engine = np.interp(t, [0, 40, 42, 45, 47, 90], [from_pct, from_pct, to_pct, to_pct, from_pct, from_pct])
    shown = trace(90.0, rpm_pct=engine, rotor_pct=engine + 0.4)
    told = {finding.kind: finding.verdict for finding in judge(shown, E, tell_gaps=False)}
    assert told.pop("freewheel_check") == "stop"
    assert not told.keys() & OF_A_RUN_UP


def engaged(turns_after_s: float) -> Trace:
    t = np.arange(0, 200, 0.25)
    return trace(
        200.0, rpm_pct=60.0, clutch=np.where(t < 20, 0.0, 1.0), rotor_pct=np.where(t < 20 + turns_after_s, 0.0, 20.0)
    )


@pytest.mark.parametrize(("late", "verdict"), [(-0.25, "within"), (0.5, "stop")])
def test_the_rotor_turns_after_the_clutch(late, verdict):
    assert verdict_of("clutch", E, engaged(E.limit("clutch_s") + late)) == verdict


# ---- exceedance ------------------------------------------------------------------------------------------------------


def exceeded(column: str, figure: float, seconds: float, profile: Profile = A, **more) -> str:
    t = np.arange(0, 300, 0.25)
    usual = {"rpm": 2400.0, "oil_p_psi": 60.0, "oil_t_f": 180.0, "cht1_f": 350.0, **more}
    row = SIGNALS["rpm" if column == "rpm" else column.rsplit("_", 1)[0].rstrip("0123456789")]
    usual[column] = np.where((t >= 200) & (t < 200 + seconds), figure, usual.get(column, figure))
    assert row.column or row.is_per_cylinder
    return verdict_of("exceedance", profile, trace(300.0, **usual))


@pytest.mark.parametrize(
    ("column", "limit", "outward", "verdict"),
    [
        ("rpm", "rpm_max", 1, "stop"),
        ("oil_p_psi", "oil_pressure_min_psi", -1, "stop"),
        ("oil_p_psi", "oil_pressure_max_psi", 1, "look"),
        ("oil_t_f", "oil_t_max_f", 1, "stop"),
        ("cht1_f", "cht_max_f", 1, "stop"),
    ],
)
def test_a_limit_is_exceeded_by_more_than_a_needle_shows_and_for_three_seconds(column, limit, outward, verdict):
    name = "rpm" if column == "rpm" else column.rsplit("_", 1)[0].rstrip("0123456789")
    figure, slack = A.limit(limit), SIGNALS[name].slack
    assert exceeded(column, figure + outward * (slack - HAIR), 20.0) == "nothing"
    assert exceeded(column, figure + outward * (slack + HAIR), 20.0) == verdict
    assert exceeded(column, figure + outward * (slack + HAIR), 2.5) == "nothing"
    assert exceeded(column, figure + outward * (slack + HAIR), 3.75) == verdict


# ---- gates, take-off, killer items -----------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("profile", "gate", "column", "limit", "outward"),
    [
        (A, "taxi", "oil_t_f", "oil_t_taxi_min_f", -1),
        (A, "runup", "oil_t_f", "oil_t_runup_min_f", -1),
        (PROFILES["g-vee"], "take_off", "coolant_t_f", "coolant_t_take_off_max_f", 1),
        (PROFILES["g-vee"], "runup", "coolant_t_f", "coolant_t_runup_min_f", -1),
    ],
)
def test_a_gate_opens_at_its_figure(profile, gate, column, limit, outward):
    figure = profile.limit(limit)
    for value, state in ((figure, "met"), (figure + outward * HAIR, "cold" if outward < 0 else "hot")):
        rows = {row.signal: row.state for row in gate_rows(profile, gate, {column: value})}
        assert rows[column] == state


def rolling(**changed) -> str | None:
    usual = {"rpm": 2300.0, "map_inhg": 27.9, "oil_p_psi": 60.0, "oil_t_f": 160.0}
    flown = trace(20.0, throttle=1.0, ias_kt=20.0, palt_ft=0.0, oat_f=59.0, **{**usual, **changed})
    state = fold(A, events(("phase_entered", {"phase": "take_off_climb"}), ("engine_fired", {"limit_s": 30.0})))
    now = needles(19.75, **{name: float(values[-1]) for name, values in flown.columns.items()})
    return take_off_watch(A, state, flown, now).stop


@pytest.mark.parametrize(
    ("name", "limit", "inside", "outside"),
    [
        ("rpm", "static_min_rpm", 0.0, -1.0),
        ("rpm", "static_max_rpm", 14.9, 15.1),
        ("oil_p_psi", "oil_pressure_min_psi", -1.4, -1.6),
        ("oil_t_f", "oil_t_max_f", 0.9, 1.1),
        ("oil_t_f", "oil_t_take_off_min_f", -0.9, -1.1),
    ],
)
def test_a_take_off_is_stopped_outside_its_band(name, limit, inside, outside):
    figure = A.limit(limit)
    assert rolling(**{name: figure + inside}) is None
    assert rolling(**{name: figure + outside}).startswith("Stop:")


@pytest.mark.parametrize(("apart", "stops"), [(1.5, False), (1.81, True)])
def test_two_engines_apart_by_more_than_a_needle_shows_stop_the_take_off(apart, stops):
    flown = trace(20.0, throttle=1.0, ias_kt=20.0, palt_ft=600.0, oat_f=59.0, rpm=2690.0, e2_rpm=2690.0)
    readings = {
        "rpm": 2690.0,
        "e2_rpm": 2690.0,
        "map_inhg": 32.1,
        "e2_map_inhg": 32.1 - apart,
        "palt_ft": 600.0,
        "oat_f": 59.0,
    }
    state = fold(TURBO, events(("phase_entered", {"phase": "take_off"}), ("engine_fired", {"limit_s": 30.0})))
    said = take_off_watch(TURBO, state, flown, needles(19.75, **readings)).stop
    assert ("apart" in (said or "")) == stops


def due(*rows, now_s: float, phase: str = "before_take_off") -> list[str]:
    state = fold(A, events(*rows))
    return [item.id for item, _ in killers_due(A, A.phase(phase), state.progress, state.known, now_s)]


def test_killer_items_are_due_after_the_profiles_delay_and_never_while_paused():
    done, delay_s = ("item_done", {"item": "fuel_on"}, 10), A.killer_delay_s
    assert due(done, now_s=10 + delay_s) == []
    assert due(done, now_s=10 + delay_s + 1) == ["fuel_on"]
    assert due(done, now_s=10 + delay_s + 1, phase="run_up") == [], "not interrupted, and not yet before take-off"
    paused = [done, ("interrupted", {}, 20)]
    assert due(*paused, now_s=10 + delay_s + 1, phase="run_up") == [], "nothing is asked of a pilot who is away"
    assert due(*paused, ("resumed", {}, 700), now_s=10 + delay_s + 100, phase="run_up") == ["fuel_on"]


# ---- half checks, undo, lean direction -------------------------------------------------------------------------------


def one_side_checked(left_alone_s: float) -> list[str]:
    from jemmon.core.judgement.judge import evidence_of
    from jemmon.core.live.checks import follow_checks

    t = np.arange(0, 80 + left_alone_s, 0.25)
    away = (t >= 60) & (t < 68)
    flown = trace(80 + left_alone_s, rpm=np.where(away, BASE - MIDDLE, BASE))
    flown.columns["mag"] = np.where(away, "L", "BOTH").astype(object)
    made = follow_checks("f", A, fold(A, []), evidence_of(flown, A, {}))
    return [e.body["verdict"] for e in made if e.body["kind"] == "mag_check"]


def test_a_half_check_is_told_when_the_engine_was_left_alone_for_a_minute():
    assert one_side_checked(45.0) == []
    assert one_side_checked(65.0) == ["incomplete"]


def test_an_undo_takes_back_what_a_pilot_said_and_no_finding():
    finding = judge_magnetos(A, [side("left", MOST + 40), side("right", MIDDLE, start_s=10.0)]).to_json()
    state = fold(A, events(("finding", finding), ("undo", {"event": "e1"})))
    assert len(state.findings) == 1, "what was measured stays measured"
    kept = fold(A, events(("phase_entered", {"phase": "run_up"}), ("finding", finding), ("undo", {"event": "e1"})))
    assert kept.phase == A.phases[0].id
    assert len(kept.findings) == 1


def leaned_to(target: str, end_gph: float, rests_s: float = 0.0, end_rpm: float = 2300.0) -> LeanWorking:
    """A pull through two peaks (11 and 10.4 gal/h), which rests lean for so long, and ends at a fuel flow."""
    from jemmon.core.judgement.judge import evidence_of

    until = 120.0 + rests_s
    t = np.arange(0, until, 0.25)
    path = np.interp(
        t, [0, 10, 80, until - 40, until - 20, until], [14.0, 14.0, 9.6, 9.6 if rests_s else end_gph, end_gph, end_gph]
    )
    egts = {
        f"egt{k}_f": 1450 - 900 * np.abs(path / peak - 1) for k, peak in ((1, 11.0), (2, 10.4), (3, 10.8), (4, 10.6))
    }
    rpm = np.where(t > until - 40, end_rpm, 2300.0)
    flown = trace(until, rpm=rpm, map_inhg=21.0, ff_gph=path, palt_ft=6000.0, oat_f=37.0, ias_kt=140.0, **egts)
    state = fold(
        B,
        events(
            ("phase_entered", {"phase": "cruise"}),
            ("engine_fired", {"limit_s": 30.0}),
            ("lean_target", {"target": target}),
        ),
    )
    return lean_working(evidence_of(flown, B, {})[1], state)


@pytest.mark.parametrize(
    ("target", "end_gph", "say"),
    [
        ("lean_30", 10.33, "Leaner"),
        ("lean_30", 9.6, "Richer"),
        ("rich_100", 11.2, "Richer"),
        ("rich_100", 12.9, "Leaner"),
        ("rich_50", 11.2, "Richer"),
        ("rich_50", 12.4, "Leaner"),
    ],
)
def test_which_way_a_lean_target_asks(target, end_gph, say):
    assert leaned_to(target, end_gph).say == say


@pytest.mark.parametrize(
    ("end_gph", "end_rpm", "say"),
    [(11.2, 2300.0, "Richer"), (11.77, 2300.0, "At the target"), (12.8, 2300.0, "Leaner"), (11.77, 2050.0, "Richer")],
)
def test_a_slow_hand_is_told_the_way_after_the_leaning_ended(end_gph, end_rpm, say):
    """Nine minutes after the pull began: from the fuel flow of now, unless the power is another."""
    said = leaned_to("rich_50", end_gph, rests_s=460.0, end_rpm=end_rpm)
    assert said.say == say


typed = partial(fold, A)


@pytest.mark.parametrize(("ran_rpm", "verdict"), [(100.0, "look"), (99.0, "stop")])
def test_a_typed_idle_that_stands_still_is_a_stop(ran_rpm, verdict):
    state = typed(events(("typed_reading", {"check": "idle_check", "idle_rpm": ran_rpm})))
    assert state.latest_finding("idle_check")["verdict"] == verdict


@pytest.mark.parametrize(("twin_apart", "far"), [(60.0, False), (61.0, True)])
def test_two_engines_idle_apart(twin_apart, far):
    from jemmon.core.screen.cards import summarise

    low = D.limit("idle_min_rpm") + 5
    rows = [
        ("typed_reading", {"check": "idle_check", "engine": n, "idle_rpm": low + (n - 1) * twin_apart}) for n in (1, 2)
    ]
    card = summarise(D, fold(D, events(("phase_entered", {"phase": "run_up"}), *rows)))
    assert [row.far for row in card.twin if row.title == "Idle"] == [far]
