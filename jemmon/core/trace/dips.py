"""Falls of RPM that come back: where they are, and how deep, in samples that are noisy and few.

A dip is a step down and a step back, each followed with the engine's own lag. `fit_dip` fits both steps at once, so
that a dwell of three samples gives its figure without waiting for the needle. What a dip means (a magneto, carburettor
heat) is decided in judgement/.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
# lags to try [s], the usual one, and the spread of its logarithm: a propeller; hot air comes through with a lag of its own
_LAGS_S, _USUAL_LAG_S = (0.18, 0.22, 0.27, 0.34, 0.45, 0.6), 0.27
_OWN_LAGS_S = (0.22, 0.235, 0.25, 0.26, 0.27, 0.28, 0.295, 0.315, 0.34)  # of a slow one, whose type says how slow
_HOT_AIR_LAG_S, _HOT_AIR_LATE_S = 0.7, 1.3
_LAG_SPREAD, _OWN_LAG_SPREAD = 0.2, 0.05  # of a usual propeller; of a slow one, whose type says how slow
# what a return is tied to the fall by [RPM], how far off it may be when it is not, and the size of a usual drop
_TIED_RPM, _FREE_RPM, _LIKELY_DROP_RPM = 2.0, 60.0, 120.0
_GUST_RPM, _GUST_S = 2.0, 2.0  # gusts on a propeller, and how long they last (common practice)
_SLOWEST_ROWS_S = 0.2
_LONGEST_DIP_S = 60.0
_WINDOW_S, _REACH_S = 8.0, 62.0  # what is fitted around a dip; what is looked at at all, for the noise of a minute
_SETTLED_AFTER_S = 2.5
_SLOW_STEP_S, _FALLS_AWAY_RPM = 2.0, 75.0
_SLOW_SCALE = 2.0
_ENDS_ABOVE_RPM = 170.0  # ice that melts under heat ends so far above


@dataclass(frozen=True, slots=True)
class Span:
    """Rows `first` up to and including `last` were spent away (on one magneto, or hot)."""

    first: int
    last: int


@dataclass(frozen=True, slots=True)
class DipFit:
    """A measured dip: RPM before, how far it fell when settled, RPM after, when it began and ended, and how sure."""

    base_rpm: float
    drop_rpm: float
    restored_rpm: float
    start_s: float
    end_s: float
    sigma_rpm: float
    lag_s: float = 0.0

    def fallen_after(self, seconds: float) -> float:
        """Return the share of the fall that comes within so many seconds: for a rotor, which slows on and on."""
        return float(1 - np.exp(-seconds / self.lag_s)) if self.lag_s > 0 else 1.0

    @property
    def seconds(self) -> float:
        """How long the engine was away."""
        return self.end_s - self.start_s


def rpm_noise(rpm: np.ndarray) -> float:
    """Return the noise (sigma) of RPM from second differences, which steps and slow drifts hardly touch."""
    rpm = rpm[np.isfinite(rpm)]
    if len(rpm) < 5:
        return 4.0
    second = np.diff(rpm, 2) / np.sqrt(6)
    return float(np.clip(1.4826 * np.median(np.abs(second - np.median(second))), 0.7, 8.0))


def shortest_check_s(step_s: float) -> float:
    """Return the dwell [s] that distinguishes a check from a slip: a slip is 1 s or less; a check 3 s at 1 Hz, else 2 s."""
    return 2.4 if step_s > 0.55 else 1.5


def edges(time_s: np.ndarray, rpm: np.ndarray, noise: float, width_s: float = 1.25) -> list[tuple[int, float]]:
    """Return the steps of RPM as (row at which the new level begins, size), strongest of their neighbourhood."""
    step_s = float(np.median(np.diff(time_s)))
    w = max(2, round(width_s / step_s))
    if len(rpm) < 2 * w + 1:
        return []
    total = np.concatenate([[0.0], np.cumsum(rpm)])
    mean = (total[w:] - total[:-w]) / w
    score = np.zeros(len(rpm))
    score[w : len(rpm) - w + 1] = mean[w:] - mean[:-w]
    threshold = max(17.0, min(4.5 * noise * np.sqrt(2 / w), 28.0))  # few, large steps look like noise to `rpm_noise`
    size = np.abs(score)
    found: list[tuple[int, float]] = []
    for row in np.flatnonzero(size > threshold):
        around = score[max(row - w, 0) : row + w + 1]
        same = np.abs(np.where(np.sign(around) == np.sign(score[row]), around, 0.0))
        if size[row] >= same.max() and not (found and row - found[-1][0] < w and found[-1][1] * score[row] > 0):
            found.append((int(row), float(score[row])))
    return found


def find_dips(time_s: np.ndarray, rpm: np.ndarray, width_s: float = 1.25) -> list[Span]:
    """Return the spans in which RPM stood lower by a step and then came back to about the level before. `width_s`: over
    how long a step is looked for."""
    noise = rpm_noise(rpm)
    steps = edges(time_s, rpm, noise, width_s)
    w = max(2, round(width_s / float(np.median(np.diff(time_s))))) if len(time_s) > 1 else 2
    spans = []
    used_until = -1
    for k, (down, fall) in enumerate(steps):
        if fall >= 0 or down <= used_until:
            continue
        settled = steps[k - 1][0] + 1 if k else 0
        span = _match(time_s, rpm, steps[k + 1 :], down, fall, settled, width_s, w)
        if span is not None:
            spans.append(span)
            used_until = span.last
    return spans


def _match(
    time_s: np.ndarray,
    rpm: np.ndarray,
    later: Sequence[tuple[int, float]],
    down: int,
    fall: float,
    settled: int,
    width_s: float,
    w: int,
) -> Span | None:
    """Return the dip that begins with a step down, or None. Rows before `settled` belong to the step before it; a level is read
    off `w` rows."""
    end = max(down - 1, 1)
    base = float(np.mean(rpm[min(max(down - 2 * w, settled, 0), end - 1) : end]))
    for up, rise in later:
        if time_s[up] - time_s[down] > _LONGEST_DIP_S:
            return None
        if rise < 0:
            if -rise > 0.8 * -fall:
                return None  # a second, as large a fall: the first was no dip
            continue
        back = up + 1 + (w if width_s > _SLOW_STEP_S else 0)  # what takes long to fall takes long to come back
        after = float(np.mean(rpm[back : back + w])) if back < len(rpm) else float(rpm[-1])
        depth = max(-fall, base - float(np.median(rpm[down + 1 : up]))) if up > down + 1 else -fall
        if after < base - 0.45 * depth:
            continue
        if after > base + max(_ENDS_ABOVE_RPM, 0.6 * depth):
            return None
        return _below_middle(rpm, base, max(down - w, 0), min(up + w, len(rpm)))
    return None


def _below_middle(rpm: np.ndarray, base: float, first: int, end: int) -> Span | None:
    """Return the longest unbroken run of rows nearer to the bottom than to the base; one stray row does not break it.

    Unbroken, so that a slip of the switch is not stretched to a check by a noisy row after it.
    """
    rows = rpm[first:end]
    lowest = np.sort(rows)[: max(2, len(rows) // 4)]
    is_low = rows < (base + float(np.median(lowest))) / 2
    filled = is_low.copy()
    filled[1:-1] |= is_low[:-2] & is_low[2:]
    bounds = np.flatnonzero(np.diff(np.concatenate([[0], filled.astype(int), [0]])))
    if bounds.size == 0:
        return None
    starts, ends = bounds[::2], bounds[1::2]
    longest = int(np.argmax(ends - starts))
    return Span(first + int(starts[longest]), first + int(ends[longest]) - 1)


def fit_dip(
    time_s: np.ndarray,
    rpm: np.ndarray,
    span: Span,
    before_s: float = -np.inf,
    after_s: float = np.inf,
    hot_air: bool = False,
    early_s: float | None = None,
    lag_scale: float = 1.0,
) -> DipFit | None:
    """Return the dip as the mean over all the edges and lags that it may have had, or None where a side has no rows.

    A dwell of three samples does not tell when the dip began; weighing every possibility by how well it fits errs less
    than the single best one. Rows outside (`before_s`, `after_s`) are not used: they belong to other checks.
    `hot_air`: the cause itself comes with a lag, so that the fall starts gently. `early_s`: how long before
    the span the cause may have begun, where a switch or lever shows it; else the needle is seen late by its lag.
    `lag_scale`: how much slower this engine's RPM follows than a light propeller's.
    """
    usual_noise = rpm_noise(rpm)
    t0, t1 = time_s[span.first], time_s[span.last]
    near = slice(*np.searchsorted(time_s, (t0 - _REACH_S - (t1 - t0), t1 + _REACH_S + (t1 - t0))))
    time_s, rpm = time_s[near], rpm[near]  # of hours of flight only minutes matter here
    step_s = float(np.median(np.diff(time_s)))
    use = (time_s > max(t0 - _WINDOW_S, before_s)) & (time_s < min(t1 + _WINDOW_S, after_s)) & np.isfinite(rpm)
    use &= _undisturbed(time_s, rpm, t0, t1, usual_noise)
    has_return = bool((use & (time_s > t1 + 0.5 * step_s)).sum() >= 2)
    inside = use & (time_s >= t0) & (time_s <= t1)
    before = use & (
        time_s < t0 - (1.05 * step_s if early_s is None else 0.0)
    )  # a needle's row before may be on its way
    if inside.sum() < 2 or before.sum() < (1 if has_return else 2):
        return None
    t, y = time_s[use], rpm[use]
    noise = max(rpm_noise(rpm[(time_s > t0 - 60) & (time_s < t1 + 60)]), 1.0)
    t, y, noise = _thinned(t, y, noise, _SLOWEST_ROWS_S * max(lag_scale / 2, 1.0))
    table = _LAGS_S if lag_scale < _SLOW_SCALE else _OWN_LAGS_S
    lags, usual = [lag_scale * lag for lag in table], lag_scale * _USUAL_LAG_S
    late = (_HOT_AIR_LATE_S + 0.8 * usual if hot_air else 0.5 * usual) if early_s is None else early_s
    starts = np.linspace(t0 - step_s - late, t0, 12)
    ends = np.linspace(t1 - late, t1 + step_s, 12) if has_return else np.array([np.inf])
    lag, start, end = (grid.ravel() for grid in np.meshgrid(lags, starts, ends, indexing="ij"))
    weights, levels, spreads = _weigh(t, y, noise, (np.array(lags), starts, ends), hot_air)
    spread = _LAG_SPREAD if lag_scale < _SLOW_SCALE else _OWN_LAG_SPREAD
    weights *= np.exp(-0.5 * (np.log(lag / usual) / spread) ** 2)
    weights /= weights.sum()
    base, drop, rise = weights @ levels
    error = np.sqrt(weights @ (spreads**2 + (levels[:, 1] - drop) ** 2))
    restored = base - drop + rise if has_return else np.nan
    ended = float(weights @ end) if has_return else float(t1 + step_s)
    began, lasts = float(weights @ start), float(weights @ lag)
    return DipFit(float(base), float(drop), float(restored), began, ended, float(error), lasts)


def _thinned(t: np.ndarray, y: np.ndarray, noise: float, step_s: float) -> tuple[np.ndarray, np.ndarray, float]:
    """Return (times, means, their noise) of neighbouring rows taken together until they are about a step apart."""
    together = max(round(step_s / float(np.median(np.diff(t)))), 1) if len(t) > 1 else 1
    if together == 1:
        return t, y, noise
    ends = np.arange(0, len(t), together)
    count = np.diff(np.append(ends, len(t)))
    return np.add.reduceat(t, ends) / count, np.add.reduceat(y, ends) / count, noise / float(np.sqrt(together))


def fit_between(
    time_s: np.ndarray,
    rpm: np.ndarray,
    span: Span,
    before_s: float,
    after_s: float,
    hot_air: bool = False,
    early_s: float | None = None,
    lag_scale: float = 1.0,
) -> DipFit | None:
    """Return `fit_dip` of the rows that belong to a span alone; where a check follows close on another, so that none do,
    the last rows of the other's settling are taken too."""
    for slack_s in (0.0, 1.3, 2.3):
        fit = fit_dip(time_s, rpm, span, before_s - slack_s, after_s, hot_air, early_s, lag_scale)
        if fit is not None:
            return fit
    return None


