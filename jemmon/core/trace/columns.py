"""A trace: one row per sample, columns named as in the file, figures asked for by signal in the core's unit."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise
from typing import Any, TypeVar

import numpy as np

from ..base.units import TO_CORE
from .dropouts import bridged
from .garbage import garbage
from .signals import SECOND, cylinder_of, of_engine, row_of, signal_of

T = TypeVar("T")


def _in_core(values: np.ndarray, core_unit: str, unit: str) -> np.ndarray:
    """Return figures (rows,) in the core's unit; without a unit they are."""
    return values if unit in ("", core_unit) else np.asarray(TO_CORE[core_unit][unit].to_core(values))  # type: ignore[arg-type]


@dataclass(frozen=True)
class Trace:
    """Samples in order of time. `columns` (file's name -> array of shape (rows,)): float64 with NaN for no reading, or
    object arrays of text. `start_utc` is the first row's time where the file gives `time_utc`; `notes` say what of a file was
    not taken as it stood."""

    time_s: np.ndarray
    columns: Mapping[str, np.ndarray]
    start_utc: str | None = None
    notes: tuple[str, ...] = ()
    _signals: dict[tuple[str, int], np.ndarray | None] = field(default_factory=dict, repr=False, compare=False)
    _known: dict[Any, Any] = field(default_factory=dict, repr=False, compare=False)

    def __len__(self) -> int:
        return len(self.time_s)

    @cached_property
    def rate_hz(self) -> float:
        """Samples a second, from the median step; 0 with fewer than two rows."""
        return float(1 / np.median(np.diff(self.time_s))) if len(self) > 1 else 0.0

    def signal(self, name: str, engine: int = 1) -> np.ndarray | None:
        """Return a signal (`rpm`, `egt3`, `ff`, ...) in the core's unit, or None where the trace has none of it."""
        if (name, engine) not in self._signals:  # every check asks for the same few
            self._signals[name, engine] = self._found(name, engine)
        return self._signals[name, engine]

    def _found(self, name: str, engine: int) -> np.ndarray | None:
        for column, values in self.columns.items():
            known = signal_of(column)
            if known and known[:2] == (engine, name):
                row = row_of(name)
                assert row is not None
                return _in_core(values, row.unit, known[2])
        return None

    def once(self, find: Callable[["Trace"], T]) -> T:
        """Return what `find` says of this trace, asked once whoever asks."""
        if find not in self._known:
            self._known[find] = find(self)
        return self._known[find]  # type: ignore[no-any-return]

    def cylinders(self, signal: str, engine: int = 1) -> dict[int, np.ndarray]:
        """Return the figures of each cylinder that has any: `{1: egt1, ...}` for `egt`, in °F."""
        found = {}
        for column in self.columns:
            known = signal_of(column)
            own, cylinder = cylinder_of(known[1]) if known and known[0] == engine else ("", None)
            if known and own == signal and cylinder is not None:
                values = self.signal(known[1], engine)
                if values is not None and np.isfinite(values).any():
                    found[cylinder] = values
        return dict(sorted(found.items()))

    def part(self, start: int, end: int) -> "Trace":
        """Return the rows from `start` up to but not including `end`."""
        return Trace(self.time_s[start:end], {k: v[start:end] for k, v in self.columns.items()}, self.start_utc)

    def stretches(self, gap_s: float) -> list["Trace"]:
        """Return the trace in pieces, cut where no sample came for longer than `gap_s` [s]."""
        cuts = np.flatnonzero(np.diff(self.time_s) > gap_s) + 1
        edges = [0, *(int(cut) for cut in cuts), len(self)]
        return [self.part(a, b) for a, b in pairwise(edges)] if len(edges) > 2 else [self]

    def without_dropouts(self) -> "Trace":
        """Return the trace with its figures bridged over cells that are missing for 3 s at most, and over rows that no engine
        does: what is not known has neither stopped nor fired."""
        columns = {name: self._whole(name, v) if v.dtype.kind == "f" else v for name, v in self.columns.items()}
        return Trace(self.time_s, columns, self.start_utc, self.notes)

    def _whole(self, column: str, values: np.ndarray) -> np.ndarray:
        known = signal_of(column)
        row = None if known is None else row_of(known[1])
        if row is not None and known is not None and row.swings.rows:
            bad = garbage(_in_core(values, row.unit, known[2]), self.time_s, row.swings, row.lowest)
            values = np.where(bad, np.nan, values) if bad.any() else values
        return bridged(values, self.time_s)

    def of_engine(self, number: int) -> "Trace":
        """Return the trace as that engine's own: its columns under plain names, with those that both engines share."""
        return Trace(self.time_s, of_engine(self.columns, number), self.start_utc)

    @property
    def has_second_engine(self) -> bool:
        """Whether any column is a second engine's."""
        return any(column.startswith(SECOND) for column in self.columns)

    def speed(self) -> np.ndarray | None:
        """Return the engine's speed: RPM, or percent where the trace has only that."""
        rpm = self.signal("rpm")
        return self.signal("rpm_pct") if rpm is None else rpm

    def ignition(self) -> np.ndarray | None:
        """Return the ignition switch as words (OFF, L, R, BOTH); two lanes are a switch too: lane A alone is L. None where
        it is not known."""
        return self._ignition

    @cached_property
    def _ignition(self) -> np.ndarray | None:
        switch = self.signal("mag")
        if switch is None:
            lane_a, lane_b = self.signal("lane_a"), self.signal("lane_b")
            if lane_a is None or lane_b is None:
                return None
            on_a, on_b = np.nan_to_num(lane_a, nan=1.0) > 0.5, np.nan_to_num(lane_b, nan=1.0) > 0.5
            switch = np.select([on_a & on_b, on_a, on_b], ["BOTH", "L", "R"], "OFF").astype(object)
        return switch if {"L", "R", "BOTH"} & set(switch.tolist()) else None

    def in_rpm(self, rpm_at_100_pct: float) -> "Trace":
        """Return the trace with `rpm` made of its percent, where it has only that."""
        percent = self.signal("rpm_pct")
        if percent is None or self.signal("rpm") is not None:
            return self
        return Trace(self.time_s, {**self.columns, "rpm": percent * rpm_at_100_pct / 100.0}, self.start_utc)

    def summary(self) -> dict[str, Any]:
        """Return `{rows, rate_hz, start_s, end_s, missing}`; `missing` counts the empty cells of known columns."""
        numbers = [v for v in self.columns.values() if v.dtype.kind == "f"]
        return {
            "rows": len(self),
            "rate_hz": round(self.rate_hz, 3),
            "start_s": float(self.time_s[0]) if len(self) else None,
            "end_s": float(self.time_s[-1]) if len(self) else None,
            "missing": int(sum(np.isnan(v).sum() for v in numbers)),
        }
