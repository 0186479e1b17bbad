"""What a signal was some seconds before each row: its mean over a stretch of time that moves along with the rows."""

from dataclasses import dataclass

import numpy as np

from .masks import filled


@dataclass(frozen=True, slots=True)
class LookBack:
    """The stretch before each row: it begins at row `first` and ends before row `end`; rows where `is_known` is false have seen too
    little. Each of shape (rows,)."""

    first: np.ndarray
    end: np.ndarray
    is_known: np.ndarray

    @classmethod
    def over(cls, time_s: np.ndarray, from_s: float, to_s: float, *, needs_s: float) -> "LookBack":
        """Return the stretches from `from_s` to `to_s` [s] before each row, both ends in it; known once the record is `needs_s` [s]
        old."""
        first = np.searchsorted(time_s, time_s - from_s)
        end = np.searchsorted(time_s, time_s - to_s, side="right")
        return cls(first, np.maximum(end, first), time_s - time_s[0] >= needs_s)

    def mean(self, values: np.ndarray) -> np.ndarray:
        """Return the mean of a signal (rows,) over each stretch, gaps bridged; NaN where nothing is known."""
        total = np.concatenate([[0.0], np.cumsum(filled(values))])
        count = self.end - self.first
        mean = (total[self.end] - total[self.first]) / np.maximum(count, 1)
        return np.where(self.is_known & (count > 0), mean, np.nan)

    def share(self, values: np.ndarray) -> np.ndarray:
        """Return what is left of a signal (rows,) against its mean over each stretch, NaN where that was nothing."""
        before = self.mean(values)
        return np.asarray(values / np.where(before > 0, before, np.nan))
