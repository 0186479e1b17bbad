"""The lists as the screen shows them: the item of this moment, every line of the phase, what is due, late or away."""

from collections.abc import Mapping
from typing import Any

from ..aircraft import Item, Profile, Reading
from ..aircraft.lists import FLOW_THEN_VERIFY, READ_AND_DO, TWO_PEOPLE
from ..flight.fold import FlightState, open_items, proofs, starting_engine
from ..live.following import Now, all_known
from ..procedure import gates, notice
from ..procedure.briefing import briefing_due, compose_briefing
from ..procedure.progress import NOT_APPLICABLE, killers_due, lists_of, waiting_items
from .instruments import unit_of, with_derived

_NEXT_SHOWN = 2


def reading_shown(reading: Reading, now: Now | None) -> tuple[float | str | None, bool | None]:
    """Return (what is shown, whether it is as expected); None where there is no reading."""
    if now is None:
        return None, None
    values: Mapping[str, float | str] = {**with_derived(now.readings), **now.levers}
    value = values.get(reading.signal)
    return value, reading.holds(value)


def due_items(profile: Profile, state: FlightState, now_s: float) -> tuple[tuple[Item, str], ...]:
    """Return the killer items that are due again, each with why."""
    return killers_due(profile, profile.phase(state.phase), state.progress, state.known, now_s)


def waiting(profile: Profile, state: FlightState, now_s: float) -> tuple[Item, ...]:
    """Return the items to work through now: killer items due again, what came back at this gate, what is open."""
    due = tuple(item for item, _ in due_items(profile, state, now_s))
    return due + waiting_items(profile, profile.phase(state.phase), state.progress, state.known)


def current_item(profile: Profile, state: FlightState, now_s: float) -> Item | None:
    """Return the item of this moment, or None when nothing waits (which is not the same as a complete list)."""
    return next(iter(waiting(profile, state, now_s)), None)


def describe_item(profile: Profile, item: Item, state: FlightState, now: Now | None, now_s: float) -> dict[str, Any]:
    """Return an item with its live reading, its expectation, its clock or count, and its check's last finding."""
    shown, as_expected = reading_shown(item.reading, now) if item.reading else (None, None)
    reading, progress = item.reading, state.progress
    why_again = next((why for due, why in due_items(profile, state, now_s) if due.id == item.id), None)
    started = progress.timers.get(item.id)
    measured = progress.measured.get(item.id)
    unsure = [c.words for c in item.only_if if c.holds(state.known) is None]
    return {
        **{name: getattr(item, name) for name in ("id", "challenge", "response", "why", "caution", "lever", "check")},
        **{name: getattr(item, name) for name in ("manual", "watch", "where", "mistaken_for", "killer", "hold_s")},
        **{name: getattr(item, name) for name in ("count_to", "count_of", "engine")},
        "engine_name": dict(profile.engines).get(item.engine),
        "counts": state.engine(item.engine or starting_engine(profile, state)).primed if item.counts else None,
        "count": progress.counts.get(item.id, 0) if item.count_to else None,
        "held_left_s": None
        if item.hold_s is None or started is None
        else max(round(item.hold_s - (now_s - started), 1), 0),
        "measure": _measure(item, measured),
        "unit": unit_of(reading.signal) if reading else None,
        "shown": shown,
        "lowest": reading.lowest if reading else None,
        "highest": reading.highest if reading else None,
        "as_expected": as_expected,
        "finding": state.latest_finding(item.check, item.engine or None) if item.check else None,
        "again": why_again,
        "note": progress.reopened.get(item.id),
        "only_if": f"Only if {', '.join(unsure)} (not said yet)." if unsure else None,
        "from_phase": next((p.title for p in profile.phases if item in p.items and p.id != state.phase), None),
    }


def _measure(item: Item, value: float | None) -> dict[str, Any] | None:
    if item.measure is None:
        return None
    reading = Reading(signal="", lowest=item.measure.lowest, highest=item.measure.highest)
    return {
        "title": item.measure.title,
        "unit": item.measure.unit,
        "lowest": item.measure.lowest,
        "highest": item.measure.highest,
        "value": value,
        "within": reading.holds(value),
    }


def describe_lists(profile: Profile, state: FlightState, now_s: float) -> list[dict[str, Any]]:
    """Return the phase's lists, every item as one line with its state, its age and what was shown when confirmed."""
    progress, rows = state.progress, []
    for one in lists_of(profile.phase(state.phase), state.known):
        lines = [_line(profile, state, item, now_s) for item in one.items]
        missing = [line["challenge"] for line in lines if line["state"] not in ("done", NOT_APPLICABLE)]
        rows.append(
            {
                "id": one.id,
                "title": one.title,
                "style": progress.styles.get(one.id, one.style),
                "flow": list(one.flow),
                "flow_done": one.id in progress.flows or len(missing) < len(lines),
                "memory": one.memory,
                "items": lines,
                "missing": missing,
            }
        )
    return rows


def _line(profile: Profile, state: FlightState, item: Item, now_s: float) -> dict[str, Any]:
    progress = state.progress
    done, aside = progress.done.get(item.id), progress.aside.get(item.id)
    how = "done" if done else aside.how if aside else "reopened" if item.id in progress.reopened else "open"
    at_s = done.at_s if done else aside.at_s if aside else None
    return {
        "id": item.id,
        "challenge": item.challenge,
        "response": item.response,
        "state": how,
        "note": aside.reason if aside else progress.reopened.get(item.id),
        "age_s": None if at_s is None else round(now_s - at_s),
        "shown": done.shown if done else None,
        "unit": unit_of(item.reading.signal) if item.reading else None,
        "by_data": bool(done and done.by_data),
        "killer": item.killer,
    }


