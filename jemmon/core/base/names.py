"""Names that a registry owns: one that is not known is refused with the nearest that is."""

import difflib
from collections.abc import Iterable

from .errors import CoreError


def check_known(place: str, name: str, known: Iterable[str], error: type[CoreError]) -> None:
    """Raise `error` unless `name` is one of `known`; the message names the nearest known one.

    >>> check_known("`limits`", "oil_pressure_min", ["oil_pressure_min_psi"], CoreError)
    Traceback (most recent call last):
    jemmon.core.base.errors.CoreError: `limits`: there is no 'oil_pressure_min'; did you mean 'oil_pressure_min_psi'?
    """
    rows = list(known)
    if name in rows:
        return
    shown = name if len(name) <= 60 else f"{name[:60]}..."
    near = difflib.get_close_matches(name[:80], rows, 1, 0.5)
    hint = f"did you mean {near[0]!r}?" if near else f"known are {', '.join(sorted(rows)) or 'none'}."
    raise error(f"{place}: there is no {shown!r}; {hint}")
