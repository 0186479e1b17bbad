"""Leaning: where each cylinder's EGT peaks against fuel flow, who peaks first and last, and where the mixture stands.

A probe lags by seconds, so the raw highest EGT comes late and lies too lean. All cylinders are fitted together: each
has its own peak (EGT, fuel flow); the shape of the curve and one lag are common. The shape is a hyperbola about the
peak, flat there because the charge is uneven, near straight far from it (common practice; Heywood's curves).
"""

from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import gaussian_filter1d
from scipy.optimize import least_squares
from scipy.signal import lfilter

from ..aircraft import Profile
from ..trace import Trace
from .finding import LOOK, UNKNOWN, Finding, Reasons

_GRID_S = 0.5
_LEAST_FALL = 0.10  # of fuel flow: less is no leaning
_LEAST_RPM, _ON_GROUND_KT = 1500.0, 35.0
_LONGEST_S = 420.0
_MOVE_INHG, _MOVE_S, _BY_MIXTURE = 0.5, 6.0, 3.0
_CALM_SHARE, _CALM_S = 0.010, (1.1, 2.0)
_END_S = 5.0  # at the end, over which its place is read
_TAIL_S, _TAIL_BREAKS, _TAIL_DOUBT = 12.0, 17, 4.0
_RESTED_S, _LEAVES_S, _RESTS, _PLATEAU_S = 45.0, 12.0, 0.03, 14.0
_PASSED_BY = 0.008  # of fuel flow beyond the peak, before it counts as passed
_AT_PEAK = 0.012
# shape of EGT against relative fuel flow: slope rich and lean [°F], roundness; and the probe's lag [s]
_SHAPE_PRIOR = np.array([1110.0, 1080.0, 0.101])
_SHAPE_SPREAD = np.array([0.08, 0.12, 0.1])
_LAG_PRIOR_S, _LAG_SPREAD_S = 3.2, 1.0
_NEAR_PEAK_F = 50.0  # the hyperbola holds near the peak; what lies far below it counts less
_GOOD_ENOUGH = 1e-4
_EGT_SIGMA_F = 7.0  # with what the model leaves out, which is alike for neighbouring rows


_FITTED: dict[int, "LeanFit"] = {}  # the last pull that was fitted, by its samples


@dataclass(frozen=True, slots=True)
class Peak:
    """One cylinder's peak: EGT [°F], fuel flow there [US gal/h], when it was passed [s], whether it was; and how much lower
    [°F] its EGT stands at the end than the fitted curve says (heads that cooled, fuel flow read with noise)."""

    cylinder: int
    egt_f: float
    ff_gph: float
    at_s: float
    passed: bool
    lower_f: float = 0.0


@dataclass(frozen=True, slots=True)
class LeanFit:
    """The fitted leaning: all cylinders, the common shape, the probe's lag and the fuel flow at the end."""

    peaks: tuple[Peak, ...]
    shape: np.ndarray
    lag_s: float
    final_gph: float

    def flow_gph(self, peak: Peak, below_f: float, side: str) -> float:
        """Return the fuel flow [US gal/h] at which this cylinder's settled EGT lies so far below its peak, rich or lean."""
        rich, lean, roundness = self.shape
        away = float(np.sqrt((below_f / (rich if side == "rich" else lean) + roundness) ** 2 - roundness**2))
        return peak.ff_gph * (1 + away if side == "rich" else 1 - away)

    def offset_f(self, peak: Peak) -> float:
        """Return how far the settled EGT [°F] lies below this cylinder's peak at the end: by the curve and by the probe."""
        return max(float(_below(np.array([self.final_gph / peak.ff_gph - 1]), self.shape)[0]) + peak.lower_f, 0.0)


def find_leanings(trace: Trace, profile: Profile) -> list[Finding]:
    """Return a `lean` finding for each pull of the mixture at steady power."""
    findings = []
    for start, end in leaning_spans(trace):
        fit = fit_leaning(trace.part(start, end))
        if fit is not None:
            finding = judge_leaning(profile, fit, float(trace.time_s[start]), float(trace.time_s[end - 1]))
            findings.append(replace(finding, measured={**finding.measured, **_set_at(trace, start, end)}))
    return findings


