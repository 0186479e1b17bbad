"""Which item a line of somebody's own list means, whatever its words: by the words that the trade has for the same thing, by what
is to be done, and by the part of the flight that its heading names.

The synonyms are common practice; the weights and the least score were fitted to tests/data/pasted and the shipped lists.
A killer item is matched only where what is to be done agrees as well: a wrong one would be read as proven by the wrong data.
"""

import difflib
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from .phases import (
    AFTER_LANDING,
    BEFORE_LANDING,
    BEFORE_START,
    BEFORE_TAKE_OFF,
    CLIMB,
    CRUISE,
    DESCENT,
    RUN_UP,
    SHUTDOWN,
    START,
    TAKE_OFF,
    TAXI,
    WARM_UP,
)

# words of the trade that mean the same, longer ones first: what they are here
_SAME: tuple[tuple[str, str], ...] = (
    (r"carb(y|uret(t)?or)? (heat|hot air)|hot air", "carbheat"),
    (r"carb(uret(t)?or)? air", "carbair"),
    (r"((hand|park(ing)?|toe|wheel) ?)?brakes?", "brake"),
    (r"(dead )?mag(neto)?s?( check)?|ignition( switch)?(es)?|mag switch(es)?", "magneto"),
    (r"(landing gear|under ?carriage|u c|gear)( handle| selector| lever)?", "gear"),
    (r"gear (lights?|lamps?)|(three|3) greens?", "gear green"),
    (r"(seat )?(belts?|harness(es)?|straps?)", "harness"),
    (r"(pitch control|props?|propellers?)( lever| control| pitch)?|pitch(?= |$)(?! lock)", "propeller"),
    (r"(aux(iliary)?|electric|boost(er)?)( fuel)? pumps?|fuel pumps?", "pump"),
    (r"fuel (selectors?|cocks?|taps?|valves?)( valve)?", "fuel"),
    (r"fuel quantity( indicators?| gauges?)?|fuel gauges?|dip ?stick", "fuel gauge"),
    (r"batt(ery)?( (master|switch))?|master( switch)?|battery master", "master"),
    (r"circuit breakers?|cbs?", "breaker"),
    (r"(rotating |anti collision )?beacon( light)?|anti collision( light)?", "beacon"),
    (r"strobes?( lights?)?", "strobe"),
    (r"landing (lights?|lt|lamps?)", "landinglight"),
    (r"xpdr|transponder|squawk", "transponder"),
    (r"(wing )?flaps?", "flap"),
    (r"(elevator |rudder )?trim(mer|s|mers)?( tabs?)?( x3)?", "trim"),
    (r"(cowls?( flaps?)?|gills)", "cowl"),
    (r"supercharger|blower", "blower"),
    (r"(flight|flying) controls|ctrls?|controls?", "control"),
    (r"(control|gust|ctrl) locks?", "control lock"),
    (r"temp(erature)?s? and press(ure)?s?|t s and p s|ts and ps|ts ps", "oil temperature pressure"),
    (r"press(ure)?s?", "pressure"),
    (r"temp(erature)?s?", "temperature"),
    (r"vac(uum)?|gyro suction|suction", "suction"),
    (r"alternators?|generators?|alts?", "alternator"),
    (r"ammeters?|amps", "ammeter"),
    (r"annunciators?( panel)?|warning (lights?|lamps?)", "warninglight"),
    (r"fire ext(inguisher)?|extinguisher", "extinguisher"),
    (r"hatch(es)?|(cabin )?doors?( and windows?)?|windows?", "door"),
    (r"canopy( hood)?|hood", "canopy"),
    (r"mixtures?( levers?)?|mix", "mixture"),
    (r"throttles?|power lever", "throttle"),
    (r"pre ?flight( inspection)?|external check|walk ?round", "walkround"),
    (r"(crew )?brief(ing)?", "briefing"),
    (r"tail ?wheel", "tailwheel"),
    (r"(throttle )?(slow running|idle|idling)( check)?", "idle"),
    (r"pitot( heat)?", "pitotheat"),
    (r"(de ?ice )?boots|ice protection|de ?ice", "iceprotection"),
    (r"(pre ?flight )?avionics( power)?( switch)?|radios?", "avionics"),
    (r"electrics|electrical|loads?", "load"),
    (r"tech(nical)? log|log ?book|log", "log"),
    (r"hydraulics?( switch)?", "hydraulic"),
    (r"clutch (lamp|light)", "clutchlight"),
    (r"sprag( clutch)?|free ?wheel", "freewheel"),
    (r"governor( switch)?|gov", "governor"),
    (r"tail rotor pedals?|pedals?", "pedal"),
    (r"(rotor|blade|main rotor) tie ?downs?|blades?", "blade"),
    (r"inertia (fly ?wheel|starter)|energi[sz]e", "energise"),
    (r"(low rotor|low rpm) warning( horn)?|low rpm|low rotor", "lowrpm"),
    (r"starters?", "starter"),
    (r"clear of (rwy|runway)", "clearofrunway"),
    (r"prop(eller)? area|area around( the)? blades?", "propeller area"),
    (r"oil shutters?|shutters?", "shutter"),
    (r"(heading|hdg) bug|d i|di|heading indicator|heading", "heading"),
    (r"rwy|runway", "runway"),
    (r"c h t|cht", "cht"),
)
_COMPILED = tuple((re.compile(rf"\b(?:{pattern})\b"), f" {word} ") for pattern, word in _SAME)
_EMPTY = frozenset(
    (
        "check",
        "checked",
        "the",
        "a",
        "an",
        "and",
        "or",
        "of",
        "to",
        "for",
        "on",
        "at",
        "in",
        "as",
        "is",
        "are",
        "be",
        "by",
        "with",
        "its",
        "all",
        "each",
        "set",
        "see",
        "seen",
        "look",
        "then",
        "both",
        "once",
        "until",
        "select",
        "selected",
        "confirm",
        "verify",
        "required",
        "needed",
        "wanted",
        "switch",
        "switches",
        "lever",
        "done",
        "take",
        "off",
    )
)
# what is to be done, in one word; two of one row contradict each other
_DONE: tuple[Mapping[str, str], ...] = (
    {
        "on": r"\bon\b|\bboth\b|\bengaged?\b|\bplugged in\b|\bconnected\b",
        "off": r"\boff\b|\bdisengaged?\b|\breleased?\b|\bextinguished\b|\bout\b",
    },
    {"open": r"\bopen\b|\btrail\b", "closed": r"\bclosed?\b|\bshut\b"},
    {"up": r"\bup\b|\bretract(ed)?\b", "down": r"\bdown\b"},
    {"rich": r"\brich(er)?\b", "lean": r"\blean(ed)?\b", "cut": r"\bcut ?off\b"},
    {"hot": r"\bhot\b", "cold": r"\bcold\b"},
    {"locked": r"\block(ed)?\b|\blatched\b", "unlocked": r"\bunlock(ed)?\b|\bremoved?\b"},
    {
        "fine": r"\bfine\b|\bforward\b|\bmax rpm\b|\bhigh rpm\b",
        "coarse": r"\bcoarse\b|\bcycled?\b|\bexercised?\b",
        "feather": r"\bfeather(ing)?\b",
    },
    {"firm": r"\btight\b|\bfirm\b|\bapplied\b", "slack": r"\bslack\b|\bloose\b"},
    {"low": r"\blow\b", "high": r"\bhigh\b"},
)
_DOES = tuple({name: re.compile(pattern) for name, pattern in row.items()} for row in _DONE)
# (words of a heading, kinds of phase that it is, slots of the library that belong there), the more special first
_HEADINGS: tuple[tuple[str, tuple[str, ...], tuple[str, ...]], ...] = (
    (r"after start", (START,), ("after_start",)),
    (
        r"(before|pre).{0,4}(engine )?start|pre ?flight|cockpit|cabin|internal|external|walk",
        (BEFORE_START,),
        ("cockpit",),
    ),
    (r"start", (START,), ("start", "after_start")),
    (r"after take ?off", (TAKE_OFF, CLIMB), ("after_take_off",)),
    (r"(before|pre).{0,4}take ?off|take ?off checks?|line ?up|vital", (BEFORE_TAKE_OFF,), ("lineup",)),
    (r"run ?up|(engine|power) checks?", (RUN_UP,), ("run_up",)),
    (r"warm", (WARM_UP,), ("warming",)),
    (r"taxi", (TAXI, WARM_UP), ("taxi", "warming")),
    (r"take ?off", (TAKE_OFF, BEFORE_TAKE_OFF), ("roll", "lineup")),
    (r"climb", (CLIMB, TAKE_OFF), ("climb", "after_take_off")),
    (r"cruise|top of climb", (CRUISE,), ("cruise",)),
    (r"after landing", (AFTER_LANDING, DESCENT), ("clear_rwy",)),
    (r"final", (BEFORE_LANDING, DESCENT), ("final",)),
    (r"landing|down ?wind|circuit", (BEFORE_LANDING, DESCENT), ("landing",)),
    (r"descent|approach|arrival", (DESCENT,), ("descent",)),
    (r"shut ?down|park|secur", (SHUTDOWN,), ("shutdown", "secure", "cockpit")),
)
_TRADE = frozenset(word for _, said in _SAME for word in said.split())
_SAME_LETTERS = 0.8
_LEAST, _LEAST_DONE = 0.56, 0.5
_LEAD = 0.04  # so far is the best ahead of the next, or it is not known which is meant
_SLOT, _RESPONSE, _CHALLENGE = 0.16, 0.28, 0.56


