"""The words of the start advice: which start it is and why, what the record says, how the levers stand, what next."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from ..aircraft import Profile
from ..aircraft.phases import BEFORE_START, START
from ..base.figures import figure
from ..trace.signals import engine_of
from .attempts import FIRED, TOO_MUCH, Attempt
from .following import DOES_NOT_TURN

COLD, HOT, FLOODED = "cold", "hot", "flooded"
# common practice, but where it says otherwise
_HOT_HEAD_F, _HOT_OIL_F, _HOT_STOOD_H = 130.0, 130.0, 1.5
_LIKE_THIS_C = 6.0
_BUS_OFF_V, _NO_PRESSURE, _CUT_OFF, _RICH = 1.0, 0.2, 0.02, 0.3
_FLOODS_AT = 1.6  # so many times the advised amount without firing is flooded, not under-primed
_STANDS = (
    "The propeller does not turn: a hydraulic lock, or a starter that does not engage. Do not force it and never turn it "
    "backwards: ignition off, a mechanic."
)
_WEAK = (
    "It turned on {volts} V: a weak battery, not fuel. Do not crank on: charge it or use ground power, and stay clear of the "
    "propeller; never hand-turn it with a magneto that may be live."
)


def which_start(
    advised: float,
    oat_c: float,
    oil_t_f: float | None,
    cht_f: float | None,
    stood_h: float | None,
    now: Sequence[Attempt],
    unit: str,
) -> tuple[str, str]:
    """Return (cold, hot or flooded; why), by the best sign there is. Temperatures in °C."""
    given = sum(attempt.strokes for attempt in now[-1:])
    if now and now[-1].outcome == TOO_MUCH:
        return FLOODED, "It caught and died: more fuel than it can burn."
    if any(attempt.outcome == TOO_MUCH for attempt in now):
        return COLD, "Air has cleared it: it needs a little prime again."
    if now and given > _FLOODS_AT * max(advised, 1):
        return FLOODED, f"{given:.0f} {unit} and no fire: more than it can burn."
    if cht_f is not None:
        is_hot, because = cht_f > _HOT_HEAD_F, f"The metal reads {figure(cht_f, 'f')}."
    elif oil_t_f is not None:
        is_hot, because = oil_t_f > _HOT_OIL_F, f"The oil reads {figure(oil_t_f, 'f')}."
    elif stood_h is not None:
        is_hot, because = stood_h < _HOT_STOOD_H, f"It has stood {stood_h:.1f} h."
    else:
        is_hot, because = False, f"Nothing says that it is warm; outside it is {figure(oat_c, 'c')}."
    return (HOT if is_hot else COLD), because


def history_words(history: Sequence[Attempt], metal_c: float, book: float, unit: str) -> str:
    """Return what the record says of starts near this temperature, against the book. Temperature in °C."""
    if unit == "none":
        return "The computer gives the prime."
    like = [a.strokes for a in history if a.outcome == FIRED and abs(a.metal_c - metal_c) <= _LIKE_THIS_C]
    if not like:
        return f"No start near {figure(metal_c, 'c')} is recorded; the book says {book:.0f}."
    count = f"The last {len(like)} starts" if len(like) > 1 else "The last start"
    return f"{count} near {figure(metal_c, 'c')} took {float(np.median(like)):.0f} {unit}; the book says {book:.0f}."


def liked_words(words: str, stood: Sequence[float | None]) -> str:
    """Return the handbook's words, with where the lever stood (in the middle) in the starts that fired."""
    known = [at for at in stood if at is not None]
    if len(known) < 3:
        return words
    return f"{words}; its last {len(known)} starts fired with it at {float(np.median(known)) * 100:.0f} %"


def mixture_words(profile: Profile, density_altitude_ft: float | None) -> str:
    """Return the mixture for a start, leaner at a high density altitude where the type is normally aspirated. Altitude in ft."""
    method = profile.start
    if method.leans_above_ft is None or density_altitude_ft is None or density_altitude_ft < method.leans_above_ft:
        return method.mixture
    return f"{method.mixture}, but leaner than full: density altitude {density_altitude_ft:,.0f} ft"


def cranking_words(profile: Profile, history: Sequence[Attempt]) -> str:
    """Return the cranking to expect, by the book and by the record."""
    low, high = profile.start.crank_s
    took = [a.cranking_s for a in history if a.outcome == FIRED and a.cranking_s]
    own = f"; it usually takes {float(np.median(took)):.0f} s" if len(took) >= 3 else ""
    return f"Fires within {low:.0f} to {high:.0f} s{own}. At most {profile.limit('starter_on_max_s'):.0f} s at a time."


