"""How the judgement reads the run-ups of `tests.strange.plain`, which knows no engine's physics."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from jemmon.core.judgement.judge import judge
from tests.core.builders import PROFILES
from tests.strange.plain import Act, PlainRunUp, plain_run_up

_KINDS = ("mag_check", "carb_heat_check", "prop_cycle", "unexplained_drop")
_CLOSE_S = 3.0


@dataclass
class PlainScore:
    """Counts over run-ups; `errors` are (error, plus-or-minus, rounding of the tachometer) of drops [RPM]."""

    run_ups: int = 0
    silent: int = 0
    done: int = 0
    found: int = 0
    wrong: int = 0
    errors: list[tuple[float, float, float]] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)

    def within(self, rpm: float) -> float:
        """Return the share of drops off by at most so many RPM and half the rounding."""
        return sum(abs(error) <= rpm + step / 2 for error, _, step in self.errors) / len(self.errors)

    def covered(self) -> float:
        """Return the share of drops whose plus-or-minus covers the truth."""
        return sum(abs(error) <= plus for error, plus, _ in self.errors) / len(self.errors)


def score_plain(seeds: Iterable[int]) -> PlainScore:
    """Judge plain run-ups: a check is found where it is told by its name, whole and once."""
    score = PlainScore()
    for seed in seeds:
        run_up = plain_run_up(seed)
        told = [f.to_json() for f in judge(run_up.trace, PROFILES[run_up.aircraft], _KINDS, tell_gaps=False)]
        score.run_ups += 1
        score.silent += not told
        _count(run_up, told, score, f"{seed} {run_up.aircraft} rows {1 / run_up.trace.rate_hz:.2f} s")
    return score


def _count(run_up: PlainRunUp, told: list[dict[str, Any]], score: PlainScore, about: str) -> None:
    by_kind = {kind: [one for one in told if one["kind"] == kind] for kind in _KINDS}
    sides, cycles = run_up.of("left", "right"), run_up.of("cycle")
    done = {
        "mag_check": [sides],
        "carb_heat_check": [[act] for act in run_up.of("heat")],
        "prop_cycle": [cycles] * bool(cycles),
    }
    for kind, blocks in done.items():
        score.done += len(blocks)
        own = by_kind[kind]
        found = [block for block in blocks if any(_is_of(one, block) for one in own)]
        is_whole = kind != "prop_cycle" or not cycles or [one["measured"]["count"] for one in own] == [len(cycles)]
        score.found += len(found) if is_whole else 0
        if len(found) < len(blocks) or not is_whole:
            score.notes.append(f"{about}: {kind} not told as it was done")
        others = [act for act in run_up.acts if not any(act in block for block in blocks)]
        for one in own:
            if any(_inside(act, one) for act in others) or not any(_inside(act, one) for act in run_up.acts):
                score.wrong += 1
                score.notes.append(f"{about}: FALSE {kind} at {one['start_s']:.0f} to {one['end_s']:.0f}")
    checks = [one for one in by_kind["mag_check"] if _is_of(one, sides)]
    for one in checks[:1]:
        for act, name in zip(sides, ("first", "second"), strict=True):
            drop, plus = (one["measured"].get(f"drop_{name}_{what}rpm") for what in ("", "plus_minus_"))
            if drop is not None and plus is not None:
                score.errors.append((drop - act.drop_rpm, plus, run_up.rounding_rpm))


def _is_of(finding: dict[str, Any], block: list[Act]) -> bool:
    """Say whether a finding lies where all of a block was done."""
    return all(finding["start_s"] - _CLOSE_S <= act.to_s and act.from_s <= finding["end_s"] + _CLOSE_S for act in block)


def _inside(act: Act, finding: dict[str, Any]) -> bool:
    """Say whether a finding covers more of an act than rows and lags would let it touch."""
    covered_s = min(finding["end_s"] + 1.0, act.to_s) - max(finding["start_s"] - 1.0, act.from_s)
    return covered_s > (act.to_s - act.from_s) / 2
