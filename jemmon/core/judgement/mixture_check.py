"""The mixture control tried on the ground: leaned a little, fuel flow falls and the exhausts rise, and back."""

import numpy as np

from ..base.figures import difference
from ..trace import Trace
from ..trace.finding import INCOMPLETE, LOOK, WITHIN, Finding, Reasons
from ..trace.masks import runs
from .check import NOT_BACK, PRACTICE, Check, Evidence, Ripe, Rule
from .stretches import run_up_spans

# common practice: what a try of the control is, and that fuel flow and EGT follow it
_LEVER_MOVES, _FLOW_FALLS, _EGT_RISES_F = 0.06, 0.05, 5.0
# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
_SHORTEST_S, _LONGEST_S = 2.0, 40.0
_STEADY_INHG, _STEADY_SHARE = 0.7, 0.025


def find_mixture_checks(evidence: Evidence) -> list[Finding]:
    """Return a `mixture_check` finding for each time at run-up speed that the mixture was leaned and put back. Common
    practice."""
    trace = evidence.trace
    flow = trace.signal("ff")
    if flow is None:
        return []
    findings = []
    for first, end in run_up_spans(evidence):
        for a, b in _leaned(trace, flow, first, end):
            findings.append(_judge(trace, flow, a, b, end))
    return findings


def _leaned(trace: Trace, flow: np.ndarray, first: int, end: int) -> list[tuple[int, int]]:
    """Return (first row, last row) of each leaning within a stretch: by the lever, else by fuel flow at steady
    manifold pressure."""
    lever, pressure, t = trace.signal("mixture"), trace.signal("map"), trace.time_s
    if lever is not None and np.isfinite(lever[first:end]).any():
        usual = float(np.nanmedian(lever[first:end]))
        away = np.nan_to_num(lever[first:end], nan=usual) < usual - _LEVER_MOVES
    elif pressure is not None:
        usual, level = float(np.nanmedian(flow[first:end])), float(np.nanmedian(pressure[first:end]))
        away = np.nan_to_num(flow[first:end], nan=usual) < (1 - 2 * _FLOW_FALLS) * usual
        away &= np.abs(np.nan_to_num(pressure[first:end], nan=level) - level) < _STEADY_INHG
        speed = np.nan_to_num(trace.signal("rpm")[first:end])  # type: ignore[index]
        away &= np.abs(speed - np.median(speed)) < _STEADY_SHARE * np.median(speed)
    else:
        return []
    rows = [(first + a, first + b) for a, b in runs(away)]
    rows = [(a, b) for a, b in rows if a > first and _SHORTEST_S <= t[b] - t[a] <= _LONGEST_S]
    return rows if lever is not None else [(a, b) for a, b in rows if _fell(t, flow, a, usual)]


def _fell(t: np.ndarray, flow: np.ndarray, row: int, usual_gph: float) -> bool:
    """Say whether fuel flow [US gal/h] was what it usually is before a row from which it is low: where power comes up it was
    lower."""
    before = flow[(t >= t[row] - 4.0) & (t < t[row] - 0.2)]
    return bool(np.isfinite(before).any() and np.nanmedian(before) > (1 - _FLOW_FALLS) * usual_gph)


def _judge(trace: Trace, flow: np.ndarray, first: int, last: int, end: int) -> Finding:
    t = trace.time_s
    before = (t >= t[first] - 4.0) & (t < t[first] - 0.2)
    late = (t > (t[first] + t[last]) / 2) & (t <= t[last] + 0.5)
    after = (t > t[last] + 2.0) & (t <= t[last] + 6.0)
    usual, leaned = float(np.nanmedian(flow[before])), float(np.nanmin(flow[late]))
    restored = float(np.nanmedian(flow[after])) if np.isfinite(flow[after]).any() else np.nan
    rises = [float(np.nanmax(e[late]) - np.nanmedian(e[before])) for e in trace.cylinders("egt").values()]
    rise = float(np.median(rises)) if rises else np.nan
    fall = usual - leaned
    fell, rose = difference(fall, "gph"), difference(rise, "f") if rises else "nothing that was read"
    reasons = Reasons()
    if fall < _FLOW_FALLS * usual or rise < _EGT_RISES_F:
        because = f"Mixture leaned: fuel flow fell by {fell}, EGT moved by {rose}: little response."
        reasons.add(LOOK, because, "Look at the control and its cable; then a mechanic.")
    if not np.isfinite(restored):
        reasons.add(INCOMPLETE, "Not seen back at rich.", "Mixture back to where it was.")
    within = f"Leaned, fuel flow fell by {fell} and EGT rose by {rose}: the mixture responds."
    return Finding.of(
        "mixture_check",
        (t[first], t[last]),
        reasons.outcome(within if rises else f"Leaned, fuel flow fell by {fell}.", "common practice"),
        {"ff_fall_gph": fall, "egt_rise_f": rise, "restored_gph": restored},
        {},
    )


CHECK = Check(
    kind="mixture_check",
    title="Mixture",
    place=35,
    find=find_mixture_checks,
    ripe=Ripe(after_s=4.0),
    on_card=True,
    is_traced=True,
    measures="How far fuel flow falls and EGT rises when the mixture is leaned on the ground.",
    rules=(
        Rule(WITHIN, "fuel flow falls and EGT rises: the mixture responds", PRACTICE),
        Rule(LOOK, "little response: control or cable", PRACTICE),
        NOT_BACK,
    ),
)