def _set_at(trace: Trace, start: int, end: int) -> dict[str, float | None]:
    """Return altitude, manifold pressure and RPM at which the mixture was set: what has to stay for it to stay right."""
    found: dict[str, float | None] = {}
    for name, signal in (("palt_ft", "palt"), ("map_inhg", "map"), ("rpm", "rpm")):
        values = trace.signal(signal)
        known = np.zeros(0) if values is None else values[max(start, end - 20) : end]
        known = known[np.isfinite(known)]
        found[name] = float(np.median(known)) if known.size else None
    return found


def leaning_spans(trace: Trace) -> list[tuple[int, int]]:
    """Return rows (start, end) of each stretch in which fuel flow was pulled back while manifold pressure held."""
    rpm, flow, pressure = (trace.signal(name) for name in ("rpm", "ff", "map"))
    if rpm is None or flow is None or len(trace) < 20 or not trace.cylinders("egt"):
        return []
    width = max(1.0, 1.5 * trace.rate_hz)
    flow = gaussian_filter1d(np.nan_to_num(flow), width)
    steady = np.nan_to_num(rpm) > _LEAST_RPM
    airspeed = trace.signal("ias")
    if airspeed is not None:  # on the ground a leaned engine taxies, is tried, or burns off its plugs
        steady &= np.nan_to_num(airspeed, nan=100.0) > _ON_GROUND_KT
    if pressure is not None:
        smooth = gaussian_filter1d(np.nan_to_num(pressure, nan=float(np.nanmedian(pressure))), width)
        steady &= ~_throttle_moved(smooth, flow, max(1, round(_MOVE_S * trace.rate_hz)))
    spans = []
    edges = np.flatnonzero(np.diff(np.concatenate([[0], steady.astype(int), [0]])))
    for first, end in zip(edges[::2], edges[1::2], strict=True):
        spans += _pulls(trace.time_s, flow, int(first), int(end))
    return spans


def _throttle_moved(pressure: np.ndarray, flow: np.ndarray, reach: int) -> np.ndarray:
    """Return the rows around which manifold pressure moved by another hand than the mixture's: a throttle moves fuel flow about
    in proportion; a mixture moves it far more than the pressure, which follows the RPM of a propeller on its stop."""
    moved = np.zeros(len(pressure), bool)
    if len(pressure) <= reach:
        return moved
    change = np.abs(pressure[reach:] - pressure[:-reach])
    share = change / np.maximum(pressure[reach:], 1.0)
    flow_share = np.abs(flow[reach:] - flow[:-reach]) / np.maximum(flow[reach:], 0.1)
    by_throttle = (change > _MOVE_INHG) & (flow_share < _BY_MIXTURE * share)
    around = np.convolve(by_throttle, np.ones(reach), mode="full") > 0
    moved[: len(around)] = around
    return moved


def _pulls(t: np.ndarray, flow: np.ndarray, first: int, end: int) -> list[tuple[int, int]]:
    """Split one steady stretch into pulls: from the rich plateau before each fall until the next rich plateau."""
    spans = []
    while end - first >= 12:
        part = flow[first:end]
        highest = np.maximum.accumulate(part)
        fallen = np.flatnonzero(part < (1 - _LEAST_FALL) * highest)
        if fallen.size == 0:
            break
        begun = int(fallen[0])
        plateau = np.flatnonzero(part[:begun] > 0.985 * highest[begun])
        start = max(int(plateau[-1]) if plateau.size else 0, 0)
        start = int(np.searchsorted(t[first:end], t[first + start] - 6.0))
        stop = int(np.searchsorted(t[first:end], t[first + begun] + _LONGEST_S))
        rich_again = np.flatnonzero(part[begun:stop] > 0.97 * highest[begun])
        if rich_again.size:
            stop = begun + int(rich_again[0])
            stop = _where_it_ends(t[first:end], part, begun, stop)
        spans.append((first + start, first + stop))
        first += max(stop, 1)
    return spans