@dataclass(frozen=True, slots=True, kw_only=True)
class Heading:
    """What a heading of a list names: kinds of phase, the likeliest first, and the parts of the library that belong there."""

    kinds: tuple[str, ...]
    slots: tuple[str, ...]


def heading_of(title: str) -> Heading | None:
    """Return what a heading names, or None where its words name no part of a flight."""
    text = " ".join(re.findall(r"[a-z0-9]+", title.lower()))
    for pattern, kinds, slots in _HEADINGS:
        if re.search(pattern, text):
            return Heading(kinds=kinds, slots=slots)
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """The item that a line means, and how well it fits, 0 to 1."""

    row: Mapping[str, Any]
    score: float


def best_match(
    challenge: str, response: str, rows: Iterable[Mapping[str, Any]], slots: Sequence[str] = ()
) -> Found | None:
    """Return the item that a line means, of rows with `challenge`, `response`, perhaps `slot` and `killer`.

    None where none is similar enough; where a killer item is the nearest and what is to be done does not agree with it; and
    where two are as near and one of them is a killer: then the pilot says which.
    """
    scored = sorted(
        ((_score(challenge, response, row, slots), n, row) for n, row in enumerate(rows)), key=lambda s: -s[0]
    )
    if not scored or scored[0][0] < _LEAST:
        return None
    (score, _, best), second = scored[0], scored[1] if len(scored) > 1 else (0.0, 0, {})
    if best.get("killer") and _agreement(response, str(best["response"])) < _LEAST_DONE:
        return None
    if score - second[0] < _LEAD and (best.get("killer") or second[2].get("killer")):
        return None
    return Found(row=best, score=score)