def describe_put_backs(profile: Profile, state: FlightState, now_s: float) -> list[dict[str, Any]]:
    """Return what was set for a moment and is still away, with its clock, and whether it keeps the phase open."""
    keeping = {p.id for p in notice.still_away(profile, state.phase, state.away, state.carried)}
    rows = []
    for pair in profile.put_backs:
        if pair.id not in state.away:
            continue
        seconds = max(now_s - state.away[pair.id], 0.0)
        rows.append(
            {
                "id": pair.id,
                "title": pair.title,
                "back": pair.back,
                "seconds": round(seconds),
                "overdue": seconds > pair.due_s and pair.id not in state.carried,
                "carried": pair.id in state.carried,
                "keeps_open": pair.id in keeping,
            }
        )
    return rows


def describe_notices(profile: Profile, state: FlightState, now: Now | None, now_s: float) -> dict[str, Any]:
    """Return what people forget: a phase that has begun, lists that are late, take-off power with something unproven,
    the briefing grown old, and what to do meanwhile."""
    known = all_known(state, now)
    begun = state.progress.seen_phase
    if begun is None or profile.place(begun) <= profile.place(state.phase):
        begun = None
    reached = begun or state.phase
    late = [
        row
        for row in notice.late_lists(profile, reached, state.progress, state.known)
        if row["phase"] != state.phase  # that one is on the screen
    ]
    missing = (
        notice.unproven(profile, state.progress, state.known, proofs(state))
        if notice.power_rises(profile, state.phase, known)
        else []
    )
    if missing or notice.power_rises(profile, state.phase, known):
        cold = gates.not_met(gates.gate_rows(profile, gates.TAKE_OFF, known))
        missing = [*missing, *(f"Not at its temperature: {words}" for words in cold)]
    todo = waiting(profile, state, now_s)
    other: tuple[Item, ...] = ()
    if todo and _takes_time(todo[0], state, now, now_s):
        other = notice.meanwhile(profile, state.phase, todo, state.progress, state.known)
    return {
        "begun": {"id": begun, "title": profile.phase(begun).title} if begun else None,
        "late": late,
        "unproven": missing,
        "briefing_due": briefing_due(profile, state.progress.briefed_s, state.phase, now_s),
        "low_rotor": notice.low_rotor(profile, known),
        "meanwhile": [{"id": i.id, "challenge": i.challenge, "response": i.response} for i in other],
    }


def _takes_time(item: Item, state: FlightState, now: Now | None, now_s: float) -> bool:
    if item.hold_s is not None:
        started = state.progress.timers.get(item.id)
        return started is not None and now_s - started < item.hold_s
    return item.reading is not None and item.reading.lowest is not None and reading_shown(item.reading, now)[1] is False


def describe_gates(profile: Profile, state: FlightState, now: Now | None) -> list[dict[str, Any]]:
    """Return the warm-up gates from the one of this phase on, with every temperature, while an engine runs and the
    take-off is still to come."""
    first = gates.gate_of_phase(profile, state.phase)
    if first is None or not state.engine_runs or now is None:
        return []
    readings, names = with_derived(now.readings), list(gates.GATES)
    shown = []
    for name in names[names.index(first) :]:
        rows = gates.gate_rows(profile, name, readings)
        if rows:
            said = gates.not_met(rows)
            shown.append({"gate": name, "title": gates.GATES[name], "open": not said, "not_met": said})
    return shown


def describe_briefing(profile: Profile, state: FlightState) -> dict[str, Any]:
    """Return the briefing's lines and when it was last read."""
    return {"lines": compose_briefing(profile, state.air), "read_s": state.progress.briefed_s}


def open_count(profile: Profile, state: FlightState, phase_id: str) -> tuple[int, int]:
    """Return (open items, all items that apply) of a phase."""
    whole = sum(len(one.items) for one in lists_of(profile.phase(phase_id), state.known))
    return len(open_items(profile, state, phase_id)), whole


def describe_step(profile: Profile, state: FlightState, lists: list[dict[str, Any]], now_s: float) -> dict[str, Any]:
    """Return the list that is worked on and what the one main button does: resume, flow, by_heart, answer, item,
    put_back, next_phase, end or record. A list by heart is confirmed as a whole, but a killer item, or one due again,
    always by itself."""
    todo = current_item(profile, state, now_s)
    holding = [one for one in lists if todo and any(line["id"] == todo.id for line in one["items"])]
    current = next(iter(holding or [one for one in lists if one["missing"]] or lists[-1:]), None)
    due = {item.id for item, _ in due_items(profile, state, now_s)}
    if state.ended:
        does = "record"
    elif state.progress.is_paused:
        does = "resume"
    elif todo is not None:
        does = "item"
        if holding and current:
            if current["style"] == FLOW_THEN_VERIFY and current["flow"] and not current["flow_done"]:
                does = "flow"
            elif current["style"] == TWO_PEOPLE:
                does = "answer"
            elif current["memory"] and current["style"] == READ_AND_DO and not todo.killer and todo.id not in due:
                does = "by_heart"
    elif notice.still_away(profile, state.phase, state.away, state.carried):
        does = "put_back"
    else:
        does = "next_phase" if profile.place(state.phase) + 1 < len(profile.phases) else "end"
    return {"does": does, "list": current["id"] if current else None}
