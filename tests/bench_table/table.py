"""Write docs/bench-table.md: `python -m tests.bench_table.table`."""

from pathlib import Path

from . import charging, electrics, heat, induction, knock, mixture, oil, shaft, starting

_PARTS = (shaft, mixture, induction, heat, oil, electrics, knock, starting, charging)
ROWS = tuple(row for part in _PARTS for row in part.ROWS)
_HEAD = """# What the simulated engines give

Made by `make bench-table`; each row is a test (tests/core/test_bench_table.py).

| type | quantity | bench | expected | source |
|---|---|---|---|---|
"""


def main() -> None:
    """Measure every row and write the table."""
    lines = []
    for row in ROWS:
        figure = row.measure()
        is_met = row.lowest <= figure <= row.highest
        expected = f"{row.lowest:g} to {row.highest:g} {row.unit}" + ("" if is_met else " **missed**")
        lines.append(f"| {row.kind} | {row.quantity} | {figure:.3g} | {expected} | {row.source} |")
        print(lines[-1], flush=True)
    Path("docs/bench-table.md").write_text(_HEAD + "\n".join(lines) + "\n")


if __name__ == "__main__":
    main()
