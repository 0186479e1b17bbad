"""Whole flights as somebody would write them who knows neither the bench nor the other generators: a list of speeds, pressures and
heights joined by straight lines, first-order lags, and an exhaust that is hottest at one mixture.

Boxes show different things (no fuel flow, no manifold pressure, no airspeed, no exhausts), 0.25 to 6 s a row. Common practice.
"""

from dataclasses import dataclass

import numpy as np
from scipy.signal import lfilter

from jemmon.core.trace import Trace
from tests.core.builders import PROFILES

# aircraft: (has a governor, is blown, cylinders)
KINDS = {
    "a-trainer": (False, False, 4),
    "b-tourer": (True, False, 6),
    "f-radial": (True, False, 9),
    "i-turbo": (True, True, 6),
    "j-glass": (False, False, 4),
    "l-field": (False, False, 6),
    "m-mixed": (False, False, 4),
}
ROWS_S = (0.25, 0.5, 1.0, 1.0, 2.0, 3.0, 6.0)
_STEP_S = 0.1
_GPH = {4: 10.0, 6: 17.0, 9: 28.0}  # at full power, full rich


@dataclass(frozen=True, slots=True)
class Over:
    """A limit that was passed: which signal, of which cylinder, from when to when [s]."""

    signal: str
    cylinder: int | None
    from_s: float
    to_s: float


@dataclass(frozen=True, slots=True)
class PlainFlight:
    """A flight and what was done in it. Times in s: when it fired (None: the trace begins later), how long it was cranked, until
    oil pressure; the magneto drops [RPM] and from when to when; full power; the leaning, its side and how far below its peak
    each cylinder was left [°F]; limits that were passed; the shutdown."""

    aircraft: str
    trace: Trace
    row_s: float
    fired_s: float | None
    cranking_s: float
    oil_pressure_s: float
    drops_rpm: tuple[float, ...]
    magnetos_s: tuple[float, float]
    full_power_s: float
    lean_s: tuple[float, float]
    descent_s: float
    side: str
    offsets_f: tuple[float, ...]
    over: tuple[Over, ...]
    stopped_s: float

    @property
    def has_exhausts(self) -> bool:
        """Whether the box shows exhaust gas temperatures."""
        return bool(self.trace.cylinders("egt"))


def lagged(values: np.ndarray, lag_s: float) -> np.ndarray:
    """Return what follows with a first-order lag."""
    share = 1 - np.exp(-_STEP_S / lag_s)
    return np.asarray(lfilter([share], [1, share - 1], values - values[0]) + values[0])


class _Course:
    """The flight as knots: time [s], RPM, manifold pressure [inHg], airspeed [kt], altitude [ft]."""

    def __init__(self, at_s: float) -> None:
        self.at_s = at_s
        self.knots: list[tuple[float, ...]] = []

    def to(self, seconds: float, rpm: float, pressure: float, ias_kt: float, palt_ft: float) -> float:
        self.at_s += seconds
        self.knots.append((self.at_s, rpm, pressure, ias_kt, palt_ft))
        return self.at_s

    def over(self, t: np.ndarray) -> list[np.ndarray]:
        knots = np.array(self.knots)
        return [np.interp(t, knots[:, 0], knots[:, column]) for column in range(1, 5)]


def outside_inhg(height_ft: float) -> float:
    """Return the standard air's pressure (ICAO Doc 7488)."""
    return float(29.92 * (1 - height_ft / 145_442) ** 5.2559)


