"""Engines that Python can hold: levers and air in, true readings and sensor readings out.

`Bench` is one engine or a batch; `Sensors` is a separate layer on top of the true readings, so that a judgement can be
tested on what a probe shows against what is true.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..errors import ScriptError
from . import engine
from .air import air_record
from .faults import set_fault
from .layout import CONTROLS, FAULT_SIZES, LEVERS, MAG_POSITIONS, STATE, parameters_from

_RAMPED = ("throttle", "mixture", "carb_heat")
_ENGINE_CHANNELS = (
    "rpm",
    "map_inhg",
    "ff_gph",
    "fp_psi",
    "oil_t_f",
    "oil_p_psi",
    "volts_v",
    "amps_a",
    "batt_amps_a",
    "suction_inhg",
    "cat_f",
    "oat_f",
    "palt_ft",
    "ias_kt",
)


def channel_names(cylinders: int) -> tuple[str, ...]:
    """Return the trace columns that an engine's sensors give, in the order of `engine.read`."""
    egts = tuple(f"egt{i}_f" for i in range(1, cylinders + 1))
    chts = tuple(f"cht{i}_f" for i in range(1, cylinders + 1))
    return _ENGINE_CHANNELS + egts + chts


class Bench:
    """One engine (the default) or several of one type, each with its own levers, air, faults and state.

    `levers` is a record array (shape (engines,)) of throttle, mixture, ... to read; `set_lever` moves one.
    """

    def __init__(self, section: Mapping[str, Any], engines: int = 1, **overrides: Any):
        parameters = parameters_from({**section, **overrides})
        self.cylinders = int(parameters["cylinders"])
        self.channels = channel_names(self.cylinders)
        self.parameters = np.repeat(parameters.reshape(1), engines)
        self.levers = np.zeros(engines, CONTROLS)
        for name, (_, start) in LEVERS.items():
            self.levers[name] = start
        self.air = np.repeat(air_record().reshape(1), engines)
        self.faults = np.zeros(engines, FAULT_SIZES)
        self.state = np.zeros(engines, STATE)
        self._target = np.zeros((engines, 3))
        self._rate_per_s = np.full((engines, 3), np.inf)
        self._spare_s = 0.0
        self.make_cold()

    def __len__(self) -> int:
        return len(self.state)

    def make_cold(self, soak_h: float = 12.0, oil_t_f: float | None = None, which: int | slice = slice(None)) -> None:
        """Put engines at rest after standing `soak_h` hours; oil and heads between running-hot and the air."""
        state, air = self.state[which], self.air[which]
        outside_k = air["temperature_k"]
        warmth = np.exp(-soak_h / 1.6)
        oil_k = outside_k + (355.0 - outside_k) * warmth if oil_t_f is None else (oil_t_f + 459.67) / 1.8
        charge = self.parameters[which]["battery_ah"]
        fresh = np.zeros_like(state)
        fresh["oil_k"] = oil_k
        fresh["head_k"] = np.asarray(outside_k + (440.0 - outside_k) * np.exp(-soak_h / 0.7))[..., None]
        fresh["probe_k"] = fresh["head_k"]
        fresh["carburettor_k"] = outside_k
        fresh["manifold_pa"] = air["pressure_pa"]
        fresh["charge_ah"] = charge
        fresh["oil_fill"] = 0.55 * np.exp(-soak_h / 4.0)
        self.state[which] = fresh

    def make_running(self, rpm: float = 1000.0) -> None:
        """Put engines at idle power, warm, with the mixture rich and every switch as in flight."""
        for name, value in (("mixture", 1.0), ("mag", 3.0), ("master", 1.0), ("throttle", 0.1)):
            self.levers[name] = value
        self.hold_levers()
        self.state["speed_rad_s"] = rpm * 2 * np.pi / 60
        self.state["oil_k"], self.state["oil_fill"] = 345.0, 1.0
        self.state["head_k"] = 420.0
        self.state["probe_k"] = 780.0
        self.state["fuel_kg_s"] = 0.0012
        self.state["air_kg_s"] = 0.013
        self.state["last_throttle"] = 0.1
        self.state["heat_muff"] = 1.0

    def set_air(self, which: int | slice = slice(None), **air: Any) -> None:
        """Set the air of engines: `palt_ft`, `oat_c`, `dewpoint_c`, `ias_kt` (see `air_record`)."""
        self.air[which] = air_record(**air)

    def set_lever(self, name: str, value: float | str, ramp_s: float = 0.0, which: int | slice = slice(None)) -> None:
        """Move a lever to `value`, at once or over `ramp_s` seconds; `mag` takes OFF, L, R, BOTH.

        Raises:
            ScriptError: no such lever, or a value outside its travel.
        """
        number = _lever_number(name, value)
        if name in _RAMPED:
            column = _RAMPED.index(name)
            distance = np.abs(number - self.levers[name][which])
            self._target[which, column] = number
            self._rate_per_s[which, column] = distance / ramp_s if ramp_s > 0 else np.inf
        else:
            self.levers[name][which] = number

    def hold_levers(self) -> None:
        """Let every lever stay where it is: no hand moves it any more."""
        for column, name in enumerate(_RAMPED):
            self._target[:, column] = self.levers[name]

    def prime(self, strokes: float, which: int | slice = slice(None)) -> None:
        """Add strokes of the hand primer."""
        self.state["film_kg"][which] += strokes * self.parameters["prime_stroke_g"][which] * 1e-3
        self.state["strokes"][which] += strokes

    def set_fault(self, name: str, size: float, which: int = 0) -> None:
        """Set a named fault of one engine. Raises ScriptError as in `faults.set_fault`."""
        rows = slice(which, which + 1)
        set_fault(self.faults[rows], self.state[rows], name, size, self.cylinders)

    def advance(self, seconds: float) -> None:
        """Run all engines for so long; the part below one step of 0.02 s is kept for the next call."""
        self._spare_s += seconds
        steps = int(self._spare_s / engine.STEP_S + 1e-6)
        self._spare_s -= steps * engine.STEP_S
        if steps <= 0:
            return
        travel = self._rate_per_s * engine.STEP_S
        engine.advance(self.state, self.parameters, self.levers, self.air, self.faults, steps, self._target, travel)

    def true_readings(self) -> np.ndarray:
        """Return the noise-free readings (shape (engines, channels)) in the trace's units, as `channels` names them."""
        out = np.zeros((len(self), len(self.channels)))
        engine.read(self.state, self.parameters, self.air, out)
        return out

    def mag_position(self, which: int = 0) -> str:
        """Return the ignition switch as a word."""
        return MAG_POSITIONS[int(self.levers["mag"][which])]


