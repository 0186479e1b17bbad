"""Every limit of the profile that a trace went over: which signal, which cylinder, how far and how long.

One sample is noise: a limit counts as passed when it was so for some seconds, or far. Limits that a start is allowed to
pass (oil pressure with cold thick oil) count only once the oil is warm.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..aircraft import Profile
from ..base.figures import figure
from ..trace import Trace
from ..trace.finding import LOOK, STOP, Finding

_LEAST_S = 3.0
_JOINED_WITHIN_S = 5.0
_IDLE_BELOW_RPM = 1_000.0
_RUNNING_FOR_S = 60.0  # below: a start has its own clocks


@dataclass(frozen=True, slots=True, kw_only=True)
class _Guard:
    """A signal against a limit: `is_high` when the limit is the highest; only while running, or with warm oil."""

    signal: str
    limit: str
    words: str
    is_high: bool = True
    is_grave: bool = False
    when_warm: bool = False


_GUARDS = (
    _Guard(signal="rpm", limit="rpm_max", words="RPM", is_grave=True),
    _Guard(signal="rpm_pct", limit="rpm_pct_max_pct", words="Engine speed", is_grave=True),
    _Guard(signal="rotor_pct", limit="rotor_max_pct", words="Rotor speed", is_grave=True),
    _Guard(signal="map", limit="map_max_inhg", words="Manifold pressure", is_grave=True),
    _Guard(signal="cht", limit="cht_max_f", words="Head temperature", is_grave=True),
    _Guard(signal="tit", limit="tit_max_f", words="Turbine inlet temperature", is_grave=True),
    _Guard(signal="coolant_t", limit="coolant_t_max_f", words="Coolant temperature", is_grave=True),
    _Guard(signal="oil_t", limit="oil_t_max_f", words="Oil temperature", is_grave=True),
    _Guard(signal="oil_p", limit="oil_pressure_max_psi", words="Oil pressure", when_warm=True),
    _Guard(signal="oil_p", limit="oil_pressure_min_psi", words="Oil pressure", is_high=False, is_grave=True),
    _Guard(signal="volts", limit="volts_max_v", words="Bus voltage"),
    _Guard(signal="fp", limit="fuel_pressure_max_psi", words="Fuel pressure"),
)
# how far beyond its limit a figure must be before it counts: what a needle cannot tell from the limit itself
_SLACK = {"rpm": 10.0, "map": 0.1, "cht": 2.0, "oil_t": 1.0, "oil_p": 1.5, "volts": 0.1, "fp": 0.2, "coolant_t": 1.0}
_UNITS = {"rpm": "rpm", "map": "inhg", "oil_p": "psi", "volts": "v", "fp": "psi"}  # in words; else a temperature


def find_exceedances(trace: Trace, profile: Profile) -> list[Finding]:
    """Return an `exceedance` finding for each time that a figure was beyond a limit of the profile for 3 s and more,
    one for each cylinder."""
    speed = trace.speed()
    if speed is None or len(trace) < 3:
        return []
    runs = _running(trace, np.nan_to_num(speed), profile)
    warm = _warm(trace, profile)
    findings = []
    for guard in _GUARDS:
        limit = profile.limits.get(guard.limit)
        if limit is None:
            continue
        for cylinder, values in _figures(trace, guard.signal):
            slack = _SLACK.get(guard.signal, 0.5)
            bound = _bound(profile, guard, np.nan_to_num(speed))
            over = values - bound if guard.is_high else bound - values
            beyond = (np.nan_to_num(over, nan=-1.0) > slack) & runs & (warm if guard.when_warm else True)
            for start, end in _spans(trace.time_s, beyond):
                findings.append(_finding(trace, profile, guard, cylinder, values, start, end))
    return findings


def _bound(profile: Profile, guard: _Guard, speed: np.ndarray) -> np.ndarray:
    """Return the limit at each row: at idle a type may allow a lower oil pressure."""
    bound = np.full(len(speed), profile.limits[guard.limit].value)
    at_idle = profile.limits.get(guard.limit.replace("_min_", "_idle_min_"))
    if at_idle is not None and not guard.is_high:
        bound[speed < _IDLE_BELOW_RPM * profile.speed_scale] = at_idle.value
    return bound


def _figures(trace: Trace, signal: str) -> Iterator[tuple[int | None, np.ndarray]]:
    if signal == "cht":
        yield from trace.cylinders("cht").items()
        return
    values = trace.signal(signal)
    if values is not None:
        yield None, values


def _running(trace: Trace, speed: np.ndarray, profile: Profile) -> np.ndarray:
    """Return the rows in which the engine has run for a while and still runs."""
    fires = speed > profile.limit("rpm_firing_min")
    stops = np.where(fires, -np.inf, trace.time_s)
    since = trace.time_s - np.maximum.accumulate(stops)
    started_here = ~np.isfinite(since)  # running from the first row on
    return fires & (started_here | (since > _RUNNING_FOR_S))


def _warm(trace: Trace, profile: Profile) -> np.ndarray:
    oil, gate = trace.signal("oil_t"), profile.limits.get("oil_t_runup_min_f")
    if oil is None or gate is None:
        return np.ones(len(trace), dtype=bool)
    return np.nan_to_num(oil, nan=gate.value) >= gate.value


def _spans(t: np.ndarray, beyond: np.ndarray) -> Iterator[tuple[int, int]]:
    """Return (first row, last row) of each stretch beyond the limit, short gaps joined, short stretches left out."""
    rows = np.flatnonzero(beyond)
    if not rows.size:
        return
    breaks = np.flatnonzero(np.diff(t[rows]) > _JOINED_WITHIN_S)
    for part in np.split(rows, breaks + 1):
        if t[part[-1]] - t[part[0]] >= _LEAST_S:
            yield int(part[0]), int(part[-1])


def _words(guard: _Guard, value: float) -> str:
    if guard.signal.endswith("_pct"):
        return f"{value:.0f} %"
    return figure(value, _UNITS.get(guard.signal, "f"))


def _finding(
    trace: Trace, profile: Profile, guard: _Guard, cylinder: int | None, values: np.ndarray, start: int, end: int
) -> Finding:
    limit, part = profile.limits[guard.limit], values[start : end + 1]
    worst = float(np.nanmax(part) if guard.is_high else np.nanmin(part))
    seconds = float(trace.time_s[end] - trace.time_s[start])
    which = f" of cylinder {cylinder}" if cylinder else ""
    side = "at most" if guard.is_high else "at least"
    because = f"{guard.words}{which} {_words(guard, worst)} for {seconds:.0f} s; {side} {_words(guard, limit.value)}."
    grave = "Bring it back at once; write it down: a mechanic looks before the next flight."
    return Finding(
        kind="exceedance",
        start_s=float(trace.time_s[start]),
        end_s=float(trace.time_s[end]),
        verdict=STOP if guard.is_grave else LOOK,
        measured={
            "signal": guard.signal,
            "cylinder": cylinder,
            "worst": worst,
            "limit": limit.value,
            "seconds_s": seconds,
        },
        limits={guard.limit: limit.value},
        because=because,
        next=grave if guard.is_grave else "Watch it; have it looked at.",
        source=limit.source,
    )
