"""`make torture PART=kill|calls|disk|feeds|long`: the whole server under attack, and the figures of it in docs/reliability.md.

Each part takes at most fifteen minutes, on free ports, with databases of its own. A short form of each is in the tests.
"""

import argparse
import contextlib
import http.client
import json
import random
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from jemmon.api import create_app
from jemmon.app.settings import Settings
from tests.conftest import Server, ask, free_port
from tests.corpora.big_house import FLIGHTS, answers_ms

PAGE = Path("docs/reliability.md")
KINDS = ("manual", "bench", "device", "scripted")
Row = tuple[str, str, str, bool]


def begin(port: int, kind: str, flight: str) -> None:
    """Begin a flight of a kind; scripted needles are those of an aircraft without a simulated engine."""
    aircraft, registration = ("k-bare", "ZZ-BAR") if kind == "scripted" else ("a-trainer", "ZZ-WRN")
    if kind == "scripted":
        _, whole = ask(port, "GET", "/api/aircraft/a-trainer/profile.json")
        bare = {name: part for name, part in whole.items() if name != "bench"}
        ask(port, "POST", "/api/aircraft", {**bare, "id": aircraft, "registration": registration})
    source = "bench" if kind == "scripted" else kind
    told = {"id": flight, "aircraft": aircraft, "registration": registration, "pilot": "Ana", "source": source}
    status, answer = ask(port, "POST", "/api/flights", told)
    assert status == 201, answer


