"""A dynamometer for the reference tests: the trainer's engine held at one speed, or turning its propeller."""

import json
from dataclasses import dataclass
from pathlib import Path

import numpy as np

import jemmon
from jemmon.core.bench import Bench

SECTION = json.loads((Path(jemmon.__file__).parent / "library/a-trainer.json").read_text())["bench"]
LB_PER_KG = 2.20462
WATT_PER_HP = 745.7
EVEN = {"mixture_spread": [0, 0, 0, 0], "mixture_spread_full_throttle": [0, 0, 0, 0], "egt_probe_bias": [0, 0, 0, 0]}


def running(rpm: float = 1000.0, **overrides) -> Bench:
    """Return a warm running engine; `hold=True` keeps its speed by a huge flywheel."""
    hold = overrides.pop("hold", False)
    if hold:
        overrides["shaft_inertia_kg_m2"] = 1e12
    bench = Bench(SECTION, **overrides)
    bench.make_running(rpm)
    return bench


def reading(bench: Bench) -> dict[str, float]:
    """Return the true readings by channel name."""
    return dict(zip(bench.channels, bench.true_readings()[0], strict=True))


def egts(bench: Bench) -> np.ndarray:
    """Return the true exhaust gas temperatures [°F] of the cylinders."""
    values = reading(bench)
    return np.array([values[f"egt{i}_f"] for i in range(1, bench.cylinders + 1)])


def steady(bench: Bench, seconds: float = 8.0, **levers: float | str) -> dict[str, float]:
    """Set levers, run on, and return the readings."""
    for name, value in levers.items():
        bench.set_lever(name, value)
    bench.advance(seconds)
    return reading(bench)


def settle_heads(bench: Bench) -> None:
    """Let the cylinder heads reach their steady temperature (time constant 3 to 5 minutes)."""
    bench.advance(1800)


@dataclass(frozen=True)
class MixtureSweep:
    """One mixture sweep at fixed speed: arrays over the mixture, from rich to lean."""

    equivalence_ratio: np.ndarray
    egt_f: np.ndarray
    brake_hp: np.ndarray
    fuel_lb_h: np.ndarray
    cht_f: np.ndarray

    @property
    def peak(self) -> int:
        """Return the index of peak EGT."""
        return int(np.argmax(self.egt_f))

    def at_egt(self, below_peak_f: float, side: str, values: np.ndarray) -> float:
        """Return `values` where EGT stands `below_peak_f` below its peak on the rich or the lean side."""
        part = slice(0, self.peak + 1) if side == "rich" else slice(self.peak, None)
        offset = self.egt_f[self.peak] - self.egt_f[part]
        order = np.argsort(offset)
        return float(np.interp(below_peak_f, offset[order], values[part][order]))


def mixture_sweep(rpm: float = 2400.0, throttle: float = 1.0, settle_s: float = 6.0, **overrides) -> MixtureSweep:
    """Sweep the mixture of an engine with even cylinders at a fixed speed, by leaning in steps."""
    bench = running(rpm, hold=True, **EVEN, **overrides)
    rows = []
    for mixture in np.linspace(1.0, 0.25, 76):
        steady(bench, settle_s, throttle=throttle, mixture=float(mixture))
        state = bench.state[0]
        rows.append(
            (
                state["equivalence_ratio"][0],
                egts(bench)[0],
                state["brake_w"] / WATT_PER_HP,
                state["fuel_metered_kg_s"] * 3600 * LB_PER_KG,
                reading(bench)["cht1_f"],
            )
        )
    return MixtureSweep(*np.array(rows).T)
