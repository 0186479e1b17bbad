"""Opening the database, transactions and migrations. WAL, foreign keys on, `synchronous=FULL`: a commit is on the disk."""

from __future__ import annotations

import errno
import shutil
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

_PATIENCE_S = 5.0
_READS_WAIT_MS = 2000
MIGRATIONS = Path(__file__).parent / "migrations"


class NotWritten(Exception):
    """The database did not take it; nothing was changed. `code` says why: busy, disk_full, read_only, corrupt, disk_error."""

    def __init__(self, code: str):
        super().__init__(code)
        self.code = code


class DatabaseUnusable(Exception):
    """The database cannot be opened; the message says why and what to do."""


_REASONS = {
    sqlite3.SQLITE_BUSY: "busy",
    sqlite3.SQLITE_LOCKED: "busy",
    sqlite3.SQLITE_FULL: "disk_full",
    sqlite3.SQLITE_READONLY: "read_only",
    sqlite3.SQLITE_PERM: "read_only",
    sqlite3.SQLITE_CANTOPEN: "read_only",
    sqlite3.SQLITE_CORRUPT: "corrupt",
    sqlite3.SQLITE_NOTADB: "corrupt",
}


def reason_of(error: sqlite3.Error) -> str:
    """Return the code of why SQLite refused, by the primary part of its own code."""
    return _REASONS.get(getattr(error, "sqlite_errorcode", 0) & 0xFF, "disk_error")


def connect(path: Path) -> sqlite3.Connection:
    """Return a connection with the project's settings; it may be used from any thread, one at a time."""
    db = sqlite3.connect(path, isolation_level=None, check_same_thread=False, timeout=_READS_WAIT_MS / 1000)
    db.row_factory = sqlite3.Row
    for pragma in ("journal_mode = WAL", "foreign_keys = ON", "synchronous = FULL", f"busy_timeout = {_READS_WAIT_MS}"):
        db.execute(f"PRAGMA {pragma}")
    return db


@contextmanager
def transaction(db: sqlite3.Connection) -> Iterator[None]:
    """Keep all that the block writes, or nothing of it."""
    db.execute("BEGIN IMMEDIATE")
    try:
        yield
        db.commit()
    except BaseException:
        db.rollback()  # does nothing if the error has already ended the transaction
        raise


def migrate(db: sqlite3.Connection, path: Path, folder: Path = MIGRATIONS) -> int:
    """Bring the schema up to date and return its number. Each step and its record are one transaction; a database that
    holds something is copied beside itself first."""
    db.execute("CREATE TABLE IF NOT EXISTS migrations (number INTEGER PRIMARY KEY, name TEXT NOT NULL) STRICT")
    done = {row["number"] for row in db.execute("SELECT number FROM migrations")}
    files = sorted(folder.glob("*.sql"))
    newest = max((int(file.name[:3]) for file in files), default=0)
    if done and max(done) > newest:
        raise DatabaseUnusable(
            f"{path} was written by a newer Jemmon (schema {max(done)}; this one knows {newest}). Install that one, or name "
            "another database."
        )
    waiting = [file for file in files if int(file.name[:3]) not in done]
    if waiting and done:
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        shutil.copy2(path, path.with_suffix(f".before-{waiting[0].name[:3]}.db"))
    for file in waiting:
        with transaction(db):
            for statement in _statements(file.read_text(encoding="utf-8")):
                db.execute(statement)
            db.execute("INSERT INTO migrations (number, name) VALUES (?, ?)", (int(file.name[:3]), file.name))
    return max([*done, *(int(file.name[:3]) for file in waiting)], default=0)


def _statements(script: str) -> Iterator[str]:
    """Split a script by what SQLite calls a complete statement (`executescript` would commit what is open)."""
    text = ""
    for line in script.splitlines(keepends=True):
        text += line
        if sqlite3.complete_statement(text):
            yield text
            text = ""


_OPENED = (
    "INSERT INTO settings (name, value) VALUES ('opened', '') ON CONFLICT (name) DO UPDATE SET value = excluded.value"
)
_UNUSABLE = {
    "busy": "is held by another program. Stop that first.",
    "disk_full": "cannot be written: the disk is full. Make room and start again.",
    "read_only": "may not be written. Give yourself the right to write the file and its folder, or name another database.",
    "corrupt": "is damaged or not a database. Move it away and bring back a copy, or name another database.",
    "disk_error": "cannot be opened. Look at the disk, or name another database.",
}


def why_unusable(path: Path, error: Exception) -> str:
    """Return in a sentence why a database cannot be used, and what to do."""
    if isinstance(error, sqlite3.Error):
        reason = reason_of(error)
        if "no such table" in str(error) or "no such column" in str(error):
            reason = "corrupt"
    else:
        full = isinstance(error, OSError) and error.errno == errno.ENOSPC
        reason = "disk_full" if full else "read_only" if isinstance(error, PermissionError | OSError) else "disk_error"
    return f"{path} {_UNUSABLE[reason]} ({error})"


class Database:
    """One file: one connection that writes, guarded by a lock, and one for each reader."""

    def __init__(self, path: Path):
        self.path = path
        self._lock = threading.RLock()
        if path.exists() and not path.stat().st_size:
            raise DatabaseUnusable(
                f"{path} is empty: it was cut off, or is another file. Bring back a copy, or delete it to begin anew."
            )
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._writer = connect(path)
            migrate(self._writer, path)
            with transaction(self._writer):
                self._writer.execute(_OPENED)  # says at once whether it can be written
        except (sqlite3.DatabaseError, OSError) as error:
            raise DatabaseUnusable(why_unusable(path, error)) from error

    @contextmanager
    def writing(self, patience_s: float = _PATIENCE_S) -> Iterator[sqlite3.Connection]:
        """A transaction on the one write connection; on disk when the block ends. Waits so long [s] for others who write.

        Raises:
            NotWritten: locked by another, full, read-only or broken; nothing was changed.
        """
        if not self._lock.acquire(timeout=patience_s):
            raise NotWritten("busy")
        try:
            self._writer.execute(f"PRAGMA busy_timeout = {round(patience_s * 1000)}")
            with transaction(self._writer):
                yield self._writer
        except (sqlite3.IntegrityError, sqlite3.ProgrammingError, sqlite3.DataError):
            raise
        except sqlite3.DatabaseError as error:
            raise NotWritten(reason_of(error)) from error
        finally:
            self._lock.release()

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """A connection to read from, closed when the block ends."""
        db = connect(self.path)
        try:
            yield db
        finally:
            db.close()

    def damage(self) -> str | None:
        """Return what an integrity check says against the file, or None where it is whole. Takes a while where it is large."""
        try:
            with self.reading() as db:
                said = [str(row[0]) for row in db.execute("PRAGMA quick_check(3)")]
        except sqlite3.DatabaseError as error:
            return str(error)
        return None if said == ["ok"] else "; ".join(said)

    def close(self) -> None:
        """Close the write connection."""
        with self._lock:
            self._writer.close()
