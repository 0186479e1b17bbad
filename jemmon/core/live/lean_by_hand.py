"""Leaning by one EGT that is read out: the highest is kept, the rest subtracted, the side of the peak kept. Common practice, as in
any handbook's chapter on leaning (FAA-H-8083-25, from memory)."""

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
    egts = state.read_egt_f
    if len(egts) < 2:
        return look(LINE, "Type the EGT, lean a little, wait for it, type it again.")
    peak, side = max(egts), side_of_peak(egts)
    if side is None:
        return look(LINE, f"EGT highest {figure(peak, 'f')} and not past its peak yet: lean a little more, type it.")
    here = f"EGT {difference(peak - egts[-1], 'f')} below its peak of {figure(peak, 'f')}, {side} side."
    return look(LINE, f"{here} {_way(target, side, peak, egts[-1])}")


def side_of_peak(egt_f: tuple[float, ...]) -> str | None:
    """Return the side of the peak of EGT figures [°F] that were typed while the mixture went from rich to lean: lean once it fell
    from its highest, the other at each return to it; None before.

    >>> side_of_peak((1400.0, 1450.0, 1430.0)), side_of_peak((1400.0, 1450.0, 1430.0, 1448.0, 1425.0))
    ('lean', 'rich')
    """
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
