"""A scripted pilot: a bench script whose steps may wait for a needle, and that may name a cause and decide."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from ..base.errors import DrillError, ScriptError, checked_number
from .conditions import check_condition, holds

_STEP_PARTS = {"at", "when", "within_s", "after_s", "set", "ramp_s", "say", "decide", "end"}


@dataclass(frozen=True)
class PilotScript:
    """What a pilot does, step after step: each is done at its time (`at`, seconds of the drill), so long after the one before
    (`after_s`), or as soon as a condition holds (`when`); one whose condition does not come `within_s` is left out."""

    steps: tuple[Mapping[str, Any], ...]

    @classmethod
    def from_json(cls, body: object) -> "PilotScript":
        """Return the script that a JSON list of steps describes; an empty list is a pilot who does nothing.

        Raises:
            ScriptError: names the step (counted from 1) and what is wrong with it.
        """
        if not isinstance(body, list):
            raise ScriptError(
                "A pilot's script is a list of steps, each with `at`, `after_s` or `when`; this is not one."
            )
        for number, step in enumerate(body, 1):
            _check_step(number, step)
        if all("at" in step for step in body):
            body = sorted(body, key=lambda step: float(step["at"]))
        return cls(tuple(body))


def _check_step(number: int, step: object) -> None:
    if not isinstance(step, dict) or len(step.keys() & {"at", "when", "after_s"}) != 1:
        raise ScriptError(f"Step {number} needs one of `at`, `after_s` and `when`.")
    if unknown := sorted(step.keys() - _STEP_PARTS):
        what = "; the drill sets faults, the air and the engine" if unknown[0] in ("fault", "air", "engine") else ""
        known = ", ".join(sorted(_STEP_PARTS))
        raise ScriptError(f"Step {number} has a part {unknown[0]!r} that a pilot has not{what}; known are {known}.")
    for key in ("at", "within_s", "after_s", "ramp_s"):
        if key in step:
            checked_number(f"Step {number}: `{key}`", step[key], ScriptError, lowest=0)
    if not isinstance(step.get("set", {}), dict):
        raise ScriptError(f"Step {number}: `set` must be an object of names and values.")
    for key in ("say", "decide"):
        if not isinstance(step.get(key, ""), str):
            raise ScriptError(f"Step {number}: `{key}` must be a word.")
    if "when" in step:
        try:
            check_condition(step["when"], f"Step {number}: when")
        except DrillError as error:
            raise ScriptError(str(error)) from error


class ScriptedHands:
    """Does the steps of a script as their moment comes."""

    def __init__(self, script: PilotScript):
        self._waiting = list(script.steps)
        self._since_s = 0.0

    def due(self, now_s: float, values: Mapping[str, Any]) -> Iterator[Mapping[str, Any]]:
        """Yield the steps that are done at `now_s` [s] with the needles and levers as they are.

        Raises:
            ScriptError: a step waits for a signal that this aircraft does not have.
        """
        while self._waiting:
            step = self._waiting[0]
            if "at" in step:
                if float(step["at"]) > now_s + 1e-9:
                    return
            elif "after_s" in step:
                if self._since_s + float(step["after_s"]) > now_s + 1e-9:
                    return
            elif not _is_met(step, values):
                if now_s - self._since_s < float(step.get("within_s", float("inf"))):
                    return
                self._go_on(now_s)
                continue
            self._go_on(now_s)
            yield step

    def _go_on(self, now_s: float) -> None:
        self._waiting.pop(0)
        self._since_s = now_s


def _is_met(step: Mapping[str, Any], values: Mapping[str, Any]) -> bool:
    try:
        return bool(holds(step["when"], values))
    except DrillError as error:
        raise ScriptError(str(error)) from error
