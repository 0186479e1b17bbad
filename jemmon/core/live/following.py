"""What the samples of a running flight mean, as events, and what the screen shows of them. Pure: samples and state in.

The judgement is that of recorded traces (`judge`), called on the last minutes; a finding becomes an event once it can
no longer change by waiting a little. Ids are made from the flight, the kind and the first sample, so that a restart
does not make an event twice.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..aircraft import Item, Profile, PutBack, Reading
from ..base.atmosphere import density_altitude_ft
from ..flight.fold import Event, FlightState, proofs, starting_engine
from ..judgement import Finding, judge
from ..judgement.magneto import side_word
from ..procedure import gates
from ..procedure.notice import minutes_left, phase_begun, power_rises, unproven
from ..procedure.progress import lists_of, waiting_items
from ..start.advice import Attempt, StartAdvice, advise_start, attempt_of
from ..start.following import StartWatch, of_engine, watch_start
from ..trace import Trace

_SETTLED_AFTER_S = {
    "mag_check": 1.2,
    "carb_heat_check": 4.0,
    "idle_check": 1.0,
    "start": 0.0,
    "warm_up": 5.0,
    "prop_cycle": 8.0,
    "power_check": 0.0,
    "feather_check": 8.0,
    "alternator_check": 4.0,
    "mixture_check": 4.0,
    "gauges": 4.0,
    "run_up_heat": 0.0,
    "clutch": 0.0,
    "freewheel_check": 1.0,
    "governor_check": 1.0,
    "shutdown_check": 3.0,
    "exceedance": 6.0,
    "lean": 8.0,
}
_OF_RPM, _LONGEST_PATIENCE = ("mag_check", "carb_heat_check"), 3.5
_HALF_CHECK_AFTER_S = 60.0
_SAME_START_S = 8.0
_SAME_PLACE_F = 4.0  # a nudge of the mixture moves it more than this: what stands on the screen is where it is now
_CONTRADICTS_AFTER_S = 2.0  # a lever takes a moment to move what it was just confirmed for
_SLOPE_OVER_S = 60.0
_STEADY_FOR_S, _STEADY_WITHIN = 3.0, 0.02


@dataclass(frozen=True, slots=True, kw_only=True)
class Now:
    """The newest sample: flight time, readings by trace column, levers by name (`mag` a word)."""

    at_s: float
    readings: Mapping[str, float]
    levers: Mapping[str, float | str]


def with_derived(readings: Mapping[str, float]) -> dict[str, float]:
    """Return the readings with `cht_max_f` (and `e2_cht_max_f`), the hottest head, added where there are heads."""
    made = dict(readings)
    for prefix in ("", "e2_"):
        heads = [value for name, value in readings.items() if name.startswith(f"{prefix}cht")]
        if heads:
            made[f"{prefix}cht_max_f"] = max(heads)
    return made


def outside_temperature_c(readings: Mapping[str, float]) -> float | None:
    """Return the outside air temperature [°C] that the readings tell, or None."""
    outside_f = readings.get("oat_f")
    return None if outside_f is None else (outside_f - 32) / 1.8


def all_known(state: FlightState, now: Now | None) -> dict[str, Any]:
    """Return everything that a condition may ask for: facts of the day, readings and levers of this moment."""
    return {**state.known, **(with_derived(now.readings) | dict(now.levers) if now else {})}


def follow_needles(flight_id: str, profile: Profile, state: FlightState, now: Now) -> list[Event]:
    """Return the events that one new sample makes: put-backs, and what it says of the lists."""
    made: list[tuple[str, dict[str, Any]]] = []
    for put_back in profile.put_backs:
        position = now.levers.get(put_back.lever) if put_back.lever else None
        if position is None:
            continue
        away = _is_away(put_back, position, state)
        if away != (put_back.id in state.away):
            made.append(("put_back_away" if away else "put_back_back", {"put_back": put_back.id}))
    made += _list_events(profile, state, now)
    return _as_events(flight_id, now.at_s, made)


def follow_starts(
    flight_id: str, profile: Profile, state: FlightState, watches: Mapping[int, StartWatch], now: Now
) -> tuple[dict[int, StartWatch], list[Event]]:
    """Return (what to remember for the next sample, by engine; the events of this one): the starter turned, it fired,
    it died, oil pressure, the alternators."""
    after, events = {}, []
    for number, _ in profile.engines:
        readings, levers = of_engine(now.readings, number), of_engine(now.levers, number)
        watch = watches.get(number, StartWatch())
        after[number], made = watch_start(profile, state.engine(number), watch, now.at_s, readings, levers)
        own = [(kind, {**body, "engine": number}) for kind, body in made]
        events += _as_events(flight_id, now.at_s, own)
    return after, events


def _hands_were_full(profile: Profile, state: FlightState, item: Item) -> bool:
    """Say whether the needles alone confirm an item of the start, because no hand is free: it fired, oil pressure came."""
    engine = state.engine(item.engine or profile.engines[0][0])
    if item.watch == "start":
        return engine.runs
    is_oil = item.reading is not None and item.reading.signal.removeprefix("e2_") == "oil_p_psi"
    clock = engine.oil_clock
    return is_oil and clock is not None and clock.verdict == "seen" and state.phase == "start"


def _as_events(flight_id: str, at_s: float, made: list[tuple[str, dict[str, Any]]]) -> list[Event]:
    """Name events so that a restart does not make one twice."""
    return [
        Event(id=f"{flight_id}:{kind}:{_about(body)}:{at_s:.2f}", kind=kind, at_s=at_s, body=body)
        for kind, body in made
    ]


def _about(body: Mapping[str, Any]) -> str:
    number = body.get("engine", 1)
    return str(body.get("put_back") or body.get("item") or body.get("phase") or ("" if number == 1 else number))


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
    elif first and _hands_were_full(profile, state, first):
        made.append(("item_seen", {"item": first.id}))
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


def start_advice(
    profile: Profile, state: FlightState, now: Now | None, history: Sequence[Attempt]
) -> StartAdvice | None:
    """Return the advice for the start that is coming, or None where every engine runs or nothing tells the temperature."""
    number = starting_engine(profile, state)
    engine = state.engine(number)
    if engine.runs:
        return None
    readings = with_derived(of_engine(now.readings, number)) if now else {}
    outside_c = outside_temperature_c(readings)
    outside_c = state.known.get("oat_c") if outside_c is None else outside_c
    if outside_c is None:
        return None
    heads_f = readings.get("cht_max_f", readings.get("coolant_t_f"))
    return advise_start(
        profile,
        float(outside_c),
        history,
        oil_t_f=readings.get("oil_t_f"),
        cht_f=heads_f,
        stood_h=state.known.get("stood_h"),
        density_altitude_ft=_density_altitude_ft(state, readings, float(outside_c)),
        now=[attempt_of(body) for body in engine.tries if "strokes" in body],
        last=engine.tries[-1] if engine.tries else None,
    )


def _density_altitude_ft(state: FlightState, readings: Mapping[str, float], outside_c: float) -> float | None:
    known = state.known.get("density_altitude_ft")
    if known is not None or "palt_ft" not in readings:
        return None if known is None else float(known)
    return density_altitude_ft(readings["palt_ft"], outside_c)


def follow_checks(flight_id: str, profile: Profile, state: FlightState, recent: Trace) -> list[Event]:
    """Return a `finding` event for each check in the last minutes that is complete and not yet told."""
    if len(recent) < 8:
        return []
    end_s = float(recent.time_s[-1])
    events = []
    for finding in judge(recent, profile):
        cut = finding.start_s - recent.time_s[0] < 1.0 and recent.time_s[0] > 1.0
        if cut or not _is_ripe(finding, end_s, recent, _patience(profile)):
            continue
        body = finding.to_json()
        if not _already_told(state, body):
            event_id = f"{flight_id}:{finding.kind}:{finding.start_s:.1f}:{_revision(body)}"
            event_id += f":{finding.engine}" * (finding.engine > 1)
            events.append(Event(id=event_id, kind="finding", at_s=end_s, body=body))
    return events


def _patience(profile: Profile) -> float:
    """Return how much longer this engine's RPM takes to settle than that of a light propeller."""
    return float(min(max(0.6 * profile.lag_scale, 1.0), _LONGEST_PATIENCE))


