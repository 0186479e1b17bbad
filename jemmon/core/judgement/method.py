"""How each verdict is made, in a pilot's words: what is measured, what each word rests on, and where that comes from.

The page of methods, the tap on a verdict and docs/method.md are made of these; each check's own words are in its module.
"""

from dataclasses import dataclass

from ..aircraft import Profile
from ..aircraft.limits import LIMITS
from ..base.figures import plain
from .check import Rule
from .registry import checks
from .trend import TREND_MEASURES, TREND_RULES


@dataclass(frozen=True, slots=True, kw_only=True)
class MethodRule:
    """One verdict: its word, what it is given for, and the source of that."""

    verdict: str
    given_for: str
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MethodLimit:
    """A limit that a check uses: its title and unit, and the figure of one aircraft with its source."""

    name: str
    title: str
    unit: str
    value: float
    source: str
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Method:
    """How one kind of finding is made, with the limits of one aircraft where one is asked for."""

    kind: str
    title: str
    measured: str
    rules: tuple[MethodRule, ...]
    limits: tuple[MethodLimit, ...]


def methods(profile: Profile | None = None) -> tuple[Method, ...]:
    """Return all methods; with a profile, those of other kinds of aircraft are kept: a record may hold them."""
    rows = [(check.kind, check.title, check.measures, check.rules, check.limits) for check in checks().values()]
    rows.append(("trend", "Trends", TREND_MEASURES, TREND_RULES, ()))
    return tuple(
        Method(
            kind=kind,
            title=title,
            measured=measures,
            rules=tuple(_rule(rule) for rule in rules),
            limits=tuple(_limit(profile, name) for name in limits if profile and name in profile.limits),
        )
        for kind, title, measures, rules, limits in rows
    )


def _rule(rule: Rule) -> MethodRule:
    return MethodRule(verdict=rule.verdict, given_for=rule.given_for, source=rule.source)


def _limit(profile: Profile, name: str) -> MethodLimit:
    row, limit = LIMITS[name], profile.limits[name]
    return MethodLimit(
        name=name, title=row.title, unit=row.unit, value=limit.value, source=limit.source, note=limit.note
    )


_HEAD = """# How each verdict is made

Made by `jemmon method` of the checks themselves; `make lint` compares. Live and from a record they are judged by one function,
`jemmon.core.judgement.judge.judge`. A tap on a verdict shows its part of this; the method page of an aircraft has all of it
with that aircraft's limits. Why it is judged so is in docs/judgement.md. Within limits is no permission to fly.
"""


_TYPES = """## How the figures of a shipped type were made

No shipped type is anybody's. `tools/draw_types.py SEED FROM TO` draws a displacement and a rated speed of its own for each
from the ranges of its kind (the table at its head, from the ranges of the trade), and scales the simulated engine as a
whole: what goes with size goes with the air, times go with speed, limits, strokes, gates and percentages follow and are
rounded as a handbook would. What came out was read through once for what still sounds known, and moved where it did. The
simulated engine then has to give what is expected of its kind (docs/bench-table.md), and the profile has to agree with it:
each row is a test. Names are made-up words that no aircraft had; registrations begin with ZZ-, which is not assigned.
"""


def method_text() -> str:
    """Return docs/method.md: what is measured, what each verdict is given for and where that comes from, the limits by name."""
    parts = [_HEAD]
    for method in methods():
        check = checks().get(method.kind)
        parts.append(f"## {method.title} (`{method.kind}`)\n\n{plain(method.measured)}\n")
        rows = "".join(f"| {rule.verdict} | {plain(rule.given_for)} | {rule.source} |\n" for rule in method.rules)
        parts.append(f"| verdict | given for | source |\n|---|---|---|\n{rows}")
        if check and check.limits:
            parts.append(f"Limits: {', '.join(f'`{name}`' for name in check.limits)}.\n")
    return "\n".join([*parts, _TYPES])
