"""The start: how long it was cranked, how long oil pressure took, whether the bus held and was charged afterwards."""

from ..aircraft import Profile
from ..start.story import StartStory
from ..trace import Trace
from ..trace.finding import INCOMPLETE, LOOK, STOP, UNKNOWN, WITHIN, Finding, Reasons
from .check import PRACTICE, TYPE, Check, Evidence, Ripe, Rule, Shown, TrendFigure

_CHARGE_KNOWN_AFTER_S = 60.0  # common practice: by then an alternator gives or does not


def find_starts(evidence: Evidence) -> list[Finding]:
    """Return a `start` finding for each time that the engine came to life from rest. Limits by the type."""
    has_oil = evidence.shown.signal("oil_p") is not None
    return [_judge(evidence.profile, story, has_oil) for story in evidence.starts]


def _judge(profile: Profile, story: StartStory, has_oil: bool) -> Finding:
    reasons = Reasons()
    stop = (
        f"STOP THE ENGINE: {profile.start.stops[0].lower()}{profile.start.stops[1:]}. Find the cause with a mechanic."
    )
    _judge_oil(story, has_oil, stop, reasons)
    longest_s = profile.limit("starter_on_max_s")
    if story.longest_crank_s > longest_s:
        because = f"The starter turned for {story.longest_crank_s:.0f} s at one time; the limit is {longest_s:.0f} s."
        rest_s = profile.find_limit("starter_rest_s")
        reasons.add(LOOK, because, "Let it rest." if rest_s is None else f"Let it rest {rest_s:.0f} s.", TYPE)
    _judge_electrics(profile, story, reasons)
    within = f"Oil pressure {story.oil_s or 0.0:.0f} s after it fired"
    within += "." if story.oil_limit_s is None else f"; the limit is {story.oil_limit_s:.0f} s."
    limits = {
        "oil_pressure_time_s": story.oil_limit_s,
        "oil_pressure_min_psi": profile.find_limit("oil_pressure_min_psi"),
        "starter_on_max_s": longest_s,
    }
    end_s = story.fired_s + story.oil_s if story.oil_s is not None else story.until_s
    return Finding.of(
        "start",
        (story.began_s, end_s),
        reasons.outcome(within),
        {
            "first_fire_s": story.fired_s,
            "cranking_s": story.cranking_s,
            "oil_pressure_s": story.oil_s,
            "volts_crank_v": story.volts_v,
            "charging": story.charging,
        },
        {name: value for name, value in limits.items() if value is not None},
    )


def _judge_oil(story: StartStory, has_oil: bool, stop: str, reasons: Reasons) -> None:
    limit = "" if story.oil_limit_s is None else f"; the limit is {story.oil_limit_s:.0f} s"
    if story.oil_s is not None:
        if story.oil_late or (story.oil_limit_s is not None and story.oil_s > story.oil_limit_s):
            reasons.add(STOP, f"Oil pressure came after {story.oil_s:.0f} s{limit}.", stop, TYPE)
    elif not has_oil:
        reasons.add(UNKNOWN, "There is no oil-pressure reading.", "Read the gauge, and write it down.")
    elif story.oil_late:
        reasons.add(STOP, f"No oil pressure {story.ran_s:.0f} s after it fired{limit}.", stop, TYPE)
    elif story.stopped_s is not None:
        because = f"It ran for {story.ran_s:.0f} s and stopped before oil pressure showed."
        reasons.add(INCOMPLETE, because, "Start again when the starter has rested.")
    else:
        because = f"{story.ran_s:.0f} s since it fired and no oil pressure yet{limit}."
        reasons.add(INCOMPLETE, because, "Watch the oil pressure.", TYPE)


def _judge_electrics(profile: Profile, story: StartStory, reasons: Reasons) -> None:
    """Say what speaks against battery and alternators: volts while cranking, no charge, a second alternator that gives nothing."""
    least = profile.limits.get("volts_crank_min_v")
    if least is not None and story.volts_v is not None and story.volts_v < least.value:
        because = f"The bus fell to {story.volts_v:.1f} V while cranking; a healthy battery keeps {least.value:g} V."
        reasons.add(LOOK, because, "Charge the battery, have it tested.", least.source)
    charge = profile.limits.get("volts_charging_min_v")
    if charge is not None and story.charging is False:
        because = f"The alternator does not charge: {story.charging_v or 0.0:.1f} V; at least {charge.value:g} V."
        reasons.add(LOOK, because, "Not for flight as it is; a mechanic.", charge.source)
    within, cut_in_rpm = profile.limits.get("alt2_within_s"), profile.find_limit("alt2_cut_in_rpm")
    if within is not None and cut_in_rpm is not None and story.alternator_2 is False:
        because = f"The second alternator did not cut in within {within.value:.0f} s."
        then = f"Once above {cut_in_rpm:,.0f} RPM; if it stays out, stop and start again."
        reasons.add(LOOK, because, then, within.source)


def _is_ripe(finding: Finding, recent: Trace) -> bool:
    """Say whether a start can be told: a stop at once; else with oil pressure, once it is known whether the bus is charged."""
    if finding.verdict in (STOP, INCOMPLETE):
        return finding.verdict == STOP
    waited_s = float(recent.time_s[-1]) - float(finding.measured["first_fire_s"])
    return finding.measured["charging"] is not None or waited_s > _CHARGE_KNOWN_AFTER_S


CHECK = Check(
    kind="start",
    title="Start",
    place=10,
    find=find_starts,
    is_of=lambda profile: True,
    finds_by=("rpm_firing_min",),
    needs=("oil_pressure_min_psi", "oil_pressure_time_s", "starter_on_max_s"),
    may_use=(
        *("oil_pressure_time_cold_s", "oil_pressure_cold_below_c", "starter_rest_s", "volts_crank_min_v"),
        *("volts_charging_min_v", "warm_up_min_rpm", "alt2_within_s", "alt2_cut_in_rpm"),
    ),
    ripe=Ripe(is_ripe=_is_ripe),
    trends=(
        TrendFigure(
            id="oil_seconds",
            title="Seconds to oil pressure",
            unit="s",
            measured="oil_pressure_s",
            limit="oil_pressure_time_s",
        ),
    ),
    shows=(
        Shown(measured="oil_pressure_s", title="To oil pressure", unit="s", most=("oil_pressure_time_s",)),
        Shown(measured="cranking_s", title="Cranked", unit="s"),
    ),
    measures="It has fired when RPM passes the type's firing speed, and runs when it stays there for 2 s. Oil pressure counts "
    "from that moment to the type's least. The bus is read while cranking, and again from 20 s after it fired.",
    rules=(
        Rule(WITHIN, "oil pressure inside its time", TYPE),
        Rule(STOP, "oil pressure late, or none when its time is over", TYPE),
        Rule(LOOK, "the starter turned longer than its limit at one time", TYPE),
        Rule(LOOK, "the bus falls too far while cranking, or nothing charges afterwards", TYPE),
        Rule(INCOMPLETE, "it stopped before oil pressure showed", PRACTICE),
        Rule(UNKNOWN, "there is no oil-pressure reading", PRACTICE),
    ),
)
