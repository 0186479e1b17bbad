"""What to do for this start: which start it is, how much prime, what if it does not fire. It learns from the record.

The model, as docs/judgement.md has it: each engine needs its own multiple of the book's prime. Before any start is known
the multiple is 1, give or take a third (a lognormal prior, common practice: engines differ by 0.6 to 1.8). Each recorded
start moves it: a start that fired had enough and not too much, one that did not fire had too little, one that flooded
too much. The amount advised fires with the greatest probability, and never leaves the profile's bounds; beyond twice the
book only where several recorded starts wanted it.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil, exp, log
from typing import Any

import numpy as np

from ..aircraft import Profile
from .attempts import FIRED, TOO_LITTLE, TOO_MUCH, Attempt
from .engine_state import DIED_WITHIN_S
from .words import (
    COLD,
    beyond_words,
    cranking_words,
    first_of_all,
    history_words,
    liked_words,
    mixture_words,
    what_if_not,
    which_start,
)

# arithmetic on engines that want 0.6 to 1.8 times their book (tests/corpora/starts.py), but where it says otherwise
_PRIOR_SPREAD = 0.33
_WANTS = np.exp(np.linspace(log(0.4), log(2.6), 90))
# an amount fires between these shares of what the engine needs; the edges are soft (vapour 0.7 to 1.8 of stoichiometric)
_LEAST_SHARE, _MOST_SHARE, _EDGE = 0.72, 1.4, 0.09
# a prime leaves as vapour: our own time at the temperature of the test of ASTM D323, its slope from avgas (ASTM D910)
_FILM_TIME_S, _VAPOUR_EXPONENT_K, _TEST_K = 10.0, 3380.0, 310.95
_NEARLY = 0.93
_TELLS_FROM = 3  # attempts, before an engine's own need is said to be known (our own choice: one or two may be weather)
# beyond twice the book only where so many recorded starts took or lacked so many times the book (our own choice: prudence, fuel
# that lies in the intake burns there)
_BEYOND, _EVER, _WANTED_BY, _WANTED_AT = 2.0, 3.0, 3, 1.5


@dataclass(frozen=True, slots=True, kw_only=True)
class StartAdvice:
    """Which start and why; the amount advised in `unit`, its range, the book's; what history says; how the levers
    stand and where this engine liked the throttle; the cranking to expect; what next if it does not fire; what to know where the
    amount goes beyond, or stops at, twice the book."""

    kind: str
    because: str
    attempt: int
    unit: str
    primer: str
    strokes: float
    least: float
    most: float
    book: float
    history: str
    throttle: str
    mixture: str
    pump: str
    cranking: str
    if_not: str
    beyond_book: str


def book_strokes(profile: Profile, metal_c: float) -> float:
    """Return the prime by the profile's table in its unit, between its rows by straight lines in the logarithm.

    A row holds at the middle of its temperature band; outside the outermost middles the outermost rows hold.
    """
    return float(_book_strokes(profile, np.array([metal_c]))[0])


def _book_strokes(profile: Profile, metal_c: np.ndarray) -> np.ndarray:
    rows = sorted(profile.prime)
    if not rows:
        return np.zeros(len(metal_c))
    middles = [rows[0][0] - 5.0, *((a[0] + b[0]) / 2 for a, b in zip(rows, rows[1:], strict=False))]
    return np.asarray(np.exp(np.interp(metal_c, middles, [log(max(strokes, 0.5)) for _, strokes in rows])))


def bounds(profile: Profile, metal_c: float, history: Sequence[Attempt] = ()) -> tuple[int, int]:
    """Return the least and the most strokes that advice may give: the profile's, else half and three times the book. More than
    twice the book only where several recorded starts wanted it. Metal in °C."""
    book = book_strokes(profile, metal_c)
    low = profile.limits["prime_min_strokes"].value if "prime_min_strokes" in profile.limits else book / 2
    high = profile.limits["prime_max_strokes"].value if "prime_max_strokes" in profile.limits else book * _EVER
    if wanted_beyond(profile, history) < _WANTED_BY:
        high = min(high, max(book * _BEYOND, low))
    return max(round(low), 0), max(round(high), 1)


def wanted_beyond(profile: Profile, history: Sequence[Attempt]) -> int:
    """Return how many recorded starts fired on, or did not fire with, far more than the book's prime."""
    tried, book = _tried(profile, [attempt for attempt in history if attempt.outcome in (FIRED, TOO_LITTLE)])
    return int(np.sum(tried >= _WANTED_AT * book))


def _tried(profile: Profile, attempts: Sequence[Attempt]) -> tuple[np.ndarray, np.ndarray]:
    """Return (strokes, the book's strokes) of the attempts for which the book has a prime."""
    strokes = np.array([attempt.strokes for attempt in attempts], dtype=float)
    book = _book_strokes(profile, np.array([attempt.metal_c for attempt in attempts], dtype=float))
    return strokes[book > 0], book[book > 0]


