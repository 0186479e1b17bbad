"""Serving the application on this machine: a free port, the log, the threads."""

import logging
import logging.handlers
import socket
from pathlib import Path
from typing import Any

from waitress import serve

_PORTS_TRIED = 20
_LOG_BYTES, _LOGS_KEPT = 2_000_000, 3
_LOG_LINE = "%(asctime)s %(levelname)-7s %(threadName)s %(name)s: %(message)s"
_THREADS = 24


def configure_logging(database: Path) -> Path:
    """Write what happens, with times and levels, into a rotating file beside the database; return the file. Warnings also go to
    the terminal."""
    path = database.with_suffix(".log")
    path.parent.mkdir(parents=True, exist_ok=True)
    in_file = logging.handlers.RotatingFileHandler(
        path, maxBytes=_LOG_BYTES, backupCount=_LOGS_KEPT, encoding="utf-8", delay=True
    )
    on_terminal = logging.StreamHandler()
    on_terminal.setLevel(logging.WARNING)
    logging.basicConfig(level=logging.INFO, format=_LOG_LINE, handlers=[in_file, on_terminal], force=True)
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # a waiting request is not news
    return path


def free_port(first: int) -> int | None:
    """Return the first free port from this one on, or None where twenty are taken."""
    for candidate in range(first, first + _PORTS_TRIED):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", candidate))
            except OSError:
                continue
            return candidate
    return None


def serve_app(app: Any, port: int, most_upload_bytes: int) -> None:
    """Serve the application on 127.0.0.1 until the process ends."""
    logging.getLogger(__name__).info("serving on port %d", port)
    serve(
        app,
        host="127.0.0.1",
        port=port,
        threads=_THREADS,
        outbuf_high_watermark=65536,
        max_request_body_size=most_upload_bytes + 1_000_000,
        clear_untrusted_proxy_headers=True,
    )
