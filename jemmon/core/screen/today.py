"""The numbers of today on one page before the start: the runway and its wind, the air, and what they make of the type's figures."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from ..aircraft import Profile
from ..base.atmosphere import density_altitude_ft, standard_temperature_c
from ..base.figures import figure
from ..base.weather import Air, describe_air
from ..fuel.tanks import reserve_minutes, tanks_of
from ..live.take_off import LOW_BY_INHG
from ..power.map_limit import map_limit_inhg, never_exceed_kt
from ..power.settings import fuel_flow_gph, static_full_throttle_inhg, static_least_rpm
from .air import air_of
from .aircraft import AircraftLine, aircraft_line

_HIGHEST_CRUISE_PCT = 75.0  # of rated power (common practice)


@dataclass(frozen=True, slots=True, kw_only=True)
class DayFigure:
    """A figure of today: its title, value in a core unit, what it is for, and whether it is to be looked at twice."""

    title: str
    value: float
    unit: str
    note: str
    look: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class DayAsked:
    """What is told of a day beside its weather: variation [°, east positive], altitude of the cruise [ft], fuel in all tanks
    [US gal], people on board."""

    variation_deg: float = 0.0
    cruise_ft: float | None = None
    fuel_gal: float | None = None
    people: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class TodayPage:
    """The numbers of today; `cruise_ft` is the altitude that climb and level-off are told by, `tanks` are those that the fuel is
    typed for, `weather` is the body of the event that tells a flight of this air."""

    aircraft: AircraftLine
    air: Air
    cruise_ft: float | None
    people: int | None
    tanks: tuple[str, ...]
    figures: tuple[DayFigure, ...]
    weather: Mapping[str, Any]


def today_page(profile: Profile, told: Mapping[str, Any], day: DayAsked) -> TodayPage:
    """Return what a day makes of an aircraft's figures. `told` is a `weather` event's body with the wind's direction true [°]; the
    runway's is magnetic, so the wind is turned by the variation.

    Raises:
        OutOfRange: a figure is out of its range.
    """
    weather = dict(told)
    if weather.get("wind_from_deg") is not None:
        weather["wind_from_deg"] = (float(weather["wind_from_deg"]) - day.variation_deg) % 360
    air = air_of(profile, describe_air(weather))
    level_ft = profile.schedule.get("cruise_ft") if day.cruise_ft is None else day.cruise_ft
    return TodayPage(
        aircraft=aircraft_line(profile),
        air=air,
        cruise_ft=level_ft,
        people=day.people,
        tanks=tanks_of(profile),
        figures=(*_figures(profile, air), *_fuel(profile, day.fuel_gal)),
        weather={name: value for name, value in weather.items() if value is not None},
    )


def _figures(profile: Profile, air: Air) -> Iterator[DayFigure]:
    palt_ft, oat_c = air.pressure_altitude_ft, air.oat_c
    if palt_ft is None:
        return
    outside_c = standard_temperature_c(palt_ft) if oat_c is None else oat_c
    told_ft = air.density_altitude_ft  # with the air's humidity, where it is known
    density_ft = density_altitude_ft(palt_ft, outside_c) if told_ft is None else float(told_ft)
    yield _figure("Pressure altitude", palt_ft, "ft", "At the field, by the altimeter setting.")
    yield _figure("Density altitude", round(density_ft), "ft", "The engine and the propeller feel this.")
    yield from _of_the_engine(profile, palt_ft, outside_c, density_ft)
    yield from _wind(air)


def _figure(title: str, value: float, unit: str, note: str) -> DayFigure:
    return DayFigure(title=title, value=value, unit=unit, note=note)


def _of_the_engine(profile: Profile, palt_ft: float, outside_c: float, density_ft: float) -> Iterator[DayFigure]:
    """Yield what this air makes of the engine's figures."""
    least, most = static_least_rpm(profile, palt_ft, outside_c), profile.find_limit("static_max_rpm")
    if least is not None:
        yield _figure("Static RPM, at least", least, "rpm", "Full throttle, standing, in this air.")
    if most is not None:
        yield _figure("Static RPM, at most", most, "rpm", "Full throttle, standing, in any air.")
    has_pressure = "map_inhg" in {name for phase in profile.phases for name in phase.instruments}
    if has_pressure and profile.engine["propeller"] != "fixed_pitch":
        full = static_full_throttle_inhg(profile, float(profile.engine["rated_rpm"]), palt_ft)
        value = min(full, profile.find_limit("map_max_inhg") or full)
        yield _figure("Manifold pressure at full throttle", round(value, 1), "inhg", _when_it_is_less(profile, full))
    of_the_day = map_limit_inhg(profile, palt_ft, outside_c)
    if of_the_day is not None:
        yield _figure("Limit of the day", round(of_the_day, 1), "inhg", "From the type's chart; said aloud.")
    never_exceed = never_exceed_kt(profile, palt_ft, outside_c)
    if never_exceed is not None:
        yield _figure(
            "Never-exceed speed of the day", math.floor(never_exceed), "kt", "From the type's chart; said aloud."
        )
    leans_ft = profile.start.leans_above_ft
    if leans_ft is not None and density_ft > leans_ft:
        yield _figure("Mixture leaned above", leans_ft, "ft", "Today's density altitude is higher: not full rich.")


def _when_it_is_less(profile: Profile, full_inhg: float) -> str:
    if profile.engine["propeller"] == "rotor":
        return "Standing, in this air; the limit of the day and the red line come first."
    return f"Standing, in this air. Below {figure(full_inhg - LOW_BY_INHG, 'inhg')} the take-off is told to stop."


def _fuel(profile: Profile, fuel_gal: float | None) -> Iterator[DayFigure]:
    """Yield how long the fuel lasts to the reserve, at the flow of the highest cruise."""
    if fuel_gal is None:
        return
    yield _figure("Fuel on board", fuel_gal, "gal", "As it was dipped.")
    if not {"rated_power_hp", "compression_ratio"} <= set(profile.engine):
        return
    flow_gph = len(profile.engines) * fuel_flow_gph(profile, _HIGHEST_CRUISE_PCT)
    left_gal = fuel_gal - flow_gph * reserve_minutes(profile) / 60
    reserve = f"the reserve is {reserve_minutes(profile):.0f} minutes"
    note = f"At {_HIGHEST_CRUISE_PCT:.0f} % power; {reserve}; taxi and climb not taken off."
    yield DayFigure(
        title="Minutes to the reserve",
        value=max(round(left_gal / flow_gph * 60), 0),
        unit="",
        note=note,
        look=left_gal <= 0,
    )


def _wind(air: Air) -> Iterator[DayFigure]:
    if air.headwind_kt is not None:
        title = "Headwind" if air.headwind_kt >= 0 else "TAILWIND"
        note = "Along the runway, steady."
        yield DayFigure(title=title, value=abs(air.headwind_kt), unit="kt", note=note, look=air.headwind_kt < 0)
    if air.crosswind_kt is not None:
        yield _figure("Crosswind", air.crosswind_kt, "kt", f"From the {air.crosswind_from}, with its gusts.")