def fires(share: np.ndarray) -> np.ndarray:
    """Return the probability that an amount, as a share of what the engine needs, fires it."""
    return np.asarray(_enough(share) * (1 - _too_much(share)))


def _enough(share: np.ndarray) -> np.ndarray:
    return np.asarray(1 / (1 + np.exp(-(np.log(np.maximum(share, 1e-6)) - log(_LEAST_SHARE)) / _EDGE)))


def _too_much(share: np.ndarray) -> np.ndarray:
    return np.asarray(1 / (1 + np.exp(-(np.log(np.maximum(share, 1e-6)) - log(_MOST_SHARE)) / _EDGE)))


def needs_of(profile: Profile, history: Sequence[Attempt]) -> np.ndarray:
    """Return the probabilities of the multiples `_WANTS` of the book's prime, given the recorded attempts."""
    likely = {FIRED: fires, TOO_LITTLE: lambda share: 1 - _enough(share), TOO_MUCH: _too_much}
    weight = -0.5 * (np.log(_WANTS) / _PRIOR_SPREAD) ** 2  # in logarithms: a long history does not underflow
    for outcome, chance in likely.items():
        tried, book = _tried(profile, [attempt for attempt in history if attempt.outcome == outcome])
        amounts = tried / book
        # one odd start in fifty has another cause
        weight = weight + np.log(0.02 + 0.98 * chance(amounts[:, None] / _WANTS)).sum(axis=0)
    weight = np.exp(weight - weight.max())
    return np.asarray(weight / weight.sum())


def liked_share(profile: Profile, history: Sequence[Attempt]) -> float | None:
    """Return which multiple of the book's prime this engine needs by its recorded attempts, as likely more as less; None with
    fewer than three that show it."""
    if len(_tried(profile, history)[0]) < _TELLS_FROM:
        return None
    return float(np.interp(0.5, np.cumsum(needs_of(profile, history)), _WANTS))


def advise_start(
    profile: Profile,
    oat_c: float,
    history: Sequence[Attempt] = (),
    *,
    oil_t_f: float | None = None,
    cht_f: float | None = None,
    stood_h: float | None = None,
    density_altitude_ft: float | None = None,
    now: Sequence[Attempt] = (),
    last: Mapping[str, Any] | None = None,
    not_set: Sequence[str] = (),
) -> StartAdvice:
    """Return the advice for a start at this outside temperature [°C]. `now` are the attempts made in this start so far, `not_set`
    what keeps it from any fire (see `words.not_set`), `last` the signs of the last one (`cranking_s`, `top_rpm`, `volts_v`,
    `died`). Prime follows the metal where a head reading shows.

    Hot by a head (or coolant) above 130 °F, else oil above 130 °F, else less than 1.5 h since it ran (common practice).
    """
    method = profile.start
    metal_c = oat_c if cht_f is None else max(oat_c, (cht_f - 32) / 1.8)
    book = book_strokes(profile, metal_c)
    within = bounds(profile, metal_c, history)
    best, good = _best(profile, metal_c, needs_of(profile, [*history, *telling(now)]), within)
    kind, because = which_start(best, oat_c, oil_t_f, cht_f, stood_h, now, method.unit)
    best, good = _given_so_far(profile, kind, metal_c, best, good, now, within[1])
    return StartAdvice(
        kind=kind,
        because=because,
        attempt=len(now) + 1,
        unit=method.unit,
        primer=method.primer,
        strokes=best,
        least=float(good.min()),
        most=float(good.max()),
        book=round(book, 1),
        history=history_words(history, metal_c, book, method.unit)
        + (" Each opening of the throttle is prime too." if method.throttle_is else ""),
        throttle=liked_words(method.throttle, [a.throttle for a in history if a.outcome == FIRED]),
        mixture=liked_words(
            mixture_words(profile, density_altitude_ft), [a.mixture for a in history if a.outcome == FIRED]
        ),
        pump=liked_words(method.pump, [a.pump for a in history if a.outcome == FIRED]),
        cranking=cranking_words(profile, history),
        if_not=first_of_all(not_set) if now and not_set else what_if_not(profile, kind, now, last or {}),
        beyond_book=beyond_words(method.unit, book, best, [a.strokes for a in now], wanted_beyond(profile, history))
        if kind == COLD
        else "",
    )


