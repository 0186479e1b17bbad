"""Random leanings on the simulated engine, and how near the fitted peaks lie."""

import numpy as np

from jemmon.core.aircraft import Profile
from jemmon.core.bench import Bench, Sensors
from jemmon.core.bench.bench import SensorTable
from jemmon.core.judgement import judge
from jemmon.core.trace import Trace

from .run_ups import NOISE


def make_leaning(profile: Profile, seed: int) -> tuple[Trace, np.ndarray, str]:
    """Return (trace, true fuel flow at peak of each cylinder [gal/h], true side of the first to peak at the end)."""
    rng = np.random.default_rng(seed)
    assert profile.bench is not None
    spread = [float(v) for v in rng.uniform(-0.035, 0.035, 4)]
    bench = Bench(profile.bench, mixture_spread=spread)
    bench.set_air(palt_ft=rng.uniform(2_000, 8_000), ias_kt=100)
    bench.make_running(2400)
    throttle = rng.uniform(0.5, 0.74)
    bench.set_lever("throttle", throttle)
    bench.advance(400)
    truth = true_peaks(bench)
    sensors = Sensors(bench, [seed], SensorTable(noise=NOISE), egt_lag_s=np.array([rng.uniform(2, 4)]))
    rate_hz = float(rng.choice([1.0, 2.0, 4.0]))
    rows, times, mixtures = [], [], []
    now = 0.0
    leanest = find_lever(bench, min(truth) * rng.uniform(0.9, 0.95))
    final = find_lever(bench, max(truth) * rng.uniform(1.05, 1.15) if rng.random() < 0.7 else min(truth) * 0.92)
    pull_s = rng.uniform(20, 90)
    for target, ramp_s, seconds in (
        (1.0, 0, 10),
        (leanest, pull_s, pull_s + rng.uniform(1, 8)),
        (final, 6, 6 + rng.uniform(8, 20)),
    ):
        bench.set_lever("mixture", target, ramp_s=ramp_s)
        for _ in range(int(seconds * rate_hz)):
            bench.advance(1 / rate_hz)
            now += 1 / rate_hz
            rows.append(sensors.read(1 / rate_hz)[0])
            times.append(now)
            mixtures.append(bench.levers["mixture"][0])
    columns = dict(zip(bench.channels, np.array(rows).T, strict=True))
    side = "rich" if bench.true_readings()[0][2] > max(truth) else "lean"
    return Trace(np.array(times), columns), truth, side


def true_peaks(bench: Bench) -> np.ndarray:
    """Return each cylinder's fuel flow [gal/h] at its true, settled peak EGT, by a slow sweep of a copy."""
    twin = copy_of(bench)
    flows, egts = [], []
    for mixture in np.linspace(1.0, 0.3, 141):
        twin.set_lever("mixture", float(mixture))
        twin.advance(6.0)
        values = twin.true_readings()[0]
        flows.append(values[2])
        egts.append(values[14:18])
    order = np.argsort(flows)
    fine = np.linspace(min(flows), max(flows), 4000)
    return np.array(
        [fine[np.argmax(_spline(np.array(flows)[order], np.array(egts)[order, k], fine))] for k in range(4)]
    )


def _spline(x: np.ndarray, y: np.ndarray, fine: np.ndarray) -> np.ndarray:
    from scipy.interpolate import CubicSpline

    keep = np.concatenate([[True], np.diff(x) > 1e-6])
    return CubicSpline(x[keep], y[keep])(fine)


def find_lever(bench: Bench, flow_gph: float) -> float:
    """Return the mixture lever that settles at this fuel flow."""
    low, high = 0.2, 1.0
    for _ in range(16):
        middle = (low + high) / 2
        twin = copy_of(bench)
        twin.set_lever("mixture", middle)
        twin.advance(8.0)
        low, high = (middle, high) if twin.true_readings()[0][2] < flow_gph else (low, middle)
    return (low + high) / 2


def copy_of(bench: Bench) -> Bench:
    import copy

    return copy.deepcopy(bench)


def score_leanings(profile: Profile, seeds: range) -> tuple[np.ndarray, int]:
    """Return (errors of fuel flow at peak [gal/h], how often the side was wrong)."""
    errors, wrong = [], 0
    for seed in seeds:
        trace, truth, side = make_leaning(profile, seed)
        findings = [f.to_json()["measured"] for f in judge(trace, profile, ("lean",))]
        if not findings:
            errors += [np.inf] * 4
            continue
        found = {peak["cylinder"]: peak["ff_gph"] for peak in findings[-1]["peaks"]}
        errors += [abs(found.get(k + 1, np.inf) - truth[k]) for k in range(4)]
        wrong += findings[-1]["side"] not in (side, "unknown", "peak")
    return np.array(errors), wrong
