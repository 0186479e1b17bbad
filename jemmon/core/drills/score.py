"""The score of a flown drill: by skill, what was noticed when, and the one thing to do differently."""

from dataclasses import dataclass
from typing import Any

from ..aircraft import Profile
from .drill import Drill, Rule
from .flown import FlownDrill
from .rules import Met, Scene, met
from .schema import SKILLS

WELL_FLOWN = "well_flown"
_LOST = 0.7  # our own choice: a rule met to less than this share is worth a sentence of the debrief
_NOTHING_LOST = "Nothing to do differently: fly it again on another day, or take the next one."


@dataclass(frozen=True, slots=True, kw_only=True)
class ScoredRule:
    """How one rule was met: its fact, its skill, from 0 to 1, when it was decided [s], what to do instead, and whether the pilot
    came to where it counts."""

    fact: str
    skill: str
    weight: float
    share: float
    at_s: float | None
    instead: str
    is_reached: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Noticed:
    """Something that the pilot noticed, and how long after it could be seen [s]."""

    what: str
    after_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class DrillScore:
    """What a drill says afterwards. `by_skill` goes from 0 to 100; `first` is the one thing to do differently, `fact` the fact
    that it rests on."""

    drill: str
    by_skill: dict[str, int]
    noticed: tuple[Noticed, ...]
    first: str
    fact: str
    rules: tuple[ScoredRule, ...]
    cue_s: float | None

    @property
    def total(self) -> int:
        """All rules by their weights, 0 to 100."""
        return _of_hundred(self.rules)

    def published(self, seed: int) -> dict[str, Any]:
        """Return what `jemmon drill --score` prints (docs/formats.md); `seed` is that of the flight."""
        noticed = [{"what": one.what, "after_s": one.after_s} for one in self.noticed]
        return {
            "drill": self.drill,
            "seed": seed,
            "score": self.by_skill,
            "noticed": noticed,
            "first": self.first,
            "fact": self.fact,
        }


def _of_hundred(rules: tuple[ScoredRule, ...]) -> int:
    weight = sum(rule.weight for rule in rules)
    return round(100 * sum(rule.weight * rule.share for rule in rules) / weight)


def _most_lost(rules: tuple[ScoredRule, ...]) -> ScoredRule | None:
    """Return the first rule that was lost: of those that the pilot came to, else of all."""
    lost = [rule for rule in rules if rule.share < _LOST]
    return next((rule for rule in lost if rule.is_reached), lost[0] if lost else None)


def score(drill: Drill, flown: FlownDrill, profile: Profile) -> DrillScore:
    """Return the score of a flown drill. Rules go by the needles, the levers and what was said; the speed of a hand counts only
    where a delay is dangerous. The one thing to do differently is the first rule in the drill's own order that was lost.

        Raises:
            DrillError: a rule reads a signal that this aircraft does not have.
    """
    scene = Scene(flown, profile, drill)
    found = [(rule, met(rule, scene)) for rule in drill.rules]
    rules = tuple(
        ScoredRule(
            fact=rule.fact,
            skill=rule.skill,
            weight=rule.weight,
            share=round(one.share, 3),
            at_s=one.at_s,
            instead=rule.instead,
            is_reached=one.is_reached,
        )
        for rule, one in found
    )
    lost = _most_lost(rules)
    return DrillScore(
        drill=drill.id,
        by_skill={skill: _of_hundred(own) for skill in SKILLS if (own := tuple(r for r in rules if r.skill == skill))},
        noticed=_noticed(found, scene.cue_s),
        first=_NOTHING_LOST if lost is None else lost.instead,
        fact=WELL_FLOWN if lost is None else lost.fact,
        rules=rules,
        cue_s=scene.cue_s,
    )


def _noticed(found: list[tuple[Rule, Met]], cue_s: float | None) -> tuple[Noticed, ...]:
    if cue_s is None:
        return ()
    return tuple(
        Noticed(what=str(rule.row["noticed"]), after_s=round(one.at_s - cue_s, 1))
        for rule, one in found
        if "noticed" in rule.row and one.at_s is not None and one.share > 0
    )