def _left(now: Sequence[Attempt]) -> float:
    """Return how much of the prime of the tries so far still lies in the intake: it leaves as vapour while the engine is
    cranked, the faster the warmer (time constant of common practice at 37.8 °C, vapour pressure by ASTM D910)."""
    left, given = 0.0, 0.0
    for attempt in now:
        kelvin = attempt.metal_c + 273.15
        rate_per_s = exp(-_VAPOUR_EXPONENT_K * (1 / kelvin - 1 / _TEST_K)) / _FILM_TIME_S
        left = (left + attempt.strokes - given) * exp(-rate_per_s * (attempt.cranking_s or 0.0))
        given = attempt.strokes
    return left


def telling(attempts: Sequence[Attempt]) -> list[Attempt]:
    """Return the attempts of one start that show what the engine needs: none after the one that flooded it, because
    what is left of the prime then is not known."""
    flooded = [n for n, attempt in enumerate(attempts) if attempt.outcome == TOO_MUCH]
    return list(attempts[: flooded[0] + 1] if flooded else attempts)


def _given_so_far(
    profile: Profile, kind: str, metal_c: float, best: float, good: np.ndarray, now: Sequence[Attempt], most: float
) -> tuple[float, np.ndarray]:
    """Return (the amount in all, what will do) after the tries so far: nothing for a hot or flooded engine, and after a
    try that did not fire what has left as vapour and at least a step more, whatever the record says, up to the most that may
    lie in the intake."""
    if kind != COLD or profile.start.unit == "none":
        return 0.0, np.array([0.0])
    if not now:
        return best, good
    step, left = _step(book_strokes(profile, metal_c)), _left(now)
    missing = min(max(round(best - left), step), step * ceil(max(most - left, 0.0) / step))
    return now[-1].strokes + missing, np.array([now[-1].strokes + missing])


def _step(book: float) -> float:
    """Return how fine the amount is given: whole strokes and shots, half seconds where the book says little."""
    return 1.0 if book >= 1.5 else 0.5


def _best(profile: Profile, metal_c: float, weight: np.ndarray, within: tuple[int, int]) -> tuple[float, np.ndarray]:
    """Return (the amount that fires with the greatest probability, all that are nearly as good), within least and most."""
    book, (least, most) = book_strokes(profile, metal_c), within
    step = _step(book) if profile.start.unit == "seconds" else 1.0
    choices = np.arange(least, most + step / 2, step)
    shares = choices[:, None] / (max(book, 0.1) * _WANTS[None, :])
    chance = fires(shares) @ weight
    return float(choices[np.argmax(chance)]), choices[chance >= _NEARLY * chance.max()]


def attempt_of(body: Mapping[str, Any]) -> Attempt:
    """Return the attempt that a kept try of this start describes: what caught and died was too rich."""
    outcome = TOO_MUCH if body.get("died") else TOO_LITTLE
    cranked_s = body.get("cranking_s")
    return Attempt(metal_c=body["metal_c"], strokes=body["strokes"], outcome=outcome, cranking_s=cranked_s)


def recorded_attempts(flights: Sequence[Sequence[tuple[str, Mapping[str, Any]]]]) -> list[Attempt]:
    """Return the attempts in the kept events (kind, body) of an aircraft's flights, oldest first.

    What fired and stopped within seconds was too much. A try that did not fire counts as too little where the same
    flight fired with more, else as too much: what cleared it was air. A hot start without prime shows nothing.
    """
    told: list[Attempt] = []
    for events in flights:
        made: list[Attempt] = []
        tries = [
            (kind, body)
            for kind, body in _with_deaths(events)
            if kind in ("start_failed", FIRED, TOO_MUCH) and "strokes" in body
        ]
        for number, (kind, body) in enumerate(tries):
            later = [more["strokes"] for name, more in tries[number + 1 :] if name == FIRED]
            if kind in (FIRED, TOO_MUCH):
                outcome = kind
            elif not later:
                continue
            else:
                outcome = TOO_LITTLE if later[0] > body["strokes"] else TOO_MUCH
            if kind != FIRED or body["strokes"] > 0:
                known = {name: body.get(name) for name in ("throttle", "mixture", "pump", "cranking_s")}
                made.append(Attempt(metal_c=body["metal_c"], strokes=body["strokes"], outcome=outcome, **known))
        told += telling(made)
    return told


def _with_deaths(events: Sequence[tuple[str, Mapping[str, Any]]]) -> list[tuple[str, Mapping[str, Any]]]:
    """Return the starts of a flight with what became of each: fired and ran, fired and died, or failed."""
    told: list[tuple[str, Mapping[str, Any]]] = []
    for kind, body in events:
        if kind == "engine_stopped":
            same = [
                n for n, (what, b) in enumerate(told) if what == FIRED and b.get("engine", 1) == body.get("engine", 1)
            ]
            if same and float(body.get("ran_s", 999.0)) <= DIED_WITHIN_S:
                told[same[-1]] = (TOO_MUCH, told[same[-1]][1])
        else:
            told.append((FIRED if kind == "engine_fired" else kind, body))
    return told
