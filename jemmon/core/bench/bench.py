"""Engines that Python can hold: levers and air in, true readings and sensor readings out.

`Bench` is one engine or a batch; `Sensors` is a separate layer on top of the true readings, so that a judgement can be
tested on what a probe shows against what is true.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..base.errors import ScriptError
from ..base.units import AVGAS_KG_PER_LITRE, LITRE_PER_US_GALLON, PASCAL_PER_INHG
from ..trace.signals import MAG_POSITIONS, SIGNALS, Kind
from . import engine, heat, starting
from .air import air_record
from .faults import FAULT_SIZES, Fault, Place, checked_fault, set_fault
from .layout import (
    ACTIONS,
    CONTROLS,
    LEVERS,
    MAX_CYLINDERS,
    PLAIN_INSTRUMENTS,
    PROBES,
    RAMPED,
    READ_WIDTH,
    STATE,
    channel_names,
    lever_names,
    parameters_from,
)
from .sensor_faults import Memory, tell

_SECOND = "e2_"
_BY_COMPUTER = 2.0
_AVGAS_KG_PER_GAL = AVGAS_KG_PER_LITRE * LITRE_PER_US_GALLON
_STILL = ("blower_light", "e2_blower_light", "batt2_amps_a")
_LIES = 17  # sets the generator of faulty instruments apart from that of the noise
_TREMBLES_FROM_RAD_S = 31.4
_ROUGH_TREMBLES_RPM = 8.0


class Bench:
    """One aircraft's engines (the default), or several engines of one type, each with its own levers, air, faults, state.

    A twin's two engines are rows 0 and 1 and share its bus; names of the second begin `e2_`. `levers` is a record array
    (shape (engines,)) of throttle, mixture, ... to read; `set_lever` moves one.
    """

    def __init__(self, section: Mapping[str, Any], engines: int | None = None, **overrides: Any):
        parameters = parameters_from({**section, **overrides})
        self.per_aircraft = int(parameters["engines"])
        engines = engines or self.per_aircraft
        self.cylinders = int(parameters["cylinders"])
        self.lever_names, self.channels = lever_names(section), channel_names(section)
        self.parameters = np.repeat(parameters.reshape(1), engines)
        if self.per_aircraft == 2 and section.get("second"):  # what differs in a twin's second engine
            self.parameters[1::2] = parameters_from({**section, **section["second"], **overrides})
        self.levers = np.zeros(engines, CONTROLS)
        for name, lever in LEVERS.items():
            self.levers[name] = lever.start if name in section["levers"] else lever.absent
        self.air = np.repeat(air_record().reshape(1), engines)
        self.faults = np.zeros(engines, FAULT_SIZES)
        self.sensor_faults: list[dict[str, float]] = [{} for _ in range(engines // self.per_aircraft)]
        self.state = np.zeros(engines, STATE)
        self._positions: Mapping[str, Mapping[str, float]] = section.get("positions", {})
        self._target = np.zeros((engines, len(RAMPED)))
        self._rate_per_s = np.full((engines, len(RAMPED)), np.inf)
        self.read_columns = _columns(self.channels)
        self._spare_s = 0.0
        self.hold_levers()
        self.make_cold()

    def __len__(self) -> int:
        """Return the number of aircraft."""
        return len(self.state) // self.per_aircraft

    def make_cold(
        self,
        soak_h: float = 12.0,
        oil_t_f: float | None = None,
        which: int | slice = slice(None),
        luck: float = 1.0,
    ) -> None:
        """Put engines at rest after standing `soak_h` hours; oil and heads between running-hot and the air. `luck` is how much of
        the oil that could run above the lower pistons in that time did, 0 to 1."""
        state, air, p = self.state[which], self.air[which], self.parameters[which]
        outside_k = air["temperature_k"]
        oil_k = (
            outside_k + (355.0 - outside_k) * np.exp(-soak_h / heat.OIL_SOAK_H)
            if oil_t_f is None
            else (oil_t_f + 459.67) / 1.8
        )
        fresh = np.zeros_like(state)
        fresh["oil_k"] = oil_k
        fresh["oil_share"] = 1.0
        fresh["oil_grade"] = heat.grade_for(outside_k)
        fresh["head_k"] = np.asarray(outside_k + (440.0 - outside_k) * np.exp(-soak_h / heat.HEAD_SOAK_H))[..., None]
        fresh["probe_k"] = fresh["head_k"]
        fresh["coolant_k"] = outside_k + (355.0 - outside_k) * np.exp(-soak_h / heat.COOLANT_SOAK_H)
        fresh["carburettor_k"] = outside_k
        fresh["manifold_pa"] = air["pressure_pa"]
        fresh["charge_ah"] = p["battery_ah"]
        fresh["oil_fill"] = 0.55 * np.exp(-soak_h / 4.0)
        fresh["line_k"] = starting.soaked_line_k(outside_k, soak_h)
        fresh["cowl_k"] = starting.soaked_cowl_k(soak_h)
        boiled = np.clip((fresh["line_k"] - outside_k - 10.0) / 30.0, 0.0, 1.0)
        fresh["film_kg"] = p["percolation_g"] * 1e-3 * boiled
        fresh["line_vapour"] = p["line_vapour"] * starting.boiled_share(fresh["line_k"])
        fresh["lock_oil"] = np.minimum(p["lock_oil_per_h"] * soak_h, 1.0) * luck
        fresh["turbo_ratio"] = 1.0
        fresh["tank_kg"] = np.asarray(p["tank_gal"] * _AVGAS_KG_PER_GAL)[..., None]
        fresh["last_throttle"] = self.levers["throttle"][which]
        self.state[which] = fresh

    def set_fuel(self, gallons: Sequence[float]) -> None:
        """Put so much fuel into each tank [US gal], in the order of the selector."""
        for tank, amount in enumerate(gallons):
            self.state["tank_kg"][:, tank] = amount * _AVGAS_KG_PER_GAL

    def make_running(self, rpm: float = 1000.0, oil_t_f: float | None = None) -> None:
        """Put engines at idle power, warm or with oil and coolant as cold as `oil_t_f`, with the mixture rich and every switch as
        in flight. Speed in RPM."""
        on = {"mixture": 1.0, "mag": 3.0, "master": 1.0, "throttle": 0.1, "lane_a": 1.0, "lane_b": 1.0}
        if self.parameters["fuel_injection"][0] == _BY_COMPUTER:
            on["pump"] = 1.0
        for name, value in on.items():
            if name in self.lever_names:
                self.levers[name] = value
        self.hold_levers()
        size = self.parameters["reference_air_flow_kg_s"] / 0.115
        self.state["speed_rad_s"] = rpm * 2 * np.pi / 60
        self.state["oil_k"], self.state["oil_fill"] = 345.0, 1.0
        self.state["oil_pressure_psi"] = 0.6 * self.parameters["oil_relief_psi"]
        self.state["fuel_pressure_psi"] = self.parameters["engine_pump_psi"]
        self.state["coolant_k"], self.state["line_k"] = 350.0, self.air["temperature_k"]
        self.state["head_k"] = np.where(self.parameters["coolant_heat_capacity_j_k"] > 0, 360.0, 420.0)[:, None]
        self.state["probe_k"] = 780.0
        if oil_t_f is not None:
            self.state["oil_k"] = self.state["coolant_k"] = (oil_t_f + 459.67) / 1.8
        self.state["fuel_kg_s"] = 0.0012 * size
        self.state["air_kg_s"] = 0.013 * size
        self.state["last_throttle"] = 0.1
        self.state["heat_muff"] = 1.0
        for name in ("film_kg", "wet", "line_vapour", "lock_oil"):
            self.state[name] = 0.0

    def set_air(self, which: int | slice = slice(None), **air: Any) -> None:
        """Set the air of engines: `palt_ft`, `oat_c`, `dewpoint_c`, `ias_kt` (see `air_record`)."""
        self.air[which] = air_record(**air)

    def set_lever(self, name: str, value: float | str, ramp_s: float = 0.0, which: int | slice = slice(None)) -> None:
        """Move a lever to `value`, at once or over `ramp_s` seconds; `mag` takes OFF, L, R, BOTH, others 0 to 1, true,
        false, or a position that the profile names. `which` picks engines of a batch of single-engined aircraft.

        Raises:
            ScriptError: no such lever, or a value outside its travel.
        """
        own = name.removeprefix(_SECOND)
        number = self._lever_number(name, value)
        rows = self._rows(name, which)
        if own in RAMPED:
            column = RAMPED.index(own)
            distance = np.abs(number - self.levers[own][rows])
            self._target[rows, column] = number
            self._rate_per_s[rows, column] = distance / ramp_s if ramp_s > 0 else np.inf
        else:
            self.levers[own][rows] = number

    def _rows(self, name: str, which: int | slice = slice(None)) -> int | slice:
        if self.per_aircraft == 1 or name in SIGNALS and SIGNALS[name].is_shared:
            return which
        return slice(1 if name.startswith(_SECOND) else 0, None, self.per_aircraft)

    def _lever_number(self, name: str, value: float | str) -> float:
        if name not in self.lever_names:
            raise ScriptError(f"There is no lever {name!r}; `jemmon bench --list` names them all.")
        own = name.removeprefix(_SECOND)
        kind, positions = SIGNALS[own].kind, self._positions.get(own, {})
        if kind is Kind.WORD:
            if value not in MAG_POSITIONS:
                raise ScriptError(f"The magneto switch has no position {value!r}; it has {', '.join(MAG_POSITIONS)}.")
            return float(MAG_POSITIONS.index(str(value)))
        if isinstance(value, str) and value in positions:
            return positions[value]
        if not isinstance(value, int | float) or not 0 <= float(value) <= 1:
            named = f", or is one of {', '.join(positions)}" if positions else ""
            raise ScriptError(f"Lever {name!r} cannot be set to {value!r}; it goes from 0 to 1{named}.")
        return float(value) if kind is Kind.LEVER or positions else float(bool(value))

    def lever_positions(self, aircraft: int = 0) -> dict[str, float | str]:
        """Return where each lever of one aircraft is: 0 to 1, `mag` a word."""
        found: dict[str, float | str] = {}
        for name in self.lever_names:
            row = aircraft * self.per_aircraft + name.startswith(_SECOND)
            own = name.removeprefix(_SECOND)
            number = float(self.levers[own][row])
            found[name] = MAG_POSITIONS[int(number)] if SIGNALS[own].kind is Kind.WORD else number
        return found

    def hold_levers(self) -> None:
        """Let every lever stay where it is: no hand moves it any more."""
        for column, name in enumerate(RAMPED):
            self._target[:, column] = self.levers[name]

    def check_action(self, name: str) -> None:
        """Raise ScriptError unless this aircraft has such an action."""
        if name.removeprefix(_SECOND) not in ACTIONS or name.startswith(_SECOND) and self.per_aircraft < 2:
            raise ScriptError(f"There is no action {name!r}; known are {', '.join(ACTIONS)}.")

    def act(self, name: str, amount: float, which: int | slice = slice(None)) -> None:
        """Do what a hand does at once: `prime_strokes` or `prime_s` of the primer, `wobble_strokes`, `turn_blades`.

        Raises:
            ScriptError: no such action.
        """
        self.check_action(name)
        own = name.removeprefix(_SECOND)
        rows = self._rows(name, which)
        state, p = self.state[rows], self.parameters[rows]
        if own == "prime_strokes":
            state["film_kg"] += amount * p["prime_stroke_g"] * 1e-3
            state["strokes"] += amount
        elif own == "prime_s":
            state["film_kg"] += amount * p["primer_g_s"] * 1e-3
        elif own == "wobble_strokes":
            state["fuel_pressure_psi"] = np.minimum(
                state["fuel_pressure_psi"] + amount * p["wobble_psi"], p["engine_pump_psi"]
            )
        else:
            state["lock_oil"] = starting.turned_through(state["lock_oil"], amount)
        self.state[rows] = state

    def prime(self, strokes: float, which: int | slice = slice(None)) -> None:
        """Add strokes of the hand primer."""
        self.act("prime_strokes", strokes, which)

    def set_fault(self, name: str, size: float, which: int = 0) -> None:
        """Set a named fault of one engine. Raises ScriptError as in `faults.checked_fault`. `size` is a share, 0 to 1."""
        row, cylinder = self.check_fault(name, size)
        which += self._is_of_second(name)
        if row.place is Place.SENSOR:
            self.sensor_faults[which // self.per_aircraft][name] = size
            return
        rows = slice(which, which + 1)
        set_fault(self.faults[rows], self.state[rows], row, cylinder, size)

    def check_fault(self, name: str, size: float) -> tuple[Fault, int]:
        """Return the row of a fault and its cylinder. Raises ScriptError as in `faults.checked_fault`; `size` a share, 0 to 1."""
        own = name.removeprefix(_SECOND) if self._is_of_second(name) else name
        return checked_fault(own, size, self.cylinders)

    def _is_of_second(self, name: str) -> bool:
        return name.startswith(_SECOND) and self.per_aircraft == 2

    def advance(self, seconds: float) -> None:
        """Run all engines for so long; the part below one step of 0.02 s is kept for the next call."""
        self._spare_s += seconds
        steps = int(self._spare_s / engine.STEP_S + 1e-6)
        self._spare_s -= steps * engine.STEP_S
        if steps <= 0:
            return
        travel = self._rate_per_s * engine.STEP_S
        engine.advance(
            *(self.state, self.parameters, self.levers, self.air, self.faults),
            *(steps, self._target, travel, self.per_aircraft),
        )

    def true_readings(self) -> np.ndarray:
        """Return the noise-free readings (shape (aircraft, channels)) in the trace's units, as `channels` names them."""
        out = np.zeros((len(self.state), READ_WIDTH))
        engine.read(self.state, self.parameters, self.air, out)
        return out.reshape(len(self), -1)[:, self.read_columns]

    def roughness(self) -> np.ndarray:
        """Return how rough the rougher engine of each aircraft runs (shape (aircraft,)), 0 smooth to 1."""
        return np.asarray(self.state["roughness"].reshape(len(self), -1).max(axis=1))

    def mag_position(self, which: int = 0) -> str:
        """Return the ignition switch as a word."""
        return MAG_POSITIONS[int(self.levers["mag"][which])]


