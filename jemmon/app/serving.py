"""Serving the application on this machine: a free port, the log, the threads."""

import contextlib
import logging
import logging.handlers
import signal
import socket
from collections.abc import Callable
from pathlib import Path
from typing import Any

from waitress.channel import HTTPChannel
from waitress.server import create_server
from waitress.task import WSGITask

from .streams import MOST_STREAMS

_PORTS_TRIED = 20
_LOG_BYTES, _LOGS_KEPT = 2_000_000, 3
_LOG_LINE = "%(asctime)s %(levelname)-7s %(threadName)s %(name)s: %(message)s"
_THREADS = 24
_WATERMARK_BYTES = 16_000_000  # above what a stream lets lie, so that no thread waits for a reader that never reads
_IDLE_S = 30
# the system's own buffer small, so that a reader that does not read is noticed soon
_SOCKET_OPTIONS = [(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1), (socket.SOL_SOCKET, socket.SO_SNDBUF, 262_144)]
_log = logging.getLogger(__name__)


def configure_logging(database: Path) -> Path:
    """Write what happens, with times and levels, into a rotating file beside the database; return the file. Warnings also go to
    the terminal."""
    path = database.with_suffix(".log")
    on_terminal = logging.StreamHandler()
    on_terminal.setLevel(logging.WARNING)
    handlers: list[logging.Handler] = [on_terminal]
    with contextlib.suppress(OSError):  # where no file can be, the terminal is the log
        path.parent.mkdir(parents=True, exist_ok=True)
        handlers.append(
            logging.handlers.RotatingFileHandler(path, maxBytes=_LOG_BYTES, backupCount=_LOGS_KEPT, encoding="utf-8")
        )
    logging.raiseExceptions = False  # a log that cannot be written is no reason to fill the terminal
    logging.basicConfig(level=logging.INFO, format=_LOG_LINE, handlers=handlers, force=True)
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


class _Task(WSGITask):  # type: ignore[misc]
    """A request that can be asked how much of its answer still waits to be read."""

    def get_environment(self) -> dict[str, Any]:
        """Return the request's environment, with that question."""
        environ: dict[str, Any] = super().get_environment()
        environ["jemmon.unsent_bytes"] = lambda: self.channel.total_outbufs_len
        return environ


class _Channel(HTTPChannel):  # type: ignore[misc]
    task_class = _Task


def serve_app(app: Any, port: int, most_upload_bytes: int, on_stop: Callable[[], None]) -> None:
    """Serve the application on 127.0.0.1 until the process is told to end (SIGTERM, Ctrl+C); then `on_stop` is called, the requests
    that are being answered are answered, and this returns."""
    server = create_server(
        app,
        host="127.0.0.1",
        port=port,
        threads=_THREADS + MOST_STREAMS,
        outbuf_high_watermark=_WATERMARK_BYTES,
        channel_timeout=_IDLE_S,
        cleanup_interval=_IDLE_S // 2,
        max_request_body_size=most_upload_bytes + 1_000_000,
        clear_untrusted_proxy_headers=True,
    )
    server.channel_class = _Channel
    server.adj.socket_options = _SOCKET_OPTIONS

    def end(number: int, frame: Any) -> None:
        on_stop()
        raise SystemExit

    signal.signal(signal.SIGTERM, end)
    signal.signal(signal.SIGINT, end)
    _log.info("serving on port %d", port)
    server.run()
    server.close()
