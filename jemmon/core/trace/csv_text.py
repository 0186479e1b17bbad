"""The trace CSV of docs/formats.md, in and out.

pandas reads; only after trouble a reader goes line by line to name the place. pandas quietly takes text such as `inf`
or `nan`, NUL bytes, repeated headers and short lines, so these are looked for first.
"""

import csv
import io
from collections.abc import Iterator
from datetime import datetime

import numpy as np
import pandas as pd

from ..base.errors import TraceError
from ..base.units import TO_CORE
from .columns import Trace
from .signals import Kind, is_number_column, row_of, signal_of

_SLOWEST_HZ, _FASTEST_HZ = 0.1, 50.0
MOST_COLUMNS = 400  # two engines of eighteen cylinders have fewer than a hundred
_MOST_BAD_SHARE, _BAD_AT_LEAST = 0.01, 1
_PIECE_BYTES = 1_000_000
_NOISE_SHARE = 0.005  # of a sensor's range: a tachometer at rest trembles around nought


def read_trace_csv(data: bytes) -> Trace:
    """Return the trace in a CSV file's bytes.

    Raises:
        TraceError: with line and column, what is wrong and what is expected.
    """
    text_start = data[3:] if data.startswith(b"\xef\xbb\xbf") else data
    end = len(text_start) - _blank_at_end(text_start)
    if not end:
        raise TraceError("The file is empty; a trace needs a header row and at least one sample.")
    if text_start[end:] not in (b"", b"\n", b"\r\n"):
        text_start = text_start[:end]
    header = _header(text_start)
    numbers = [name for name in header[1:] if is_number_column(name)]
    try:
        frame = _read_frame(text_start, header, numbers)
    except (ValueError, OverflowError) as error:  # pandas' parser errors are ValueErrors
        _explain(text_start, header, numbers)
        raise TraceError(f"The file cannot be read as CSV: {str(error)[:200]}") from error
    time_s, start_utc = _times(frame[header[0]], header[0])
    columns = {name: _column(frame[name], name in numbers) for name in header[1:]}
    return Trace(time_s, columns, start_utc, _set_aside(columns))


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
    if len(header) > MOST_COLUMNS:
        raise TraceError(f"The header names {len(header):,} columns; at most {MOST_COLUMNS} are read.", 1)
    _check_signals(header[1:])
    if "" in header:
        raise TraceError(f"Column {header.index('') + 1} has no name in the header.", 1)
    return header


def _check_signals(names: list[str]) -> None:
    """Raise TraceError where no column is a signal, or two are the same one in two units."""
    seen: dict[tuple[int, str], str] = {}
    for name in names:
        if (known := signal_of(name)) is None or row_of(known[1]) is None:
            continue
        if (first := seen.setdefault(known[:2], name)) != name:
            raise TraceError(f"It is the same signal as {first}; keep one of them.", 1, name)
    if not seen:
        raise TraceError(
            "None of the columns is one that Jemmon knows; their names are like rpm, egt1_f, oil_p_psi (docs/formats.md).",
            1,
        )


def _set_aside(columns: dict[str, np.ndarray]) -> tuple[str, ...]:
    """Take figures that no sensor shows (9,999 °F) as no reading; return what is said of it.

    Raises:
        TraceError: more than one RPM in a hundred is such: the column is not what its name says.
    """
    said = []
    for name, values in list(columns.items()):
        known = signal_of(name)
        row = row_of(known[1]) if known else None
        if known is None or row is None or row.kind is not Kind.READING:
            continue
        is_core = not known[2] or known[2] == row.unit
        shown = values if is_core else np.asarray(TO_CORE[row.unit][known[2]].to_core(values))  # type: ignore[arg-type]
        slack = _NOISE_SHARE * (row.highest - row.lowest)
        bad = np.flatnonzero((shown < row.lowest - slack) | (shown > row.highest + slack))
        if not bad.size:
            continue
        first, figure = int(bad[0]) + 2, float(values[bad[0]])
        if row.name == "rpm" and bad.size > max(_MOST_BAD_SHARE * len(values), _BAD_AT_LEAST):
            raise TraceError(f"{bad.size} figures are no RPM of an engine, the first {figure:g}.", first, name)
        columns[name] = np.where(np.isin(np.arange(len(values)), bad), np.nan, values)
        said.append(f"{bad.size} of {name} taken as no reading, the first in line {first}: {figure:g}.")
    return tuple(said)


def _read_frame(data: bytes, header: list[str], numbers: list[str]) -> pd.DataFrame:
    if b"\0" in data:
        raise ValueError("a cell holds no figure")
    is_quoted = b'"' in data
    if not is_quoted and _count(data, ",") != (len(header) - 1) * _lines(data):
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
    without = sum(int(frame[name].isna().sum()) for name in header if name not in numbers)
    for name in numbers:
        figures = frame[name].to_numpy(dtype=float)
        if not np.isfinite(figures).all():
            if np.isinf(figures).any():
                raise ValueError("a figure is too large")
            without += int(np.isnan(figures).sum())
    if without and not is_quoted and without != _empty_cells(data):
        raise ValueError("a cell holds a word that pandas takes for no figure")
    return frame


def _pieces(data: bytes) -> Iterator[np.ndarray]:
    """Yield a file's bytes a megabyte at a time, each beginning with the last byte of the one before: little memory, and fast."""
    whole = np.frombuffer(data, np.uint8)
    for start in range(0, len(whole), _PIECE_BYTES):
        yield whole[max(start - 1, 0) : start + _PIECE_BYTES]


def _count(data: bytes, sign: str) -> int:
    """Return how often a sign of one byte is there; a third of the time that `bytes.count` takes where it is common."""
    return sum(int(np.count_nonzero(piece[1 if n else 0 :] == ord(sign))) for n, piece in enumerate(_pieces(data)))


def _lines(data: bytes) -> int:
    return _count(data, "\n") + (not data.endswith(b"\n"))


def _blank_at_end(data: bytes) -> int:
    """Return how many bytes of line ends and blanks end the file: blank lines there are no rows."""
    tail = 1024
    while tail < len(data) and not data[-tail:].strip():
        tail *= 2
    return min(tail, len(data)) - len(data[-tail:].rstrip())


def _empty_cells(data: bytes) -> int:
    """Return how many cells of a file without quotes hold nothing at all: a separator follows the one before at once."""
    found = int(data.endswith(b","))
    for piece in _pieces(data):
        after, before = piece[1:], piece[:-1]
        is_end = (after == ord(",")) | (after == ord("\n")) | (after == ord("\r"))
        begins = (before == ord(",")) | (before == ord("\n"))
        found += int(np.count_nonzero(is_end & begins))
    return found


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
        raise TraceError(f"The rate is {1 / np.median(steps):.3g} Hz; a trace has a sample each 0.02 to 10 s.", 3, name)
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
