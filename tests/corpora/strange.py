"""How the judgement reads engines that we did not simulate: `tests.strange` makes them, this holds findings against its truth."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from jemmon.core.aircraft import Profile
from jemmon.core.judgement.judge import judge, too_coarse_hz
from jemmon.core.start.advice import FIRED, TOO_LITTLE, TOO_MUCH, Attempt, advise_start, book_strokes, telling
from tests.core.builders import PROFILES
from tests.strange.hands import Done, Story, failure, flight, leaning, no_failure, run_up
from tests.strange.starts import Starter

RUN_UP_KINDS = ("mag_check", "carb_heat_check", "prop_cycle", "unexplained_drop")
# what is done on the ground only
GROUND_KINDS = ("mag_check", "carb_heat_check", "mixture_check", "idle_check", "warm_up", "prop_cycle", "unexplained_drop",
                "gauges", "alternator_check", "feather_check")  # fmt: skip
_SIDES = ("left", "right", "first", "second")
_CLOSE_S = 2.0


@dataclass
class RunUpScore:
    """Counts over run-ups; `errors` are (error, plus-or-minus, what rounding leaves) of drops [RPM], `hot_errors` those of hot air
    alone, which all together hide."""

    run_ups: int = 0
    silent: int = 0
    no_check: int = 0
    falls: int = 0
    named: int = 0
    unexplained: int = 0
    false: int = 0
    heats: int = 0
    heats_named: int = 0
    errors: list[tuple[float, float, float]] = field(default_factory=list)
    hot_errors: list[tuple[float, float, float]] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)

    def within(self, rpm: float, *, hot: bool = False) -> float:
        """Return the share of drops off by at most so many RPM and half the rounding."""
        errors = self.hot_errors if hot else self.errors
        return float(np.mean([abs(error) <= rpm + step / 2 for error, _, step in errors]))

    def covered(self, *, hot: bool = False) -> float:
        """Return the share of drops whose plus-or-minus covers the truth."""
        return float(np.mean([abs(error) <= plus for error, plus, _ in (self.hot_errors if hot else self.errors)]))

    def wide(self) -> float:
        """Return the median plus-or-minus against the error's own 95th percentile."""
        errors, plus, _ = (np.array(row) for row in zip(*self.errors, strict=True))
        return float(np.median(plus) / np.quantile(np.abs(errors), 0.95))


def score_run_ups(
    seeds: Iterable[int], stress: tuple[float, float] = (1.0, 1.0), row_s: float | None = None
) -> RunUpScore:
    """Judge strange run-ups."""
    score = RunUpScore()
    for seed in seeds:
        compare_run_up(run_up(seed, stress, row_s), seed, score)
    return score


def compare_run_up(story: Story, seed: int, score: RunUpScore) -> None:
    """Judge one run-up and add to the score."""
    found = [f.to_json() for f in judge(story.trace, PROFILES[story.kind], RUN_UP_KINDS, tell_gaps=False)]
    score.run_ups += 1
    score.silent += not found
    score.no_check += not any(f["kind"] in ("mag_check", "carb_heat_check") for f in found)
    about = (
        f"{seed} {story.kind} rows {story.panel.row_s} step {story.panel.rpm_step} lag {story.lag_s:.2f} "
        + " ".join(name for name in ("egt", "one_egt", "map") if story.panel.has[name])
    )
    falls = [one for one in story.of("L", "R", "heat") if not one.facts.get("flat")]
    score.falls += len(falls)
    told: dict[int, str] = {}
    for finding in found:
        for fall, drop, plus in _falls_told(finding, story):
            if fall is None:
                score.false += 1
                score.notes.append(
                    f"{about}: FALSE {finding['kind']} at {finding['start_s']:.0f} to {finding['end_s']:.0f}"
                )
                continue
            told[id(fall)] = finding["kind"]
            if drop is not None and not fall.facts.get("iced"):
                score.errors.append((drop - fall.drop_rpm, plus or 0.0, story.panel.rpm_step))
                score.hot_errors += score.errors[-1:] if fall.kind == "heat" else []
                if abs(drop - fall.drop_rpm) > 12 + story.panel.rpm_step / 2:
                    dwell = fall.end_s - fall.start_s
                    score.notes.append(
                        f"{about}: {fall.kind} {drop:.0f}+-{plus or 0:.0f}, true {fall.drop_rpm:.0f} dwell {dwell:.1f}"
                    )
    for fall in falls:
        kind = told.get(id(fall))
        if kind is None:
            score.notes.append(
                f"{about}: {fall.kind} of {fall.drop_rpm:.0f} not told ({fall.end_s - fall.start_s:.1f} s)"
            )
        score.heats += fall.kind == "heat"
        score.heats_named += fall.kind == "heat" and kind == "carb_heat_check"
        score.named += kind in ("mag_check", "carb_heat_check")
        score.unexplained += kind == "unexplained_drop"


