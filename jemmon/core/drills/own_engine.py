"""The simulated engine fitted to an aircraft's own flights: the figures that its run-ups showed, and the constants that give them.

Each figure has one constant that moves it most (common practice of the trade: a drop is the work that one plug loses, an idle the
gap that the closed throttle leaves), and all are fitted together by least squares. What its flights do not show stays as it is.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from scipy.optimize import least_squares

from ..aircraft import Profile
from ..bench import Bench
from ..start.advice import liked_share
from ..start.attempts import Attempt
from ..trace import Trace
from .own_flights import find_cruise, find_warm_up
from .own_levels import fit_levels

_SETTLES_S, _SIDE_S, _HEAT_S = 20.0, 10.0, 15.0
_TRIES = 14  # of the throttle for run-up speed: halved each time, 1/16,000 of its travel
_MOST_TURNS = 12
_FIRST_STEP = 0.02  # of a constant, as a share: a drop then moves by several RPM


Findings = Sequence[Mapping[str, Any]]


@dataclass(frozen=True, slots=True)
class OwnFlight:
    """One flight of the aircraft: its findings as they are kept, and its trace where it is read too."""

    findings: Findings
    trace: Trace | None = None


@dataclass(frozen=True, slots=True)
class _Figure:
    """A figure of a check and the constant that is fitted to it, from `least` to `most` times what it was."""

    kind: str
    measured: str
    title: str
    constant: str
    least: float
    most: float
    can: Callable[[Mapping[str, Any]], bool]


def _has_magnetos(section: Mapping[str, Any]) -> bool:
    return "mag" in section["levers"]


def _has_heat(section: Mapping[str, Any]) -> bool:
    return "carb_heat" in section["levers"] and float(section.get("carb_heat_rise_k", 0)) > 0


def _is_fixed(section: Mapping[str, Any]) -> bool:
    return float(section.get("pitch_rate_per_s", 0)) == 0


def _any(section: Mapping[str, Any]) -> bool:
    return True


_FIGURES = (
    _Figure("mag_check", "drop_left_rpm", "Drop on left", "one_plug_left_work", 0.9, 1.07, _has_magnetos),
    _Figure("mag_check", "drop_right_rpm", "Drop on right", "one_plug_right_work", 0.9, 1.07, _has_magnetos),
    _Figure("carb_heat_check", "drop_rpm", "Drop with hot air", "carb_heat_rise_k", 0.3, 2.5, _has_heat),
    _Figure("idle_check", "idle_rpm", "Idle", "throttle_area_idle_cm2", 0.4, 2.5, _any),
    _Figure("power_check", "static_rpm", "Static RPM", "propeller_cp0", 0.85, 1.15, _is_fixed),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class FittedFigure:
    """One figure in its core unit: what the flights showed (their median), what the simulated engine gave before and gives now,
    what is left between the flights and it, and of how many flights (of a prime: starts)."""

    title: str
    unit: str
    shown: float
    before: float
    after: float
    left: float
    flights: int


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnEngine:
    """A simulated engine fitted to an aircraft's flights: its constants by name (a second engine's own under `second`), the
    figures, and what could not be fitted."""

    constants: Mapping[str, Any]
    figures: tuple[FittedFigure, ...]
    not_fitted: tuple[str, ...]

    @property
    def worst_rpm(self) -> float:
        """How far the worst figure still is off [RPM]."""
        return max((abs(row.left) for row in self.figures if row.unit == "rpm"), default=0.0)


def fit_engine(profile: Profile, flown: Sequence[OwnFlight], history: Sequence[Attempt] = ()) -> OwnEngine:
    """Return the simulated engine of a profile fitted to its flights and to its recorded starts, each engine of a twin by itself;
    with nothing to go by its constants are empty. The speed of a run-up is the one that its flights had [RPM]."""
    section = profile.bench
    if section is None or "rpm" not in section["instruments"]:
        return OwnEngine(
            constants={}, figures=(), not_fitted=("This type has no simulated engine with a needle in RPM.",)
        )
    constants: dict[str, Any] = {}
    figures: list[FittedFigure] = []
    missing: list[str] = []
    for number, name in sorted(profile.engines):
        whose = f"{name}: " if len(profile.engines) > 1 else ""
        one = _fit_one(profile, _as_single(section, number), flown, number)
        figures += [replace(row, title=f"{whose}{row.title}") for row in one.figures]
        missing += [f"{whose}{line}" for line in one.not_fitted]
        if number == 1:
            constants |= one.constants
        elif one.constants:
            constants["second"] = {**section.get("second", {}), **one.constants}
    share = liked_share(profile, history)
    if share is None:
        missing.append("The prime that it likes: fewer than three starts show it")
    else:
        constants["prime_need_factor"] = round(share, 3)  # the engines of the kinds need their book's
        figures.append(_prime(share, float(section["prime_need_factor"]), len(history)))
    return OwnEngine(constants=constants, figures=tuple(figures), not_fitted=tuple(missing))


def _as_single(section: Mapping[str, Any], number: int) -> dict[str, Any]:
    """Return an engine of a twin as if it were alone: a fit turns one engine at a time."""
    own = section.get("second", {}) if number == 2 else {}
    return {name: value for name, value in {**section, **own, "engines": 1}.items() if name != "second"}


def _prime(share: float, before: float, starts: int) -> FittedFigure:
    figures = {"shown": 100 * share, "before": 100 * before, "after": 100 * share, "left": 0.0}
    rounded = {name: round(value, 1) for name, value in figures.items()}
    return FittedFigure(title="Prime it needs, of the book's", unit="pct", flights=starts, **rounded)


def _fit_one(profile: Profile, section: Mapping[str, Any], flown: Sequence[OwnFlight], number: int) -> OwnEngine:
    """Return one engine fitted to what its flights show, alone."""
    findings = [[f for f in flight.findings if int(f.get("engine", 1)) == number] for flight in flown]
    traces = [None if flight.trace is None else flight.trace.of_engine(number) for flight in flown]
    speeds = _fit_speeds(profile, section, findings)
    pairs = [(trace, own) for trace, own in zip(traces, findings, strict=True) if trace is not None]
    cruises = [cruise for trace, _ in pairs if (cruise := find_cruise(trace))]
    warm_ups = [warm_up for trace, own in pairs if (warm_up := find_warm_up(trace, own))]
    levels = fit_levels({**section, **speeds.constants}, cruises, warm_ups)
    rows = (
        FittedFigure(
            title=level.title,
            unit="f",
            shown=level.shown,
            before=level.before,
            after=level.after,
            left=round(level.after - level.shown, 1),
            flights=level.flights,
        )
        for level in levels.levels
    )
    return OwnEngine(
        constants={**speeds.constants, **levels.constants},
        figures=(*speeds.figures, *rows),
        not_fitted=(*speeds.not_fitted, *levels.missing),
    )


def _fit_speeds(profile: Profile, section: Mapping[str, Any], flown: Sequence[Findings]) -> OwnEngine:
    shown = {row.title: _shown(flown, row) for row in _FIGURES if row.can(section)}
    known = [row for row in _FIGURES if shown.get(row.title)]
    missing = tuple(f"{row.title}: no flight shows it" for row in _FIGURES if row.can(section) and row not in known)
    if not known:
        return OwnEngine(constants={}, figures=(), not_fitted=missing)
    wanted = np.array([float(np.median(shown[row.title])) for row in known])
    base = _shown(flown, _Figure("mag_check", "base_rpm", "", "", 1, 1, _any))
    run_up_rpm = float(np.median(base)) if base else float(profile.find_limit("runup_rpm") or 1800.0)

    def given(shares: np.ndarray) -> np.ndarray:
        changed = {row.constant: float(section[row.constant]) * share for row, share in zip(known, shares, strict=True)}
        figures = _run_up({**section, **changed}, run_up_rpm)
        return np.array([figures[row.title] for row in known])

    start = np.ones(len(known))
    bounds = ([row.least for row in known], [row.most for row in known])
    found = least_squares(
        lambda shares: given(shares) - wanted, start, bounds=bounds, diff_step=_FIRST_STEP, max_nfev=_MOST_TURNS
    )
    constants = zip(known, found.x, strict=True)
    return OwnEngine(
        constants={row.constant: round(float(section[row.constant]) * float(share), 5) for row, share in constants},
        figures=_fitted(known, shown, wanted, given(start), given(found.x)),
        not_fitted=missing,
    )


def _fitted(
    known: Sequence[_Figure],
    shown: Mapping[str, Sequence[float]],
    wanted: np.ndarray,
    before: np.ndarray,
    after: np.ndarray,
) -> tuple[FittedFigure, ...]:
    rows = zip(known, wanted.tolist(), before.tolist(), after.tolist(), strict=True)
    return tuple(
        FittedFigure(
            title=row.title,
            unit="rpm",
            shown=round(want, 1),
            before=round(old, 1),
            after=round(new, 1),
            left=round(new - want, 1),
            flights=len(shown[row.title]),
        )
        for row, want, old, new in rows
    )


def _shown(flown: Sequence[Findings], row: _Figure) -> list[float]:
    """Return a figure of each flight that shows it: the last finding of its kind."""
    found = []
    for findings in flown:
        own = [f["measured"].get(row.measured) for f in findings if f["kind"] == row.kind]
        if own and own[-1] is not None:
            found.append(float(own[-1]))
    return found


def _run_up(section: Mapping[str, Any], run_up_rpm: float) -> dict[str, float]:
    """Return the true figures [RPM] of a run-up by the bench of a section, warm, standing, at this speed."""
    bench = Bench(section)
    bench.make_running()
    for name in bench.lever_names:
        if name.removeprefix("e2_") in ("alternator", "prop"):
            bench.set_lever(name, 1.0)
    _find_throttle(bench, run_up_rpm)
    base = _rpm(bench, _SETTLES_S)
    figures: dict[str, float] = {}
    if "mag" in bench.lever_names:
        for side, title in (("L", "Drop on left"), ("R", "Drop on right")):
            bench.set_lever("mag", side)
            figures[title] = base - _rpm(bench, _SIDE_S)
            bench.set_lever("mag", "BOTH")
            bench.advance(_SIDE_S)
    if "carb_heat" in bench.lever_names:
        bench.set_lever("carb_heat", 1.0)
        figures["Drop with hot air"] = base - _rpm(bench, _HEAT_S)
        bench.set_lever("carb_heat", 0.0)
    bench.set_lever("throttle", 0.0)
    figures["Idle"] = _rpm(bench, _SETTLES_S)
    bench.set_lever("throttle", 1.0)
    figures["Static RPM"] = _rpm(bench, _SETTLES_S)
    return figures


def _rpm(bench: Bench, after_s: float) -> float:
    bench.advance(after_s)
    return float(bench.true_readings()[0][bench.channels.index("rpm")])


def _find_throttle(bench: Bench, rpm: float) -> None:
    low, high = 0.0, 1.0
    for _ in range(_TRIES):
        middle = (low + high) / 2
        bench.set_lever("throttle", middle)
        low, high = (middle, high) if _rpm(bench, 4.0) < rpm else (low, middle)
