"""Where in a trace the mixture was pulled: stretches in which fuel flow fell by more than the engine's air explains."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d

from ..base.atmosphere import standard_pressure_pa
from ..base.units import PASCAL_PER_INHG
from ..trace import Trace
from ..trace.masks import filled, runs
from .airborne import descends, on_ground
from .check import Evidence
from .exhausts import working_probes
from .recognition import holds_a_check

_LEAST_FALL = 0.10  # of fuel flow: less is not a leaning (common practice)
_LEAST_RPM, _LEAST_ROWS, _SMOOTH_S, _END_ROWS = 1500.0, 10, 1.5, 4  # common practice
# how much other air is another power, how long a hand takes to lean [s], how far exhausts rise on the way [°F]; fitted to
# tests/strange, seeds 0 to 199
_ON_PROPELLER_CURVE = 1.5  # air by speed of a fixed pitch, which leaning slows too (common practice)
_PROPELLER_LAW = (
    3.0  # power, and so fuel flow, goes with the cube of a fixed pitch's speed (published: McCormick, chapter 6)
)
_FALLS_BY_HAND = 0.07  # in a minute; fitted to tests/strange, seeds 72,000 to 72,059
_SAME_AIR, _LEANED_WITHIN_S, _LEAST_RISE_F, RISE_ALONE_F, _THROTTLED_WITHIN_S = 0.08, 240.0, 12.0, 22.0, 5.0
# fitted to tests/corpora/leanings.py, seeds 13 to 18, but where it says otherwise
_LONGEST_S = 420.0
# fitted to tests/corpora/leanings.py, seeds 13 to 18: what a throttle moves, how long a mixture rests, where it is at peak
_MOVE_INHG, _MOVE_S, _BY_MIXTURE = 0.5, 6.0, 3.0
_RESTED_S, _LEAVES_S, _RESTS, _PLATEAU_S = 45.0, 12.0, 0.03, 14.0
# common practice: far lean of peak costs a tenth of the airspeed, from climb to cruise it grows by a third
_SAME_AIRSPEED = 0.15
# the same lean costs a fixed pitch a tenth of its speed (common practice), half as much again of the air by it
_SLOWED_AIR = 0.15
# common practice: a mixture that stays for a minute, through each sixth of it, has been set; our own choice: how often that is
# looked for [s], and what is another mixture than the rich plateau
_SETTLED_S, _PARTS, _LOOKS_EACH_S, _RICHER = 60.0, 6, 2.0, 0.95
# our own choice: for how long, and how nearly, speed and exhausts are at a flow again what they were before it fell
_IS_BACK_S, _SAME_EXHAUST_F, _SAME_SPEED = 6.0, 20.0, 0.012
# our own choice: rows of which one between them is lost still show what moved at once, in rows
_LOST_ROW = 2.5
# our own choice: a pull goes on where as much fuel flow went within so long [s] as then within the seconds of a throttle
_UNDER_WAY_S = 10.0
_OTHER_EXHAUST_F = 30.0  # our own choice: an exhaust that leaves its rest by so much is at another mixture or power
_MOST_ROWS = (0.05, 0.95)  # a few noisy ones do not move a mixture


@dataclass(frozen=True, slots=True)
class _Power:
    """What shows the power (rows,): the air that the engine takes, in a measure of its own; the airspeed [kt] where no pressure
    shows more, None without; whether that air is known by a speed that leaning slows, of a fixed pitch."""

    air: np.ndarray
    airspeed_kt: np.ndarray | None
    is_slowed_by_leaning: bool


def leaning_spans(evidence: Evidence) -> list[tuple[int, int]]:
    """Return rows (start, end) of each stretch in which fuel flow fell by more than the engine's air explains: by speed, manifold
    pressure, else the altitude, each as far as it is known. Not on the ground. Speed-density (Heywood, chapter 7)."""
    trace, profile = evidence.trace, evidence.profile
    rpm, flow = trace.signal("rpm"), trace.signal("ff")
    if rpm is None or flow is None or len(trace) < _LEAST_ROWS or not trace.cylinders("egt"):
        return []
    width = max(1.0, _SMOOTH_S * trace.rate_hz)
    is_fixed_pitch = profile.engine["propeller"] == "fixed_pitch"
    air = _air(trace, width, is_fixed_pitch)
    fuel = gaussian_filter1d(filled(flow), width)
    steady = (filled(rpm) > _LEAST_RPM * profile.speed_scale) & ~on_ground(evidence) & ~descends(trace)
    pressure = trace.signal("map")
    if pressure is not None and np.isfinite(pressure).any():
        smooth = gaussian_filter1d(filled(pressure), width)
        steady &= ~_throttle_moved(smooth, fuel, max(1, round(_MOVE_S * trace.rate_hz)))
    else:
        steady &= ~_throttled(trace, fuel, is_fixed_pitch)
    by_pressure = pressure is not None and bool(np.isfinite(pressure).any())
    power = _Power(air, None if by_pressure else _airspeed_kt(trace, width), is_fixed_pitch and not by_pressure)
    spans = []
    for first, last in runs(steady):
        spans += _pulls(trace, fuel / air, power, (first, last + 1), by_pressure)
    moved = [(a, b) for a, b in spans if _burns_less(fuel[a:b]) and _exhausts_move(trace, a, b, by_pressure)]
    return [(a, b) for a, b in moved if not holds_a_check(evidence, a, b)]


def _burns_less(fuel: np.ndarray) -> bool:
    """Say whether fuel flow itself fell, not only against the air."""
    return bool(fuel.min() < (1 - _LEAST_FALL / 2) * fuel[: max(len(fuel) // 4, 1)].max())


def _air(trace: Trace, width: float, is_fixed_pitch: bool) -> np.ndarray:
    """Return how much air the engine takes (rows,), in a measure of its own."""
    rpm, pressure, altitude = (trace.signal(name) for name in ("rpm", "map", "palt"))
    assert rpm is not None
    speed = np.maximum(gaussian_filter1d(filled(rpm), width), 1.0) / 2500.0
    by_pressure = pressure is not None and np.isfinite(pressure).any()
    if is_fixed_pitch and not by_pressure:
        speed = speed**_ON_PROPELLER_CURVE
    if pressure is not None and np.isfinite(pressure).any():
        return np.asarray(speed * np.maximum(gaussian_filter1d(filled(pressure), width), 1.0))
    if altitude is not None and np.isfinite(altitude).any():
        smooth = gaussian_filter1d(filled(altitude), width)
        heights_ft = np.linspace(smooth.min(), smooth.max() + 1.0, 64)
        outside = np.array([standard_pressure_pa(float(height)) for height in heights_ft]) / PASCAL_PER_INHG
        return np.asarray(speed * np.interp(smooth, heights_ft, outside))
    return np.asarray(speed * 25.0)


def _airspeed_kt(trace: Trace, width: float) -> np.ndarray | None:
    """Return the airspeed [kt] (rows,), smoothed; None where it is not shown."""
    speed = trace.signal("ias")
    return None if speed is None or not np.isfinite(speed).any() else gaussian_filter1d(filled(speed), width)


def _another_power(power: "_Power", rows: slice, row: int) -> np.ndarray:
    """Return the rows (rows,) at another power than at `row`: by the air that the engine takes, and where nothing shows the
    manifold pressure by the airspeed too, since a fixed pitch turns as fast in a climb as in a cruise at less power."""
    more = power.air[rows] / power.air[row] - 1
    other = (more > _SAME_AIR) | (more < -(_SLOWED_AIR if power.is_slowed_by_leaning else _SAME_AIR))
    if power.airspeed_kt is not None and power.airspeed_kt[row] > 0:
        other |= np.abs(power.airspeed_kt[rows] / power.airspeed_kt[row] - 1) > _SAME_AIRSPEED
    return np.asarray(other)


def _is_by_hand(trace: Trace, start: int, end: int) -> bool:
    """Say whether a fall of fuel flow is a hand's on the mixture: as quick as one, and the exhausts answer."""
    return _falls_as_by_hand(trace, start, end) and _exhausts_move(trace, start, end, by_pressure=False)