def _undisturbed(time_s: np.ndarray, rpm: np.ndarray, t0: float, t1: float, noise: float) -> np.ndarray:
    """Return which rows around a dip still show the level next to it: before a slip or a touched throttle, not after."""
    keep = (time_s >= t0 - 2.6) & (time_s <= t1 + 4.1)
    for near, outward in (
        (keep & (time_s < t0 - 0.2), np.flatnonzero(time_s < t0 - 2.6)[::-1]),
        (keep & (time_s > t1 + 1.6), np.flatnonzero(time_s > t1 + 4.1)),
    ):
        if not near.any() or outward.size == 0:
            continue
        chunk = max(1, int(0.9 / np.median(np.diff(time_s))))
        mean, count = float(np.nanmean(rpm[near])), int(near.sum())
        for first in range(0, len(outward), chunk):
            rows = outward[first : first + chunk]
            apart = abs(float(np.nanmean(rpm[rows])) - mean)
            if abs(time_s[rows[0]] - t0) > 2 * _WINDOW_S + (t1 - t0) or apart > 2.4 * noise * np.sqrt(
                1 / len(rows) + 1 / count
            ):
                break
            keep[rows] = True
            mean = (mean * count + float(np.nansum(rpm[rows]))) / (count + len(rows))
            count += len(rows)
    back = np.flatnonzero(keep & (time_s > t1 + 0.5))
    if back.size:  # a throttle that closes soon after ends what belongs to this dip
        away = back[np.nan_to_num(np.fmax.accumulate(rpm[back]) - rpm[back]) > _FALLS_AWAY_RPM]
        if away.size:
            keep[max(int(away[0]) - 1, 0) :] = False
    return keep


