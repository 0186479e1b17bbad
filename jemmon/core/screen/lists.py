"""The lists as the screen shows them: the item of this moment, every line of the phase, what is due, late or away."""

from dataclasses import dataclass
from typing import Literal

from ..aircraft import Checklist, Item, Profile, Reading
from ..aircraft.lists import FLOW_THEN_VERIFY, READ_AND_DO, TWO_PEOPLE, control_of
from ..aircraft.phases import AFTER_LANDING, RUN_UP, SHUTDOWN
from ..flight.proofs import open_stops, stop_of_item, stop_words, unproven
from ..flight.state import FlightState, open_item_ids, starting_engine
from ..judgement.check import Field
from ..judgement.magneto import asks_burn_off
from ..judgement.registry import checks, title_of
from ..live.needles import all_known
from ..procedure import gates, notice
from ..procedure.briefing import briefing_due, compose_briefing
from ..procedure.progress import NOT_APPLICABLE, killers_due, lists_of, waiting_items
from ..trace.sample import Sample, with_hottest
from ..trace.signals import reading_row
from .findings import ShownFinding, shown_finding
from .instruments import unit_of
from .near import near_figures

Style = Literal["read_do", "flow_verify", "two"]
LineState = Literal["done", "open", "deferred", "skipped", "not_applicable", "reopened"]
Does = Literal[
    "stopped", "stop_stands", "resume", "flow", "by_heart", "answer", "item", "put_back", "next_phase", "end", "record"
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Named:
    """Something with an id and a title."""

    id: str
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ShortItem:
    """An item in a line: what is read out, what is answered."""

    id: str
    challenge: str
    response: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownMeasure:
    """A figure that the pilot reads off for an item, in its core unit, and whether it is within its limits."""

    title: str
    unit: str
    lowest: float | None
    highest: float | None
    value: float | None
    within: bool | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PadField:
    """A figure of a check that the number pad asks for, in its core unit; `drop_from` names the figure above it. `near` are figures
    that are likely, counted from the figure `near_from` where that is named."""

    name: str
    title: str
    unit: str
    kind: Literal["figure", "sides"]
    is_optional: bool
    drop_from: str | None
    near: tuple[float, ...]
    near_from: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownItem:
    """The item of this moment, with its live reading, its expectation, its clock or count, and its check's last finding;
    `control` is the name by which its control is marked on a photo of the panel."""

    id: str
    challenge: str
    response: str
    why: str
    caution: str | None
    lever: str | None
    check: str | None
    check_title: str | None
    manual: str | None
    fields: tuple[PadField, ...]
    watch: str | None
    where: str | None
    mistaken_for: str | None
    control: str
    killer: bool
    hold_s: float | None
    held_left_s: float | None
    count_to: float | None
    count_of: str | None
    count: float | None
    counts: float | None
    engine: int
    engine_name: str | None
    measure: ShownMeasure | None
    unit: str | None
    shown: float | str | None
    in_a_word: str | None
    lowest: float | None
    highest: float | None
    as_expected: bool | None
    confirms_itself: bool
    finding: ShownFinding | None
    again: str | None
    note: str | None
    only_if: str | None
    from_phase: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ListLine:
    """One line of a list: its state, how old it is [s], what was shown when it was confirmed. `by_word`: data could have shown it,
    and there were none: it is done by the pilot's word alone. `contradicted`: it was ticked against what was shown."""

    id: str
    challenge: str
    response: str
    state: LineState
    note: str | None
    age_s: int | None
    shown: float | str | None
    unit: str | None
    by_data: bool
    by_word: bool
    contradicted: bool
    needs_own_tap: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownList:
    """A list of the phase with all its lines; `missing` names those that keep it from being complete."""

    id: str
    title: str
    style: Style
    flow: tuple[str, ...]
    flow_done: bool
    memory: bool
    items: tuple[ListLine, ...]
    missing: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownPutBack:
    """A temporary setting that is still on, with its clock [s], and whether it keeps the phase open."""

    id: str
    title: str
    back: str
    seconds: int
    overdue: bool
    carried: bool
    keeps_open: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class LateList:
    """A list of an earlier phase with open items; `unread` when nobody read it."""

    list: str
    title: str
    phase: str
    unread: bool
    open: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Notices:
    """What people forget: a phase that has begun, lists that are late, take-off power with something unproven or a STOP that
    stands, the briefing grown old, a rotor that turns too slowly, and what to do meanwhile."""

    begun: Named | None
    late: tuple[LateList, ...]
    unproven: tuple[str, ...]
    stops: tuple[str, ...]
    briefing_due: str | None
    low_rotor: str | None
    meanwhile: tuple[ShortItem, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownGate:
    """A warm-up gate: whether it is open, what keeps it shut, and the minutes left where it is on its way."""

    gate: str
    title: str
    open: bool
    not_met: tuple[str, ...]
    minutes: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownBriefing:
    """The take-off briefing line by line, and when it was read [s]."""

    lines: tuple[str, ...]
    read_s: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class MainStep:
    """What the one main button does, and the list that is worked on; `say` is its word where it is of this moment, `to` the phase
    that it goes to; `doubtful` where the needles contradict what it would tick; `small` while power is lost: nothing large then
    leads on."""

    does: Does
    list: str | None
    say: str = ""
    to: str | None = None
    doubtful: bool = False
    small: bool = False


def reading_shown(reading: Reading, now: Sample | None) -> tuple[float | str | None, bool | None]:
    """Return (what is shown, whether it is as expected); None where there is no reading."""
    if now is None:
        return None, None
    _, value, as_expected = reading.worst(now.known)
    return _as_shown(value), as_expected


def _as_shown(value: float | str | None) -> float | str | None:
    return value if value is None or isinstance(value, str) else float(value)


def _in_a_word(item: Item, value: float | str | None) -> str | None:
    """Return what an item's switch or light shows, as it is read out; None of anything else."""
    row = reading_row(item.reading.signal) if item.reading else None
    return row.read_out(value) if row and row.words and value is not None else None


def due_items(profile: Profile, state: FlightState, now_s: float) -> tuple[tuple[Item, str], ...]:
    """Return the killer items that are due again at flight time `now_s` [s], each with why."""
    return killers_due(profile, profile.phase(state.phase), state.progress, state.known, now_s)


def waiting(profile: Profile, state: FlightState, now_s: float) -> tuple[Item, ...]:
    """Return the items to work through now: killer items due again, what came back at this gate, what is open. Flight time
    `now_s` [s]."""
    due = tuple(item for item, _ in due_items(profile, state, now_s))
    return due + waiting_items(profile, profile.phase(state.phase), state.progress, state.known)


def current_item(profile: Profile, state: FlightState, now_s: float) -> Item | None:
    """Return the item of this moment, or None when nothing waits (which is not the same as a complete list). Flight time
    `now_s` [s]."""
    return next(iter(waiting(profile, state, now_s)), None)


def short_item(item: Item) -> ShortItem:
    """Return an item in a line."""
    return ShortItem(id=item.id, challenge=item.challenge, response=item.response)


def _pad_field(profile: Profile, check: str, field: Field) -> PadField:
    is_back = field.name == "restored_rpm"
    return PadField(
        name=field.name,
        title=field.title,
        unit=field.unit,
        kind=field.kind,
        is_optional=field.is_optional,
        drop_from=field.drop_from,
        near=near_figures(profile, check, field.name),
        near_from="base_rpm" if is_back else field.drop_from,
    )


def describe_item(profile: Profile, item: Item, state: FlightState, now: Sample | None, now_s: float) -> ShownItem:
    """Return an item with its live reading, its expectation, its clock or count, and its check's last finding."""
    shown, as_expected = reading_shown(item.reading, now) if item.reading else (None, None)
    reading, progress = item.reading, state.progress
    unsure = [c.words for c in item.only_if if c.holds(state.known) is None]
    last = state.latest_finding(item.check, item.engine or None) if item.check else None
    typed = checks().get(item.manual) if item.manual else None
    return ShownItem(
        id=item.id,
        challenge=item.challenge,
        response=item.response,
        why=item.why,
        caution=item.caution,
        lever=item.lever,
        check=item.check,
        check_title=title_of(item.check) if item.check else None,
        manual=item.manual if typed else None,
        fields=tuple(_pad_field(profile, typed.kind, field) for field in typed.fields) if typed else (),
        watch=item.watch,
        where=item.where,
        mistaken_for=item.mistaken_for,
        control=control_of(item),
        killer=item.killer,
        hold_s=item.hold_s,
        held_left_s=_held_left_s(item, state, now_s),
        count_to=item.count_to,
        count_of=item.count_of,
        count=progress.counts.get(item.id, 0) if item.count_to else None,
        counts=state.engine(item.engine or starting_engine(profile, state)).primed if item.counts else None,
        engine=item.engine,
        engine_name=dict(profile.engines).get(item.engine),
        measure=_measure(item, progress.measured.get(item.id)),
        unit=profile.units.of(reading.signal, unit_of(reading.signal)) if reading else None,
        shown=shown,
        in_a_word=_in_a_word(item, shown),
        lowest=reading.lowest if reading else None,
        highest=reading.highest if reading else None,
        as_expected=as_expected,
        confirms_itself=item.seen_is_enough,
        finding=shown_finding(profile, last) if last else None,
        again=next((why for due, why in due_items(profile, state, now_s) if due.id == item.id), None),
        note=progress.reopened.get(item.id),
        only_if=f"{', '.join(_question(words) for words in unsure)}?" if unsure else None,
        from_phase=next((p.title for p in profile.phases if item in p.items and p.id != state.phase), None),
    )


def _question(words: str) -> str:
    return words[:1].upper() + words[1:]


def _held_left_s(item: Item, state: FlightState, now_s: float) -> float | None:
    started = state.progress.timers.get(item.id)
    if item.hold_s is None or started is None:
        return None
    return max(round(item.hold_s - (now_s - started), 1), 0)


def _measure(item: Item, value: float | None) -> ShownMeasure | None:
    if item.measure is None:
        return None
    own = item.measure
    within = Reading(signal="", lowest=own.lowest, highest=own.highest).holds(value)
    return ShownMeasure(
        title=own.title, unit=own.unit, lowest=own.lowest, highest=own.highest, value=value, within=within
    )


def describe_lists(profile: Profile, state: FlightState, now_s: float) -> tuple[ShownList, ...]:
    """Return the phase's lists, every item as one line with its state, its age and what was shown when confirmed."""
    lists = lists_of(profile.phase(state.phase), state.known)
    return tuple(_shown_list(profile, state, one, now_s) for one in lists)


def _shown_list(profile: Profile, state: FlightState, one: Checklist, now_s: float) -> ShownList:
    progress = state.progress
    lines = tuple(_line(profile, state, item, now_s) for item in one.items)
    missing = tuple(line.challenge for line in lines if line.state not in ("done", NOT_APPLICABLE))
    style: Style = progress.styles.get(one.id, one.style)  # type: ignore[assignment]
    return ShownList(
        id=one.id,
        title=one.title,
        style=style,
        flow=one.flow,
        flow_done=one.id in progress.flows or any(line.state != "open" and not line.by_data for line in lines),
        memory=one.memory,
        items=lines,
        missing=missing,
    )


def _line(profile: Profile, state: FlightState, item: Item, now_s: float) -> ListLine:
    progress = state.progress
    done, aside = progress.done.get(item.id), progress.aside.get(item.id)
    how = "done" if done else aside.how if aside else "reopened" if item.id in progress.reopened else "open"
    at_s = done.at_s if done else aside.at_s if aside else None
    return ListLine(
        id=item.id,
        challenge=item.challenge,
        response=item.response,
        state=how,  # type: ignore[arg-type]
        note=aside.reason if aside else progress.reopened.get(item.id),
        age_s=None if at_s is None else round(now_s - at_s),
        shown=_as_shown(done.shown) if done else None,
        unit=profile.units.of(item.reading.signal, unit_of(item.reading.signal)) if item.reading else None,
        by_data=bool(done and done.by_data),
        by_word=bool(done and done.shown is None and (item.reading or item.check) and not _is_measured(state, item)),
        contradicted=bool(done and not done.by_data and item.reading and item.reading.holds(done.shown) is False),
        needs_own_tap=item.needs_own_tap,
    )


def _is_measured(state: FlightState, item: Item) -> bool:
    return item.check is not None and state.latest_finding(item.check, item.engine or None) is not None


def describe_put_backs(profile: Profile, state: FlightState, now_s: float) -> tuple[ShownPutBack, ...]:
    """Return the temporary settings that are still on, with its clock, and whether it keeps the phase open. Flight time
    `now_s` [s]."""
    keeping = {p.id for p in notice.still_away(profile, state.phase, state.away, state.carried)}
    rows = []
    for pair in profile.put_backs:
        if pair.id not in state.away:
            continue
        seconds, carried = max(now_s - state.away[pair.id], 0.0), pair.id in state.carried
        rows.append(
            ShownPutBack(
                id=pair.id,
                title=pair.title,
                back=pair.back,
                seconds=round(seconds),
                overdue=seconds > pair.due_s and not carried,
                carried=carried,
                keeps_open=pair.id in keeping,
            )
        )
    return tuple(rows)


def describe_notices(profile: Profile, state: FlightState, now: Sample | None, now_s: float) -> Notices:
    """Return what people forget. Flight time `now_s` [s]."""
    known = all_known(state, now)
    begun = state.progress.seen_phase
    if begun is None or profile.place(begun) <= profile.place(state.phase):
        begun = None
    is_part = (
        state.drill is not None
    )  # a drill begins in the middle of a flight: what comes before it was not asked for
    rows = [] if is_part else notice.late_lists(profile, begun or state.phase, state.progress, state.known)
    todo = waiting(profile, state, now_s)
    other: tuple[Item, ...] = ()
    if todo and _takes_time(todo[0], state, now, now_s):
        other = notice.meanwhile(profile, state.phase, todo, state.progress, state.known)
    return Notices(
        begun=Named(id=begun, title=profile.phase(begun).title) if begun else None,
        late=tuple(  # the list of this phase is on the screen
            LateList(**{**row, "open": tuple(row["open"])}) for row in rows if row["phase"] != state.phase
        ),
        unproven=() if is_part else _unproven(profile, state, known),
        stops=stop_words(profile, state) if notice.power_rises(profile, state.phase, known) else (),
        briefing_due=briefing_due(profile, state.progress.briefed_s, state.phase, now_s),
        low_rotor=notice.low_rotor(profile, known),
        meanwhile=tuple(short_item(item) for item in other),
    )


def _unproven(profile: Profile, state: FlightState, known: dict[str, object]) -> tuple[str, ...]:
    if not notice.power_rises(profile, state.phase, known):
        return ()
    missing = unproven(profile, state, known)
    figures = {name: value for name, value in known.items() if isinstance(value, float)}
    cold = gates.not_met(gates.gate_rows(profile, gates.TAKE_OFF, figures))
    return (*missing, *cold)


def _takes_time(item: Item, state: FlightState, now: Sample | None, now_s: float) -> bool:
    if item.hold_s is not None:
        started = state.progress.timers.get(item.id)
        return started is not None and now_s - started < item.hold_s
    return item.reading is not None and item.reading.lowest is not None and reading_shown(item.reading, now)[1] is False


def describe_gates(
    profile: Profile, state: FlightState, now: Sample | None, minutes: dict[str, int]
) -> tuple[ShownGate, ...]:
    """Return the warm-up gates from the one of this phase on, with every temperature, while an engine runs and the
    take-off is still to come; `minutes` are those left by gate, where known."""
    first = gates.gate_of_phase(profile, state.phase)
    if first is None or not state.engine_runs or now is None:
        return ()
    readings, names = with_hottest(now.readings), list(gates.GATES)
    shown = []
    for name in names[names.index(first) :]:
        rows = gates.gate_rows(profile, name, readings)
        if rows:
            said = tuple(gates.not_met(rows))
            title = gates.GATES[name]
            shown.append(ShownGate(gate=name, title=title, open=not said, not_met=said, minutes=minutes.get(name)))
    return tuple(shown)


def describe_briefing(profile: Profile, state: FlightState) -> ShownBriefing:
    """Return the briefing's lines and when it was last read."""
    return ShownBriefing(lines=tuple(compose_briefing(profile, state.air)), read_s=state.progress.briefed_s)


def open_count(profile: Profile, state: FlightState, phase_id: str) -> tuple[int, int]:
    """Return (open items, all items that apply) of a phase."""
    whole = sum(len(one.items) for one in lists_of(profile.phase(phase_id), state.known))
    return len(open_item_ids(profile, state, phase_id)), whole


def describe_step(
    profile: Profile, state: FlightState, lists: tuple[ShownList, ...], now: Sample | None, now_s: float
) -> MainStep:
    """Return the list that is worked on and what the one main button does. A list by heart is confirmed as a whole, but a killer
    item, or one due again, always by itself."""
    todo = current_item(profile, state, now_s)
    holding = [one for one in lists if todo and any(line.id == todo.id for line in one.items)]
    current = next(iter(holding or [one for one in lists if one.missing] or lists[-1:]), None)
    does = _does(profile, state, todo, current if holding else None, now_s)
    own = current.id if current else None
    if does == "stopped" and todo is not None:
        return MainStep(does=does, list=own, say=_said_at_stop(profile, state, todo))
    if does == "stop_stands" and (back := _taxi_back(profile)) is not None:
        return MainStep(does=does, list=own, say="Taxi back", to=back)
    if (
        does in ("item", "answer")
        and todo is not None
        and todo.reading
        and reading_shown(todo.reading, now)[1] is False
    ):
        return MainStep(does=does, list=own, say=f"Not {todo.reading.word or 'there'} yet: tick anyway", doubtful=True)
    return MainStep(does=does, list=own)


def _said_at_stop(profile: Profile, state: FlightState, item: Item) -> str:
    """Return what the main button offers after a STOP: the burn-off and then the check, or the check alone."""
    finding = stop_of_item(state, item)
    tried = state.burn_off(int(finding.get("engine", 1))).burnt_off_s > float(finding["end_s"]) if finding else True
    burns = finding is not None and finding["kind"] == "mag_check" and asks_burn_off(finding) and not tried
    return "Burn off, check again" if burns else "Check again"


def _taxi_back(profile: Profile) -> str | None:
    """Return the phase that a flight which ends before it began goes on with, or None where the profile has none."""
    return next(
        (phase.id for kind in (AFTER_LANDING, SHUTDOWN) for phase in profile.phases if phase.kind.name == kind), None
    )


def _does(profile: Profile, state: FlightState, todo: Item | None, current: ShownList | None, now_s: float) -> Does:
    if state.ended:
        return "record"
    if state.progress.is_paused:
        return "resume"
    if todo is not None:
        return _does_item(profile, state, todo, current, now_s)
    if notice.still_away(profile, state.phase, state.away, state.carried):
        return "put_back"
    if profile.kind_of(state.phase).name == RUN_UP and open_stops(state):
        return "stop_stands"  # of the run-up: nothing large leads from its card to the take-off
    return "next_phase" if profile.place(state.phase) + 1 < len(profile.phases) else "end"


def _does_item(profile: Profile, state: FlightState, todo: Item, current: ShownList | None, now_s: float) -> Does:
    if stop_of_item(state, todo) is not None:
        return "stopped"  # nothing large leads on
    if current is None:
        return "item"
    if current.style == FLOW_THEN_VERIFY and current.flow and not current.flow_done:
        return "flow"
    if current.style == TWO_PEOPLE:
        return "answer"
    is_due = any(item.id == todo.id for item, _ in due_items(profile, state, now_s))
    verifies = current.style == FLOW_THEN_VERIFY and bool(
        current.flow
    )  # what the hands did is read against the list at once
    as_a_whole = verifies or current.memory and current.style == READ_AND_DO
    return "by_heart" if as_a_whole and not todo.needs_own_tap and not is_due else "item"