def _falls_in_a_minute(t: np.ndarray, mixture: np.ndarray) -> float:
    """Return the largest share of itself by which fuel for the air (rows,) fell within a minute: a climb, and the small steps of a
    hand in it, take several for what a leaning does in one."""
    back = np.searchsorted(t, t - 60.0)
    return float(np.max(1.0 - mixture / mixture[back], initial=0.0))


def _falls_as_by_hand(trace: Trace, start: int, end: int) -> bool:
    """Say whether fuel flow fell within the time that a hand takes for a mixture: a climb takes many minutes."""
    flow = trace.signal("ff")
    assert flow is not None
    part, t = filled(flow[start:end]), trace.time_s[start:end]
    highest = float(np.median(np.sort(part[: max(len(part) // 4, 1)])[-3:]))
    low = np.flatnonzero(part < (1 - _LEAST_FALL) * highest)
    if not low.size:
        return True
    high = np.flatnonzero(part[: low[0]] > 0.97 * highest)
    began_s = t[high[-1]] if high.size else t[0]
    least = float(np.quantile(part, 0.03))
    ended_s = t[np.flatnonzero(part < least + 0.15 * (highest - least))[0]]
    return bool(ended_s - began_s < _LEANED_WITHIN_S)


def _fell_at_once(trace: Trace, is_fixed_pitch: bool) -> np.ndarray:
    """Return the rows (rows,) over which fuel flow fell as far as a leaning does in the few seconds of a throttle. A throttle slows
    a fixed pitch with it, by a third of the flow's share (propeller law); a quick hand on the mixture hardly does."""
    t, flow, rpm = trace.time_s, trace.signal("ff"), trace.signal("rpm")
    assert flow is not None
    assert rpm is not None
    flow, rpm = filled(flow), filled(rpm)
    within_s = max(_THROTTLED_WITHIN_S, 1.6 / trace.rate_hz)
    back = np.searchsorted(t, t - within_s)
    is_next = np.diff(t, prepend=t[0]) < _LOST_ROW / trace.rate_hz
    back = np.where(is_next, np.minimum(back, np.maximum(np.arange(len(t)) - 1, 0)), back)
    by_throttle = flow < (1 - _LEAST_FALL) * flow[back]
    if is_fixed_pitch:
        by_throttle &= rpm < (1 - _LEAST_FALL / _PROPELLER_LAW / 2) * rpm[back]
    moved = np.zeros(len(t), dtype=bool)
    for row in np.flatnonzero(by_throttle):
        moved[back[row] : row + 1] = True
    return moved


def _throttled(trace: Trace, fuel: np.ndarray, is_fixed_pitch: bool) -> np.ndarray:
    """Return the rows (rows,) over which a throttle moved, by the fuel flow (rows,) alone."""
    moved, exhaust_f, rpm = _fell_at_once(trace, is_fixed_pitch), trace.once(_middle_exhaust_f), trace.signal("rpm")
    assert rpm is not None
    if exhaust_f is None:
        return moved
    speed = gaussian_filter1d(filled(rpm), max(1.0, _SMOOTH_S * trace.rate_hz))
    for first, last in runs(moved):
        goes_on = _goes_on(trace, exhaust_f, first)
        if goes_on or _is_back(trace.time_s, fuel, speed, exhaust_f, (first, last)):
            moved[first : last + 1] = False
    return moved


def _goes_on(trace: Trace, exhaust_f: np.ndarray, first: int) -> bool:
    """Say whether a quick fall of fuel flow, from row `first` on, is the rest of a pull over which the exhausts rose, and not much
    quicker than it was: the hand that is on the mixture. Less fuel by less air makes no exhaust hotter."""
    t, flow = trace.time_s, trace.signal("ff")
    assert flow is not None
    flow = filled(flow)  # not smoothed: rows that are seconds apart would take the quick fall for its own beginning
    before_s, after_s = t[first] - _UNDER_WAY_S, t[first] + _THROTTLED_WITHIN_S
    began, then, now, later = np.searchsorted(t, (before_s, before_s + 1.0, t[first] - 1.0, after_s))
    before_gph, here_gph = (float(np.median(flow[a:b])) for a, b in ((began, max(then, began + 1)), (now, first + 1)))
    fell_gph, falls_gph = before_gph - here_gph, here_gph - float(flow[min(later, len(t) - 1)])
    is_pulled = fell_gph > max(falls_gph, _LEAST_FALL / 2 * before_gph)
    return bool(is_pulled and exhaust_f[first] - exhaust_f[began] > _LEAST_RISE_F)


def _is_back(t: np.ndarray, fuel: np.ndarray, rpm: np.ndarray, exhaust_f: np.ndarray, fall: tuple[int, int]) -> bool:
    """Say whether speed and exhausts came back, after a quick fall of fuel flow (its first and last row), to what they were at the
    same flow on the way down: the throttle is where it was, and it was the mixture that was pulled deep and put back."""
    first, last = fall
    before = slice(int(np.searchsorted(t, t[first] - _LEANED_WITHIN_S)), first + 1)
    later = slice(last + 1, int(np.searchsorted(t, t[last] + _LEANED_WITHIN_S)))
    rich = np.flatnonzero((fuel[later] > fuel[first]) & (fuel[later] < fuel[before].max())) + last + 1
    rich = rich[t[rich] > t[rich[0]] + _LEAVES_S] if rich.size else rich
    if not rich.size or t[rich[-1]] - t[rich[0]] < _IS_BACK_S:
        return False
    by_flow = np.argsort(fuel[before])
    flows = fuel[before][by_flow]
    hotter_f = exhaust_f[rich] - np.interp(fuel[rich], flows, exhaust_f[before][by_flow])
    faster = rpm[rich] / np.interp(fuel[rich], flows, rpm[before][by_flow]) - 1
    return bool(abs(np.median(hotter_f)) < _SAME_EXHAUST_F and abs(np.median(faster)) < _SAME_SPEED)


def _exhausts_move(trace: Trace, start: int, end: int, by_pressure: bool) -> bool:
    """Say whether the exhausts moved in a pull as they do on the way to their peak, and beyond it. Where no manifold pressure
    shows that the throttle stayed, they must rise: less fuel by less air does not do that."""
    rise, fall = rise_f(trace, start, end)
    return max(rise, fall) > _LEAST_RISE_F if by_pressure else rise > RISE_ALONE_F


def rise_f(trace: Trace, start: int, end: int) -> tuple[float, float]:
    """Return how far [°F] the middle exhaust rose from the plateau before a pull, and how far it fell again by its end."""
    first = trace.time_s[start:end] < trace.time_s[start] + _PLATEAU_S
    rises, falls = [], []
    for values in working_probes(trace).values():
        part = values[start:end]
        if np.isfinite(part[first]).any() and np.isfinite(part[~first]).any():
            highest = float(np.nanquantile(part, 0.97))
            rises.append(highest - float(np.nanmedian(part[first])))
            falls.append(highest - float(np.nanmedian(part[-_END_ROWS:])))
    return (float(np.nanmedian(rises)), float(np.nanmedian(falls))) if rises else (0.0, 0.0)


def _throttle_moved(pressure: np.ndarray, flow: np.ndarray, reach: int) -> np.ndarray:
    """Return the rows around which manifold pressure moved by another hand than the mixture's: a throttle moves fuel flow about
    in proportion; a mixture moves it far more than the pressure, which follows the RPM of a propeller on its stop."""
    moved = np.zeros(len(pressure), bool)
    if len(pressure) <= reach:
        return moved
    change = np.abs(pressure[reach:] - pressure[:-reach])
    share = change / np.maximum(pressure[reach:], 1.0)
    flow_share = np.abs(flow[reach:] - flow[:-reach]) / np.maximum(flow[reach:], 0.1)
    by_throttle = (change > _MOVE_INHG) & (flow_share < _BY_MIXTURE * share)
    around = np.convolve(by_throttle, np.ones(reach), mode="full") > 0
    moved[: len(around)] = around
    return moved


def _pulls(
    trace: Trace,
    mixture: np.ndarray,
    power: _Power,
    rows: tuple[int, int],
    by_pressure: bool,
) -> list[tuple[int, int]]:
    """Split one steady stretch into pulls: from the rich plateau before each fall until the next rich plateau, or until the power
    is another one. Without pressure a fall that is a
    climb's hides none that begins in it."""
    t, (first, end), spans = trace.time_s, rows, []
    exhaust_f = trace.once(_middle_exhaust_f)
    while end - first >= _LEAST_ROWS // 2:
        part, when = mixture[first:end], t[first:end]
        highest = _highest_lately(when, part)
        fallen = np.flatnonzero(part < (1 - _LEAST_FALL) * highest)
        if fallen.size == 0:
            break
        begun = int(fallen[0])
        plateau = np.flatnonzero(part[:begun] > 0.985 * highest[begun])
        start = max(int(plateau[-1]) if plateau.size else 0, 0)
        start = int(np.searchsorted(when, when[start] - 6.0))
        is_other = _another_power(power, slice(first, end), first + begun)
        if is_other[start:begun].any():  # the plateau was at another power: what was before tells nothing of this one
            first += start + int(np.flatnonzero(is_other[start:begun])[-1]) + 1
            continue
        other = np.flatnonzero(is_other[begun:])
        stop = int(np.searchsorted(when, when[begun] + _LONGEST_S))
        stop = min(stop, begun + int(other[0])) if other.size else stop
        rich_again = np.flatnonzero(part[begun:stop] > 0.97 * highest[begun])
        if rich_again.size:
            stop = _where_it_ends(when, part, begun, begun + int(rich_again[0]))
        next_row = max(stop, begun + 1)
        if not rich_again.size and exhaust_f is not None and not by_pressure:
            stop = _until_it_was_set(when, part, exhaust_f[first:end], begun, stop)
            next_row = _richer_again(part, stop) if stop < next_row else next_row
        quick = _falls_in_a_minute(when[start:stop], part[start:stop]) > _FALLS_BY_HAND
        if by_pressure or quick and _is_by_hand(trace, first + start, first + stop):
            spans.append((first + start, first + stop))
            first += next_row
        else:
            first += max(begun, 1)
    return spans


def _highest_lately(t: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Return the highest figure (rows,) of the last minutes: a leaning by hand takes no longer."""
    back = np.searchsorted(t, t - _LEANED_WITHIN_S)
    edges = np.column_stack([back, np.arange(1, len(t) + 1)]).ravel()  # from, to, from, to: every second stretch counts
    return np.maximum.reduceat(np.append(values, -np.inf), edges)[::2]


def _where_it_ends(t: np.ndarray, flow: np.ndarray, begun: int, rich: int) -> int:
    """Return the row up to which a pull belongs together that came back to the rich plateau at row `rich`: a mixture that
    rested for long before, or for a minute some time before, was the one flown with; else it was left at the plateau."""
    resting = flow[(t > t[rich] - _RESTED_S - _LEAVES_S) & (t < t[rich] - _LEAVES_S)]
    is_long = t[rich] - t[begun] > _RESTED_S + _LEAVES_S
    if is_long and resting.size and np.ptp(np.quantile(resting, _MOST_ROWS)) < _RESTS * flow[rich]:
        return int(np.searchsorted(t, t[rich] - _LEAVES_S))
    for end_s in np.arange(
        t[rich], t[begun] + _SETTLED_S, -_LOOKS_EACH_S
    ):  # enriched slowly, from where it had been set
        rest = slice(*np.searchsorted(t, (end_s - _SETTLED_S, end_s)))
        if rest.start > begun and _is_rest(flow[rest]) and np.median(flow[rest]) < _RICHER * flow[rich]:
            return int(rest.stop)
    stays = np.flatnonzero((t > t[rich]) & (flow < 0.95 * flow[rich]))
    until = min(t[rich] + _PLATEAU_S, t[stays[0]] if stays.size else np.inf)
    return int(np.searchsorted(t, until))


def _middle_exhaust_f(trace: Trace) -> np.ndarray | None:
    """Return the median [°F] (rows,) of the working probes, smoothed; None without one."""
    probes = working_probes(trace)
    if not probes:
        return None
    middle = np.median([filled(values) for values in probes.values()], axis=0)
    return np.asarray(gaussian_filter1d(middle, max(1.0, _SMOOTH_S * trace.rate_hz)))


def _until_it_was_set(t: np.ndarray, flow: np.ndarray, exhaust_f: np.ndarray, begun: int, stop: int) -> int:
    """Return the row up to which a pull goes where nothing shows the power: until the mixture has rested for a minute, unless it is
    leaned on and the exhausts rise further. What comes later may be less power, as in a descent where a fixed pitch keeps its
    speed, and looks like another mixture."""
    row = begun - 1
    while (row := row + 1) < stop:
        end = int(np.searchsorted(t, t[row] + _SETTLED_S))
        if end >= stop:
            return stop
        if not _is_rest(flow[row:end]):
            continue
        level, rested_f = float(np.median(flow[row:end])), float(np.median(exhaust_f[row:end]))
        is_another = np.abs(flow[end:stop] / level - 1) > _LEAST_FALL / 2
        moved = np.flatnonzero(is_another | (np.abs(exhaust_f[end:stop] - rested_f) > _OTHER_EXHAUST_F))
        if not moved.size:
            return stop
        at = end + int(moved[0])
        later_f = exhaust_f[at : int(np.searchsorted(t, t[at] + _PLATEAU_S))]
        was_rich = exhaust_f[begun:end].max() < rested_f + _LEAST_RISE_F
        leans_on = was_rich and flow[at] < level and later_f.max() > rested_f + _LEAST_RISE_F
        if not leans_on:
            return max(int(np.searchsorted(t, t[at] - _LEAVES_S)), row + 1)
        row = at
    return stop


def _is_rest(flow: np.ndarray) -> bool:
    """Say whether a mixture stayed, from the first to the last of these rows."""
    few = max(len(flow) // (3 * _PARTS), 1)
    parts = [flow[:few], *np.array_split(flow, _PARTS), flow[-few:]]
    levels = [float(np.median(part)) for part in parts if part.size]  # a coarse sensor flickers
    return bool(np.ptp(levels) <= _RESTS * levels[0])


def _richer_again(flow: np.ndarray, row: int) -> int:
    """Return the row from which the mixture is richer than it was set at row `row`, or the end: before that nobody leans again."""
    richer = np.flatnonzero(flow[row:] > (1 + _LEAST_FALL) * float(np.median(flow[max(row - _END_ROWS, 0) : row])))
    return row + int(richer[0]) if richer.size else len(flow)
