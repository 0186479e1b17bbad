"""How deep a fall of RPM is: a step down and a step back, each followed with the engine's own lag, both fitted at once.

So a dwell of three samples gives its figure without waiting for the needle. Nobody knows the lag beforehand: all falls of a
run-up are the same engine's, and what they say of it together is what each is fitted with. Bayesian least squares over every
edge and lag that a fall may have had; gusts are noise that lasts (Dryden's spectrum, of first order).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .dip_rows import own_until, rows_to_fit
from .dips import SETTLED_AFTER_S, Span, own_time
from .engine_lags import Lags
from .tachometer import Tachometer

# what a return is tied to the fall by [RPM], how far off it may be when it is not, and the size of a usual drop (common practice)
_TIED_RPM, _FREE_RPM, _LIKELY_DROP_RPM = 2.0, 60.0, 120.0
_GUST_S = 2.0  # how long gusts last (common practice)
_SLOWEST_ROWS_S = 0.2
_LEFT_RPM = 250.0  # common practice: what the deepest check before has still to come back by, at its half
_EDGES = 12


@dataclass(frozen=True, slots=True)
class DipFit:
    """A measured dip: RPM before, how far it fell when settled and how far by its end, RPM after, when it began and ended, how
    sure (sigma), and what it says of the lag (likelihoods, shape (lags,))."""

    base_rpm: float
    drop_rpm: float
    reached_rpm: float
    restored_rpm: float
    start_s: float
    end_s: float
    sigma_rpm: float
    lag_s: float
    says: np.ndarray

    def fallen_after(self, seconds: float) -> float:
        """Return the share of the fall that comes within so many seconds: for a rotor, which slows on and on."""
        return float(1 - np.exp(-seconds / self.lag_s)) if self.lag_s > 0 else 1.0


@dataclass(frozen=True, slots=True)
class _Weighed:
    """How well every lag with every start and end fits a dip: weights (hypotheses,), levels (hypotheses, base and drop and rise)
    [RPM], spread of the drop (hypotheses,) [RPM], the starts and ends (lags, edges) [s], where an end that was not seen is [s],
    what a stuck tachometer leaves [RPM]."""

    weights: np.ndarray
    levels: np.ndarray
    spreads: np.ndarray
    edges: tuple[np.ndarray, np.ndarray]
    unseen_end_s: float
    stuck_rpm: float

    @property
    def says(self) -> np.ndarray:
        """What it says of the lag (likelihoods, shape (lags,))."""
        return np.asarray(self.weights.reshape(len(self.edges[0]), -1).sum(axis=1))

    def fit(self, lags: Lags) -> DipFit:
        """Return the dip as the mean over all of them, the lags as likely as `lags` has them: a dwell of three samples does not
        tell when the dip began, and weighing every possibility errs less than the single best one."""
        starts, ends = self.edges
        has_return = bool(np.isfinite(ends).all())
        shape = (len(lags.each_s), starts.shape[1], ends.shape[1])
        lag = np.broadcast_to(lags.each_s[:, None, None], shape).ravel()
        start, end = (np.broadcast_to(edge, shape).ravel() for edge in (starts[:, :, None], ends[:, None, :]))
        weights = self.weights * np.repeat(lags.weight, shape[1] * shape[2])
        weights /= weights.sum()
        base, drop, rise = weights @ self.levels
        error = float(np.sqrt(weights @ (self.spreads**2 + (self.levels[:, 1] - drop) ** 2)))
        share = float(weights @ _response(end - start, lag, lags)) if has_return else 1.0
        return DipFit(
            base_rpm=float(base),
            drop_rpm=float(drop),
            reached_rpm=float(drop * share),
            restored_rpm=float(base - drop + rise) if has_return else np.nan,
            start_s=float(weights @ start),
            end_s=float(weights @ end) if has_return else self.unseen_end_s,
            sigma_rpm=float(np.hypot(error, self.stuck_rpm)),
            lag_s=float(weights @ lag),
            says=self.says,
        )


def fit_between(
    time_s: np.ndarray,
    rpm: np.ndarray,
    span: Span,
    own_s: tuple[float, float],
    lags: Lags,
    shown: Tachometer,
    early_s: float | None = None,
) -> DipFit | None:
    """Return the dip of the rows that belong to a span alone (`own_s`); where a check follows close on another, so that none
    do, the last rows of the other's settling are taken too. Times in seconds [s], speed in RPM."""
    weighed = _weighed_between(time_s, rpm, span, own_s, lags, shown, early_s)
    return None if weighed is None else weighed.fit(lags)


