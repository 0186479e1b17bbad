"""The take-off briefing in the pilot's own order, composed from the profile, the runway, the wind and the air.

FAA-H-8083-3 (airplane flying handbook) for the three cases of a twin; the turn-back altitude is the profile's. Words,
not permission: the runway, the weather and the pilot decide.
"""

from ..aircraft import Profile
from ..base.figures import figure
from ..base.weather import Air


def compose_briefing(profile: Profile, air: Air | None) -> list[str]:
    """Return the briefing line by line; `air` is None while the weather is not known."""
    own = profile.briefing
    lines = [_where(air)]
    if own["kind"] == "twin":
        lines += [
            "Anything wrong while rolling: throttles closed, brakes, stop.",
            f"In the air below blue line ({figure(own['blue_line_kt'], 'kt')}) with runway or gear down: close both, land.",
            f"At or above blue line ({figure(own['blue_line_kt'], 'kt')}), gear up or moving: keep straight and hold the attitude; "
            "all levers to power; drag in; idle foot shows the side; prove it with its throttle, and leave that lever back.",
            f"Then feather. Blue line, 5° bank and half a ball to the live engine. Below red line "
            f"({figure(own['red_line_kt'], 'kt')}) power comes back first.",
            "Accuracy before speed: there is time.",
        ]
    elif own["kind"] == "helicopter":
        lines += [
            "Anything wrong in the hover: hold attitude, cushion the landing.",
            f"In flight: collective down at once, {figure(own['glide_kt'], 'kt')}, into wind.",
            "Stay out of the height and speed combinations that the handbook shades.",
        ]
    else:
        lines += [
            "Anything wrong while rolling: throttle closed, brakes, stop.",
            "In the air with runway enough ahead: land on it.",
            f"None left and below {own['turn_back_ft']:.0f} ft above the ground: land ahead, {figure(own['glide_kt'], 'kt')}.",
            f"Higher: {figure(own['glide_kt'], 'kt')}, the field that was chosen, then the drill.",
        ]
    if "rotate_kt" in own:
        lines.append(f"Rotate at {figure(own['rotate_kt'], 'kt')}, climb at {figure(own['climb_kt'], 'kt')}.")
    return lines


def _where(air: Air | None) -> str:
    if air is None:
        return "Runway, wind and density altitude: not entered."
    parts = []
    if air.runway_deg is not None:
        parts.append(f"Runway heading {air.runway_deg:03.0f}")
    if air.headwind_kt is not None:
        name = "headwind" if air.headwind_kt >= 0 else "TAILWIND"
        across = f"from the {air.crosswind_from} {air.crosswind_kt or 0:.0f} kt{' in gusts' if air.gust_kt else ''}"
        parts.append(f"{name} {abs(air.headwind_kt):.0f} kt, {across}")
    elif air.wind_kt is not None:
        parts.append(f"wind {air.wind_kt:.0f} kt")
    if air.density_altitude_ft is not None:
        parts.append(f"density altitude {air.density_altitude_ft:,.0f} ft")
    return "; ".join(parts) + "." if parts else "Runway, wind and density altitude: not entered."


def briefing_due(profile: Profile, briefed_s: float | None, phase_id: str, now_s: float) -> str | None:
    """Return why the briefing is to be read (again) before take-off, or None where it is fresh or not yet its time. Times in
    seconds [s]."""
    take_off = profile.place(profile.take_off.phase)
    if profile.place(phase_id) != take_off - 1 or briefed_s is None:
        return None
    age_s = now_s - briefed_s
    if age_s <= profile.briefing_delay_s:
        return None
    return f"The briefing was read {age_s / 60:.0f} min ago: read it again."
