"""Counts what docstrings of the core say: the unit of a quantity, the source of a figure or a verdict. `make lint` calls it.

A function takes or returns a quantity where a parameter or its answer is a float or an array; of those nine in ten say the unit
or that there is none (a share, a ratio, a mask). A function computes a figure or a verdict where it belongs to the physics, to
power, or finds or judges something; of those six in ten say where that comes from.
"""

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

CORE = Path(__file__).parent.parent / "jemmon" / "core"
LEAST_UNIT, LEAST_SOURCE = 0.9, 0.6
_QUANTITY = re.compile(r"\b(float|ndarray)\b")
_UNIT = re.compile(
    r"\[[^\]]*\]|°[FC]|\b(RPM|psi|inHg|gal/h|gallons?|gal|seconds?|s|minutes?|hours?|ft|feet|kt|volts?|V|amps?|A|percent|%|K|Pa|W|Hz"
    r"|kg|Nm|share|shares|ratio|times|number|unit|units|shape|radians?|degrees?|grams?|g|mask|bool|lever|levers|strokes|equivalence)\b|%"
)
_SOURCE = re.compile(
    r"common practice|published|from memory|fitted|[Aa]rithmetic|by (its|the) (type|profile)|the type'?s?|type's|\b(18|19|20)\d\d\b"
    r"|FAA|ISO|WMO|ASTM|ICAO|SAIB|Heywood|Gagg|handbook|profile|docs/bench"
)
_PHYSICS = ("base/atmosphere", "base/detonation", "base/weather", "power/", "bench/")
_JUDGES = re.compile(r"^(find|judge|measure|recognise|fit)_")


def functions() -> Iterator[tuple[str, ast.FunctionDef, str]]:
    """Yield (module, function, docstring) of every public function and method of the core."""
    for path in sorted(CORE.rglob("*.py")):
        module = str(path.relative_to(CORE).with_suffix(""))
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                yield module, node, ast.get_docstring(node) or ""


def has_quantity(node: ast.FunctionDef) -> bool:
    """Say whether a function takes or returns a float or an array."""
    given = [argument.annotation for argument in [*node.args.args, *node.args.kwonlyargs]]
    return any(part is not None and _QUANTITY.search(ast.unparse(part)) for part in [*given, node.returns])


def computes(module: str, node: ast.FunctionDef) -> bool:
    """Say whether a function computes a physical figure or a verdict."""
    if module.startswith(_PHYSICS):
        return node.returns is not None and bool(_QUANTITY.search(ast.unparse(node.returns)))
    return module.startswith("judgement/") and bool(_JUDGES.match(node.name))


def share(title: str, rows: list[tuple[str, bool]], least: float, shows: bool) -> bool:
    """Print how many of the rows hold, and which do not; return whether enough do."""
    good = sum(holds for _, holds in rows)
    is_enough = good >= least * len(rows)
    print(f"{title}: {good} of {len(rows)} ({100 * good / len(rows):.0f} %, at least {100 * least:.0f} %)")
    if shows or not is_enough:
        print(*(f"  {name}" for name, holds in rows if not holds), sep="\n")
    return is_enough


def main() -> int:
    """Count, print, return 1 where too few say it."""
    shows = "--show" in sys.argv
    units, sources = [], []
    for module, node, words in functions():
        name = f"{module}.py:{node.lineno} {node.name}"
        if has_quantity(node):
            units.append((name, bool(_UNIT.search(words))))
        if computes(module, node):
            sources.append((name, bool(_SOURCE.search(words))))
    met = [
        share("docstrings that say the unit", units, LEAST_UNIT, shows),
        share("docstrings that say the source", sources, LEAST_SOURCE, shows),
    ]
    return 0 if all(met) else 1


if __name__ == "__main__":
    raise SystemExit(main())
