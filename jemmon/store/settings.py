"""Settings beside the flights: where the engine instrument is, which the owner changes on the screen; what the demo was made of."""

import json
import sqlite3
from dataclasses import asdict, dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceAddress:
    """Host and port of an engine instrument that sends JSON Lines over TCP."""

    host: str = "127.0.0.1"
    port: int = 8420


def device_address(db: sqlite3.Connection) -> DeviceAddress:
    """Return the address that was set, or the default."""
    row = db.execute("SELECT value FROM settings WHERE name = 'device'").fetchone()
    return DeviceAddress(**json.loads(row["value"])) if row else DeviceAddress()


def set_device_address(db: sqlite3.Connection, address: DeviceAddress) -> None:
    """Set the address for flights that begin from now on."""
    sql = "INSERT INTO settings (name, value) VALUES ('device', ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value"
    db.execute(sql, (json.dumps(asdict(address)),))


def demo_fingerprint(db: sqlite3.Connection) -> str | None:
    """Return what the demo's flights were made of, or None where there never was a demo."""
    row = db.execute("SELECT value FROM settings WHERE name = 'demo'").fetchone()
    return row["value"] if row else None


def set_demo_fingerprint(db: sqlite3.Connection, made_of: str) -> None:
    """Keep what the demo's flights are made of."""
    sql = (
        "INSERT INTO settings (name, value) VALUES ('demo', ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value"
    )
    db.execute(sql, (made_of,))
