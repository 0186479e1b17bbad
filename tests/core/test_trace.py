"""Trace CSV in and out: what is read comes out the same, what is wrong is named by line and column."""

import numpy as np
import pytest

from jemmon.core.base.errors import TraceError
from jemmon.core.trace import read_trace_csv, write_trace_csv


@pytest.mark.parametrize(
    ("text", "line", "match"),
    [
        ("", None, "empty"),
        ("\n\n", None, "empty"),
        ("seconds,rpm\n0,1\n", 1, "time_s or time_utc"),
        ("time_s,rpm,rpm\n0,1,2\n", 1, "twice"),
        ("time_s,rpm\n", 2, "no sample"),
        ("time_s,rpm\n0,1000\n1,fast\n", 3, "'fast'"),
        ("time_s,rpm\n0,inf\n", 2, "'inf'"),
        ("time_s,rpm\n0,NaN\n", 2, "'NaN'"),
        ("time_s,rpm\n0,NA\n1,5\n", 2, "'NA'"),
        ("time_s,rpm\n0,1\n5,1\n4,1\n", 4, "goes back"),
        ("time_s,rpm\n0,1\n0,1\n", 3, "does not move"),
        ("time_s,rpm\n0,1\n1\n2,1,1\n", 3, "1 cells"),
        ("time_s,rpm\n0,1\n,2\n", 3, "no time"),
        ("time_s,rpm\n0,1\x00\n", 2, "NUL"),
        ("time_utc,rpm\n2026-01-01T00:00:00Z,1\nyesterday,2\n", 3, "ISO 8601"),
        ("time_s,rpm\n0,1\n10,1\n20,1\n", 3, "rate"),
    ],
)
def test_what_is_wrong_is_named_by_its_place(text, line, match):
    with pytest.raises(TraceError, match=match) as caught:
        read_trace_csv(text.encode())
    assert caught.value.line == line


def test_a_trace_reads_back_the_same_and_keeps_unknown_columns():
    text = "time_s,rpm,egt1_c,mag,pilot_note\r\n0,1000,700.5,BOTH,hello\r\n0.25,,701,L,\r\n"
    trace = read_trace_csv(text.encode())
    again = read_trace_csv(write_trace_csv(trace).encode())
    assert list(again.columns) == ["rpm", "egt1_c", "mag", "pilot_note"]
    for name, values in trace.columns.items():
        assert [str(v) for v in values] == [str(v) for v in again.columns[name]]
    assert trace.summary()["missing"] == 1


@pytest.mark.parametrize(
    ("column", "value", "signal", "core"),
    [
        ("egt1_c", 700, "egt1", 1292),
        ("map_hpa", 1013.25, "map", 29.92),
        ("map_psi_boost", 0, "map", 29.92),
        ("ff_lph", 37.854, "ff", 10.0),
        ("ff_lbh", 60.09, "ff", 10.0),
        ("oil_p_bar", 4, "oil_p", 58.0),
        ("palt_m", 1000, "palt", 3281),
        ("ias_mph", 115.08, "ias", 100),
    ],
)
def test_units_come_to_the_cores(column, value, signal, core):
    """Exact factors (NIST SP 811); avgas 0.72 kg/L (ASTM D910)."""
    trace = read_trace_csv(f"time_s,{column}\n0,{value}\n1,{value}\n".encode())
    assert trace.signal(signal)[0] == pytest.approx(core, rel=1e-3)


def test_a_second_engine_is_apart():
    trace = read_trace_csv(b"time_s,rpm,e2_rpm\n0,1000,1100\n1,1000,1100\n")
    assert np.all(trace.signal("rpm", engine=2) == 1100)


def test_utc_times_count_from_the_first_row():
    trace = read_trace_csv(b"time_utc,rpm\n2026-01-01T10:00:00Z,1\n2026-01-01T10:00:02Z,2\n")
    assert list(trace.time_s) == [0.0, 2.0]