def _columns(channels: Sequence[str]) -> np.ndarray:
    """Return where each channel is in what `engine.read` writes of one aircraft's engines, one after the other."""
    places = {name: place for place, name in enumerate(PLAIN_INSTRUMENTS)}
    for kind, probe in enumerate(PROBES):
        for number in range(MAX_CYLINDERS):
            places[f"{probe}{number + 1}_f"] = len(PLAIN_INSTRUMENTS) + kind * MAX_CYLINDERS + number
    own = [places[name.removeprefix(_SECOND)] + name.startswith(_SECOND) * READ_WIDTH for name in channels]
    return np.array(own, dtype=np.int64)


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
            "amps2_a": 0.2,
            "rpm_pct": 0.1,
            "rotor_pct": 0.1,
            "coolant_t_f": 0.4,
            "tit_f": 2.0,
        }
    )
    lag_s: Mapping[str, float] = field(
        default_factory=lambda: (
            {"egt": 3.0, "cht": 4.0, "ff_gph": 0.7, "map_inhg": 0.2, "oil_t_f": 5.0, "cat_f": 3.0}
            | {"coolant_t_f": 4.0, "tit_f": 2.0}
        )
    )
    rounding: Mapping[str, float] = field(
        default_factory=lambda: {"rpm": 1, "map_inhg": 0.01, "ff_gph": 0.01, "palt_ft": 1, "ias_kt": 0.1}
    )

    def of(self, table: Mapping[str, float], channels: Sequence[str], default: float) -> np.ndarray:
        """Return one figure a channel (shape (channels,)) from one of the tables."""
        own = [c.removeprefix(_SECOND) for c in channels]
        kinds = [c[:3] if c.startswith(PROBES) else c for c in own]
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
            probes = [i for i, c in enumerate(bench.channels) if c.removeprefix(_SECOND).startswith("egt")]
            lag[:, probes] = np.asarray(egt_lag_s)[:, None]
        self._lag_s = lag
        self._rounding = table.of(table.rounding, bench.channels, 0.1)
        full = float(bench.parameters["rpm_100"][0])  # the first channel is the tachometer, in RPM or in percent
        self._per_rpm = 100.0 / full if bench.channels[0] == "rpm_pct" and full > 0 else 1.0
        self._memory = [Memory(np.random.default_rng([seed, _LIES])) for seed in seeds]
        self._shown = bench.true_readings()
        self._followed_s, self._follow = 0.0, np.zeros_like(self._lag_s)  # what a sensor makes up in so many seconds
        # a light and a shunt of a small battery do not tremble, and draw nothing: what others draw stays as it was
        self._trembles = [place for place, name in enumerate(bench.channels) if name not in _STILL]
        self._noise = np.zeros((len(bench), 0, len(bench.channels)))
        self._next = 0

    def read(self, dt: float) -> np.ndarray:
        """Return the readings (shape (engines, channels)) `dt` seconds after the last call."""
        bench = self._bench
        if dt != self._followed_s:
            self._follow = np.where(self._lag_s > 0, 1 - np.exp(-dt / np.maximum(self._lag_s, 1e-9)), 1.0)
            self._followed_s = dt
        if self._next >= self._noise.shape[1]:
            self._noise = np.zeros((len(self._generators), self._BLOCK, len(self._sigma)))
            shape = (self._BLOCK, len(self._trembles))
            self._noise[:, :, self._trembles] = np.stack([g.standard_normal(shape) for g in self._generators])
            self._next = 0
        figures = engine.sense(
            *(bench.state, bench.parameters, bench.air, bench.read_columns),
            *(self._shown, self._follow, self._noise[:, self._next], self._sigma),
            *(_TREMBLES_FROM_RAD_S, _ROUGH_TREMBLES_RPM * self._per_rpm),
        )
        self._next += 1
        for row, faults in enumerate(bench.sensor_faults):
            if faults:
                outside = bench.air[row * bench.per_aircraft]
                inhg, outside_f = outside["pressure_pa"] / PASCAL_PER_INHG, outside["temperature_k"] * 1.8 - 459.67
                figures[row] = tell(figures[row], bench.channels, faults, self._memory[row], inhg, outside_f, dt)
        return np.asarray(engine.rounded(figures, self._rounding))
