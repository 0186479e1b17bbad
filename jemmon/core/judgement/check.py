"""What a check is: how it is found, judged, told, typed and explained. Each module of a check ends in one `CHECK`.

`registry` gathers them; judging, the live flight, the card, trends, the method page, titles, the number pad and the schema
all read it there.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal, TypeVar

from ..aircraft import Profile
from ..start.story import StartStory, stories_of_trace
from ..trace import Trace
from ..trace.finding import INCOMPLETE, Finding

PRACTICE, TYPE = "common practice", "type"
T = TypeVar("T")


@dataclass(frozen=True)
class Evidence:
    """What one engine showed: its own trace and the profile. `trace` has its speed in RPM; `shown` as its tachometer has it, RPM
    or percent. `told` are its starts where a live flight has followed them; a recorded trace is followed when asked."""

    shown: Trace
    profile: Profile
    told: tuple[StartStory, ...] | None = None
    _known: dict[Any, Any] = field(default_factory=dict, repr=False, compare=False)

    @cached_property
    def trace(self) -> Trace:
        """The trace with its speed in RPM."""
        full = self.profile.engine.get("rpm_at_100_pct")
        return self.shown if full is None else self.shown.in_rpm(float(full))

    @cached_property
    def starts(self) -> tuple[StartStory, ...]:
        """The starts of this engine, as they were followed."""
        return stories_of_trace(self.profile, self.shown) if self.told is None else self.told

    def judged_by(self, profile: Profile) -> "Evidence":
        """Return the same evidence, what is known of it too, for a profile that differs by limits that recognition never asks."""
        if profile is self.profile:
            return self
        return Evidence(self.shown, profile, self.told, self._known)

    def once(self, find: Callable[["Evidence"], T]) -> T:
        """Return what `find` says of this evidence, asked once whoever asks: two checks may be told apart by one reading."""
        if find not in self._known:
            self._known[find] = find(self)
        return self._known[find]  # type: ignore[no-any-return]


@dataclass(frozen=True, slots=True)
class Rule:
    """One verdict: its word, what it is given for, and the source of that."""

    verdict: str
    given_for: str
    source: str


NOT_BACK = Rule(INCOMPLETE, "the end of the check was not seen: it proves nothing", PRACTICE)


@dataclass(frozen=True, slots=True, kw_only=True)
class TrendFigure:
    """A figure that is followed over flights: `measured` of the finding against a limit, the lowest allowed with `is_low`.
    `side` names the magneto whose own limit counts. `scale` brings a flight's figure to a common base (a drop to the type's
    run-up RPM, full throttle to the standard day)."""

    id: str
    title: str
    unit: str
    measured: str
    limit: str
    is_low: bool = False
    scale: Callable[[Mapping[str, Any], Profile], float] = lambda measured, profile: 1.0
    side: str | None = None

    def limit_of(self, profile: Profile) -> float | None:
        """Return its limit by the type, that of its own side where there is one, in the figure's unit; None without one."""
        if self.side is None or not profile.has_limit(self.limit):
            return profile.find_limit(self.limit)
        return profile.limit_of_side(self.limit, self.side)


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """A measured figure that a finding shows large: its name in `measured`, what it is called, its unit, the name of what it
    may be off by, where that is known, and the limits that it is drawn against: the first that the finding was judged by.
    `between` are the figures shown beside it, of which two are known and it is the difference."""

    measured: str
    title: str
    unit: str = "rpm"
    plus_minus: str | None = None
    between: tuple[str, ...] = ()
    most: tuple[str, ...] = ()
    least: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """A figure that the pilot types: its name in the event, what the pad calls it, its unit, whether it may be left out.
    `kind` sides is a choice of magnetos; `shows` names the figure whose difference to this one is shown beside it."""

    name: str
    title: str
    unit: str = "rpm"
    kind: Literal["figure", "sides"] = "figure"
    is_optional: bool = False
    drop_from: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """A figure that is held against the other engine's; said when they are further apart than `apart`, in its unit."""

    measured: str
    title: str
    apart: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Ripe:
    """When a finding of the last minutes is told: so many seconds [s] after it ended, longer by `follows_rpm` where the type's
    RPM settles slowly. `is_ripe` decides instead, where waiting is not what makes it certain."""

    after_s: float = 0.0
    follows_rpm: bool = False
    is_ripe: Callable[[Finding, Trace], bool] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """One kind of finding. `place` orders the kinds as a flight goes. `needs` are the limits that it judges by: without one of
    them it is unknown; `finds_by` those without which it cannot be seen; `may_use` what it uses where the profile has it.
    `not_needed_by(profile)` are limits that have no meaning for a type. `is_of(profile)` says for which types it is a check even
    where the profile's lists and limits do not mention it. `by_ear`: RPM alone tells it, heard by a microphone."""

    kind: str
    title: str
    place: int
    find: Callable[[Evidence], list[Finding]]
    measures: str
    rules: tuple[Rule, ...]
    needs: tuple[str, ...] = ()
    finds_by: tuple[str, ...] = ()
    may_use: tuple[str, ...] = ()
    is_of: Callable[[Profile], bool] = lambda profile: False
    ripe: Ripe = Ripe()
    on_card: bool = False
    must_be_judged: bool = False
    by_ear: bool = False
    is_traced: bool = False
    shows: tuple[Shown, ...] = ()
    trends: tuple[TrendFigure, ...] = ()
    compared: tuple[Compared, ...] = ()
    fields: tuple[Field, ...] = ()
    judge_typed: Callable[[Profile, Mapping[str, Any], float], Finding] | None = None
    told_apart_by: tuple[str, ...] = ()
    same_place: Callable[[Mapping[str, Any], Mapping[str, Any]], bool] | None = None
    not_needed_by: Callable[[Profile], tuple[str, ...]] = lambda profile: ()

    @property
    def limits(self) -> tuple[str, ...]:
        """Every limit that it reads."""
        return (*self.finds_by, *self.needs, *self.may_use)

    def applies_to(self, profile: Profile) -> bool:
        """Say whether this type has the check: by its kind, its lists, or a limit of it that the profile gives."""
        listed = any(item.check == self.kind for item in profile.items.values())
        return self.is_of(profile) or listed or any(profile.has_limit(name) for name in (*self.finds_by, *self.needs))

    def missing(self, profile: Profile, names: Sequence[str] | None = None) -> tuple[str, ...]:
        """Return the limits that it needs (all, or those of `names`) and the profile does not have."""
        asked = (*self.finds_by, *self.needs) if names is None else names
        spared = self.not_needed_by(profile)
        return tuple(name for name in asked if not profile.has_limit(name) and name not in spared)
