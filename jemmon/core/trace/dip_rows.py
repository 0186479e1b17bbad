"""Which rows show a fall of RPM and the levels next to it, and nothing of the check before or after."""

import numpy as np

from .dips import highest_held
from .engine_lags import BEGUN_LAGS, Lags
from .tachometer import Tachometer

_WINDOW_S = 8.0  # what is fitted around a dip
_NEAR_BEFORE_S, _NEAR_AFTER_S, _BACK_AFTER_S = 2.6, 4.1, 1.6
_FALLS_AWAY_RPM = 75.0
_SETTLED_FOR_S, _LEVEL_S = 2.5, 2.2  # our own choice: rows of so long [s] show a level
# of hot air that comes slowly: what is fitted around it [s], the share of the fall by which the rows next to it lie below the level
# before, and the share that it comes and goes by within a second. Fitted to tests/strange, seeds 1,600,000 to 1,600,599
_SLOW_WINDOW_S, _HAS_BEGUN, _A_SECOND = 12.0, 0.15, 0.25
# our own choice: steps of a tachometer by which a throttle that was moved is told from a fall that comes slowly
_STEPS_TO_TELL = 2.0
# lags of air that comes slowly [s] (common practice), and by how much the likelihoods of a throttle and of such air differ at
# least, as squares (our own choice: one to twenty)
_SLOWLY_S, _SURE = (2.0, 4.0, 8.0), 6.0


def own_until(next_s: float, t1: float, lags: Lags) -> float:
    """Return until when [s] rows show the level after a fall that ended at `t1`: the next one, at its half by `next_s`, had begun
    before. What is needed to see this one settle is kept."""
    return max(next_s - 2 * BEGUN_LAGS * lags.of_engine_s, min(next_s, t1 + lags.settled_s + _SETTLED_FOR_S))


def rows_to_fit(
    time_s: np.ndarray,
    rpm: np.ndarray,
    away_s: tuple[float, float],
    own_s: tuple[float, float],
    step_s: float,
    shown: Tachometer,
    lags: Lags,
) -> np.ndarray:
    """Return which rows are fitted: near the dip, its own, finite, and at the level next to it; of hot air that comes slowly also
    those on the way from the level before and back."""
    t0, t1 = away_s
    own = (time_s > own_s[0]) & (time_s < own_s[1]) & np.isfinite(rpm)
    slopes_rpm = _slopes_rpm(time_s, rpm, own, away_s, step_s, shown, lags) if lags.comes_slowly else (0.0, 0.0)
    window_s = max(_SLOW_WINDOW_S if any(slopes_rpm) else _WINDOW_S, 4 * step_s)
    use = own & (time_s > t0 - window_s) & (time_s < t1 + max(window_s, lags.settled_s + 2 * _SETTLED_FOR_S))
    near = slice(*np.searchsorted(time_s, (t0 - 3 * window_s - (t1 - t0), t1 + 3 * window_s + (t1 - t0))))
    use[: near.start] = use[near.stop :] = False
    use[near] &= _undisturbed(time_s[near], rpm[near], away_s, step_s, shown, lags, slopes_rpm)
    return np.asarray(use)


def _slopes_rpm(
    time_s: np.ndarray,
    rpm: np.ndarray,
    own: np.ndarray,
    away_s: tuple[float, float],
    step_s: float,
    shown: Tachometer,
    lags: Lags,
) -> tuple[float, float]:
    """Return by how much [RPM] the level moves within a second before a fall and after it: 0 but for one that had begun long before
    the rows next to it, and there too where a throttle that was moved is what they show."""
    t0, t1 = away_s
    before = own & (time_s < t0) & (time_s > t0 - _SLOW_WINDOW_S)
    close = before & (time_s >= t0 - max(_NEAR_BEFORE_S, 2.1 * step_s))
    high_rpm = highest_held(rpm[before], step_s)
    if not close.any() or not np.isfinite(high_rpm):
        return 0.0, 0.0
    depth_rpm = high_rpm - float(np.nanmedian(rpm[(time_s >= t0) & (time_s <= t1)]))
    begun_rpm, slope_rpm = high_rpm - float(np.median(rpm[close])), _A_SECOND * depth_rpm
    if not begun_rpm > _HAS_BEGUN * depth_rpm > 0:
        return 0.0, 0.0
    if begun_rpm < _STEPS_TO_TELL * shown.step_rpm:
        return slope_rpm, slope_rpm  # what sinks slowly is seen as a step too
    before &= time_s < t0 - lags.begun_s
    is_step = _steps(time_s[before], rpm[before], lags.engine_s, np.hypot(shown.noise_rpm, shown.gusts_rpm))
    return 0.0 if is_step else slope_rpm, slope_rpm


