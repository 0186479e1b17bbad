"""Plain words: the terms of the trade on the screen, in findings, names and docstrings, and not their paraphrases. What the lists
of the profiles say is held by their own tests."""

import ast
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

import jemmon

PACKAGE = Path(jemmon.__file__).parent
FRONT = PACKAGE.parent / "frontend" / "src"
# what is not said, and what is said instead
NOT_SAID = {
    r"\bheads\b": "CHT",
    r"\bheight of (flight|the aircraft)\b|\bfield's height\b": "altitude",
    r"\b(un)?blown\b": "turbocharged, supercharged, normally aspirated",
    r"\bbottle\b": "extinguisher",
    r"\bcannot be[.,;:]|\bcannot be$": "must be within a to b",
    r"(?<![Tt]here )\bis no (?!permission|longer)\w+": "is not a",
    r"\btrembl": "jitter",
    r"\bfor a moment\b": "temporary setting",
    r"\b(carry|carried) on with\b": "leave it on purpose",
    r"\bput away\b": "close",
    r"\bnear enough\b": "within the band",
    r"\blet it settle\b": "wait until RPM is steady",
    r"\bstands? (at|in|on|still|apart|above|below|where)\b": "is",
    r"\b(it|engine|type|oil|check|reading|lever|nothing|needle) (tells|wants)\b": "shows, needs",
    r"\bhardly answers\b": "does not respond",
    r"Begin on the simulated engine|Go on with it|\bnot proven:|inside the type's limits": "see the table in docs/words.md",
}
ALLOWED = re.compile(r"Jemmon stands beside|no file (is|are)|clear of")
BENCH_WORDS = re.compile(r"\bheads\b|\bblown\b|\b(un)?blown\b")


@cache
def said_in(path: Path) -> tuple[tuple[int, str], ...]:
    """Return (line, text) of every string, docstring and name of a module."""
    return tuple(_said(ast.parse(path.read_text(encoding="utf-8"))))


def _said(module: ast.Module) -> Iterator[tuple[int, str]]:
    for node in ast.walk(module):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and " " in node.value:
            yield node.lineno, node.value
        elif isinstance(node, ast.Name | ast.arg | ast.FunctionDef | ast.ClassDef):
            named = node.id if isinstance(node, ast.Name) else node.arg if isinstance(node, ast.arg) else node.name
            yield node.lineno, named.replace("_", " ")


def said_wrong(text: str, pattern: str) -> bool:
    return bool(re.search(pattern, text, re.MULTILINE)) and not ALLOWED.search(text)


PYTHON = [path for path in sorted(PACKAGE.rglob("*.py")) if "library" not in path.parts]


@pytest.mark.parametrize("pattern", NOT_SAID, ids=list(NOT_SAID.values()))
def test_the_core_says_it_in_the_words_of_the_trade(pattern):
    found = []
    for path in PYTHON:
        own = said_in(path)
        if "bench" in path.parts:  # the physics of a cylinder head is that of a head
            own = tuple(row for row in own if not BENCH_WORDS.search(row[1]))
        found += [
            f"{path.relative_to(PACKAGE)}:{line}: {text[:100]}" for line, text in own if said_wrong(text, pattern)
        ]
    assert found == [], f"say: {NOT_SAID[pattern]}"


@pytest.mark.parametrize("pattern", NOT_SAID, ids=list(NOT_SAID.values()))
def test_the_interface_says_it_in_the_words_of_the_trade(pattern):
    found = []
    for path in sorted(FRONT.rglob("*")):
        if path.suffix in (".vue", ".ts") and path.name != "schema.d.ts":
            text = re.sub(r"<style.*?</style>", "", path.read_text(encoding="utf-8"), flags=re.DOTALL)
            found += [f"{path.name}: {line.strip()[:100]}" for line in text.splitlines() if said_wrong(line, pattern)]
    assert found == [], f"say: {NOT_SAID[pattern]}"
