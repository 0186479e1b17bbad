"""A trace: one row per sample, columns named as in the file, figures asked for by signal in the core's unit."""

import functools
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..base.units import TO_CORE

# signal -> core unit; `egt` and `cht` carry a cylinder's number
SIGNAL_UNITS = {
    "map": "inhg",
    "ff": "gph",
    "fp": "psi",
    "egt": "f",
    "cht": "f",
    "tit": "f",
    "cat": "f",
    "iat": "f",
    "oil_t": "f",
    "coolant_t": "f",
    "oat": "f",
    "oil_p": "psi",
    "volts": "v",
    "amps": "a",
    "amps2": "a",
    "batt_amps": "a",
    "suction": "inhg",
    "palt": "ft",
    "ias": "kt",
    "fuel_l": "gal",
    "fuel_r": "gal",
}
UNITLESS = (
    *("rpm", "rotor", "rpm_pct", "rotor_pct", "throttle", "mixture", "prop", "carb_heat", "starter", "mesh"),
    *("alternator", "collective", "clutch", "governor", "lane_a", "lane_b", "cowl_flaps"),
)
TEXT = ("mag",)
_SHARED = ("volts", "batt_amps", "suction", "oat", "palt", "ias", "master", "ground_power")
_NUMBERED = re.compile(r"^(egt|cht)(\d+)$")


@functools.lru_cache(maxsize=1024)
def signal_of(column: str) -> tuple[int, str, str] | None:
    """Return (engine, signal, unit) of a trace column, or None if it is not one that we know.

    >>> signal_of("e2_egt3_c")
    (2, 'egt3', 'c')
    """
    engine, name = (2, column[3:]) if column.startswith("e2_") else (1, column)
    if name in UNITLESS or name in TEXT:
        return engine, name, ""
    for signal, core in SIGNAL_UNITS.items():
        if not name.startswith(signal):
            continue
        for unit in TO_CORE[core]:
            stem = name.removesuffix(f"_{unit}")
            if stem != name and (stem == signal or (_NUMBERED.match(stem) and _NUMBERED.match(stem)[1] == signal)):  # type: ignore[index]
                return engine, stem, unit
    return None


def core_unit(signal: str) -> str:
    """Return the core's unit of a signal (`egt3`: f), empty for one without."""
    return SIGNAL_UNITS.get(_NUMBERED.sub(r"\1", signal), "")


def is_number_column(column: str) -> bool:
    """Say whether a column of this name must hold figures only."""
    known = signal_of(column)
    return known is not None and known[1] not in TEXT


@dataclass(frozen=True)
class Trace:
    """Samples in order of time. `columns` (file's name -> array of shape (rows,)): float64 with NaN for no reading, or
    object arrays of text. `start_utc` is the first row's time where the file gives `time_utc`."""

    time_s: np.ndarray
    columns: Mapping[str, np.ndarray]
    start_utc: str | None = None

    def __len__(self) -> int:
        return len(self.time_s)

    @property
    def rate_hz(self) -> float:
        """Samples a second, from the median step; 0 with fewer than two rows."""
        return float(1 / np.median(np.diff(self.time_s))) if len(self) > 1 else 0.0

    def signal(self, name: str, engine: int = 1) -> np.ndarray | None:
        """Return a signal (`rpm`, `egt3`, `ff`, ...) in the core's unit, or None where the trace has none of it."""
        for column, values in self.columns.items():
            known = signal_of(column)
            if known and known[:2] == (engine, name):
                if not known[2]:
                    return values
                core = SIGNAL_UNITS[_NUMBERED.sub(r"\1", name)]
                return np.asarray(TO_CORE[core][known[2]].to_core(values))  # type: ignore[arg-type]
        return None

    def cylinders(self, signal: str, engine: int = 1) -> dict[int, np.ndarray]:
        """Return the figures of each cylinder that has any: `{1: egt1, ...}` for `egt`, in °F."""
        found = {}
        for column in self.columns:
            known = signal_of(column)
            match = _NUMBERED.match(known[1]) if known and known[0] == engine else None
            if match and match[1] == signal:
                values = self.signal(match[0], engine)
                if values is not None and np.isfinite(values).any():
                    found[int(match[2])] = values
        return dict(sorted(found.items()))

    def part(self, start: int, end: int) -> "Trace":
        """Return the rows from `start` up to but not including `end`."""
        return Trace(self.time_s[start:end], {k: v[start:end] for k, v in self.columns.items()}, self.start_utc)

    def of_engine(self, number: int) -> "Trace":
        """Return the trace as that engine's own: its columns under plain names, with those that both engines share."""
        own = {c.removeprefix("e2_"): v for c, v in self.columns.items() if c.startswith("e2_") == (number == 2)}
        shared = {c: v for c, v in self.columns.items() if c.startswith(_SHARED) and number == 2}
        return Trace(self.time_s, {**shared, **own}, self.start_utc)

    @property
    def has_second_engine(self) -> bool:
        """Whether any column is a second engine's."""
        return any(column.startswith("e2_") for column in self.columns)

    def speed(self) -> np.ndarray | None:
        """Return the engine's speed: RPM, or percent where the trace has only that."""
        rpm = self.signal("rpm")
        return self.signal("rpm_pct") if rpm is None else rpm

    def ignition(self) -> np.ndarray | None:
        """Return the ignition switch as words (OFF, L, R, BOTH); two lanes are a switch too: lane A alone is L. None where
        it is not known."""
        switch = self.signal("mag")
        if switch is None:
            lane_a, lane_b = self.signal("lane_a"), self.signal("lane_b")
            if lane_a is None or lane_b is None:
                return None
            on_a, on_b = np.nan_to_num(lane_a, nan=1.0) > 0.5, np.nan_to_num(lane_b, nan=1.0) > 0.5
            switch = np.select([on_a & on_b, on_a, on_b], ["BOTH", "L", "R"], "OFF").astype(object)
        return switch if np.isin(switch, ("L", "R", "BOTH")).any() else None

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
