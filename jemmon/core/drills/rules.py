"""The rules by which a drill is scored: one function a kind of rule, from 0 (not met) to 1 (met)."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..judgement.judge import judge
from ..trace.finding import Finding
from .conditions import holds
from .drill import Drill, Rule
from .flown import FlownDrill


@dataclass(frozen=True, slots=True)
class Met:
    """How far a rule was met, 0 to 1, the moment that decided it [s], where there is one, and whether the pilot came to where it
    counts."""

    share: float
    at_s: float | None = None
    is_reached: bool = True


_NOT_REACHED = Met(0.0, is_reached=False)


class Scene:
    """A flown drill as rules read it: its columns, the moment of the cue [s] (None where it never came), and what the
    judgement finds in it, judged once and only where a rule asks."""

    def __init__(self, flown: FlownDrill, profile: Profile, drill: Drill):
        self.time_s, self.values = flown.time_s, flown.values()
        self._flown, self._profile = flown, profile
        self._findings: list[Finding] | None = None
        self.cue_s = self._cue_s(drill, flown)

    def _cue_s(self, drill: Drill, flown: FlownDrill) -> float | None:
        """Return from when something can be noticed [s]: as the drill says, else as something happens, else from the beginning."""
        if drill.cue is not None:
            return self.first(drill.cue, 0.0)
        if flown.happened:
            return flown.happened[0].at_s
        return None if drill.happens else 0.0

    def findings(self) -> list[Finding]:
        """Return what the judgement finds in this flight."""
        if self._findings is None:
            self._findings = judge(self._flown.trace(), self._profile)
        return self._findings

    def mask(self, condition: Mapping[str, Any]) -> np.ndarray:
        """Return where a condition holds (rows,)."""
        return np.broadcast_to(np.asarray(holds(condition, self.values), dtype=bool), self.time_s.shape)

    def first(
        self, condition: Mapping[str, Any], from_s: float, to_s: float = np.inf, for_s: float = 0.0
    ) -> float | None:
        """Return the first moment from `from_s` to `to_s` [s] from which a condition holds for `for_s` [s], or None."""
        inside = self.mask(condition) & (self.time_s >= from_s) & (self.time_s <= to_s)
        since: float | None = None
        for at_s, is_true in zip(self.time_s.tolist(), inside.tolist(), strict=True):
            since = (at_s if since is None else since) if is_true else None
            if since is not None and at_s - since >= for_s:
                return since
        return None

    def begins_s(self, rule: Rule) -> float | None:
        """Return from when a rule counts [s]: from its own `from`, else from the cue; None where that never came."""
        if "from" not in rule.row:
            return self.cue_s
        return self.first(rule.row["from"], 0.0)

    def ends_s(self, rule: Rule, from_s: float) -> float:
        """Return until when a rule counts [s]: until its own `until`, else to the end."""
        until = self.first(rule.row["until"], from_s) if "until" in rule.row else None
        return np.inf if until is None else until


def _within(rule: Rule, scene: Scene) -> Met:
    """In time: whole up to `good_s` after the beginning, nothing from `late_s` on, evenly between."""
    begins_s = scene.begins_s(rule)
    if begins_s is None:
        return _NOT_REACHED
    at_s = scene.first(rule.row["what"], begins_s, for_s=float(rule.row.get("for_s", 0.0)))
    if at_s is None:
        return Met(0.0)
    good_s, late_s = float(rule.row["good_s"]), float(rule.row["late_s"])
    return Met(float(np.interp(at_s - begins_s, (good_s, late_s), (1.0, 0.0))), at_s)


def _done(rule: Rule, scene: Scene) -> Met:
    begins_s = scene.begins_s(rule)
    if begins_s is None:
        return _NOT_REACHED
    at_s = scene.first(rule.row["what"], begins_s, scene.ends_s(rule, begins_s), float(rule.row.get("for_s", 0.0)))
    return Met(0.0 if at_s is None else 1.0, at_s)


def _never(rule: Rule, scene: Scene) -> Met:
    """A limit kept all the time; who never came to where it could be passed (`once`) has not kept it."""
    if "once" in rule.row and scene.first(rule.row["once"], 0.0) is None:
        return _NOT_REACHED
    begins_s = scene.begins_s(rule) if "from" in rule.row else 0.0
    if begins_s is None:
        return Met(1.0)
    at_s = scene.first(rule.row["what"], begins_s, scene.ends_s(rule, begins_s), float(rule.row.get("for_s", 0.0)))
    return Met(1.0 if at_s is None else 0.0, at_s)


def _order(rule: Rule, scene: Scene) -> Met:
    """The share of the steps that were met, each no earlier than those before it."""
    begins_s, steps = scene.begins_s(rule), rule.row["steps"]
    if begins_s is None:
        return _NOT_REACHED
    latest_s, met = begins_s, 0
    for step in steps:
        at_s = scene.first(step, begins_s)
        if at_s is not None and at_s >= latest_s:
            latest_s, met = at_s, met + 1
    return Met(met / len(steps), latest_s if met else None)


def _at_end(rule: Rule, scene: Scene) -> Met:
    if "once" in rule.row and scene.first(rule.row["once"], 0.0) is None:
        return _NOT_REACHED
    return Met(float(scene.mask(rule.row["what"])[-1]), float(scene.time_s[-1]))


def _finding(rule: Rule, scene: Scene) -> Met:
    """The judgement finds a check of this kind whose figures lie where they should."""
    for finding in scene.findings():
        if finding.kind == rule.row["finding"] and _fits(finding.published(), rule.row.get("where", {})):
            return Met(1.0, finding.end_s)
    return Met(0.0)


def _fits(published: Mapping[str, Any], where: Mapping[str, Any]) -> bool:
    known = {**published["measured"], "verdict": published["verdict"]}
    for name, bounds in where.items():
        value = known.get(name)
        if value is None or not bool(holds({"of": name, **bounds}, {name: value})):
            return False
    return True


KINDS: Mapping[str, Callable[[Rule, Scene], Met]] = {
    "within": _within,
    "done": _done,
    "never": _never,
    "order": _order,
    "at_end": _at_end,
    "finding": _finding,
}


def met(rule: Rule, scene: Scene) -> Met:
    """Return how far a rule was met in a flown drill. Raises DrillError for a signal that there is not."""
    return KINDS[rule.rule](rule, scene)
