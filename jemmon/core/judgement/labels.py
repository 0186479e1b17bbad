"""Which fall is what, all falls of a run-up together: what each looks like, and what pilots do in which order.

Every labelling of the falls of one run-up is weighed (a handful of falls, four labels); a fall gets the label that most of the
weight agrees on, and stays unexplained where none has enough. Bayes' rule; what pilots do is common practice.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import exp, log

import numpy as np

from ..trace import Trace
from ..trace.dips import Span, in_groups, rounding_rpm
from .falls import CYCLE, HEAT, LABELS, MAGNETO, NOTHING, Fall

_ONE_RUN_UP_S = 60.0  # common practice, docs/formats.md: a check ends when the engine has been left on both for so long
# share of the weight that a label needs; a magneto wrongly told is a red bar for nothing, so it needs more. Fitted to
# tests/strange, seeds 0 to 199 and 3200 to 3599; the others' are lower by seeds 9,200,000 to 9,300,499: no more were told wrongly
_SURE = {MAGNETO: 0.85, HEAT: 0.75, CYCLE: 0.75, NOTHING: 0.75}
_HOPELESS = (
    9.0  # so much less likely than its best label, by the logarithm, that no neighbour makes up for it: arithmetic
)
# our own choice: rows so far apart [s], and what no slip of a direct-drive engine costs; from which rows on hot air, which comes
# slowly and is held for longer than a side, looks like one, or like a slip where it shows once
_SELDOM_S, _NO_SLIP_RPM, _HOT_AIR_SELDOM_S = 2.2, 150.0, 1.9
# share needed where rows come so seldom, or a tachometer steps so far [RPM]; fitted to tests/strange, seeds 9,300,000 to
# 9,300,499 and 9,710,000 to 9,710,799
_SURE_OF_POOR_DATA, _COARSE_RPM = 0.92, 18.0
_SHORT = (CYCLE, NOTHING)  # what a fall may be that is too short for a magneto or hot air: common practice
_MOST_TOGETHER, _MOST_WAYS = 14, 4**5  # falls weighed at once, and labellings of them: what a second can weigh
# logarithms of how usual it is (common practice): so many magneto sides, heats, cycles in one run-up. One side alone is what a
# magneto that is not grounded shows: with too little weight its heat was told as the other side, and the check as within. Fitted
# to tests/corpora/whole_run_ups.py, seeds 2,300,000 to 2,301,499
_SIDES = {0: -3.0, 1: -3.5, 2: 0.0, 3: -2.5, 4: -1.5}
_HEATS = {0: -2.0, 1: 0.0, 2: -2.0}
_HEATS_UNASKED = {0: 0.0, 1: -0.5, 2: -3.0}  # where no list asks for it (our own choice)
_CYCLES = {0: -2.0, 1: -0.5, 2: -0.7, 3: -0.5}
_UNUSUAL, _EACH_NOTHING, _EACH_THROTTLE = -4.0, -1.5, -1.2  # the last where manifold pressure shows a throttle
# a heat among the sides, and among the cycles, which are made one after the other
_CYCLE_LATE, _HEAT_BETWEEN, _HEAT_FIRST, _HEAT_AMONG_CYCLES = -2.0, -3.0, -0.8, -3.0
# spread of the logarithm of the two drops' ratio; one run-up in so many has a side that is not in order, and is checked for just
# that: its ratio spreads so far (common practice)
_SIDES_ALIKE, _NOT_IN_ORDER, _SIDES_APART = 0.45, 0.1, 1.3
_SIDES_UNLIKE = (
    0.7  # the same, about the ratio of their limits, where a type's two ignitions are not alike (our own choice)
)
# the same of two cycles, of which one in so many is pulled less far, and what their likeness speaks for them; fitted to
# tests/corpora/whole_run_ups.py, seeds 7,700,000 on, and to tests/strange/plain.py, seeds 0 to 599
_CYCLES_ALIKE, _PULLED_LESS, _CYCLES_APART, _CYCLE_AGAIN = 0.2, 0.5, 0.6, 2.0
_REPEATS_ALIKE = 0.4  # the same of a side that is checked again, to the nearest of the others (common practice)
_WORTH_TELLING_RPM = 20.0  # fitted to tests/strange, seeds 0 to 199: what gusts and a touched throttle leave alone


@dataclass(frozen=True, slots=True)
class Habits:
    """What run-ups of a type are like: the logarithm of the ratio of the two sides' limits, 0 where they are alike; whether they
    check carburettor heat."""

    sides_apart: float = 0.0
    checks_heat: bool = True


@dataclass(frozen=True, slots=True)
class Labelled:
    """What the falls are: spans on one magneto, on hot air, in coarse pitch, and the falls that stay unexplained."""

    magnetos: tuple[Span, ...] = ()
    hot: tuple[Span, ...] = ()
    cycles: tuple[Span, ...] = ()
    unexplained: tuple[Fall, ...] = ()


def label_falls(
    trace: Trace, falls: Sequence[Fall], possible: set[str], others_known: bool, scale: float, habits: Habits
) -> Labelled:
    """Return what each fall is. `possible` are the checks that may be among them; `others_known` where levers have told the
    other check, so that a pair is not missed here; `scale` is `Profile.speed_scale`."""
    told: dict[str, list[Span]] = {MAGNETO: [], HEAT: [], CYCLE: []}
    unexplained: list[Fall] = []
    slips: list[Fall] = []  # one row that a flicker explains: told only where nothing else is
    rpm = trace.signal("rpm")
    is_seldom = trace.rate_hz < 1 / _HOT_AIR_SELDOM_S
    is_poor = trace.rate_hz < 1 / _SELDOM_S or rpm is not None and rounding_rpm(rpm) >= _COARSE_RPM
    for group in _groups(trace, falls):
        for fall, (label, share) in zip(group, _agreed(group, possible, habits), strict=True):
            is_sure = share >= (_SURE_OF_POOR_DATA if is_poor or label == HEAT and is_seldom else _SURE[label])
            if is_sure and label != NOTHING and not _may_be_a_slip(trace, fall, label, scale):
                told[label].append(fall.span)
            elif fall.is_short:
                continue  # too short for a check, and no cycle: a hand that touched the throttle
            elif not (is_sure and label == NOTHING):
                unexplained.append(fall)
            elif fall.depth_rpm > _WORTH_TELLING_RPM and not fall.is_throttle:
                (slips if _may_be_a_slip(trace, fall, label, scale) else unexplained).append(fall)
    has_told = others_known or any(told.values())
    kept = (
        [fall for fall in unexplained if fall.depth_rpm > _WORTH_TELLING_RPM]
        if has_told
        else sorted([*unexplained, *slips], key=lambda fall: fall.span.first)
    )
    return Labelled(tuple(told[MAGNETO]), tuple(told[HEAT]), tuple(told[CYCLE]), tuple(kept))


def _may_be_a_slip(trace: Trace, fall: Fall, label: str, scale: float) -> bool:
    """Say whether rows come so seldom that the only one that shows a fall of this label may have met a slip of the switch."""
    seldom_s = _HOT_AIR_SELDOM_S if label == HEAT else _SELDOM_S
    is_one_row = fall.span.first == fall.span.last and trace.rate_hz < 1 / seldom_s
    return is_one_row and fall.depth_rpm < _NO_SLIP_RPM * scale


def _groups(trace: Trace, falls: Sequence[Fall]) -> list[list[Fall]]:
    """Return the falls of each run-up, no more of them together than can be weighed at once."""
    groups = in_groups(trace.time_s, falls, lambda fall: fall.span, _ONE_RUN_UP_S)
    return [part for group in groups for part in _weighable(trace.time_s, group)]


def _weighable(time_s: np.ndarray, group: list[Fall]) -> list[list[Fall]]:
    """Return the falls of one run-up, parted at its longest pauses where they are too many."""
    if len(group) <= _MOST_TOGETHER:
        return [group]
    pauses = [time_s[after.span.first] - time_s[fall.span.last] for fall, after in pairwise(group)]
    parted = int(np.argmax(pauses)) + 1
    return [*_weighable(time_s, group[:parted]), *_weighable(time_s, group[parted:])]


def _agreed(group: Sequence[Fall], possible: set[str], habits: Habits) -> list[tuple[str, float]]:
    """Return (label, share of the weight that agrees on it) of each fall."""
    usable = [label for label in LABELS if label == NOTHING or label in possible]
    likely = [_likely(fall, [label for label in usable if not fall.is_short or label in _SHORT]) for fall in group]
    ways, logs = _ways(group, likely)
    logs = logs + np.array([_usual(group, way, habits) for way in ways])
    weights = np.exp(logs - logs.max())
    weights /= weights.sum()
    agreed = []
    for place in range(len(group)):
        shares = {label: float(weights[[way[place] == label for way in ways]].sum()) for label in usable}
        best = max(shares, key=lambda label: shares[label])
        agreed.append((best, shares[best]))
    return agreed


def _ways(group: Sequence[Fall], likely: Sequence[Sequence[str]]) -> tuple[list[tuple[str, ...]], np.ndarray]:
    """Return the labellings of falls, the most likely where there are too many, and their logarithms (labellings,) by what each
    fall looks like."""
    ways: list[tuple[str, ...]] = [()]
    logs = np.zeros(1)
    for fall, labels in zip(group, likely, strict=True):
        logs = (logs[:, None] + np.array([fall.says[label] for label in labels])).ravel()
        ways = [(*way, label) for way in ways for label in labels]
        if len(ways) > _MOST_WAYS:
            best = np.argsort(-logs, kind="stable")[:_MOST_WAYS]
            ways, logs = [ways[place] for place in best], logs[best]
    return ways, logs


def _likely(fall: Fall, usable: Sequence[str]) -> list[str]:
    """Return the labels that a fall may have."""
    best = max(fall.says[label] for label in usable)
    return [label for label in usable if fall.says[label] > best - _HOPELESS]


def _how_alike(apart: float, alike: float, share: float, spread: float) -> float:
    """Return the logarithm of how usual it is that two depths are so far apart (logarithm of their ratio): mostly `alike`, a
    `share` of them spread wider."""
    mostly = (1 - share) * exp(-0.5 * (apart / alike) ** 2)
    return log(mostly + share * alike / spread * exp(-0.5 * (apart / spread) ** 2))


def _usual(group: Sequence[Fall], way: Sequence[str], habits: Habits) -> float:
    """Return the logarithm of how usual such a run-up is."""
    places = {label: [n for n, own in enumerate(way) if own == label] for label in LABELS}
    sides, heats, cycles = places[MAGNETO], places[HEAT], places[CYCLE]
    usual_heats = _HEATS if habits.checks_heat else _HEATS_UNASKED
    value = (
        _SIDES.get(len(sides), _UNUSUAL) + usual_heats.get(len(heats), _UNUSUAL) + _CYCLES.get(len(cycles), _UNUSUAL)
    )
    value += sum(_EACH_THROTTLE if group[place].is_throttle else _EACH_NOTHING for place in places[NOTHING])
    if sides:
        late = [place > sides[-1] for place in cycles]
        value += _CYCLE_LATE * (any(late) + sum(sides[0] < place < sides[-1] for place in cycles))
        value += _HEAT_BETWEEN * sum(sides[0] < place < sides[-1] for place in heats)
        value += _HEAT_FIRST * sum(place < sides[0] for place in heats)
    if cycles:
        value += _HEAT_AMONG_CYCLES * sum(cycles[0] < place < cycles[-1] for place in heats)
    depths = [log(group[place].depth_rpm) for place in sides]
    if len(sides) > 1:  # repeats among them: the deepest and the least deep are the two sides
        apart, alike = max(depths) - min(depths), _SIDES_UNLIKE if habits.sides_apart else _SIDES_ALIKE
        value += _how_alike(apart - habits.sides_apart, alike, _NOT_IN_ORDER, _SIDES_APART) - log(alike / _SIDES_ALIKE)
    for place in cycles[1:]:
        apart = log(group[place].depth_rpm / group[cycles[0]].depth_rpm)
        value += _how_alike(apart, _CYCLES_ALIKE, _PULLED_LESS, _CYCLES_APART)
        value += 0.0 if group[place].is_throttle else _CYCLE_AGAIN
    for own, depth in enumerate(depths if len(sides) > 2 else ()):
        nearest = min(abs(depth - other) for n, other in enumerate(depths) if n != own)
        value += -0.5 * (nearest / _REPEATS_ALIKE) ** 2
    return value
