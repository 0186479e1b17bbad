"""Random leanings on six kinds of aircraft, and how near the fitted peaks lie.

The truth is the engine's own: the settled exhaust gas temperature of each cylinder against fuel flow, its heads held at what they
were in the middle of the pull. An engine that takes more fuel is asked for the same share of it: figures in gal/h are those of an
engine that burns up to 20 gal/h, and grow with the flow beyond.
"""

import copy
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.interpolate import CubicSpline

from jemmon.core.aircraft import Profile
from jemmon.core.bench import Bench, Sensors
from jemmon.core.bench.bench import SensorTable
from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace
from jemmon.library.shipped import shipped_profiles
from tests.corpora.whole_run_ups import NOISE

KINDS = ("a-trainer", "b-tourer", "d-twin", "g-vee", "h-geared", "i-turbo")
_THROTTLE = {"a-trainer": (0.5, 0.78), "b-tourer": (0.38, 0.6), "d-twin": (0.4, 0.65), "g-vee": (0.3, 0.5)}
_USUAL_FLOW_GPH = 20.0
_TURBULENCE_GPH, _TURBULENCE_S = 0.04, 3.0


@dataclass
class Leaning:
    """One leaning: what the instruments showed, and the truth by cylinder: peak [°F], fuel flow there [gal/h]; which side of
    peak the mixture ends on and how far [°F] from the cylinder that counts; whether the data are good; the brake power at the
    end, in percent of rated."""

    kind: str
    profile: Profile
    trace: Trace
    peaks: dict[int, tuple[float, float]]
    side: str
    offset_f: float
    final_gph: float
    easy: bool
    lag_s: float
    power_pct: float


def profile_of(kind: str) -> Profile:
    """Return the profile of a kind; the geared four, whose computer leans for it, gets a lever of its own."""
    shipped = shipped_profiles()
    if kind == "h-geared":
        geared = shipped[kind]
        section = {**geared.bench, "levers": [*geared.bench["levers"], "mixture"]}
        return replace(geared, bench=section)
    return shipped[kind]


def make_leaning(seed: int) -> Leaning:
    """Return one leaning of the corpus; everything about it comes from the seed."""
    rng = np.random.default_rng(seed)
    kind = KINDS[seed % len(KINDS)]
    profile = profile_of(kind)
    bench = _in_cruise(profile, kind, rng)
    rich = _first_to_last(bench)
    leanest = find_lever(bench, rich[1] * rng.uniform(0.9, 0.96))
    pull_s, rate_hz = float(rng.uniform(15, 120)), float(rng.choice([0.5, 1.0, 2.0, 4.0]))
    lag_s = float(rng.uniform(1, 6))
    sensors = Sensors(bench, [seed], SensorTable(noise=NOISE), egt_lag_s=np.array([lag_s]))
    hold_s = float(rng.choice([0.0, rng.uniform(3, 7), rng.uniform(8.5, 20)]))
    back = rng.random() < 0.7
    final = find_lever(bench, rich[0] * rng.uniform(1.03, 1.15) if back else rich[1] * rng.uniform(0.88, 0.95))
    recorder = _Recorder(bench, sensors, rate_hz, rng)
    recorder.wait(10.0)
    stepwise = rng.random() < 0.4
    pieces = int(rng.integers(6, 14)) if stepwise else 1
    start = float(bench.levers["mixture"][0])
    recorder.keep_at_gph = (rich[0] + rich[1]) / 2
    for piece in range(1, pieces + 1):
        target = start + (leanest - start) * piece / pieces
        bench.set_lever("mixture", target, ramp_s=1.5 if stepwise else pull_s)
        recorder.wait(pull_s / pieces)
    recorder.wait(hold_s)
    enriched_s = float(rng.uniform(8, 20)) if back or rng.random() < 0.5 else 0.0
    if enriched_s:
        bench.set_lever("mixture", final, ramp_s=float(rng.uniform(3, 10)))
        recorder.wait(enriched_s + 10)
    return _told(kind, profile, bench, recorder, hold_s, enriched_s > 0, pull_s * rate_hz, lag_s, rng)


def _told(kind, profile, bench, recorder, hold_s, enriched, samples, lag_s, rng) -> Leaning:
    flows, egts = sweep(recorder.kept or bench)
    peaks = {k + 1: _peak_of(flows, egts[:, k]) for k in range(egts.shape[1])}
    bench.advance(20.0)
    settled = bench.true_readings()[0]
    end = settled[bench.channels.index("ff_gph")]
    columns = {n: v for n, v in recorder.columns().items() if not n.startswith("e2_")}
    if rng.random() < 0.25 and len(peaks) > 2:  # a probe is missing: what it would show counts for nothing
        gone = int(rng.integers(1, len(peaks) + 1))
        columns.pop(f"egt{gone}_f")
        peaks.pop(gone)
    first, last = max(p[1] for p in peaks.values()), min(p[1] for p in peaks.values())
    side = "rich" if end > first else "lean" if end < last else "between"
    counts = max(peaks, key=lambda c: peaks[c][1]) if side == "rich" else min(peaks, key=lambda c: peaks[c][1])
    below = peaks[counts][0] - settled[_egt_columns(bench)[counts - 1]]
    easy = (hold_s >= 8 or enriched) and samples >= 30
    power = float(bench.state["brake_w"][0]) / 745.7 / float(profile.engine["rated_power_hp"]) * 100
    trace = Trace(np.array(recorder.times), columns)
    return Leaning(kind, profile, trace, peaks, side, below, float(end), easy, lag_s, power)


