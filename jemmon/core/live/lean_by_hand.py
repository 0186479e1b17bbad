"""Leaning by EGT that is read out, of one probe or of each cylinder: the highest is kept, the rest subtracted, the side of the peak
kept; rich of peak counts from the first to peak, lean of it from the last. Common practice, as in any handbook's chapter on leaning
(FAA-H-8083-25, from memory)."""

from collections.abc import Mapping
from dataclasses import dataclass

from ..aircraft import LeanTarget, Profile
from ..base.figures import difference, figure
from ..flight.state import FlightState
from .lines import AirLine, look

EGT = "egt_f"
LINE = "lean_by_hand"
# a needle is read to so much, and a mixture is set as near (common practice) [°F]
_READ_TO_F, _NEAR_F = 5.0, 10.0


def lean_by_hand(profile: Profile, state: FlightState) -> AirLine | None:
    """Return what the EGT figures say that were typed while leaning, with the way to the chosen target; None where the type has
    no target."""
    target = next((t for t in profile.lean_targets if t.id == state.lean_target), None) or next(
        iter(profile.lean_targets), None
    )
    if target is None:
        return None
    if (table := egt_table(profile, state)) is not None and len(table.rows) > 0:
        return look(LINE, _of_each(target, table, _series(state)))
    egts = state.read_egts_f.get(EGT, ())
    if len(egts) < 2:
        return look(LINE, "Type the EGT, lean a little, wait for it, type it again.")
    peak, side = max(egts), side_of_peak(egts)
    if side is None:
        return look(LINE, f"EGT highest {figure(peak, 'f')} and not past its peak yet: lean a little more, type it.")
    here = f"EGT {difference(peak - egts[-1], 'f')} below its peak of {figure(peak, 'f')}, {side} side."
    return look(LINE, f"{here} {_way(target, side, peak, egts[-1])}")


@dataclass(frozen=True, slots=True, kw_only=True)
class EgtTable:
    """The EGT figures [°F] that were typed for each cylinder, a row for each step of the mixture; which cylinders passed their
    peak, which was first and last to it (the last only when all have), and whose figure is asked next."""

    cylinders: tuple[int, ...]
    rows: tuple[tuple[float | None, ...], ...]
    passed: tuple[int, ...]
    first: int | None
    last: int | None
    next: int


def egt_table(profile: Profile, state: FlightState) -> EgtTable | None:
    """Return the table of a leaning cylinder by cylinder, or None where the type has no target."""
    if not profile.lean_targets:
        return None
    cylinders = tuple(range(1, int(profile.engine["cylinders"]) + 1))
    series = _series(state)
    steps = max(map(len, series.values()), default=0)
    rows = tuple(tuple(_at(series.get(c, ()), step) for c in cylinders) for step in range(steps))
    passed = tuple(c for c in cylinders if side_of_peak(series.get(c, ())) is not None)
    order = sorted(
        passed, key=lambda c: next(n for n, egt in enumerate(series[c]) if egt >= max(series[c]) - _READ_TO_F)
    )
    typed = {c for c in cylinders if c in series}
    lengths = {c: len(series.get(c, ())) for c in cylinders}
    return EgtTable(
        cylinders=cylinders,
        rows=rows,
        passed=passed,
        first=order[0] if order else None,
        last=order[-1] if order and set(passed) == typed and len(typed) > 1 else None,
        next=min(cylinders, key=lambda c: (lengths[c], c)),
    )


def _series(state: FlightState) -> dict[int, tuple[float, ...]]:
    """Return the EGT figures [°F] of each cylinder that has any."""
    probes: Mapping[str, tuple[float, ...]] = state.read_egts_f
    return {int(name[3:-2]): egts for name, egts in probes.items() if name[3:-2].isdigit()}


def _at(series: tuple[float, ...], step: int) -> float | None:
    return series[step] if step < len(series) else None


def _of_each(target: LeanTarget, table: EgtTable, series: Mapping[int, tuple[float, ...]]) -> str:
    """Return what the table says: who peaked, how far the one that counts is from its peak, which way to the target."""
    if table.first is None:
        return "No cylinder is past its peak yet: lean a little more, type each."
    counts = table.first if target.side == "rich" else table.last
    if counts is None:
        waiting = ", ".join(str(c) for c in series if c not in table.passed)
        return f"Cylinder {table.first} peaked first. Lean on until the others have peaked too: {waiting}."
    egts = series[counts]
    peak, side = max(egts), side_of_peak(egts)
    which = "first" if target.side == "rich" else "last"
    below = difference(peak - egts[-1], "f")
    here = f"Cylinder {counts} peaked {which}: {below} below its peak of {figure(peak, 'f')}, {side} side."
    return f"{here} {_way(target, str(side), peak, egts[-1])}"


def side_of_peak(egt_f: tuple[float, ...]) -> str | None:
    """Return the side of the peak of EGT figures [°F] that were typed while the mixture went from rich to lean: lean once it fell
    from its highest, the other at each return to it; None before.

    >>> side_of_peak((1400.0, 1450.0, 1430.0)), side_of_peak((1400.0, 1450.0, 1430.0, 1448.0, 1425.0))
    ('lean', 'rich')
    """
    if not egt_f:
        return None
    peak = max(egt_f)
    crossings, is_at_peak = 0, False
    for value in egt_f[egt_f.index(peak) :]:
        is_near = value >= peak - _READ_TO_F
        crossings += is_at_peak and not is_near
        is_at_peak = is_near
    if not crossings:
        return None
    return "lean" if crossings % 2 else "rich"


def _way(target: LeanTarget, side: str, peak_f: float, now_f: float) -> str:
    """Return what to do next for a target."""
    aim = f"{target.name}: {figure(peak_f - target.offset_f, 'f')} on the {target.side} side"
    if side != target.side:
        return f"{aim}; go back over the peak, {'richer' if side == 'lean' else 'leaner'}."
    off = (peak_f - now_f) - target.offset_f
    if abs(off) <= _NEAR_F:
        return f"{target.name}: there."
    away = "richer" if target.side == "rich" else "leaner"
    back = "leaner" if target.side == "rich" else "richer"
    return f"{aim}; a little {back if off > 0 else away}."
