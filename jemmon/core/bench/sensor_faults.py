"""What faulty instruments show instead of what is true: dead, drifting, stuck and noisy probes, a tachometer that errs, a line
that leaks, figures that drop out. On top of `Sensors`, row by row; nothing here moves the engine.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

_SECOND = "e2_"
_ACTS_FROM = 0.5  # the size from which a probe is dead or stuck
_DRIFTS_F_S, _TREMBLES_F = 10.0 / 60.0, 50.0
_TACHOMETER_LOW, _TACHOMETER_STEP = 0.04, 50.0
_LINE_LEAKS, _FLOW_HIGH, _DROPS_OUT = 0.25, 0.10, 0.2


@dataclass
class Memory:
    """What the faulty instruments of one aircraft keep from reading to reading; its generator is its own."""

    rng: np.random.Generator
    since_s: dict[str, float] = field(default_factory=dict)
    kept: dict[str, float] = field(default_factory=dict)
    last: np.ndarray | None = None


def tell(
    figures: np.ndarray,
    channels: Sequence[str],
    faults: Mapping[str, float],
    memory: Memory,
    outside_inhg: float,
    outside_f: float,
    dt_s: float,
) -> np.ndarray:
    """Return what faulty instruments show for these figures (shape (channels,), in the trace's units) `dt_s` after the last
    call; `faults` names them with their sizes, a second engine's with e2_. What is not faulty passes."""
    shown = figures.copy()
    for name, size in faults.items():
        if size <= 0.0:
            continue
        engine = _SECOND if name.startswith(_SECOND) else ""
        own = name.removeprefix(_SECOND)
        memory.since_s[name] = memory.since_s.get(name, 0.0) + dt_s
        if own == "dropouts":
            _drop_out(shown, memory, size)
            continue
        channel = engine + _channel(own)
        if channel not in channels:
            continue
        column = channels.index(channel)
        shown[column] = _one(own, size, float(shown[column]), name, memory, outside_inhg, outside_f)
    memory.last = shown
    return shown


def _channel(fault: str) -> str:
    """Return the trace column that a faulty instrument gives."""
    plain = {"map_line_leak": "map_inhg", "flow_bias": "ff_gph", "tachometer_error": "rpm", "tachometer_steps": "rpm"}
    if fault in plain:
        return plain[fault]
    _, probe, _, number = fault.split("_")
    return f"{probe}{number}_f"


def _one(
    fault: str, size: float, true: float, name: str, memory: Memory, outside_inhg: float, outside_f: float
) -> float:
    if fault == "map_line_leak":
        return true + _LINE_LEAKS * size * (outside_inhg - true)
    if fault == "flow_bias":
        return true * (1.0 + _FLOW_HIGH * size)
    if fault == "tachometer_error":
        return true * (1.0 - _TACHOMETER_LOW * size)
    if fault == "tachometer_steps":
        step = _TACHOMETER_STEP * size
        return float(np.round(true / step) * step)
    how = fault.split("_")[0]
    if how == "drifting":
        return true - _DRIFTS_F_S * size * memory.since_s[name]
    if how == "noisy":
        return true + _TREMBLES_F * size * float(memory.rng.standard_normal())
    if size < _ACTS_FROM:
        return true
    return outside_f if how == "dead" else memory.kept.setdefault(name, true)


def _drop_out(shown: np.ndarray, memory: Memory, size: float) -> None:
    missing = memory.rng.random(len(shown)) < _DROPS_OUT * size
    if memory.last is not None:
        shown[missing] = memory.last[missing]