class _Recorder:
    """Samples the instruments, with turbulence on the fuel flow."""

    def __init__(self, bench: Bench, sensors: Sensors, rate_hz: float, rng: np.random.Generator):
        self.bench, self.sensors, self.step_s, self.rng = bench, sensors, 1 / rate_hz, rng
        self.times: list[float] = []
        self.rows: list[np.ndarray] = []
        self.now_s = self.turbulence_gph = 0.0
        self.flow_at = bench.channels.index("ff_gph")
        self.keep_at_gph, self.kept = 0.0, None  # the engine as it was in the middle of the pull

    def wait(self, seconds: float) -> None:
        for _ in range(round(seconds / self.step_s)):
            for _ in range(max(round(self.step_s / 0.25), 1)):
                self.bench.advance(self.step_s / max(round(self.step_s / 0.25), 1))
            self.now_s += self.step_s
            keep = float(np.exp(-self.step_s / _TURBULENCE_S))
            shock = self.rng.standard_normal() * np.sqrt(1 - keep**2)
            self.turbulence_gph = keep * self.turbulence_gph + _TURBULENCE_GPH * shock
            row = self.sensors.read(self.step_s)[0].copy()
            row[self.flow_at] += self.turbulence_gph
            self.rows.append(row)
            if self.kept is None and self.bench.true_readings()[0][self.flow_at] < self.keep_at_gph:
                self.kept = copy.deepcopy(self.bench)
            self.times.append(self.now_s)

    def columns(self) -> dict[str, np.ndarray]:
        return dict(zip(self.bench.channels, np.array(self.rows).T, strict=True))


def _in_cruise(profile: Profile, kind: str, rng: np.random.Generator) -> Bench:
    assert profile.bench is not None
    cylinders = int(profile.engine["cylinders"])
    spread = [float(v) for v in rng.uniform(-0.035, 0.035, cylinders)]
    bench = Bench(profile.bench, mixture_spread=spread)
    height_ft = rng.uniform(2_000, 9_000)
    bench.set_air(palt_ft=height_ft, oat_c=15 - 0.002 * height_ft + rng.uniform(-12, 12), ias_kt=rng.uniform(90, 140))
    bench.make_running(0.85 * float(profile.engine["rated_rpm"]))
    low, high = _THROTTLE.get(kind, (0.4, 0.62))
    throttle, propeller = float(rng.uniform(low, high)), float(rng.uniform(0.45, 0.85))
    for name in bench.lever_names:
        if name.endswith("throttle"):
            bench.set_lever(name, throttle)
        elif name.endswith("prop"):
            bench.set_lever(name, propeller)
        elif name.endswith("mixture"):
            bench.set_lever(name, 1.0)
    bench.advance(300)
    return bench


def _egt_columns(bench: Bench) -> list[int]:
    return [bench.channels.index(f"egt{k + 1}_f") for k in range(bench.cylinders)]


def sweep(bench: Bench) -> tuple[np.ndarray, np.ndarray]:
    """Return (fuel flow [gal/h] rising, settled EGT [°F] of each cylinder there), heads held where they are."""
    twin = copy.deepcopy(bench)
    twin.parameters["head_heat_capacity_j_k"] = 1e12
    at, columns = twin.channels.index("ff_gph"), _egt_columns(twin)
    flows, egts = [], []
    for mixture in np.linspace(1.0, 0.25, 120):
        twin.set_lever("mixture", float(mixture))
        twin.advance(5.0)
        values = twin.true_readings()[0]
        flows.append(values[at])
        egts.append(values[columns])
    order = np.argsort(flows)
    flow = np.array(flows)[order]
    keep = np.concatenate([[True], np.diff(flow) > 1e-6])
    return flow[keep], np.array(egts)[order][keep]


def _peak_of(flows: np.ndarray, egt: np.ndarray) -> tuple[float, float]:
    fine = np.linspace(flows[0], flows[-1], 6000)
    curve = CubicSpline(flows, egt)(fine)
    top = int(np.argmax(curve))
    return float(curve[top]), float(fine[top])


def _first_to_last(bench: Bench) -> tuple[float, float]:
    flows, egts = sweep(bench)
    tops = [_peak_of(flows, egts[:, k])[1] for k in range(egts.shape[1])]
    return max(tops), min(tops)


