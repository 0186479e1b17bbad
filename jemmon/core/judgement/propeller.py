"""The propeller cycle of a governed type: towards coarse, RPM falls and manifold pressure rises, and it comes back.

Which falls are cycles, `recognition` says. One finding counts the cycles of one series.
"""

from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..base.figures import beyond, difference
from ..trace import Trace
from ..trace.finding import INCOMPLETE, LOOK, WITHIN, Finding, Reasons
from .check import NOT_BACK, PRACTICE, TYPE, Check, Evidence, Ripe, Rule, Shown
from .recognition import recognise

# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
_SAME_SERIES_S, _BEFORE_S, _AFTER_S = 30.0, 2.0, 6.0
_HALF_WAY_S = (
    1.0  # how long a blade of metal takes half-way down; fitted to tests/corpora/whole_run_ups.py, seeds 7,800,000 on
)
_NO_CHANGE_RPM, _LEAST_SHARE = 50.0, 0.5  # of the type's own drop
_RESTORED_WITHIN_RPM, _OIL_DIPS_PSI = 50.0, 1.0
_SETTLES_S, _FALLS_ON_RPM, _MOST_S = 2.6, 18.0, 2.8  # fitted to the same: a slow governor or cold oil in the hub


@dataclass(frozen=True, slots=True, kw_only=True)
class _Cycle:
    """One cycle: rows of its beginning and end, and what it showed; NaN where the trace has no such channel."""

    first: int
    last: int
    base_rpm: float
    drop_rpm: float
    map_rise_inhg: float
    oil_p_dip_psi: float
    restored_rpm: float
    still_falling: bool = False


def find_prop_cycles(evidence: Evidence) -> list[Finding]:
    """Return a `prop_cycle` finding for each series of propeller cycles on the ground; none for a fixed pitch. Common
    practice."""
    trace, profile = evidence.trace, evidence.profile
    rpm = trace.signal("rpm")
    if rpm is None:
        return []
    cycles = [_measure(trace, rpm, span.first, span.last) for span in evidence.once(recognise).cycles]
    series: list[list[_Cycle]] = []
    for cycle in cycles:
        close = series and trace.time_s[cycle.first] - trace.time_s[series[-1][-1].last] < _SAME_SERIES_S
        if close:
            series[-1].append(cycle)
        else:
            series.append([cycle])
    return [_judge(trace, profile, one) for one in series]


def _before(trace: Trace, values: np.ndarray, row: int) -> float:
    """Return the level [of the signal's unit] before a cycle, whose first row by the needles alone lies half-way down."""
    t = trace.time_s
    down_s = max(_HALF_WAY_S, 1.5 / max(trace.rate_hz, 0.2)) if trace.signal("prop") is None else 0.3
    rows = (t >= t[row] - down_s - _BEFORE_S - 0.5) & (t < t[row] - down_s)
    known = values[rows][np.isfinite(values[rows])]
    return float(np.median(known)) if known.size else np.nan


def _measure(trace: Trace, rpm: np.ndarray, first: int, last: int) -> _Cycle:
    t = trace.time_s
    during = (t >= t[first]) & (t <= t[last] + 1.5)
    after = (t > t[last] + 2.0) & (t <= t[last] + _AFTER_S)
    pressure, oil = trace.signal("map"), trace.signal("oil_p")
    base = _before(trace, rpm, first)

    def extreme(values: np.ndarray | None, sign: float) -> float:
        if values is None or not np.isfinite(values[during]).any():
            return np.nan
        return sign * (float(np.nanmax(sign * values[during])) * sign - _before(trace, values, first))

    return _Cycle(
        first=first,
        last=last,
        base_rpm=base,
        drop_rpm=base - float(np.nanmin(rpm[during])),
        map_rise_inhg=extreme(pressure, 1.0),
        oil_p_dip_psi=extreme(oil, -1.0),
        restored_rpm=float(np.nanmedian(rpm[after])) if after.any() else np.nan,
        still_falling=_still_falling(trace, rpm, first, last, base),
    )


def _still_falling(trace: Trace, rpm: np.ndarray, first: int, last: int, base_rpm: float) -> bool:
    """Say whether RPM was still on its way down when the lever came back, after a time in which a hub settles, or took
    long to come down."""
    t = trace.time_s
    if trace.signal("prop") is None or t[last] - t[first] < _SETTLES_S:
        return False
    step_s = 1 / max(trace.rate_hz, 0.2)
    end = (t > t[last] - max(0.7, 0.9 * step_s)) & (t <= t[last])
    before = (t > t[last] - max(1.9, 1.9 * step_s)) & (t <= t[last] - max(1.1, 0.9 * step_s))
    if not end.any() or not before.any():
        return False
    fall = float(np.nanmean(rpm[before]) - np.nanmean(rpm[end]))
    drop = base_rpm - float(np.nanmean(rpm[end]))
    if fall > max(_FALLS_ON_RPM, 0.1 * drop):
        return True
    low = np.flatnonzero((t >= t[first]) & (np.nan_to_num(rpm) < base_rpm - 0.8 * drop))
    return bool(low.size and t[low[0]] - t[first] > _MOST_S + 0.5 * step_s)


