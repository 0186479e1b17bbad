"""How far the lists are: a value that moves by one event at a time, and what it leaves open.

An item is open until it is confirmed or said to be not applicable. Skipped and deferred items stay open, with their
reason; a deferred one comes back at its gate. Nothing here raises: an event that names what the profile has not is
kept in the flight and changes nothing.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from ..aircraft import Checklist, Condition, Item, Phase, Profile
from ..aircraft.phases import BEFORE_START, START
from ..trace.signals import engine_of

DEFERRED, SKIPPED, NOT_APPLICABLE = "deferred", "skipped", "not_applicable"
SET_ASIDE = (DEFERRED, SKIPPED, NOT_APPLICABLE)
# what a pilot says of lists, and what data say
PILOT_KINDS = (
    "item_done",
    "item_set_aside",
    "item_taken_up",
    "item_measured",
    "timer_started",
    "counted",
    "flow_done",
    "list_done",
    "list_style",
    "fact",
    "interrupted",
    "resumed",
    "briefing_read",
)
KINDS = (*PILOT_KINDS, "item_reopened", "phase_seen")


@dataclass(frozen=True, slots=True, kw_only=True)
class Done:
    """An item that was confirmed: when, by which event, what was shown, and whether data alone said so."""

    at_s: float
    event: str
    shown: float | str | None = None
    by_data: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Aside:
    """An item that was not done for a reason: deferred, skipped or not applicable."""

    how: str
    reason: str
    at_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """What the pilot and the data have said of the lists so far. Items, lists, phases and facts by their ids."""

    done: Mapping[str, Done] = field(default_factory=dict)
    aside: Mapping[str, Aside] = field(default_factory=dict)
    reopened: Mapping[str, str] = field(default_factory=dict)
    measured: Mapping[str, float] = field(default_factory=dict)
    timers: Mapping[str, float] = field(default_factory=dict)
    counts: Mapping[str, float] = field(default_factory=dict)
    flows: frozenset[str] = frozenset()
    styles: Mapping[str, str] = field(default_factory=dict)
    facts: Mapping[str, Any] = field(default_factory=dict)
    pauses: tuple[tuple[float, float | None], ...] = ()
    briefed_s: float | None = None
    is_short: bool = False
    seen_phase: str | None = None

    @property
    def is_paused(self) -> bool:
        """Whether the pilot was interrupted and has not come back."""
        return bool(self.pauses) and self.pauses[-1][1] is None


def _without(rows: Mapping[str, Any], name: str) -> dict[str, Any]:
    return {key: value for key, value in rows.items() if key != name}


def step(progress: Progress, kind: str, body: Mapping[str, Any], at_s: float, event_id: str) -> Progress:
    """Return the progress after one event of `KINDS`; a repeat of the same event changes nothing more. Times in seconds [s]."""
    item = str(body.get("item", ""))
    match kind:
        case "item_done":
            done = Done(at_s=at_s, event=event_id, shown=body.get("shown"), by_data=bool(body.get("by_data")))
            return replace(
                progress,
                done={**progress.done, item: done},
                aside=_without(progress.aside, item),
                reopened=_without(progress.reopened, item),
            )
        case "item_set_aside":
            aside = Aside(how=str(body["how"]), reason=str(body["reason"]), at_s=at_s)
            return replace(
                progress,
                aside={**progress.aside, item: aside},
                done=_without(progress.done, item),
                reopened=_without(progress.reopened, item),
            )
        case "item_taken_up":
            return replace(progress, aside=_without(progress.aside, item))
        case "item_reopened":
            if item not in progress.done:
                return progress
            reopened = {**progress.reopened, item: str(body.get("note", ""))}
            return replace(progress, done=_without(progress.done, item), reopened=reopened)
        case "item_measured":
            return replace(progress, measured={**progress.measured, item: float(body["value"])})
        case "timer_started":
            return replace(progress, timers={**progress.timers, item: at_s})
        case "counted":
            count = max(progress.counts.get(item, 0) + float(body.get("by", 1)), 0)
            return replace(progress, counts={**progress.counts, item: count})
        case _:
            return _step_lists(progress, kind, body, at_s)


def _step_lists(progress: Progress, kind: str, body: Mapping[str, Any], at_s: float) -> Progress:
    match kind:
        case "flow_done":
            return replace(progress, flows=progress.flows | {str(body["list"])})
        case "list_style":
            return replace(progress, styles={**progress.styles, str(body["list"]): str(body["style"])})
        case "fact":
            return replace(progress, facts={**progress.facts, str(body["name"]): body["value"]})
        case "interrupted" if not progress.is_paused:
            return replace(progress, pauses=(*progress.pauses, (at_s, None)))
        case "resumed" if progress.is_paused:
            return replace(progress, pauses=(*progress.pauses[:-1], (progress.pauses[-1][0], at_s)))
        case "briefing_read":
            return replace(progress, briefed_s=at_s)
        case "phase_seen":
            return replace(progress, seen_phase=str(body["phase"]))
    return progress


def applies(only_if: tuple[Condition, ...], known: Mapping[str, Any]) -> bool:
    """Say whether something with these conditions is part of the list. What is not known is not left out silently."""
    return all(condition.holds(known) is not False for condition in only_if)


def lists_of(phase: Phase, known: Mapping[str, Any]) -> tuple[Checklist, ...]:
    """Return the lists of a phase that apply, each with the items that apply; an empty list is left out."""
    made = (_as_it_applies(one, known) for one in phase.lists if applies(one.only_if, known))
    return tuple(one for one in made if one.items)


def _as_it_applies(one: Checklist, known: Mapping[str, Any]) -> Checklist:
    """Return a list with the items that apply: mostly the list itself, which every frame asks for thirty times."""
    if one.is_for_all:
        return one
    items = tuple(item for item in one.items if not item.only_if or applies(item.only_if, known))
    return one if len(items) == len(one.items) else replace(one, items=items)


# levers without which no engine starts (common practice); the rest of a list can be read another time, on a simulated engine
_STARTING_LEVERS = ("master", "mag", "lane_a", "lane_b", "starter", "energise", "mesh", "mixture", "throttle", "primer",
                    "primer_unlocked", "pump", "tank", "ground_power")  # fmt: skip
_STARTING_WATCHES = ("day", "prime", "start")


def starts_it(item: Item) -> bool:
    """Say whether an item is one of the few that start the engine: its levers, its prime, the day that says which start it is, oil
    pressure, and what warns of the propeller."""
    own = engine_of(item.lever)[1] if item.lever else None
    is_oil = item.reading is not None and engine_of(item.reading.signal)[1] == "oil_p_psi"
    return bool(own in _STARTING_LEVERS or (item.watch in _STARTING_WATCHES) or item.counts or is_oil or item.caution)


def only_what_starts(profile: Profile, progress: Progress, at_s: float) -> Progress:
    """Return the progress with everything of the lists before and at the start put aside that does not start the engine."""
    phases = [phase for phase in profile.phases if phase.kind.name in (BEFORE_START, START)]
    rest = [
        item.id
        for item in (item for phase in phases for item in phase.items)
        if not starts_it(item) and item.id not in progress.done and item.id not in progress.aside
    ]
    aside = {name: Aside(how=SKIPPED, reason="only what starts it", at_s=at_s) for name in rest}
    return replace(progress, aside={**progress.aside, **aside}, is_short=True)


def is_open(progress: Progress, item: Item) -> bool:
    """Say whether an item still keeps its list from being complete."""
    aside = progress.aside.get(item.id)
    return item.id not in progress.done and not (aside and aside.how == NOT_APPLICABLE)


def open_items(phase: Phase, progress: Progress, known: Mapping[str, Any]) -> tuple[Item, ...]:
    """Return the open items of a phase, in order: a list with one of them is not complete."""
    return tuple(item for one in lists_of(phase, known) for item in one.items if is_open(progress, item))


def deferred_to(profile: Profile, phase: Phase, progress: Progress, known: Mapping[str, Any]) -> tuple[Item, ...]:
    """Return the items of earlier phases that were deferred and come back here, at their gate. One without a gate
    comes back before take-off."""
    if not any(aside.how == DEFERRED for aside in progress.aside.values()):
        return ()
    place = profile.place(phase.id)
    before = max(profile.place(profile.take_off.phase) - 1, 0)
    back = []
    for earlier in profile.phases[:place]:
        for item in open_items(earlier, progress, known):
            aside = progress.aside.get(item.id)
            gate = profile.place(item.gate) if item.gate else max(before, profile.place(earlier.id) + 1)
            if aside and aside.how == DEFERRED and place >= gate:
                back.append(item)
    return tuple(back)


def waiting_items(profile: Profile, phase: Phase, progress: Progress, known: Mapping[str, Any]) -> tuple[Item, ...]:
    """Return the items to work through now, in order: what came back at this gate, then what is open and not set
    aside."""
    own = tuple(item for item in open_items(phase, progress, known) if item.id not in progress.aside)
    return deferred_to(profile, phase, progress, known) + own


def killers_due(
    profile: Profile, phase: Phase, progress: Progress, known: Mapping[str, Any], now_s: float
) -> tuple[tuple[Item, str], ...]:
    """Return the killer items that are due again before take-off, each with the reason in words.

    One is due when it was confirmed longer ago than the profile's delay and either an interruption came after it, or
    the phase before take-off has been reached.
    """
    place, delay_s = profile.place(phase.id), profile.killer_delay_s
    last = profile.place(profile.take_off.phase) - 1
    if place > last or progress.is_paused:
        return ()
    due = []
    for earlier in profile.phases[: place + 1]:
        for item in (item for one in lists_of(earlier, known) for item in one.items if item.killer):
            done = progress.done.get(item.id)
            if done is None or now_s - done.at_s <= delay_s:
                continue
            away_s = sum(
                (end or now_s) - max(start, done.at_s) for start, end in progress.pauses if (end or now_s) > done.at_s
            )
            minutes = round((now_s - done.at_s) / 60)
            if away_s > 0:
                due.append((item, f"You were interrupted; it was confirmed {minutes} min ago."))
            elif place == last:
                due.append((item, f"Confirmed {minutes} min ago; after {delay_s / 60:.0f} min it is read again."))
    return tuple(due)
