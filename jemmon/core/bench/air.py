"""The air that an engine breathes, as the compiled step needs it."""

import numpy as np

from ..base.atmosphere import ZERO_CELSIUS_K, humidity_ratio, standard_pressure_pa, standard_temperature_c
from .layout import AIR

METRES_PER_SECOND_PER_KT = 0.514444


def air_record(
    palt_ft: float = 0.0, oat_c: float | None = None, dewpoint_c: float | None = None, ias_kt: float = 0.0
) -> np.ndarray:
    """Return one AIR record (shape ()). Standard temperature and dry air where not given.

    Raises:
        OutOfRange: outside the range of the atmosphere.
    """
    pressure_pa = standard_pressure_pa(palt_ft)
    temperature_c = standard_temperature_c(palt_ft) if oat_c is None else oat_c
    humidity = 0.0 if dewpoint_c is None else humidity_ratio(pressure_pa, min(dewpoint_c, temperature_c))
    values = (pressure_pa, temperature_c + ZERO_CELSIUS_K, humidity, ias_kt * METRES_PER_SECOND_PER_KT, palt_ft)
    return np.array(values, AIR)
