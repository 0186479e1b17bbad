"""Random whole run-ups on six kinds of aircraft, with one fault or none, traps and missing channels, and how they are judged.

What is expected comes from the true engine alone: its settled figures against the type's limits, with a margin that no
needle can tell from the limit. A fault that leaves every true figure inside the limits asks for no verdict.
"""

import copy
import functools
from collections import Counter
from dataclasses import dataclass, field

import numpy as np

from jemmon.core.aircraft import Profile
from jemmon.core.bench import Bench, Sensors
from jemmon.core.bench.bench import SensorTable
from jemmon.core.bench.deposits import missed_share
from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from jemmon.library.shipped import shipped_profiles

KINDS = ("a-trainer", "b-tourer", "d-twin", "e-rotor", "f-radial", "h-geared")
NOISE = {"rpm": 4.0, "rpm_pct": 0.15, "egt": 3.0, "ff_gph": 0.06, "map_inhg": 0.05, "volts_v": 0.03, "oil_p_psi": 0.4}
GUST_RPM, GUST_S = 2.0, 2.0
MARGIN_RPM = 9.0
_GOVERNED = ("b-tourer", "d-twin", "f-radial")
_FAULTS = {
    "a-trainer": ("plug", "fouled", "late", "ground", "dead", "door", "ice", "suction", "alternator", "idle_stop"),
    "b-tourer": ("plug", "fouled", "late", "ground", "dead", "governor", "stuck", "suction", "alternator", "idle_stop"),
    "d-twin": ("plug", "fouled", "late", "ground", "dead", "door", "ice", "governor", "stuck", "feather", "alternator"),
    "e-rotor": ("plug", "fouled", "late", "ground", "dead", "door", "ice", "alternator", "freewheel"),
    "f-radial": ("plug", "fouled", "late", "ground", "dead", "governor", "stuck", "feather", "suction", "idle_stop"),
    "h-geared": ("plug", "late", "ground", "dead", "alternator", "idle_stop"),
}


@dataclass
class Truth:
    """What was done and what the true engine did: settled drops by side, the verdict that is due by kind of finding."""

    drops: dict[str, float] = field(default_factory=dict)
    spans: dict[str, tuple[float, float]] = field(default_factory=dict)
    done: Counter = field(default_factory=Counter)
    due: dict[str, str] = field(default_factory=dict)  # kind -> why its verdict must not be `within`
    doubtful: set[str] = field(default_factory=set)  # kinds too near to a limit for either verdict to be wrong
    plug: str | None = None
    dwell_s: float = 0.0
    quits: bool = False
    is_hot: bool = False  # a head, the oil or the coolant is truly near what it may have: to say so is right


@dataclass
class RunUp:
    kind: str
    profile: Profile
    trace: Trace
    truth: Truth
    rate_hz: float
    levers: bool
    fault: str | None
    has: dict[str, bool]


_OF_HEAT = ("run_up_heat", "exceedance")


@functools.cache
def run_up_throttle(kind: str, rpm: float) -> float:
    """Return the throttle at which a healthy warm engine turns at this speed."""
    profile = shipped_profiles()[kind]
    low, high = 0.02, 0.9
    for _ in range(9):
        middle = (low + high) / 2
        bench = _warm_bench(profile, middle)
        bench.advance(60)
        low, high = (middle, high) if _rpm(bench) < rpm else (low, middle)
    return (low + high) / 2


def _warm_bench(profile: Profile, throttle: float, **overrides: float) -> Bench:
    assert profile.bench is not None
    bench = Bench(profile.bench, **overrides)
    bench.make_running(0.6 * profile.limit("runup_rpm"))
    for name in bench.lever_names:
        if name.endswith("throttle"):
            bench.set_lever(name, throttle)
    for name in ("clutch", "alternator"):
        if name in bench.lever_names:
            bench.set_lever(name, True)
    return bench


def _rpm(bench: Bench) -> float:
    return float(bench.state["speed_rad_s"][0] * 60 / 2 / np.pi)


