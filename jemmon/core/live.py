"""What the samples of a running flight mean, as events, and what the screen shows of them. Pure: samples and state in.

The judgement is that of recorded traces (`judge`), called on the last minutes; a finding becomes an event once it can
no longer change by waiting a little. Ids are made from the flight, the kind and the first sample, so that a restart
does not make an event twice.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from .aircraft import Profile, PutBack, Reading
from .flight import Event, FlightState, proofs
from .judgement import Finding, judge
from .judgement.mixture import fit_leaning, leaning_spans
from .judgement.start import oil_pressure_limit_s
from .judgement.start_advice import TOO_LITTLE, Attempt, StartAdvice, advise_start
from .procedure.notice import minutes_left, phase_begun, power_rises, unproven
from .procedure.progress import lists_of, waiting_items
from .trace import Trace

_STOPPED_RPM = 50.0
_SETTLED_AFTER_S = {
    "mag_check": 2.0,
    "carb_heat_check": 4.0,
    "idle_check": 1.0,
    "start": 0.0,
    "warm_up": 5.0,
    "lean": 8.0,
}
_HALF_CHECK_AFTER_S = 60.0
_SAME_START_S = 8.0
_CONTRADICTS_AFTER_S = 2.0  # a lever takes a moment to move what it was just confirmed for
_SLOPE_OVER_S = 60.0
_A_TRY_S, _RUNS_AGAIN_RPM = 2.0, 300.0  # a shorter push of the starter is no attempt


@dataclass(frozen=True, slots=True, kw_only=True)
class Now:
    """The newest sample: flight time, readings by trace column, levers by name (`mag` a word)."""

    at_s: float
    readings: Mapping[str, float]
    levers: Mapping[str, float | str]


def with_derived(readings: Mapping[str, float]) -> dict[str, float]:
    """Return the readings with `cht_max_f`, the hottest head, added where there are head temperatures."""
    heads = [value for name, value in readings.items() if name.startswith("cht")]
    return {**readings, "cht_max_f": max(heads)} if heads else dict(readings)


def all_known(state: FlightState, now: Now | None) -> dict[str, Any]:
    """Return everything that a condition may ask for: facts of the day, readings and levers of this moment."""
    return {**state.known, **(with_derived(now.readings) | dict(now.levers) if now else {})}


def follow_needles(flight_id: str, profile: Profile, state: FlightState, now: Now) -> list[Event]:
    """Return the events that one new sample makes: put-backs, first fire, oil pressure, stopped."""
    made: list[tuple[str, dict[str, Any]]] = []
    for put_back in profile.put_backs:
        position = now.levers.get(put_back.lever) if put_back.lever else None
        if position is None:
            continue
        away = _is_away(put_back, position, state)
        if away != (put_back.id in state.away):
            made.append(("put_back_away" if away else "put_back_back", {"put_back": put_back.id}))
    rpm = now.readings.get("rpm", now.readings.get("rpm_pct"))
    if rpm is not None:
        made += _engine_events(profile, state, now, rpm)
    if ("put_back_back", {"put_back": "starter"}) in made and not state.engine_runs and (rpm or 0) < _RUNS_AGAIN_RPM:
        cranked_s = now.at_s - state.away["starter"]
        if cranked_s >= _A_TRY_S:
            made.append(("start_failed", {"cranking_s": round(cranked_s, 1), **_how_started(state, now)}))
    made += _list_events(profile, state, now)
    return [
        Event(id=f"{flight_id}:{kind}:{_about(body)}:{now.at_s:.2f}", kind=kind, at_s=now.at_s, body=body)
        for kind, body in made
    ]


def _about(body: Mapping[str, Any]) -> str:
    return str(body.get("put_back") or body.get("item") or body.get("phase") or "")


def _is_away(put_back: PutBack, position: float | str, state: FlightState) -> bool:
    return put_back.is_away(position, state.phase) and (state.engine_runs or not put_back.needs_engine)


def _list_events(profile: Profile, state: FlightState, now: Now) -> list[tuple[str, dict[str, Any]]]:
    """Return what the needles say of the lists: a phase that has begun, an item that data alone confirm, one that they
    contradict, take-off power with something unproven."""
    made: list[tuple[str, dict[str, Any]]] = []
    known = all_known(state, now)
    begun = phase_begun(profile, state.phase, known)
    seen = state.progress.seen_phase
    if begun and (seen is None or profile.place(begun) > profile.place(seen)):
        made.append(("phase_seen", {"phase": begun}))
    phase = profile.phase(state.phase)
    first = next(iter(waiting_items(profile, phase, state.progress, state.known)), None)
    if first and first.seen_is_enough and first.reading and first.reading.holds(known.get(first.reading.signal)):
        made.append(("item_seen", {"item": first.id, "shown": known[first.reading.signal]}))
    for item in (item for one in lists_of(phase, state.known) for item in one.items):
        done = state.progress.done.get(item.id)
        if not item.holds or item.reading is None or done is None or now.at_s - done.at_s < _CONTRADICTS_AFTER_S:
            continue
        value = known.get(item.reading.signal)
        if item.reading.holds(value) is False:
            figure = value if isinstance(value, str) else f"{value:.4g}"
            note = f"Confirmed as “{item.response}”, but {item.reading.signal.replace('_', ' ')} shows {figure}."
            made.append(("item_reopened", {"item": item.id, "note": note}))
    if power_rises(profile, state.phase, known):
        missing = unproven(profile, state.progress, state.known, proofs(state))
        if missing and tuple(missing) != state.warned:
            made.append(("take_off_unproven", {"missing": missing}))
    return made


def _engine_events(profile: Profile, state: FlightState, now: Now, rpm: float) -> list[tuple[str, dict[str, Any]]]:
    if not state.engine_runs:
        if rpm > profile.limit("rpm_firing_min"):
            oat = now.readings.get("oat_f")
            limit_s = oil_pressure_limit_s(profile, None if oat is None else (oat - 32) / 1.8)
            return [("engine_fired", {"limit_s": limit_s, **_how_started(state, now)})]
        return []
    if rpm < _STOPPED_RPM:
        return [("engine_stopped", {})]
    clock, pressure = state.oil_clock, now.readings.get("oil_p_psi")
    if clock is None or clock.verdict == "seen":
        return []
    waited_s = now.at_s - clock.since_s
    if pressure is not None and pressure >= profile.limit("oil_pressure_min_psi"):
        return [("oil_pressure_seen", {"seconds": round(waited_s, 2)})]
    if waited_s > clock.limit_s and clock.verdict == "running":
        return [("oil_pressure_missing", {"limit_s": clock.limit_s})]
    return []


def _how_started(state: FlightState, now: Now) -> dict[str, Any]:
    """Return how warm the metal is [°C] and the strokes given so far: what the advice for the next start learns from."""
    readings = with_derived(now.readings)
    outside, heads = readings.get("oat_f"), readings.get("cht_max_f")
    warmest = max((t for t in (outside, heads) if t is not None), default=None)
    if warmest is None:
        return {}
    return {"metal_c": round((warmest - 32) / 1.8, 1), "strokes": state.strokes}


def start_advice(
    profile: Profile, state: FlightState, now: Now | None, history: Sequence[Attempt]
) -> StartAdvice | None:
    """Return the advice for the start that is coming, or None where the engine runs, the profile has no prime table, or
    nothing tells the temperature."""
    if state.engine_runs or not profile.prime:
        return None
    readings = with_derived(now.readings) if now else {}
    outside_f = readings.get("oat_f")
    outside_c = (outside_f - 32) / 1.8 if outside_f is not None else state.known.get("oat_c")
    if outside_c is None:
        return None
    tries = [body for body in state.tries if "strokes" in body]
    return advise_start(
        profile,
        float(outside_c),
        history,
        oil_t_f=readings.get("oil_t_f"),
        cht_f=readings.get("cht_max_f"),
        stood_h=state.known.get("stood_h"),
        now=[Attempt(metal_c=body["metal_c"], strokes=body["strokes"], outcome=TOO_LITTLE) for body in tries],
    )


def follow_checks(flight_id: str, profile: Profile, state: FlightState, recent: Trace) -> list[Event]:
    """Return a `finding` event for each check in the last minutes that is complete and not yet told."""
    if len(recent) < 8:
        return []
    end_s = float(recent.time_s[-1])
    events = []
    for finding in judge(recent, profile):
        if finding.start_s - recent.time_s[0] < 1.0 and recent.time_s[0] > 1.0 or not _is_ripe(finding, end_s, recent):
            continue
        body = finding.to_json()
        if not _already_told(state, body):
            event_id = f"{flight_id}:{finding.kind}:{finding.start_s:.1f}:{_revision(body)}"
            events.append(Event(id=event_id, kind="finding", at_s=end_s, body=body))
    return events


def _is_ripe(finding: Finding, end_s: float, recent: Trace) -> bool:
    if finding.kind == "lean":
        return finding.measured["side"] != "unknown" and _flow_rests(recent)
    waited_s = end_s - finding.end_s
    if finding.verdict == "incomplete":
        return finding.kind != "start" and waited_s > _HALF_CHECK_AFTER_S
    return waited_s >= _SETTLED_AFTER_S[finding.kind]


def _flow_rests(recent: Trace) -> bool:
    flow = recent.signal("ff")
    last = recent.time_s > recent.time_s[-1] - _SETTLED_AFTER_S["lean"]
    return flow is not None and bool(np.ptp(flow[last]) < 0.08 * np.median(flow[last]))


def _revision(body: Mapping[str, Any]) -> str:
    measured = body["measured"]
    if body["kind"] == "lean":
        return f"{measured['side']}-{measured['offset_f'] or 0:.0f}"
    return f"{body['verdict']}-{_repeats(body)}"


def _repeats(body: Mapping[str, Any]) -> int:
    return len(body["measured"].get("repeats") or [])


def _already_told(state: FlightState, body: Mapping[str, Any]) -> bool:
    for told in state.findings:
        if told["kind"] != body["kind"] or told.get("typed"):
            continue
        if abs(told["start_s"] - body["start_s"]) > _SAME_START_S:
            continue
        if body["kind"] == "lean":
            a, b = told["measured"], body["measured"]
            if a["side"] == b["side"] and abs((a["offset_f"] or 0) - (b["offset_f"] or 0)) < 15:
                return True
        elif told["verdict"] != "incomplete" and _repeats(told) == _repeats(body):
            return True  # what comes after a finished check (a moved throttle) does not change it
    return False


def minutes_to(recent: Trace, reading: Reading) -> float | None:
    """Return the minutes until a slow reading (oil, heads, coolant) comes up to its least figure, by its last minute."""
    stem, _, unit = reading.signal.rpartition("_")
    values = recent.signal(stem) if unit in ("f", "psi", "v") else None
    if values is None or reading.lowest is None:
        return None
    last = (recent.time_s > recent.time_s[-1] - _SLOPE_OVER_S) & np.isfinite(values)
    rows = list(zip(recent.time_s[last].tolist(), values[last].tolist(), strict=True))
    return minutes_left(rows[:: max(len(rows) // 60, 1)], reading.lowest)


def magneto_working(recent: Trace, state: FlightState) -> dict[str, Any] | None:
    """Return the drop as it is being made: RPM before, now, the fall so far; None when nothing is away."""
    which = next((name for name in ("one_magneto", "carb_heat") if name in state.away), None)
    rpm = recent.signal("rpm")
    if which is None or rpm is None or not len(recent):
        return None
    since_s = state.away[which]
    before = (recent.time_s > since_s - 4.0) & (recent.time_s < since_s - 0.3)
    settled = recent.time_s > max(recent.time_s[-1] - 1.5, since_s + 1.5)
    if not before.any():
        return None
    base = float(np.mean(rpm[before]))
    now = float(np.mean(rpm[settled])) if settled.any() else float(rpm[-1])
    switch = recent.signal("mag")
    side = {"L": "left", "R": "right"}.get(str(switch[-1]) if switch is not None else "", "")
    return {
        "what": which,
        "side": side if which == "one_magneto" else "hot",
        "base_rpm": round(base),
        "now_rpm": round(now),
        "drop_rpm": round(base - now),
        "settled": bool(settled.any()),
    }


def lean_working(recent: Trace, profile: Profile, state: FlightState) -> dict[str, Any] | None:
    """Return the leaning as it is being made: points to draw, peaks so far, distance and direction to the target."""
    spans = leaning_spans(recent)
    cylinders = recent.cylinders("egt")
    flow = recent.signal("ff")
    if not spans or flow is None:
        return None
    start, end = spans[-1]
    part = recent.part(start, end)
    fit = fit_leaning(part)
    if fit is None:
        return None
    chosen = state.lean_target or profile.lean_targets[0].id
    target = next(t for t in profile.lean_targets if t.id == chosen)
    passed = sorted((p for p in fit.peaks if p.passed), key=lambda p: -p.ff_gph)
    guidance: dict[str, Any] = {"say": "Lean on, slowly", "offset_f": None, "to_target_f": None, "side": "unknown"}
    if passed:
        first = passed[0]
        at_now = fit.below_peak_f(first, fit.final_gph)
        side = "rich" if fit.final_gph > first.ff_gph else "lean"
        to_go = target.offset_f - at_now if side == "rich" else target.offset_f + at_now
        near = side == "rich" and abs(to_go) <= 10
        everyone = len(passed) == len(fit.peaks)
        say = "At the target" if near else "Richer" if to_go > 0 else "Leaner"
        if side == "lean" and not everyone:
            say = "Lean on until the last has peaked, or richer"
        guidance = {"say": say, "offset_f": round(at_now), "to_target_f": round(abs(to_go)), "side": side}
    every = max(len(part) // 160, 1)
    part_flow = flow[start:end:every]
    return {
        "flow_gph": [round(float(v), 2) for v in part_flow],
        "egt_f": {str(c): [round(float(v), 1) for v in egt[start:end:every]] for c, egt in cylinders.items()},
        "peaks": [{"cylinder": p.cylinder, "egt_f": round(p.egt_f), "ff_gph": round(p.ff_gph, 2)} for p in passed],
        "first": passed[0].cylinder if passed else None,
        "last": passed[-1].cylinder if len(passed) == len(fit.peaks) else None,
        "target": {"id": target.id, "name": target.name, "offset_f": target.offset_f},
        **guidance,
    }