def _weighed_between(
    time_s: np.ndarray,
    rpm: np.ndarray,
    span: Span,
    own_s: tuple[float, float],
    lags: Lags,
    shown: Tachometer,
    early_s: float | None,
) -> _Weighed | None:
    for slack_s in (0.0, 1.3, 2.3, 4.0):
        weighed = _weighed_dip(time_s, rpm, span, own_s, slack_s, lags, shown, early_s)
        if weighed is not None:
            return weighed
    return None


def fit_all(
    time_s: np.ndarray,
    rpm: np.ndarray,
    spans: Sequence[tuple[Span, bool]],
    everything: Sequence[Span],
    lags: Lags,
    shown: Tachometer,
    left_for_the_next: Sequence[Span] = (),
) -> list[DipFit | None]:
    """Return the fit of every span, each with what the others say of the engine's lag. `spans` (span, whether a switch shows when
    it began). Those of `left_for_the_next` were not left for the level around: the next falls, or rises, from their bottom. Times
    in seconds [s], speed in RPM."""
    edges = [own_time(time_s, span, everything, left_for_the_next) for span, _ in spans]
    weighed = [
        _weighed_between(time_s, rpm, span, own, lags, shown, 0.0 if known else None)
        for (span, known), own in zip(spans, edges, strict=True)
    ]
    made: list[DipFit | None] = []
    for number, one in enumerate(weighed):
        others = [other.says for place, other in enumerate(weighed) if other is not None and place != number]
        made.append(None if one is None else one.fit(lags.given(others)))
    return made


def _weighed_dip(
    time_s: np.ndarray,
    rpm: np.ndarray,
    span: Span,
    own_s: tuple[float, float],
    slack_s: float,
    lags: Lags,
    shown: Tachometer,
    early_s: float | None,
) -> _Weighed | None:
    """Return how well each edge and lag that a dip may have had fits it, or None where a side has no rows. Rows outside `own_s` [s]
    are not used: they belong to other checks, but for `slack_s` [s] before it. `early_s`: how long before the span the cause may
    have begun, where a switch or lever shows it; else the needle is seen late by its lag. Speed in RPM."""
    t0, t1 = float(time_s[span.first]), float(time_s[span.last])
    step_s = float(np.median(np.diff(time_s[max(span.first - 20, 0) : span.last + 21])))
    use = rows_to_fit(time_s, rpm, (t0, t1), (own_s[0] - slack_s, own_until(own_s[1], t1, lags)), step_s, shown, lags)
    has_return = bool((use & (time_s > t1 + 0.5 * step_s)).sum() >= 2)
    if not has_return:
        use &= time_s <= t1  # a lone row after it is on its way back, and no row of the fall
    inside = use & (time_s >= t0) & (time_s <= t1)
    near_s = 0.0 if early_s is not None or step_s > 1.2 else 1.05 * step_s  # a needle's row before may be on its way
    before = use & (time_s < t0 - near_s)
    if inside.sum() < (1 if has_return else 2) or before.sum() < (1 if has_return else 2):
        return None
    t, y, noise = _thinned(
        time_s[use], rpm[use], shown.noise_rpm, _SLOWEST_ROWS_S * max(float(lags.weight @ lags.each_s), 1.0)
    )
    late = lags.late_s if early_s is None else np.full(len(lags.each_s), early_s)
    starts = np.linspace(t0 - step_s - late, t0, _EDGES, axis=1)
    ends = np.linspace(t1 - late, t1 + step_s, _EDGES, axis=1) if has_return else np.full((len(late), 1), np.inf)
    unsure = _covariance(t, (noise, shown.gusts_rpm), own_s[0] - SETTLED_AFTER_S, lags)
    weights, levels, spreads = _weigh(t, y, unsure, (starts, ends), lags)
    return _Weighed(weights, levels, spreads, (starts, ends), float(t1 + step_s), shown.stuck_rpm)