def plain_flight(seed: int) -> PlainFlight:
    """Return one flight."""
    r = np.random.default_rng(seed)
    aircraft = str(r.choice(list(KINDS)))
    has_governor, is_blown, cylinders = KINDS[aircraft]
    limit = PROFILES[aircraft].find_limit
    row_s = float(r.choice(ROWS_S))
    is_cranked = r.random() < 0.8
    crank_s, cranking_s = (r.uniform(5, 60), r.uniform(1.5, 6)) if is_cranked else (0.0, 0.0)
    fired_s, idle_rpm, field_ft = crank_s + cranking_s, r.uniform(850, 1150), r.uniform(0, 3000)

    course = _Course(fired_s + 1.5)
    full_rpm = r.uniform(0.95, 1.0) * min(limit("rpm_max") or 2600, 2700)
    static_rpm = r.uniform(1.0, 1.03) * (limit("static_min_rpm") or 0.95 * full_rpm)
    course.to(0, idle_rpm, 12, 0, field_ft)
    course.to(r.uniform(120, 300), idle_rpm, 12, 0, field_ft)
    taxi_rpm = idle_rpm + r.uniform(-50, 150)
    course.to(3, taxi_rpm, 12.5, 8, field_ft)
    course.to(r.uniform(60, 200), taxi_rpm, 12.5, r.uniform(5, 15), field_ft)
    run_up_rpm = (limit("runup_rpm") or 1800) + r.uniform(-100, 100)
    run_up_s = course.to(4, run_up_rpm, 17, 0, field_ft)
    magnetos = _magnetos(r, run_up_s + r.uniform(8, 12), 1.0 if cylinders == 9 else 0.55)
    course.to(magnetos[-1][1] - run_up_s + r.uniform(8, 20), run_up_rpm, 17, 0, field_ft)
    course.to(3, idle_rpm, 12, 0, field_ft)
    course.to(r.uniform(30, 120), idle_rpm, 12, 0, field_ft)
    full_power_s = course.to(4, static_rpm, outside_inhg(field_ft) - 1, 10, field_ft)
    course.to(r.uniform(12, 25), static_rpm * (1.0 if has_governor else 1.02), outside_inhg(field_ft) - 1, 62, field_ft)
    cruise_ft, cruise_rpm = r.uniform(3500, 9500), r.uniform(2300, min(full_rpm, 2500))
    at_most = outside_inhg(cruise_ft) - 0.6
    climb_inhg, climb_rpm = (29.0 if is_blown else min(26.0, at_most)), max(min(full_rpm * 0.96, 2450), cruise_rpm)
    course.to(60, climb_rpm, climb_inhg, 80, field_ft + 700)
    course.to((cruise_ft - field_ft - 700) / r.uniform(500, 900) * 60, climb_rpm, climb_inhg, 85, cruise_ft)
    cruise_inhg = r.uniform(26, 29) if is_blown else r.uniform(20, min(24, at_most))
    course.to(r.uniform(15, 60), cruise_rpm, cruise_inhg, 115, cruise_ft)
    leans_s = course.to(r.uniform(90, 300), cruise_rpm, cruise_inhg, 120, cruise_ft)
    takes_s = r.uniform(40, 150)
    descent_s = course.to(takes_s + r.uniform(120, 600), cruise_rpm, cruise_inhg, 122, cruise_ft)
    course.to(10, cruise_rpm, cruise_inhg - 3, 135, cruise_ft)
    course.to(
        (cruise_ft - field_ft - 1000) / r.uniform(400, 700) * 60, cruise_rpm, cruise_inhg - 2, 140, field_ft + 1000
    )
    course.to(20, 2200, 16, 90, field_ft + 1000)
    course.to(120, 2100, 15, 80, field_ft + 600)
    course.to(10, 1300, 11, 65, field_ft + 500)
    course.to(50, 1200, 11, 62, field_ft)
    course.to(12, idle_rpm, 11.5, 20, field_ft)
    stopped_s = course.to(r.uniform(90, 240), idle_rpm, 12, 8, field_ft)

    t = np.arange(0, stopped_s + r.uniform(10, 40), _STEP_S)
    wanted_rpm, pressure, ias_kt, palt_ft = course.over(t)
    power = np.clip((pressure - 7) / (28 if is_blown else 23), 0.03, 1.1) * np.clip(wanted_rpm / full_rpm, 0.2, 1.1)
    side = str(r.choice(["rich", "lean"]))
    mixture = _mixture(r, t, leans_s, takes_s, descent_s, side)
    runs = (t > fired_s) & (t < stopped_s)
    exhausts = _exhausts(r, t, power, mixture, runs, cylinders)
    left = (t > leans_s + takes_s + 25) & (t < leans_s + takes_s + 60)
    pulled = (t > leans_s - 5) & (t < leans_s + takes_s + 20)
    offsets_f = tuple(float(egt[pulled].max() - egt[left].mean()) for egt in exhausts)
    fall = np.zeros(len(t))
    for from_s, to_s, drop_rpm, lag_s in magnetos:
        on_one = np.where((t >= from_s) & (t < to_s), 1.0, 0.0)
        fall += lagged(drop_rpm * on_one, lag_s)
        exhausts = [egt + r.uniform(40, 100) * on_one for egt in exhausts]
    gusts = lagged(r.normal(0, r.uniform(0, 4 if has_governor else 12), len(t)), 2.0) * runs
    rpm = np.select(
        [t < crank_s, t < fired_s, t < fired_s + 1.5, t > stopped_s],
        [
            0,
            r.uniform(60, 140),
            idle_rpm * np.clip(t - fired_s, 0.1, 1),
            np.maximum(idle_rpm * (1 - (t - stopped_s) / 2.5), 0),
        ],
        wanted_rpm - fall,
    )
    oil_min_psi = limit("oil_pressure_min_psi") or 25.0
    oil_psi = np.interp(rpm, [0, 600, 1500, 2600], [0, *(oil_min_psi + np.array([6, 22, 30]))])
    oil_psi = np.where(runs, np.minimum(oil_psi, np.clip((t - fired_s) / r.uniform(4, 20), 0, 1) * 90), 0)
    half = 0.5 if (limit("volts_max_v") or 29) < 20 else 1.0
    shown = {
        "rpm": rpm + gusts,
        "map_inhg": np.where(runs, pressure, outside_inhg(field_ft)),
        "ff_gph": lagged(np.where(runs, power * _GPH[cylinders] * mixture / 1.35, 0), r.uniform(0.3, 1.5)),
        "oil_t_f": lagged(np.where(runs, np.interp(power, [0.05, 1], [150, 195]), 60.0), r.uniform(120, 240)),
        "oil_p_psi": oil_psi,
        "volts_v": half * np.select([t < crank_s, t < fired_s, runs], [24.8, 20.0, 28.1], 24.6),
        "ias_kt": ias_kt,
        "palt_ft": palt_ft,
    }
    for number, egt in enumerate(exhausts):
        shown[f"egt{number + 1}_f"] = lagged(egt, r.uniform(1, 4))
        head_f = np.interp(power, [0.05, 0.3, 1], [250, 320, 380]) + r.uniform(-20, 10)
        shown[f"cht{number + 1}_f"] = lagged(np.where(runs, head_f, 60.0), r.uniform(60, 120))
    over = _go_over(r, t, shown, limit, (leans_s + takes_s + 70, descent_s), cylinders)
    oil_rose = np.flatnonzero(runs & (oil_psi >= oil_min_psi))
    return PlainFlight(
        aircraft=aircraft,
        trace=_as_shown(r, t, shown, row_s, has_governor),
        row_s=row_s,
        fired_s=fired_s if is_cranked else None,
        cranking_s=cranking_s,
        oil_pressure_s=float(t[oil_rose[0]] - fired_s),
        drops_rpm=tuple(drop_rpm for _, _, drop_rpm, _ in magnetos),
        magnetos_s=(magnetos[0][0], magnetos[-1][1]),
        full_power_s=full_power_s,
        lean_s=(leans_s, leans_s + takes_s),
        descent_s=descent_s,
        side=side,
        offsets_f=offsets_f,
        over=over,
        stopped_s=stopped_s,
    )


