"""Run-ups as somebody would write them who knows neither the bench nor the other generator: levels, steps and first-order lags.

Nothing of a propeller's or an engine's physics is in it: RPM follows a step, exhausts rise on one magneto and sink a little on hot
air, manifold pressure rises by any share of what an even air flow would give, oil pressure dips or does not. Common practice.
"""

from dataclasses import dataclass

import numpy as np

from jemmon.core.trace import Trace

# aircraft: (run-up RPM, has a governor, has carburettor heat, cylinders, least and most lag [s])
KINDS = {
    "a-trainer": (1800, False, True, 4, 0.25, 0.9),
    "b-tourer": (1900, True, False, 6, 0.25, 0.9),
    "d-twin": (2000, True, True, 4, 0.25, 0.9),
    "f-radial": (1900, True, False, 9, 0.7, 1.3),
    "j-glass": (1900, False, False, 4, 0.25, 0.9),
    "l-field": (1700, False, True, 6, 0.25, 0.9),
    "m-mixed": (1800, False, True, 4, 0.25, 0.9),
}
_STEP_S = 0.05


@dataclass(frozen=True, slots=True)
class Act:
    """What was done: `left`, `right`, `heat` or `cycle`, from when to when [s], and how far RPM would fall."""

    what: str
    from_s: float
    to_s: float
    drop_rpm: float


@dataclass(frozen=True, slots=True)
class PlainRunUp:
    """A run-up of one aircraft, what was done in it, and the rounding of its tachometer [RPM]."""

    aircraft: str
    trace: Trace
    acts: tuple[Act, ...]
    rounding_rpm: float

    def of(self, *what: str) -> list[Act]:
        """Return what was done of these."""
        return [act for act in self.acts if act.what in what]


def lagged(target: np.ndarray, lag_s: float) -> np.ndarray:
    """Return what follows a target with a first-order lag, step by step."""
    share, value = 1 - np.exp(-_STEP_S / lag_s), target[0]
    out = np.empty_like(target)
    for row, wanted in enumerate(target):
        value += share * (wanted - value)
        out[row] = value
    return out


def plain_run_up(seed: int) -> PlainRunUp:
    """Return one run-up."""
    r = np.random.default_rng(seed)
    aircraft = str(r.choice(list(KINDS)))
    usual_rpm, _, _, cylinders, least_s, most_s = KINDS[aircraft]
    base_rpm, lag_s, idle_rpm = usual_rpm + r.uniform(-250, 250), r.uniform(least_s, most_s), r.uniform(850, 1100)
    up_s, ramp_s = r.uniform(30, 120), r.uniform(2, 6)
    acts = _acts(r, aircraft, up_s + ramp_s + r.uniform(5, 15))
    down_s = acts[-1].to_s + r.uniform(6, 12)
    t = np.arange(0, down_s + r.uniform(20, 60), _STEP_S)
    wanted = np.interp(
        t, [0, up_s, up_s + ramp_s, down_s, down_s + 2], [idle_rpm, idle_rpm, base_rpm, base_rpm, idle_rpm]
    )
    fall, exhaust_f, dip_psi = (np.zeros_like(t) for _ in range(3))
    dips_psi = r.uniform(2, 8) * (r.random() < 0.7)
    for act in acts:
        during = (t >= act.from_s) & (t < act.to_s)
        follows_s = {"heat": r.uniform(0.6, 2.5), "cycle": r.uniform(0.8, 2.0)}.get(act.what, lag_s)
        fall += lagged(np.where(during, act.drop_rpm, 0.0), follows_s)
        exhaust_f[during] = {"heat": -r.uniform(10, 30), "cycle": 0.0}.get(act.what, r.uniform(40, 110))
        dip_psi[during] = dips_psi * (act.what == "cycle")
    gusts = lagged(r.normal(0, r.uniform(0, 25), len(t)), r.uniform(1.5, 4))
    rpm = lagged(wanted, lag_s) - fall + gusts
    rows = np.arange(0, len(t), round(r.choice([0.25, 0.5, 1.0, 1.0, 2.0]) / _STEP_S))
    rounding_rpm = float(r.choice([1, 1, 5, 10]))

    def shown(values: np.ndarray, noise: float, rounding: float) -> np.ndarray:
        return np.asarray(np.round((values[rows] + r.normal(0, noise, len(rows))) / rounding) * rounding)

    columns = {"rpm": shown(rpm, r.uniform(0, 4), rounding_rpm), "oil_p_psi": shown(55 - lagged(dip_psi, 0.5), 0.5, 1)}
    if r.random() < 0.7:
        for number in range(cylinders):
            egt = np.interp(wanted, [600, 2600], [850, 1350]) + exhaust_f * r.uniform(0.8, 1.2) + r.uniform(-60, 60)
            columns[f"egt{number + 1}_f"] = shown(lagged(egt, r.uniform(1, 5)), 1, 1)
    if r.random() < 0.5:
        rise = 1 + r.uniform(0, 1) * fall / np.maximum(rpm, 500)
        columns["map_inhg"] = shown((11 + (lagged(wanted, 0.3) - 800) / 1000 * 6) * rise, 0.05, 0.1)
    return PlainRunUp(aircraft, Trace(t[rows], columns), tuple(acts), rounding_rpm)


def _acts(r: np.random.Generator, aircraft: str, at_s: float) -> list[Act]:
    """Return what is done at run-up speed, in one of the orders that pilots use."""
    _, has_governor, has_heat, *_ = KINDS[aircraft]
    blocks = ["magnetos"] + ["heat"] * has_heat + ["cycles"] * has_governor
    acts: list[Act] = []

    def do(what: str, seconds: float, drop_rpm: float, rest_s: float) -> None:
        nonlocal at_s
        acts.append(Act(what, at_s, at_s + seconds, drop_rpm))
        at_s += seconds + rest_s

    for block in r.permutation(blocks) if r.random() < 0.5 else blocks:
        if block == "magnetos":
            first = r.uniform(20, 160)
            for side, drop in zip(
                r.permutation(["left", "right"]), (first, max(15.0, first + r.normal(0, 25))), strict=True
            ):
                do(str(side), r.uniform(3, 8), drop, r.uniform(3, 7))
        elif block == "heat":
            do("heat", r.uniform(5, 15), r.uniform(30, 130), r.uniform(4, 8))
        else:
            for _ in range(int(r.integers(1, 4))):
                do("cycle", r.uniform(1.5, 4), r.uniform(200, 500), r.uniform(3, 6))
        at_s += r.uniform(2, 6)
    return acts