@contextlib.contextmanager
def served() -> Iterator[Server]:
    """A real server on a database of its own."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "x.db", free_port())
        server.start()
        try:
            yield server
        finally:
            server.kill()


# ---- kill -------------------------------------------------------------------------------------------------------------


def kill(kills: int, seed: int) -> list[Row]:
    """SIGKILL at random moments in every kind of flight, while an outbox of five taps at a time is delivered in order."""
    dice, confirmed, lost, doubled, disordered, back = random.Random(seed), 0, 0, 0, 0, 0
    for kind in KINDS:
        with served() as server:
            begin(server.port, kind, "f1")
            sent: list[str] = []
            last_s = 0.0
            for _ in range(kills // len(KINDS)):
                killer = threading.Timer(dice.uniform(0.05, 1.2), server.kill)
                killer.start()
                waiting = [uuid.uuid4().hex for _ in range(5)]
                while waiting:
                    try:
                        status, _ = ask(server.port, "POST", "/api/flights/f1/events", remark(waiting[0]))
                    except (OSError, http.client.HTTPException):
                        killer.join()
                        server.start()
                        at_s = ask(server.port, "GET", "/api/live")[1]["frame"]["at_s"]
                        back += at_s < last_s
                        last_s = at_s
                        break  # the rest goes first the next time
                    if status in (200, 201):
                        sent.append(waiting.pop(0))
                        waiting = waiting or [uuid.uuid4().hex for _ in range(5)]
                for one in waiting:  # the outbox of the browser delivers what is left, the first of them perhaps again
                    assert ask(server.port, "POST", "/api/flights/f1/events", remark(one))[0] in (200, 201)
                    sent.append(one)
            kept = [
                row["id"]
                for row in ask(server.port, "GET", "/api/flights/f1")[1]["timeline"]
                if row["kind"] == "remark"
            ]
            confirmed += len(sent)
            lost += len(set(sent) - set(kept))
            doubled += len(kept) - len(set(kept))
            disordered += kept != sent
    return [
        ("SIGKILLs, confirmed events", f"{kills}, {confirmed:,}", ">= 200, any", kills >= 200),
        (
            "confirmed events lost, doubled; flights out of order",
            f"{lost}, {doubled}; {disordered}",
            "0, 0; 0",
            not (lost or doubled or disordered),
        ),
        ("restarts at which flight time went back", str(back), "0", back == 0),
    ]


def remark(event_id: str) -> dict[str, Any]:
    """An event that says nothing else."""
    return {"id": event_id, "kind": "remark", "body": {"text": "x"}}


# ---- calls ------------------------------------------------------------------------------------------------------------


def _call_all(operation: Any, examples: int, seed: int, answers: Counter[int], bad: list[str]) -> None:
    """Make so many calls of one operation up, and count its answers."""
    from hypothesis import HealthCheck, Phase, given, settings
    from hypothesis import seed as seeded

    @seeded(seed)
    @settings(
        max_examples=examples,
        deadline=None,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(case=operation.as_strategy())
    def call(case: Any) -> None:
        answer = case.call()
        answers[answer.status_code] += 1
        if answer.status_code >= 500 and answer.status_code != 503:
            bad.append(f"{case.method} {case.path}")

    call()


def calls(count: int, seed: int) -> list[Row]:
    """Generated calls from the description: nothing but answers of the contract, no server error."""
    import schemathesis

    with tempfile.TemporaryDirectory() as folder:
        app = create_app(
            Settings(database=Path(folder) / "x.db", speeds=(1, 4, 10, 60), weather_url="http://127.0.0.1:9")
        )
        schema = schemathesis.openapi.from_wsgi("/api/openapi.json", app)
        operations = [one.ok() for one in schema.get_all_operations() if "stream" not in one.ok().path]
        answers: Counter[int] = Counter()
        bad: list[str] = []
        while (made := sum(answers.values())) < count:
            for operation in operations:
                _call_all(operation, (count - made) // len(operations) + 1, seed, answers, bad)
            seed += 1  # a small question is asked out before its turn is over: another round, made up anew
        app.extensions["hangar"].close()
    made = sum(answers.values())
    spread = ", ".join(f"{status}: {number:,}" for status, number in sorted(answers.items()))
    return [
        ("generated calls, by answer", f"{made:,} ({spread})", ">= 100,000", made >= 100_000),
        ("server errors", str(len(bad)), "0", not bad),
    ]


# ---- disk -------------------------------------------------------------------------------------------------------------


def disk(seconds: float) -> list[Row]:
    """The database locked by another program for so long [s], then full: what is confirmed, what is said, what the needles do."""
    with served() as server:
        begin(server.port, "bench", "f1")
        kept, refused, slowest, gaps = [], Counter(), 0.0, stream_gaps(server.port)
        other = sqlite3.connect(server.database, isolation_level=None, timeout=10)
        other.execute("BEGIN IMMEDIATE")
        end, number = time.monotonic() + seconds, 0
        while time.monotonic() < end:
            number += 1
            began = time.monotonic()
            status, answer = ask(server.port, "POST", "/api/flights/f1/events", remark(f"r{number}"))
            slowest = max(slowest, time.monotonic() - began)
            refused[answer.get("code", "taken")] += 1
            time.sleep(0.5)
        trouble = ask(server.port, "GET", "/api/live")[1]["frame"]["trouble"]
        other.rollback()
        other.close()
        for one in range(1, number + 1):
            if ask(server.port, "POST", "/api/flights/f1/events", remark(f"r{one}"))[0] in (200, 201):
                kept.append(f"r{one}")
        told = [
            row["id"] for row in ask(server.port, "GET", "/api/flights/f1")[1]["timeline"] if row["kind"] == "remark"
        ]
        widest = max(gaps())
    return [
        (
            f"database locked {seconds:.0f} s: answers",
            ", ".join(f"{k} {v}" for k, v in refused.items()),
            "busy only",
            set(refused) == {"busy"},
        ),
        ("... slowest answer", f"{slowest:.1f} s", "< 3 s", slowest < 3),
        ("... longest gap between frames", f"{widest * 1000:.0f} ms", "< 500 ms", widest < 0.5),
        (
            "... it is said on the screen",
            trouble["code"] if trouble else "no",
            "busy",
            bool(trouble) and trouble["code"] == "busy",
        ),
        (
            "... taps kept afterwards, in order",
            f"{len(kept)} of {number}",
            "all",
            told == [f"r{n}" for n in range(1, number + 1)],
        ),
    ]


def full_and_read_only() -> list[Row]:
    """A disk of 4 MB that fills up while a flight goes on and gets room again, and a start on a read-only one; needs the right
    to mount."""
    folder = Path(tempfile.mkdtemp())
    mount = ["mount", "-t", "tmpfs", "-o", "size=4m", "jemmon-torture", str(folder)]
    if subprocess.run(mount, capture_output=True).returncode:
        return [("a full and a read-only disk", "not tried: no right to mount", "", True)]
    ballast = folder / "ballast"
    ballast.write_bytes(bytes(1_500_000))
    server = Server(folder / "x.db", free_port())
    server.start()
    try:
        begin(server.port, "bench", "f1")
        answers: list[str] = []

        def tap(number: int) -> str:
            event = {"id": f"r{number}", "kind": "remark", "body": {"text": "x" * 1900}}
            status, answer = ask(server.port, "POST", "/api/flights/f1/events", event)
            return "taken" if status in (200, 201) else str(answer["code"])

        while not answers or answers[-1] == "taken":
            answers.append(tap(len(answers)))
        said = trouble_of(server.port)
        ballast.unlink()
        room = until_written(server.port)
        answers[-1] = tap(len(answers) - 1)
        record = ask(server.port, "GET", "/api/flights/f1")[1]["timeline"]
        kept = [row["id"] for row in record if row["kind"] == "remark"]
        whole = kept == [f"r{number}" for number in range(len(answers))]
    finally:
        server.kill()
        subprocess.run(["mount", "-o", "remount,ro", str(folder)], check=False)
        command = [sys.executable, "-m", "jemmon.cli", "serve", "--port", "0", "--database", str(server.database)]
        ran = subprocess.run(command, capture_output=True, text=True, timeout=60)
        subprocess.run(["umount", "-l", str(folder)], check=False)
    is_said = ran.returncode == 2 and len(ran.stderr.strip().splitlines()) == 1
    return [
        (
            "a start on a read-only disk: exit, lines",
            f"{ran.returncode}, {len(ran.stderr.strip().splitlines())}",
            "2, 1",
            is_said,
        ),
        ("disk full: the last answer, and what the screen says", f"{said}", "disk_full", said == "disk_full"),
        ("... with room again it is written after", f"{room:.1f} s", "< 5 s", room < 5),
        ("... confirmed events kept, in order", f"{len(kept)} of {len(answers)}", "all", whole),
    ]


def trouble_of(port: int) -> str | None:
    """Return the code of what keeps a flight from being written, or None."""
    trouble = ask(port, "GET", "/api/live")[1]["frame"]["trouble"]
    return trouble["code"] if trouble else None


def until_written(port: int, most_s: float = 20.0) -> float:
    """Return after how many seconds [s] nothing keeps the flight from being written."""
    began = time.monotonic()
    while trouble_of(port) is not None and time.monotonic() - began < most_s:
        time.sleep(0.1)
    return time.monotonic() - began


def stream_gaps(port: int) -> Callable[[], list[float]]:
    """Listen to the stream in a thread; the answer gives the gaps [s] between its messages so far, and ends it."""
    gaps, stop = [], threading.Event()

    def listen() -> None:
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
        connection.request("GET", "/api/stream")
        answer, last = connection.getresponse(), time.monotonic()
        while not stop.is_set():
            if answer.readline().startswith(b"data"):
                gaps.append(time.monotonic() - last)
                last = time.monotonic()
        connection.close()

    threading.Thread(target=listen, daemon=True).start()
    time.sleep(1.0)

    def ended() -> list[float]:
        stop.set()
        return gaps[1:]

    return ended


# ---- feeds ------------------------------------------------------------------------------------------------------------


def feeds(seconds: float) -> list[Row]:
    """An instrument that sends 10,000 lines a second for so long [s], one that jumps and lies, fifty screens that never read."""
    with served() as server, socket.create_server(("127.0.0.1", 0)) as box:
        ask(server.port, "POST", "/api/device", {"host": "127.0.0.1", "port": box.getsockname()[1]})
        begin(server.port, "device", "f1")
        line, _ = box.accept()
        sent: list[tuple[float, int]] = []
        stop = threading.Event()

        def pour() -> None:
            number, due = 0, time.monotonic()
            while not stop.is_set():
                number += 500
                line.sendall(
                    b"".join(b'{"t": %.4f, "rpm": %d}\n' % (n / 1e4, n % 10_000) for n in range(number - 500, number))
                )
                sent.append((time.monotonic(), (number - 1) % 10_000))
                due += 0.05
                time.sleep(max(due - time.monotonic(), 0))

        threading.Thread(target=pour, daemon=True).start()
        time.sleep(2)
        lags = []
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            frame = ask(server.port, "GET", "/api/live")[1]["frame"]
            now = time.monotonic()
            recent = [(at, rpm) for at, rpm in sent[-200:] if rpm >= (frame["rpm"] or 0)]
            shown_at = max((at for at, rpm in recent if rpm == frame["rpm"]), default=None)
            if shown_at is not None and not frame["stale"]:
                lags.append(now - shown_at)
            time.sleep(0.05)
        stop.set()
        time.sleep(0.2)
        before_s = ask(server.port, "GET", "/api/live")[1]["frame"]["at_s"]
        dice, began = random.Random(1), time.monotonic()
        while time.monotonic() - began < 5:
            lie = dice.choice([1e300, -1e12, 1e6, float("nan"), 0.0])
            line.sendall(json.dumps({"t": lie, "rpm": dice.choice([900, 1e300, -5e5, None, "x"])}).encode() + b"\n")
            time.sleep(0.02)
        after_s = ask(server.port, "GET", "/api/live")[1]["frame"]["at_s"]
        crept_s = abs(after_s - before_s - (time.monotonic() - began))
        screens = [_silent_screen(server.port) for _ in range(50)]
        asked = time.monotonic()
        status, _ = ask(server.port, "GET", "/api/live")
        answered_s = time.monotonic() - asked
        for screen in screens:
            screen.close()
    worst = max(lags, default=9.9)
    return [
        ("10,000 lines a second: longest lag of what is called live", f"{worst:.2f} s", "< 0.3 s", worst < 0.3),
        ("an instrument's clock that lies for 5 s: flight time off by", f"{crept_s:.1f} s", "< 2 s", crept_s < 2),
        (
            "fifty screens that never read: an answer takes",
            f"{answered_s * 1000:.0f} ms",
            "< 1000 ms",
            status == 200 and answered_s < 1,
        ),
    ]


def _silent_screen(port: int) -> socket.socket:
    one = socket.socket()
    one.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
    one.connect(("127.0.0.1", port))
    one.sendall(f"GET /api/stream HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\n\r\n".encode())
    return one


# ---- long -------------------------------------------------------------------------------------------------------------


def long(hours: float) -> list[Row]:
    """A flight of so many hours at 60 times real time: memory, and the longest gap between frames; then 2,000 flights kept."""
    with served() as server:
        begin(server.port, "bench", "f1")
        ask(
            server.port,
            "POST",
            "/api/live/levers",
            {"levers": {"master": True, "throttle": 0.3, "mixture": 1.0, "mag": "BOTH"}},
        )
        ask(server.port, "POST", "/api/live/speed", {"speed": 60})
        gaps = stream_gaps(server.port)
        early = None
        while (at_s := ask(server.port, "GET", "/api/live")[1]["frame"]["at_s"]) < hours * 3600:
            if early is None and at_s > hours * 3600 * 0.15:
                early = _resident_mb(server)
            time.sleep(1.0)
        late, widest = _resident_mb(server), max(gaps())
    growth = late / (early or late) - 1
    slowest = max(answers_ms().items(), key=lambda row: row[1])
    return [
        (
            f"{hours:.0f} h of flight at 60 times: memory grew by",
            f"{growth * 100:.1f} % to {late:.0f} MB",
            "< 5 %",
            growth < 0.05,
        ),
        ("... longest gap between frames", f"{widest * 1000:.0f} ms", "< 1500 ms", widest < 1.5),
        (f"{FLIGHTS:,} flights kept: slowest page", f"{slowest[0]}, {slowest[1]:.0f} ms", "< 300 ms", slowest[1] < 300),
    ]


def _resident_mb(server: Server) -> float:
    assert server.process is not None
    status = Path(f"/proc/{server.pid}/status").read_text()
    return int(next(line for line in status.splitlines() if line.startswith("VmRSS")).split()[1]) / 1000


# ---- the page ---------------------------------------------------------------------------------------------------------


def write(part: str, rows: list[Row]) -> None:
    """Put the figures of a part in the place of its last ones."""
    text = PAGE.read_text(encoding="utf-8")
    head, _, table = text.partition("|---|---|---|---|---|---|\n")
    others = [line for line in table.splitlines() if line and not line.startswith(f"| {part} |")]
    day = f"{datetime.now(UTC):%Y-%m-%d}"
    own = [
        f"| {part} | {day} | {what} | {value} | {bar} | {'ok' if met else 'missed'} |" for what, value, bar, met in rows
    ]
    PAGE.write_text(f"{head}|---|---|---|---|---|---|\n" + "\n".join([*others, *own]) + "\n", encoding="utf-8")


def main() -> int:
    """Run one part; return 1 where a bar was missed."""
    parts: dict[str, Callable[[argparse.Namespace], list[Row]]] = {
        "kill": lambda given: kill(given.kills, given.seed),
        "calls": lambda given: calls(given.calls, given.seed),
        "disk": lambda given: [*disk(given.seconds), *full_and_read_only()],
        "feeds": lambda given: feeds(given.seconds),
        "long": lambda given: long(given.hours),
    }
    parser = argparse.ArgumentParser()
    parser.add_argument("part", choices=parts)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--kills", type=int, default=200)
    parser.add_argument("--calls", type=int, default=100_000)
    parser.add_argument("--seconds", type=float, default=40.0)
    parser.add_argument("--hours", type=float, default=8.0)
    given = parser.parse_args()
    rows = parts[given.part](given)
    for what, value, bar, met in rows:
        print(f"{'ok    ' if met else 'MISSED'} {what}: {value} ({bar})")
    write(given.part, rows)
    return 0 if all(row[3] for row in rows) else 1


if __name__ == "__main__":
    raise SystemExit(main())