def _magnetos(r: np.random.Generator, at_s: float, lag_s: float) -> list[tuple[float, float, float, float]]:
    """Return (from, to [s], drop [RPM], lag [s]) of both sides."""
    sides = []
    for _ in range(2):
        to_s = at_s + r.uniform(4, 7)
        sides.append((at_s, to_s, r.uniform(30, 110), lag_s * r.uniform(0.7, 1.3)))
        at_s = to_s + r.uniform(4, 7)
    return sides


def _mixture(
    r: np.random.Generator, t: np.ndarray, leans_s: float, takes_s: float, descent_s: float, side: str
) -> np.ndarray:
    """Return the fuel for the air (rows,), 1 where the exhaust is hottest: full rich, leaned past the peak and perhaps back, richer
    in the descent."""
    rich, leanest = r.uniform(1.28, 1.45), r.uniform(0.86, 0.95)
    left = r.uniform(1.08, 1.22) if side == "rich" else leanest
    turns = leans_s + takes_s * np.array([0.0, 0.6, 0.65, 1.0] if side == "rich" else [0.0, 0.8, 0.9, 1.0])
    return np.interp(
        t, [*turns, descent_s, descent_s + 20], [rich, leanest, leanest, left, left, r.uniform(left, 1.25)]
    )


def _exhausts(
    r: np.random.Generator, t: np.ndarray, power: np.ndarray, mixture: np.ndarray, runs: np.ndarray, cylinders: int
) -> list[np.ndarray]:
    """Return each cylinder's settled exhaust gas temperature [°F]: hottest at its own mixture, steeper on the lean side."""
    by_power_f, steep = np.interp(power, [0.05, 0.3, 1], [-600, -180, 0]), r.uniform(0.9, 1.3)
    exhausts = []
    for _ in range(cylinders):
        own = mixture + r.normal(0, 0.02)
        below_f = steep * np.where(own > 1, 1100, 1900) * np.abs(own - 1) ** 1.35
        exhausts.append(np.where(runs, r.uniform(1350, 1500) + by_power_f - below_f, 70.0))
    return exhausts


