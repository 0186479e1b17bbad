"""Random run-ups on the simulated engine, and how well the recognition reads them."""

import copy
from dataclasses import dataclass

import numpy as np

from jemmon.core.aircraft import Profile
from jemmon.core.bench import Bench, Sensors
from jemmon.core.bench.bench import SensorTable
from jemmon.core.judgement.judge import judge
from jemmon.core.trace import Trace

NOISE = {"rpm": 4.0, "egt": 2.0, "ff_gph": 0.06, "map_inhg": 0.05}


@dataclass(frozen=True)
class TrueCheck:
    """What was really done: `side` is L, R or heat; the noise-free settled drop; when it began and ended."""

    side: str
    drop_rpm: float
    start_s: float
    end_s: float


@dataclass(frozen=True)
class RunUp:
    trace: Trace
    checks: tuple[TrueCheck, ...]


def make_run_up(profile: Profile, seed: int, rate_hz: float, levers: bool) -> RunUp:
    """Return one run-up: settled start, checks in random order with slips and small throttle changes between."""
    rng = np.random.default_rng(seed)
    assert profile.bench is not None
    bench = Bench(
        profile.bench,
        one_plug_left_work=rng.uniform(0.895, 0.935),
        one_plug_right_work=rng.uniform(0.895, 0.935),
    )
    bench.make_running(1800)
    throttle = 0.335 + rng.uniform(-0.03, 0.03)
    bench.set_lever("throttle", throttle)
    bench.advance(120 + rng.uniform(0, 1))
    sensors = Sensors(bench, [seed], SensorTable(noise=NOISE))
    return _Player(bench, sensors, rng, rate_hz, throttle).play(levers)


class _Player:
    def __init__(self, bench: Bench, sensors: Sensors, rng: np.random.Generator, rate_hz: float, throttle: float):
        self.bench, self.sensors, self.rng, self.rate_hz, self.throttle = bench, sensors, rng, rate_hz, throttle
        self.now_s = self.next_s = 0.0
        self.rows: list[np.ndarray] = []
        self.levers: list[tuple[float, float, float, str]] = []
        self.times: list[float] = []

    def settled(self) -> float:
        """Return the true RPM at which the engine would settle as its levers stand, from a copy that runs on."""
        twin = copy.deepcopy(self.bench)
        twin.advance(8.0)
        return float(twin.true_readings()[0][0])

    def wait(self, seconds: float) -> None:
        """Run on, sampling."""
        end_s = self.now_s + seconds
        while self.now_s < end_s - 1e-6:
            piece = min(0.1, end_s - self.now_s, max(self.next_s - self.now_s, 0.02))
            self.bench.advance(piece)
            self.now_s += piece
            if self.now_s >= self.next_s - 1e-6:
                self.rows.append(self.sensors.read(1 / self.rate_hz)[0])
                lever = self.bench.levers[0]
                self.levers.append((lever["throttle"], lever["mixture"], lever["carb_heat"], self.bench.mag_position()))
                self.times.append(self.next_s)
                self.next_s += 1 / self.rate_hz

    def play(self, levers: bool) -> RunUp:
        rng, checks = self.rng, []
        self.wait(rng.uniform(6, 14))
        base = self.settled()
        order = (
            list(rng.permutation(["L", "R"])) + ["heat"]
            if rng.random() < 0.7
            else list(rng.permutation(["L", "R", "heat"]))
        )
        for side in order:
            base = self.disturb(base)
            start_s = self.now_s
            self.away(side, True)
            self.wait(rng.uniform(3, 12))
            away = self.settled()
            checks.append(TrueCheck(side, base - away, start_s, self.now_s))
            self.away(side, False)
            self.wait(rng.uniform(3, 12))
            base = self.settled()
        self.wait(8.0)
        return RunUp(self.trace(levers), tuple(checks))

    def disturb(self, base: float) -> float:
        """Sometimes a slip of the switch (1 s or less), sometimes a small move of the throttle."""
        if self.rng.random() < 0.3:
            side = str(self.rng.choice(["L", "R"]))
            self.away(side, True)
            self.wait(self.rng.uniform(0.4, 1.0))
            self.away(side, False)
            self.wait(self.rng.uniform(3, 6))
        if self.rng.random() < 0.3:
            self.throttle += self.rng.uniform(-0.012, 0.012)
            self.bench.set_lever("throttle", self.throttle, ramp_s=0.5)
            self.wait(self.rng.uniform(4, 8))
            base = self.settled()
        return base

    def away(self, side: str, out: bool) -> None:
        if side == "heat":
            self.bench.set_lever("carb_heat", 1.0 if out else 0.0, ramp_s=0.4)
        else:
            self.bench.set_lever("mag", side if out else "BOTH")

    def trace(self, levers: bool) -> Trace:
        columns = dict(zip(self.bench.channels, np.array(self.rows).T, strict=True))
        if levers:
            throttle, mixture, heat, mag = zip(*self.levers, strict=True)
            columns |= {"throttle": np.array(throttle), "mixture": np.array(mixture), "carb_heat": np.array(heat)}
            columns["mag"] = np.array(mag, dtype=object)
        return Trace(np.array(self.times), columns)


@dataclass
class Score:
    """Counts over a corpus."""

    found: int = 0
    missed: int = 0
    false: int = 0
    errors_rpm: list[float] = None  # type: ignore[assignment]

    def within(self, rpm: float) -> float:
        """Return the share of drops that are off by at most so many RPM."""
        return float(np.mean(np.abs(self.errors_rpm) <= rpm))


def score_run_ups(profile: Profile, seeds: range, rate_hz: float, levers: bool) -> Score:
    """Judge a corpus and compare with its truth."""
    score = Score(errors_rpm=[])
    for seed in seeds:
        run_up = make_run_up(profile, seed, rate_hz, levers)
        findings = judge(run_up.trace, profile, ("mag_check", "carb_heat_check"))
        compare(run_up, [f.to_json() for f in findings], score, seed)
    return score


def compare(run_up: RunUp, findings: list[dict], score: Score, seed: int = 0) -> None:
    """Match findings with the checks really made: both sides in one mag_check, one carb_heat_check."""
    mags = [f for f in findings if f["kind"] == "mag_check"]
    heats = [f for f in findings if f["kind"] == "carb_heat_check"]
    sides = [c for c in run_up.checks if c.side != "heat"]
    heat = next(c for c in run_up.checks if c.side == "heat")
    score.false += max(len(mags) - 1, 0) + max(len(heats) - 1, 0)
    score.false += sum(len(f["measured"].get("repeats", [])) for f in mags[:1])
    for number, check in enumerate(sides):
        value = None
        if mags:
            name = {"L": "left", "R": "right"}[check.side]
            measured = mags[0]["measured"]
            value = measured.get(f"drop_{name}_rpm", measured.get(f"drop_{('first', 'second')[number]}_rpm"))
        _count(score, value, check)
    _count(score, heats[0]["measured"]["drop_rpm"] if heats else None, heat)


def _count(score: Score, value: float | None, check: TrueCheck) -> None:
    if value is None:
        score.missed += 1
    else:
        score.found += 1
        score.errors_rpm.append(value - check.drop_rpm)