class _Hand:
    """The pilot's hand on one bench, and the instruments beside it."""

    def __init__(self, kind: str, seed: int):
        self.rng = np.random.default_rng(seed)
        self.kind, self.profile = kind, shipped_profiles()[kind]
        rng = self.rng
        self.rate_hz = float(rng.choice([1.0, 2.0, 4.0, 10.0]))
        self.has = {"levers": rng.random() < 0.5, "egt": rng.random() < 0.7, "map": rng.random() < 0.8}
        self.throttle = run_up_throttle(kind, self.profile.limit("runup_rpm") + rng.uniform(-30, 30))
        self.bench = _warm_bench(
            self.profile,
            self.throttle,
            one_plug_left_work=rng.uniform(0.905, 0.93),
            one_plug_right_work=rng.uniform(0.905, 0.93),
        )
        self.bench.set_air(oat_c=float(rng.uniform(-10, 30)), palt_ft=float(rng.uniform(0, 3000)))
        self.bench.advance(150 + rng.uniform(0, 1))
        self.sensors = Sensors(self.bench, [seed], SensorTable(noise=NOISE))
        self.now_s = self.next_s = self.gust_rpm = 0.0
        self.rows: list[np.ndarray] = []
        self.positions: list[dict] = []
        self.times: list[float] = []
        self.truth = Truth()
        self.creep = float(rng.normal(0, 4e-5))  # of throttle a second: a lever without friction
        columns = self.bench.channels
        self.speed_at = columns.index("rpm" if "rpm" in columns else "rpm_pct")

    def wait(self, seconds: float) -> None:
        """Run on, sampling, gusts on the propeller, the throttle creeping."""
        end_s = self.now_s + seconds
        while self.now_s < end_s - 1e-6:
            piece = min(0.1, end_s - self.now_s, max(self.next_s - self.now_s, 0.02))
            self.bench.advance(piece)
            self.now_s += piece
            keep = np.exp(-piece / GUST_S)
            self.gust_rpm = keep * self.gust_rpm + GUST_RPM * np.sqrt(1 - keep**2) * self.rng.standard_normal()
            if self.now_s >= self.next_s - 1e-6:
                self._sample()

    def _sample(self) -> None:
        row = self.sensors.read(1 / self.rate_hz)[0].copy()
        full = self.profile.engine.get("rpm_at_100_pct")
        row[self.speed_at] += self.gust_rpm if full is None else self.gust_rpm / full * 100
        self.rows.append(row)
        self.positions.append(self.bench.lever_positions())
        self.times.append(self.next_s)
        self.next_s += 1 / self.rate_hz
        if self.creep:
            self.throttle = float(np.clip(self.throttle + self.creep / self.rate_hz, 0.02, 0.95))
            if abs(self.bench.levers["throttle"][0] - self.throttle) < 0.02:
                self.bench.set_lever("throttle", self.throttle)

    def settled(self, seconds: float = 8.0) -> Bench:
        """Return a copy that ran on as its levers stand."""
        twin = copy.deepcopy(self.bench)
        twin.advance(seconds)
        return twin

    def settle(self) -> None:
        """Wait until the needle is back: a rotor takes its time."""
        self.wait(float(self.rng.uniform(9, 15) if self.kind == "e-rotor" else self.rng.uniform(4, 10)))

    def dwell(self) -> float:
        """How long this hand stays away."""
        return float(self.rng.uniform(2.5 if self.rate_hz > 1 else 3.2, 15.0))

    def set_one_side(self, side: str | None) -> None:
        """Go to one magneto or lane (L, R), or back to both."""
        if "mag" in self.bench.lever_names:
            self.bench.set_lever("mag", side or "BOTH")
        else:
            self.bench.set_lever("lane_a", side != "R")
            self.bench.set_lever("lane_b", side != "L")


