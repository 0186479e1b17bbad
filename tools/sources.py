"""Lists constants of a judgement that do not say where they come from: type, published, common practice, fitted (to which corpus
and seeds), arithmetic. `make lint` calls it; a comment in the same line counts, or one at the head of its block."""

import ast
import re
from pathlib import Path

CORE = Path(__file__).parent.parent / "jemmon" / "core"
ROOMS = ("judgement", "live", "power", "start", "procedure", "fuel")
MORE = ("trace/dips.py", "base/detonation.py")
_SOURCE = re.compile(
    r"common practice|published|from memory|fitted|arithmetic|by the type|our own|FAA|ISO|WMO|ASTM|Heywood|(18|19|20)\d\d",
    re.IGNORECASE,
)


def has_number(node: ast.expr) -> bool:
    """Say whether a value is made of figures."""
    return any(isinstance(part, ast.Constant) and isinstance(part.value, int | float) for part in ast.walk(node))


def unsourced(path: Path) -> list[str]:
    """Return the constants of a module that say no source."""
    text = path.read_text(encoding="utf-8")
    lines, found = text.splitlines(), []
    tree = ast.parse(text)
    for node in tree.body:
        if not isinstance(node, ast.Assign) or not has_number(node.value) or "Check(" in ast.unparse(node.value):
            continue
        said = lines[node.lineno - 1 : node.end_lineno]
        above = node.lineno - 2
        while above >= 0 and lines[above].strip():
            if lines[above].startswith("#"):
                said.append(lines[above])
            above -= 1
        if not _SOURCE.search(" ".join(line.partition("#")[2] for line in said)):
            found.append(f"{path.relative_to(CORE)}:{node.lineno} {ast.unparse(node)[:100]}")
    return found


def main() -> int:
    """List them; return 1 where there is any."""
    paths = [path for room in ROOMS for path in sorted((CORE / room).glob("*.py"))] + [CORE / name for name in MORE]
    rows = [row for path in paths for row in unsourced(path)]
    print(f"constants of judgements without a source: {len(rows)}", *rows, sep="\n  ")
    return 1 if rows else 0


if __name__ == "__main__":
    raise SystemExit(main())
