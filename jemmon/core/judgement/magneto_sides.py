"""One magneto alone, measured: settled RPM on both, on one side, on both again. Left means running on the left magneto alone."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from ..aircraft import Profile
from ..trace import Trace
from ..trace.dip_fit import DipFit, fit_all
from ..trace.dips import Span
from ..trace.engine_lags import Lags
from ..trace.tachometer import Tachometer
from .exhausts import egt_changes

_ONE_MAGNETO_RISES_F = 15.0  # common practice: of 70 to 180 °F when settled, what a slow probe shows soon
_FALLS_F = 22.0  # fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25: below it a probe's noise falls too
_QUITS_BELOW = 0.45  # common practice: no plug costs so much
# our own choice: nor so much within a second or two; tests/corpora/whole_run_ups.py, seed 13,300,375
_DYING_BELOW = 0.75
_FAR_FROM_MODEL_RPM = 20.0  # fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25
_ROTOR_WITHIN_S = 2.0  # common practice: the drop of a helicopter's RPM is that within two seconds
_OF_UNKNOWN = ("first", "second")
# fitted to tests/corpora/run_ups.py, seeds 13 and 14: levels on both that are one level, and a throttle that creeps
_SAME_LEVEL_SIGMAS, _CREEPS_RPM_S, _CREEPS_AT_MOST_RPM = 2.0, 0.25, 25.0
# common practice: a key that goes from side to side past BOTH, or not by it, leaves no time to settle there
_DIRECT_WITHIN_S = 1.2
# the plus-or-minus of a drop (95 %): what its fit does not know, and what gusts leave in any settled level
# fitted to tests/strange, seeds 0 to 199, and tests/corpora/whole_run_ups.py, seeds 24 and 25; the second to tests/strange, seeds
# 1,711,000 to 1,711,299
_COVERS, _LEFT_SHARE = 2.1, 0.7


@dataclass(frozen=True, slots=True, kw_only=True)
class Side:
    """One magneto alone: `name` is left, right, first or second. Rises are steady-seeking EGT changes [°F];
    `within_s` is over how long [s] a helicopter's drop was counted, whose needle settles lower; None of other ones."""

    name: str
    base_rpm: float
    drop_rpm: float
    restored_rpm: float
    start_s: float
    end_s: float
    egt_rise_f: Mapping[int, float] = field(default_factory=dict)
    uncertainty_rpm: float = math.nan
    quits: bool = False
    within_s: float | None = None


def measure_sides(
    trace: Trace, profile: Profile, spans: Sequence[tuple[Span, str]], everything: Sequence[Span]
) -> list[Side]:
    """Return the measured sides of one check, in order of time. `spans` carry each side's name or ''.

    Levels on both that agree within their noise are taken together, so that a short dwell leans on the longer ones. The fit is
    fitted to tests/corpora/whole_run_ups.py."""
    rpm = trace.signal("rpm")
    assert rpm is not None
    within_s = _counted_within_s(profile)
    shown = Tachometer.seen_in(trace.time_s, rpm, everything)
    chains = _direct(trace, [span for span, _ in spans])
    quitting = [
        _quit_side(trace, rpm, span, name or _OF_UNKNOWN[number % 2])
        for number, (span, name) in enumerate(spans)
        if quits(rpm, span)
    ]
    alive = [(number, span, name) for number, (span, name) in enumerate(spans) if not quits(rpm, span)]
    fitted = fit_all(
        trace.time_s,
        rpm,
        [(span, bool(name)) for _, span, name in alive],
        everything,
        Lags.usual(profile.lag_scale),
        shown,
        [span for span, chain in chains.items() if chain.goes_on],
    )
    fits = [(*row, fit) for row, fit in zip(alive, fitted, strict=True) if fit is not None]
    levels = _levels_on_both([(fit, chains[span]) for _, span, _, fit in fits])
    sides = []
    for number, span, name, fit in fits:
        base = _level_on_both(fit, levels) if chains[span].is_alone else _level_around(fit, levels)
        drop = base - (fit.base_rpm - fit.drop_rpm)
        if within_s is not None:
            drop = _fallen_in_time(trace.time_s, rpm, fit, base, drop * fit.fallen_after(within_s))
        sides.append(
            Side(
                name=name or _OF_UNKNOWN[number % 2],
                base_rpm=base,
                drop_rpm=drop,
                restored_rpm=fit.restored_rpm,
                start_s=float(trace.time_s[span.first]),
                end_s=float(trace.time_s[span.last]),
                egt_rise_f=egt_changes(trace, Span(chains[span].begins, span.last)),
                uncertainty_rpm=plus_minus_of(fit, shown),
                within_s=within_s,
            )
        )
    return sorted([*sides, *quitting], key=lambda side: side.start_s)


