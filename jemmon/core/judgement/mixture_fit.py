"""The fit of one pull of the mixture: where each cylinder's EGT peaks against fuel flow, and where it ends.

A probe lags by seconds, so the raw highest EGT comes late and lies too lean. All cylinders are fitted together: each
has its own peak (EGT, fuel flow); the shape of the curve and one lag are common. The shape is a hyperbola about the
peak, flat there because the charge is uneven, near straight far from it (common practice; Heywood's curves).
"""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d
from scipy.optimize import least_squares

from ..trace import Trace
from .exhausts import USUAL_PROBE_LAG_S, working_probes

# fitted to tests/corpora/leanings.py, seeds 13 to 18, but where it says otherwise
_GRID_S, _LEAST_ROWS = 0.5, 8
_CALM_SHARE, _CALM_S = 0.010, (1.1, 2.0)
_NO_FLOW_GPH = 0.01  # an engine that stands; nothing is divided by less
_END_S = 5.0  # at the end, over which the probes are compared with the curve
_TAIL_S, _TAIL_BREAKS, _TAIL_DOUBT = 12.0, 17, 4.0
_PASSED_BY = 0.008  # of fuel flow beyond the peak, before it counts as passed
# shape of EGT against relative fuel flow: slope rich and lean [°F], roundness (a crank-angle calculation of ours; Heywood's
# curves); and the probe's lag [s] (common practice: 1 to 6)
_SHAPE_PRIOR = np.array([1110.0, 1080.0, 0.101])
_SHAPE_SPREAD = np.array([0.08, 0.12, 0.1])
_LAG_SPREAD_S = 1.0
_NEAR_PEAK_F = 50.0  # the hyperbola holds near the peak; what lies far below it counts less
_GOOD_ENOUGH = 1e-4
_LAG_STEP_S = 1e-4
# what is left over usually [°F], what of it an offset may be off by, and what it may be off by in any case (sigma) [°F]; fitted to
# tests/strange, seeds 0 to 199, the last to its plain flights, seeds 0 to 199: an exhaust with a sharper corner is told 5 °F short
_USUAL_MISFIT_F, _MISFIT_SHARE, _LEFT_F = 3.0, 0.6, 3.0
# more than twice what a curve of this family leaves over on any engine of tests/strange, seeds 0 to 39 (6.1 °F at the most); over
# what a raw peak is taken [s]
_NOT_DESCRIBED_F, _RAW_S = 14.0, 1.5
# how far around its fuel flow at peak an EGT bends, what is as good as the least flow, how many lags of a probe [s] it follows in
# (common practice: a lever pulled faster than the probe follows shows no peak; a usual probe's lag is the least that is believed of
# a quick pull, which a broader curve explains as well)
_BENDS_WITHIN, _NEARLY, _FOLLOWS_LAGS, _LEAST_LAG_S = 0.08, 1.01, 1.25, 3.6
_EGT_SIGMA_F = 7.0  # with what the model leaves out, which is alike for neighbouring rows


@dataclass(frozen=True, slots=True)
class Peak:
    """One cylinder's peak: EGT [°F], fuel flow there [US gal/h], when it was passed [s], whether it was; and how much lower
    [°F] its EGT is at the end than the fitted curve says (cylinders that cooled, fuel flow read with noise); how unsure its fuel
    flow is (sigma)."""

    cylinder: int
    egt_f: float
    ff_gph: float
    at_s: float
    passed: bool
    lower_f: float = 0.0
    ff_sigma_gph: float = 0.0


