"""The judgement of a running flight: that of recorded traces, asked of the last minutes; a finding becomes an event once it can
no longer change by waiting a little. Ids are made from the flight, the kind and the first sample, so that a restart does not
make an event twice.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from ..aircraft import Profile
from ..flight.events import Event
from ..flight.state import FlightState
from ..judgement.check import Check, Evidence
from ..judgement.judge import judge_engine
from ..judgement.registry import checks
from ..trace import Trace
from ..trace.finding import INCOMPLETE, Finding

# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
_LONGEST_PATIENCE, _LEAST_PATIENCE, _PATIENCE_SHARE = 3.5, 1.0, 0.6
_HALF_CHECK_AFTER_S = 60.0  # a half check is told once the engine has been left alone for so long (docs/formats.md)
_SAME_START_S = 8.0
_LEAST_ROWS = 8


def follow_checks(
    flight_id: str,
    profile: Profile,
    state: FlightState,
    evidence: Mapping[int, Evidence],
    kinds: Sequence[str] | None = None,
) -> list[Event]:
    """Return a `finding` event for each check in the last minutes that is complete and not yet told. `evidence` is what each
    engine showed in them, `kinds` what may be told of it."""
    events = []
    for number, own in evidence.items():
        if len(own.shown) < _LEAST_ROWS:
            continue
        for finding in judge_engine(own, kinds, tell_gaps=False):
            event = _event(flight_id, profile, state, own.shown, replace(finding, engine=number))
            events += [] if event is None else [event]
    return events


def _event(flight_id: str, profile: Profile, state: FlightState, recent: Trace, finding: Finding) -> Event | None:
    check, end_s = checks()[finding.kind], float(recent.time_s[-1])
    is_cut = finding.start_s - recent.time_s[0] < 1.0 and recent.time_s[0] > 1.0
    if is_cut or not _is_ripe(check, finding, recent, _patience(profile)):
        return None
    body = finding.to_json()
    if _already_told(check, state, body):
        return None
    event_id = f"{flight_id}:{finding.kind}:{finding.start_s:.1f}:{_revision(check, body)}"
    event_id += f":{finding.engine}" * (finding.engine > 1)
    return Event(id=event_id, kind="finding", at_s=end_s, body=body)


def _patience(profile: Profile) -> float:
    """Return how much longer this engine's RPM takes to settle than that of a light propeller."""
    return float(min(max(_PATIENCE_SHARE * profile.lag_scale, _LEAST_PATIENCE), _LONGEST_PATIENCE))


def _is_ripe(check: Check, finding: Finding, recent: Trace, patience: float) -> bool:
    ripe = check.ripe
    if ripe.is_ripe is not None:
        return ripe.is_ripe(finding, recent)
    waited_s = float(recent.time_s[-1]) - finding.end_s
    if finding.verdict == INCOMPLETE:
        return waited_s > _HALF_CHECK_AFTER_S
    return waited_s >= ripe.after_s * (patience if ripe.follows_rpm else 1.0)


def _revision(check: Check, body: Mapping[str, Any]) -> str:
    """Return what distinguishes one finding of a check from a later one that begins at the same moment."""
    measured = body["measured"]
    if check.same_place is not None:
        return f"{measured['side']}-{measured['offset_f'] or 0:.0f}"
    if check.told_apart_by:
        return "-".join(str(measured[name] or 0) for name in check.told_apart_by)
    return f"{body['verdict']}-{'-'.join(map(str, _parts(body)))}"


def _parts(body: Mapping[str, Any]) -> tuple[int, int]:
    """Return what may still be added to a check: its repeats, and the sides or cycles that were measured."""
    measured = body["measured"]
    sides = sum(measured.get(f"drop_{name}_rpm") is not None for name in ("left", "right", "first", "second"))
    return len(measured.get("repeats") or []), sides + int(measured.get("count") or 0)


def _is_part(body: Mapping[str, Any], told: Mapping[str, Any]) -> bool:
    """Say whether a finding that begins inside one that was told is what is left of it: it begins well after it, or shows less."""
    less = any(own < whole for own, whole in zip(_parts(body), _parts(told), strict=True))
    return bool(body["start_s"] - told["start_s"] > _SAME_START_S or less)


def _already_told(check: Check, state: FlightState, body: Mapping[str, Any]) -> bool:
    for told in state.findings:
        if told["kind"] != body["kind"] or told.get("typed") or told.get("engine", 1) != body.get("engine", 1):
            continue
        if any(told["measured"].get(name) != body["measured"].get(name) for name in check.told_apart_by):
            continue
        if told["start_s"] < body["start_s"] <= told["end_s"] and _is_part(body, told):
            return True  # what the window has left of one that was told: its beginning has slid out
        if abs(told["start_s"] - body["start_s"]) > _SAME_START_S:
            continue
        if check.same_place is not None:
            if check.same_place(told["measured"], body["measured"]):
                return True
        elif told["verdict"] != INCOMPLETE and _parts(told) == _parts(body):
            return True  # what comes after a finished check (a moved throttle) does not change it
    return False