def _go_over(
    r: np.random.Generator,
    t: np.ndarray,
    shown: dict[str, np.ndarray],
    limit: object,
    cruise_s: tuple[float, float],
    cylinders: int,
) -> tuple[Over, ...]:
    """Let one figure pass its limit for a while in half of the flights. Return what was passed."""
    what, cylinder = str(r.choice(["", "", "cht", "oil_t", "oil_p", "volts"])), int(r.integers(cylinders)) + 1
    from_s = r.uniform(cruise_s[0], max(cruise_s[1] - 70, cruise_s[0]))
    to_s = from_s + r.uniform(20, 50)
    column, name, beyond = {
        "cht": (f"cht{cylinder}_f", "cht_max_f", r.uniform(8, 40)),
        "oil_t": ("oil_t_f", "oil_t_max_f", 10.0),
        "oil_p": ("oil_p_psi", "oil_pressure_min_psi", -8.0),
        "volts": ("volts_v", "volts_max_v", 1.5),
    }.get(what, ("", "", 0.0))
    bound = limit(name) if name else None  # type: ignore[operator]
    if bound is None:
        return ()
    shown[column] = np.where((t > from_s) & (t < to_s), bound + beyond, shown[column])
    return (Over(what, cylinder if what == "cht" else None, from_s, to_s),)


def _as_shown(
    r: np.random.Generator, t: np.ndarray, shown: dict[str, np.ndarray], row_s: float, has_governor: bool
) -> Trace:
    """Return what a box shows of it: noise, steps, and perhaps not everything."""
    rows = np.arange(0, len(t), round(row_s / _STEP_S))
    steps = {"rpm": float(r.choice([1, 1, 5, 10])), "palt_ft": 10.0, "map_inhg": 0.1, "ff_gph": 0.1, "volts_v": 0.1}
    noise = {"rpm": r.uniform(0, 3), "palt_ft": 5.0, "map_inhg": 0.05, "ff_gph": 0.03, "volts_v": 0.05}
    missing = [name for name in ("ff_gph", "ias_kt", "palt_ft") if r.random() < 0.3]
    missing += ["map_inhg"] if not has_governor and r.random() < 0.3 else []
    missing += [name for name in shown if name.startswith("egt")] if r.random() < 0.15 else []
    columns = {}
    for name, values in shown.items():
        if name not in missing:
            step = steps.get(name, 1.0)
            figures = values[rows] + r.normal(0, noise.get(name, 0.5), len(rows))
            columns[name] = np.maximum(np.round(figures / step) * step, 0.0)
    return Trace(t[rows], columns)