@dataclass(frozen=True, slots=True)
class LeanFit:
    """The fitted leaning: all cylinders, the common shape, the probe's lag and the fuel flow at the end; whether the mixture went
    past the peaks faster than a probe follows."""

    peaks: tuple[Peak, ...]
    shape: np.ndarray
    lag_s: float
    final_gph: float
    misfit_f: float = 0.0
    final_sigma_gph: float = 0.0
    was_pulled: bool = False

    def offset_sigma_f(self, peak: Peak) -> float:
        """Return how unsure `offset_f` is (sigma) [°F]: by fuel flows, by how steep the curve is there, by what the fit leaves."""
        x = self.final_gph / peak.ff_gph - 1
        slope = float(self.shape[0] if x > 0 else self.shape[1]) * abs(x) / float(np.hypot(x, self.shape[2]))
        by_flow = slope * float(np.hypot(peak.ff_sigma_gph, self.final_sigma_gph)) / peak.ff_gph
        return float(np.hypot(by_flow, _LEFT_F + _MISFIT_SHARE * self.misfit_f))

    def flow_gph(self, peak: Peak, below_f: float, side: str) -> float:
        """Return the fuel flow [US gal/h] at which this cylinder's settled EGT lies so far below its peak, rich or lean."""
        rich, lean, roundness = self.shape
        away = float(np.sqrt((below_f / (rich if side == "rich" else lean) + roundness) ** 2 - roundness**2))
        return peak.ff_gph * (1 + away if side == "rich" else 1 - away)

    def offset_f(self, peak: Peak) -> float:
        """Return how far the settled EGT [°F] lies below this cylinder's peak at the end: by the curve and by the probe."""
        return max(float(_below(np.array([self.final_gph / peak.ff_gph - 1]), self.shape)[0]) + peak.lower_f, 0.0)


def fit_leaning(trace: Trace) -> LeanFit | None:
    """Fit all cylinders of one leaning together; None where there are too few samples to say anything. Fitted to
    tests/corpora/leanings.py."""
    flow = trace.signal("ff")
    cylinders = working_probes(trace)
    if flow is None or not cylinders or len(trace) < _LEAST_ROWS:
        return None
    t = trace.time_s
    step_s = max(_GRID_S, 1 / trace.rate_hz if trace.rate_hz < 1 else _GRID_S)
    grid = np.arange(t[0], t[-1], step_s)
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
    misfit_f, left_f, sigmas = _unsure(_Pull(fuel, egt, used, step_s), solution)
    final_gph, final_sigma_gph = _final_gph(t[good], flow[good])
    for k in np.flatnonzero(left_f > _NOT_DESCRIBED_F):  # the curve is another: what was seen rules, and is less sure
        raw = _raw_peak(fuel, egt[k], step_s, lag_s, last)
        sigmas[k] = float(np.hypot(sigmas[k], abs(raw.ff_gph - flows[k]) / 2))
        tops[k], flows[k] = raw.egt_f, raw.ff_gph
        lower[k] = raw.offset_f - float(_below(np.array([final_gph / flows[k] - 1]), shape)[0])
    peaks = tuple(
        Peak(
            number,
            float(tops[k]),
            float(flows[k]),
            _passed_at(grid, fuel, flows[k]),
            _passed(fuel, flows[k]),
            float(lower[k]),
            float(sigmas[k]),
        )
        for k, number in enumerate(cylinders)
    )
    passes_in_s = _passes_in_s(grid, fine, float(np.median(flows)), float(fuel.min()))
    was_pulled = passes_in_s < _FOLLOWS_LAGS * max(lag_s, _LEAST_LAG_S)
    return LeanFit(peaks, shape, lag_s, final_gph, misfit_f, final_sigma_gph, was_pulled)


def _passes_in_s(grid: np.ndarray, fuel: np.ndarray, peak_gph: float, least_gph: float) -> float:
    """Return how long [s] the fuel flow [US gal/h] took through the band around a peak's in which EGT bends, endless where it never
    came down from above. Between rows by straight lines."""
    rich = min(peak_gph * (1 + _BENDS_WITHIN), float(fuel.max()) / _NEARLY)  # it may have begun near the peak
    lean = max(peak_gph * (1 - _BENDS_WITHIN), least_gph * _NEARLY)
    below = np.flatnonzero(fuel <= lean)
    above = np.flatnonzero(fuel[: below[0]] >= rich) if below.size else below
    if not above.size:
        return np.inf
    begins, ends = int(above[-1]), int(below[0])
    part = slice(begins, ends + 1)
    falling = np.minimum.accumulate(fuel[part])[::-1]
    rich_s, lean_s = np.interp([rich, lean], falling, grid[part][::-1])
    return float(lean_s - rich_s)


@dataclass(frozen=True, slots=True)
class _RawPeak:
    """A cylinder's highest EGT [°F] as it was shown, the fuel flow a probe's lag before it [US gal/h], and how far below it the
    probe is at the end [°F]."""

    egt_f: float
    ff_gph: float
    offset_f: float