def make_run_up(seed: int) -> RunUp:
    """Return one run-up of the corpus; its kind, channels, rate, fault and hand all come from the seed."""
    kind = KINDS[seed % len(KINDS)]
    hand = _Hand(kind, seed)
    rng, truth = hand.rng, hand.truth
    fault = str(rng.choice(_FAULTS[kind])) if rng.random() < 0.55 else None
    if fault:
        _set_fault(hand, fault, float(rng.uniform(0.55, 1.0)))
    hand.wait(float(rng.uniform(6, 14)))
    if kind in ("d-twin", "f-radial"):
        _feather(hand)
    if kind in _GOVERNED:
        _cycle(hand)
    steps = [_magnetos]
    if kind in ("a-trainer", "d-twin", "e-rotor"):
        steps.append(_heat)
    if rng.random() < 0.3 and any(
        hand.has.values()
    ):  # RPM alone does not tell heat from a magneto: heat comes last there
        steps.reverse()
    for step in steps:
        _trap(hand)
        step(hand)
    _alternator(hand)
    _gauges_due(hand)
    if kind == "e-rotor":
        _chop(hand)
    elif "idle_min_rpm" in hand.profile.limits:
        _idle(hand)
    hand.wait(8.0)
    return RunUp(kind, hand.profile, _trace(hand), truth, hand.rate_hz, hand.has["levers"], fault, hand.has)


def _set_fault(hand: _Hand, fault: str, size: float) -> None:
    rng, bench = hand.rng, hand.bench
    side = str(rng.choice(["left", "right"]))
    cylinder = int(rng.integers(1, bench.cylinders + 1))
    names = {
        "plug": f"dead_plug_{side}_{cylinder}",
        "fouled": f"fouled_plug_{side}_{cylinder}",
        "late": f"late_timing_{side}",
        "ground": f"open_ground_{side}",
        "dead": f"dead_magneto_{side}",
        "door": "stuck_carb_heat",
        "ice": "carburettor_ice",
        "governor": "slow_governor",
        "stuck": "stuck_governor",
        "feather": "slow_feather",
        "suction": "weak_suction",
        "alternator": "dead_alternator",
        "idle_stop": "low_idle_stop",
        "freewheel": "stuck_freewheel",
    }
    bench.set_fault(names[fault], size)
    if fault in ("plug", "fouled"):
        hand.truth.plug = f"{cylinder} {side}"
    if fault == "ice":
        bench.set_air(oat_c=6.0, dewpoint_c=4.0)
        bench.advance(5)


def _trap(hand: _Hand) -> None:
    """Sometimes a slip of the switch, a touched throttle, or a touched mixture."""
    rng = hand.rng
    if rng.random() < 0.25:
        hand.set_one_side(str(rng.choice(["L", "R"])))
        hand.wait(float(rng.uniform(0.4, 0.9)))
        hand.set_one_side(None)
        hand.settle()
    if rng.random() < 0.25:
        hand.throttle += float(rng.uniform(-0.008, 0.008))
        hand.bench.set_lever("throttle", hand.throttle, ramp_s=0.5)
        hand.settle()


def _magnetos(hand: _Hand) -> None:
    truth, profile = hand.truth, hand.profile
    truth.dwell_s = 99.0
    quits = False
    for side in hand.rng.permutation(["L", "R"]):
        name = {"L": "left", "R": "right"}[str(side)]
        base = _rpm(hand.settled())
        start_s, dwell_s = hand.now_s, hand.dwell()
        truth.dwell_s = min(truth.dwell_s, dwell_s)
        hand.set_one_side(str(side))
        away = hand.settled()
        if hand.kind == "e-rotor":  # a rotor slows on and on: its book asks for the fall within two seconds
            truth.drops[name] = _rpm(hand.bench) - _rpm(hand.settled(2.0))
        else:
            truth.drops[name] = base - _rpm(away)
        quits |= _rpm(away) < 0.4 * base
        hand.wait(2.5 if quits else dwell_s)
        truth.spans[name] = (start_s, hand.now_s)
        hand.set_one_side(None)
        if _rpm(hand.bench) < 0.5 * base:
            quits = True
            hand.bench.set_lever("starter", True) if "starter" in hand.bench.lever_names else None
            break
        hand.settle()
    if quits:
        truth.quits = True
        if hand.has["levers"]:
            truth.due["mag_check"] = "quits"
        else:
            truth.doubtful.add("mag_check")
        return
    truth.done["mag_check"] += 1
    if not hand.has["levers"] and min(truth.drops.values()) < 20:
        truth.doubtful.add("mag_check")  # a side without a fall shows in no needle: one side alone is seen, or none
        return
    if not hand.has["levers"] and max(truth.drops.values()) > 450:
        truth.doubtful.add("mag_check")
        truth.quits = True  # it all but does: from the needles alone nothing else of this run-up is asked for
        return
    _drops_due(truth, profile, hand)


