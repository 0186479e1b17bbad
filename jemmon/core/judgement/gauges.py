"""The gauges at run-up speed: suction, charge, oil pressure, fuel pressure; the alternator asked by switching it off; and
an engine that grows hot because the run-up takes long.
"""

from collections.abc import Iterator

import numpy as np

from ..aircraft import Profile
from ..base.figures import difference, figure
from ..trace import Trace
from ..trace.finding import INCOMPLETE, LOOK, STOP, Finding, Reasons

_RUN_UP_RPM = 1800.0
_LEAST_S, _SETTLES_S, _LAST_S, _ON_GROUND_KT = 6.0, 4.0, 14.0, 35.0
_JOINED_WITHIN_S = 8.0
_SAME_SPEED = 0.6
_BACK_WITHIN_S, _FALLS_V, _LONGEST_OFF_S = 6.0, 0.6, 30.0
_LONG_S, _RISES_F_MIN, _NEAR_ACT_F, _SLOPE_OVER_S = 90.0, 4.0, 15.0, 45.0


def run_up_spans(trace: Trace, profile: Profile) -> list[tuple[int, int]]:
    """Return (first row, end row) of each stretch at run-up speed on the ground, some seconds long."""
    rpm, airspeed, t = trace.signal("rpm"), trace.signal("ias"), trace.time_s
    if rpm is None or len(trace) < 8:
        return []
    low, high = 0.78 * _RUN_UP_RPM * profile.speed_scale, 1.35 * _RUN_UP_RPM * profile.speed_scale
    speed = np.nan_to_num(rpm)
    there = (speed > low) & (speed < high)
    if airspeed is not None:
        there &= np.nan_to_num(airspeed) < _ON_GROUND_KT
    rows = np.flatnonzero(there)
    if not rows.size:
        return []
    parts = np.split(rows, np.flatnonzero(np.diff(t[rows]) > _JOINED_WITHIN_S) + 1)
    return [(int(p[0]), int(p[-1]) + 1) for p in parts if t[p[-1]] - t[p[0]] >= _LEAST_S + _SETTLES_S]


# signal, least limit, highest limit, words, unit, what to do
_GAUGES = (
    ("suction", "suction_min_inhg", "suction_max_inhg", "Suction", "inhg", "Look at the gyro pump and its filter."),
    ("volts", "volts_charging_min_v", "volts_max_v", "Bus voltage", "v", "Alternator switch, field, belt; then a mechanic."),
    ("oil_p", "oil_pressure_min_psi", "oil_pressure_max_psi", "Oil pressure", "psi", "Do not fly before it is understood."),
    ("fp", "fuel_pressure_min_psi", "fuel_pressure_max_psi", "Fuel pressure", "psi", "Pump, selector, filter; then a mechanic."),
)  # fmt: skip
_SLACK = {"suction": 0.05, "volts": 0.1, "oil_p": 1.0, "fp": 0.15}


def find_gauges(trace: Trace, profile: Profile) -> list[Finding]:
    """Return a `gauges` finding for each stretch at run-up speed: the settled figures of its last seconds against the
    type's ranges."""
    return [f for first, end in run_up_spans(trace, profile) if (f := _gauges(trace, profile, first, end))]


def _gauges(trace: Trace, profile: Profile, first: int, end: int) -> Finding | None:
    t = trace.time_s
    rows = np.arange(first, end)[t[first:end] >= max(t[first] + _SETTLES_S, t[end - 1] - _LAST_S)]
    measured: dict[str, float] = {}
    limits: dict[str, float] = {}
    reasons, seen = Reasons(), []
    alternator = trace.signal("alternator")
    for signal, least, most, words, unit, then in _GAUGES:
        values = trace.signal(signal)
        if values is None or least not in profile.limits:
            continue
        used = values[rows]
        if signal == "volts" and alternator is not None:
            used = used[np.nan_to_num(alternator[rows], nan=1.0) > 0.5]
        if not np.isfinite(used).any() or signal == "suction" and np.nanmax(values) <= 0:
            continue
        value = float(np.nanmedian(used))
        measured[f"{signal}_{unit}"] = value
        limits |= {name: profile.limit(name) for name in (least, most) if name in profile.limits}
        low, high, shown = profile.limit(least), profile.limits.get(most), figure(value, unit)
        if value < low - _SLACK[signal]:
            grave = STOP if signal == "oil_p" else LOOK
            reasons.add(grave, f"{words} {shown} at run-up speed; at least {figure(low, unit)}.", then, "type")
        elif high is not None and value > high.value + _SLACK[signal] and (signal != "oil_p" or _warm(trace, profile)):
            reasons.add(LOOK, f"{words} {shown} at run-up speed; at most {figure(high.value, unit)}.", then, "type")
        seen.append(f"{words.lower()} {shown}")
    if not measured:
        return None
    outcome = reasons.outcome(f"At run-up speed: {', '.join(seen)}.")
    return Finding.of("gauges", (t[first], t[end - 1]), outcome, measured, limits)


def _warm(trace: Trace, profile: Profile) -> bool:
    oil, gate = trace.signal("oil_t"), profile.limits.get("oil_t_runup_min_f")
    return oil is None or gate is None or bool(np.nanmax(oil) >= gate.value)


