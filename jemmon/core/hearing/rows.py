"""What was heard, as rows: `time_s,rpm,rpm_plus_minus,heard`, RPM empty where it is unsure."""

from math import isfinite
from typing import Any

from .hear import Heard

_HEAD = "time_s,rpm,rpm_plus_minus,heard"


def as_rows(heard: Heard) -> list[dict[str, Any]]:
    """Return a row each quarter of a second [s, RPM]; None where nothing is told."""
    rows = zip(heard.time_s, heard.rpm, heard.plus_minus_rpm, strict=True)
    return [
        {
            "time_s": float(at),
            "rpm": round(float(rpm), 1) if isfinite(rpm) else None,
            "rpm_plus_minus": round(float(off), 1) if isfinite(rpm) else None,
            "heard": bool(isfinite(rpm)),
        }
        for at, rpm, off in rows
    ]


def as_csv(heard: Heard) -> str:
    """Return the rows as a trace; without a tap it has none."""
    lines = [_HEAD]
    for row in as_rows(heard):
        rpm = "" if row["rpm"] is None else f"{row['rpm']:g}"
        off = "" if row["rpm"] is None else f"{row['rpm_plus_minus']:g}"
        lines.append(f"{row['time_s']:g},{rpm},{off},{int(row['heard'])}")
    return "\n".join(lines) + "\n"
