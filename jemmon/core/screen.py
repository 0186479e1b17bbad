"""What the flight screen says at this moment: the current item, what is shown against what is expected, the instruments
that matter with their limits, clocks and put-backs. Words for the eye are the front end's; figures and verdicts are made here."""

from collections.abc import Mapping
from typing import Any

from .aircraft import Item, Profile, Reading
from .flight import FlightState, half_checks, open_items
from .live import Now

# instrument -> (short name, unit of the core, lowest limit, highest limit)
INSTRUMENTS: dict[str, tuple[str, str, str | None, str | None]] = {
    "rpm": ("RPM", "rpm", None, "rpm_max"),
    "map_inhg": ("Manifold", "inhg", None, None),
    "ff_gph": ("Fuel flow", "gph", None, None),
    "fp_psi": ("Fuel pressure", "psi", "fuel_pressure_min_psi", "fuel_pressure_max_psi"),
    "oil_p_psi": ("Oil pressure", "psi", "oil_pressure_min_psi", "oil_pressure_max_psi"),
    "oil_t_f": ("Oil temp", "f", None, "oil_t_max_f"),
    "cht_max_f": ("Hottest head", "f", None, "cht_max_f"),
    "volts_v": ("Volts", "v", "volts_min_v", "volts_max_v"),
    "suction_inhg": ("Suction", "inhg", "suction_min_inhg", "suction_max_inhg"),
    "ias_kt": ("Airspeed", "kt", None, None),
    "palt_ft": ("Altitude", "ft", None, None),
}
_ONLY_RUNNING = ("oil_p_psi", "suction_inhg", "fp_psi")
_BUS_OFF_V = 1.0
_SUCTION_FROM_RPM = 1500.0


def unit_of(signal: str) -> str:
    """Return the core unit of a reading by its name (`rpm`, `oil_p_psi`, ...); empty for levers and switches."""
    if signal in INSTRUMENTS:
        return INSTRUMENTS[signal][1]
    return signal.rsplit("_", 1)[-1] if signal.endswith(("_f", "_psi", "_v", "_gph", "_inhg")) else ""


def with_derived(readings: Mapping[str, float]) -> dict[str, float]:
    """Return the readings with `cht_max_f`, the hottest head, added where there are head temperatures."""
    heads = [value for name, value in readings.items() if name.startswith("cht")]
    return {**readings, "cht_max_f": max(heads)} if heads else dict(readings)


def instrument(profile: Profile, name: str, readings: Mapping[str, float], runs: bool) -> dict[str, Any]:
    """Return one instrument: figure, unit, limits, and `state` ok, low, high or none."""
    label, unit, low_name, high_name = INSTRUMENTS[name]
    value = readings.get(name)
    low = profile.limits[low_name].value if low_name and low_name in profile.limits else None
    high = profile.limits[high_name].value if high_name and high_name in profile.limits else None
    state = "none" if value is None else "ok"
    if value is not None and high is not None and value > high:
        state = "high"
    elif name == "volts_v" and value is not None and value < _BUS_OFF_V:
        state = "ok"  # the master is off: nothing is low
    elif name == "suction_inhg" and readings.get("rpm", 0.0) < _SUCTION_FROM_RPM:
        state = "ok"  # a pump at idle is not judged
    elif value is not None and low is not None and value < low and (runs or name not in _ONLY_RUNNING):
        state = "low"
    return {"id": name, "label": label, "unit": unit, "value": value, "low": low, "high": high, "state": state}


def instruments(profile: Profile, state: FlightState, now: Now | None) -> list[dict[str, Any]]:
    """Return the phase's instruments (five at most), and any other that is out of limits while the engine runs."""
    readings = with_derived(now.readings) if now else {}
    wanted = list(profile.phase(state.phase).instruments)
    shown = [instrument(profile, name, readings, state.engine_runs) for name in wanted if name in INSTRUMENTS]
    for name in INSTRUMENTS:
        if name not in wanted and state.engine_runs and name != "fp_psi":
            extra = instrument(profile, name, readings, True)
            if extra["state"] in ("low", "high"):
                shown.append({**extra, "came_by_itself": True})
    return shown


