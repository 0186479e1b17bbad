"""The core stands alone: it imports nothing of ours from outside itself, no web, no database, no clock."""

import ast
from pathlib import Path

import pytest

import jemmon

CORE = Path(jemmon.__file__).parent / "core"
FORBIDDEN = {"flask", "sqlite3", "threading", "time", "os", "socket", "requests", "waitress"}


@pytest.mark.parametrize("path", sorted(CORE.rglob("*.py")), ids=lambda p: str(p.relative_to(CORE)))
def test_core_imports_nothing_of_ours_and_no_web_or_database(path):
    depth = len(path.relative_to(CORE).parts)
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            names = [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom):
            names = [node.module or ""] if not node.level else []
            assert node.level <= depth, f"{path.name} reaches out of the core"
        else:
            continue
        for name in names:
            assert name.split(".")[0] not in FORBIDDEN | {"jemmon"}, f"{path.name} imports {name}"
