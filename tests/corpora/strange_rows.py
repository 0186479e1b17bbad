"""The bars of `make bench` on engines that we did not simulate (`tests.strange`), and the stress row beside them."""

from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from typing import TypeVar

from tests.corpora.garbage import GarbageScore, score_garbage
from tests.corpora.plain import PlainScore, score_plain
from tests.corpora.plain_flights import FlightScore as PlainFlightScore
from tests.corpora.plain_flights import score_flights as score_plain_flights
from tests.corpora.strange import (
    FlightScore,
    LeanScore,
    LossScore,
    RunUpScore,
    StartScore,
    coverage,
    score_flights,
    score_leanings,
    score_losses,
    score_run_ups,
    score_starts,
    share,
)

RUN_UPS, LEANINGS, FLIGHTS, LOSSES, STARTS, STRESSED, PROCESSES = 200, 200, 60, 300, 300, 100, 2
PLAIN_FLIGHTS, WITH_GARBAGE = 400, 100
# twice the inertia (which is twice the lag), exhausts of three quarters and of a third more
STRESSES = ((2.0, 0.75), (2.0, 1.35))
Row = tuple[str, float, str, bool]
S = TypeVar("S", RunUpScore, LeanScore, FlightScore, LossScore, StartScore, GarbageScore)