def _where_it_ends(t: np.ndarray, flow: np.ndarray, begun: int, rich: int) -> int:
    """Return the row up to which a pull belongs together that came back to the rich plateau at row `rich`: a mixture that
    rested for long before was the one flown with; else the plateau itself is where it was left."""
    rested = np.ptp(flow[(t > t[rich] - _RESTED_S - _LEAVES_S) & (t < t[rich] - _LEAVES_S)]) < _RESTS * flow[rich]
    if t[rich] - t[begun] > _RESTED_S + _LEAVES_S and rested:
        return int(np.searchsorted(t, t[rich] - _LEAVES_S))
    stays = np.flatnonzero((t > t[rich]) & (flow < 0.95 * flow[rich]))
    until = min(t[rich] + _PLATEAU_S, t[stays[0]] if stays.size else np.inf)
    return int(np.searchsorted(t, until))


def fit_leaning(trace: Trace) -> LeanFit | None:
    """Fit all cylinders of one leaning together; None where there are too few samples to say anything."""
    flow = trace.signal("ff")
    cylinders = trace.cylinders("egt")
    if flow is None or not cylinders or len(trace) < 12:
        return None
    t = trace.time_s
    step_s = max(_GRID_S, 1 / trace.rate_hz if trace.rate_hz < 1 else _GRID_S)
    grid = np.arange(t[0], t[-1], step_s)
    key = hash((t.tobytes(), flow.tobytes(), *(values.tobytes() for values in cylinders.values())))
    if known := _FITTED.get(key):  # the judgement and the working picture ask for the same pull, each second
        return known
    good = np.isfinite(flow)
    fine = np.interp(grid, t[good], flow[good])
    fuel = gaussian_filter1d(fine, _calm_s(fine, step_s) / step_s)
    egt = np.stack([_binned(t, values, grid) for values in cylinders.values()])
    used = _nearness(fuel, egt, step_s)
    solution = _solve(fuel, egt, step_s, used)
    n = len(cylinders)
    tops, flows = solution[:n], solution[n : 2 * n] * np.median(fuel)
    shape, lag_s = np.exp(solution[2 * n : 2 * n + 3]) * _SHAPE_PRIOR, float(solution[-1])
    last = grid > grid[-1] - _END_S
    settled = tops[:, None] - _below(fuel[None, :] / flows[:, None] - 1, shape)
    lower = (_lagged(settled, step_s, lag_s) - egt)[:, last].mean(axis=1)
    peaks = tuple(
        Peak(
            number,
            float(tops[k]),
            float(flows[k]),
            _passed_at(grid, fuel, flows[k]),
            _passed(fuel, flows[k]),
            float(lower[k]),
        )
        for k, number in enumerate(cylinders)
    )
    fit = LeanFit(peaks, shape, lag_s, _final_gph(t[good], flow[good]))
    _FITTED.clear()
    _FITTED[key] = fit
    return fit


def _lagged(settled: np.ndarray, step_s: float, lag_s: float) -> np.ndarray:
    """Return what probes with this lag show of settled figures (shape (cylinders, rows))."""
    keep = np.exp(-step_s / max(lag_s, 0.05))
    follow, _ = lfilter([1 - keep], [1, -keep], settled, axis=1, zi=keep * settled[:, :1])
    return np.asarray(follow)


def _calm_s(flow: np.ndarray, step_s: float) -> float:
    """Return over how long [s] fuel flow may be averaged: long in a slow pull, where its noise would pass for movement and a
    probe with a longer lag would explain it better; short in a fast one, which averaging would bend."""
    smooth = gaussian_filter1d(flow, 2.0 / step_s)
    pulled_per_s = float(np.quantile(np.abs(np.gradient(smooth, step_s)), 0.8)) / float(np.median(flow))
    return float(np.clip(_CALM_SHARE / max(pulled_per_s, 1e-6), *_CALM_S))