def _drops_due(truth: Truth, profile: Profile, hand: _Hand) -> None:
    most, least = profile.limit("mag_drop_max_rpm"), profile.limit("mag_drop_min_rpm")
    apart = abs(truth.drops["left"] - truth.drops["right"])
    beyond = [max(d - most, least - d) for d in truth.drops.values()]
    beyond.append(apart - profile.limit("mag_difference_max_rpm"))
    if max(beyond) > MARGIN_RPM:
        truth.due["mag_check"] = "beyond its limits"
    elif truth.plug and _fouled_away(hand, truth.plug):
        truth.plug = None
        truth.doubtful.add("mag_check")
    elif truth.plug and hand.has["egt"] and "egt1_f" in hand.bench.channels:
        truth.due["mag_check"] = "a plug"
    elif max(beyond) > -10.0 or truth.plug:
        truth.doubtful.add("mag_check")


def _fouled_away(hand: _Hand, plug: str) -> bool:
    """Say whether a fouled plug has burnt off by now, at run-up power."""
    cylinder, side = plug.split()
    fouled = float(hand.bench.state[f"fouled_{side}"][0][int(cylinder) - 1])
    dead = float(hand.bench.faults[f"dead_plug_{side}"][0][int(cylinder) - 1])
    return max(missed_share(fouled), dead) < 0.5


def _heat(hand: _Hand) -> None:
    profile, truth = hand.profile, hand.truth
    ice = float(hand.bench.state["ice"][0])
    base = _rpm(hand.settled())
    hand.bench.set_lever("carb_heat", 1.0, ramp_s=0.4)
    drop = base - _rpm(hand.settled(16.0 if hand.kind == "e-rotor" else 6.0))
    start_s = hand.now_s
    hand.wait(max(hand.dwell(), 14.0 if ice > 0.02 else 5.0, 14.0 if hand.kind == "e-rotor" else 0.0))
    truth.spans["heat"] = (start_s, hand.now_s)
    hand.bench.set_lever("carb_heat", 0.0, ramp_s=0.4)
    hand.settle()
    truth.done["carb_heat_check"] += 1
    least, most = profile.limit("carb_heat_drop_min_rpm"), profile.limit("carb_heat_drop_max_rpm")
    if ice > 0.02:
        gain = _rpm(hand.settled(6.0)) - base
        if gain > profile.limit("carb_heat_ice_gain_rpm") + MARGIN_RPM:
            truth.due["carb_heat_check"] = "ice"
        else:
            truth.doubtful.add("carb_heat_check")
        return
    truth.drops["heat"] = drop
    if max(least - drop, drop - most) > MARGIN_RPM:
        truth.due["carb_heat_check"] = "beyond its limits"
    elif max(least - drop, drop - most) > -10.0:
        truth.doubtful.add("carb_heat_check")
    if drop < 32.0 and not hand.has["levers"]:  # hardly a fall, and no lever: nothing says that it was tried
        truth.doubtful.add("carb_heat_check")
        truth.due.pop("carb_heat_check", None)
        truth.done.pop("carb_heat_check")


