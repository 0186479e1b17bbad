"""Rows that no engine does: a box that writes 0 for what it did not read, or nothing while it wakes up, a radio that is heard in a
sender."""

from dataclasses import dataclass

import numpy as np

# common practice: rows that swing away are garbage only between rows that agree, and several of them only within so short a time;
# within that time nothing goes to twice what is around it, or to a twentieth, whatever else it does
_AGREE, _BURST_S = 0.1, 2.2
_TWICE, _NOTHING = 2.0, 0.05
# common practice: a sender of which more is garbage is broken, and tidied up it would seem whole
_FEW_ROWS, _FEW_SHARE = 3, 0.04
# common practice: a box that wakes up writes nothing first; what shows so many times the level a row later has not just begun
_AWAKE, _ROW_S = 3.0, 1.1
_FROM_BELOW = 4.0  # common practice: what is that many times the level is no cough of a starting engine, and no gust on the ground


@dataclass(frozen=True, slots=True)
class Swing:
    """What a signal does not do and come back from within a time [s, from the row before to the row after]: rise beyond so many
    times, or fall below so small a share of, what it was before and is after; `above_all` asks as much of all that two rows
    running ever showed."""

    within_s: float
    rise: float
    fall: float
    above_all: bool = False


@dataclass(frozen=True, slots=True)
class Swings:
    """What a signal does not do, the shortest first; from which level on [above the least its sensor can say, in the core's unit]
    its shares mean anything; `newest` is what the last row does not show so soon after the one before: the next row will say."""

    rows: tuple[Swing, ...] = ()
    level: float = 0.0
    newest: Swing = Swing(0.6, _TWICE, _NOTHING)


def garbage(values: np.ndarray, time_s: np.ndarray, swings: Swings, least: float = 0.0) -> np.ndarray:
    """Return which rows of a signal (rows,) swing away from the rows around them and are back, further and sooner than it can.
    `least` is the least its sensor can say, from which shares are counted; rows without a figure are passed over. None of a
    signal of which more than a few rows are.

    >>> needle = Swings((Swing(8.0, 1.3, 0.35),))
    >>> garbage(np.array([100.0, 102.0, 990.0, 101.0]), np.arange(4.0), needle).tolist()
    [False, False, True, False]
    """
    bad = np.zeros(len(values), dtype=bool)
    known = np.flatnonzero(np.isfinite(values))
    if not swings.rows or len(known) < 3:
        return bad
    level, at_s = values[known] - least, time_s[known]
    bad[known[: _asleep(level, at_s, swings.level)]] = True
    away = _leaving(level, swings)
    ever = float(np.minimum(level[:-1], level[1:]).max()) if away.size else 0.0
    for row in away:
        # what comes back from garbage is none
        back = None if bad[known[row]] else _row_back(level, at_s, int(row), swings, ever)
        if back is not None:
            bad[known[row + 1 : back]] = True
    if bad.sum() > max(_FEW_ROWS, _FEW_SHARE * len(known)):
        return np.zeros(len(values), dtype=bool)
    bad[known[-1]] |= not bad[known[-2]] and _is_too_new(level, at_s, swings)
    return bad


def _leaving(level: np.ndarray, swings: Swings) -> np.ndarray:
    """Return the rows after which a signal goes as far as some swing says that it does not come back from."""
    before, here, floor = level[:-1], level[1:], max(swings.level, 1e-9)
    rise, fall = min(one.rise for one in swings.rows), max(one.fall for one in swings.rows)
    from_below = here > max(_FROM_BELOW, rise) * floor
    return np.flatnonzero(np.where(before >= floor, (here > rise * before) | (here < fall * before), from_below))


def _asleep(level: np.ndarray, at_s: np.ndarray, floor: float) -> int:
    """Return how many rows at the beginning show nothing, the next one at once far above the level from which shares count."""
    first = int(np.argmax(level > _AWAKE * floor))
    if not floor or not first > 0 or at_s[first] - at_s[0] > _BURST_S or at_s[first] - at_s[first - 1] > _ROW_S:
        return 0
    is_up = level[first : first + 2].min() > _AWAKE * floor
    return first if is_up and level[:first].max() < _NOTHING * level[first] else 0


def _is_too_new(level: np.ndarray, at_s: np.ndarray, swings: Swings) -> bool:
    """Say whether the last row went further than the signal goes so soon."""
    before, last, newest = level[-2], level[-1], swings.newest
    is_soon = at_s[-1] - at_s[-2] <= newest.within_s and before >= max(swings.level, 1e-9)
    return bool(is_soon and (last > newest.rise * before or last < newest.fall * before))


def _row_back(level: np.ndarray, at_s: np.ndarray, row: int, swings: Swings, ever: float) -> int | None:
    """Return the row at which a signal that left its level after `row` is back at it, where that was more than it can do; else
    None. `ever` is the highest level of two rows running."""
    for back in range(row + 2, len(level)):
        away_s = at_s[back] - at_s[row]
        if away_s > swings.rows[-1].within_s or (back > row + 2 and away_s > _BURST_S):
            return None
        most, least = max(level[row], level[back], swings.level), min(level[row], level[back])
        lowest, highest = level[row + 1 : back].min(), level[row + 1 : back].max()
        if away_s <= _BURST_S and least >= swings.level and (lowest > _TWICE * most or highest < _NOTHING * least):
            return back
        if most - least < _AGREE * most or most <= swings.level:
            beyond = (
                lowest > one.rise * (max(most, ever) if one.above_all else most) or highest < one.fall * least
                for one in swings.rows
                if away_s <= one.within_s
            )
            return back if any(beyond) else None
    return None