def _raw_peak(fuel: np.ndarray, egt_f: np.ndarray, step_s: float, lag_s: float, last: np.ndarray) -> _RawPeak:
    """Return the peak of one cylinder without any curve: the highest of what its probe showed. Common practice."""
    smooth = gaussian_filter1d(egt_f, _RAW_S / step_s)
    row = int(np.argmax(smooth))
    before = max(row - round(lag_s / step_s), 0)
    return _RawPeak(float(smooth[row]), float(fuel[before]), max(float(smooth[row] - egt_f[last].mean()), 0.0))


def _unsure(pull: "_Pull", solution: np.ndarray) -> tuple[float, np.ndarray, np.ndarray]:
    """Return (misfit near the peaks [°F], the same of each cylinder (cylinders,), how unsure each one's fuel flow at peak is [US
    gal/h], shape (cylinders,)): by the curvature of the least squares, scaled to what is left over."""
    n = len(pull.egt)
    settled = solution[:n, None] - _below(pull.away(solution), pull.shape(solution))
    left = _lagged(settled, pull.step_s, float(solution[-1])) - pull.egt
    misfit_f = float(np.sqrt(np.average(left**2, weights=pull.weight**2)))
    jacobian = pull.jacobian(solution)
    spread = np.linalg.pinv(jacobian.T @ jacobian)
    scale = max(misfit_f / _USUAL_MISFIT_F, 1.0)
    own_f = np.sqrt(np.average(left**2, weights=pull.weight**2, axis=1))
    return misfit_f, own_f, scale * np.sqrt(np.diag(spread)[n : 2 * n]) * pull.scale


def _lagged(settled: np.ndarray, step_s: float, lag_s: float) -> np.ndarray:
    """Return what probes with this lag show of settled figures (shape (cylinders, rows))."""
    from scipy.signal import lfilter  # here, not above: the server starts without it

    keep = np.exp(-step_s / max(lag_s, 0.05))
    follow, _ = lfilter([1 - keep], [1, -keep], settled, axis=1, zi=keep * settled[:, :1])
    return np.asarray(follow)


def _calm_s(flow: np.ndarray, step_s: float) -> float:
    """Return over how long [s] fuel flow may be averaged: long in a slow pull, where its noise would pass for movement and a
    probe with a longer lag would explain it better; short in a fast one, which averaging would bend."""
    smooth = gaussian_filter1d(flow, 2.0 / step_s)
    pulled_per_s = float(np.quantile(np.abs(np.gradient(smooth, step_s)), 0.8)) / max(
        float(np.median(flow)), _NO_FLOW_GPH
    )
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
    return np.asarray(fresh[None, :] / (1 + (below / _NEAR_PEAK_F) ** 2))


def _below(x: np.ndarray, shape: np.ndarray) -> np.ndarray:
    slope = np.where(x > 0, shape[0], shape[1])
    return np.asarray(slope * (np.sqrt(x * x + shape[2] ** 2) - shape[2]))


