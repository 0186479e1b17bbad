"""Trace CSV in and out: what is read comes out the same, what is wrong is named by line and column."""

import time

import numpy as np
import pytest

from jemmon.core.base.errors import TraceError
from jemmon.core.judgement.judge import FLIGHT_GAP_S, coarse_words, judge
from jemmon.core.trace import Trace, read_trace_csv, write_trace_csv
from jemmon.core.trace.lookback import LookBack
from tests.core.builders import PROFILES


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
        ("time_s,rpm\n0,1\n11,1\n22,1\n", 3, "rate"),
        ("time_s,revs,temp\n0,1,2\n", 1, "None of the columns"),
        ("time_s,egt1_f,egt1_c\n0,1,2\n", 1, "same signal as egt1_f"),
        ("time_s,rpm\n0,1800\n1,-500\n2,-500\n3,1800\n", 3, "no RPM of an engine, the first -500"),
        ("time_s,rpm\n0,1800\n1,99999\n2,99999\n3,1800\n", 3, "no RPM of an engine, the first 99999"),
        ("time_s,rpm" + ",x" * 1 + "".join(f",c{n}" for n in range(400)) + "\n", 1, "402 columns|403 columns"),
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


def test_blank_lines_at_the_end_are_no_rows_however_many():
    text = "time_s,rpm\n0,1000\n1,1001\n" + "\r\n" * 40_000
    began = time.perf_counter()
    assert len(read_trace_csv(text.encode())) == 2
    assert time.perf_counter() - began < 2


def test_a_figure_that_no_sensor_shows_is_no_reading_and_is_said():
    rows = "".join(f"{t},1800,{9999 if t == 7 else 300}\n" for t in range(200))
    trace = read_trace_csv(f"time_s,rpm,cht1_f\n{rows}".encode())
    assert np.isnan(trace.signal("cht1")[7])
    assert trace.notes == ("1 of cht1_f taken as no reading, the first in line 9: 9999.",)
    assert trace.signal("rpm")[7] == 1800


@pytest.mark.parametrize(("rpm", "is_kept"), [(-50, True), (-70, False), (12_050, True), (12_070, False)])
def test_a_tachometer_trembles_around_nought_and_ends_at_its_range(rpm, is_kept):
    rows = "".join(f"{t},{rpm if t == 3 else 900}\n" for t in range(50))
    assert np.isnan(read_trace_csv(f"time_s,rpm\n{rows}".encode()).signal("rpm")[3]) != is_kept


@pytest.mark.parametrize(
    ("column", "shown", "never"),
    [
        ("rpm_pct", (0, 120), (-3, 300)),
        ("rotor", (530, 4_000), (5_100,)),  # a propeller's or a rotor's, not a small turbine's
        ("map_inhg", (3.0, 100.0), (-2.0, 1013.25)),  # hectopascals under the name of inches
        ("ff_gph", (0.5, 500.0), (-20.0, 9999.0)),
        ("fp_psi", (0.5, 180.0), (-5.0, 300.0)),
        ("oil_p_psi", (0.0, 360.0), (-10.0, 414.0)),  # 60 psi in kilopascals
        ("oil_t_f", (-60.0, 400.0), (-100.0, 9999.0)),
        ("egt1_f", (-40.0, 2_400.0), (-130.0, 3_100.0)),
        ("cht1_f", (-40.0, 600.0), (-130.0, 3_100.0)),
        ("tit_f", (-40.0, 2_000.0), (-150.0, 3_100.0)),
        ("coolant_t_f", (-40.0, 300.0), (-100.0, 850.0)),
        ("cat_f", (-40.0, 250.0), (-100.0, 850.0)),
        ("oat_f", (-80.0, 140.0), (-130.0, 200.0)),
        ("volts_v", (0.0, 32.0), (-1.0, 65.0)),
        ("amps_a", (-60.0, 400.0), (-520.0, 520.0)),
        ("batt_amps_a", (-900.0, 900.0), (-1_050.0, 1_050.0)),  # an engine is cranked with hundreds
        ("batt2_amps_a", (-60.0, 60.0), (-110.0, 110.0)),
        ("suction_inhg", (0.0, 8.0), (-0.5, 17.0)),
        ("palt_ft", (-1_500.0, 45_000.0), (-3_000.0, 65_000.0)),
        ("ias_kt", (0.0, 400.0), (-10.0, 650.0)),
        ("fuel_l_gal", (0.0, 1_500.0), (-20.0, 2_050.0)),
    ],
)
def test_what_no_gauge_of_a_piston_aircraft_shows_is_no_reading(column, shown, never):
    """Common practice: what gauges reach, and what a broken wire or another unit writes."""
    for value, is_kept in (*((v, True) for v in shown), *((v, False) for v in never)):
        rows = "".join(f"{t},900,{value if t == 3 else shown[0]}\n" for t in range(50))
        trace = read_trace_csv(f"time_s,rpm,{column}\n{rows}".encode())
        assert np.isnan(trace.columns[column][3]) != is_kept, value


@pytest.mark.parametrize(("gap_s", "pieces"), [(599, 1), (601, 2)])
def test_what_a_long_gap_divides_is_judged_piece_by_piece(gap_s, pieces):
    t = np.concatenate([np.arange(0, 60, 0.5), 59.5 + gap_s + np.arange(0, 60, 0.5)])
    trace = Trace(t, {"rpm": np.full(len(t), 1800.0)})
    assert [len(piece) for piece in trace.stretches(FLIGHT_GAP_S)] == [len(t) // pieces] * pieces
    hot = Trace(
        t, {"rpm": np.full(len(t), 1800.0), "oil_t_f": np.full(len(t), 300.0), "oil_p_psi": np.full(len(t), 60.0)}
    )
    assert len(judge(hot, PROFILES["a-trainer"], ("exceedance",))) == pieces


@pytest.mark.parametrize(("step_s", "is_judged"), [(5.0, True), (6.0, False), (10.0, False)])
def test_rows_far_apart_are_read_and_carry_what_they_can(step_s, is_judged):
    rows = "".join(f"{t * step_s},{1700 if 20 <= t < 24 else 1800},60,{300 if t > 40 else 180}\n" for t in range(60))
    trace = read_trace_csv(f"time_s,rpm,oil_p_psi,oil_t_f\n{rows}".encode())
    kinds = {finding.kind for finding in judge(trace, PROFILES["a-trainer"])}
    assert "exceedance" in kinds, "hot oil for minutes is seen at any rate"
    assert (coarse_words(trace) == ()) is is_judged
    if not is_judged:
        assert not kinds & {"mag_check", "carb_heat_check", "prop_cycle"}
        assert "magnetos" in coarse_words(trace)[0]


def test_the_level_some_seconds_before_each_row():
    t = np.arange(8.0)
    before = LookBack.over(t, 3.0, 1.0, needs_s=3.0)
    values = np.array([1.0, 2.0, np.nan, 4.0, 5.0, 60.0, 0.0, 0.0])
    mean = before.mean(values)
    assert np.isnan(mean[:3]).all(), "the record is too young"
    assert mean[3:7].tolist() == [2.0, 3.0, 4.0, 23.0], "both ends are in it, a gap is bridged, the row itself is not"
    assert before.share(values)[5] == 15.0
    assert np.isnan(LookBack.over(t, 3.0, 1.0, needs_s=0.0).mean(values)[0]), "nothing lies before the first row"
    assert np.isnan(before.share(np.zeros(8))).all()
