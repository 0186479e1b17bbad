"""The run-up as one card: go to the briefing, look again, or stop, with everything that is still open. Pure.

It is read off the findings of this flight (the latest of each kind counts; earlier ones are kept) and off the lists.
"Go to the briefing" is no permission to fly.
"""

from collections.abc import Mapping
from typing import Any

from ..aircraft import Profile
from ..flight.fold import FlightState, half_checks
from ..procedure.progress import waiting_items
from ..trace.finding import INCOMPLETE, LOOK, STOP, UNKNOWN, gravest

GO, LOOK_AGAIN, STOP_HERE = "go", "look", "stop"
_OF_RUN_UP = (
    *("mag_check", "carb_heat_check", "prop_cycle", "feather_check", "alternator_check", "mixture_check", "gauges"),
    *("freewheel_check", "clutch", "governor_check", "idle_check", "run_up_heat", "exceedance"),
)
_MUST_BE_JUDGED = ("mag_check", "carb_heat_check", "idle_check")
_HEADLINES = {
    GO: "Run-up done: on to the briefing",
    LOOK_AGAIN: "Look again before you go on",
    STOP_HERE: "Stop: do not fly with this",
}
# what is compared between two engines, and from how far apart on it is said
_COMPARED = (
    ("mag_check", "base_rpm", "RPM on both magnetos", 40.0),
    ("mag_check", "difference_rpm", "Difference of the drops", 30.0),
    ("idle_check", "idle_rpm", "Idle", 60.0),
    ("power_check", "static_rpm", "Full throttle", 40.0),
)


def is_run_up(profile: Profile, phase_id: str) -> bool:
    """Say whether this is the phase in which the magnetos are checked."""
    return any(item.check == "mag_check" for item in profile.phase(phase_id).items)


def summarise(profile: Profile, state: FlightState) -> dict[str, Any] | None:
    """Return the card, or None outside the run-up and before anything of it was judged."""
    if not is_run_up(profile, state.phase):
        return None
    rows = [
        {"kind": kind, "engine": number if len(profile.engines) > 1 else None, **_row(finding)}
        for kind in _OF_RUN_UP
        for number, _ in profile.engines
        if (finding := state.latest_finding(kind, number))
    ]
    if not rows:
        return None
    left = [item.challenge for item in waiting_items(profile, profile.phase(state.phase), state.progress, state.known)]
    missing = _not_judged(profile, state)
    halves = list(half_checks(profile, state))
    worst = gravest(row["verdict"] for row in rows)
    grade = STOP_HERE if worst == STOP else LOOK_AGAIN if worst in (LOOK, INCOMPLETE, UNKNOWN) else GO
    open_ends = [*halves, *(f"Not judged: {name}" for name in missing), *(f"Open: {name}" for name in left)]
    if grade == GO and open_ends:
        grade = LOOK_AGAIN
    return {
        "grade": grade,
        "headline": _HEADLINES[grade],
        "rows": rows,
        "open": open_ends,
        "twin": _twin(profile, state),
    }


def _row(finding: Mapping[str, Any]) -> dict[str, Any]:
    return {"verdict": finding["verdict"], "because": finding["because"], "next": finding["next"]}


def _not_judged(profile: Profile, state: FlightState) -> list[str]:
    """Return the checks that must be judged and that no finding answers, by the item's words: those that can be, by needles
    that there are or by the pad."""
    names = []
    has_needles = any(not finding.get("typed") for finding in state.findings)
    for item in profile.phase(state.phase).items:
        can_be = item.manual is not None or has_needles
        if item.check in _MUST_BE_JUDGED and can_be and state.progress.done.get(item.id):
            numbers = [item.engine] if item.engine else [number for number, _ in profile.engines]
            if not any(state.latest_finding(item.check, number) for number in numbers):
                names.append(item.challenge)
    return names


def _twin(profile: Profile, state: FlightState) -> list[dict[str, Any]]:
    """Return what both engines showed at equal levers, side by side with the difference; empty for one engine."""
    if len(profile.engines) < 2:
        return []
    rows = []
    for kind, name, title, apart in _COMPARED:
        figures = []
        for number, _ in profile.engines[:2]:
            finding = state.latest_finding(kind, number)
            figures.append(None if finding is None else finding["measured"].get(name))
        by_engine = sorted(zip([number for number, _ in profile.engines[:2]], figures, strict=True))
        left, right = (value for _, value in by_engine)
        if left is not None and right is not None:
            gap = abs(left - right)
            rows.append(
                {"title": title, "left": round(left), "right": round(right), "gap": round(gap), "far": gap > apart}
            )
    return rows