def _cycle(hand: _Hand) -> None:
    bench, truth = hand.bench, hand.truth
    governor, stuck = float(bench.faults["slow_governor"][0]), float(bench.faults["stuck_governor"][0])
    for _ in range(int(hand.rng.integers(1, 4))):
        bench.set_lever("prop", 0.0 if hand.kind == "b-tourer" else 0.15, ramp_s=0.6)
        hand.wait(float(hand.rng.uniform(4.2, 6.0)))
        bench.set_lever("prop", 1.0, ramp_s=0.6)
        hand.wait(float(hand.rng.uniform(7.0, 9.0)))
        truth.done["cycles"] += 1
    seen = hand.has["levers"] or (hand.has["map"] and not governor and not stuck)
    if seen:
        truth.done["prop_cycle"] += 1
    else:
        truth.doubtful.add("prop_cycle")
    if governor or stuck:
        truth.doubtful.add("mag_check")  # the pitch may not be back: what a magneto shows is hidden or shifted
        if seen:
            truth.due["prop_cycle"] = "the pitch moves slowly or not at all"
        bench.faults["slow_governor"], bench.faults["stuck_governor"] = 0.0, 0.0
        hand.wait(6.0)


def _feather(hand: _Hand) -> None:
    bench, truth = hand.bench, hand.truth
    low = run_up_throttle(hand.kind, hand.profile.limit("feather_check_rpm"))
    creep, hand.creep = hand.creep, 0.0
    bench.set_lever("throttle", low, ramp_s=2.0)
    hand.wait(10.0)
    bench.set_lever("prop", 0.0, ramp_s=0.3)
    hand.wait(2.0)
    bench.set_lever("prop", 1.0, ramp_s=0.3)
    hand.wait(9.0)
    if hand.has["levers"] or hand.has["map"]:
        truth.done["feather_check"] += 1
        if bench.faults["slow_feather"][0] > 0:
            if hand.has["levers"]:
                truth.due["feather_check"] = "slow"
            else:
                truth.doubtful.add("feather_check")
                truth.done.pop("feather_check")
    else:
        truth.doubtful |= {
            "idle_check",
            "feather_check",
            "carb_heat_check",
        }  # RPM alone does not tell a feathering from a closed throttle
    bench.set_lever("throttle", hand.throttle, ramp_s=2.0)
    hand.wait(12.0)
    hand.creep = creep


def _alternator(hand: _Hand) -> None:
    bench, truth = hand.bench, hand.truth
    if "alternator" not in bench.lever_names or len(bench.state) > 1 or hand.kind == "h-geared":
        return
    volts = hand.bench.channels.index("volts_v")
    before = float(hand.settled(1.0).true_readings()[0][volts])
    bench.set_lever("alternator", False)
    off = float(hand.settled(1.0).true_readings()[0][volts])
    hand.wait(float(hand.rng.uniform(2.5, 5)))
    bench.set_lever("alternator", True)
    hand.wait(float(hand.rng.uniform(6, 8)))
    charging = hand.profile.limit("volts_charging_min_v")
    if before > charging + 0.2 and before - off > 1.0:
        truth.done["alternator_check"] += 1
    elif hand.has["levers"] and (before < charging - 0.15 or before - off < 0.45):
        truth.due["alternator_check"] = "it gives too little"
    else:
        truth.doubtful.add("alternator_check")


def _gauges_due(hand: _Hand) -> None:
    bench, truth, limits = hand.bench, hand.truth, hand.profile.limits
    if truth.quits:
        return
    true = dict(zip(bench.channels, bench.true_readings()[0], strict=True))
    for column, least in (("suction_inhg", "suction_min_inhg"), ("volts_v", "volts_charging_min_v")):
        if column not in true or least not in limits or (column == "suction_inhg" and true[column] <= 0):
            continue
        gap = limits[least].value - true[column]
        if gap > 0.25:
            truth.due["gauges"] = f"{column} below its range"
        elif gap > -0.15:
            truth.doubtful.add("gauges")
    act = "cht_act_f" if "cht_act_f" in limits else "cht_max_f"
    for column, most, near in (
        ("cht", act, 20.0),
        ("oil_t_f", "oil_t_max_f", 25.0),
        ("coolant_t_f", "coolant_t_max_f", 25.0),
    ):
        figures = [value for name, value in true.items() if name.startswith(column)]
        truth.is_hot |= most in limits and any(value > limits[most].value - near for value in figures)


