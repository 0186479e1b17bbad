"""A script drives the bench without a screen; docs/formats.md describes it. The result is a trace as columns."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..base.errors import ScriptError, checked_number
from .bench import Bench, Sensors
from .layout import ACTIONS

_STEP_KEYS = {"at", "set", "ramp_s", "fault", "size", "air", "engine", "end"}
_AIR_KEYS = {"oat_c", "palt_ft", "dewpoint_c", "ias_kt"}
_ENGINE_KEYS = {"soak_h", "oil_t_f", "running"}
_AFTER_LAST_S = 10.0
_LONGEST_S = 24 * 3600.0


@dataclass(frozen=True)
class BenchScript:
    """Steps in the order of their times, checked in form; names of levers and faults are checked as they are used."""

    steps: tuple[Mapping[str, Any], ...]
    end_s: float

    @classmethod
    def from_json(cls, body: object) -> "BenchScript":
        """Return the script that a JSON list of steps describes.

        Raises:
            ScriptError: names the step (counted from 1) and what is wrong with it.
        """
        if not isinstance(body, list) or not body:
            raise ScriptError("A bench script is a list of steps, each with `at` in seconds; this is not one.")
        for number, step in enumerate(body, 1):
            _check_step(number, step)
        steps = tuple(sorted(body, key=lambda step: float(step["at"])))
        ends = [float(step["at"]) for step in steps if step.get("end")]
        end_s = ends[0] if ends else float(steps[-1]["at"]) + _AFTER_LAST_S
        if end_s > _LONGEST_S:
            raise ScriptError(f"The script ends at {end_s:g} s; the longest is {_LONGEST_S:g} s (24 hours).")
        return cls(steps, end_s)


def _check_step(number: int, step: object) -> None:
    if not isinstance(step, dict) or "at" not in step:
        raise ScriptError(f"Step {number} has no `at`; each step needs its time in seconds.")
    if unknown := sorted(step.keys() - _STEP_KEYS):
        raise ScriptError(
            f"Step {number} has an unknown part {unknown[0]!r}; known are {', '.join(sorted(_STEP_KEYS))}."
        )
    for key in ("at", "ramp_s", "size"):
        if key in step:
            checked_number(f"Step {number}: `{key}`", step[key], ScriptError, lowest=0)
    for key, known in (("set", None), ("air", _AIR_KEYS), ("engine", _ENGINE_KEYS)):
        part = step.get(key, {})
        if not isinstance(part, dict):
            raise ScriptError(f"Step {number}: `{key}` must be an object of names and values.")
        if known and (unknown := sorted(part.keys() - known)):
            raise ScriptError(f"Step {number}: `{key}` has no {unknown[0]!r}; known are {', '.join(sorted(known))}.")
    for key in ("oat_c", "palt_ft", "dewpoint_c", "ias_kt"):
        if step.get("air", {}).get(key) is not None:
            checked_number(f"Step {number}: `{key}`", step["air"][key], ScriptError)
    for key in ("soak_h", "oil_t_f"):
        if step.get("engine", {}).get(key) is not None:
            checked_number(f"Step {number}: `{key}`", step["engine"][key], ScriptError)


@dataclass(frozen=True)
class BenchRun:
    """What a script gave: the sensors' columns, the noise-free columns, and the lever columns (rows, each)."""

    time_s: np.ndarray
    shown: dict[str, np.ndarray]
    true: dict[str, np.ndarray]
    levers: dict[str, np.ndarray]


def apply_step(bench: Bench, step: Mapping[str, Any], air: dict[str, Any]) -> None:
    """Do to a bench what one step says; `air` keeps the air as earlier steps set it (names of `Bench.set_air`) and is brought up
    to date.

        Raises:
            ScriptError: an unknown lever, fault or value.
    """
    if "air" in step:
        air.update(step["air"])
        bench.set_air(**air)
    if "engine" in step:
        bench.make_cold(step["engine"].get("soak_h", 12.0), step["engine"].get("oil_t_f"))
        if step["engine"].get("running"):
            bench.make_running(oil_t_f=step["engine"].get("oil_t_f"))
    if "fault" in step:
        bench.set_fault(str(step["fault"]), float(step.get("size", 1.0)))
    for lever, value in step.get("set", {}).items():
        if lever.removeprefix("e2_") in ACTIONS:
            bench.act(lever, checked_number(f"`{lever}`", value, ScriptError, lowest=0, highest=50))
        else:
            bench.set_lever(lever, value, float(step.get("ramp_s", 0.0)))


class _Player:
    """Applies the steps of a script to one engine as their time comes."""

    def __init__(self, bench: Bench, script: BenchScript):
        self._bench, self._waiting = bench, list(script.steps)
        self._air: dict[str, Any] = {}

    def play_until(self, now_s: float) -> None:
        """Apply all steps due at `now_s` or before. Times in seconds [s]."""
        while self._waiting and float(self._waiting[0]["at"]) <= now_s + 1e-9:
            apply_step(self._bench, self._waiting.pop(0), self._air)


def run_script(script: BenchScript, section: Mapping[str, Any], rate_hz: float = 4.0, seed: int = 1) -> BenchRun:
    """Run a script on one engine of the profile's `bench` section and return what its instruments showed.

    Raises:
        ScriptError: an unknown lever, fault or value, or a rate outside 0.2 to 50 Hz.
    """
    if not 0.2 <= rate_hz <= 50:
        raise ScriptError(f"The rate is {rate_hz:g} Hz; it must be within 0.2 to 50 Hz.")
    bench = Bench(section)
    player = _Player(bench, script)
    player.play_until(0.0)
    sensors = Sensors(bench, [seed])
    rows = int(script.end_s * rate_hz + 1e-6) + 1
    shown, true = np.zeros((rows, len(bench.channels))), np.zeros((rows, len(bench.channels)))
    levers: list[dict[str, float | str]] = []
    for row in range(rows):
        if row:
            _advance_between(bench, player, (row - 1) / rate_hz, row / rate_hz)
        shown[row] = sensors.read(1 / rate_hz if row else 0.0)[0]
        true[row] = bench.true_readings()[0]
        levers.append(bench.lever_positions())
    time_s = np.round(np.arange(rows) / rate_hz, 6)
    columns = {
        name: np.array([at[name] for at in levers], dtype=object if name.endswith("mag") else float)
        for name in bench.lever_names
    }
    return BenchRun(
        time_s, dict(zip(bench.channels, shown.T, strict=True)), dict(zip(bench.channels, true.T, strict=True)), columns
    )


def _advance_between(bench: Bench, player: _Player, start_s: float, end_s: float) -> None:
    """Run from one sample to the next, in pieces, so that a step between two samples acts at its own time."""
    pieces = max(int((end_s - start_s) / 0.1), 1)
    for piece in range(1, pieces + 1):
        bench.advance((end_s - start_s) / pieces)
        player.play_until(start_s + (end_s - start_s) * piece / pieces)
