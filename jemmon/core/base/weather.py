"""The air at the field: a METAR or figures typed by hand, and what follows from them for the engine and the run-up.

The METAR code is WMO No. 306, FM 15; the `metar` library reads it. Carburettor icing follows the chart of FAA SAIB
CE-09-35 by temperature and dew point (its corner points are from memory).
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from datetime import datetime, timedelta
from math import cos, radians, sin
from typing import Any, Literal

from metar import Metar

from .atmosphere import density_altitude_ft
from .errors import OutOfRange, check_range, checked_number

STANDARD_INHG = 29.92
_ALTIMETER_FT, _ALTIMETER_EXPONENT = 145_366.45, 0.190284  # published: US National Weather Service
_CALM_KT = 3.0
# WMO No. 306 FM 15: a METAR's wind is from true north; runway numbers are magnetic (ICAO Annex 14)
_TRUE_AGAINST_MAGNETIC = "The report's wind is true, a runway's number magnetic: allow for the variation here."
_STATION = re.compile(r"\b[A-Z]{4}\b")
_HEAD = re.compile(r"\b(?:METAR |SPECI )?(?:COR )?([A-Z][A-Z0-9]{3}) (\d{2})(\d{2})(\d{2})Z\b")
_LONGEST_BACK_DAYS = 33  # the group names the day of the month only


@dataclass(frozen=True, slots=True, kw_only=True)
class AirReport:
    """Temperature, dew point [°C], pressure [inHg], wind [° true, kt]; None where not reported. `source` metar, typed."""

    source: str
    oat_c: float | None = None
    dewpoint_c: float | None = None
    altimeter_inhg: float | None = None
    wind_from_deg: float | None = None
    wind_kt: float | None = None
    gust_kt: float | None = None
    text: str = ""

    @classmethod
    def from_metar(cls, text: str) -> "AirReport":
        """Return what a METAR says.

        Raises:
            OutOfRange: the text is not a METAR, says nothing of use, or holds a figure out of range.
        """
        text = " ".join(text.split())[:300]
        if not _STATION.search(text):
            raise OutOfRange(f"This is not a METAR: {text[:60]!r}.")
        try:
            # the month that the library would guess need not have the report's day; nothing that is read here depends on it
            report = Metar.Metar(text, month=1, year=2000, strict=False)
        except Metar.ParserError as error:
            raise OutOfRange(f"This METAR cannot be read: {str(error)[:120]}") from error
        made = cls(
            source="metar",
            oat_c=report.temp.value("C") if report.temp else None,
            dewpoint_c=report.dewpt.value("C") if report.dewpt else None,
            altimeter_inhg=report.press.value("IN") if report.press else None,
            wind_from_deg=float(report.wind_dir.value()) if report.wind_dir else None,
            wind_kt=report.wind_speed.value("KT") if report.wind_speed else None,
            gust_kt=report.wind_gust.value("KT") if report.wind_gust else None,
            text=text,
        )
        if made.oat_c is None and made.altimeter_inhg is None and made.wind_kt is None:
            raise OutOfRange("This METAR has neither temperature, pressure nor wind.")
        made.check()
        return made

    @classmethod
    def from_json(cls, body: Mapping[str, Any]) -> "AirReport":
        """Return the report in an event's body. Raises OutOfRange where a figure is missing
        or out of range."""
        figures = {
            name: checked_number(f"`{name}`", body[name], OutOfRange)
            for name in ("oat_c", "dewpoint_c", "altimeter_inhg", "wind_from_deg", "wind_kt", "gust_kt")
            if body.get(name) is not None
        }
        made = cls(source=str(body.get("source", "typed"))[:20], text=str(body.get("text", ""))[:300], **figures)
        made.check()
        return made

    def check(self) -> None:
        """Raise OutOfRange where a figure is out of range; hPa typed for inHg is asked back."""
        for what, value, low, high, unit in (
            ("outside air temperature", self.oat_c, -60, 60, "°C"),
            ("dew point", self.dewpoint_c, -80, 40, "°C"),
            ("pressure", self.altimeter_inhg, 25, 32, "inHg"),
            ("wind direction", self.wind_from_deg, 0, 360, "°"),
            ("wind", self.wind_kt, 0, 150, "kt"),
        ):
            if value is not None:
                check_range(what, value, low, high, unit)
        if self.oat_c is not None and self.dewpoint_c is not None and self.dewpoint_c > self.oat_c + 0.6:
            raise OutOfRange(f"The dew point {self.dewpoint_c:g} °C must be below the temperature {self.oat_c:g} °C.")


def station_and_age(text: str, now: datetime) -> tuple[str | None, float | None]:
    """Return (the station that a METAR is of, its age in minutes [min] at a moment); None where it does not say. The age is below 0
    for one that is dated a little ahead. Date and time group as in WMO No. 306, FM 15."""
    head = _HEAD.search(text)
    if head is None:
        return None, None
    station, day, hour, minute = head[1], int(head[2]), int(head[3]), int(head[4])
    for back in range(_LONGEST_BACK_DAYS):
        date = now + timedelta(days=1 - back)
        if date.day == day and hour < 24 and minute < 60:
            made = date.replace(hour=hour, minute=minute, second=0, microsecond=0)
            if made - now < timedelta(hours=1):
                return station, (now - made).total_seconds() / 60
    return station, None


def pressure_altitude_ft(elevation_ft: float, altimeter_inhg: float) -> float:
    """Return the pressure altitude [ft] at a field of this elevation [ft] and altimeter setting [inHg], by the altimeter's own
    formula (US National Weather Service; the table of FAA-H-8083-25, figure on density altitude, follows it)."""
    share = float((altimeter_inhg / STANDARD_INHG) ** _ALTIMETER_EXPONENT)
    return elevation_ft + _ALTIMETER_FT * (1 - share)


def icing_likelihood(oat_c: float, dewpoint_c: float) -> str:
    """Return how likely carburettor ice is: serious at any power, serious at glide power, possible, or unlikely.

        The areas follow the chart of FAA SAIB CE-09-35 (corner points from memory): by temperature and the dew-point
        depression.
    Temperatures in °C."""
    depression = oat_c - dewpoint_c
    if not -15 <= oat_c <= 38:
        return "unlikely"
    # colder air holds so little water that its areas end one after the other, the gravest first (AC 20-113: most likely between
    # -7 and 21 °C; below about -10 °C what there is is ice crystals, which do not stick)
    if depression <= 6 and -4 <= oat_c <= 16 and dewpoint_c >= -6:
        return "serious at any power"
    if depression <= 11 and -7 <= oat_c <= 30:
        return "serious at glide power"
    if depression <= 20 and -12 <= oat_c <= 35:
        return "possible"
    return "unlikely"


def wind_on_runway(wind_from_deg: float, wind_kt: float, runway_deg: float) -> tuple[float, float]:
    """Return (headwind, crosswind from the right) [kt] on a runway heading (arithmetic)."""
    angle = radians(wind_from_deg - runway_deg)
    return wind_kt * cos(angle), wind_kt * sin(angle)


@dataclass(frozen=True, slots=True, kw_only=True)
class Air:
    """A report with all that follows from it: pressure and density altitude [ft], wind on the runway [kt] (the headwind steady, the
    crosswind with its gusts), the heading that faces the wind [°], how likely carburettor ice is, what to allow for. What is not
    known is None."""

    source: str
    text: str
    oat_c: float | None
    dewpoint_c: float | None
    altimeter_inhg: float | None
    wind_from_deg: float | None
    wind_kt: float | None
    gust_kt: float | None
    elevation_ft: float | None
    runway_deg: float | None
    pressure_altitude_ft: int | None = None
    density_altitude_ft: int | None = None
    icing: str | None = None
    headwind_kt: int | None = None
    crosswind_kt: int | None = None
    crosswind_from: Literal["left", "right"] | None = None
    face_deg: int | None = None
    wind_note: str | None = None


def describe_air(body: Mapping[str, Any]) -> Air:
    """Return a `weather` event's body with all that follows from it. Raises OutOfRange where a figure is missing or
    out of range."""
    report = AirReport.from_json(body)
    elevation_ft = _figure_of(body, "elevation_ft", "field elevation", -1500, 15000, "ft")
    runway_deg = _figure_of(body, "runway_deg", "runway heading", 0, 360, "°")
    told = {f.name: getattr(report, f.name) for f in fields(report)}
    air = Air(**told, elevation_ft=elevation_ft, runway_deg=runway_deg)
    return _with_wind(_with_altitudes(air))


def _figure_of(body: Mapping[str, Any], name: str, what: str, lowest: float, highest: float, unit: str) -> float | None:
    if body.get(name) is None:
        return None
    value = checked_number(f"`{name}`", body[name], OutOfRange)
    check_range(what, value, lowest, highest, unit)
    return value


def _with_altitudes(air: Air) -> Air:
    icing = None
    if air.oat_c is not None and air.dewpoint_c is not None:
        icing = icing_likelihood(air.oat_c, air.dewpoint_c)
    if air.elevation_ft is None or air.altimeter_inhg is None:
        return replace(air, icing=icing)
    pressure_ft = round(pressure_altitude_ft(air.elevation_ft, air.altimeter_inhg))
    dense = None if air.oat_c is None else round(density_altitude_ft(pressure_ft, air.oat_c, air.dewpoint_c))
    return replace(air, icing=icing, pressure_altitude_ft=pressure_ft, density_altitude_ft=dense)


def _with_wind(air: Air) -> Air:
    from_deg = air.wind_from_deg
    if from_deg is None or (air.wind_kt or 0) < _CALM_KT:
        return air
    air = replace(air, face_deg=round(from_deg / 10) * 10 or 360)
    if air.runway_deg is None:
        return air
    head, _ = wind_on_runway(from_deg, float(air.wind_kt or 0), air.runway_deg)
    _, cross = wind_on_runway(from_deg, max(float(air.wind_kt or 0), float(air.gust_kt or 0)), air.runway_deg)
    side: Literal["left", "right"] = "right" if cross >= 0 else "left"
    note = _TRUE_AGAINST_MAGNETIC if air.source == "metar" else None
    return replace(air, headwind_kt=round(head), crosswind_kt=round(abs(cross)), crosswind_from=side, wind_note=note)