def _steps(time_s: np.ndarray, rpm: np.ndarray, engine_s: float, noise_rpm: float) -> bool:
    """Say whether rows (rows,) went to another level at once, as an engine follows its throttle, and surely not as slowly as hot
    air comes: by least squares over every moment at which either may have begun."""
    at_once, slowly = (
        min((_left_by(time_s, rpm, began_s, lag_s) for lag_s in lags_s for began_s in time_s[:-1]), default=np.inf)
        for lags_s in ((engine_s,), _SLOWLY_S)
    )
    return bool(slowly - at_once > _SURE * noise_rpm**2)


def _left_by(time_s: np.ndarray, rpm: np.ndarray, began_s: float, lag_s: float) -> float:
    """Return the sum of squares [RPM^2] that a level and a fall of the first order from it leave of rows (rows,)."""
    shape = 1 - np.exp(-np.maximum(time_s - began_s, 0.0) / lag_s)
    centred, around = shape - shape.mean(), rpm - rpm.mean()
    return float(around @ around - (around @ centred) ** 2 / (centred @ centred))


def _undisturbed(
    time_s: np.ndarray,
    rpm: np.ndarray,
    away_s: tuple[float, float],
    step_s: float,
    shown: Tachometer,
    lags: Lags,
    slopes_rpm: tuple[float, float],
) -> np.ndarray:
    """Return which rows around a dip still show the level next to it: before a slip or a touched throttle, not after. Where that
    level itself moves, by `slopes_rpm` in a second at most (before it, after it), each second is held against the one before."""
    t0, t1 = away_s
    begun_s, back_s = lags.begun_s, max(_BACK_AFTER_S, lags.settled_s)
    begins, ends = np.searchsorted(time_s, (t0, t1))
    # at least two rows, however far apart they are
    before_s = max(_NEAR_BEFORE_S, begun_s + _LEVEL_S, t0 - float(time_s[max(begins - 2, 0)]))
    after_s = max(_NEAR_AFTER_S, back_s + _LEVEL_S, float(time_s[min(ends + 3, len(time_s) - 1)]) - t1)
    keep = (time_s >= t0 - before_s) & (time_s <= t1 + after_s)
    sides = (
        (keep & (time_s < t0 - begun_s), np.flatnonzero(time_s < t0 - before_s)[::-1]),
        (keep & (time_s > t1 + back_s), np.flatnonzero(time_s > t1 + after_s)),
    )
    for (near, outward), slope_rpm in zip(sides, slopes_rpm, strict=True):
        outward = outward[np.abs(time_s[outward] - t0) <= 2 * _WINDOW_S + (t1 - t0)]
        keep[_like(rpm, near, outward, max(1, int(0.9 / step_s)), shown, slope_rpm)] = True
    back = np.flatnonzero(keep & (time_s > t1 + 0.5))
    # a throttle that closes soon after ends what belongs to this dip
    away = back[np.nan_to_num(np.fmax.accumulate(rpm[back]) - rpm[back]) > _FALLS_AWAY_RPM]
    if away.size:
        keep[max(int(away[0]) - 1, 0) :] = False
    return keep


def _like(
    rpm: np.ndarray, near: np.ndarray, outward: np.ndarray, chunk: int, shown: Tachometer, slope_rpm: float
) -> np.ndarray:
    """Return those of the rows `outward` (in this order, `chunk` together) that show the level of the rows `near` the dip, up to
    the first that do not."""
    held = np.flatnonzero(near & np.isfinite(rpm))
    like: list[np.ndarray] = []
    if slope_rpm and held.size and outward.size:
        held = held[np.argsort(np.abs(held - outward[0]), kind="stable")[:chunk]]
    for first in range(0, len(outward) if held.size else 0, chunk):
        rows = outward[first : first + chunk]
        rows = rows[np.isfinite(rpm[rows])]
        if not rows.size:
            continue
        row_noise = shown.noise_rpm**2 * (1 / len(rows) + 1 / len(held))
        most_apart_rpm = 2.4 * np.sqrt(row_noise + shown.gusts_rpm**2) + slope_rpm
        if abs(float(np.mean(rpm[rows]) - np.mean(rpm[held]))) > most_apart_rpm:
            break
        like.append(rows)
        held = rows if slope_rpm else np.append(held, rows)
    return np.concatenate(like) if like else np.array([], dtype=int)
