"""The gauges at run-up speed: suction, charge, oil pressure, fuel pressure, settled, against the type's ranges."""

from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..base.figures import figure
from ..trace import Trace
from ..trace.finding import LOOK, STOP, UNKNOWN, WITHIN, Finding, Reasons
from ..trace.signals import SIGNALS
from .check import TYPE, Check, Evidence, Ripe, Rule, Shown, TrendFigure
from .stretches import SETTLES_S, run_up_spans

_LAST_S = 14.0  # common practice: long enough for a needle that moves


@dataclass(frozen=True, slots=True)
class _Gauge:
    """A signal, its least and highest limit, and what to do where it is outside."""

    signal: str
    least: str
    most: str
    then: str
    is_grave: bool = False


# limits by the type; how long a gauge needs, common practice
_GAUGES = (
    _Gauge("suction", "suction_min_inhg", "suction_max_inhg", "Look at the gyro pump and its filter."),
    _Gauge("volts", "volts_charging_min_v", "volts_max_v", "Alternator switch, field, belt; then a mechanic."),
    _Gauge("oil_p", "oil_pressure_min_psi", "oil_pressure_max_psi", "Do not fly before it is understood.", True),
    _Gauge("fp", "fuel_pressure_min_psi", "fuel_pressure_max_psi", "Pump, selector, filter; then a mechanic."),
)


def find_gauges(evidence: Evidence) -> list[Finding]:
    """Return a `gauges` finding for each stretch at run-up speed: the settled figures of its last seconds against the
    type's ranges."""
    trace, profile = evidence.trace, evidence.profile
    return [f for first, end in run_up_spans(evidence) if (f := _judge(trace, profile, first, end))]


def _judge(trace: Trace, profile: Profile, first: int, end: int) -> Finding | None:
    t = trace.time_s
    rows = np.arange(first, end)[t[first:end] >= max(t[first] + SETTLES_S, t[end - 1] - _LAST_S)]
    measured: dict[str, float] = {}
    limits: dict[str, float] = {}
    reasons, seen = Reasons(), []
    for gauge in _GAUGES:
        row = SIGNALS[gauge.signal]
        value = _settled(trace, gauge.signal, rows)
        if value is None or not any(profile.has_limit(name) for name in (gauge.least, gauge.most)):
            continue
        measured[row.column] = value
        limits |= {name: profile.limit(name) for name in (gauge.least, gauge.most) if name in profile.limits}
        _judge_gauge(trace, profile, gauge, value, reasons)
        seen.append(f"{row.title.lower()} {figure(value, row.unit)}")
    if not measured:
        return None
    outcome = reasons.outcome(f"At run-up speed: {', '.join(seen)}.")
    return Finding.of(CHECK.kind, (t[first], t[end - 1]), outcome, measured, limits)


def _settled(trace: Trace, signal: str, rows: np.ndarray) -> float | None:
    """Return the median of a signal over rows [core unit], the bus only while the alternator is on; None where nothing shows
    it, or a suction gauge never moved."""
    values, alternator = trace.signal(signal), trace.signal("alternator")
    if values is None:
        return None
    used = values[rows]
    if signal == "volts" and alternator is not None:
        used = used[np.nan_to_num(alternator[rows], nan=1.0) > 0.5]
    if not np.isfinite(used).any() or signal == "suction" and np.nanmax(values) <= 0:
        return None
    return float(np.nanmedian(used))


def _judge_gauge(trace: Trace, profile: Profile, gauge: _Gauge, value: float, reasons: Reasons) -> None:
    row, low, high = SIGNALS[gauge.signal], profile.find_limit(gauge.least), profile.find_limit(gauge.most)
    shown = f"{row.title} {figure(value, row.unit)} at run-up speed"
    if low is None:
        reasons.add(UNKNOWN, f"{shown}: not judged, the profile has no {gauge.least}.", "Add it from the handbook.")
    elif value < low - row.slack:
        grave = STOP if gauge.is_grave else LOOK
        reasons.add(grave, f"{shown}; at least {figure(low, row.unit)}.", gauge.then, TYPE)
    if high is not None and value > high + row.slack and (gauge.signal != "oil_p" or _is_warm(trace, profile)):
        reasons.add(LOOK, f"{shown}; at most {figure(high, row.unit)}.", gauge.then, TYPE)


def _is_warm(trace: Trace, profile: Profile) -> bool:
    oil, gate = trace.signal("oil_t"), profile.find_limit("oil_t_runup_min_f")
    return oil is None or gate is None or bool(np.nanmax(oil) >= gate)


CHECK = Check(
    kind="gauges",
    title="Gauges",
    place=36,
    find=find_gauges,
    may_use=(*(gauge.least for gauge in _GAUGES), *(gauge.most for gauge in _GAUGES), "oil_t_runup_min_f"),
    ripe=Ripe(after_s=4.0),
    on_card=True,
    trends=(
        TrendFigure(
            id="oil_pressure",
            title="Oil pressure at run-up",
            unit="psi",
            measured="oil_p_psi",
            limit="oil_pressure_min_psi",
            is_low=True,
        ),
    ),
    shows=(
        Shown(measured="suction_inhg", title="Suction", unit="inhg", least=("suction_min_inhg",)),
        Shown(measured="volts_v", title="Bus", unit="v", least=("volts_charging_min_v",)),
    ),
    measures=f"The median of the last {_LAST_S:.0f} s at run-up speed, against the type's ranges.",
    rules=(
        Rule(WITHIN, "every gauge in its range", TYPE),
        Rule(STOP, "oil pressure below its range", TYPE),
        Rule(LOOK, "suction, bus or fuel pressure outside; oil pressure above, with warm oil", TYPE),
        Rule(UNKNOWN, "the profile does not give the least of a gauge", TYPE),
    ),
)
