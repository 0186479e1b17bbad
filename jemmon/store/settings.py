"""Settings that the owner changes on the screen: where the engine instrument is."""

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