def _covariance(t: np.ndarray, noise: tuple[float, float], settles_from_s: float, lags: Lags) -> np.ndarray:
    """Return by what rows (rows, rows) [RPM^2] may differ from the fall and its levels: noise of each and gusts (`noise`), and what
    a check before, half back at `settles_from_s` [s], leaves to settle."""
    apart = np.abs(t[:, None] - t[None, :])
    made = noise[0] ** 2 * np.eye(len(t)) + noise[1] ** 2 * np.exp(-apart / _GUST_S)
    if np.isfinite(settles_from_s):
        left = _LEFT_RPM * np.exp(-np.maximum(t - settles_from_s, 0.0) / lags.of_engine_s)
        made += left[:, None] * left[None, :]
    return np.asarray(made)


def _thinned(t: np.ndarray, y: np.ndarray, noise: float, step_s: float) -> tuple[np.ndarray, np.ndarray, float]:
    """Return (times, means, their noise) of neighbouring rows taken together until they are about a step apart."""
    together = max(round(step_s / float(np.median(np.diff(t)))), 1) if len(t) > 1 else 1
    if together == 1:
        return t, y, noise
    ends = np.arange(0, len(t), together)
    count = np.diff(np.append(ends, len(t)))
    return np.add.reduceat(t, ends) / count, np.add.reduceat(y, ends) / count, noise / float(np.sqrt(together))


def _response(since_s: np.ndarray, lag: np.ndarray, lags: Lags) -> np.ndarray:
    since_s = np.maximum(since_s, 0.0)
    if not lags.hot_air:
        return np.asarray(1 - np.exp(-since_s / lag))
    engine = np.where(np.abs(lag - lags.engine_s) < 0.02, lags.engine_s + 0.03, lags.engine_s)
    return np.asarray(1 - (lag * np.exp(-since_s / lag) - engine * np.exp(-since_s / engine)) / (lag - engine))


def _weigh(
    t: np.ndarray, y: np.ndarray, unsure: np.ndarray, edges: tuple[np.ndarray, np.ndarray], lags: Lags
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Fit base, drop and rise for each hypothesis (every lag with every start and end, in that order); return
    (weights, levels, spread of the drop). `unsure` is the covariance of the rows (rows, rows) [RPM^2].

    What comes back is expected to come back to about the same figure, and to say so strongly only where it does:
    each hypothesis is tried with a return that is tied to the drop and with a free one.
    """
    has_return = bool(np.isfinite(edges[1]).all())
    centre = float(np.median(y))
    gram, moment, total = _normal_equations(t, y - centre, unsure, edges, lags, has_return)
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
    unsure: np.ndarray,
    edges: tuple[np.ndarray, np.ndarray],
    lags: Lags,
    has_return: bool,
) -> tuple[np.ndarray, np.ndarray, float]:
    """Return (gram matrices (hypotheses, 3, 3), moments (hypotheses, 3), total) under the rows' covariance. A fall depends on lag
    and start alone and a return on lag and end, so that each is worked out once and put together."""
    starts, ends = edges
    sure = np.linalg.inv(unsure)
    lag, count = lags.each_s[:, None, None], len(lags.each_s)
    falls = -_response(t - starts[:, :, None], lag, lags)  # (lags, starts, rows)
    returns = _response(t - ends[:, :, None], lag, lags) if has_return else np.zeros((count, 1, len(t)))
    sure_falls, sure_returns, sure_one = falls @ sure, returns @ sure, sure.sum(axis=0)
    shape = (count, starts.shape[1], ends.shape[1])
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
