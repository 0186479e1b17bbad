"""Flights as one file to keep elsewhere: what was said of each as JSON, its samples as a trace CSV."""

import json
import zipfile
from dataclasses import asdict
from typing import IO

from ..core.trace import write_trace_csv
from ..store import flights, samples
from ..store.database import Database


def write_zip(database: Database, file: IO[bytes], only: str | None = None) -> int:
    """Write the flights (or one of them) into a zip file: `<id>/flight.json`, `<id>/trace.csv` where there are samples (a file that
    was read in as it came), and the profile that each was flown with. Return how many flights it holds."""
    with database.reading() as db:
        ids = [line.id for line in flights.flight_lines(db)] if only is None else [only]
    profiles: set[str] = set()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as made:
        for flight_id in ids:
            with database.reading() as db:
                line, flight = flights.flight_line(db, flight_id), flights.flight_by_id(db, flight_id)
                events = flights.events_of(db, flight_id)
                text = samples.file_of(db, flight_id)
                trace = samples.trace_of(db, flight_id) if text is None else None
            if line is None or flight is None:
                continue  # it was removed meanwhile
            said = [
                {"id": e.id, "kind": e.kind, "at_s": e.at_s, "wall_utc": e.wall_utc, "body": e.body} for e in events
            ]
            whole = {"flight": asdict(line), "profile": flight.profile_hash, "events": said}
            made.writestr(f"{flight_id}/flight.json", json.dumps(whole, indent=1, ensure_ascii=False))
            if text is not None or trace is not None:
                made.writestr(f"{flight_id}/trace.csv", write_trace_csv(trace) if trace is not None else text or b"")
            profiles.add(flight.profile_hash)
        for content_hash in sorted(profiles):
            with database.reading() as db:
                body = flights.profile_by_hash(db, content_hash).body
            made.writestr(f"profiles/{content_hash}.json", json.dumps(body, indent=1, ensure_ascii=False))
    return len(ids)