def _falls_told(finding: Mapping[str, Any], story: Story) -> list[tuple[Done | None, float | None, float | None]]:
    """Return (the true fall or None where there was none of the kind, drop, plus-or-minus) of each fall a finding tells."""
    measured = finding["measured"]
    if finding["kind"] == "prop_cycle":
        cycled = any(one.start_s < finding["end_s"] and one.end_s > finding["start_s"] for one in story.of("cycle"))
        return [] if cycled else [(None, None, None)]
    if finding["kind"] == "unexplained_drop":
        everything = story.of("L", "R", "heat", "cycle", "slip", "ice")
        return [(_near(everything, at, at), None, None) for at in measured["at_s"]]
    if finding["kind"] == "carb_heat_check":
        heat = _overlapping(story.of("heat"), finding["start_s"], finding["end_s"])
        return [(heat, measured["drop_rpm"], measured.get("drop_plus_minus_rpm"))]
    sides = sorted(story.of("L", "R"), key=lambda one: one.start_s)
    rows = []
    within = [
        one for one in sides if one.end_s > finding["start_s"] - _CLOSE_S and one.start_s < finding["end_s"] + _CLOSE_S
    ]
    drops = [(measured.get(f"drop_{name}_rpm"), measured.get(f"drop_{name}_plus_minus_rpm")) for name in _SIDES]
    drops = [row for row in drops if row[0] is not None]
    if measured.get("repeats"):
        rows += [(None, None, None)] * max(len(measured["repeats"]) + len(drops) - len(within), 0)
    if len(drops) > len(within):
        return [(None, None, None)]
    if len(within) > len(drops):  # one side alone was told: the nearer one
        within = sorted(within, key=lambda one: abs(one.start_s - finding["start_s"]))[: len(drops)]
    return rows + [(one, drop, plus) for one, (drop, plus) in zip(within, drops, strict=True)]


def _overlapping(done: list[Done], start_s: float, end_s: float) -> Done | None:
    return next((one for one in done if one.start_s < end_s and one.end_s > start_s), None)


def _near(done: list[Done], start_s: float, end_s: float) -> Done | None:
    middle = (start_s + end_s) / 2
    near = [one for one in done if one.start_s - _CLOSE_S <= middle <= one.end_s + _CLOSE_S + 2.0]
    return near[0] if near else None


@dataclass
class LeanScore:
    """Counts over leanings; `flows` and `offsets` are (error, plus-or-minus) in gal/h and °F."""

    leanings: int = 0
    wrong: int = 0
    unknown: int = 0
    peaks_true: int = 0
    peaks_told: int = 0
    peaks_false: int = 0
    flows: list[tuple[float, float]] = field(default_factory=list)
    offsets: list[tuple[float, float]] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


def share(rows: list[tuple[float, float]], most: float) -> float:
    """Return the share of (error, plus-or-minus) whose error is at most so much."""
    return float(np.mean([abs(error) <= most for error, _ in rows])) if rows else float("nan")


def coverage(rows: list[tuple[float, float]]) -> tuple[float, float]:
    """Return (share covered by the plus-or-minus, its median against the error's 95th percentile)."""
    if not rows:
        return float("nan"), float("nan")
    errors, plus = (np.array(row) for row in zip(*rows, strict=True))
    return float(np.mean(np.abs(errors) <= plus)), float(np.median(plus) / np.quantile(np.abs(errors), 0.95))


def score_leanings(
    seeds: Iterable[int], stress: tuple[float, float] = (1.0, 1.0), row_s: float | None = None
) -> LeanScore:
    """Judge strange leanings."""
    score = LeanScore()
    for seed in seeds:
        compare_leaning(leaning(seed, stress, row_s), seed, score)
    return score


