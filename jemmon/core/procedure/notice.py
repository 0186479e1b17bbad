"""What people forget: a phase that has begun with its list unread, take-off power with something unproven, a put-back
that is still away, and what can be done while something warms up."""

from collections.abc import Mapping
from typing import Any

from ..aircraft import Item, Profile, PutBack
from .progress import Progress, is_open, lists_of, open_items

# common practice, but where it says otherwise
_COLLECTIVE_IS_UP, _ROTOR_TURNS_PCT = 0.05, 50.0
_NEEDLES_PARTED_PCT = 3.0  # common practice: an engine so far behind its rotor has left it


def phase_begun(profile: Profile, phase_id: str, known: Mapping[str, Any]) -> str | None:
    """Return the latest phase after this one that the data show to have begun, or None."""
    later = profile.phases[profile.place(phase_id) + 1 :]
    begun = [phase.id for phase in later if phase.begins and all(c.holds(known) is True for c in phase.begins)]
    return begun[-1] if begun else None


def late_lists(profile: Profile, reached: str, progress: Progress, known: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Return the lists of the phases before the one reached that have open items: which, and whether nobody read them. Those of the
    ground are told until the climb is over: then nothing of them can be done any more."""
    rows = []
    for phase in profile.phases[_first_of_use(profile, reached) : profile.place(reached)]:
        for one in lists_of(phase, known):
            waiting = [item for item in one.items if is_open(progress, item)]
            if waiting:
                unread = len(waiting) == len(one.items) and not any(item.id in progress.aside for item in waiting)
                first = [item.challenge for item in waiting]
                rows.append({"list": one.id, "title": one.title, "phase": phase.id, "unread": unread, "open": first})
    return rows


def _first_of_use(profile: Profile, reached: str) -> int:
    """Return the place of the first phase whose lists are still of use."""
    take_off = profile.place(profile.take_off.phase)
    climbs = [place for place, phase in enumerate(profile.phases) if profile.kind_of(phase.id).climbs]
    return take_off if profile.place(reached) > max(climbs, default=take_off) else 0


def power_rises(profile: Profile, phase_id: str, known: Mapping[str, Any]) -> bool:
    """Say whether power rises towards take-off: as the data show, or because the pilot entered that phase by hand."""
    if profile.place(phase_id) > profile.place(profile.take_off.phase):
        return False
    by_data = [condition.holds(known) for condition in profile.take_off.when]
    if all(held is True for held in by_data):
        return True
    return phase_id == profile.take_off.phase and all(held is None for held in by_data)


def blocks(profile: Profile, put_back: PutBack, phase_id: str) -> bool:
    """Say whether a pair that is away keeps this phase from being called complete."""
    if put_back.back_by is None:
        return True
    return profile.place(phase_id) + 1 >= profile.place(put_back.back_by)


def still_away(profile: Profile, phase_id: str, away: Mapping[str, float], carried: frozenset[str]) -> list[PutBack]:
    """Return the pairs that must be put back (or left on purpose, explicitly) before this phase is complete. Times in seconds
    [s]."""
    return [p for p in profile.put_backs if p.id in away and p.id not in carried and blocks(profile, p, phase_id)]


def meanwhile(
    profile: Profile, phase_id: str, waiting: tuple[Item, ...], progress: Progress, known: Mapping[str, Any]
) -> tuple[Item, ...]:
    """Return the items that can be done while the first waiting one takes its time: later ones of this phase, and of
    the next, that the profile marks so."""
    place = profile.place(phase_id)
    following = profile.phases[place + 1 : place + 2]
    later = [*waiting[1:], *(item for phase in following for item in open_items(phase, progress, known))]
    return tuple(item for item in later if item.meanwhile and item.id not in progress.aside)[:3]


def minutes_left(readings: list[tuple[float, float]], wanted: float) -> float | None:
    """Return the minutes until a slow reading reaches a figure, by the slope of (time [s], value) pairs; None where it
    is not on its way or there is too little to go by (under 20 s)."""
    if len(readings) < 5 or readings[-1][0] - readings[0][0] < 20:
        return None
    count = len(readings)
    mean_t, mean_v = sum(t for t, _ in readings) / count, sum(v for _, v in readings) / count
    spread = sum((t - mean_t) ** 2 for t, _ in readings)
    slope = sum((t - mean_t) * (v - mean_v) for t, v in readings) / spread
    to_go = wanted - readings[-1][1]
    if slope == 0 or to_go / slope <= 0 or to_go / slope > 7200:
        return None
    return to_go / slope / 60


def low_rotor(profile: Profile, known: Mapping[str, Any]) -> str | None:
    """Return the warning of a helicopter whose rotor turns too slowly while the collective is up, or None. The horn sounds
    from the type's figure down; it is silent with the collective fully down, as on the ground."""
    horn, rotor = profile.limits.get("rotor_horn_pct"), known.get("rotor_pct")
    if horn is None or rotor is None or float(known.get("collective") or 0.0) < _COLLECTIVE_IS_UP:
        return None
    if not _ROTOR_TURNS_PCT < float(rotor) < horn.value:
        return None
    engine = known.get("rpm_pct")
    drives = engine is None or float(engine) > float(rotor) - _NEEDLES_PARTED_PCT
    then = "Collective down, throttle up." if drives else "Collective down: no engine drives it."
    return f"Low rotor RPM: {float(rotor):.0f} %. {then}"
