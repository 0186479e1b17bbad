"""What to do for this start: which start it is, how much prime, what if it does not fire. It learns from the record.

The model, as docs/method.md tells it: each engine wants its own multiple of the book's prime. Before any start is known
the multiple is 1, give or take a third (a lognormal prior, common practice: engines differ by 0.6 to 1.8). Each recorded
start moves it: a start that fired had enough and not too much, one that did not fire had too little, one that flooded
too much. The amount advised fires with the greatest probability, and never leaves the profile's bounds.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import exp, log
from typing import Any

import numpy as np

from ..aircraft import Profile

COLD, HOT, FLOODED = "cold", "hot", "flooded"
FIRED, TOO_LITTLE, TOO_MUCH = "fired", "too_little", "too_much"

_PRIOR_SPREAD = 0.33
_WANTS = np.exp(np.linspace(log(0.4), log(2.6), 90))
# an amount fires between these shares of what the engine wants; the edges are soft (vapour 0.7 to 1.8 of stoichiometric)
_LEAST_SHARE, _MOST_SHARE, _EDGE = 0.72, 1.75, 0.09
_LIKE_THIS_C = 6.0
_NEARLY = 0.93
_HOT_HEAD_F, _HOT_OIL_F, _HOT_STOOD_H = 160.0, 130.0, 1.5
_FLOODS_AT = 1.6  # so many times the advised amount without firing is flooded, not under-primed


@dataclass(frozen=True, slots=True, kw_only=True)
class Attempt:
    """One attempt to start: how warm the metal was (outside, where no head reading) [°C], strokes put in before it, and
    what came of it."""

    metal_c: float
    strokes: float
    outcome: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StartAdvice:
    """Which start and why; strokes advised, their range, the book's; what history says; what next if it does not fire."""

    kind: str
    because: str
    strokes: int
    least: int
    most: int
    book: float
    history: str
    if_not: str


def book_strokes(profile: Profile, metal_c: float) -> float:
    """Return the prime [strokes] by the profile's table, between its rows by straight lines in the logarithm.

    A row holds at the middle of its temperature band; outside the outermost middles the outermost rows hold.
    """
    rows = sorted(profile.prime)
    if not rows:
        return 0.0
    middles = [rows[0][0] - 5.0, *((a[0] + b[0]) / 2 for a, b in zip(rows, rows[1:], strict=False))]
    return float(exp(np.interp(metal_c, middles, [log(max(strokes, 0.5)) for _, strokes in rows])))


def bounds(profile: Profile, metal_c: float) -> tuple[int, int]:
    """Return the least and the most strokes that advice may give: the profile's, else half and twice the book."""
    book = book_strokes(profile, metal_c)
    low = profile.limits["prime_min_strokes"].value if "prime_min_strokes" in profile.limits else book / 2
    high = profile.limits["prime_max_strokes"].value if "prime_max_strokes" in profile.limits else book * 2
    return max(round(low), 0), max(round(high), 1)


def fires(share: np.ndarray) -> np.ndarray:
    """Return the probability that an amount, as a share of what the engine wants, fires it."""
    return _enough(share) * (1 - _too_much(share))


def _enough(share: np.ndarray) -> np.ndarray:
    return 1 / (1 + np.exp(-(np.log(np.maximum(share, 1e-6)) - log(_LEAST_SHARE)) / _EDGE))


def _too_much(share: np.ndarray) -> np.ndarray:
    return 1 / (1 + np.exp(-(np.log(np.maximum(share, 1e-6)) - log(_MOST_SHARE)) / _EDGE))


def wants(profile: Profile, history: Sequence[Attempt]) -> np.ndarray:
    """Return the probabilities of the multiples `_WANTS` of the book's prime, given the recorded attempts."""
    weight = np.exp(-0.5 * (np.log(_WANTS) / _PRIOR_SPREAD) ** 2)
    for attempt in history:
        book = book_strokes(profile, attempt.metal_c)
        if book <= 0:
            continue
        share = attempt.strokes / (book * _WANTS)
        likely = {FIRED: fires(share), TOO_LITTLE: 1 - _enough(share), TOO_MUCH: _too_much(share)}[attempt.outcome]
        weight = weight * (0.02 + 0.98 * likely)  # one odd start in fifty has another cause
        weight /= weight.sum()
    return np.asarray(weight / weight.sum())


