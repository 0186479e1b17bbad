"""The trace CSV of docs/formats.md, in and out.

pandas reads; only after trouble a reader goes line by line to name the place. pandas quietly takes text such as `inf`
or `nan`, NUL bytes, repeated headers and short lines, so these are looked for first.
"""

import csv
import io
from datetime import datetime

import numpy as np
import pandas as pd

from ..base.errors import TraceError
from .columns import Trace
from .signals import is_number_column

_SLOWEST_HZ, _FASTEST_HZ = 0.2, 50.0


def read_trace_csv(data: bytes) -> Trace:
    """Return the trace in a CSV file's bytes.

    Raises:
        TraceError: with line and column, what is wrong and what is expected.
    """
    text_start = data[3:] if data.startswith(b"\xef\xbb\xbf") else data
    if not text_start or text_start.isspace():
        raise TraceError("The file is empty; a trace needs a header row and at least one sample.")
    header = _header(text_start)
    numbers = [name for name in header[1:] if is_number_column(name)]
    try:
        frame = _read_frame(text_start, header, numbers)
    except (ValueError, OverflowError) as error:  # pandas' parser errors are ValueErrors
        _explain(text_start, header, numbers)
        raise TraceError(f"The file cannot be read as CSV: {str(error)[:200]}") from error
    time_s, start_utc = _times(frame[header[0]], header[0])
    return Trace(time_s, {name: _column(frame[name], name in numbers) for name in header[1:]}, start_utc)


def _header(data: bytes) -> list[str]:
    first = data.split(b"\n", 1)[0].rstrip(b"\r")
    try:
        header = next(csv.reader([first.decode("utf-8")]))
    except (UnicodeDecodeError, csv.Error, StopIteration) as error:
        raise TraceError("The header is not UTF-8 text with commas.", 1) from error
    header = [name.strip() for name in header]
    if header[0] not in ("time_s", "time_utc"):
        raise TraceError(f"The first column is {header[0][:40]!r}; it must be time_s or time_utc.", 1, header[0][:40])
    if twice := [name for name in header if header.count(name) > 1]:
        raise TraceError("The header names this column twice.", 1, twice[0])
    if "" in header:
        raise TraceError(f"Column {header.index('') + 1} has no name in the header.", 1)
    return header


def _read_frame(data: bytes, header: list[str], numbers: list[str]) -> pd.DataFrame:
    if b"\0" in data:
        raise ValueError("a cell holds no figure")
    is_quoted = b'"' in data
    if not is_quoted and _count(data, ",") != (len(header) - 1) * (_count(data, "\n") + 1 - _trailing(data)):
        raise ValueError("a line has more or fewer cells than the header")
    types: dict[str, type] = {name: float if name in numbers else str for name in header[1:]}
    if header[0] == "time_s":
        types["time_s"] = float
    frame = pd.read_csv(
        io.BytesIO(data),
        header=0,
        names=header,
        dtype=types,
        na_values=[""],
        keep_default_na=False,
        skip_blank_lines=False,
        index_col=False,
        encoding="utf-8",
    )
    if frame.empty:
        raise TraceError("There is a header but no sample below it.", 2)
    if is_quoted:
        _explain(data, header, numbers)
    figures = frame[numbers].to_numpy(dtype=float)
    without = sum(int(frame[name].isna().sum()) for name in header if name not in numbers)
    if not np.isfinite(figures).all():
        if np.isinf(figures).any():
            raise ValueError("a figure is too large")
        without += int(np.isnan(figures).sum())
    if without and not is_quoted and without != _empty_cells(data):
        raise ValueError("a cell holds a word that pandas takes for no figure")
    return frame


def _count(data: bytes, sign: str) -> int:
    """Return how often a sign of one byte is there; a third of the time that `bytes.count` takes where it is common."""
    return int(np.count_nonzero(np.frombuffer(data, np.uint8) == ord(sign)))


def _trailing(data: bytes) -> int:
    """Return the line ends after the last line that holds anything."""
    last = len(data)
    while last and data[last - 1] in b"\r\n":
        last -= 1
    return data.count(b"\n", last)


