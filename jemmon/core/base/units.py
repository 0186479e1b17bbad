"""Conversions at the edges. Inside the core each quantity has one unit, said in the name of the value.

Core units: °F (engine temperatures, the unit of the trade's figures), °C (air), inHg (manifold pressure),
US gal/h (fuel flow), psi (oil and fuel pressure), ft, kt, RPM, V, A. `TO_CORE` turns what a trace column says
into them; `DISPLAYS` is the table that the front end shows figures by.

Source of the factors: exact definitions (NIST SP 811), the gallon being 3.785411784 L and 4.54609 L.
"""

from dataclasses import asdict, dataclass

HPA_PER_INHG = 33.86389
KPA_PER_PSI = 6.894757
PSI_PER_BAR = 14.503774
LITRE_PER_US_GALLON = 3.785411784
LITRE_PER_IMPERIAL_GALLON = 4.54609
KG_PER_LB = 0.45359237
AVGAS_KG_PER_LITRE = 0.72
STANDARD_INHG = 29.92126
PASCAL_PER_INHG = HPA_PER_INHG * 100
INHG_PER_PSI = KPA_PER_PSI * 10 / HPA_PER_INHG
METRE_PER_FOOT = 0.3048
METRE_PER_INCH = 0.0254
LITRE_PER_CUBIC_INCH = 0.016387064
WATTS_PER_HP = 745.69987
KM_PER_NAUTICAL_MILE = 1.852
KM_PER_STATUTE_MILE = 1.609344


@dataclass(frozen=True, slots=True)
class Linear:
    """`core = value * scale + shift`."""

    scale: float
    shift: float = 0.0

    def to_core(self, value: float) -> float:
        """Return the value in the core's unit."""
        return value * self.scale + self.shift

    def from_core(self, value: float) -> float:
        """Return a core value in this unit."""
        return (value - self.shift) / self.scale


def celsius(fahrenheit: float) -> float:
    """Return a temperature [°C] given in °F.

    >>> celsius(212.0)
    100.0
    """
    return (fahrenheit - 32.0) / 1.8


SAME = Linear(1.0)
_LB_PER_GALLON = AVGAS_KG_PER_LITRE * LITRE_PER_US_GALLON / KG_PER_LB

# core unit -> unit suffix of a trace column -> how to get to the core unit
TO_CORE: dict[str, dict[str, Linear]] = {
    "f": {"f": SAME, "c": Linear(1.8, 32.0)},
    "inhg": {
        "inhg": SAME,
        "kpa": Linear(10 / HPA_PER_INHG),
        "hpa": Linear(1 / HPA_PER_INHG),
        "psi_boost": Linear(INHG_PER_PSI, STANDARD_INHG),
    },
    "gph": {
        "gph": SAME,
        "impgph": Linear(LITRE_PER_IMPERIAL_GALLON / LITRE_PER_US_GALLON),
        "lph": Linear(1 / LITRE_PER_US_GALLON),
        "lbh": Linear(1 / _LB_PER_GALLON),
        "kgh": Linear(1 / (AVGAS_KG_PER_LITRE * LITRE_PER_US_GALLON)),
    },
    "psi": {"psi": SAME, "kpa": Linear(1 / KPA_PER_PSI), "bar": Linear(PSI_PER_BAR)},
    "ft": {"ft": SAME, "m": Linear(1 / METRE_PER_FOOT)},
    "kt": {
        "kt": SAME,
        "mph": Linear(KM_PER_STATUTE_MILE / KM_PER_NAUTICAL_MILE),
        "kmh": Linear(1 / KM_PER_NAUTICAL_MILE),
    },
    "gal": {"gal": SAME, "l": Linear(1 / LITRE_PER_US_GALLON)},
    "v": {"v": SAME},
    "a": {"a": SAME},
}


@dataclass(frozen=True, slots=True)
class Display:
    """How a core unit is shown: `shown = core * scale + shift`, with so many decimals."""

    label: str
    scale: float
    shift: float
    decimals: int


_KNOTS_PER_MPH = KM_PER_STATUTE_MILE / KM_PER_NAUTICAL_MILE
_US_PER_IMPERIAL_GALLON = LITRE_PER_IMPERIAL_GALLON / LITRE_PER_US_GALLON

