"""A helicopter's freewheel: engine and rotor needles part when the throttle is chopped."""

from dataclasses import dataclass

import numpy as np

from ..trace import Trace
from ..trace.finding import STOP, UNKNOWN, WITHIN, Finding, Reasons
from ..trace.masks import filled
from .airborne import ON_GROUND_KT
from .check import PRACTICE, Check, Evidence, Ripe, Rule

# common practice: what a chop is, and that the needles part
_CHOP_PCT, _CHOP_WITHIN_S, _FROM_PCT = 8.0, 2.5, 60.0
# common practice, but where it says otherwise
_PARTED_PCT, _LOOKED_S = 3.0, 6.0
# common practice: a chop is to the stop; a governor that winds back from an overspeed goes on turning the rotor
_CLOSED_TO = 0.15
# our own choice: a throttle closed at once has gone from four fifths of where it was to a third of it within so long [s]
_STILL_OPEN, _WELL_CLOSED, _AT_ONCE_S = 0.8, 0.35, 1.5
# A rotor's drag goes with the square of its speed, so that left alone the inverse of its speed (of 100 %) grows evenly: by 0.08 to
# 0.1 a second with light blades (momentum theory, Leishman, chapter 2; blade mass and length are our own choice). An engine that
# is dragged along slows it by half as much again. Looked at over so many seconds.
_SLOWS_ALONE_PER_S, _SLOWS_OVER_S = 0.125, 2.0


@dataclass(frozen=True, slots=True)
class Chop:
    """A throttle chop: the row that it is held against, the last that is looked at, how far the needles part by then [%]; whether
    throttle, manifold pressure or switch show that it was the throttle, and no magneto on which the engine quits."""

    before: int
    last: int
    parted_pct: float
    is_known: bool


def throttle_chops(evidence: Evidence) -> list[Chop]:
    """Return each chop of the throttle to its stop with the rotor turning, on the ground, on both magnetos and not out of an
    overspeed. A throttle that is brought back slowly, so that the rotor's own drag keeps the needles together, is none. Common
    practice."""
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
            parted_pct = float(np.nanmax(rotor[row : last + 1] - engine[row : last + 1]))
            if parted_pct >= _PARTED_PCT or _is_at_once(trace, rotor, row, last):
                chops.append(Chop(int(back[row]), last, parted_pct, is_known))
    return chops


def _is_at_once(trace: Trace, rotor_pct: np.ndarray, row: int, last: int) -> bool:
    """Say whether the throttle of a chop was closed at once: by its lever, or by a rotor that slows faster than it would alone."""
    t, lever = trace.time_s, trace.signal("throttle")
    first = int(np.searchsorted(t, t[row] - _LOOKED_S))
    if lever is not None and np.isfinite(lever[first : last + 1]).any():
        shown, at_s = filled(lever[first : last + 1]), t[first : last + 1]
        closed = np.flatnonzero(shown <= _WELL_CLOSED * shown.max())
        is_open = np.flatnonzero(shown[: closed[0]] >= _STILL_OPEN * shown.max()) if closed.size else closed
        if is_open.size and at_s[closed[0]] - at_s[is_open[-1]] <= _AT_ONCE_S + 1 / trace.rate_hz:
            return True
    inverse = 100.0 / np.maximum(filled(rotor_pct), 1.0)
    rows = np.arange(first, last + 1)
    later = np.searchsorted(t, t[rows] + _SLOWS_OVER_S - 1e-6)
    rows, later = rows[later <= last], later[later <= last]
    return bool(((inverse[later] - inverse[rows]) > _SLOWS_ALONE_PER_S * (t[later] - t[rows])).any())


def find_freewheel_checks(evidence: Evidence) -> list[Finding]:
    """Return a `freewheel_check` finding for each throttle chop with the rotor turning: the needles must part. Common
    practice."""
    t, findings = evidence.trace.time_s, []
    for chop in evidence.once(throttle_chops):
        apart, reasons = chop.parted_pct, Reasons()
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