def compare_leaning(story: Story, seed: int, score: LeanScore) -> None:
    """Judge one leaning and add to the score."""
    score.leanings += 1
    found = [f.to_json() for f in judge(story.trace, PROFILES[story.kind], ("lean",), tell_gaps=False)]
    true = story.of("lean")[0].facts
    panel = story.panel
    about = f"{seed} {story.kind} rows {panel.row_s} probe {panel.probe_s:.1f} dead {panel.dead_probe} {true['side']}"
    if not found:
        score.unknown += bool(true["passes"])
        score.notes.append(f"{about}: no leaning told (passes {true['passes']})")
        return
    said = found[-1]["measured"]
    peaks: Mapping[int, float] = true["peak_gph"]  # type: ignore[assignment]
    passed = {c: g * (1 + panel.flow_bias) for c, g in peaks.items() if true["passes"]}
    told = {p["cylinder"]: p for p in said["peaks"]}
    seen = set(story.trace.cylinders("egt")) - {panel.broken_cylinder}  # a broken probe shows no peak
    score.peaks_false += len([c for c in told if c not in seen])
    score.peaks_true += len([c for c in passed if c in seen])
    score.peaks_told += len([c for c in passed if c in told])
    if not true["passes"]:
        score.peaks_false += len([c for c in told if c in seen])
        if told:
            score.notes.append(f"{about}: peak told that was not passed")
    if said["side"] == "unknown":
        if true["passes"]:
            score.unknown += 1
            score.notes.append(f"{about}: side unknown")
        return
    if true["side"] != "between" and said["side"] not in (true["side"], "peak"):
        score.wrong += 1
        score.notes.append(f"{about}: WRONG {said['side']} {said['offset_f']}, true {true['offset_f']:.0f}")
        return
    for c, peak in told.items():
        if c in passed and peak["ff_gph"] is not None:
            score.flows.append((peak["ff_gph"] - passed[c], said.get("ff_plus_minus_gph") or 0.0))
    if said["offset_f"] is None and said["side"] != "peak":
        score.unknown += 1
        score.notes.append(f"{about}: offset unknown")
    elif said["side"] == true["side"]:
        score.offsets.append((said["offset_f"] - true["offset_f"], said.get("offset_plus_minus_f") or 0.0))  # type: ignore[operator]
        if abs(score.offsets[-1][0]) > 15:
            score.notes.append(f"{about}: offset {said['offset_f']:.0f}, true {true['offset_f']:.0f}")


@dataclass
class FlightScore:
    """Counts over whole flights."""

    flights: int = 0
    leanings: int = 0
    told: int = 0
    false_leanings: int = 0
    ground_in_air: int = 0
    run_ups: int = 0
    run_ups_told: int = 0
    notes: list[str] = field(default_factory=list)


def score_flights(seeds: Iterable[int], row_s: float | None = None) -> FlightScore:
    """Judge strange whole flights."""
    score = FlightScore()
    for seed in seeds:
        compare_flight(flight(seed, row_s), seed, score)
    return score


def compare_flight(story: Story, seed: int, score: FlightScore) -> None:
    """Judge one flight and add to the score."""
    score.flights += 1
    about = f"{seed} {story.kind} rows {story.panel.row_s} " + " ".join(n for n, has in story.panel.has.items() if has)
    found = [f.to_json() for f in judge(story.trace, PROFILES[story.kind], tell_gaps=False)]
    ground = story.of("ground")
    off_s, on_s = ground[0].end_s + 23.0, ground[-1].start_s - 45.0
    leaning_done = story.of("lean")[0]
    is_small = bool(leaning_done.facts["small"])
    leans = [f for f in found if f["kind"] == "lean"]
    overlap = [f for f in leans if f["start_s"] < leaning_done.end_s and f["end_s"] > leaning_done.start_s]
    false = [f for f in leans if f not in overlap]
    said = [f["measured"]["side"] for f in overlap]
    is_told = any(side in (leaning_done.facts["side"], "peak") for side in said)
    is_told |= bool(said) and not leaning_done.facts["passes"]
    score.leanings += not is_small
    score.told += is_told and not is_small
    if not is_told and not is_small:
        about_it = f"{leaning_done.facts['side']} passes {leaning_done.facts['passes']}, told {said}"
        score.notes.append(f"{about}: leaning {about_it}")
    score.false_leanings += len(false)
    for f in false:
        where = f"(true at {leaning_done.start_s:.0f}; off {off_s:.0f})"
        score.notes.append(f"{about}: false lean {f['start_s']:.0f}-{f['end_s']:.0f} {f['measured']['side']} {where}")
    for f in found:
        if f["kind"] in GROUND_KINDS and f["start_s"] > off_s and f["start_s"] < on_s and f["kind"] != "warm_up":
            score.ground_in_air += 1
            score.notes.append(
                f"{about}: {f['kind']} in the air at {f['start_s']:.0f} ({off_s:.0f} to {on_s:.0f}): {f['because']}"
            )
    if too_coarse_hz(story.trace) is None:  # else it is said that checks of a few seconds are not judged
        score.run_ups += 1
        score.run_ups_told += any(f["kind"] in RUN_UP_KINDS for f in found)