# core unit -> name of the choice -> how it is shown. A difference of temperatures uses the scale alone.
DISPLAYS: dict[str, dict[str, Display]] = {
    "f": {"us": Display("°F", 1, 0, 0), "metric": Display("°C", 1 / 1.8, -32 / 1.8, 0)},
    "inhg": {
        "us": Display("inHg", 1, 0, 1),
        "metric": Display("hPa", HPA_PER_INHG, 0, 0),
        "boost": Display("psi boost", 1 / INHG_PER_PSI, -STANDARD_INHG / INHG_PER_PSI, 1),
    },
    "gph": {
        "us": Display("gal/h", 1, 0, 1),
        "metric": Display("L/h", LITRE_PER_US_GALLON, 0, 1),
        "imperial": Display("imp gal/h", 1 / _US_PER_IMPERIAL_GALLON, 0, 1),
    },
    "psi": {"us": Display("psi", 1, 0, 0), "metric": Display("bar", 1 / PSI_PER_BAR, 0, 1)},
    "gal": {
        "us": Display("US gal", 1, 0, 1),
        "metric": Display("L", LITRE_PER_US_GALLON, 0, 0),
        "imperial": Display("imp gal", 1 / _US_PER_IMPERIAL_GALLON, 0, 1),
    },
    "pct": {"us": Display("%", 1, 0, 0), "metric": Display("%", 1, 0, 0)},
    "rpm": {"us": Display("RPM", 1, 0, 0), "metric": Display("RPM", 1, 0, 0)},
    "v": {"us": Display("V", 1, 0, 1), "metric": Display("V", 1, 0, 1)},
    "a": {"us": Display("A", 1, 0, 0), "metric": Display("A", 1, 0, 0)},
    "ft": {"us": Display("ft", 1, 0, 0), "metric": Display("ft", 1, 0, 0)},
    "kt": {
        "us": Display("kt", 1, 0, 0),
        "metric": Display("kt", 1, 0, 0),
        "mph": Display("mph", 1 / _KNOTS_PER_MPH, 0, 0),
        "kmh": Display("km/h", KM_PER_NAUTICAL_MILE, 0, 0),
    },
    "c": {"us": Display("°F", 1.8, 32, 0), "metric": Display("°C", 1, 0, 0)},
    "hp": {"us": Display("hp", 1, 0, 0), "metric": Display("kW", WATTS_PER_HP / 1000, 0, 0)},
    "l": {"metric": Display("L", 1, 0, 2), "us": Display("cu in", 1 / LITRE_PER_CUBIC_INCH, 0, 1)},
    "kg": {"us": Display("lb", 1 / KG_PER_LB, 0, 0), "metric": Display("kg", 1, 0, 0)},
    "m": {"us": Display("in", 1 / METRE_PER_INCH, 0, 1), "metric": Display("m", 1, 0, 3)},
    "fpm": {"us": Display("ft/min", 1, 0, 0), "metric": Display("ft/min", 1, 0, 0)},
    "s": {"us": Display("s", 1, 0, 0), "metric": Display("s", 1, 0, 0)},
    "qt": {
        "us": Display("qt", 1, 0, 1),
        "metric": Display("L", LITRE_PER_US_GALLON / 4, 0, 1),
        "imperial": Display("imp pt", 2 / _US_PER_IMPERIAL_GALLON, 0, 1),
    },
}


@dataclass(frozen=True, slots=True, kw_only=True)
class UnitFamily:
    """Units that a pilot chooses together: its name, what it is called, the core units that follow the choice, and the choices."""

    name: str
    title: str
    units: tuple[str, ...]
    choices: tuple[str, ...] = ("us", "metric")


# a cockpit may well have gauges in inHg beside tanks in litres: each family is chosen by itself; what is in none has one unit
FAMILIES = (
    UnitFamily(name="temperature", title="Temperature", units=("f", "c")),
    UnitFamily(name="manifold_pressure", title="Manifold pressure", units=("inhg",), choices=("us", "metric", "boost")),
    UnitFamily(name="pressure", title="Oil and fuel pressure", units=("psi",)),
    UnitFamily(
        name="fuel", title="Fuel, and oil in the sump", units=("gal", "gph", "qt"), choices=("us", "metric", "imperial")
    ),
    UnitFamily(name="mass", title="Mass and arm", units=("kg", "m")),
    UnitFamily(name="speed", title="Airspeed", units=("kt",), choices=("us", "mph", "kmh")),
)


def display_table() -> dict[str, dict[str, dict[str, object]]]:
    """Return `DISPLAYS` as plain data for the front end."""
    return {unit: {name: asdict(display) for name, display in row.items()} for unit, row in DISPLAYS.items()}
