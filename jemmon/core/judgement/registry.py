"""The checks that there are: every module beside this one that ends in a `CHECK`, found by looking.

A new check is one module here, and nothing else: judging, the live flight, the card, trends, the method page, titles, the
number pad and the schema read this.
"""

import importlib
import json
import pkgutil
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from math import isfinite, nan
from typing import Any

from .. import judgement
from ..aircraft import Limit, Profile
from ..aircraft.limits import LIMITS
from ..aircraft.schema import PROFILE_SCHEMA
from ..base.errors import ProfileError
from ..base.names import check_known
from ..trace.finding import UNKNOWN, WITHIN, Finding
from ..trace.signals import SIGNALS, reading_row
from .check import PRACTICE, Check

_ADD_IT = "Add it to the aircraft's profile, from its handbook."


@lru_cache(maxsize=1)
def checks() -> Mapping[str, Check]:
    """Return every check by its kind, in the order of a flight.

    Raises:
        ValueError: two modules call a check by one kind.
    """
    found = []
    for module in pkgutil.iter_modules(judgement.__path__, f"{judgement.__name__}."):
        check = getattr(importlib.import_module(module.name), "CHECK", None)
        if isinstance(check, Check):
            found.append(check)
    kinds = [check.kind for check in found]
    if len(set(kinds)) < len(kinds):
        raise ValueError(f"Two modules of jemmon.core.judgement have a check of one kind: {', '.join(sorted(kinds))}.")
    return {check.kind: check for check in sorted(found, key=lambda check: (check.place, check.kind))}


def heard_kinds() -> tuple[str, ...]:
    """Return the kinds of check that are told by ear: never idle, a start, or what is out of limits."""
    return tuple(kind for kind, check in checks().items() if check.by_ear)


def title_of(kind: str) -> str:
    """Return what a pilot calls a kind of finding; one that is not known any more by its own name."""
    check = checks().get(kind)
    return check.title if check else kind.replace("_", " ").capitalize()


def check_names(profile: Profile) -> None:
    """Raise ProfileError where the profile names a check that no module has, with the nearest that there is."""
    known = checks()
    for item in profile.items.values():
        for what, kind in (("check", item.check), ("manual", item.manual)):
            if kind is not None:
                check_known(f"Item {item.id!r}, `{what}`", kind, known, ProfileError)
    for need in profile.take_off.needs:
        what, _, kind = need.proof.partition(":")
        if what == "check":
            check_known("`take_off.needs`", kind, known, ProfileError)


@dataclass(frozen=True, slots=True, kw_only=True)
class NotJudged:
    """What this profile leaves unjudged: the check or the needle, and the limits that it would need."""

    title: str
    limits: tuple[str, ...]


def not_judged(profile: Profile) -> tuple[NotJudged, ...]:
    """Return what is not judged with this profile for want of a limit: the checks that the type has, and its needles."""
    rows = [
        NotJudged(title=check.title, limits=missing)
        for check in checks().values()
        if check.applies_to(profile) and (missing := check.missing(profile))
    ]
    held = [NotJudged(title=f"Item: {challenge}", limits=(name,)) for challenge, name in profile.not_held]
    return (*rows, *_unwatched(profile), *held)


def _unwatched(profile: Profile) -> list[NotJudged]:
    """Return the needles of the profile's phases whose limits it does not have."""
    shown = {row.name for phase in profile.phases for name in phase.instruments if (row := reading_row(name))}
    rows = []
    for name in sorted(shown):
        if name == "map" and profile.engine["propeller"] == "fixed_pitch":
            continue  # a normally aspirated engine with a fixed pitch has no limit of it
        needed = [watch.limit for watch in SIGNALS[name].watched_by if watch.limit not in _NOT_OF_EVERY_TYPE]
        missing = tuple(limit for limit in needed if not profile.has_limit(limit))
        if missing:
            rows.append(NotJudged(title=SIGNALS[name].title, limits=missing))
    return rows


# limits that some types simply do not have
_NOT_OF_EVERY_TYPE = ("oil_pressure_idle_min_psi", "carb_air_min_f", "suction_max_inhg", "rotor_min_pct")


def judged_with_gaps(check: Check, profile: Profile) -> tuple[Profile, tuple[str, ...]]:
    """Return (the profile with every limit that this check lacks as not-a-number, which they are): nothing compares with those,
    so that no figure is taken from elsewhere."""
    missing = check.missing(profile, check.needs)
    if not missing:
        return profile, ()
    unknown = {name: Limit(value=nan, source=PRACTICE, note="not in the profile") for name in missing}
    return replace(profile, limits={**profile.limits, **unknown}), missing


def with_gaps_said(finding: Finding, missing: tuple[str, ...]) -> Finding:
    """Return a finding that lacked limits: unknown instead of within; what speaks against it by the others stays."""
    if not missing:
        return finding
    limits = {name: value for name, value in finding.limits.items() if isfinite(value)}
    words = f"Not judged: the profile has no {gap_words(missing)}."
    if finding.verdict != WITHIN:
        return replace(finding, because=f"{finding.because} {words}", limits=limits)
    return replace(finding, verdict=UNKNOWN, because=words, next=_ADD_IT, source=PRACTICE, limits=limits)


def cannot_be_found(check: Check, profile: Profile, span_s: tuple[float, float]) -> Finding | None:
    """Return the finding that says that a check of this type cannot be seen at all for want of a limit, or None. The span is
    in seconds [s]."""
    missing = check.missing(profile, check.finds_by)
    if not missing or not check.applies_to(profile):
        return None
    words = f"Not judged: the profile has no {gap_words(missing)}."
    return Finding.of(check.kind, span_s, (UNKNOWN, words, _ADD_IT, PRACTICE), {}, {})


def gap_words(missing: tuple[str, ...]) -> str:
    """Return the names of limits with what they are."""
    return ", ".join(f"{name} ({LIMITS[name].title.lower()})" if name in LIMITS else name for name in missing)


def typed_finding(profile: Profile, check: Check, figures: Mapping[str, Any], at_s: float) -> Finding:
    """Return the finding of typed figures, unknown where the profile lacks a limit. Raises EventError as the check does. The
    time is in seconds [s]."""
    assert check.judge_typed is not None
    filled, missing = judged_with_gaps(check, profile)
    return with_gaps_said(check.judge_typed(filled, figures, at_s), missing)


def profile_schema() -> dict[str, Any]:
    """Return the JSON Schema (draft 2020-12) of a profile as it is published: the kinds of check and the names of limits are
    those that there are."""
    schema: dict[str, Any] = json.loads(json.dumps(PROFILE_SCHEMA))  # a copy all the way down
    kinds = [check.kind for check in checks().values()]
    for item in _items_of(schema):
        item["check"], item["manual"] = {"enum": kinds}, {"enum": kinds}
    schema["properties"]["limits"]["propertyNames"] = {"enum": list(LIMITS)}
    return schema


def _items_of(schema: Any) -> Iterator[dict[str, Any]]:
    """Yield the properties of every item in a profile's schema."""
    if isinstance(schema, dict):
        if {"challenge", "response", "check"} <= schema.keys():
            yield schema
        for part in schema.values():
            yield from _items_of(part)
    elif isinstance(schema, list):
        for part in schema:
            yield from _items_of(part)
