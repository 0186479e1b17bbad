"""A small simulated weather service: real HTTP in a process of its own, `GET /metar/STATION`. It can be told to be slow,
or to send nonsense. The stations and their weather are invented, and change with the hour."""

import os
import random
import threading
import time
from datetime import UTC, datetime, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

STATIONS = {"ZZLK": (12, 285), "ZZBR": (4, 60), "ZZTH": (27, 200)}
MODES = ("ok", "slow", "nonsense")
_SLOW_S = 10.0


def simulated_metar(station: str, now: datetime) -> str:
    """Return an invented METAR for a station and an hour; the same hour gives the same report."""
    warm_c, wind_from = STATIONS[station]
    dice = random.Random(f"{station}{now:%Y%m%d%H}")
    oat = warm_c + dice.randint(-4, 4)
    dew = oat - dice.randint(1, 9)
    wind = f"{(wind_from + dice.randint(-3, 3) * 10) % 360 or 360:03d}{dice.randint(4, 18):02d}KT"
    signed = [f"M{-t:02d}" if t < 0 else f"{t:02d}" for t in (oat, dew)]
    made = now if now.minute >= 50 else now - timedelta(hours=1)
    return f"{station} {made:%d%H}50Z {wind} 9999 SCT035 {signed[0]}/{signed[1]} Q{dice.randint(996, 1032)}"


def serve_weather(port: int, mode: str = "ok") -> None:
    """Serve on 127.0.0.1 only, until the process that started this one ends: none is left behind by a killed demo."""

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            station = self.path.rpartition("/")[2].upper()
            if mode == "slow":
                time.sleep(_SLOW_S)
            known = self.path.startswith("/metar/") and station in STATIONS
            text = simulated_metar(station, datetime.now(UTC)) if known else ""
            if mode == "nonsense":
                text = "<html>42 \x00 no weather today</html>"
            self.send_response(200 if text else 404)
            self.send_header("Content-Type", "text/plain; charset=utf-8")
            self.end_headers()
            self.wfile.write(text.encode())

        def log_message(self, *_: object) -> None:
            pass

    parent = os.getppid()

    def end_with_parent() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os._exit(0)

    threading.Thread(target=end_with_parent, daemon=True).start()
    ThreadingHTTPServer(("127.0.0.1", port), Handler).serve_forever()