def _binned(t: np.ndarray, values: np.ndarray, grid: np.ndarray) -> np.ndarray:
    good = np.isfinite(values)
    return np.interp(grid, t[good], values[good]) if good.any() else np.full(len(grid), np.nan)


def _nearness(fuel: np.ndarray, egt: np.ndarray, step_s: float) -> np.ndarray:
    """Return the weight of each figure: near the peak the curve is known, far from it and long after a move less so."""
    below = egt.max(axis=1, keepdims=True) - egt
    moving = np.abs(np.gradient(fuel, step_s)) > 0.012 * float(np.median(fuel)) / 4
    since_s = np.full(len(fuel), 0.0)
    for k in range(1, len(fuel)):
        since_s[k] = 0.0 if moving[k] else since_s[k - 1] + step_s
    fresh = np.where(since_s > 12.0, 0.2, 1.0)
    fresh[:4] = 0.3  # the filter's start
    return fresh[None, :] / (1 + (below / _NEAR_PEAK_F) ** 2)


def _below(x: np.ndarray, shape: np.ndarray) -> np.ndarray:
    slope = np.where(x > 0, shape[0], shape[1])
    return slope * (np.sqrt(x * x + shape[2] ** 2) - shape[2])


def _solve(fuel: np.ndarray, egt: np.ndarray, step_s: float, weight: np.ndarray) -> np.ndarray:
    """Least squares over (peak EGT, relative fuel flow at peak) a cylinder, three logs of shape, and the lag."""
    n = len(egt)
    scale = float(np.median(fuel))
    shift = int(_LAG_PRIOR_S / step_s)
    lagged = np.concatenate([np.full(shift, fuel[0]), fuel])[: len(fuel)]
    start_flow = lagged[np.argmax(gaussian_filter1d(egt, 1.5 / step_s, axis=1), axis=1)] / scale

    def model(p: np.ndarray) -> np.ndarray:
        shape, lag = np.exp(p[2 * n : 2 * n + 3]) * _SHAPE_PRIOR, p[-1]
        settled = p[:n, None] - _below(fuel[None, :] / (p[n : 2 * n, None] * scale) - 1, shape)
        return _lagged(settled, step_s, float(lag))

    def residuals(p: np.ndarray) -> np.ndarray:
        misfit = (model(p) - egt) / _EGT_SIGMA_F * weight * np.sqrt(step_s)
        prior = [p[2 * n : 2 * n + 3] / _SHAPE_SPREAD, [(p[-1] - _LAG_PRIOR_S) / _LAG_SPREAD_S]]
        return np.concatenate([misfit.ravel(), *prior])

    start = np.concatenate([egt.max(axis=1) + 3, start_flow, np.zeros(3), [_LAG_PRIOR_S]])
    low = np.concatenate([np.full(n, 200.0), np.full(n, 0.4), np.full(3, -1.2), [0.1]])
    high = np.concatenate([np.full(n, 2200.0), np.full(n, 2.2), np.full(3, 1.2), [8.0]])
    found = least_squares(
        residuals,
        np.clip(start, low + 1e-6, high - 1e-6),
        bounds=(low, high),
        x_scale="jac",
        loss="soft_l1",
        ftol=_GOOD_ENOUGH,
        xtol=_GOOD_ENOUGH,
    )
    return np.asarray(found.x)


def _final_gph(t: np.ndarray, flow: np.ndarray) -> float:
    """Return the fuel flow [US gal/h] at the end. The last seconds are taken for a line and then a rest, the rest as long as
    the noise allows: so a record that stops while the mixture still moves does not place it seconds behind."""
    late = t >= max(min(t[-1] - _TAIL_S, t[-4]), t[0])
    t, flow = t[late] - t[-1], flow[late]
    breaks = np.linspace(t[0], 0.0, _TAIL_BREAKS)
    before = np.minimum(t[None, :] - breaks[:, None], 0.0)
    away = before - before.mean(axis=1, keepdims=True)
    spread = (away**2).sum(axis=1)
    slope = (away @ flow) / np.maximum(spread, 1e-9)
    rest = flow.mean() - slope * before.mean(axis=1)
    misfit = ((flow - rest[:, None] - slope[:, None] * before) ** 2).sum(axis=1)
    noise = (
        float(np.median(np.diff(flow) ** 2)) / 0.91
    )  # of a difference of two: twice the variance, its median 0.455 of it
    return float(rest[np.flatnonzero(misfit <= misfit.min() + _TAIL_DOUBT * noise)[0]])


