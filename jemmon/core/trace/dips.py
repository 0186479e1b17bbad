"""Falls of RPM that come back: where they are, and how deep, in samples that are noisy and few.

A dip is a step down and a step back, each followed with the engine's own lag. `fit_dip` fits both steps at once, so
that a dwell of three samples gives its figure without waiting for the needle. What a dip means (a magneto, carburettor
heat) is decided in judgement/.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

# lags to try [s], the usual one, and the spread of its logarithm: a propeller on its own, and hot air coming through
_LAGS_S, _USUAL_LAG_S = (0.2, 0.27, 0.36, 0.5, 0.7, 1.0), 0.3
_HOT_AIR_LAGS_S, _USUAL_HOT_AIR_LAG_S = (0.35, 0.45, 0.55, 0.68, 0.85), 0.55
_LAG_SPREAD = 0.25
_LOWEST_RPM, _HIGHEST_RPM = 1000.0, 2900.0
_LONGEST_DIP_S = 60.0
_WINDOW_S = 8.0
_SETTLED_AFTER_S = 2.5


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
    """Return the dwell [s] that tells a check from a slip: a slip is 1 s or less; a check 3 s at 1 Hz, else 2 s."""
    return 2.4 if step_s > 0.55 else 1.5


def edges(time_s: np.ndarray, rpm: np.ndarray, noise: float) -> list[tuple[int, float]]:
    """Return the steps of RPM as (row at which the new level begins, height), strongest of their neighbourhood."""
    step_s = float(np.median(np.diff(time_s)))
    w = max(2, round(1.25 / step_s))
    if len(rpm) < 2 * w + 1:
        return []
    total = np.concatenate([[0.0], np.cumsum(rpm)])
    mean = (total[w:] - total[:-w]) / w
    score = np.zeros(len(rpm))
    score[w : len(rpm) - w + 1] = mean[w:] - mean[:-w]
    threshold = max(17.0, 4.5 * noise * np.sqrt(2 / w))
    size = np.abs(score)
    found: list[tuple[int, float]] = []
    for row in np.flatnonzero(size > threshold):
        around = score[max(row - w, 0) : row + w + 1]
        same = np.abs(np.where(np.sign(around) == np.sign(score[row]), around, 0.0))
        if size[row] >= same.max() and not (found and row - found[-1][0] < w and found[-1][1] * score[row] > 0):
            found.append((int(row), float(score[row])))
    return found


def find_dips(time_s: np.ndarray, rpm: np.ndarray) -> list[Span]:
    """Return the spans in which RPM stood lower by a step and then came back to about the level before."""
    noise = rpm_noise(rpm)
    steps = edges(time_s, rpm, noise)
    spans = []
    used_until = -1
    for k, (down, fall) in enumerate(steps):
        if fall >= 0 or down <= used_until:
            continue
        span = _match(time_s, rpm, steps[k + 1 :], down, fall)
        if span is not None:
            spans.append(span)
            used_until = span.last
    return spans


def _match(
    time_s: np.ndarray, rpm: np.ndarray, later: Sequence[tuple[int, float]], down: int, fall: float
) -> Span | None:
    step_s = float(np.median(np.diff(time_s)))
    w = max(2, round(1.25 / step_s))
    base = float(np.mean(rpm[max(down - 2 * w, 0) : max(down - 1, 1)]))
    for up, rise in later:
        if time_s[up] - time_s[down] > _LONGEST_DIP_S:
            return None
        if rise < 0:
            if -rise > 0.8 * -fall:
                return None  # a second, as large a fall: the first was no dip
            continue
        after = float(np.mean(rpm[up + 1 : up + 1 + w])) if up + 1 < len(rpm) else float(rpm[-1])
        if after < base + 0.45 * fall:
            continue
        if after > base + max(60.0, -0.6 * fall):
            return None
        deep = float(np.median(rpm[down + 1 : up])) if up > down + 1 else float(rpm[down])
        middle = (base + min(deep, base + fall / 2)) / 2
        rows = np.arange(max(down - w, 0), min(up + w, len(rpm)))
        low = rows[rpm[rows] < middle]
        if low.size == 0:
            return None
        return Span(int(low[0]), int(low[-1]))
    return None


def fit_dip(
    time_s: np.ndarray,
    rpm: np.ndarray,
    span: Span,
    before_s: float = -np.inf,
    after_s: float = np.inf,
    double_lag: bool = False,
    early_s: float | None = None,
) -> DipFit | None:
    """Return the dip that fits best by least squares, or None where there is nothing on either side.

    Rows outside (`before_s`, `after_s`) are not used: they belong to other checks. `double_lag`: the cause itself comes
    with a lag (hot air), so that the fall starts gently. `early_s`: how long before the span the cause may have begun,
    where a switch or lever tells; else the needle is seen late by its lag.
    """
    step_s = float(np.median(np.diff(time_s)))
    t0, t1 = time_s[span.first], time_s[span.last]
    use = (time_s > max(t0 - _WINDOW_S, before_s)) & (time_s < min(t1 + _WINDOW_S, after_s)) & np.isfinite(rpm)
    use &= _undisturbed(time_s, rpm, t0, t1)
    inside = (time_s >= t0) & (time_s <= t1) & use
    if inside.sum() < 2 or (use & (time_s < t0)).sum() < 2:
        return None
    t, y = time_s[use], rpm[use]
    noise = rpm_noise(rpm)
    has_return = bool((t > t1 + 0.5 * step_s).sum() >= 2)
    best = (np.inf, np.zeros(3), t0, t1)
    lags, usual = (_HOT_AIR_LAGS_S, _USUAL_HOT_AIR_LAG_S) if double_lag else (_LAGS_S, _USUAL_LAG_S)
    for lag in lags:
        unusual = (noise * np.log(lag / usual) / _LAG_SPREAD) ** 2
        early = early_s if early_s is not None else 1.0 + 2.0 * lag if double_lag else 0.5 * lag
        for start in np.linspace(t0 - 1.1 * step_s - early, t0, 9):
            for end in np.linspace(t1 - early, t1 + step_s, 9) if has_return else (np.inf,):
                cost, levels = _solve(t, y, start, end, lag, double_lag)
                if cost + unusual < best[0]:
                    best = (cost + unusual, levels, start, end)
    cost, (base, drop, rise), start, end = best
    sigma = np.sqrt(cost / max(len(t) - 4, 1))
    error = sigma * np.sqrt(1 / inside.sum() + 1 / max((t < t0).sum(), 1))
    restored = base - drop + rise if has_return else np.nan
    return DipFit(float(base), float(drop), float(restored), float(start), float(min(end, t1 + step_s)), float(error))


def _undisturbed(time_s: np.ndarray, rpm: np.ndarray, t0: float, t1: float) -> np.ndarray:
    """Return which rows around a dip still show the level next to it: before a slip or a touched throttle, not after."""
    noise = rpm_noise(rpm)
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
    return keep


def _response(x: np.ndarray, lag: float, double_lag: bool) -> np.ndarray:
    x = np.maximum(x, 0.0) / lag
    return 1 - (1 + x) * np.exp(-x) if double_lag else 1 - np.exp(-x)


def _solve(
    t: np.ndarray, y: np.ndarray, start: float, end: float, lag: float, double_lag: bool
) -> tuple[float, np.ndarray]:
    """Fit base, drop and rise for given edges; return (sum of squares, the three)."""
    columns = [np.ones_like(t), -_response(t - start, lag, double_lag)]
    if np.isfinite(end):
        columns.append(_response(t - end, lag, double_lag))
    a = np.stack(columns, axis=1)
    normal = a.T @ a + 1e-9 * np.eye(a.shape[1])
    solution = np.linalg.solve(normal, a.T @ y)
    residual = y - a @ solution
    levels = np.zeros(3)
    levels[: len(solution)] = solution
    return float(residual @ residual), levels


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