def find_alternator_checks(trace: Trace, profile: Profile) -> list[Finding]:
    """Return an `alternator_check` finding for each time that the alternator was switched off for a moment: the bus
    falls to the battery, and comes back. By the switch where known, else by the volts."""
    volts, rpm = trace.signal("volts"), trace.speed()
    if volts is None or rpm is None or len(trace) < 8 or not np.isfinite(volts).any():
        return []
    findings = []
    for first, last in _off_rows(trace, profile, volts):
        t = trace.time_s
        before = (t >= t[first] - 4.0) & (t < t[first])
        off = (t >= t[first] + 0.4) & (t <= t[last])
        after = (t > t[last] + 0.8) & (t <= t[last] + _BACK_WITHIN_S)
        if before.any() and off.any() and rpm[first] > profile.limit("rpm_firing_min"):
            figures = [float(np.nanmedian(volts[rows])) if rows.any() else np.nan for rows in (before, off, after)]
            findings.append(_judge_alternator(profile, float(t[first]), float(t[last]), *figures))
    return findings


def _off_rows(trace: Trace, profile: Profile, volts: np.ndarray) -> list[tuple[int, int]]:
    switch = trace.signal("alternator")
    t = trace.time_s
    if switch is not None and np.isfinite(switch).any():
        off = np.nan_to_num(switch, nan=1.0) < 0.5
    else:
        charging = profile.limit("volts_charging_min_v")
        off = np.nan_to_num(volts, nan=charging) < charging - _FALLS_V
        speed = trace.speed()
        if speed is not None:  # at a low speed the alternator gives little by itself
            off &= np.nan_to_num(speed) > _SAME_SPEED * np.nanmax(speed[np.isfinite(speed)], initial=0.0)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], off.astype(int), [0]])))
    rows = [(int(a), int(b) - 1) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    return [(a, b) for a, b in rows if a > 0 and 0.8 <= t[b] - t[a] + 0.2 <= _LONGEST_OFF_S and b + 1 < len(t)]


def _judge_alternator(
    profile: Profile, start_s: float, end_s: float, before_v: float, off_v: float, after_v: float
) -> Finding:
    charging, reasons = profile.limit("volts_charging_min_v"), Reasons()
    if before_v - off_v < _FALLS_V:
        because = f"Switched off, the bus stayed at {off_v:.1f} V: the alternator gave nothing before, or its switch does nothing."
        reasons.add(LOOK, because, "Look at volts with a load on; then a mechanic.")
    if not np.isfinite(after_v):
        reasons.add(INCOMPLETE, "Not seen back on.", "Alternator on, and look at the volts.")
    elif after_v < charging:
        because = f"Switched on again, the bus stands at {after_v:.1f} V; at least {charging:g} shows that it charges."
        reasons.add(LOOK, because, "Alternator off, wait, on again. No charge: do not fly.", "type")
    within = f"Off, the bus fell to {off_v:.1f} V; on again it stands at {after_v:.1f}: the alternator answers."
    measured = {"before_v": before_v, "off_v": off_v, "restored_v": after_v}
    limits = {"volts_charging_min_v": charging}
    return Finding.of("alternator_check", (start_s, end_s), reasons.outcome(within), measured, limits)


def find_run_up_heat(trace: Trace, profile: Profile) -> list[Finding]:
    """Return a `run_up_heat` finding where a run-up took long and the engine grows hot: near its figure to act on, and
    rising. Nothing is said of an engine that stays cool."""
    findings = []
    for first, end in run_up_spans(trace, profile):
        t, rpm = trace.time_s, trace.signal("rpm")
        seconds = float(t[end - 1] - t[first])
        if seconds < _LONG_S or rpm is None:
            continue
        for name, words, values, act in _hot_signals(trace, profile):
            last = np.arange(first, end)[t[first:end] > t[end - 1] - _SLOPE_OVER_S]
            known = last[np.isfinite(values[last])]
            if known.size < 5:
                continue
            rise = float(np.polyfit(t[known], values[known], 1)[0] * 60)
            value = float(np.median(values[known[-5:]]))
            if value > act - _NEAR_ACT_F and rise > _RISES_F_MIN:
                speed = float(np.nanmedian(rpm[first:end]))
                because = (
                    f"You have been at {speed:,.0f} for {seconds:.0f} s: {words} {figure(value, 'f')}, rising "
                    f"{difference(rise, 'f')} a minute; act at {figure(act, 'f')}."
                )
                reason = (LOOK, because, "Throttle back to about 1,000, nose into wind, let it cool.", "type")
                measured = {"seconds_s": seconds, name: value, "rise_f_per_min": rise}
                findings.append(
                    Finding.of("run_up_heat", (t[first], t[end - 1]), reason, measured, {f"{name}_act": act})
                )
    return findings


def _hot_signals(trace: Trace, profile: Profile) -> Iterator[tuple[str, str, np.ndarray, float]]:
    heads = trace.cylinders("cht")
    act = profile.limits.get("cht_act_f")
    if heads and act is not None:
        yield "cht_max_f", "the hottest head stands at", np.nanmax(list(heads.values()), axis=0), act.value
    for signal, words in (("oil_t", "the oil stands at"), ("coolant_t", "the coolant stands at")):
        values, limit = trace.signal(signal), profile.limits.get(f"{signal}_max_f")
        if values is not None and limit is not None:
            yield f"{signal}_f", words, values, limit.value - _NEAR_ACT_F