def find_lever(bench: Bench, flow_gph: float) -> float:
    """Return the mixture lever that settles at this fuel flow."""
    low, high = 0.2, 1.0
    at = bench.channels.index("ff_gph")
    for _ in range(12):
        middle = (low + high) / 2
        twin = copy.deepcopy(bench)
        twin.set_lever("mixture", middle)
        twin.advance(6.0)
        low, high = (middle, high) if twin.true_readings()[0][at] < flow_gph else (low, middle)
    return (low + high) / 2


@dataclass
class Score:
    """Errors and counts over the corpus, easy leanings and the others apart; `notes` for the one who looks."""

    leanings: int = 0
    egt_f: list[tuple[bool, float]] = field(default_factory=list)
    flow_gph: list[tuple[bool, float]] = field(default_factory=list)  # of an engine that burns up to 20 gal/h
    named: list[bool] = field(default_factory=list)
    sides_wrong: int = 0
    sides_unknown: int = 0
    offsets_f: list[float] = field(default_factory=list)
    powers_pct: list[float] = field(default_factory=list)
    unknown: int = 0
    notes: list[str] = field(default_factory=list)

    def egt_within(self, easy: bool, most_f: float) -> float:
        """Return the share of peak temperatures that are off by at most so much."""
        return float(np.mean([abs(error) <= most_f for is_easy, error in self.egt_f if is_easy == easy]))

    def flow_within(self, easy: bool, most_gph: float) -> float:
        """Return the share of fuel flows at peak that are off by at most so much."""
        return float(np.mean([abs(error) <= most_gph for is_easy, error in self.flow_gph if is_easy == easy]))


def sum_of(scores: list[Score]) -> Score:
    """Return several scores as one."""
    total = Score()
    for score in scores:
        for name in total.__dataclass_fields__:
            setattr(total, name, getattr(total, name) + getattr(score, name))
    return total


def score_leanings(seeds: range) -> Score:
    """Judge the corpus and compare with its truth."""
    score = Score()
    for seed in seeds:
        compare(make_leaning(seed), seed, score)
    return score


def compare(leaning: Leaning, seed: int, score: Score) -> None:
    """Judge one leaning and add to the score."""
    score.leanings += 1
    findings = [f.to_json()["measured"] for f in judge(leaning.trace, leaning.profile, ("lean",))]
    scale = min(_USUAL_FLOW_GPH / max(p[1] for p in leaning.peaks.values()), 1.0)

    def note(text: str) -> None:
        about = f"{leaning.kind} {leaning.trace.rate_hz:g} Hz lag {leaning.lag_s:.1f} {'easy' if leaning.easy else ''}"
        score.notes.append(f"{seed} {about}: {text}")

    if not findings:
        score.unknown += 1
        if leaning.easy:
            note("no leaning found")
            score.egt_f += [(True, np.inf)] * len(leaning.peaks)
            score.flow_gph += [(True, np.inf)] * len(leaning.peaks)
        return
    said = findings[-1]
    found = {peak["cylinder"]: peak for peak in said["peaks"]}
    for cylinder, (egt, flow) in leaning.peaks.items():
        if cylinder not in found:
            if leaning.easy:
                score.egt_f.append((True, np.inf))
                score.flow_gph.append((True, np.inf))
                note(f"cylinder {cylinder} without a peak")
            continue
        errors = found[cylinder]["egt_f"] - egt, (found[cylinder]["ff_gph"] - flow) * scale
        score.egt_f.append((leaning.easy, errors[0]))
        score.flow_gph.append((leaning.easy, errors[1]))
        if abs(errors[0]) > 5 or abs(errors[1]) > 0.1:
            note(f"cylinder {cylinder} off by {errors[0]:.1f} F {errors[1]:.2f} gal/h")
    if said["power_pct"] is not None:
        score.powers_pct.append(said["power_pct"] - leaning.power_pct)
        if abs(score.powers_pct[-1]) > 3:
            note(f"power off by {score.powers_pct[-1]:.1f} of {leaning.power_pct:.0f} %")
    flows = {c: p[1] * scale for c, p in leaning.peaks.items()}
    for key, pick in (("first_to_peak", max), ("last_to_peak", min)):
        if said[key] is not None and leaning.easy:
            true = pick(flows.values())
            score.named.append(abs(flows.get(said[key], np.inf) - true) <= 0.06)
    _compare_place(leaning, said, score, note)


def _compare_place(leaning: Leaning, said: dict, score: Score, note) -> None:
    if said["side"] == "unknown":
        score.sides_unknown += 1
        note(f"side unknown, true {leaning.side}")
        return
    true_side = leaning.side
    if true_side != "between" and said["side"] not in (true_side, "peak"):
        score.sides_wrong += 1
        note(f"side {said['side']}, true {true_side} by {leaning.offset_f:.0f}")
    elif said["offset_f"] is None:
        score.sides_unknown += 1
        note(f"offset unknown, true {leaning.offset_f:.0f}")
    elif said["side"] == true_side:
        score.offsets_f.append(said["offset_f"] - leaning.offset_f)
        if abs(score.offsets_f[-1]) > 8:
            note(f"offset off by {score.offsets_f[-1]:.0f} of {leaning.offset_f:.0f}")
