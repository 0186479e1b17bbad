"""An aircraft's profile as values. `profile_from_json` is the one door in; what comes through it is complete.

Limits are looked up by name (`profile.limit("mag_drop_max_rpm")`), their unit is the end of the name.
"""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import jsonschema

from ..bench.layout import parameters_from
from ..errors import ProfileError
from .schema import PROFILE_SCHEMA

Check = str

# The limits that the judgements of every aircraft look up.
NEEDED_LIMITS = (
    "runup_rpm",
    "runup_band_rpm",
    "mag_drop_max_rpm",
    "mag_drop_min_rpm",
    "mag_difference_max_rpm",
    "mag_restored_within_rpm",
    "egt_fall_dead_plug_f",
    "carb_heat_drop_min_rpm",
    "carb_heat_drop_max_rpm",
    "carb_heat_restored_within_rpm",
    "carb_heat_ice_gain_rpm",
    "idle_min_rpm",
    "idle_max_rpm",
    "rpm_firing_min",
    "oil_pressure_min_psi",
    "oil_pressure_time_s",
    "oil_pressure_time_cold_s",
    "oil_pressure_cold_below_c",
    "starter_on_max_s",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """One figure of the type and where it comes from: `type`, `published: ...` or `common practice`."""

    value: float
    source: str
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """What a signal must show: between two figures (core units), or one word."""

    signal: str
    lowest: float | None = None
    highest: float | None = None
    word: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Item:
    """One line of a list: what is read out, what is done, why, and what the data can show of it."""

    id: str
    challenge: str
    response: str
    why: str
    caution: str | None = None
    lever: str | None = None
    reading: Reading | None = None
    check: Check | None = None
    manual: Check | None = None
    watch: str | None = None
    counts: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Phase:
    """A phase of the flight: its list, in order, and the instruments that matter in it."""

    id: str
    title: str
    instruments: tuple[str, ...]
    items: tuple[Item, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PutBack:
    """Something set for a moment: how the levers tell that it is away, and after how long it is due back."""

    id: str
    title: str
    back: str
    lever: str
    due_s: float
    away_above: float | None = None
    away_below: float | None = None
    away_least: float | None = None
    away_is: tuple[str, ...] = ()
    phases: tuple[str, ...] = ()

    def is_away(self, position: float | str, phase: str) -> bool:
        """Say whether the lever at this position, in this phase, is something to put back."""
        if self.phases and phase not in self.phases:
            return False
        if isinstance(position, str):
            return position in self.away_is
        if self.away_above is not None and position > self.away_above:
            return True
        least = self.away_least if self.away_least is not None else -1.0
        return self.away_below is not None and least <= position < self.away_below


@dataclass(frozen=True, slots=True, kw_only=True)
class LeanTarget:
    """Where to set the mixture: so many °F rich or lean of peak EGT."""

    id: str
    name: str
    side: str
    offset_f: float
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Profile:
    """A checked aircraft profile. `body` is the JSON that it came from, `content_hash` names that content."""

    id: str
    name: str
    registration: str
    about: str
    owner_signed: bool
    engine: Mapping[str, Any]
    limits: Mapping[str, Limit]
    lean_targets: tuple[LeanTarget, ...]
    prime: tuple[tuple[float, float], ...]
    put_backs: tuple[PutBack, ...]
    schedule: Mapping[str, float]
    phases: tuple[Phase, ...]
    bench: Mapping[str, Any] | None
    body: Mapping[str, Any]
    content_hash: str

    def limit(self, name: str) -> float:
        """Return a limit's figure. Raises ProfileError if the profile has none of this name."""
        if name not in self.limits:
            raise ProfileError(f"Profile {self.id!r} has no limit {name!r}; add it under `limits`.")
        return self.limits[name].value

    def phase(self, phase_id: str) -> Phase:
        """Return a phase by its id. Raises ProfileError if there is none."""
        for phase in self.phases:
            if phase.id == phase_id:
                return phase
        raise ProfileError(f"Profile {self.id!r} has no phase {phase_id!r}.")

    def item(self, item_id: str) -> tuple[Phase, Item]:
        """Return an item and its phase by the item's id, which is the only one of its name. Raises ProfileError."""
        for phase in self.phases:
            for item in phase.items:
                if item.id == item_id:
                    return phase, item
        raise ProfileError(f"Profile {self.id!r} has no item {item_id!r}.")

    def book_prime_strokes(self, oat_c: float) -> float:
        """Return the strokes that the type's table gives at this outside temperature."""
        for below_c, strokes in self.prime:
            if oat_c < below_c:
                return strokes
        return self.prime[-1][1]


def canonical_json(body: object) -> str:
    """Return JSON with sorted keys and no spare spaces, so that the same content has the same text."""
    return json.dumps(body, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def profile_from_json(body: object) -> Profile:
    """Return the profile that this JSON describes.

    Raises:
        ProfileError: the first thing that is wrong, with its place in the file.
    """
    validator = jsonschema.Draft202012Validator(PROFILE_SCHEMA)
    if problem := jsonschema.exceptions.best_match(validator.iter_errors(body)):
        raise ProfileError(f"The aircraft profile is wrong at {problem.json_path}: {problem.message[:300]}")
    assert isinstance(body, dict)
    limits = {name: Limit(**limit) for name, limit in body["limits"].items()}
    if missing := [name for name in NEEDED_LIMITS if name not in limits]:
        raise ProfileError(f"The aircraft profile has no limit {missing[0]!r}; the judgements need it.")
    phases = tuple(_phase(phase, limits) for phase in body["phases"])
    _check_names(phases, body["put_backs"])
    if "bench" in body:
        parameters_from(body["bench"])
    put_backs = tuple(
        PutBack(**{**row, "away_is": tuple(row.get("away_is", ())), "phases": tuple(row.get("phases", ()))})
        for row in body["put_backs"]
    )
    return Profile(
        id=body["id"],
        name=body["name"],
        registration=body["registration"],
        about=body["about"],
        owner_signed=body["owner_signed"],
        engine=body["engine"],
        limits=limits,
        lean_targets=tuple(LeanTarget(**target) for target in body["lean_targets"]),
        prime=tuple(sorted((row["below_c"], row["strokes"]) for row in body["prime"])),
        put_backs=put_backs,
        schedule=body["schedule"],
        phases=phases,
        bench=body.get("bench"),
        body=body,
        content_hash=hashlib.sha256(canonical_json(body).encode()).hexdigest()[:16],
    )


def _phase(body: Mapping[str, Any], limits: Mapping[str, Limit]) -> Phase:
    items = tuple(
        Item(**{**item, "reading": _reading(item["reading"], limits, item["id"]) if "reading" in item else None})
        for item in body["items"]
    )
    return Phase(id=body["id"], title=body["title"], instruments=tuple(body["instruments"]), items=items)


def _reading(body: Mapping[str, Any], limits: Mapping[str, Limit], item_id: str) -> Reading:
    def figure(own: str, named: str) -> float | None:
        if named in body:
            if body[named] not in limits:
                raise ProfileError(f"Item {item_id!r} names the limit {body[named]!r}, which the profile has not.")
            return limits[body[named]].value
        return body.get(own)

    lowest, highest = figure("min", "min_limit"), figure("max", "max_limit")
    near, band = figure("", "near_limit"), figure("", "band_limit")
    if near is not None and band is not None:
        lowest, highest = near - band, near + band
    if lowest is not None and highest is not None and lowest > highest:
        raise ProfileError(f"Item {item_id!r}: its reading can never hold, {lowest:g} is above {highest:g}.")
    return Reading(signal=body["signal"], lowest=lowest, highest=highest, word=body.get("is"))


def _check_names(phases: tuple[Phase, ...], put_backs: list[Mapping[str, Any]]) -> None:
    for what, names in (
        ("phases", [phase.id for phase in phases]),
        ("items", [item.id for phase in phases for item in phase.items]),
        ("put_backs", [row["id"] for row in put_backs]),
    ):
        if twice := [name for name in names if names.count(name) > 1]:
            raise ProfileError(f"Two {what} of the profile are named {twice[0]!r}; each name is used once.")