def _passed(fuel: np.ndarray, peak_gph: float) -> bool:
    return bool(fuel.min() < peak_gph * (1 - _PASSED_BY) and fuel.max() > peak_gph * (1 + _PASSED_BY))


def _passed_at(grid: np.ndarray, fuel: np.ndarray, peak_gph: float) -> float:
    below = np.flatnonzero(fuel < peak_gph)
    return float(grid[below[0]]) if below.size else float(grid[-1])


def judge_leaning(profile: Profile, fit: LeanFit, start_s: float, end_s: float) -> Finding:
    """Return the `lean` finding: peaks passed, first and last, spread, and on which side by how much it ends."""
    passed = [peak for peak in fit.peaks if peak.passed]
    first = max(passed, key=lambda p: p.ff_gph) if passed else None
    last = min(passed, key=lambda p: p.ff_gph) if passed else None
    everyone = len(passed) == len(fit.peaks)
    side, reference = _side(fit, passed)
    offset = None if reference is None or side == "peak" else fit.offset_f(reference)
    measured = {
        "peaks": [
            {"cylinder": p.cylinder, "egt_f": p.egt_f, "ff_gph": p.ff_gph, "at_s": p.at_s}
            for p in sorted(passed, key=lambda p: -p.ff_gph)
        ],
        "first_to_peak": first.cylinder if first else None,
        "last_to_peak": last.cylinder if last and everyone and len(passed) > 1 else None,
        "spread_gph": first.ff_gph - last.ff_gph if first and last and everyone and len(passed) > 1 else None,
        "side": side,
        "offset_f": 0.0 if side == "peak" else offset,
        "reference": reference.cylinder if reference else None,
        "power_pct": None,
        "ff_gph": fit.final_gph,
        "lag_s": fit.lag_s,
    }
    reasons = Reasons()
    if first is None or reference is None or offset is None and side != "peak":
        reasons.add(
            UNKNOWN, "No cylinder was seen to pass its peak.", "Lean on slowly until the EGT falls, then richer."
        )
        offset = offset or 0.0
    else:
        offset = offset or 0.0
        _judge_place(side, offset, reasons)
    name = reference.cylinder if reference else 0
    within = f"{offset:.0f} °F {side} of peak on cylinder {name}, the {'first' if side == 'rich' else 'last'} to peak."
    return Finding.of(
        "lean",
        (start_s, end_s),
        reasons.outcome(within, "common practice"),
        measured,
        {"power_max_pct": profile.limit("lean_power_max_pct")} if "lean_power_max_pct" in profile.limits else {},
    )


def _judge_place(side: str, offset_f: float, reasons: Reasons) -> None:
    if side == "peak":
        because = "The mixture stands at peak EGT on some cylinders."
        reasons.add(LOOK, because, "Richer to your target, or allowed only at low power by your handbook.")
    elif side == "rich" and offset_f < 35:
        because = f"Only {offset_f:.0f} °F rich of peak: near the hottest cylinder head."
        reasons.add(LOOK, because, "Richer to 50 °F or more rich of peak.")


def _side(fit: LeanFit, passed: list[Peak]) -> tuple[str, Peak | None]:
    """Return the side of peak at the end and the cylinder that it is counted from."""
    if not passed:
        return "unknown", None
    first = max(passed, key=lambda p: p.ff_gph)
    last = min(fit.peaks, key=lambda p: p.ff_gph)
    if fit.final_gph > first.ff_gph * (1 + _AT_PEAK):
        return "rich", first
    if last.passed and fit.final_gph < last.ff_gph * (1 - _AT_PEAK):
        return "lean", last
    return "peak", first
