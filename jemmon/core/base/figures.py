"""Figures inside live sentences, so that they are read in the pilot's own unit: written `{410|f}` here, put into words by `plain`
for a log or a test, and by the front end in the unit on display. A difference of temperatures is `{~20|f}`: it has no shift;
`{~4.2|rpm+}` is shown with one decimal more than its unit has. The texts of a profile have their figures in the same way."""

import re

from .units import DISPLAYS

_FIGURE = re.compile(r"\{(~?)([+-]?[0-9.]+)\|([a-z]+)(\+?)\}")


def figure(value: float, unit: str) -> str:
    """Return a figure of a sentence, in a core unit of `units.DISPLAYS`."""
    return f"{{{float(value):.2f}|{unit}}}"


def difference(value: float, unit: str, signed: bool = False, finer: bool = False) -> str:
    """Return a difference of two figures of a sentence, `unit` a core unit; `signed`: a rise is written with its plus; `finer`:
    with a decimal more than its unit has."""
    return f"{{~{float(value):{'+' if signed else ''}.2f}|{unit}{'+' * finer}}}"


def plain(text: str) -> str:
    """Return a sentence in words, in the first of the units that can be chosen.

    >>> plain("Cylinder 2 at {410.00|f}, {~+20.00|f} in a minute")
    'Cylinder 2 at 410 °F, +20 °F in a minute'
    >>> plain("Outside {10|c}, {~5|c} below standard")
    'Outside 50 °F, 9 °F below standard'
    """

    def words(found: re.Match[str]) -> str:
        display = DISPLAYS[found[3]]["us"]
        sign = "+" if found[2].startswith("+") else ""
        value = float(found[2]) * display.scale + (0.0 if found[1] else display.shift)
        return f"{value:{sign},.{display.decimals + len(found[4])}f} {display.label}"

    return _FIGURE.sub(words, text)


def beyond(value: float, limit: float) -> str:
    """Return a figure that is beyond its limit, in the limit's unit, with a decimal more where it would read like it: never "50; at
    most 50"."""
    return f"{value:,.1f}" if round(value) == round(limit) else f"{value:,.0f}"
