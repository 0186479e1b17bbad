"""A drill as its file describes it, and as a seed draws it; docs/formats.md describes the file."""

import json
import random
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

from ..base.errors import DrillError
from ..trace.signals import BY_COLUMN, engine_of, reading_row
from .conditions import check_condition, names_in
from .schema import DECISIONS, DRILL_SCHEMA, SURPRISE_SCHEMA, check_form

_OF_RULE = ("what", "from", "until", "once")  # the conditions of a rule, beside its steps
_TEXTS = ("id", "title", "aim", "kind", "aircraft", "phase", "check")


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """One rule of a drill's score: the fact that it finds (an id), the skill that it belongs to and its weight in it, what to do
    instead where it was not met, and the rest of its row by name."""

    fact: str
    rule: str
    skill: str
    weight: float
    instead: str
    row: Mapping[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Drill:
    """A drill ready to be flown. `begins` are bench steps at its beginning, with which the
    engine then runs for `settle_s` [s] before the drill's time begins; `happens` bench steps that come at a time `at` [s] or
    `when` a condition holds (and `after_s` later); `path` the air over time, which runs from the moment when `path_from`
    holds. `cue` is the moment from which something can be noticed. Rules are in the order of what matters most; `needles`
    are those that they read, so that a pilot can see what is asked for."""

    id: str
    title: str
    aim: str
    kind: str
    aircraft: str
    phase: str
    level: int
    length_s: float
    settle_s: float
    check: str
    cause: str
    causes: Mapping[str, str]
    decisions: tuple[str, ...]
    begins: tuple[Mapping[str, Any], ...]
    path: tuple[Mapping[str, float], ...]
    path_from: Mapping[str, Any] | None
    happens: tuple[Mapping[str, Any], ...]
    cue: Mapping[str, Any] | None
    rules: tuple[Rule, ...]
    needles: tuple[str, ...]


def draw(body: object, seed: int) -> Drill:
    """Return the drill that a file describes, as a seed draws it: of each name in `varies` one word, of each time in `[from, to]`
    one moment.

        Raises:
            DrillError: what is wrong with it and where.
    """
    check_form(body, DRILL_SCHEMA)
    assert isinstance(body, dict)
    return _draw_checked(body, seed)


def _draw_checked(body: Mapping[str, Any], seed: int) -> Drill:
    """Return the drill of a file whose form is known to be right."""
    _check_conditions(body)
    _check_cause(body)
    drawn: dict[str, Any] = with_words(body, words_of(body, seed))
    happens = _at_moments(drawn.get("happens", []), random.Random(f"when in {body['id']} {seed}"))
    return Drill(
        **{name: drawn[name] for name in _TEXTS},
        level=drawn["level"],
        length_s=float(drawn["length_s"]),
        settle_s=float(drawn.get("settle_s", 0.0)),
        cause=drawn.get("cause", ""),
        causes=drawn.get("causes", {}),
        decisions=tuple(drawn.get("decisions", ())),
        begins=tuple({**step, "at": 0} for step in drawn["begins"]),
        path=tuple(drawn.get("path", ())),
        path_from=drawn.get("path_from"),
        happens=tuple(happens),
        cue=drawn.get("cue"),
        rules=tuple(_rule(row) for row in drawn["rules"]),
        needles=_needles(drawn),
    )


def _needles(drawn: Mapping[str, Any]) -> tuple[str, ...]:
    """Return the needles that a drill says are to be watched, and those that its conditions read; the flight path's own figures
    are none."""
    found: list[str] = list(drawn.get("watch", ()))
    parts = [drawn["cue"]] if "cue" in drawn else []
    for row in drawn["rules"]:
        parts += [row[name] for name in _OF_RULE if name in row] + row.get("steps", [])
    for part in parts:
        found += [name for name in sorted(names_in(part)) if name not in found]
    return tuple(name for name in found if engine_of(name)[1] in BY_COLUMN and not _is_path(name))


def _is_path(name: str) -> bool:
    row = reading_row(name)
    return row is None or row.is_lever or name in ("palt_ft", "ias_kt")


def kept_drill(drill: Drill) -> dict[str, Any]:
    """Return a drawn drill as plain data, to be kept with its flight: `drill_of_kept` reads it."""
    return json.loads(json.dumps(asdict(drill)))  # type: ignore[no-any-return]


def drill_of_kept(body: Mapping[str, Any]) -> Drill:
    """Return the drill that was kept with a flight.

    Raises:
        DrillError: it is none of this version.
    """
    try:
        rules = tuple(Rule(**row) for row in body["rules"])
        listed = {name: tuple(body[name]) for name in ("decisions", "begins", "path", "happens", "needles")}
        return Drill(**{**body, **listed, "rules": rules})
    except (KeyError, TypeError) as error:
        raise DrillError(f"The drill that was kept with this flight cannot be read: {error}.") from error


def words_of(body: Mapping[str, Any], seed: int) -> dict[str, str]:
    """Return the words that a seed draws for a drill: of each name in `varies` one choice, which is a word or several together."""
    chance = random.Random(f"{body['id']} {seed}")
    words: dict[str, str] = {}
    for name, choices in sorted(body.get("varies", {}).items()):
        choice = chance.choice(choices)
        words |= choice if isinstance(choice, dict) else {name: choice}
    return words


def with_words(body: Any, words: Mapping[str, str]) -> Any:
    """Return plain data with each `{name}` in its texts and names replaced by its word."""
    text = json.dumps(body)
    for name, word in words.items():
        text = text.replace("{" + name + "}", word)
    return json.loads(text)


QUIET = 4  # in one of so many surprises nothing happens (issue Practice: else a pilot looks until something is)
HEALTHY = "healthy"
_NOTHING = "Nothing is wrong"


def draw_surprise(body: object, known: Mapping[str, Mapping[str, Any]], seed: int) -> Drill:
    """Return what a seed draws of a surprise: one of the drills that its `surprise_of` names, told under the surprise's own title
    with the causes of all of them to choose from; in one of four nothing happens, and to see that is the drill. `known` are
    the drills by id, of the right form (a form takes longer to check than a drill to draw, and a surprise draws up to a dozen).

        Raises:
            DrillError: it names a drill that there is not, or drills of different aircraft or phases.
    """
    check_form(body, SURPRISE_SCHEMA)
    assert isinstance(body, dict)
    if missing := [name for name in body["surprise_of"] if name not in known]:
        raise DrillError(f"{body['id']}: there is no drill {missing[0]!r}.", str(missing[0]))
    drills = [_draw_checked(known[name], seed) for name in body["surprise_of"]]
    if len({(one.aircraft, one.phase) for one in drills}) > 1:
        raise DrillError(f"{body['id']}: its drills are not of one aircraft in one phase.")
    chance = random.Random(f"which of {body['id']} {seed}")
    causes = {cause: words for one in drills for cause, words in one.causes.items()} | {HEALTHY: _NOTHING}
    decisions = tuple(name for name in DECISIONS if any(name in one.decisions for one in drills) or name == "go_on")
    is_quiet = chance.randrange(QUIET) == 0
    chosen = chance.choice(drills)
    if is_quiet:
        chosen = replace(chosen, happens=(), cue=None, cause=HEALTHY, rules=_QUIET_RULES)
    told = {name: body[name] for name in ("id", "title", "aim", "kind")}
    needles = tuple(dict.fromkeys(name for one in drills for name in one.needles))
    return replace(chosen, **told, level=body["level"], causes=causes, decisions=decisions, needles=needles)


def _quiet_rule(fact: str, skill: str, what: Mapping[str, str], instead: str) -> Rule:
    row = {"fact": fact, "rule": "at_end", "skill": skill, "what": what, "instead": instead}
    return Rule(fact=fact, rule="at_end", skill=skill, weight=1.0, instead=instead, row=row)


_QUIET_RULES = (
    _quiet_rule(
        "stopped_for_nothing", "stop", {"decide": "go_on"}, "Nothing was wrong: look at everything, and go on."
    ),
    _quiet_rule(
        "saw_what_was_not",
        "cause",
        {"say": HEALTHY},
        "Say that nothing is wrong when nothing is: that is a finding too.",
    ),
)


def _at_moments(steps: Sequence[Mapping[str, Any]], chance: random.Random) -> list[Mapping[str, Any]]:
    """Return the steps with a moment drawn for each `[from, to]`; the same two figures mean the same moment."""
    moments: dict[tuple[float, float], float] = {}
    found = []
    for step in steps:
        at = step.get("at")
        if isinstance(at, list):
            first, last = float(at[0]), float(at[1])
            at = moments.setdefault((first, last), round(chance.uniform(first, last), 1))
        found.append(step if at is None else {**step, "at": at})
    return found


def _rule(row: Mapping[str, Any]) -> Rule:
    return Rule(
        fact=row["fact"],
        rule=row["rule"],
        skill=row["skill"],
        weight=float(row.get("weight", 1.0)),
        instead=row["instead"],
        row=row,
    )


def _check_conditions(body: Mapping[str, Any]) -> None:
    named = [(name, body[name]) for name in ("cue", "path_from") if name in body]
    named += [(f"happens.{n}.when", step["when"]) for n, step in enumerate(body.get("happens", ())) if "when" in step]
    for number, row in enumerate(body["rules"]):
        where = f"rules.{number}"
        named += [(f"{where}.{name}", row[name]) for name in _OF_RULE if name in row]
        named += [(f"{where}.steps.{place}", step) for place, step in enumerate(row.get("steps", ()))]
    for where, condition in named:
        check_condition(condition, where)


def _check_cause(body: Mapping[str, Any]) -> None:
    cause = body.get("cause", "")
    if cause and "{" not in cause and cause not in body.get("causes", {}):
        raise DrillError(f"{body['id']}: its cause {cause!r} is not among those that a pilot may name.", "cause")
