"""Every limit of the profile that a trace went over: which signal, which cylinder, how far and how long.

Which limits watch which signal, and what a needle cannot tell from its limit, the registry of signals says. One sample is
noise: a limit counts as passed when it was so for some seconds. Limits that a start is allowed to pass (oil pressure with
cold thick oil) count only once the oil is warm.
"""

from collections.abc import Iterator

import numpy as np

from ..aircraft import Profile
from ..base.figures import figure
from ..trace import Trace
from ..trace.finding import LOOK, STOP, Finding
from ..trace.masks import runs
from ..trace.signals import SIGNALS, Signal, Watch, When
from .airborne import airborne
from .check import TYPE, Check, Evidence, Ripe, Rule

_LEAST_S, _JOINED_WITHIN_S = 3.0, 5.0  # common practice
_IDLE_BELOW_RPM = 1_000.0  # of a direct-drive engine (common practice)
# common practice, but where it says otherwise
_RUNNING_FOR_S = 60.0  # before: a start has its own clocks
_GRAVE_NEXT = "Bring it back at once; write it down: a mechanic looks before the next flight."
_GUARDS = tuple(
    (row, watch)
    for row in SIGNALS.values()
    if not row.is_derived
    for watch in row.watched_by
    if watch.is_told or watch.is_told_in_flight
)


def find_exceedances(evidence: Evidence) -> list[Finding]:
    """Return an `exceedance` finding for each time that a figure was beyond a limit of the profile for 3 s and more,
    one for each cylinder."""
    trace, profile = evidence.shown, evidence.profile
    speed = trace.speed()
    if speed is None or len(trace) < 3:
        return []
    counts = _counting(trace, np.nan_to_num(speed), profile)
    findings = []
    for row, watch in _GUARDS:
        limit = profile.find_limit(watch.limit)
        if limit is None:
            continue
        for cylinder, values in _figures(trace, row):
            over = values - limit if watch.is_high else limit - values
            beyond = (over > row.slack) & counts[watch.when]
            if watch.is_told_in_flight:
                beyond &= airborne(evidence)
            for start, end in _spans(trace.time_s, beyond):
                findings.append(_finding(trace, profile, row, watch, cylinder, values, start, end))
    return findings


def _figures(trace: Trace, row: Signal) -> Iterator[tuple[int | None, np.ndarray]]:
    if row.is_per_cylinder:
        yield from trace.cylinders(row.name).items()
        return
    values = trace.signal(row.name)
    if values is not None:
        yield None, values


def _counting(trace: Trace, speed: np.ndarray, profile: Profile) -> dict[When, np.ndarray]:
    """Return the rows in which a limit counts, by when it does: on an engine that has run for a while and still runs. Where a
    type allows less oil pressure at idle, the usual limit counts above idle only."""
    runs_now = _running(trace, speed, profile)
    idles = speed < _IDLE_BELOW_RPM * profile.speed_scale
    own_idle = profile.has_limit("oil_pressure_idle_min_psi")
    return {
        When.ALWAYS: runs_now,
        When.RUNNING: runs_now & ~idles if own_idle else runs_now,
        When.IDLING: runs_now & idles,
        When.WARM: runs_now & _warm(trace, profile),
        When.AT_SPEED: runs_now & ~idles,
        When.NOT_CRANKING: runs_now,
        When.CRANKING: np.zeros(len(trace), dtype=bool),  # the start's own finding says so
        When.FLYING: np.zeros(len(trace), dtype=bool),  # the needle says so
    }


def _running(trace: Trace, speed: np.ndarray, profile: Profile) -> np.ndarray:
    """Return the rows in which the engine has run for a while and still runs; all where the type's firing speed is not known."""
    firing = profile.find_limit("rpm_firing_min")
    if firing is None:
        return np.ones(len(trace), dtype=bool)
    fires = speed > firing
    stops = np.where(fires, -np.inf, trace.time_s)
    since = trace.time_s - np.maximum.accumulate(stops)
    started_here = ~np.isfinite(since)  # running from the first row on
    return np.asarray(fires & (started_here | (since > _RUNNING_FOR_S)))


def _warm(trace: Trace, profile: Profile) -> np.ndarray:
    oil, gate = trace.signal("oil_t"), profile.find_limit("oil_t_runup_min_f")
    if oil is None or gate is None:
        return np.ones(len(trace), dtype=bool)
    return np.asarray(np.nan_to_num(oil, nan=gate) >= gate)


def _spans(t: np.ndarray, beyond: np.ndarray) -> Iterator[tuple[int, int]]:
    """Return (first row, last row) of each stretch beyond the limit, short gaps joined, short stretches left out."""
    joined: list[tuple[int, int]] = []
    for first, last in runs(beyond):
        if joined and t[first] - t[joined[-1][1]] <= _JOINED_WITHIN_S:
            joined[-1] = (joined[-1][0], last)
        else:
            joined.append((first, last))
    yield from ((first, last) for first, last in joined if t[last] - t[first] >= _LEAST_S)


def _finding(
    trace: Trace,
    profile: Profile,
    row: Signal,
    watch: Watch,
    cylinder: int | None,
    values: np.ndarray,
    start: int,
    end: int,
) -> Finding:
    limit, part = profile.limits[watch.limit], values[start : end + 1]
    worst = float(np.nanmax(part) if watch.is_high else np.nanmin(part))
    seconds = float(trace.time_s[end] - trace.time_s[start])
    which = f" of cylinder {cylinder}" if cylinder else ""
    side = "at most" if watch.is_high else "at least"
    what = "" if row.name == "rpm" else f"{row.title}{which} "  # its figures carry the word themselves
    because = f"{what}{figure(worst, row.unit)} for {seconds:.0f} s; {side} {figure(limit.value, row.unit)}."
    then = _GRAVE_NEXT if watch.is_grave else "Watch it; have it looked at."
    return Finding.of(
        "exceedance",
        (trace.time_s[start], trace.time_s[end]),
        (STOP if watch.is_grave else LOOK, because, then, limit.source),
        {"signal": row.name, "cylinder": cylinder, "worst": worst, "limit": limit.value, "seconds_s": seconds},
        {watch.limit: limit.value},
    )


def _titles(is_grave: bool) -> str:
    rows = [f"{row.title}{'' if watch.is_high else ' (below)'}" for row, watch in _GUARDS if watch.is_grave is is_grave]
    return ", ".join(dict.fromkeys(rows))


CHECK = Check(
    kind="exceedance",
    title="Beyond a limit",
    place=80,
    find=find_exceedances,
    may_use=tuple(dict.fromkeys(watch.limit for _, watch in _GUARDS)),
    ripe=Ripe(after_s=6.0),
    on_card=True,
    told_apart_by=("signal", "cylinder"),
    measures=f"A limit passed for {_LEAST_S:.0f} s and more by more than a needle can show, on an engine that has run for a "
    "minute; each cylinder by itself; oil pressure above its limit only with warm oil.",
    rules=(Rule(STOP, _titles(True), TYPE), Rule(LOOK, _titles(False), TYPE)),
)