def _response(since_s: np.ndarray, lag: np.ndarray, hot_air: bool) -> np.ndarray:
    since_s = np.maximum(since_s, 0.0)
    if not hot_air:
        return np.asarray(1 - np.exp(-since_s / lag))
    air = np.where(np.abs(lag - _HOT_AIR_LAG_S) < 0.01, _HOT_AIR_LAG_S + 0.02, _HOT_AIR_LAG_S)
    return np.asarray(1 - (lag * np.exp(-since_s / lag) - air * np.exp(-since_s / air)) / (lag - air))


def _weigh(
    t: np.ndarray, y: np.ndarray, noise: float, tried: tuple[np.ndarray, np.ndarray, np.ndarray], hot_air: bool
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Fit base, drop and rise for each hypothesis (every lag with every start and end of `tried`, in that order); return
    (weights, levels, spread of the drop).

    What comes back is expected to come back to about the same figure, and to say so strongly only where it does:
    each hypothesis is tried with a return that is tied to the drop and with a free one.
    """
    has_return = bool(np.isfinite(tried[2]).all())
    centre = float(np.median(y))
    gram, moment, total = _normal_equations(t, y - centre, noise, tried, hot_air, has_return)
    logs, levels, spreads = [], [], []
    for tied_rpm in (_TIED_RPM, _FREE_RPM) if has_return else (_FREE_RPM,):
        tie = 1 / tied_rpm**2
        prior = np.diag([1 / 500.0**2, 1 / _LIKELY_DROP_RPM**2, 1e-6])
        prior[1:, 1:] += tie * np.array([[1, -1], [-1, 1]])
        inverse, determinant = _inverted(gram + prior)
        solution = np.einsum("gij,gj->gi", inverse, moment)
        left = total - np.einsum("gi,gi->g", moment, solution)
        logs.append(-0.5 * left - 0.5 * np.log(determinant) + 0.5 * np.log(np.linalg.det(prior)))
        levels.append(solution + np.array([centre, 0.0, 0.0]))
        spreads.append(np.sqrt(inverse[:, 1, 1]))
    log = np.array(logs)
    weights = np.exp(log - log.max())
    each = weights.sum(axis=0)
    level = np.einsum("kg,kgi->gi", weights, np.array(levels)) / np.maximum(each, 1e-300)[:, None]
    spread = np.sqrt(np.einsum("kg,kg->g", weights, np.array(spreads) ** 2) / np.maximum(each, 1e-300))
    return each, level, spread


def _inverted(m: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return (inverses, determinants) of symmetric matrices (hypotheses, 3, 3) by their cofactors: a tenth of the time that a
    general solver takes over so many so small ones."""
    a, b, c, d, e, f = m[:, 0, 0], m[:, 0, 1], m[:, 0, 2], m[:, 1, 1], m[:, 1, 2], m[:, 2, 2]
    first, second, third = d * f - e * e, c * e - b * f, b * e - c * d
    determinant = a * first + b * second + c * third
    rows = [[first, second, third], [second, a * f - c * c, b * c - a * e], [third, b * c - a * e, a * d - b * b]]
    return np.moveaxis(np.array(rows), 2, 0) / determinant[:, None, None], determinant


def _normal_equations(
    t: np.ndarray,
    y: np.ndarray,
    noise: float,
    tried: tuple[np.ndarray, np.ndarray, np.ndarray],
    hot_air: bool,
    has_return: bool,
) -> tuple[np.ndarray, np.ndarray, float]:
    """Return (gram matrices (hypotheses, 3, 3), moments (hypotheses, 3), total) under needle noise and gusts. A fall depends on lag
    and start alone and a return on lag and end, so that each is worked out once and put together."""
    lags, starts, ends = tried
    apart = np.abs(t[:, None] - t[None, :])
    sure = np.linalg.inv(noise**2 * np.eye(len(t)) + _GUST_RPM**2 * np.exp(-apart / _GUST_S))
    lag = lags[:, None, None]
    falls = -_response(t - starts[None, :, None], lag, hot_air)  # (lags, starts, rows)
    returns = (
        _response(t - ends[None, :, None], lag, hot_air) if has_return else np.zeros((len(lags), len(ends), len(t)))
    )
    sure_falls, sure_returns, sure_one = falls @ sure, returns @ sure, sure.sum(axis=0)
    shape = (len(lags), len(starts), len(ends))
    gram, moment = np.zeros((*shape, 3, 3)), np.zeros((*shape, 3))
    gram[..., 0, 0] = sure_one.sum()
    gram[..., 0, 1] = (falls @ sure_one)[:, :, None]
    gram[..., 0, 2] = (returns @ sure_one)[:, None, :]
    gram[..., 1, 1] = (falls * sure_falls).sum(axis=2)[:, :, None]
    gram[..., 2, 2] = (returns * sure_returns).sum(axis=2)[:, None, :]
    gram[..., 1, 2] = falls @ sure_returns.transpose(0, 2, 1)
    for row, column in ((1, 0), (2, 0), (2, 1)):
        gram[..., row, column] = gram[..., column, row]
    moment[..., 0] = sure_one @ y
    moment[..., 1] = (sure_falls @ y)[:, :, None]
    moment[..., 2] = (sure_returns @ y)[:, None, :]
    return gram.reshape(-1, 3, 3), moment.reshape(-1, 3), float(y @ sure @ y)


def own_time(time_s: np.ndarray, span: Span, others: Sequence[Span]) -> tuple[float, float]:
    """Return the times between which the rows around a span belong to it alone: after the last span has settled, and
    before the next begins."""
    before, after = -np.inf, np.inf
    for other in others:
        if other.last < span.first:
            before = max(before, time_s[other.last] + _SETTLED_AFTER_S)
        elif other.first > span.last:
            after = min(after, time_s[other.first] - 0.01)
    return before, after