@dataclass
class LossScore:
    """Counts over failures and over what looks like one."""

    failures: int = 0
    told: int = 0
    late_s: list[float] = field(default_factory=list)
    named: int = 0
    misnamed: int = 0
    others: int = 0
    false: int = 0


def score_losses(seeds: Iterable[int]) -> LossScore:
    """Judge strange failures of every cause, and as many hands that close, level and lean."""
    score = LossScore()
    for seed in seeds:
        cause = ("fuel", "ignition", "mechanical", "carburettor_ice")[seed % 4]
        story = failure(seed, cause)
        (loss,) = story.of("loss")
        found = [f for f in judge(story.trace, PROFILES[story.kind], ("power_loss",)) if f.end_s > loss.start_s]
        score.failures += 1
        score.told += bool(found)
        if found:
            named = found[0].measured["cause"]
            score.named += named == cause
            score.misnamed += named not in (cause, "unknown")
            if cause != "carburettor_ice":
                score.late_s.append(found[0].end_s - loss.start_s)
        quiet = no_failure(seed)
        score.others += 1
        score.false += bool(judge(quiet.trace, PROFILES[quiet.kind], ("power_loss",)))
    return score


@dataclass
class StartScore:
    """Starts that fired at the first try, and within two, by the advice and by the book alone."""

    starts: int = 0
    first: int = 0
    within_two: int = 0
    by_book: int = 0


def score_starts(seeds: Iterable[int]) -> StartScore:
    """Start strange engines, each with ten recorded starts behind it: one by the advice, one by the book."""
    score = StartScore()
    for seed in seeds:
        rng = np.random.default_rng([seed, 9])
        profile = PROFILES[("a-trainer", "b-tourer")[seed % 2]]
        needs = book_strokes(profile, 15.0) * float(np.exp(rng.uniform(np.log(0.6), np.log(1.8))))
        engine = Starter(rng, needs, float(rng.uniform(0.05, 0.12)), float(rng.uniform(5, 20)))
        history: list[Attempt] = []
        for _ in range(10):
            history += telling(_by_advice(engine, profile, float(rng.uniform(-15, 40)), history))
        metal_c = float(rng.uniform(-15, 40))
        made = _by_advice(engine, profile, metal_c, history)
        score.starts += 1
        score.first += made[0].outcome == FIRED
        score.within_two += any(one.outcome == FIRED for one in made[:2])
        engine.begin()
        score.by_book += engine.try_once(round(book_strokes(profile, metal_c)), metal_c, 5.0) == "fired"
    return score


def _by_advice(engine: Starter, profile: Profile, metal_c: float, history: list[Attempt]) -> list[Attempt]:
    made: list[Attempt] = []
    engine.begin()
    while len(made) < 3:
        advice = advise_start(profile, metal_c, history, now=made)
        given = made[-1].strokes if made else 0.0
        if advice.kind == "flooded":
            engine.begin()  # air clears it
        amount = max(advice.strokes, given)
        said = engine.try_once(amount - given, metal_c, 4.0)
        outcome = {"fired": FIRED, "died": TOO_MUCH, "nothing": TOO_LITTLE}[said]
        made.append(Attempt(metal_c=metal_c, strokes=amount, outcome=outcome, cranking_s=4.0))
        if said == "fired":
            break
    return made
