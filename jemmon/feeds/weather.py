"""Asks a weather service for a METAR over HTTP: the small simulated one that ships, or another at the same path.

Nothing waits for it for long: no answer within the time is an error in words, and typed figures do.
"""

import urllib.error
import urllib.request

from ..core.base.weather import AirReport

TIMEOUT_S = 1.5
_MOST_BYTES = 4_000


class WeatherUnavailable(Exception):
    """The service gave no METAR; the message says why."""


def fetch_report(base_url: str, station: str, timeout_s: float = TIMEOUT_S) -> AirReport:
    """Return the report of a station.

    Raises:
        WeatherUnavailable: no answer in time, or none that is a METAR.
        OutOfRange: it answered with nonsense.
    """
    opener = urllib.request.build_opener(
        urllib.request.ProxyHandler({})
    )  # never by way of a proxy: it is a local service
    try:
        with opener.open(f"{base_url}/metar/{station}", timeout=timeout_s) as answer:
            data = answer.read(_MOST_BYTES)
    except (OSError, ValueError) as error:
        raise WeatherUnavailable(
            "The weather service does not answer. Type the figures; nothing waits for it."
        ) from error
    text = data.decode("utf-8", errors="replace").strip()
    if not text:
        raise WeatherUnavailable(f"The weather service knows nothing of {station}. Type the figures.")
    return AirReport.from_metar(text)
