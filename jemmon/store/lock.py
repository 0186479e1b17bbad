"""One server on one database: a lock file beside it, held for life. The system lets it go when the process ends, in any way."""

import fcntl
import os
from pathlib import Path

from .database import DatabaseUnusable, why_unusable


class DatabaseInUse(Exception):
    """Another Jemmon runs on this database; the message says where."""


class DatabaseLock:
    """Holds `<database>.lock`, which says which process runs and where it answers."""

    def __init__(self, database: Path):
        self.path = database.with_name(f"{database.name}.lock")
        try:
            database.parent.mkdir(parents=True, exist_ok=True)
            self._file = self.path.open("a+", encoding="utf-8")
        except OSError as error:
            raise DatabaseUnusable(why_unusable(database, error)) from error
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            self._file.seek(0)
            where = self._file.read(200).strip() or "in another process"
            self._file.close()
            raise DatabaseInUse(
                f"Jemmon runs on {database} already: {where}. Use that one, or stop it first."
            ) from error
        self.say(f"process {os.getpid()}")

    def say(self, where: str) -> None:
        """Write where this server is to be found."""
        self._file.seek(0)
        self._file.truncate()
        self._file.write(where)
        self._file.flush()

    def release(self) -> None:
        """Let it go; a second call does nothing."""
        if not self._file.closed:
            self._file.truncate(0)
            self._file.close()
