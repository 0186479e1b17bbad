"""Whether a way to set the mixture is allowed now: by the power, the type's limit and how even the engine is.

About 20 to 60 °F rich of peak at high power is where pressures and CHT are highest; the band to avoid widens with power on
both sides. Rich targets near peak: not above the type's figure (usually 65 to 75 %); at peak: below about 65 %; lean of peak:
even engines (common practice).
"""

from dataclasses import dataclass

from ..aircraft import LeanTarget, Profile
from ..base.figures import difference

# common practice: powers above which a school is not used, and how even an engine must be
_USUAL_MOST_PCT, _PEAK_MOST_PCT = 75.0, 65.0
# common practice, but where it says otherwise
_SAFELY_RICH_F, _UNEVEN_GPH = 75.0, 0.5
_CUT_OFF = 0.1


def lean_power_most_pct(profile: Profile) -> float:
    """Return the percentage of power above which a type is not leaned near its peak: its own, else 75 (common practice). In
    percent of rated power."""
    limit = profile.limits.get("lean_power_max_pct")
    return limit.value if limit else _USUAL_MOST_PCT


def refusal(
    profile: Profile,
    target: LeanTarget,
    power_pct: float | None,
    spread_gph: float | None,
    slack_pct: float = 0.0,
) -> str | None:
    """Return why a target is not allowed now, with what to do instead, or None where it is (or the power is not known).
    `slack_pct`: how far above a limit the power may stand before it counts, where it was read off needles. Power in percent,
    spread in gal/h."""
    most, counts = lean_power_most_pct(profile), -1.0 if power_pct is None else power_pct - slack_pct
    at = f"At {power_pct:.0f} % not" if power_pct is not None else ""
    if target.offset_f < 5 and target.side != "lean" and counts > _PEAK_MOST_PCT:
        return f"{at} at peak: below {_PEAK_MOST_PCT:.0f} % only. Less power, or {difference(100, 'f')} rich."
    if target.side == "rich" and target.offset_f < _SAFELY_RICH_F and counts > most:
        return (
            f"{at} {difference(target.offset_f, 'f')} rich: above {most:.0f} % it is the hottest place. "
            f"Stay {difference(100, 'f')} rich and more, or set less power."
        )
    if target.side == "lean" and counts > most:
        return f"{at} lean of peak: above {most:.0f} % your book must allow it. Less power first."
    if target.side == "lean" and spread_gph is not None and spread_gph > _UNEVEN_GPH:
        return (
            f"The cylinders peak {difference(spread_gph, 'gph')} apart: too uneven for lean of peak. "
            "Stay rich of the first; have the nozzles looked at."
        )
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class MixtureAdvice:
    """What a type whose mixture has detents, or sets itself, allows now; `wrong` where the lever is in a detent that this power
    does not allow."""

    how: str
    say: str
    wrong: bool


def mixture_advice(profile: Profile, rpm: float, map_inhg: float, lever: float | None) -> MixtureAdvice | None:
    """Return the advice of a type whose mixture has detents or sets itself, or None where the pilot leans by a gauge or
    by ear: which positions this power allows, and whether the lever is in one that it does not."""
    power = profile.power_section
    how = power.get("mixture", "lever")
    if how == "automatic":
        return MixtureAdvice(how=how, say="The computer sets the mixture; watch turbine and fuel flow.", wrong=False)
    if how != "detents":
        return None
    detents = power["detents"]
    allowed = [d for d in detents if rpm <= d.get("below_rpm", rpm) and map_inhg <= d.get("below_map_inhg", map_inhg)]
    stands = None if lever is None else min(detents, key=lambda d: abs(d["lever"] - lever))
    wrong = stands is not None and stands not in allowed and lever is not None and lever > _CUT_OFF
    names = " or ".join(d["name"] for d in allowed)
    say = f"{stands['name']} is not for this power: {names}." if wrong and stands else f"At this power {names}."
    return MixtureAdvice(how=how, say=say, wrong=wrong)
