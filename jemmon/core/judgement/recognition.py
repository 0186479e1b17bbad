"""Which dips of RPM are magnetos and which are carburettor heat, from whatever channels the trace has.

Lever positions decide where known. Else `falls` weighs what each fall looks like, and `labels` what the falls beside it make
likely: two alike are the two magnetos, one more is the heat. What stays open is told as such. The run-up RPM of the profile
plays no part.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import uniform_filter1d

from ..aircraft import Profile
from ..aircraft.profile import LIGHT_PROPELLER_LAG_S
from ..trace import Trace
from ..trace.dips import Span, find_dips, in_groups, rounding_rpm, rpm_noise, shortest_check_s
from ..trace.masks import runs
from .airborne import airborne
from .check import Evidence
from .exhausts import risen_together
from .falls import CYCLE, HEAT, MAGNETO, Fall, levels, weigh
from .feathering import fall_begins, feather_rows
from .freewheel import throttle_chops
from .labels import Habits, Labelled, label_falls
from .magneto_sides import is_dying

# fitted to tests/corpora/whole_run_ups.py, seeds 24 and 25, but where it says otherwise
_PARTED_PCT, _SMOOTH_S = 5.0, 1.0
ONE_CHECK_GAP_S = 60.0  # docs/formats.md: a check ends when the engine has been left on both for so long
# speeds of a direct-drive engine, scaled by `Profile.speed_scale`
_DEEPEST_DIP_RPM = 1100.0
_CHECKED_FROM_RPM, _CHECKED_TO_RPM = 1150.0, 2900.0
_RUNS_FROM_RPM, _HEAT_FROM_RPM, _CYCLED_FROM_RPM = 700.0, 1000.0, 1200.0
_SEEN_BEFORE_S = 1.0  # common practice: a fall has something before it
_COARSE, _LONGEST_CYCLE_S = 0.8, 20.0  # common practice: where a lever is coarse, how long a cycle lasts
# common practice: towards coarse and back at once; no slip of a switch costs as much
_QUICK_CYCLE_RPM, _QUICK_CYCLE_S = 150.0, 0.8
# common practice: so long after a fall [s] RPM stays at the level before, for so long [s] and so near it [share of the fall, RPM].
# A throttle that is opened for the run-up, or left closed, goes past it or never gets there. Ice that has gone gives less than
# `_PASSES_RPM` at run-up speed, and a tenth of that where an engine idles
_BACK_WITHIN_S, _BACK_FOR_S, _BACK_NEAR_SHARE, _BACK_NEAR_RPM, _PASSES_RPM = 8.0, 1.5, 0.35, 10.0, 250.0
_IDLES_RPM, _RUN_UP_RPM = 900.0, 1700.0  # common practice, of a direct-drive engine
# common practice: a level that is lower than before by so much is another throttle
_SHORT_SHARE, _SHORT_RPM = 0.5, 90.0
# a slip of 1 s on an engine that follows slowly is below half of its fall for so much of its lag longer (exponential)
_SLIP_LASTS_ON = 0.5
# our own choice, fitted to tests/corpora/run_ups.py, seeds 1,170,000 to 1,310,199: rows a second, and a depth [RPM], from which RPM
# shows by itself how long a fall lasted
_PLAIN_HZ, _PLAIN_RPM = 3.0, 25.0
_DISTURBS_RPM = 25.0  # our own choice: what is too short for a check and costs less leaves its neighbours their level
_HIDDEN_SINCE_S = 2.0  # common practice: exhausts begin to rise within two seconds of the fall
# our own choice: a fall of RPM that lasts for less of a rise than this, by so few steps, shows a part of it
_MOMENT, _MOST_STEPS = 0.4, 2.5


@dataclass(frozen=True, slots=True)
class RunUpSpans:
    """The stretches on one magneto (each with its side's name, empty where nothing shows it) and those on hot air, in order;
    the propeller's cycles; the falls that may be any of these, or something else; those into feather; slips of the switch, and
    what is as short. `every` is all of them."""

    magnetos: tuple[tuple[Span, str], ...] = ()
    hot: tuple[Span, ...] = ()
    cycles: tuple[Span, ...] = ()
    unexplained: tuple[Fall, ...] = ()
    feathered: tuple[Span, ...] = ()
    slips: tuple[Span, ...] = ()

    @property
    def every(self) -> list[Span]:
        """All stretches in order of time: what is next to one of them belongs to its neighbour."""
        sides, others = (span for span, _ in self.magnetos), (fall.span for fall in self.unexplained)
        every = [*sides, *self.hot, *self.cycles, *others, *self.feathered, *self.slips]
        return sorted(every, key=lambda span: span.first)


def recognise(evidence: Evidence) -> RunUpSpans:
    """Return which dips of RPM are magnetos and which are carburettor heat, and which cannot be told apart."""
    trace, profile = evidence.trace, evidence.profile
    rpm = trace.signal("rpm")
    if rpm is None or len(trace) < 8:
        return RunUpSpans()
    scale = profile.speed_scale
    named = _magneto_spans(trace, rpm, scale)
    hot = _heat_spans(trace, rpm, scale)
    cycles = lever_cycles(evidence)
    feathered = tuple(Span(first, last) for first, last in feather_rows(evidence))
    by_switch = None if named is None else _slips_of_switch(trace, [span for span, _ in named])
    if named is not None and by_switch is not None and hot is not None and cycles is not None:
        return RunUpSpans(tuple(named), tuple(hot), tuple(cycles), feathered=feathered, slips=by_switch)
    known = Known(None if named is None else tuple(span for span, _ in named), hot, cycles)
    told, by_needles = _from_needles(evidence, rpm, known)
    found = named if named is not None else [(span, "") for span in told.magnetos]
    return RunUpSpans(
        tuple(found),
        told.hot if hot is None else tuple(hot),
        told.cycles if cycles is None else tuple(cycles),
        told.unexplained,
        feathered,
        by_needles if by_switch is None else by_switch,
    )


@dataclass(frozen=True, slots=True)
class Known:
    """What levers show: the spans on one magneto, on hot air, in coarse pitch; None where no lever shows it."""

    magnetos: Sequence[Span] | None
    hot: Sequence[Span] | None
    cycles: Sequence[Span] | None

    @property
    def every(self) -> list[tuple[int, int]]:
        """(first, last row) of all of them."""
        return [(span.first, span.last) for own in (self.magnetos, self.hot, self.cycles) for span in own or ()]


def lever_cycles(evidence: Evidence) -> list[Span] | None:
    """Return the propeller's cycles on the ground by its lever; None where no lever shows them, none for a fixed pitch."""
    trace, profile = evidence.trace, evidence.profile
    rpm, lever = trace.signal("rpm"), trace.signal("prop")
    if rpm is None or profile.engine["propeller"] not in ("constant_speed", "automatic"):
        return []
    if lever is None or not np.isfinite(lever).any():
        return None
    t, speed, feathered = trace.time_s, np.nan_to_num(rpm), feather_rows(evidence)
    away = (np.nan_to_num(lever, nan=1.0) < _COARSE) & ~airborne(evidence)
    return [
        Span(a, b)
        for a, b in runs(away)
        if levels(t, speed, Span(a, b))[0] > _CYCLED_FROM_RPM * profile.speed_scale
        and t[b] - t[a] < _LONGEST_CYCLE_S
        and not any(c <= b and a <= d for c, d in feathered)
    ]


def _parted_rows(trace: Trace) -> list[tuple[int, int]]:
    """Return (first, last row) of each stretch in which a rotor runs ahead of its engine, as after a chop, or behind it, as while
    a clutch takes it up."""
    engine, rotor = trace.signal("rpm_pct"), trace.signal("rotor_pct")
    if engine is None or rotor is None:
        return []
    ahead_pct = np.nan_to_num(rotor - engine)
    return runs((ahead_pct > _PARTED_PCT) | (ahead_pct < -_PARTED_PCT) & (np.nan_to_num(rotor) > _PARTED_PCT))


def _overlaps(span: Span, cycles: Sequence[tuple[int, int]]) -> bool:
    return any(first <= span.last and span.first <= last for first, last in cycles)


def _spans_where(trace: Trace, mask: np.ndarray, least_s: float) -> list[Span]:
    return [span for span in (Span(first, last) for first, last in runs(mask)) if _lasts(trace, span, least_s)]


def _lasts(trace: Trace, span: Span, least_s: float) -> bool:
    return bool(trace.time_s[span.last] - trace.time_s[span.first] + 1 / trace.rate_hz > least_s + 0.01)


def _magneto_spans(trace: Trace, rpm: np.ndarray, scale: float) -> list[tuple[Span, str]] | None:
    """Return the spans on one side by the switch, or None where its position is not known: none as short as a slip of it, unless
    the engine dies there, since nobody leaves it on that side for longer."""
    switch = trace.ignition()
    if switch is None:
        return None
    step_s = 1 / trace.rate_hz
    least_s = 2.2 if step_s > 0.55 else 1.5
    speed = np.nan_to_num(rpm)
    filled = np.interp(trace.time_s, trace.time_s[np.isfinite(rpm)], rpm[np.isfinite(rpm)])
    spans = []
    for position, name in (("L", "left"), ("R", "right")):
        on_one = [Span(first, last) for first, last in runs(switch == position)]
        found = [
            span
            for span in on_one
            if _lasts(trace, span, least_s) or _is_between_both(switch, span) and is_dying(filled, span)
        ]
        spans += [(span, name) for span in found if speed[max(span.first - 1, 0)] > _RUNS_FROM_RPM * scale]
    return sorted(spans, key=lambda row: row[0].first)


def _slips_of_switch(trace: Trace, sides: Sequence[Span]) -> tuple[Span, ...]:
    """Return the stretches on one side by the switch, from both and back to both, that are no check of it."""
    switch = trace.ignition()
    assert switch is not None
    on_one = [Span(first, last) for position in ("L", "R") for first, last in runs(switch == position)]
    return tuple(span for span in on_one if span not in sides and _is_between_both(switch, span))


def _is_between_both(switch: np.ndarray, span: Span) -> bool:
    """Say whether the switch came from BOTH and went back to it: an engine that dies beside OFF does so by OFF."""
    around = (span.first - 1, span.last + 1)
    return all(0 <= row < len(switch) and switch[row] == "BOTH" for row in around)


def _heat_spans(trace: Trace, rpm: np.ndarray, scale: float) -> list[Span] | None:
    """Return the applications of heat on a running engine by the lever, or None where it is not known."""
    lever = trace.signal("carb_heat")
    if lever is None or not np.isfinite(lever).any():
        return None
    spans = _spans_where(trace, (np.nan_to_num(lever) > 0.5) & (np.nan_to_num(rpm) > _HEAT_FROM_RPM * scale), 2.2)
    throttle = trace.signal("throttle")
    if throttle is None:
        return spans
    return [s for s in spans if np.ptp(throttle[max(s.first - 1, 0) : s.last + 1]) < 0.1]


def _from_needles(evidence: Evidence, rpm: np.ndarray, known: Known) -> tuple[Labelled, tuple[Span, ...]]:
    """Label the falls that no lever explains; return also those that are too short for any check."""
    trace, profile = evidence.trace, evidence.profile
    is_rotor = profile.engine["propeller"] == "rotor"
    slow = 1.0 if is_rotor else profile.lag_scale
    filled = np.interp(trace.time_s, trace.time_s[np.isfinite(rpm)], rpm[np.isfinite(rpm)])
    chops = [(chop.before, chop.last) for chop in evidence.once(throttle_chops)]
    taken = [*known.every, *feather_rows(evidence), *_parted_rows(trace), *chops, *runs(airborne(evidence))]
    dips, rises = find_dips(trace.time_s, filled), risen_together(trace)
    hidden = _hidden(trace.time_s, filled, rises, dips)
    shown = [dip for dip in dips if not _overlaps(dip, [(own.first, own.last) for own in hidden])]
    spans = sorted([*hidden, *shown], key=lambda span: span.first)
    noise = rpm_noise(filled, dips)
    falls, slips = [], []
    for span in spans:
        ended_s = max((float(trace.time_s[other.last]) for other in spans if other.last < span.first), default=-np.inf)
        level = levels(trace.time_s, filled, span, ended_s)
        if _overlaps(span, taken) or not _at_check_speed(trace, span, level, profile.speed_scale):
            continue
        if not _came_back(trace, filled, span, level, profile.speed_scale):
            continue
        lasts = _lasts_as_check(trace, filled, span, level, slow, rises)
        if is_rotor and _falls_only_briefly(trace, filled, span):
            continue
        if not lasts and not (
            known.cycles is None and _lasts_as_cycle(trace, filled, span, level, profile.speed_scale)
        ):
            if level[0] - level[1] > _DISTURBS_RPM:
                slips.append(span)
            continue
        whole = Span(fall_begins(trace, filled, span.first), span.last) if is_rotor else span
        falls.append(replace(weigh(trace, profile, filled, whole, noise, ended_s), is_short=not lasts))
    possible = {
        MAGNETO: known.magnetos is None,
        HEAT: known.hot is None and (checks_heat(profile) or _may_be_heated(trace, profile)),
    }
    possible[CYCLE] = known.cycles is None
    may = {label for label, is_possible in possible.items() if is_possible}
    habits = Habits(profile.magneto_sides_apart, checks_heat(profile))
    told = label_falls(trace, falls, may, bool(known.magnetos or known.hot), profile.speed_scale, habits)
    return told, tuple(slips)


def _may_be_heated(trace: Trace, profile: Profile) -> bool:
    """Say whether hot air may be among the falls of a type that does not check it: there is a carburettor, and exhausts or manifold
    pressure to tell hot air by. RPM alone would make one of every side."""
    shows = bool(trace.cylinders("egt")) or trace.signal("map") is not None
    return profile.engine["fuel_system"] == "carburettor" and shows


def checks_heat(profile: Profile) -> bool:
    """Say whether run-ups of a type check carburettor heat: its lists ask for it, or it has a figure for it."""
    is_listed = any(item.check == "carb_heat_check" for item in profile.items.values())
    return is_listed or profile.has_limit("carb_heat_drop_max_rpm")


def _hidden(t: np.ndarray, rpm: np.ndarray, rises: Sequence[Span], dips: Sequence[Span]) -> list[Span]:
    """Return the spans in which the exhausts rose together while RPM was lower, by a single step of a coarse tachometer too. A
    rise no longer than a slip of the switch makes is none."""
    step, row_s, found = rounding_rpm(rpm), float(np.median(np.diff(t))), []
    for rise in rises if step else ():
        before = min(int(np.searchsorted(t, t[rise.first] - _HIDDEN_SINCE_S)), max(rise.first - 2, 0))
        steps = (np.max(rpm[before : rise.first + 1]) - rpm) / step
        lasts_s = float(t[rise.last] - t[rise.first])
        inside = [dip for dip in dips if _overlaps(rise, [(dip.first - 2, dip.last + 2)])]
        is_long = lasts_s > shortest_check_s(row_s) + row_s
        shown_s = [float(t[dip.last] - t[dip.first]) + row_s for dip in inside]
        if is_long and max(shown_s, default=0.0) < _MOMENT * lasts_s and _is_by_steps(steps, rise, inside):
            found.append(rise)
    return found


def _is_by_steps(steps: np.ndarray, rise: Span, dips: Sequence[Span]) -> bool:
    """Say whether RPM was lower for most of a rise (`steps`, rows, below the level before), and the falls that are seen in it are
    a second step for moments, as gusts make it, between which RPM never was back."""
    if np.median(steps[rise.first : rise.last + 1]) < 0.5:
        return False
    if not dips:
        return True
    seen = steps[dips[0].first : dips[-1].last + 1]
    return bool(seen.min() > 0.5 and seen.max() < _MOST_STEPS)


def _at_check_speed(trace: Trace, span: Span, level: tuple[float, float], scale: float) -> bool:
    """Say whether a fall was seen to begin, at a speed and a depth that checks are made at. `level` is RPM before it and at its
    bottom."""
    if trace.time_s[span.first] - trace.time_s[0] < _SEEN_BEFORE_S:
        return False  # it began before the trace: nobody saw it fall
    base, low = level
    return _CHECKED_FROM_RPM * scale <= base <= _CHECKED_TO_RPM * scale and base - low <= _DEEPEST_DIP_RPM * scale


def _came_back(trace: Trace, rpm: np.ndarray, span: Span, level: tuple[float, float], scale: float) -> bool:
    """Say whether RPM came back to the level before a fall and stayed there, be it briefly: as from taxiing to a stop and up
    to the run-up, or to idle and on to take-off, it does not."""
    t, step_s, (base, low) = trace.time_s, 1 / trace.rate_hz, level
    after = rpm[span.last + 1 : np.searchsorted(t, t[span.last] + max(_BACK_WITHIN_S, 3.5 * step_s), side="right")]
    if (
        not after.size
    ):  # the trace ends there: a check that is not over is told as such, a throttle that was closed is not
        return base - low < _PASSES_RPM * scale
    gives = float(np.interp(base / scale, (_IDLES_RPM, _RUN_UP_RPM), (0.1, 1.0)))
    past = np.flatnonzero(after > base + gives * _PASSES_RPM * scale)
    if not past.size:
        return bool(after.max() > base - max(_SHORT_SHARE * (base - low), _SHORT_RPM * scale))
    near_rpm = _BACK_NEAR_SHARE * (base - low) + _BACK_NEAR_RPM * scale
    return bool((np.abs(after[: past[0]] - base) < near_rpm).sum() * step_s >= _BACK_FOR_S)


def _lasts_as_check(
    trace: Trace, rpm: np.ndarray, span: Span, level: tuple[float, float], lag_scale: float, rises: Sequence[Span]
) -> bool:
    """Say whether a fall is long enough for a magneto or hot air and no slip, by RPM or, where that shows it poorly, by the
    exhausts, which come back slowly."""
    hot_s = [
        float(trace.time_s[r.last] - trace.time_s[r.first]) for r in rises if _overlaps(r, [(span.first, span.last)])
    ]
    by_rpm_s = _crossing_seconds(trace.time_s, rpm, span, level[0])
    is_plain = trace.rate_hz > _PLAIN_HZ and level[0] - level[1] > _PLAIN_RPM
    lasted_s = by_rpm_s if is_plain else max(by_rpm_s, *hot_s, 0.0)
    return lasted_s > shortest_check_s(1 / trace.rate_hz) + _SLIP_LASTS_ON * LIGHT_PROPELLER_LAG_S * (lag_scale - 1)


def _lasts_as_cycle(trace: Trace, rpm: np.ndarray, span: Span, level: tuple[float, float], scale: float) -> bool:
    """Say whether a fall that is too short for a magneto is long and deep enough for a propeller's cycle."""
    base, low = level
    lasted_s = _crossing_seconds(trace.time_s, rpm, span, base)
    return base - low > _QUICK_CYCLE_RPM * scale and lasted_s > _QUICK_CYCLE_S


def _falls_only_briefly(trace: Trace, rpm: np.ndarray, span: Span) -> bool:
    """Say whether a rotor's speed sinks no longer than a slip of the switch lasts: it comes back slowly, and the time below
    half of the fall does not tell."""
    begun = fall_begins(trace, rpm, span.first)
    smooth = uniform_filter1d(rpm, max(round(_SMOOTH_S * trace.rate_hz), 1))
    lowest = begun + int(np.argmin(smooth[begun : span.last + 1]))
    return bool(trace.time_s[lowest] - trace.time_s[begun] < shortest_check_s(1 / trace.rate_hz))


def _crossing_seconds(t: np.ndarray, rpm: np.ndarray, span: Span, base: float) -> float:
    """Return the time spent below half of the fall, between samples by straight lines."""
    low = float(np.median(np.sort(rpm[span.first : span.last + 1])[: max(2, (span.last - span.first + 1) // 2)]))
    middle = (base + low) / 2
    a, b = span.first, span.last
    start, end = t[a], t[b]
    if a > 0 and rpm[a - 1] > middle > rpm[a]:
        start = t[a - 1] + (rpm[a - 1] - middle) / (rpm[a - 1] - rpm[a]) * (t[a] - t[a - 1])
    if b + 1 < len(t) and rpm[b + 1] > middle > rpm[b]:
        end = t[b] + (middle - rpm[b]) / (rpm[b + 1] - rpm[b]) * (t[b + 1] - t[b])
    return float(end - start)


def check_groups(trace: Trace, spans: Sequence[tuple[Span, str]]) -> list[list[tuple[Span, str]]]:
    """Split spans into checks: a new one begins when the engine was left on both for 60 s."""
    return in_groups(trace.time_s, spans, lambda row: row[0], ONE_CHECK_GAP_S)


def holds_a_check(evidence: Evidence, first: int, end: int) -> bool:
    """Say whether a magneto or the propeller was checked in these rows (`end` behind the last): what lasts through it was no
    leaning in flight, though nothing shows the ground."""
    spans = evidence.once(recognise)
    checked = [*(span for span, _ in spans.magnetos), *spans.cycles]
    return any(span.first >= first and span.last < end for span in checked)