def _together(score_of: Callable[[Iterable[int]], S], first: int, count: int) -> S:
    """Return the score of so many seeds, worked out by two processes."""
    parts = [range(first + k * count // PROCESSES, first + (k + 1) * count // PROCESSES) for k in range(PROCESSES)]
    with ProcessPoolExecutor(PROCESSES) as pool:
        total, *others = list(pool.map(score_of, parts))
    for other in others:
        for name in total.__dataclass_fields__:
            setattr(total, name, getattr(total, name) + getattr(other, name))
    return total


def strange_rows(seed: int) -> list[Row]:
    """Return the rows of run-ups, leanings, flights, failures and starts, and of the stressed ones, which are reported."""
    first = seed * 1_000
    rows = [
        *_run_up_rows(_together(score_run_ups, first, RUN_UPS)),
        *_plain_rows(score_plain(range(first, first + RUN_UPS))),
        *_plain_flight_rows(score_plain_flights(range(first, first + PLAIN_FLIGHTS))),
        *_leaning_rows(_together(score_leanings, first, LEANINGS)),
        *_flight_rows(_together(score_flights, first, FLIGHTS)),
        *_loss_rows(_together(score_losses, first, LOSSES)),
        *_start_rows(_together(score_starts, first, STARTS)),
        _garbage_row(_together(score_garbage, first, WITH_GARBAGE)),
        *(row for stress in STRESSES for row in _stress_rows(first, stress)),
    ]
    return [(f"seed {seed}: {what}", value, bar, is_met) for what, value, bar, is_met in rows]


def _plain_rows(score: PlainScore) -> list[Row]:
    """Return the rows of run-ups without any physics, which are reported: what is found of them is no bar of an issue."""
    name = f"{score.run_ups} plain run-ups"
    return [
        (f"{name}: without a word", score.silent, "", True),
        (f"{name}: checks told whole and by their name (of {score.done})", score.found / score.done, "", True),
        (f"{name}: told by another's name", score.wrong, "", True),
        (f"{name}: drops within 12 RPM and half the rounding", score.within(12), "", True),
        (f"{name}: plus-or-minus covers the truth", score.covered(), "", True),
    ]


def _plain_flight_rows(score: PlainFlightScore) -> list[Row]:
    """Return the rows of whole flights without any physics."""
    name = f"{score.flights} plain flights"
    false = sum(number for kind, number in score.false.items() if kind != "lean")
    near, covered, told = score.within(15), score.covered(), score.leanings_told / score.leanings
    return [
        (f"{name}: starts told as they were (of {score.starts})", score.starts_right, "", True),
        (f"{name}: limits that were passed told (of {score.overs})", score.overs_told, "", True),
        (f"{name}: told that was not there, leanings left out", false, "", True),
        (f"{name}: leanings told (of {score.leanings})", told, ">= 0.95", told >= 0.95),
        (f"{name}: leanings told that were none", score.false["lean"], "", True),
        (f"{name}: leanings, wrong side", score.sides_wrong, "0", score.sides_wrong == 0),
        (f"{name}: leanings, side unknown or at peak", score.sides_unknown / score.leanings, "", True),
        (f"{name}: leanings, offset within 15 °F", near, ">= 0.9", near >= 0.9),
        (f"{name}: leanings, plus-or-minus covers the truth", covered, ">= 0.93", covered >= 0.93),
        (f'{name}: "was it you?" when a throttle closed unseen', score.questions, "", True),
    ]


def _run_up_rows(score: RunUpScore) -> list[Row]:
    name, named, open_share = (
        f"{score.run_ups} strange run-ups",
        score.named / score.falls,
        score.unexplained / score.falls,
    )
    near, covered, wide = score.within(12), score.covered(), score.wide()
    none, hot_named = score.no_check / score.run_ups, score.heats_named / score.heats
    hot_near, hot_covered = score.within(12, hot=True), score.covered(hot=True)
    return [
        (f"{name}: without a word", score.silent, "0", score.silent == 0),
        (f"{name}: checks told by their name (of {score.falls})", named, ">= 0.9", named >= 0.9),
        (f"{name}: told as unexplained", open_share, "<= 0.1", open_share <= 0.1),
        (f"{name}: without any check", none, "<= 0.01", none <= 0.01),
        (f"{name}: drops within 12 RPM and half the rounding", near, ">= 0.95", near >= 0.95),
        (f"{name}: plus-or-minus covers the truth", covered, ">= 0.93", covered >= 0.93),
        (f"{name}: hot air told by its name (of {score.heats})", hot_named, ">= 0.85", hot_named >= 0.85),
        (f"{name}: hot air within 12 RPM and half the rounding", hot_near, ">= 0.93", hot_near >= 0.93),
        (f"{name}: hot air, plus-or-minus covers the truth", hot_covered, ">= 0.93", hot_covered >= 0.93),
        (f"{name}: its median against the error's 95th percentile", wide, "<= 1.3", wide <= 1.3),
        (f"{name}: false checks", score.false, "0", score.false == 0),
    ]


def _leaning_rows(score: LeanScore) -> list[Row]:
    name, unknown = f"{score.leanings} strange leanings", score.unknown / score.leanings
    peaks, flows, offsets = score.peaks_told / score.peaks_true, share(score.flows, 0.25), share(score.offsets, 15)
    rows: list[Row] = [
        (f"{name}: wrong side", score.wrong, "0", score.wrong == 0),
        (f"{name}: side unknown", unknown, "<= 0.05", unknown <= 0.05),
        (f"{name}: peaks not passed told", score.peaks_false, "0", score.peaks_false == 0),
        (f"{name}: peaks passed told (of {score.peaks_true})", peaks, ">= 0.95", peaks >= 0.95),
        (f"{name}: fuel flow at peak within 0.25 gal/h", flows, ">= 0.9", flows >= 0.9),
        (f"{name}: offset within 15 °F", offsets, ">= 0.9", offsets >= 0.9),
    ]
    for what, pairs in (("fuel flow at peak", score.flows), ("offset", score.offsets)):
        covered, wide = coverage(pairs)
        rows.append((f"{name}: plus-or-minus of {what} covers", covered, ">= 0.93", covered >= 0.93))
        rows.append((f"{name}: its median against the error's 95th percentile", wide, "<= 1.3", wide <= 1.3))
    return rows


def _flight_rows(score: FlightScore) -> list[Row]:
    name, told = f"{score.flights} strange flights", score.told / score.leanings
    return [
        (f"{name}: findings of the ground told in the air", score.ground_in_air, "0", score.ground_in_air == 0),
        (f"{name}: leanings told (of {score.leanings})", told, ">= 0.95", told >= 0.95),
        (f"{name}: leanings told that were none", score.false_leanings, "", True),
        (
            f"{name}: without a word of the run-up",
            score.run_ups - score.run_ups_told,
            "0",
            score.run_ups == score.run_ups_told,
        ),
    ]


def _loss_rows(score: LossScore) -> list[Row]:
    name, told, late_s = (
        f"{score.failures} strange failures in flight",
        score.told / score.failures,
        sorted(score.late_s),
    )
    return [
        (f"{name}: told", told, ">= 0.97", told >= 0.97),
        (f"{name}: seconds until told, 90 of 100, ice left out", late_s[int(0.9 * len(late_s))], "", True),
        (f"{name}: cause named", score.named / score.failures, "", True),
        (f"{name}: named wrongly", score.misnamed / score.failures, "<= 0.05", score.misnamed <= 0.05 * score.failures),
        (
            f"{score.others} closings, descents, levellings, leanings: told as a loss",
            score.false,
            "0",
            score.false == 0,
        ),
    ]


def _start_rows(score: StartScore) -> list[Row]:
    name = f"{score.starts} strange starts, ten before each"
    first, by_book = score.first / score.starts, score.by_book / score.starts
    return [
        (f"{name}: fired at the first try", first, ">= 0.85", first >= 0.85),
        (f"{name}: within two", score.within_two / score.starts, ">= 0.95", score.within_two >= 0.95 * score.starts),
        (f"{name}: first try by the book alone", by_book, "", True),
    ]


def _garbage_row(score: GarbageScore) -> Row:
    changed = score.changed / score.traces
    return (
        f"{score.traces} strange traces with garbage in one reading: told otherwise",
        changed,
        "<= 0.02",
        changed <= 0.02,
    )


def _stress_rows(first: int, stress: tuple[float, float]) -> list[Row]:
    run_ups = _together(partial(score_run_ups, stress=stress), first + 500, STRESSED)
    leanings = _together(partial(score_leanings, stress=stress), first + 500, STRESSED)
    name = f"{STRESSED} under stress (inertia x{stress[0]:g}, EGT x{stress[1]:g})"
    return [
        (f"{name}: checks told by their name", run_ups.named / run_ups.falls, "", True),
        (f"{name}: drops within 12 RPM", run_ups.within(12), "", True),
        (f"{name}: plus-or-minus covers", run_ups.covered(), "", True),
        (f"{name}: false checks", run_ups.false, "", True),
        (f"{name}: leanings, wrong side", leanings.wrong, "0", leanings.wrong == 0),
        (f"{name}: leanings, offset within 15 °F", share(leanings.offsets, 15), "", True),
    ]
