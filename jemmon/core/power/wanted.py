"""A change of power that the pilot asks for: what to set, as steps in their order, and within a band is right. Pure."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..aircraft import Profile
from ..base.errors import EventError, checked_number
from .levers import lever_steps
from .schools import refusal
from .settings import fixed_pitch_rpm, settings_for

# common practice, but where it says otherwise
_USUAL_PCTS = (75.0, 65.0, 55.0)
_BAND_RPM, _BAND_INHG = 40.0, 0.6  # common practice: within a band; a profile's own band goes first
_MOST_RPM, _MOST_INHG = 8000.0, 80.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerChoice:
    """A power that may be asked for: RPM and manifold pressure [inHg], None where it says nothing of one."""

    id: str
    title: str
    rpm: float | None = None
    map_inhg: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedPower:
    """The steps from here to the power that is asked for, the next one first; `there` when it is reached."""

    title: str
    steps: tuple[str, ...]
    there: bool
    say: str


def power_choices(
    profile: Profile, palt_ft: float, oat_c: float | None, target_id: str | None = None
) -> tuple[PowerChoice, ...]:
    """Return what may be asked for here: the type's own settings, then percentages of rated power that the type's table gives
    at this altitude and temperature, at the mixture that the pilot leans to where it is allowed."""
    own = (PowerChoice(**row) for row in profile.power_section.get("settings", []))
    return (*own, *(c for pct in _USUAL_PCTS if (c := _choice(profile, pct, palt_ft, oat_c, target_id))))


def _choice(
    profile: Profile, pct: float, palt_ft: float, oat_c: float | None, target_id: str | None
) -> PowerChoice | None:
    title, name = f"{pct:.0f} %", f"pct_{pct:.0f}"
    propeller = profile.engine["propeller"]
    if propeller == "fixed_pitch" and profile.power is None:
        return PowerChoice(id=name, title=title, rpm=fixed_pitch_rpm(profile, pct, palt_ft, oat_c))
    if propeller not in ("fixed_pitch", "constant_speed"):
        return None
    target = next((t for t in profile.lean_targets if t.id == target_id), None)
    lean = target if target and target.side == "lean" and refusal(profile, target, pct, None) is None else None
    side, offset = (lean.side, lean.offset_f) if lean else (None, None)
    rows = settings_for(profile, pct, palt_ft, oat_c, side, offset)
    if not rows:
        return None
    row = rows[len(rows) // 3]  # quiet rather than loud, and not at the lowest RPM with the highest pressure
    said = f"{title} lean of peak" if lean else title
    return PowerChoice(id=name, title=said, rpm=row.rpm, map_inhg=row.map_inhg)


def check_wanted(body: Mapping[str, Any]) -> None:
    """Raise EventError for a wanted power whose figures are out of range."""
    if not isinstance(body.get("title"), str) or not 0 < len(body["title"]) <= 60:
        raise EventError("`title` must say in a few words what power is wanted.")
    for name, most in (("rpm", _MOST_RPM), ("map_inhg", _MOST_INHG)):
        if body.get(name) is not None:
            checked_number(f"`{name}`", body[name], EventError, 1e-6, most)


def wanted_steps(
    profile: Profile, wanted: Mapping[str, Any], rpm: float, map_inhg: float | None, mixture_is_lean: bool
) -> WantedPower:
    """Return the steps from here to the wanted power, the next one first, and whether it is reached: inside the type's band
    the screen is calm and asks for nothing."""
    section = profile.power_section
    band_rpm, band_inhg = section.get("band_rpm", _BAND_RPM), section.get("band_inhg", _BAND_INHG)
    to_rpm, to_map = wanted.get("rpm"), wanted.get("map_inhg")
    rpm_there = to_rpm is None or abs(rpm - to_rpm) <= band_rpm
    map_there = to_map is None or map_inhg is None or abs(map_inhg - to_map) <= band_inhg
    if rpm_there and map_there:
        return WantedPower(title=wanted["title"], steps=(), there=True, say="Within the band: leave it.")
    if profile.engine["propeller"] == "fixed_pitch" and to_rpm is not None:
        way = "open" if to_rpm > rpm else "close"
        steps = [f"Throttle: {way} it to RPM {to_rpm:,.0f}"]
        if way == "open" and mixture_is_lean:
            steps.insert(0, "Mixture rich, or set for the new power")
    else:
        steps = lever_steps(
            profile,
            rpm,
            map_inhg if map_inhg is not None else 0.0,
            rpm if rpm_there else float(to_rpm or rpm),
            map_inhg if map_there or to_map is None else float(to_map),  # type: ignore[arg-type]
            mixture_is_lean,
        )
    return WantedPower(title=wanted["title"], steps=tuple(steps), there=False, say=steps[0] if steps else "Settling.")
