"""The power settings that a paper card prints, and what the day gives at full throttle."""

from ..aircraft import Profile
from ..base.figures import figure
from .settings import settings_for

_PCTS = (75.0, 65.0, 55.0)  # common practice: the powers that handbooks print
_USUAL_FT = (2_000.0, 6_000.0, 10_000.0)  # common practice: low, usual and high


def power_lines(profile: Profile) -> tuple[str, ...]:
    """Return a line for each power that handbooks print [%] at three pressure altitudes [ft] in standard air: the first setting
    that the type allows there; none where the profile has no power table."""
    lines = []
    for palt_ft in _USUAL_FT:
        for pct in _PCTS:
            found = settings_for(profile, pct, palt_ft)
            if found:
                one = found[0]
                pressure = "" if one.map_inhg is None else f", {figure(one.map_inhg, 'inhg')}"
                lines.append(
                    f"{figure(palt_ft, 'ft')}, {pct:.0f} %: {figure(one.rpm, 'rpm')}{pressure}, {figure(one.ff_gph, 'gph')}"
                )
    return tuple(lines)
