"""A helicopter's freewheel: engine and rotor needles part when the throttle is chopped."""

from dataclasses import dataclass

import numpy as np

from ..trace.finding import STOP, UNKNOWN, WITHIN, Finding, Reasons
from .airborne import ON_GROUND_KT
from .check import PRACTICE, Check, Evidence, Ripe, Rule

# common practice: what a chop is, and that the needles part
_CHOP_PCT, _CHOP_WITHIN_S, _FROM_PCT = 8.0, 2.5, 60.0
# common practice, but where it says otherwise
_PARTED_PCT, _LOOKED_S = 3.0, 6.0
# common practice: a chop is to the stop; a governor that winds back from an overspeed goes on turning the rotor
_CLOSED_TO = 0.15


@dataclass(frozen=True, slots=True)
class Chop:
    """A throttle chop: the row that it is held against, the row that shows it, the last that is looked at; whether throttle,
    manifold pressure or switch show that it was the throttle, and no magneto on which the engine quits."""

    before: int
    row: int
    last: int
    is_known: bool


def throttle_chops(evidence: Evidence) -> list[Chop]:
    """Return each chop of the throttle to its stop with the rotor turning, on the ground, on both magnetos and not out of an
    overspeed. Common practice."""
    trace = evidence.trace
    engine, rotor, t = trace.signal("rpm_pct"), trace.signal("rotor_pct"), trace.time_s
    airspeed, switch = trace.signal("ias"), trace.ignition()
    if engine is None or rotor is None or len(trace) < 8:
        return []
    back = np.searchsorted(t, t - _CHOP_WITHIN_S)
    chopped = (engine[back] - engine > _CHOP_PCT) & (engine[back] > _FROM_PCT) & (rotor[back] > _FROM_PCT)
    if airspeed is not None:
        chopped &= np.nan_to_num(airspeed) < ON_GROUND_KT
    if switch is not None:  # an engine that quits on one magneto lets the rotor go too
        chopped &= switch[back] == "BOTH"
    is_known = switch is not None
    for name, share, closed in (("throttle", 0.75, _CLOSED_TO), ("map", 0.9, np.inf)):
        values = trace.signal(name)
        if values is not None and np.isfinite(values).any():
            chopped &= np.nan_to_num(values) < np.minimum(share * np.nan_to_num(values[back]), closed)
            is_known = True
            break
    if evidence.profile.has_limit("rotor_max_pct"):
        beyond = np.concatenate([[0], np.cumsum(np.nan_to_num(rotor) > evidence.profile.limit("rotor_max_pct"))])
        chopped &= beyond[1:] == beyond[np.searchsorted(t, t - _LOOKED_S)]  # brought back from there, not chopped
    chops: list[Chop] = []
    for row in np.flatnonzero(chopped).tolist():
        if not chops or t[row] - t[chops[-1].before] >= 2 * _LOOKED_S:
            last = int(np.searchsorted(t, t[row] + _LOOKED_S, side="right")) - 1
            chops.append(Chop(int(back[row]), row, last, is_known))
    return chops


def find_freewheel_checks(evidence: Evidence) -> list[Finding]:
    """Return a `freewheel_check` finding for each throttle chop with the rotor turning: the needles must part. Common
    practice."""
    trace, findings = evidence.trace, []
    engine, rotor, t = trace.signal("rpm_pct"), trace.signal("rotor_pct"), trace.time_s
    for chop in evidence.once(throttle_chops):
        assert engine is not None
        assert rotor is not None
        soon = slice(chop.row, chop.last + 1)
        apart = float(np.nanmax(rotor[soon] - engine[soon]))
        reasons = Reasons()
        if apart < _PARTED_PCT:
            because = (
                f"Throttle chopped, and the needles stayed together ({apart:+.1f} %): the freewheel did not let go."
            )
            next_step = "Do not fly: no autorotation. A mechanic."
            if not chop.is_known:  # so deep a drop on one magneto is a stop as well
                because = (
                    f"RPM dropped at once and the needles stayed together ({apart:+.1f} %): the freewheel did not let go, or "
                    "a magneto is far too weak."
                )
                next_step = "Do not fly until it is known which. A mechanic."
            reasons.add(STOP, because, next_step)
        elif not chop.is_known:
            because = (
                f"The needles parted by {apart:.0f} %: the freewheel lets go, if it was the throttle. An engine that quits on one "
                "magneto looks the same here."
            )
            reasons.add(UNKNOWN, because, "Look at each magneto by the tachometer, and type its figures.")
        outcome = reasons.outcome(
            f"The needles parted by {apart:.0f} % on the chop: the freewheel lets go.", "common practice"
        )
        span_s = (float(t[chop.before]), float(t[chop.last]))
        findings.append(Finding.of("freewheel_check", span_s, outcome, {"parted_pct": apart}, {}))
    return findings


CHECK = Check(
    kind="freewheel_check",
    title="Freewheel",
    place=38,
    find=find_freewheel_checks,
    is_of=lambda profile: profile.engine["propeller"] == "rotor",
    may_use=("rotor_max_pct",),
    ripe=Ripe(after_s=1.0),
    on_card=True,
    is_traced=True,
    measures=f"How far engine and rotor part in the {_LOOKED_S:.0f} s after the throttle is chopped to its stop, not"
    " out of an overspeed.",
    rules=(
        Rule(WITHIN, f"by {_PARTED_PCT:.0f} % and more: the freewheel lets go", PRACTICE),
        Rule(
            UNKNOWN,
            "they part, and neither throttle, manifold pressure nor switch shows that it was no magneto",
            PRACTICE,
        ),
        Rule(STOP, "they stay together: no autorotation", PRACTICE),
    ),
)
