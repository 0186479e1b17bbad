"""The simulated engine instrument: the bench in a process of its own, flown by a script, served as JSON Lines on TCP."""

import json
import math
import socket
import threading
import time
from collections.abc import Mapping
from typing import Any

from ..core.aircraft import Profile
from ..core.bench import BenchScript, run_script
from ..core.start.advice import book_strokes
from .flying_group import TRAINER
from .scripts import Day, flight_script

RATE_HZ = 5.0


def serve_device(profile: Profile, port: int, script: list[dict[str, Any]] | None = None, speed: float = 1.0) -> None:
    """Serve one flight after another to whoever connects, on 127.0.0.1 only, until the process ends."""
    assert profile.bench is not None
    day = Day(oat_c=10.0, prime=round(book_strokes(profile, 10.0)), fault="late_timing_left", size=0.1)
    steps = script or flight_script(TRAINER, day)
    run = run_script(BenchScript.from_json(steps), profile.bench, rate_hz=RATE_HZ)
    columns: Mapping[str, Any] = {**run.shown, **run.levers}
    lines = [
        _line(float(t), {name: values[row] for name, values in columns.items()}) for row, t in enumerate(run.time_s)
    ]
    began = time.monotonic()

    def send(connection: socket.socket) -> None:
        with connection:
            while True:
                row = int((time.monotonic() - began) * speed * RATE_HZ) % len(lines)
                try:
                    connection.sendall(lines[row])
                except OSError:
                    return
                time.sleep(1 / RATE_HZ)

    with socket.create_server(("127.0.0.1", port)) as server:
        while True:
            connection, _ = server.accept()
            threading.Thread(target=send, args=(connection,), daemon=True).start()


def _line(time_s: float, values: Mapping[str, Any]) -> bytes:
    body: dict[str, Any] = {"t": round(time_s, 2)}
    for name, value in values.items():
        if isinstance(value, str):
            body[name] = value
        elif math.isfinite(float(value)):
            body[name] = round(float(value), 3)
    return json.dumps(body).encode() + b"\n"
