"""What a figure does over the flights of one aircraft. For now one sentence; slope and shift tests come with the run-up work."""

from collections.abc import Sequence

_FLIGHTS = 5


def drop_sentence(drops: Sequence[tuple[str, float | None]]) -> str:
    """Return one sentence on the left drop [RPM] of the newest aircraft's last five flights that have one.

    `drops` are (registration, drop), newest first.
    """
    known = [(registration, drop) for registration, drop in drops if drop is not None]
    same = [drop for registration, drop in known if registration == known[0][0]][:_FLIGHTS]
    if len(same) < 2:
        return "No two flights with a magneto check yet."
    change = same[0] - same[-1]
    way = "up" if change >= 0 else "down"
    return f"{known[0][0]}: left drop {same[0]:.0f} RPM, {way} {abs(change):.0f} in {len(same)} flights."
