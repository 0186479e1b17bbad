"""Each row of docs/bench-table.md: what a simulated engine gives lies where its source says."""

import pytest

from tests.bench_table.table import ROWS


@pytest.mark.parametrize("row", ROWS, ids=lambda row: row.name)
def test_it_is_as_its_source_says(row):
    assert row.lowest <= row.measure() <= row.highest, row.source