@dataclass(frozen=True, slots=True)
class _Chain:
    """Where a side stands among those that were tried one right after the other, without both between: the first row of the
    first of them, whether another was before it, whether another follows at once."""

    begins: int
    is_later: bool
    goes_on: bool

    @property
    def is_alone(self) -> bool:
        """Whether the engine ran on both before and after it."""
        return not (self.is_later or self.goes_on)


def _direct(trace: Trace, spans: Sequence[Span]) -> dict[Span, _Chain]:
    """Return where each side (in order of time) stands among those that were tried directly one after the other: those that follow
    closely, and by the switch those that were too short to be measured as well."""
    t, switch = trace.time_s, trace.ignition()
    chains: dict[Span, _Chain] = {}
    alone = np.zeros(len(t), dtype=bool) if switch is None else (switch == "L") | (switch == "R")
    for place, span in enumerate(spans):
        before, after = spans[place - 1] if place else None, spans[place + 1] if place + 1 < len(spans) else None
        begins = span.first
        while begins > 0 and alone[begins - 1]:
            begins -= 1
        if before is not None and _follows(t, before, span):
            begins = chains[before].begins
        goes_on = span.last + 1 < len(t) and bool(alone[span.last + 1])
        chains[span] = _Chain(begins, begins < span.first, goes_on or after is not None and _follows(t, span, after))
    return chains


def _follows(t: np.ndarray, span: Span, after: Span) -> bool:
    return bool(t[after.first] - t[span.last] < _DIRECT_WITHIN_S or after.first == span.last + 1)


def _levels_on_both(fits: Sequence[tuple[DipFit, _Chain]]) -> list[tuple[float, float, float]]:
    """Return the levels (RPM, sigma, time [s]) that sides were entered from and left for, where those were on both."""
    before = [(fit.base_rpm, fit.sigma_rpm, fit.start_s) for fit, chain in fits if not chain.is_later]
    left = [fit for fit, chain in fits if np.isfinite(fit.restored_rpm) and not chain.goes_on]
    return [*before, *((fit.restored_rpm, fit.sigma_rpm, fit.end_s) for fit in left)]


def _level_around(fit: DipFit, levels: Sequence[tuple[float, float, float]]) -> float:
    """Return RPM on both during a side that was not entered from both, or not left for it: between the nearest levels before and
    after it."""
    before = [level for level in levels if level[2] <= fit.start_s + 1e-6]
    after = [level for level in levels if level[2] >= fit.end_s - 1e-6]
    near = [*sorted(before, key=lambda level: level[2])[-1:], *sorted(after, key=lambda level: level[2])[:1]]
    return float(np.mean([rpm for rpm, _, _ in near])) if near else fit.base_rpm


def plus_minus_of(fit: DipFit, shown: Tachometer) -> float:
    """Return what a measured drop may be off by (95 %) [RPM]: what its fit does not know, and what gusts leave in any settled
    level. Fitted to tests/strange, seeds 0 to 199."""
    return _COVERS * float(np.hypot(fit.sigma_rpm, _LEFT_SHARE * shown.gusts_rpm))


def _counted_within_s(profile: Profile) -> float | None:
    return _ROTOR_WITHIN_S if profile.engine["propeller"] == "rotor" else None


def _fallen_in_time(t: np.ndarray, rpm: np.ndarray, fit: DipFit, base_rpm: float, modelled_rpm: float) -> float:
    """Return the fall of a helicopter's RPM within two seconds: as modelled, unless the needle stood elsewhere by far then
    (an engine that loses too much lets the rotor go, and falls in its own way)."""
    there = (np.abs(t - fit.start_s - _ROTOR_WITHIN_S) < 0.6) & (t <= fit.end_s) & np.isfinite(rpm)
    if not there.any():
        return modelled_rpm
    read = base_rpm - float(np.mean(rpm[there]))
    return read if abs(read - modelled_rpm) > _FAR_FROM_MODEL_RPM else modelled_rpm