def reading_shown(reading: Reading, now: Now | None) -> tuple[float | str | None, bool | None]:
    """Return (what is shown, whether it is as expected); None where there is no reading."""
    if now is None:
        return None, None
    values: Mapping[str, float | str] = {**with_derived(now.readings), **now.levers}
    value = values.get(reading.signal)
    if value is None:
        return None, None
    if reading.word is not None:
        return value, value == reading.word
    if isinstance(value, str):
        return value, None
    low = reading.lowest is None or value >= reading.lowest
    high = reading.highest is None or value <= reading.highest
    return value, low and high


def current_item(profile: Profile, state: FlightState) -> Item | None:
    """Return the first open item of the phase, or None when the list is complete."""
    waiting = open_items(profile, state)
    return profile.item(waiting[0])[1] if waiting else None


def describe_item(item: Item, state: FlightState, now: Now | None) -> dict[str, Any]:
    """Return an item with its live reading, its expectation and its check's last finding."""
    shown, as_expected = reading_shown(item.reading, now) if item.reading else (None, None)
    reading = item.reading
    return {
        "id": item.id,
        "challenge": item.challenge,
        "response": item.response,
        "why": item.why,
        "caution": item.caution,
        "lever": item.lever,
        "check": item.check,
        "manual": item.manual,
        "watch": item.watch,
        "counts": state.strokes if item.counts else None,
        "unit": unit_of(reading.signal) if reading else None,
        "shown": shown,
        "lowest": reading.lowest if reading else None,
        "highest": reading.highest if reading else None,
        "as_expected": as_expected,
        "finding": state.latest_finding(item.check) if item.check else None,
    }


def describe(profile: Profile, state: FlightState, now: Now | None, now_s: float) -> dict[str, Any]:
    """Return everything that the flight screen shows, as plain data."""
    item = current_item(profile, state)
    phase_ids = [phase.id for phase in profile.phases]
    place = phase_ids.index(state.phase)
    waiting = open_items(profile, state)
    following = profile.item(waiting[1])[1] if len(waiting) > 1 else None
    clock = state.oil_clock
    return {
        "at_s": round(now_s, 1),
        "phase": state.phase,
        "phase_title": profile.phases[place].title,
        "next_phase": {"id": phase_ids[place + 1], "title": profile.phases[place + 1].title}
        if place + 1 < len(phase_ids)
        else None,
        "phases": [
            {"id": p.id, "title": p.title, "open": len(open_items(profile, state, p.id)), "of": len(p.items)}
            for p in profile.phases
        ],
        "item": describe_item(item, state, now) if item else None,
        "next_item": {"challenge": following.challenge, "response": following.response} if following else None,
        "done_in_phase": [
            {
                "id": i.id,
                "challenge": i.challenge,
                "at_s": state.done[i.id].at_s,
                "age_s": now_s - state.done[i.id].at_s,
            }
            for i in profile.phase(state.phase).items
            if i.id in state.done
        ],
        "instruments": instruments(profile, state, now),
        "put_backs": _put_backs(profile, state, now_s),
        "oil_clock": {
            "verdict": clock.verdict,
            "elapsed_s": round(min(now_s - clock.since_s, 999), 1),
            "left_s": max(round(clock.limit_s - (now_s - clock.since_s)), 0),
            "limit_s": clock.limit_s,
            "seconds": clock.seconds,
        }
        if clock
        else None,
        "engine_runs": state.engine_runs,
        "strokes": state.strokes,
        "half_checks": half_checks(profile, state),
        "emergency": profile.body["emergency"],
        "lean_targets": [{"id": t.id, "name": t.name} for t in profile.lean_targets],
        "lean_target": state.lean_target or profile.lean_targets[0].id,
        "ended": state.ended,
        "last_seq": state.last_seq,
    }


def _put_backs(profile: Profile, state: FlightState, now_s: float) -> list[dict[str, Any]]:
    rows = []
    for put_back in profile.put_backs:
        if put_back.id in state.away:
            seconds = max(now_s - state.away[put_back.id], 0.0)
            overdue = seconds > put_back.due_s
            rows.append(
                {
                    "id": put_back.id,
                    "title": put_back.title,
                    "back": put_back.back,
                    "seconds": round(seconds),
                    "overdue": overdue,
                }
            )
    return rows
