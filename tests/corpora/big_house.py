"""How long the application's answers take when it has kept a great deal: 2,000 flights, and a flight of 3,000 events."""

import json
import tempfile
import time
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from jemmon.api import create_app
from jemmon.app.settings import Settings
from jemmon.core.flight.fold import fold
from jemmon.core.screen.record import summary_of
from jemmon.demo.flying_group import build_demo
from jemmon.library.shipped import shipped_profiles
from jemmon.store import flights
from jemmon.store.database import Database

FLIGHTS, EVENTS = 2000, 3000
PAGES = {
    "first page, its flights": "/api/flights?limit=8",
    "first page, its aircraft": "/api/aircraft",
    "records, a page of them": "/api/flights?limit=50",
    "records, all of them": "/api/flights",
    "trends of one aircraft": "/api/aircraft/a-trainer/trends",
    "starts of one aircraft": "/api/aircraft/a-trainer/starts",
}


def answers_ms() -> dict[str, float]:
    """Return the time [ms] of each page's question with 2,000 flights kept, the longest of five."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "big.db"
        _fill(path)
        app = create_app(Settings(database=path))
        client = app.test_client()
        try:
            return {
                name: max(_ms(lambda url=url: client.get(url).data) for _ in range(5)) for name, url in PAGES.items()
            }
        finally:
            app.extensions["hangar"].close()


def event_ms() -> tuple[float, float]:
    """Return the time [ms] at 95 % of confirming an item at the beginning of a flight, and of one with 3,000 events."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Settings(database=Path(folder) / "long.db"))
        client = app.test_client()
        body = {"id": "f", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana", "source": "manual"}
        assert client.post("/api/flights", json=body).status_code == 201

        def confirm(number: int) -> None:
            event = {"id": f"e{number}", "kind": "item_done", "body": {"item": "day"}}
            assert (
                client.post(
                    "/api/flights/f/events", data=json.dumps(event), content_type="application/json"
                ).status_code
                == 201
            )

        try:
            spent = [_ms(lambda n=number: confirm(n)) for number in range(EVENTS)]
            return float(np.quantile(spent[:200], 0.95)), float(np.quantile(spent[-200:], 0.95))
        finally:
            app.extensions["hangar"].close()


def _ms(work) -> float:
    start = time.perf_counter()
    work()
    return (time.perf_counter() - start) * 1000


def _fill(path: Path) -> None:
    """Keep the demo's flights again and again, each copy an hour older, under ids of its own."""
    kept = Database(path)
    profile = shipped_profiles()["a-trainer"]
    build_demo(kept, shipped_profiles(), only=5)
    with kept.reading() as db:
        originals = [flights.flight_by_id(db, f"demo-a-trainer-{number}") for number in range(1, 6)]
        events = {flight.id: flights.events_of(db, flight.id) for flight in originals if flight}
    summaries = {name: summary_of(profile, fold(profile, own), own[-1].at_s) for name, own in events.items()}
    with kept.writing() as db:
        for number in range(FLIGHTS - len(originals)):
            flight = originals[number % len(originals)]
            assert flight is not None
            own = f"copy-{number}"
            started = datetime.now(UTC) - timedelta(days=40, hours=number)
            flights.add_flight(db, replace(flight, id=own, started_utc=started.isoformat(timespec="seconds")))
            for event in events[flight.id]:
                seq, _ = flights.add_event(db, own, replace(event, id=event.id.replace(flight.id, own)))
            flights.put_summary(db, own, replace(summaries[flight.id], last_seq=seq))
    kept.close()