def _lever_number(name: str, value: float | str) -> float:
    if name not in LEVERS:
        raise ScriptError(f"There is no lever {name!r}; `jemmon bench --list` names them all.")
    kind = LEVERS[name][0]
    if kind == "mag":
        if value not in MAG_POSITIONS:
            raise ScriptError(f"The magneto switch has no position {value!r}; it has {', '.join(MAG_POSITIONS)}.")
        return float(MAG_POSITIONS.index(str(value)))
    if isinstance(value, str) or not 0 <= float(value) <= 1:
        raise ScriptError(f"Lever {name!r} cannot be set to {value!r}; it goes from 0 to 1.")
    return float(value) if kind == "fraction" else float(bool(value))


@dataclass(frozen=True)
class SensorTable:
    """One table for all sensors: white noise (sigma), rounding, and the lag to 63 % [s], by kind of channel."""

    noise: Mapping[str, float] = field(
        default_factory=lambda: {
            "rpm": 3.0,
            "map_inhg": 0.04,
            "ff_gph": 0.05,
            "egt": 2.0,
            "cht": 0.7,
            "oil_t_f": 0.4,
            "oil_p_psi": 0.4,
            "volts_v": 0.03,
            "amps_a": 0.2,
            "batt_amps_a": 0.2,
            "suction_inhg": 0.02,
            "fp_psi": 0.05,
        }
    )
    lag_s: Mapping[str, float] = field(
        default_factory=lambda: {"egt": 3.0, "cht": 4.0, "ff_gph": 0.7, "map_inhg": 0.2, "oil_t_f": 5.0, "cat_f": 3.0}
    )
    rounding: Mapping[str, float] = field(
        default_factory=lambda: {"rpm": 1, "map_inhg": 0.01, "ff_gph": 0.01, "palt_ft": 1, "ias_kt": 0.1}
    )

    def of(self, table: Mapping[str, float], channels: Sequence[str], default: float) -> np.ndarray:
        """Return one figure a channel (shape (channels,)) from one of the tables."""
        kinds = ["egt" if c.startswith("egt") else "cht" if c.startswith("cht") else c for c in channels]
        return np.array([table.get(kind, default) for kind in kinds])


class Sensors:
    """What the instruments of a bench show: the true readings with lag, noise and rounding.

    Each engine has its own generator, drawn in blocks, so that its noise does not depend on the batch.
    """

    _BLOCK = 256

    def __init__(
        self, bench: Bench, seeds: Sequence[int], table: SensorTable | None = None, egt_lag_s: np.ndarray | None = None
    ):
        table = table or SensorTable()
        self._bench = bench
        self._generators = [np.random.default_rng(seed) for seed in seeds]
        self._sigma = table.of(table.noise, bench.channels, 0.0)
        lag = np.tile(table.of(table.lag_s, bench.channels, 0.0), (len(bench), 1))
        if egt_lag_s is not None:
            probes = [i for i, c in enumerate(bench.channels) if c.startswith("egt")]
            lag[:, probes] = np.asarray(egt_lag_s)[:, None]
        self._lag_s = lag
        self._rounding = table.of(table.rounding, bench.channels, 0.1)
        self._shown = bench.true_readings()
        self._noise = np.zeros((len(bench), 0, len(bench.channels)))
        self._next = 0

    def read(self, dt: float) -> np.ndarray:
        """Return the readings (shape (engines, channels)) `dt` seconds after the last call."""
        true = self._bench.true_readings()
        with np.errstate(divide="ignore"):
            follow = np.where(self._lag_s > 0, 1 - np.exp(-dt / np.maximum(self._lag_s, 1e-9)), 1.0)
        self._shown += follow * (true - self._shown)
        if self._next >= self._noise.shape[1]:
            shape = (self._BLOCK, len(self._sigma))
            self._noise = np.stack([g.standard_normal(shape) for g in self._generators])
            self._next = 0
        alive = np.minimum(true[:, :1] / 300.0, 1.0)  # a stopped engine's tachometer does not tremble
        noise = self._noise[:, self._next] * self._sigma * alive
        rough = self._bench.state["roughness"] * 25.0
        noise[:, 0] *= 1 + rough / max(self._sigma[0], 1e-9) if self._sigma[0] else 1
        self._next += 1
        return np.round((self._shown + noise) / self._rounding) * self._rounding