def _empty_cells(data: bytes) -> int:
    """Return how many cells of a file without quotes hold nothing at all: a separator follows the one before at once."""
    ends = np.frombuffer(data.rstrip(b"\r\n") + b"\n", np.uint8)
    after, before = ends[1:], ends[:-1]
    is_end = (after == ord(",")) | (after == ord("\n")) | (after == ord("\r"))
    begins = (before == ord(",")) | (before == ord("\n"))
    return int(np.count_nonzero(is_end & begins))


def _column(values: pd.Series, number: bool) -> np.ndarray:
    if number:
        return values.to_numpy(dtype=float)
    return values.fillna("").to_numpy(dtype=object)


def _times(values: pd.Series, name: str) -> tuple[np.ndarray, str | None]:
    start_utc = None
    if name == "time_s":
        time_s = values.to_numpy(dtype=float)
    else:
        time_s, start_utc = _utc_seconds(values)
    if (bad := np.flatnonzero(~np.isfinite(time_s))).size:
        raise TraceError("There is no time in this row.", int(bad[0]) + 2, name)
    steps = np.diff(time_s)
    if (bad := np.flatnonzero(steps <= 0)).size:
        row = int(bad[0])
        way = "goes back" if steps[row] < 0 else "does not move"
        raise TraceError(f"Time {way} from {time_s[row]:g} to {time_s[row + 1]:g} s; it must rise.", row + 3, name)
    if len(steps) and not _SLOWEST_HZ * 0.99 <= 1 / np.median(steps) <= _FASTEST_HZ * 1.01:
        raise TraceError(f"The rate is {1 / np.median(steps):.3g} Hz; a trace has 0.2 to 50 samples a second.", 3, name)
    return time_s, start_utc


def _utc_seconds(values: pd.Series) -> tuple[np.ndarray, str | None]:
    times = pd.to_datetime(values, errors="coerce", utc=True, format="ISO8601")
    if (bad := np.flatnonzero(times.isna())).size:
        raise TraceError("This is not an ISO 8601 time.", int(bad[0]) + 2, "time_utc")
    seconds = (times - times.iloc[0]).dt.total_seconds().to_numpy(dtype=float)
    return seconds, str(values.iloc[0])


def _explain(data: bytes, header: list[str], numbers: list[str]) -> None:
    """Read line by line and raise the TraceError of the first cell that is wrong; return if none is found."""
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        raise TraceError("This is not UTF-8 text.", line) from error
    if "\0" in text:
        raise TraceError("There is a NUL byte.", text[: text.index("\0")].count("\n") + 1)
    reader = csv.reader(io.StringIO(text))
    next(reader)
    must_be_numbers = set(numbers) | ({"time_s"} & set(header))
    try:
        for cells in reader:
            if len(cells) != len(header):
                raise TraceError(f"{len(cells)} cells here, {len(header)} in the header.", reader.line_num)
            for name, cell in zip(header, cells, strict=True):
                if name in must_be_numbers and cell != "" and not _is_figure(cell):
                    raise TraceError(f"{cell[:40]!r} is not a figure.", reader.line_num, name)
    except csv.Error as error:
        raise TraceError(f"The quotes or separators are broken: {error}", reader.line_num) from error


def _is_figure(cell: str) -> bool:
    try:
        value = float(cell)
    except ValueError:
        return False
    return bool(np.isfinite(value)) and "_" not in cell


def write_trace_csv(trace: Trace) -> str:
    """Return the trace as CSV text that reads back the same. A UTC trace keeps its first time and step."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    first = "time_s" if trace.start_utc is None else "time_utc"
    writer.writerow([first, *trace.columns])
    times = [repr(float(t)) for t in trace.time_s] if trace.start_utc is None else _utc_texts(trace)
    columns = [_cells(values) for values in trace.columns.values()]
    writer.writerows(zip(times, *columns, strict=True))
    return out.getvalue()


def _utc_texts(trace: Trace) -> list[str]:
    start = datetime.fromisoformat(str(trace.start_utc))
    times = pd.Timestamp(start) + pd.to_timedelta(trace.time_s, unit="s")
    return [time.isoformat() for time in times]


def _cells(values: np.ndarray) -> list[str]:
    if values.dtype.kind != "f":
        return [str(value) for value in values]
    return ["" if np.isnan(value) else format(value, ".10g") for value in values]
