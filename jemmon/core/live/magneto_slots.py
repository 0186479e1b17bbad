"""The two sides of a magneto check as slots that fill while it is made: one sees what is missing."""

from dataclasses import dataclass
from typing import Literal

from ..aircraft import Item
from ..judgement.check import Evidence
from ..judgement.magneto import find_magneto_checks, side_word
from ..judgement.recognition import ONE_CHECK_GAP_S
from ..judgement.registry import checks
from ..trace.sample import Sample
from ..trace.signals import prefix_of

_POSITIONS = {"left": "L", "right": "R"}


@dataclass(frozen=True, slots=True, kw_only=True)
class SideSlot:
    """One side of the check: its name, whether it waits, is being made or is measured; its drop and the most that is allowed, both
    in `unit` (RPM or %)."""

    name: str
    state: Literal["open", "going", "done"]
    drop: float | None
    most: float
    unit: str


def magneto_slots(evidence: Evidence, item: Item, now: Sample) -> tuple[SideSlot, ...]:
    """Return the two sides of the magneto check that is being made; empty where the item asks for another check, or the profile
    lacks a limit that it needs."""
    profile = evidence.profile
    if item.check != "mag_check" or any(not profile.has_limit(name) for name in checks()["mag_check"].needs):
        return ()
    made = [one for one in evidence.once(find_magneto_checks) if now.at_s - one.end_s < ONE_CHECK_GAP_S]
    measured = made[-1].measured if made else {}
    known = "drop_first_rpm" not in measured
    position = now.levers.get(f"{prefix_of(item.engine or 1)}mag")
    full = profile.engine.get("rpm_at_100_pct")
    slots = []
    for name in ("left", "right") if known else ("first", "second"):
        drop_rpm, most_rpm = measured.get(f"drop_{name}_rpm"), profile.limit_of_side("mag_drop_max_rpm", name)
        going = position is not None and position == _POSITIONS.get(name)
        slots.append(
            SideSlot(
                name=side_word(profile, name),
                state="going" if going else "done" if isinstance(drop_rpm, float) else "open",
                drop=_shown(drop_rpm, full) if isinstance(drop_rpm, float) else None,
                most=_shown(most_rpm, full),
                unit="RPM" if full is None else "%",
            )
        )
    return tuple(slots)


def _shown(rpm: float, full: float | None) -> float:
    return round(rpm) if full is None else round(rpm / full * 100, 1)