def not_set(profile: Profile, known: Mapping[str, Any]) -> tuple[str, ...]:
    """Return what keeps any engine from firing, whatever its prime, by the levers and needles of one engine; what is not known is
    not said. Common practice: ignition, master, fuel and mixture are looked at before any prime."""
    volts, pressure = known.get("volts_v"), known.get("fp_psi")
    least = profile.find_limit("fuel_pressure_min_psi") or 0.0
    pumps = known.get("pump") is not None and float(known["pump"]) > 0.5
    rows = (
        (known.get("mag") == "OFF", "magnetos OFF"),
        (_is_off(known, "lane_a") and _is_off(known, "lane_b"), "both lanes off"),
        (_is_off(known, "master") or (volts is not None and float(volts) < _BUS_OFF_V), "master off"),
        (
            pumps and pressure is not None and float(pressure) < _NO_PRESSURE * least,
            "no fuel pressure with the pump on",
        ),
        (_is_rich_before(profile) and _is_cut_off(known), "mixture at cut-off"),
    )
    return tuple(words for is_so, words in rows if is_so)


def _is_rich_before(profile: Profile) -> bool:
    """Say whether the type's lists set the mixture rich before its starter: others crank with it at cut-off."""
    items = [item for phase in profile.phases if phase.kind.name in (BEFORE_START, START) for item in phase.items]
    crank = next((n for n, item in enumerate(items) if item.watch == "start"), 0)
    return any(
        item.reading is not None
        and engine_of(item.reading.signal)[1] == "mixture"
        and (item.reading.lowest or 0.0) > _RICH
        for item in items[:crank]
    )


def _is_cut_off(known: Mapping[str, Any]) -> bool:
    return known.get("mixture") is not None and float(known["mixture"]) < _CUT_OFF


def _is_off(known: Mapping[str, Any], switch: str) -> bool:
    return known.get(switch) is not None and float(known[switch]) < 0.5


def first_of_all(not_set: Sequence[str]) -> str:
    """Return what to do before any prime."""
    shown = ", ".join(not_set)
    return f"{shown[:1].upper()}{shown[1:]}: set that first. No more prime before it has been tried so."


def what_if_not(profile: Profile, kind: str, now: Sequence[Attempt], last: Mapping[str, Any]) -> str:
    """Return what to do if it does not fire, by the signs of the last try: does not turn, weak, too rich, boiled, starved."""
    method, rest_s = profile.start, profile.limits.get("starter_rest_s")
    rest = f" Rest the starter {rest_s.value:.0f} s first." if rest_s and now else ""
    if "top_rpm" in last and not last.get("died"):
        firing = profile.limit("rpm_firing_min")
        weak = "volts_crank_min_v" in profile.limits and last.get("volts_v", 99.0) < profile.limit("volts_crank_min_v")
        if last["top_rpm"] < DOES_NOT_TURN * firing:
            return _STANDS if not weak else _WEAK.format(volts=last.get("volts_v"))
        if weak:
            return _WEAK.format(volts=last["volts_v"])
    if kind == FLOODED:
        return f"{method.flooded} No fire then: one {_one(method.unit)} while it turns.{rest}"
    if kind == HOT and method.boils and now:
        return f"Vapour in the lines: {method.hot}{rest}"
    if kind == HOT:
        return f"No fire in one try: one {_one(method.unit)}, throttle a little more open, once more. Then it is flooded.{rest}"
    if len(now) >= 2:
        return f"Two tries: fuel smell or drips mean flooded; none means under-primed.{rest}"
    if now:
        return f"It never caught: under-primed. One {_one(method.unit)} more, once more.{rest}"
    little = f"No fire and no smell of fuel: one {_one(method.unit)} more."
    return f"{little} Smell, drips, black smoke, or it catches and dies: it is flooded."


def beyond_words(unit: str, book: float, advised: float, given: Sequence[float], wanted: int) -> str:
    """Return what to know where the prime goes beyond twice the book, or stops there; empty where neither. Amounts in `unit`.
    Source: common practice (fuel that lies in the intake burns there)."""
    if unit == "none" or book <= 0:
        return ""
    if given and advised <= given[-1]:
        return "Twice the book is in: no more prime. Look for smell, drips, spark and fuel first; then treat it as flooded."
    if round(advised) <= round(2 * book):
        return ""
    why = "" if given else f", because {wanted} recorded starts wanted it"
    return f"More than twice the book's {book:.0f} {unit}{why}. Too much burns in the intake: a fire guard stands by."


def _one(unit: str) -> str:
    return {"strokes": "stroke", "seconds": "second of prime", "shots": "shot"}.get(unit, "more try")
