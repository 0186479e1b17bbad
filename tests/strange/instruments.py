"""What the instruments make of the truth: lag, bias, drift, noise with long tails, coarse steps, lost rows, missing channels."""

from dataclasses import dataclass

import numpy as np
from scipy.signal import lfilter

from jemmon.core.trace import Trace

from .engine import STEP_S
from .exhaust import Exhaust, shown_by_probe

ROWS_S = (0.1, 0.25, 0.5, 1.0, 2.0, 3.0)


@dataclass
class Panel:
    """The instruments of one aircraft, and the box that writes them down."""

    rng: np.random.Generator
    row_s: float
    rpm_step: float
    rpm_noise: float
    has: dict[str, bool]
    lost: float
    probe_s: float
    flow_lag_s: float
    flow_bias: float
    dead_probe: str | None  # random, stuck, open
    broken_cylinder: int | None = None  # whose probe that is, once the exhausts were shown

    def trace(self, truth: dict[str, np.ndarray], exhaust: Exhaust | None) -> Trace:
        """Return the rows that the box writes of the truth (each (steps,), a step STEP_S)."""
        rng, steps = self.rng, len(truth["rpm"])
        at = np.arange(0, steps * STEP_S - 0.01, self.row_s) + rng.uniform(0, 0.04)
        at = at[np.round(at / STEP_S) < steps]
        pick = np.round(at / STEP_S).astype(int)
        columns: dict[str, np.ndarray] = {
            "rpm": self._stepped(truth["rpm"][pick] + self._tails(len(pick)) * self.rpm_noise)
        }
        if self.has["map"]:
            columns["map_inhg"] = np.round(truth["map_inhg"][pick] + 0.04 * self._tails(len(pick)), 1)
        if self.has["ff"]:
            keep = np.exp(-STEP_S / self.flow_lag_s)
            flow, _ = lfilter([1 - keep], [1, -keep], truth["ff_gph"], zi=[keep * truth["ff_gph"][0]])
            columns["ff_gph"] = np.round(flow[pick] * (1 + self.flow_bias) + 0.04 * self._tails(len(pick)), 1)
        if self.has["egt"] and exhaust is not None:
            columns |= self._exhausts(truth, exhaust, pick)
        for name in ("ias_kt", "palt_ft", "oat_c", "oil_p_psi", "oil_t_f", "fp_psi"):
            if self.has.get(name) and name in truth:
                noise = {"ias_kt": 1.0, "palt_ft": 8.0, "oat_c": 0.3, "oil_p_psi": 0.4, "oil_t_f": 0.5, "fp_psi": 0.2}[
                    name
                ]
                columns[name] = np.round(
                    truth[name][pick] + noise * self._tails(len(pick)), 0 if name != "fp_psi" else 1
                )
        if self.has.get("levers"):
            columns["throttle"] = np.round(truth["throttle"][pick], 3)
            columns["mag"] = truth["side"][pick].astype(object)
            columns["carb_heat"] = np.round(truth["heat"][pick], 2)
        kept = rng.random(len(at)) > self.lost
        kept[[0, -1]] = True
        return Trace(np.round(at[kept], 3), {name: values[kept] for name, values in columns.items()})

    def _tails(self, count: int) -> np.ndarray:
        """Student's t with four degrees of freedom, of unit variance."""
        return np.asarray(self.rng.standard_t(4, count) / np.sqrt(2.0))

    def _stepped(self, rpm: np.ndarray) -> np.ndarray:
        return np.round(rpm / self.rpm_step) * self.rpm_step

    def _exhausts(self, truth: dict[str, np.ndarray], exhaust: Exhaust, pick: np.ndarray) -> dict[str, np.ndarray]:
        rng = self.rng
        settled = exhaust.settled_f(truth)
        broken = int(rng.integers(len(settled))) if self.dead_probe else -1
        self.broken_cylinder = broken + 1 if self.dead_probe and not self.has["one_egt"] else None
        if self.has["one_egt"]:
            pipe = 0.55 * settled.mean(axis=0) + 500  # far down the pipe: cooler, slow, hardly moved by one magneto
            shown = {"egt1_f": shown_by_probe(pipe, 2 * self.probe_s, 3.0)[pick]}
        else:
            shown = {}
            for k, own in enumerate(settled):
                first = self.probe_s * rng.uniform(0.8, 1.25)
                shown[f"egt{k + 1}_f"] = shown_by_probe(own, first, max(0.3 * first, 0.1))[pick]
        for k, name in enumerate(shown):
            drift = rng.normal(0, 0.03) * STEP_S * pick
            shown[name] = np.round(shown[name] + drift + 1.5 * self._tails(len(pick)))
            if k == broken and not self.has["one_egt"]:
                shown[name] = {
                    "random": rng.uniform(200, 1900, len(pick)),
                    "stuck": np.full(len(pick), np.round(rng.uniform(700, 1500))),
                    "open": np.full(len(pick), np.nan),
                }[str(self.dead_probe)]
        return shown


def any_panel(rng: np.random.Generator, row_s: float | None = None, **given: bool) -> Panel:
    """Return the instruments of some aircraft; `given` channels are there or are not."""
    has = {
        "map": rng.random() < 0.75,
        "ff": rng.random() < 0.8,
        "egt": rng.random() < 0.75,
        "one_egt": rng.random() < 0.15,
        "ias_kt": rng.random() < 0.5,
        "palt_ft": rng.random() < 0.7,
        "oat_c": rng.random() < 0.6,
        "oil_p_psi": True,
        "oil_t_f": True,
        "fp_psi": rng.random() < 0.4,
        "levers": False,
    }
    return Panel(
        rng=rng,
        row_s=float(rng.choice(ROWS_S)) if row_s is None else row_s,
        rpm_step=float(rng.choice([1.0, 5.0, 10.0, 10.0, 20.0, 25.0])),
        rpm_noise=float(rng.uniform(1.0, 4.0)),
        has=has | given,
        lost=float(rng.choice([0.0, 0.0, 0.01, 0.04])),
        probe_s=float(np.exp(rng.uniform(np.log(0.5), np.log(8.0)))),
        flow_lag_s=float(rng.uniform(0.3, 2.0)),
        flow_bias=float(rng.normal(0, 0.015)),
        dead_probe=str(rng.choice(["random", "stuck", "open"])) if rng.random() < 0.2 else None,
    )