def quits(rpm: np.ndarray, span: Span) -> bool:
    """Say whether the engine dies on one side, by its RPM (rows,): it loses far more than any plug costs."""
    return bool(_share_left(rpm, span) < _QUITS_BELOW)


def is_dying(rpm: np.ndarray, span: Span) -> bool:
    """Say whether the engine was on its way to quit when a span as short as a slip of the switch ended, by its RPM (rows,)."""
    return bool(_share_left(rpm, span) < _DYING_BELOW)


def _share_left(rpm: np.ndarray, span: Span) -> float:
    """Return the lowest speed of a span as a share of the speed before it."""
    before = rpm[max(span.first - 3, 0) : max(span.first, 1)]
    return float(np.nanmin(rpm[span.first : span.last + 1]) / np.nanmean(before))


def _quit_side(trace: Trace, rpm: np.ndarray, span: Span, name: str) -> Side:
    base = float(np.nanmean(rpm[max(span.first - 4, 0) : max(span.first, 1)]))
    t = trace.time_s
    after = (t > t[span.last] + 3.0) & (t < t[span.last] + 6.0)
    return Side(
        name=name,
        base_rpm=base,
        drop_rpm=np.nan,
        restored_rpm=float(np.nanmean(rpm[after])) if after.any() else np.nan,
        start_s=float(t[span.first]),
        end_s=float(t[span.last]),
        quits=True,
    )


def _level_on_both(fit: DipFit, levels: Sequence[tuple[float, float, float]]) -> float:
    """Return RPM on both magnetos during a dip: between the levels before and after it, for a throttle that creeps."""
    before = _pooled(fit.base_rpm, fit.sigma_rpm, fit.start_s, levels)
    if not np.isfinite(fit.restored_rpm) or abs(fit.restored_rpm - fit.base_rpm) > _CREEPS_AT_MOST_RPM:
        return before
    return (before + _pooled(fit.restored_rpm, fit.sigma_rpm, fit.end_s, levels)) / 2


def _pooled(level: float, sigma: float, at_s: float, levels: Sequence[tuple[float, float, float]]) -> float:
    """Return the mean of the levels (RPM, sigma, time) that agree with this one, each weighted by how sure it is and how
    near in time: a throttle creeps."""
    near = [(v, s, t) for v, s, t in levels if abs(v - level) <= _SAME_LEVEL_SIGMAS * np.hypot(sigma, s)]
    weights = np.array([1 / (s * s + 0.5 + (_CREEPS_RPM_S * (t - at_s)) ** 2) for _, s, t in near])
    return float(np.dot(weights, [v for v, _, _ in near]) / weights.sum())


def falling_cylinders(side: Side) -> list[int]:
    """Return the cylinders whose EGT fell while the others rose: their plug on that side is not firing. One that neither
    rises nor falls ran on this side's plug alone before: it is the other side's plug that is dead."""
    rises = side.egt_rise_f
    if len(rises) < 2 or max(rises.values()) < 0.5 * _ONE_MAGNETO_RISES_F:
        return []
    return [c for c, rise in rises.items() if rise < -_FALLS_F]


def every_exhaust_rose(side: Side) -> bool:
    """Say whether every EGT that is measured rose as it does on one magneto."""
    return bool(side.egt_rise_f) and min(side.egt_rise_f.values()) > _ONE_MAGNETO_RISES_F


def sides_in(
    profile: Profile, measured: Mapping[str, object], start_s: float, end_s: float, names: Mapping[str, str]
) -> list[Side]:
    """Return the sides that a kept `mag_check` measured, called by `names` (`{"first": "left", ...}`): for a pilot who says
    which it was. Figures in RPM, rises in °F."""
    rises = measured.get("egt_rise_f") or {}
    assert isinstance(rises, Mapping)
    made = []
    for name in rises:
        drop = measured.get(f"drop_{name}_rpm")
        made.append(
            Side(
                name=names.get(name, name),
                base_rpm=_figure(measured.get("base_rpm")),
                drop_rpm=_figure(drop),
                restored_rpm=_figure(measured.get("restored_rpm")),
                start_s=start_s,
                end_s=end_s,
                egt_rise_f={int(cylinder): float(rise) for cylinder, rise in rises[name].items()},
                uncertainty_rpm=_figure(measured.get(f"drop_{name}_plus_minus_rpm")),
                quits=drop is None,
                within_s=_counted_within_s(profile),
            )
        )
    return made


def _figure(value: object) -> float:
    return float(value) if isinstance(value, int | float) else math.nan
