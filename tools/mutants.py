"""Changes the core by hand, as a reviewer would, and counts what no test notices: a limit moved, a comparison turned round, a sign
swapped, a duration made longer. `make mutants SEED=n` draws forty such changes; at least 36 must fail a test.

Each change is made in a copy of the repository, one at a time, and the tests of the core are run on it until the first fails.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parent.parent
# every room of the core but the simulated engine, whose quantities tests/reference and `make bench-table` hold
ROOMS = (
    *("judgement", "live", "power", "start", "procedure", "fuel", "flight", "trace", "screen", "aircraft"),
    *("hearing", "drills", "base"),
)
# the two that notice most come first
FIRST = ("tests/core/test_just_inside.py", "tests/core/test_kept_judgement.py")
TESTS = (*FIRST, "tests/core", "tests/reference")
SKIPPED = ("tests/core/test_gaps.py",)
CHANGES, LEAST_CAUGHT = 40, 36
_TURNED = {ast.Lt: ">", ast.LtE: ">=", ast.Gt: "<", ast.GtE: "<="}
_SWAPPED = {ast.Add: "-", ast.Sub: "+"}
_SPELT = {ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Add: "+", ast.Sub: "-"}


@dataclass(frozen=True)
class Change:
    """One change: the file, the place in its text, what is there and what is put there."""

    path: str
    line: int
    start: int
    end: int
    new: str
    kind: str

    def made(self, text: str) -> str:
        """Return the text with the change made."""
        return text[: self.start] + self.new + text[self.end :]


def sites(path: Path) -> Iterator[Change]:
    """Yield every change that can be made in a module."""
    text = path.read_text(encoding="utf-8")
    starts = [0]
    for line in text.splitlines(keepends=True):
        starts.append(starts[-1] + len(line.encode()))
    data = text.encode()

    def place(line: int, column: int) -> int:
        return len(data[: starts[line - 1] + column].decode())

    name = str(path.relative_to(ROOT))
    tree = ast.parse(text)
    for node in tree.body:
        if isinstance(node, ast.Assign):
            for part in ast.walk(node.value):
                if isinstance(part, ast.Constant) and type(part.value) in (int, float) and part.value not in (0, 1):
                    start, end = (
                        place(part.lineno, part.col_offset),
                        place(part.end_lineno or 0, part.end_col_offset or 0),
                    )
                    for factor in (0.5, 1.7):
                        value = type(part.value)(part.value * factor)  # a whole number stays one
                        yield Change(name, part.lineno, start, end, repr(value), "limit")
    for node in ast.walk(tree):
        left, right, spelt, new = None, None, None, None
        if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in _TURNED:
            left, right, spelt, new = (
                node.left,
                node.comparators[0],
                _SPELT[type(node.ops[0])],
                _TURNED[type(node.ops[0])],
            )
        elif isinstance(node, ast.BinOp) and type(node.op) in _SWAPPED:
            left, right, spelt, new = node.left, node.right, _SPELT[type(node.op)], _SWAPPED[type(node.op)]
        if left is None or right is None or spelt is None or new is None:
            continue
        first, last = place(left.end_lineno or 0, left.end_col_offset or 0), place(right.lineno, right.col_offset)
        at = text.find(spelt, first, last)
        if at >= 0 and text[first:at].strip() in ("", ")"):
            yield Change(name, left.lineno, at, at + len(spelt), new, "sign")


def drawn(seed: int) -> list[Change]:
    """Return the changes of a seed: half of them limits and durations, half of them signs, at places of their own."""
    paths = [
        p
        for room in ROOMS
        for p in (
            [ROOT / "jemmon/core" / room]
            if room.endswith(".py")
            else sorted((ROOT / "jemmon/core" / room).glob("*.py"))
        )
    ]
    every = [change for path in paths for change in sites(path)]
    dice = random.Random(seed)
    found: list[Change] = []
    for kind in ("limit", "sign"):
        own = [change for change in every if change.kind == kind]
        dice.shuffle(own)
        places = set()
        for change in own:
            if len(places) < CHANGES // 2 and (change.path, change.start) not in places:
                places.add((change.path, change.start))
                found.append(change)
    return found


def is_noticed(copy: Path, change: Change) -> bool:
    """Make a change in the copy, run the tests, put it back; return whether one failed."""
    path = copy / change.path
    whole = path.read_text(encoding="utf-8")
    path.write_text(change.made(whole), encoding="utf-8")
    try:
        return a_test_fails(copy)
    except subprocess.TimeoutExpired:
        return True
    finally:
        path.write_text(whole, encoding="utf-8")


def a_test_fails(copy: Path) -> bool:
    """Run the tests in the copy until the first fails; return whether one did."""
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-n", "2", "-p", "no:cacheprovider", *TESTS]
    command += [f"--ignore={name}" for name in SKIPPED]
    environment = {**os.environ, "PYTHONPATH": str(copy), "PYTHONDONTWRITEBYTECODE": ""}
    ran = subprocess.run(command, cwd=copy, env=environment, capture_output=True, text=True, timeout=900)
    return ran.returncode != 0


def main() -> int:
    """Draw, try, print what was not noticed; return 1 where that is too much."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--list", action="store_true", help="only show the changes")
    given = parser.parse_args()
    changes = drawn(given.seed)
    if given.list:
        for change in changes:
            text = (ROOT / change.path).read_text()
            print(f"{change.path}:{change.line} {text[change.start : change.end]} -> {change.new}")
        return 0
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "jemmon"
        left_out = shutil.ignore_patterns(".venv", "node_modules", ".git", ".hypothesis", ".pytest_cache")
        shutil.copytree(ROOT, copy, ignore=left_out)
        if a_test_fails(copy):  # else every change would seem noticed
            print("A test fails in the copy before anything is changed: mend that first.")
            return 1
        caught = 0
        for number, change in enumerate(changes, 1):
            noticed = is_noticed(copy, change)
            caught += noticed
            line = (ROOT / change.path).read_text().splitlines()[change.line - 1].strip()
            mark = "caught" if noticed else "NOT NOTICED"
            print(f"{number:2} {mark}: {change.path}:{change.line} -> {change.new}    {line[:90]}", flush=True)
    print(f"{caught} of {len(changes)} changes were noticed (at least {LEAST_CAUGHT}).")
    return 0 if caught >= LEAST_CAUGHT else 1


if __name__ == "__main__":
    raise SystemExit(main())
