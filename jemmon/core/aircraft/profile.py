"""An aircraft's profile as values. `profile_from_json` is the one door in; what comes through it is complete.

Limits are looked up by name (`profile.limit("mag_drop_max_rpm")`), their unit is the end of the name.
"""

import hashlib
import json
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from math import log
from typing import Any

import jsonschema

from ..base.errors import ProfileError
from ..trace.signals import engine_of
from .balance import Balance, balance_from
from .limits import check_limits
from .lists import FACTS, Condition, Item, Phase, PutBack, conditions_from, phase_from
from .phases import PHASE_KINDS, PhaseKind
from .power_table import PowerTable, check_chart, power_table_from
from .schema import PROFILE_SCHEMA
from .start_method import StartMethod
from .upgrade import upgraded
from .vocabulary import check_vocabulary

LIGHT_PROPELLER_LAG_S = 0.27
_FLOWN_BY = ("palt_ground_ft", "cruise_ft", "climb_kt", "cruise_kt", "climb_fpm", "descent_fpm")


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """One figure of the type and where it comes from: `type`, `published: ...` or `common practice`."""

    value: float
    source: str
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AircraftUnits:
    """The units that an aircraft's gauges are marked in, by the choices of `units.DISPLAYS`: by family (`temperature`: `metric`),
    and of single gauges by their reading (`oil_t_f`: `metric`), since one panel may have °C beside °F."""

    families: Mapping[str, str]
    gauges: Mapping[str, str]

    def of(self, signal: str, unit: str) -> str:
        """Return the unit of a reading as the screen is told it: with the gauge's name where its marks are its own
        (`f@oil_t_f`)."""
        own = engine_of(signal)[1]
        return f"{unit}@{own}" if own in self.gauges else unit