def _is_ripe(finding: Finding, end_s: float, recent: Trace, patience: float) -> bool:
    if finding.kind == "lean":
        return finding.measured["side"] != "unknown" and _flow_rests(recent)
    waited_s = end_s - finding.end_s
    if finding.verdict == "incomplete":
        return finding.kind != "start" and waited_s > _HALF_CHECK_AFTER_S
    return waited_s >= _SETTLED_AFTER_S[finding.kind] * (patience if finding.kind in _OF_RPM else 1.0)


def _flow_rests(recent: Trace) -> bool:
    flow = recent.signal("ff")
    last = recent.time_s > recent.time_s[-1] - _SETTLED_AFTER_S["lean"]
    return flow is not None and bool(np.ptp(flow[last]) < 0.08 * np.median(flow[last]))


def _revision(body: Mapping[str, Any]) -> str:
    measured = body["measured"]
    if body["kind"] == "lean":
        return f"{measured['side']}-{measured['offset_f'] or 0:.0f}"
    if body["kind"] == "exceedance":
        return f"{measured['signal']}-{measured['cylinder'] or 0}"
    return f"{body['verdict']}-{'-'.join(map(str, _parts(body)))}"


def _parts(body: Mapping[str, Any]) -> tuple[int, int]:
    """Return what may still be added to a check: its repeats, and the sides or cycles that were measured."""
    measured = body["measured"]
    sides = sum(measured.get(f"drop_{name}_rpm") is not None for name in ("left", "right", "first", "second"))
    return _repeats(body), sides + int(measured.get("count") or 0)