def _idle(hand: _Hand) -> None:
    bench, truth, limits = hand.bench, hand.truth, hand.profile.limits
    hand.creep = 0.0
    before = hand.throttle
    for name in bench.lever_names:
        if name.endswith("throttle"):
            bench.set_lever(name, 0.0, ramp_s=1.5)
    hand.wait(float(hand.rng.uniform(9, 13)))
    idle = _rpm(hand.settled(4.0))
    bench.set_lever("throttle", 0.6 * before, ramp_s=1.0)
    hand.wait(5.0)
    beyond = max(limits["idle_min_rpm"].value - idle, idle - limits["idle_max_rpm"].value)
    truth.done["idle_check"] += 1
    if beyond > MARGIN_RPM or idle < 300:
        truth.due["idle_check"] = "beyond its limits"
    elif beyond > -10:
        truth.doubtful.add("idle_check")


def _chop(hand: _Hand) -> None:
    hand.creep = 0.0
    hand.bench.set_lever("throttle", 0.0, ramp_s=0.4)
    hand.wait(4.0)
    hand.bench.set_lever("throttle", hand.throttle, ramp_s=1.5)
    hand.wait(8.0)
    hand.truth.done["freewheel_check"] += 1
    if hand.bench.faults["stuck_freewheel"][0] >= 0.5:
        hand.truth.due["freewheel_check"] = "it does not let go"


def _trace(hand: _Hand) -> Trace:
    columns = dict(zip(hand.bench.channels, np.array(hand.rows).T, strict=True))
    columns = {name: values for name, values in columns.items() if not name.startswith("e2_")}
    if not hand.has["egt"]:
        columns = {name: values for name, values in columns.items() if not name.startswith("egt")}
    if not hand.has["map"]:
        columns.pop("map_inhg", None)
    if hand.has["levers"]:
        for name in hand.positions[0]:
            if not name.startswith("e2_"):
                values = [row[name] for row in hand.positions]
                columns[name] = np.array(values, dtype=object if name == "mag" else float)
    return Trace(np.array(hand.times), columns)


@dataclass
class Score:
    """Counts over the corpus; `notes` keeps what went wrong, for the one who looks."""

    run_ups: int = 0
    done: int = 0
    found: int = 0
    false: int = 0
    errors_rpm: list[tuple[bool, float]] = field(default_factory=list)  # (easy, error)
    covered: list[bool] = field(default_factory=list)
    due: int = 0
    told: int = 0
    healthy: int = 0
    wrongly_told: int = 0
    plugs: int = 0
    plugs_named: int = 0
    notes: list[str] = field(default_factory=list)

    def within(self, easy: bool, rpm: float) -> float:
        """Return the share of drops that are off by at most so many RPM."""
        errors = [abs(e) for is_easy, e in self.errors_rpm if is_easy == easy]
        return float(np.mean(np.array(errors) <= rpm)) if errors else float("nan")


_COUNTED = (
    "mag_check",
    "carb_heat_check",
    "prop_cycle",
    "feather_check",
    "alternator_check",
    "idle_check",
    "freewheel_check",
)


def score_whole_run_ups(seeds: range) -> Score:
    """Judge the corpus and compare with its truth."""
    score = Score()
    for seed in seeds:
        compare(make_run_up(seed), seed, score)
    return score


def sum_of(scores: list[Score]) -> Score:
    """Return several scores as one."""
    total = Score()
    for score in scores:
        for name in total.__dataclass_fields__:
            setattr(total, name, getattr(total, name) + getattr(score, name))
    return total