def advise_start(
    profile: Profile,
    oat_c: float,
    history: Sequence[Attempt] = (),
    *,
    oil_t_f: float | None = None,
    cht_f: float | None = None,
    stood_h: float | None = None,
    now: Sequence[Attempt] = (),
) -> StartAdvice:
    """Return the advice for a start at this outside temperature. `now` are the attempts made in this start so far.
    Prime follows the metal where a head reading tells.

    Hot by a head above 160 °F, else oil above 130 °F, else less than 1.5 h since it ran (common practice).
    """
    metal_c = oat_c if cht_f is None else max(oat_c, (cht_f - 32) / 1.8)
    weight = wants(profile, [*history, *now])
    least, most = bounds(profile, metal_c)
    book = book_strokes(profile, metal_c)
    choices = np.arange(least, most + 1)
    shares = choices[:, None] / (max(book, 0.1) * _WANTS[None, :])
    chance = fires(shares) @ weight
    best = int(choices[np.argmax(chance)])
    good = choices[chance >= _NEARLY * chance.max()]
    kind, because = _which(best, oat_c, oil_t_f, cht_f, stood_h, now)
    if kind != COLD:
        best, good = 0, np.array([0])
    return StartAdvice(
        kind=kind,
        because=because,
        strokes=best,
        least=int(good.min()),
        most=int(good.max()),
        book=round(book, 1),
        history=_history(history, metal_c, book),
        if_not=_if_not(kind, now),
    )


def recorded_attempts(flights: Sequence[Sequence[tuple[str, Mapping[str, Any]]]]) -> list[Attempt]:
    """Return the attempts in the kept events (kind, body) of an aircraft's flights, oldest first.

    A try that did not fire counts as too little where the same flight fired with more strokes, else as too much: what
    cleared it was air.
    """
    made: list[Attempt] = []
    for events in flights:
        tries = [
            (kind, body) for kind, body in events if kind in ("start_failed", "engine_fired") and "strokes" in body
        ]
        for number, (kind, body) in enumerate(tries):
            later = [more["strokes"] for name, more in tries[number + 1 :] if name == "engine_fired"]
            if kind == "engine_fired":
                outcome = FIRED
            elif not later:
                continue
            else:
                outcome = TOO_LITTLE if later[0] > body["strokes"] else TOO_MUCH
            if kind != "engine_fired" or body["strokes"] > 0:
                made.append(Attempt(metal_c=body["metal_c"], strokes=body["strokes"], outcome=outcome))
    return made


def _which(
    advised: int,
    oat_c: float,
    oil_t_f: float | None,
    cht_f: float | None,
    stood_h: float | None,
    now: Sequence[Attempt],
) -> tuple[str, str]:
    given = sum(attempt.strokes for attempt in now[-1:])
    if now and now[-1].outcome == TOO_MUCH or given > _FLOODS_AT * max(advised, 1):
        return FLOODED, f"{given:.0f} strokes and no fire: more than it can burn."
    if cht_f is not None:
        is_hot, because = cht_f > _HOT_HEAD_F, f"The heads read {cht_f:.0f} °F."
    elif oil_t_f is not None:
        is_hot, because = oil_t_f > _HOT_OIL_F, f"The oil reads {oil_t_f:.0f} °F."
    elif stood_h is not None:
        is_hot, because = stood_h < _HOT_STOOD_H, f"It has stood {stood_h:.1f} h."
    else:
        is_hot, because = False, f"Nothing says that it is warm; outside it is {oat_c:.0f} °C."
    return (HOT if is_hot else COLD), because


def _history(history: Sequence[Attempt], metal_c: float, book: float) -> str:
    like = [a.strokes for a in history if a.outcome == FIRED and abs(a.metal_c - metal_c) <= _LIKE_THIS_C]
    if not like:
        return f"No start near {metal_c:.0f} °C is recorded; the book says {book:.0f}."
    count = f"The last {len(like)} starts" if len(like) > 1 else "The last start"
    return f"{count} near {metal_c:.0f} °C took {float(np.median(like)):.0f} strokes; the book says {book:.0f}."


def _if_not(kind: str, now: Sequence[Attempt]) -> str:
    if kind == FLOODED:
        return "Mixture cut-off, throttle open, crank within the starter's limit; as it fires mixture in, throttle to idle."
    if kind == HOT:
        return "No fire in one try: one stroke, throttle a little more open, once more. Then treat it as flooded."
    if len(now) >= 2:
        return "Two tries: fuel smell or drips mean flooded; none means under-primed. Rest the starter first."
    return "No fire and no smell of fuel: one stroke more. Smell, drips, black smoke: it is flooded."