def _repeats(body: Mapping[str, Any]) -> int:
    return len(body["measured"].get("repeats") or [])


def _already_told(state: FlightState, body: Mapping[str, Any]) -> bool:
    for told in state.findings:
        if told["kind"] != body["kind"] or told.get("typed") or told.get("engine", 1) != body.get("engine", 1):
            continue
        if any(told["measured"].get(what) != body["measured"].get(what) for what in ("signal", "cylinder")):
            continue
        if abs(told["start_s"] - body["start_s"]) > _SAME_START_S:
            continue
        if body["kind"] == "lean":
            a, b = told["measured"], body["measured"]
            if a["side"] == b["side"] and abs((a["offset_f"] or 0) - (b["offset_f"] or 0)) < _SAME_PLACE_F:
                return True
        elif told["verdict"] != "incomplete" and _parts(told) == _parts(body):
            return True  # what comes after a finished check (a moved throttle) does not change it
    return False


def minutes_to(recent: Trace, reading: Reading) -> float | None:
    """Return the minutes until a slow reading (oil, heads, coolant) comes up to its least figure, by its last minute."""
    stem, _, unit = reading.signal.rpartition("_")
    values = recent.signal(stem) if unit in ("f", "psi", "v") else None
    if stem == "cht_max" and (heads := recent.cylinders("cht")):
        values = np.max(list(heads.values()), axis=0)
    if values is None or reading.lowest is None:
        return None
    last = (recent.time_s > recent.time_s[-1] - _SLOPE_OVER_S) & np.isfinite(values)
    rows = list(zip(recent.time_s[last].tolist(), values[last].tolist(), strict=True))
    return minutes_left(rows[:: max(len(rows) // 60, 1)], reading.lowest)


def gate_minutes(recent: Trace, profile: Profile, state: FlightState, now: Now) -> dict[str, int]:
    """Return the minutes until each gate that is still cold is met, by the slowest of its temperatures; none where a
    temperature is not on its way."""
    first = gates.gate_of_phase(profile, state.phase)
    if first is None:
        return {}
    readings, names, left = with_derived(now.readings), list(gates.GATES), {}
    for gate in names[names.index(first) :]:
        cold = [row for row in gates.gate_rows(profile, gate, readings) if row.state == gates.COLD]
        minutes = [minutes_to(recent.of_engine(row.engine), row.reading) for row in cold]
        known = [m for m in minutes if m is not None]
        if known and len(known) == len(minutes):
            left[gate] = max(round(max(known)), 1)
    return left


def magneto_working(recent: Trace, profile: Profile, state: FlightState) -> dict[str, Any] | None:
    """Return the drop as it is being made: RPM before, now, the fall so far; None when nothing is away."""
    which = next((name for name in ("one_magneto", "one_lane", "carb_heat") if name in state.away), None)
    rpm = recent.speed()
    if which is None or rpm is None or not len(recent):
        return None
    since_s = state.away[which]
    before = (recent.time_s > since_s - 4.0) & (recent.time_s < since_s - 0.3)
    settled = recent.time_s > max(recent.time_s[-1] - 1.5, since_s + 1.5)
    if not before.any():
        return None
    base = float(np.mean(rpm[before]))
    now = float(np.mean(rpm[settled])) if settled.any() else float(rpm[-1])
    switch = recent.ignition()
    side = {"L": "left", "R": "right"}.get(str(switch[-1]) if switch is not None else "", "")
    percent = recent.signal("rpm") is None
    return {
        "what": which,
        "side": "hot" if which == "carb_heat" else side_word(profile, side),
        "unit": "%" if percent else "RPM",
        "base_rpm": round(base, 1 if percent else None),
        "now_rpm": round(now, 1 if percent else None),
        "drop_rpm": round(base - now, 1 if percent else None),
        "settled": bool(settled.any()),
    }


def speed_working(recent: Trace, profile: Profile, item: Item) -> dict[str, Any] | None:
    """Return how near the engine's speed is to what the item asks for, and whether it is steady: near enough is right.
    `near` is of the last seconds, so that one sample on its way through is not taken for it."""
    reading = item.reading
    if reading is None or reading.signal.removeprefix("e2_") not in ("rpm", "rpm_pct") or not len(recent):
        return None
    speed = recent.of_engine(2 if reading.signal.startswith("e2_") else 1).speed()
    if speed is None:
        return None
    last = speed[recent.time_s > recent.time_s[-1] - _STEADY_FOR_S]
    last = last[np.isfinite(last)]
    inside = reading.holds(float(np.mean(last))) if last.size else None
    if inside is None:
        return None
    steady = bool(np.ptp(last) < _STEADY_WITHIN * abs(float(np.mean(last))))
    if not inside:
        return {"near": False, "say": "not there yet"}
    return {"near": True, "say": "near enough, and steady: leave it" if steady else "near enough; let it settle"}