def compare(run_up: RunUp, seed: int, score: Score) -> None:
    """Judge one run-up and add to the score."""
    findings = [f.to_json() for f in judge(run_up.trace, run_up.profile)]
    truth, score.run_ups = run_up.truth, score.run_ups + 1
    kinds = Counter(f["kind"] for f in findings)
    told = {f["kind"] for f in findings if f["verdict"] in ("look", "stop")}
    unknown = {f["kind"] for f in findings if f["verdict"] in ("unknown", "incomplete")}

    def note(text: str) -> None:
        score.notes.append(
            f"{seed} {run_up.kind} {run_up.rate_hz:g} Hz {run_up.fault or 'healthy'} {run_up.has}: {text}"
        )

    if not truth.quits:
        for kind in _COUNTED:
            if kind in truth.done:
                score.done += 1
                score.found += kinds[kind] > 0
                if not kinds[kind]:
                    note(f"missed {kind}")
            extra = kinds[kind] - (kind in truth.done)
            if extra > 0 and not (kind in truth.doubtful or kind in truth.due):
                score.false += extra
                note(f"false {kind}")
        _count_drops(run_up, findings, score, note)
    for kind, why in truth.due.items():
        if run_up.fault is None:
            continue
        score.due += 1
        as_told = kind in told or (kind in unknown and kind == "mag_check" and not run_up.has["egt"])
        score.told += as_told
        if not as_told:
            note(f"not told {kind}: {why} {[(f['kind'], f['verdict']) for f in findings if f['kind'] == kind]}")
    if run_up.fault is None and not truth.doubtful and not truth.due:
        score.healthy += 1
        wrong = [
            f for f in findings if f["verdict"] in ("look", "stop") and not (truth.is_hot and f["kind"] in _OF_HEAT)
        ]
        score.wrongly_told += bool(wrong)
        for finding in wrong:
            note(f"wrongly {finding['kind']}: {finding['because']}")


def _count_drops(run_up: RunUp, findings: list[dict], score: Score, note) -> None:
    truth = run_up.truth
    mags = [f for f in findings if f["kind"] == "mag_check"]
    heats = [f for f in findings if f["kind"] == "carb_heat_check"]
    order = sorted((n for n in truth.drops if n != "heat"), key=lambda name: truth.spans[name][0])
    easy = run_up.rate_hz >= 2 and truth.dwell_s >= 3
    if mags and "mag_check" not in truth.doubtful:
        measured = mags[0]["measured"]
        for place, name in enumerate(order):
            key = name if f"drop_{name}_rpm" in measured else ("first", "second")[place]
            value, spread = measured.get(f"drop_{key}_rpm"), measured.get(f"drop_{key}_plus_minus_rpm")
            if value is not None and truth.drops[name] < 250 * run_up.profile.speed_scale:
                error = value - truth.drops[name]
                score.errors_rpm.append((easy, error))
                score.covered.append(abs(error) <= (spread or 0))
                if abs(error) > 12:
                    note(f"drop {name} off by {error:.0f}")
        if (
            truth.plug
            and run_up.has["egt"]
            and truth.due.get("mag_check")
            and run_up.profile.engine["cylinders"] in (4, 6)
        ):
            cylinder, side = truth.plug.split()
            named = [side] if f"drop_{side}_rpm" in measured else [("first", "second")[order.index(side)]]
            score.plugs += 1
            is_named = measured.get("suspect_plugs") == [f"{cylinder} {named[0]}"]
            score.plugs_named += is_named
            if not is_named:
                note(f"plug {truth.plug} named {measured.get('suspect_plugs')} {measured['egt_rise_f']}")
    if heats and "heat" in truth.drops and "carb_heat_check" not in truth.doubtful:
        score.errors_rpm.append((easy, heats[0]["measured"]["drop_rpm"] - truth.drops["heat"]))