@dataclass(frozen=True, slots=True)
class _Pull:
    """One pull as it is fitted. Parameters: peak EGT of each cylinder, its fuel flow at peak against the median, three logs of
    shape, the lag. `fuel` (rows), `egt` and `weight` (cylinders, rows)."""

    fuel: np.ndarray
    egt: np.ndarray
    weight: np.ndarray
    step_s: float

    @property
    def scale(self) -> float:
        """The median fuel flow [US gal/h]."""
        return float(np.median(self.fuel))

    @property
    def row_weight(self) -> np.ndarray:
        """What a misfit of 1 °F counts."""
        return np.asarray(self.weight * np.sqrt(self.step_s) / _EGT_SIGMA_F)

    def away(self, p: np.ndarray) -> np.ndarray:
        """Return how far the fuel flow is from each cylinder's peak, as a share of it."""
        n = len(self.egt)
        return np.asarray(self.fuel[None, :] / (p[n : 2 * n, None] * self.scale) - 1)

    def shape(self, p: np.ndarray) -> np.ndarray:
        """Return the shape in its own units."""
        return np.asarray(np.exp(p[-4:-1]) * _SHAPE_PRIOR)

    def residuals(self, p: np.ndarray) -> np.ndarray:
        """Return the weighted misfit of every figure, and of the four that have a prior."""
        settled = p[: len(self.egt), None] - _below(self.away(p), self.shape(p))
        misfit = (_lagged(settled, self.step_s, float(p[-1])) - self.egt) * self.row_weight
        return np.concatenate([misfit.ravel(), p[-4:-1] / _SHAPE_SPREAD, [(p[-1] - USUAL_PROBE_LAG_S) / _LAG_SPREAD_S]])

    def jacobian(self, p: np.ndarray) -> np.ndarray:
        """Return the derivatives of the residuals. By hand: a live leaning is fitted each second, and this is most of its cost."""
        n, rows = self.egt.shape
        x, shape, lag_s = self.away(p), self.shape(p), float(p[-1])
        root, slope = np.sqrt(x * x + shape[2] ** 2), np.where(x > 0, shape[0], shape[1])
        below = slope * (root - shape[2])
        by_flow = slope * x / root * (x + 1) / p[n : 2 * n, None]
        by_shape = (np.where(x > 0, below, 0.0), np.where(x > 0, 0.0, below), slope * shape[2] * (shape[2] / root - 1))
        settled = p[:n, None] - below
        later = _lagged(settled, self.step_s, lag_s + _LAG_STEP_S) - _lagged(settled, self.step_s, lag_s)
        out = np.zeros((n * rows + 4, 2 * n + 4))
        blocks = out[: n * rows].reshape(n, rows, 2 * n + 4)
        each = np.arange(n)
        blocks[each, :, each] = self.row_weight
        blocks[each, :, n + each] = _lagged(by_flow, self.step_s, lag_s) * self.row_weight
        for k, by in enumerate(by_shape):
            blocks[:, :, 2 * n + k] = -_lagged(by, self.step_s, lag_s) * self.row_weight
        blocks[:, :, -1] = later / _LAG_STEP_S * self.row_weight
        out[n * rows :, 2 * n :] = np.diag([*(1 / _SHAPE_SPREAD), 1 / _LAG_SPREAD_S])
        return out


def _solve(fuel: np.ndarray, egt: np.ndarray, step_s: float, weight: np.ndarray) -> np.ndarray:
    """Least squares over (peak EGT, relative fuel flow at peak) a cylinder, three logs of shape, and the lag."""
    n, pull = len(egt), _Pull(fuel, egt, weight, step_s)
    lagged = np.concatenate([np.full(int(USUAL_PROBE_LAG_S / step_s), fuel[0]), fuel])[: len(fuel)]
    start_flow = lagged[np.argmax(gaussian_filter1d(egt, 1.5 / step_s, axis=1), axis=1)] / pull.scale
    start = np.concatenate([egt.max(axis=1) + 3, start_flow, np.zeros(3), [USUAL_PROBE_LAG_S]])
    low = np.concatenate([np.full(n, 200.0), np.full(n, 0.4), np.full(3, -1.2), [0.1]])
    high = np.concatenate([np.full(n, 2200.0), np.full(n, 2.2), np.full(3, 1.2), [8.0]])
    found = least_squares(
        pull.residuals,
        np.clip(start, low + 1e-6, high - 1e-6),
        jac=pull.jacobian,
        bounds=(low, high),
        x_scale="jac",
        loss="soft_l1",
        ftol=_GOOD_ENOUGH,
        xtol=_GOOD_ENOUGH,
    )
    return np.asarray(found.x)


def _final_gph(t: np.ndarray, flow: np.ndarray) -> tuple[float, float]:
    """Return the fuel flow [US gal/h] at the end, and how unsure it is (sigma). The last seconds are taken for a line and then a
    rest, the rest as long as the noise allows: so a record that stops while the mixture still moves does not place it seconds
    behind."""
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
    good = np.flatnonzero(misfit <= misfit.min() + _TAIL_DOUBT * noise)
    unsure = float(np.hypot(np.ptp(rest[good]) / 4, np.sqrt(noise / 2 / len(t))))
    return float(rest[good[0]]), unsure


def _passed(fuel: np.ndarray, peak_gph: float) -> bool:
    return bool(fuel.min() < peak_gph * (1 - _PASSED_BY) and fuel.max() > peak_gph * (1 + _PASSED_BY))


def _passed_at(grid: np.ndarray, fuel: np.ndarray, peak_gph: float) -> float:
    below = np.flatnonzero(fuel < peak_gph)
    return float(grid[below[0]]) if below.size else float(grid[-1])