@dataclass(frozen=True, slots=True, kw_only=True)
class LeanTarget:
    """Where to set the mixture: so many °F rich or lean of peak EGT."""

    id: str
    name: str
    side: str
    offset_f: float
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Need:
    """What must be proven before take-off power: the words if it is not, and the proof (`check:mag_check`, ...)."""

    say: str
    proof: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeOff:
    """The phase of the take-off, what shows that power rises towards it, and what must be proven before."""

    phase: str
    when: tuple[Condition, ...]
    needs: tuple[Need, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Profile:
    """A checked aircraft profile. `body` is the JSON that it came from, `content_hash` names that content,
    `set_aside` says which limits of an earlier format are read no more, `not_held` names items (challenge, limit) whose
    reading is held against nothing because the profile does not give its limit, `refused` is why today's rules do not take it:
    then nothing is judged by it."""

    id: str
    name: str
    registration: str
    about: str
    owner_signed: bool
    engine: Mapping[str, Any]
    limits: Mapping[str, Limit]
    lean_targets: tuple[LeanTarget, ...]
    prime: tuple[tuple[float, float], ...]
    start: StartMethod
    put_backs: tuple[PutBack, ...]
    schedule: Mapping[str, float]
    phases: tuple[Phase, ...]
    killer_delay_s: float
    briefing_delay_s: float
    take_off: TakeOff
    briefing: Mapping[str, Any]
    bench: Mapping[str, Any] | None
    power: PowerTable | None
    balance: Balance | None
    body: Mapping[str, Any]
    content_hash: str
    set_aside: tuple[str, ...] = ()
    not_held: tuple[tuple[str, str], ...] = ()
    refused: str = ""

    def limit(self, name: str) -> float:
        """Return a limit's figure in the unit of its row. Raises ProfileError if the profile has none of this name."""
        if name not in self.limits:
            raise ProfileError(f"Profile {self.id!r} has no limit {name!r}; add it under `limits`.")
        return self.limits[name].value

    def find_limit(self, name: str) -> float | None:
        """Return a limit's figure in the unit of its row, or None where the profile has none: then nothing is judged by it."""
        limit = self.limits.get(name)
        return None if limit is None else limit.value

    def has_limit(self, name: str) -> bool:
        """Say whether the profile gives a limit, for both sides together or for each."""
        if name in self.limits:
            return True
        stem, _, unit = name.rpartition("_")
        return all(f"{stem}_{side}_{unit}" in self.limits for side in ("left", "right"))

    def limit_of_side(self, name: str, side: str) -> float:
        """Return a limit of one magneto where the profile has one (`mag_drop_max_left_rpm`: one side may be electronic),
        else that of both. The figure is in the limit's unit."""
        stem, unit = name.rsplit("_", 1)
        own = self.limits.get(f"{stem}_{side}_{unit}")
        return self.limit_of_either(name) if own is None else own.value

    @property
    def magneto_sides_apart(self) -> float:
        """The logarithm of the ratio of the two sides' greatest drops, by their limits: 0 where they are alike."""
        if not self.has_limit("mag_drop_max_rpm"):
            return 0.0
        left, right = (self.limit_of_side("mag_drop_max_rpm", side) for side in ("left", "right"))
        return abs(log(left / right))

    def limit_of_either(self, name: str) -> float:
        """Return a limit of both magnetos together; where the profile gives one for each side, the one that allows more, in the
        limit's unit. Raises ProfileError if the profile has neither."""
        stem, unit = name.rsplit("_", 1)
        sides = [self.limits.get(f"{stem}_{side}_{unit}") for side in ("left", "right")]
        own = [limit.value for limit in sides if limit is not None]
        if name in self.limits or len(own) < len(sides):
            return self.limit(name)
        return max(own) if stem.endswith("_max") else min(own)

    @property
    def speed_scale(self) -> float:
        """How fast this engine turns against a direct-drive engine of 2,700 RPM: what a small speed means is scaled by it."""
        return float(self.engine["rated_rpm"]) / 2700.0

    def as_read_rpm(self, rpm: float) -> float:
        """Return a speed [RPM] as this type's tachometer is read out: to one RPM, or to a tenth of a percent."""
        full = self.engine.get("rpm_at_100_pct")
        return round(rpm, 0) if full is None else round(rpm / float(full), 3) * float(full)

    def apart_as_read_rpm(self, one_rpm: float, other_rpm: float) -> float:
        """Return the difference of two speeds or drops [RPM] that stand beside it: what a pilot who subtracts them finds."""
        return abs(self.as_read_rpm(one_rpm) - self.as_read_rpm(other_rpm))

    @property
    def power_section(self) -> Mapping[str, Any]:
        """What the profile says of power beside its table; empty where it says nothing."""
        section: Mapping[str, Any] = self.body.get("power") or {}
        return section

    @property
    def units(self) -> AircraftUnits:
        """In which units this aircraft's gauges are marked, where they are not those of the core."""
        own = self.body.get("units") or {}
        return AircraftUnits(families=own.get("families", {}), gauges=own.get("gauges", {}))

    @property
    def flown_by(self) -> Mapping[str, float]:
        """By which speeds, rates and altitudes its simulated engine is flown: those of the profile, else those that the simulated
        engine brings with it (an aircraft of one's own whose figures are not all answered)."""
        return {**((self.bench or {}).get("flown_by", {})), **self.schedule}

    @property
    def asks(self) -> tuple[str, ...]:
        """The facts that its lists ask for, by their conditions, in the order of `lists.FACTS`."""
        lists = [one for phase in self.phases for one in phase.lists]
        rows = [conditions for one in lists for conditions in (one.only_if, *(item.only_if for item in one.items))]
        asked = {condition.of for conditions in rows for condition in conditions}
        return tuple(name for name in FACTS if name in asked)

    @property
    def lag_scale(self) -> float:
        """How much slower RPM follows than that of a light propeller (0.27 s to 63 %): a big one takes longer."""
        return self._rpm_lag_s / LIGHT_PROPELLER_LAG_S

    @property
    def _rpm_lag_s(self) -> float:
        return float(self.engine.get("rpm_lag_s", LIGHT_PROPELLER_LAG_S))

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

    @property
    def items(self) -> dict[str, Item]:
        """Every item of every list by its id."""
        return {item.id: item for phase in self.phases for item in phase.items}

    @property
    def engines(self) -> tuple[tuple[int, str], ...]:
        """Return (number, name) of each engine in the order in which they are started."""
        return _engines(self.engine)

    def whose(self, engine_name: str) -> str:
        """Return how a line about one engine begins: its name where there are two, else nothing."""
        return f"{engine_name}: " if len(self.engines) > 1 else ""

    def kind_of(self, phase_id: str) -> PhaseKind:
        """Return the kind of a phase. Raises ProfileError if there is none of this id."""
        return self.phase(phase_id).kind

    def place(self, phase_id: str) -> int:
        """Return how many phases come before this one. Raises ProfileError if there is none."""
        return self.phases.index(self.phase(phase_id))


def canonical_json(body: object) -> str:
    """Return JSON with sorted keys and no spare spaces, so that the same content has the same text."""
    return json.dumps(body, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def profile_from_json(body: object) -> Profile:
    """Return the profile that this JSON describes.

    Raises:
        ProfileError: the first thing that is wrong, with its place in the file.
    """
    now = upgraded(body)
    given, body = body, _checked(now.body)
    assert isinstance(given, dict)
    limits = {name: Limit(**limit) for name, limit in body["limits"].items()}
    figures = {name: limit.value for name, limit in limits.items()}
    check_limits(figures)
    check_vocabulary(body)
    phases = tuple(phase_from(phase, {**now.aside, **figures}, _engines(body["engine"])) for phase in body["phases"])
    _check_names(phases, body)
    _check_flown(body)
    _check_tanks(body)
    check_chart(body.get("never_exceed"), "never_exceed", "kt")
    return Profile(
        id=body["id"],
        name=body["name"],
        registration=body["registration"],
        about=body["about"],
        owner_signed=body["owner_signed"],
        engine=body["engine"],
        limits=limits,
        lean_targets=tuple(LeanTarget(**target) for target in body["lean_targets"]),
        prime=tuple(sorted((row["below_c"], row["amount"]) for row in body["prime"])),
        start=StartMethod.from_json(body.get("start")),
        put_backs=tuple(_put_back(row) for row in body["put_backs"]),
        schedule=body["schedule"],
        phases=phases,
        killer_delay_s=body["delays"]["killer_s"],
        briefing_delay_s=body["delays"]["briefing_s"],
        take_off=TakeOff(
            phase=body["take_off"]["phase"],
            when=conditions_from(body["take_off"]["when"], "`take_off`"),
            needs=tuple(Need(**need) for need in body["take_off"]["needs"]),
        ),
        briefing=body["briefing"],
        bench=body.get("bench"),
        power=power_table_from(body.get("power", {})),
        balance=balance_from(body.get("balance")),
        body=given,
        content_hash=hashlib.sha256(canonical_json(given).encode()).hexdigest()[:16],
        set_aside=now.words,
        not_held=_not_held(body, {**now.aside, **figures}),
    )


def refused_profile(body: Mapping[str, Any], why: str) -> Profile:
    """Return what can be shown of a kept profile that today's rules refuse: its names, and nothing to judge by."""

    def named(name: str) -> str:
        return str(body.get(name) or "unknown")[:80]

    phase = Phase(id="flight", title="Flight", kind=PHASE_KINDS["before_start"], instruments=(), lists=())
    return Profile(
        id=named("id"),
        name=named("name"),
        registration=named("registration"),
        about=f"This version does not read its profile: {why}",
        owner_signed=False,
        engine={"count": 1, "cylinders": 4, "propeller": "fixed_pitch", "rated_rpm": 2700},
        limits={},
        lean_targets=(),
        prime=(),
        start=StartMethod(unit="none"),
        put_backs=(),
        schedule={},
        phases=(phase,),
        killer_delay_s=0.0,
        briefing_delay_s=0.0,
        take_off=TakeOff(phase=phase.id, when=(), needs=()),
        briefing={},
        bench=None,
        power=None,
        balance=None,
        body=body,
        content_hash=hashlib.sha256(canonical_json(body).encode()).hexdigest()[:16],
        refused=why,
    )


def _not_held(body: Mapping[str, Any], figures: Mapping[str, float]) -> tuple[tuple[str, str], ...]:
    """Return (challenge, limit) of each item whose reading or measure names a limit that the profile does not give."""
    items = [item for phase in body["phases"] for one in phase["lists"] for item in one["items"]]
    named = (
        (item["challenge"], name)
        for item in items
        for part in ("reading", "measure")
        for key, name in item.get(part, {}).items()
        if key.endswith("_limit")
    )
    return tuple((challenge, name) for challenge, name in named if name not in figures)


def _put_back(row: Mapping[str, Any]) -> PutBack:
    special = {
        "away_is": tuple(row.get("away_is", ())),
        "away_at_rest": conditions_from(row.get("away_at_rest", ()), f"Put-back {row['id']!r}"),
        "phases": tuple(row.get("phases", ())),
    }
    return PutBack(**{**row, **special})


def _check_tanks(body: Mapping[str, Any]) -> None:
    """Raise ProfileError where tanks share a name, or engines have tanks of their own and these are not all of them, once each."""
    fuel = body.get("fuel") or {}
    tanks, engines = fuel.get("tanks", []), body["engine"]["count"]
    if len(set(tanks)) < len(tanks):
        raise ProfileError(f"fuel.tanks: two tanks have one name: {', '.join(tanks)}.")
    if fuel.get("each_engine_its_own") and len(tanks) != engines:
        raise ProfileError(
            f"fuel.each_engine_its_own: {len(tanks)} tanks for {engines} engines; one for each, in their order."
        )
    sides = fuel.get("engine_tanks")
    if sides and (len(sides) != engines or sorted(tank for side in sides for tank in side) != sorted(tanks)):
        raise ProfileError(
            f"fuel.engine_tanks: {len(sides)} sides for {engines} engines; every tank of fuel.tanks belongs to one side, once."
        )


def _check_flown(body: Mapping[str, Any]) -> None:
    """Raise ProfileError where the airframe that a simulated engine flies lacks a figure or has one out of range. The engine's
    own constants are checked by the bench (`bench.layout.parameters_from`), before such a profile is taken."""
    if "bench" not in body:
        return
    plan = {**body["bench"].get("flown_by", {}), **body["schedule"]}
    if missing := [name for name in _FLOWN_BY if name not in plan]:
        raise ProfileError(f"schedule.{missing[0]} is missing; the simulated aircraft flies by it.")
    if not 0 < plan["climb_kt"] < plan["cruise_kt"] or plan.get("mass_kg", 1) <= 0:
        raise ProfileError("schedule: climb_kt must be above 0 and below cruise_kt, mass_kg above 0.")


def _checked(body: object) -> dict[str, Any]:
    """Return the JSON in the words of the present format if the schema takes it. Raises ProfileError with the place."""
    validator = jsonschema.Draft202012Validator(PROFILE_SCHEMA)
    if problem := jsonschema.exceptions.best_match(validator.iter_errors(body)):
        what = problem.message  # it quotes the value met, which may be megabytes
        if len(what) > 300:
            what = f"is too long or does not fit ({problem.validator}: {str(problem.validator_value)[:120]})."
        raise ProfileError(f"The aircraft profile is wrong at {problem.json_path[:120]}: {what}")
    assert isinstance(body, dict)
    own = body["briefing"]
    needed = {"twin": ("blue_line_kt", "red_line_kt"), "single": ("turn_back_ft",)}.get(own["kind"], ())
    if absent := [name for name in needed if name not in own]:
        raise ProfileError(f"The briefing of the profile has no {absent[0]!r}; this kind of aircraft needs it.")
    return body


def _engines(body: Mapping[str, Any]) -> tuple[tuple[int, str], ...]:
    names = body.get("names", ("Left", "Right") if body["count"] == 2 else ("Engine",))
    return tuple((number, names[number - 1]) for number in body.get("order", range(1, body["count"] + 1)))


def _check_names(phases: tuple[Phase, ...], body: Mapping[str, Any]) -> None:
    phase_ids = [phase.id for phase in phases]
    items = [item for phase in phases for item in phase.items]
    put_backs = [row["id"] for row in body["put_backs"]]
    for what, names in (
        ("phases", phase_ids),
        ("lists", [checklist.id for phase in phases for checklist in phase.lists]),
        ("lists of a phase", [f"{p.id}: {checklist.title}" for p in phases for checklist in p.lists]),
        ("items", [item.id for item in items]),
        ("put_backs", put_backs),
    ):
        name, times = Counter(names).most_common(1)[0] if names else ("", 0)
        if times > 1:
            raise ProfileError(f"Two {what} of the profile are named {name!r}; each name is used once.")
    wanted = [(f"Item {i.id!r}", i.gate, phase_ids, "phase") for i in items]
    wanted += [(f"Item {i.id!r}", name, put_backs, "put-back pair") for i in items for name in (i.away, i.back)]
    wanted += [(f"Put-back {row['id']!r}", row.get("back_by"), phase_ids, "phase") for row in body["put_backs"]]
    wanted += [
        (f"Put-back {row['id']!r}", p, phase_ids, "phase") for row in body["put_backs"] for p in row.get("phases", ())
    ]
    wanted += [("`take_off`", body["take_off"]["phase"], phase_ids, "phase")]
    item_ids = [item.id for item in items]
    proofs = [need["proof"].split(":", 1)[1] for need in body["take_off"]["needs"] if need["proof"].startswith("item:")]
    wanted += [("`take_off`", name, item_ids, "item") for name in proofs]
    for place, name, known, what in wanted:
        if name is not None and name not in known:
            raise ProfileError(f"{place} names the {what} {name!r}, which the profile has not.")
