"""Asks a weather service for a METAR over HTTP: the small simulated one that ships, or another at the same path.

Nothing waits for it for long: the whole answer comes within the time, or there is an error in words, and typed figures do.
"""

import http.client
import socket
import threading
from datetime import UTC, datetime
from urllib.parse import urlsplit

from ..core.base.errors import OutOfRange
from ..core.base.weather import AirReport, station_and_age

TIMEOUT_S = 1.5
OLDEST_MIN = 120.0
_MOST_BYTES = 4_000


class WeatherUnavailable(Exception):
    """The service gave no METAR; the message says why."""


def fetch_report(base_url: str, station: str, timeout_s: float = TIMEOUT_S, now: datetime | None = None) -> AirReport:
    """Return the report of a station; redirects are not followed, and no proxy is asked: it is a local service.

    Raises:
        WeatherUnavailable: no whole answer in time, none that is a METAR, one of another station, or one that is too old.
        OutOfRange: it answered with nonsense.
    """
    try:
        status, data = _get(base_url, f"/metar/{station}", timeout_s)
    except (OSError, ValueError, http.client.HTTPException) as error:
        raise WeatherUnavailable(
            "The weather service does not answer. Type the figures; nothing waits for it."
        ) from error
    text = data.decode("utf-8", errors="replace").strip()
    if status == 404 or not text:
        raise WeatherUnavailable(f"The weather service knows nothing of {station}. Type the figures.")
    if status != 200:
        raise WeatherUnavailable(f"The weather service answered {status}. Type the figures.")
    report = AirReport.from_metar(text)
    of, age_min = station_and_age(report.text, now or datetime.now(UTC))
    if age_min is None:
        raise OutOfRange(f"This METAR does not say when it was made: {report.text[:60]!r}.")
    if of != station:
        raise WeatherUnavailable(f"The weather service gave the report of {of}, not of {station}. Type the figures.")
    if age_min > OLDEST_MIN:
        raise WeatherUnavailable(f"The newest report of {station} is {age_min / 60:.0f} h old. Type the figures.")
    return report


def _get(base_url: str, path: str, timeout_s: float) -> tuple[int, bytes]:
    """Return (status, body) of a GET; a service that drips is cut off when the time is over."""
    address = urlsplit(base_url)
    connection = http.client.HTTPConnection(address.hostname or "", address.port or 80, timeout=timeout_s)
    connection.connect()
    line = connection.sock
    cut = threading.Timer(timeout_s, line.shutdown, [socket.SHUT_RDWR])
    cut.daemon = True
    cut.start()
    try:
        connection.request("GET", path, headers={"Accept": "text/plain"})
        answer = connection.getresponse()
        data = answer.read(_MOST_BYTES)
        if cut.finished.is_set():
            raise TimeoutError
        return answer.status, data
    finally:
        cut.cancel()
        connection.close()