def _judge(trace: Trace, profile: Profile, cycles: list[_Cycle]) -> Finding:
    last = cycles[-1]
    usual = profile.find_limit("prop_drop_rpm")
    least = _NO_CHANGE_RPM if usual is None else _LEAST_SHARE * usual
    drop = float(np.max([c.drop_rpm for c in cycles]))
    dip = float(np.nanmax([c.oil_p_dip_psi for c in cycles])) if np.isfinite(last.oil_p_dip_psi) else np.nan
    reasons = Reasons()
    if drop < least:
        because = f"RPM dropped by {beyond(drop, least)} only; at least {least:.0f}: the pitch hardly changes."
        reasons.add(LOOK, because, "Once more with warm oil; then a mechanic.", PRACTICE if usual is None else TYPE)
    elif last.still_falling:
        because = f"RPM dropped by {drop:.0f}, but slowly: the pitch moves slowly."
        reasons.add(LOOK, because, "Two more cycles to bring warm oil into the hub; if it stays, a mechanic.")
    if not np.isfinite(last.restored_rpm):
        reasons.add(INCOMPLETE, "Not seen back in fine pitch.", "Lever full forward; wait until RPM is steady.")
    elif abs(last.restored_rpm - last.base_rpm) > _RESTORED_WITHIN_RPM:
        gap = last.restored_rpm - last.base_rpm
        reasons.add(LOOK, f"Back in fine pitch RPM is {gap:+.0f} from before.", "Once more; if it stays, a mechanic.")
    hub = profile.engine.get("propeller_hub")
    no_dip = np.isfinite(dip) and dip < _OIL_DIPS_PSI and drop >= least
    if no_dip and hub == "oil":
        because = f"RPM dropped by {drop:.0f}, but oil pressure did not dip: no oil moved in the hub."
        reasons.add(LOOK, because, "Once more, and look at the oil pressure; if it stays, a mechanic.")
    if no_dip and hub is None and len(cycles) == 1:
        within = f"RPM dropped by {drop:.0f} and came back; oil pressure did not dip (an electric hub shows none)."
    else:
        within = f"{len(cycles)} cycle{'s' * (len(cycles) > 1)}: RPM dropped by {drop:.0f} and came back."
    return Finding.of(
        "prop_cycle",
        (float(trace.time_s[cycles[0].first]), float(trace.time_s[min(last.last, len(trace) - 1)])),
        reasons.outcome(within, "common practice"),
        {
            "count": len(cycles),
            "base_rpm": last.base_rpm,
            "drop_rpm": drop,
            "map_rise_inhg": float(np.max([c.map_rise_inhg for c in cycles])),
            "oil_p_dip_psi": dip,
            "restored_rpm": last.restored_rpm,
        },
        {"no_change_below_rpm": least, "restored_within_rpm": _RESTORED_WITHIN_RPM},
    )


CHECK = Check(
    kind="prop_cycle",
    title="Propeller",
    place=32,
    find=find_prop_cycles,
    may_use=("prop_drop_rpm",),
    ripe=Ripe(after_s=8.0),
    on_card=True,
    by_ear=True,
    is_traced=True,
    shows=(
        Shown(measured="drop_rpm", title="Drop"),
        Shown(measured="restored_rpm", title="Back at"),
        Shown(measured="base_rpm", title="From"),
    ),
    measures="Each cycle of the lever: how far RPM drops and how fast, whether it comes back, how far oil pressure dips. Cycles "
    "within half a minute are one check. Oil pressure that does not dip is judged where the profile says that oil moves the hub.",
    rules=(
        Rule(WITHIN, "RPM drops and comes back", PRACTICE),
        Rule(LOOK, "less than half of the type's own drop (else 50 RPM): the pitch hardly changes", TYPE),
        Rule(
            LOOK,
            "more than 2.8 s to four fifths of the drop: the oil in the hub is cold, or the governor is slow",
            PRACTICE,
        ),
        Rule(LOOK, f"the hub is moved by oil, and oil pressure does not dip by {difference(1, 'psi')}", PRACTICE),
        Rule(LOOK, "in fine pitch again, RPM is not within 50 of what it was", PRACTICE),
        NOT_BACK,
    ),
)
