"""What the ear tells a screen: the speed that is heard, or why none is, and how loud the sound comes."""

from collections.abc import Mapping
from dataclasses import dataclass

from ..aircraft import Profile
from ..hearing.live import HeardNow, Why
from ..trace.signals import prefix_of

_QUIET_DB, _LOUD_DB = -60.0, 0.0  # the ends of the bar (common practice)
_SAYS: Mapping[Why, str] = {
    "no_tap": "Cannot hear yet: set the run-up speed, read the needle, tap what it shows.",
    "noise": "Cannot hear: too much noise.",
    "other_speed": "Cannot hear: it could be half of that, or another part. Read the needle and tap again.",
    "other_engine": "Cannot hear: another engine turns at nearly this speed. Read the needle.",
    "gap": "Cannot hear: a part of the sound is missing.",
}
_CLIPS = " The sound is cut off: hold the tablet further away."


@dataclass(frozen=True, slots=True, kw_only=True)
class EarNow:
    """The ear at this moment: RPM with its plus-or-minus, None where it is unsure; what that means in words; how loud the sound is
    [% of the bar]; whose engine is heard; and what the needle shows most likely when it is tapped [RPM]."""

    rpm: int | None
    plus_minus_rpm: int | None
    says: str
    level_pct: int
    engine: int
    tap_rpm: int


def ear_now(profile: Profile, heard: HeardNow, engine: int) -> EarNow:
    """Return what is heard of an engine, for the screen."""
    rpm, off = (None if x is None else round(x) for x in (heard.rpm, heard.plus_minus_rpm))
    says = _SAYS[heard.why] if rpm is None and heard.why else f"Hearing {rpm:,} ±{off}"
    level = (heard.level_db - _QUIET_DB) / (_LOUD_DB - _QUIET_DB)
    return EarNow(
        rpm=rpm,
        plus_minus_rpm=off,
        says=says + (_CLIPS if heard.clips else ""),
        level_pct=round(100 * min(max(level, 0.0), 1.0)),
        engine=engine,
        tap_rpm=round(profile.find_limit("runup_rpm") or 0),
    )


def heard_readings(profile: Profile, rpm: float | None, engine: int) -> dict[str, float]:
    """Return the reading that a heard speed [RPM] is; none above the type's limit, where only the needle counts."""
    most = profile.find_limit("rpm_max")
    return {} if rpm is None or (most is not None and rpm > most) else {f"{prefix_of(engine)}rpm": rpm}
