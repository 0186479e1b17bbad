"""Random starts on simulated engines that want more or less prime than their book, and what the advice makes of them."""

from dataclasses import dataclass

import numpy as np

from jemmon.core.aircraft import Profile
from jemmon.core.bench import Bench
from jemmon.core.start.advice import (
    FIRED,
    TOO_LITTLE,
    TOO_MUCH,
    Attempt,
    StartAdvice,
    advise_start,
    book_strokes,
    telling,
)

_RECORDED = 10
_MOST_ATTEMPTS = 3
_CLEARED_AFTER_S, _STROKE_AFTER_S = 5.0, 8.0


@dataclass
class StartScore:
    """How often an engine fired at the first attempt, and within two; and the longest cranking [s] at a time."""

    first: list[bool]
    within_two: list[bool]
    cranked_s: float = 0.0


def score_starts(profile: Profile, seeds: range) -> tuple[StartScore, StartScore]:
    """Return the scores (with advice, with the book alone) over one evaluated start for each seed's engine, which has
    ten recorded starts behind it."""
    advised, by_book = StartScore([], []), StartScore([], [])
    for seed in seeds:
        rng = np.random.default_rng(seed)
        want = float(np.exp(rng.uniform(np.log(0.6), np.log(1.8))))
        history: list[Attempt] = []
        for _ in range(_RECORDED):
            history += telling(start_once(profile, want, *_day(rng, 4.0), history, advised))
        day = _day(rng, 0.0)
        _note(advised, start_once(profile, want, *day, history, advised))
        _note(by_book, start_once(profile, want, *day, [], by_book, learns=False))
    return advised, by_book


def _day(rng: np.random.Generator, least_soak_h: float) -> tuple[float, float, float]:
    """Return outside temperature [°C], hours stood, the share of the battery's charge."""
    return rng.uniform(-15, 40), rng.uniform(least_soak_h, 12), rng.uniform(0.7, 1.0)


def _note(score: StartScore, attempts: list[Attempt]) -> None:
    fired = [attempt.outcome == FIRED for attempt in attempts]
    score.first.append(fired[0])
    score.within_two.append(any(fired[:2]))


def start_once(
    profile: Profile,
    want: float,
    oat_c: float,
    soak_h: float,
    charge: float,
    history: list[Attempt],
    score: StartScore,
    learns: bool = True,
) -> list[Attempt]:
    """Start one engine by the advice (or by the book) until it fires or three attempts are made."""
    assert profile.bench is not None
    made: list[Attempt] = []
    bench = Bench(profile.bench, prime_need_factor=want)
    bench.set_air(palt_ft=600, oat_c=oat_c, ias_kt=0)
    bench.make_cold(soak_h)
    bench.state["charge_ah"] *= charge
    for name, value in (("master", 1.0), ("mixture", 1.0), ("throttle", 0.08), ("mag", "BOTH")):
        bench.set_lever(name, value)
    bench.advance(3.0)
    given = 0.0
    while len(made) < _MOST_ATTEMPTS:
        heads_f = float(bench.state["head_k"][0].mean()) * 1.8 - 459.67
        advice = advise_start(profile, oat_c, history if learns else (), cht_f=heads_f, now=made)
        amount = _amount(profile, advice, max(oat_c, (heads_f - 32) / 1.8), len(made), learns, given)
        bench.prime(max(amount - given, 0.0))
        given = max(given, amount)
        outcome, cranked_s = _crank(bench, profile, advice.kind == "flooded")
        score.cranked_s = max(score.cranked_s, cranked_s)
        made.append(
            Attempt(metal_c=max(oat_c, (heads_f - 32) / 1.8), strokes=given, outcome=outcome, cranking_s=cranked_s)
        )
        if outcome == FIRED:
            break
    return made


def _amount(profile: Profile, advice: StartAdvice, metal_c: float, tries: int, learns: bool, given: float) -> float:
    if advice.kind == "flooded":
        return given
    if not learns and advice.kind == "cold":
        return round(book_strokes(profile, metal_c)) + tries
    return max(advice.strokes, given + 1) if tries else advice.strokes


def _crank(bench: Bench, profile: Profile, clears: bool) -> tuple[str, float]:
    """Turn the starter for three quarters of its limit at most, cleared of fuel where flooded; mixture in and throttle
    back as it fires. Return (outcome, seconds turned): what the needles show, whether it caught and whether it ran on."""
    bench.advance(2.0)
    bench.set_lever("throttle", 1.0 if clears else 0.08)
    bench.set_lever("mixture", 0.0 if clears else 1.0)
    bench.set_lever("starter", 1.0)
    turned, caught = 0.0, False
    while turned < profile.limit("starter_on_max_s") * 0.75 and not caught:
        bench.advance(0.1)
        turned += 0.1
        if clears and abs(turned - _CLEARED_AFTER_S) < 0.05:
            bench.set_lever("throttle", 0.08)
            bench.set_lever("mixture", 1.0, ramp_s=6.0)
        if clears and abs(turned - _STROKE_AFTER_S) < 0.05:
            bench.prime(1)
        caught = _rpm(bench) > profile.limit("rpm_firing_min") and not (clears and turned < _CLEARED_AFTER_S + 1)
    bench.set_lever("starter", 0.0)
    bench.set_lever("throttle", 0.08)
    bench.set_lever("mixture", 1.0, ramp_s=6.0 if clears else 0.0)
    bench.advance(10.0)
    if _rpm(bench) > profile.limit("rpm_firing_min"):
        return FIRED, turned
    return (TOO_MUCH if caught else TOO_LITTLE), turned


def _rpm(bench: Bench) -> float:
    return float(bench.state["speed_rad_s"][0]) * 60 / (2 * np.pi)
