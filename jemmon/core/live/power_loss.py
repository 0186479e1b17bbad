"""Power that is gone in flight, as the screen shows it: what was seen, and the first actions by heart, very large."""

from dataclasses import dataclass

from ..aircraft import Profile
from ..flight.state import FlightState, KeptFinding
from ..judgement.airborne import ON_GROUND_KT
from ..trace.finding import STOP
from ..trace.sample import Sample

KIND = "power_loss"
_SHOWN_S = 180.0  # common practice: what is done by heart is done by then; the card stays at hand


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerLossNow:
    """Power is gone: since when [s of flight time], of which engine (empty where there is one), what was seen and likely, the steps
    of the type's drill. A question has no steps of its own before it is answered. `since_s` runs on a twin [s], None on a single;
    `has_time`: it flies at its blue line or faster, where right comes before fast."""

    at_s: float
    engine: str
    say: str
    is_question: bool
    title: str
    steps: tuple[str, ...]
    since_s: int | None = None
    has_time: bool = False


def power_loss_now(profile: Profile, state: FlightState, now: Sample | None, now_s: float) -> PowerLossNow | None:
    """Return the loss of power that is being flown through at flight time `now_s` [s], or None."""
    recent = [(number, found) for number, _ in profile.engines if (found := recent_loss(state, number, now_s))]
    if not recent or now is not None and now.readings.get("ias_kt", 100.0) < ON_GROUND_KT:
        return None
    number, finding = max(recent, key=lambda row: float(row[1]["end_s"]))
    drill = next((row for row in profile.body["emergency"] if row.get("when") == KIND), None)
    is_question = finding["verdict"] != STOP
    lost_s, is_twin = float(finding["measured"]["at_s"]), len(profile.engines) > 1
    blue_line_kt = profile.briefing.get("blue_line_kt")
    speed_kt = now.readings.get("ias_kt") if now else None
    return PowerLossNow(
        at_s=round(lost_s, 1),
        engine=profile.whose(dict(profile.engines)[number]).strip(),
        say=str(finding["because"]),
        is_question=is_question,
        title=str(drill["title"]) if drill else "",
        steps=tuple(drill["steps"]) if drill else (),
        since_s=max(round(now_s - lost_s), 0) if is_twin and not is_question else None,
        has_time=is_twin and blue_line_kt is not None and speed_kt is not None and speed_kt >= blue_line_kt,
    )


def recent_loss(state: FlightState, engine: int, now_s: float) -> KeptFinding | None:
    """Return the kept finding of a loss of power of this engine that is still being flown through at `now_s` [s], or None."""
    found = state.latest_finding(KIND, engine)
    return None if found is None or now_s - float(found["end_s"]) > _SHOWN_S else found