def _score(challenge: str, response: str, row: Mapping[str, Any], slots: Sequence[str]) -> float:
    """Return how well a row fits a line, 0 to 1."""
    asked, own = _tokens(challenge), _tokens(str(row["challenge"]))
    common = len(asked & own)
    words = common / len(asked | own) if asked or own else 0.0
    letters = 0.0 if (asked | own) & _TRADE else _letters(challenge.lower(), str(row["challenge"]).lower())
    named = max(words, 0.9 * letters if letters > _SAME_LETTERS else 0.0)
    more = _tokens(response) & own
    named = max(named, len((asked | more) & own) / len(asked | more | own) if asked else 0.0)
    if named == 0.0:
        return 0.0
    done = _agreement(response, str(row["response"]))
    if done < 0:
        return 0.0
    here = 1.0 if not slots or row.get("slot") in slots else 0.0
    return _CHALLENGE * named + _RESPONSE * done + _SLOT * here


@lru_cache(maxsize=65536)
def _letters(one: str, other: str) -> float:
    return difflib.SequenceMatcher(None, one, other).ratio()


def _agreement(asked: str, own: str) -> float:
    """Return how well two responses agree, 0 to 1; below 0 where they contradict each other."""
    said, wanted = _does(asked), _does(own)
    for row in _DONE:
        ours, theirs = said & row.keys(), wanted & row.keys()
        if ours and theirs and not ours & theirs:
            return -1.0
    if said & wanted:
        return 1.0
    common = _tokens(asked) & _tokens(own)
    if common:
        return 0.5 + 0.5 * len(common) / max(len(_tokens(asked)), 1)
    return 0.35 if not said or not wanted else 0.2


@lru_cache(maxsize=4096)
def _does(response: str) -> frozenset[str]:
    text = " ".join(re.findall(r"[a-z0-9]+", response.lower()))
    return frozenset(name for row in _DOES for name, pattern in row.items() if pattern.search(text))


@lru_cache(maxsize=4096)
def _tokens(text: str) -> frozenset[str]:
    """Return the words of a text as the trade's, without those that say nothing."""
    plain = " ".join(re.findall(r"[a-z0-9]+", text.lower()))
    for pattern, word in _COMPILED:
        plain = pattern.sub(word, plain)
    words = (
        word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word
        for word in plain.split()
    )
    return frozenset(word for word in words if word not in _EMPTY)
