"""Lists as text: a profile's lists out as Markdown, and in again, or from plain text pasted from anywhere.

Out: `#` a phase, `##` a list, `- challenge | response`, the reason indented below it. In: the same, or lines such as
`MASTER .... ON` below a heading of their own. An item that the profile has in that list keeps everything that data need
(lever, reading, check); one that the library knows by its words comes from there; the rest are the pilot's own.
"""

import difflib
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..base.errors import ProfileError
from .composition import Library

OWN, KEPT, KNOWN = "own", "kept", "known"
_OWN_WHY = "An item of the pilot's own list."
_HEADING = re.compile(r"^(#{1,2})\s+(.+?)\s*#*$")
# what stands between a challenge and its response: a bar, a row of dots, a tab, a dash or a colon with spaces, three spaces
_BETWEEN = re.compile(r"\s*\|\s*|\s*(?:\.{2,}|…+|·{2,})\s*|\t+|\s+[-–—]+>?\s+|:\s+|\s{3,}")
_BAR = " | "
_BULLET = re.compile(r"^(?:[-*•☐□]|\d+[.)]|\[ ?\])\s+")
_SAME_WORDS = 0.82  # how alike two texts are that mean one item (tried on the lists of the shipped kinds)
_ABBREVIATED = {"mags": "magnetos", "prop": "propeller", "carb": "carburettor", "alt": "alternator", "temps": "temperatures",
                "press": "pressure", "batt": "battery", "xpdr": "transponder", "inst": "instruments"}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """One line of a text: the item's challenge, response and reason (empty where none is given)."""

    challenge: str
    response: str
    why: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Heading:
    """A heading: of a phase (level 1) or a list (level 2), and the line of the text that it is."""

    level: int
    title: str
    number: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadLists:
    """A profile's JSON with its lists as a text says, and how each item was found: `kept` (the profile had it in that list),
    `known` (from the library), `own` (neither)."""

    body: dict[str, Any]
    found: tuple[tuple[str, str], ...]

    def count(self, how: str) -> int:
        """Return how many items were found so."""
        return sum(way == how for _, way in self.found)


def lists_as_text(body: Mapping[str, Any]) -> str:
    """Return the lists of a whole profile's JSON as Markdown."""
    rows: list[str] = []
    for phase in body["phases"]:
        rows += [f"# {phase['title']}", ""]
        for one in phase["lists"]:
            rows += [f"## {one['title']}", ""]
            for item in one["items"]:
                rows += [f"- {item['challenge']} | {item['response']}", f"    {item['why']}"]
            rows += [""]
    return "\n".join(rows)


def lists_from_text(text: str, body: Mapping[str, Any], library: Library) -> ReadLists:
    """Return a whole profile's JSON with the lists that a text gives in the place of its own; those that it does not name stay.

    Raises:
        ProfileError: nothing in the text is an item, an item stands under no phase, or a phase is none of the profile.
    """
    phases = [{**phase, "lists": list(phase["lists"])} for phase in body["phases"]]
    found: list[tuple[str, str]] = []
    taken = {item["id"] for phase in phases for one in phase["lists"] for item in one["items"]}
    phase: dict[str, Any] | None = None
    for heading, lines in _parts(text):
        if (
            heading is not None
            and (named := _titled(phases, heading.title)) is not None
            and not (heading.level == 2 and phase)
        ):
            phase = named
            title = phase["lists"][0]["title"] if lines and phase["lists"] else None
        else:
            title = heading.title if heading is not None else None
        if not lines:
            _check_phase(heading, phase, phases)
            continue
        if phase is None or title is None:
            known = ", ".join(row["title"] for row in phases)
            raise ProfileError(f"{lines[0].challenge!r} stands under no phase; begin with a heading of one: {known}.")
        _put_list(phase, title, lines, library, taken, found)
    if not found:
        raise ProfileError("Nothing in this text is an item; write one a line, `challenge | response`.")
    return ReadLists(body={**body, "phases": phases}, found=tuple(found))


def _check_phase(heading: Heading | None, phase: dict[str, Any] | None, phases: Sequence[dict[str, Any]]) -> None:
    if heading is not None and heading.level == 1 and _titled(phases, heading.title) is None and phase is None:
        known = ", ".join(row["title"] for row in phases)
        raise ProfileError(f"Line {heading.number}: {heading.title!r} is none of the profile's phases: {known}.")


def _parts(text: str) -> Iterator[tuple[Heading | None, list[Line]]]:
    """Yield each heading with the lines below it."""
    heading: Heading | None = None
    lines: list[Line] = []
    for number, raw in enumerate(text.splitlines(), 1):
        if not raw.strip():
            continue
        marked = _HEADING.match(raw.strip())
        line = None if marked else _line(raw)
        if marked or line is None and not raw.startswith((" ", "\t")):
            if heading is not None or lines:
                yield heading, lines
            title = marked[2] if marked else raw.strip().rstrip(":")
            heading, lines = Heading(level=len(marked[1]) if marked else 2, title=title, number=number), []
        elif line is not None and not (raw.startswith("    ") and lines and _BAR not in raw):
            lines.append(line)
        elif lines:
            why = f"{lines[-1].why} {raw.strip()}".strip()
            lines[-1] = Line(challenge=lines[-1].challenge, response=lines[-1].response, why=why)
    if heading is not None or lines:
        yield heading, lines


def _line(raw: str) -> Line | None:
    text = _BULLET.sub("", raw.strip())
    if _BAR in text:  # as it was written out: nothing is made nicer
        challenge, response = text.split(_BAR, 1)
        return Line(challenge=challenge.strip(), response=response.strip()) if challenge and response else None
    parts = _BETWEEN.split(text, maxsplit=1)
    if len(parts) < 2 or not parts[0] or not parts[1]:
        return None
    return Line(challenge=_sentence(parts[0]), response=_sentence(parts[1]))


def _sentence(text: str) -> str:
    """Return a text that shouts in a quiet voice."""
    text = text.strip(" .…·")
    return text.capitalize() if text.isupper() and len(text) > 3 else text


def _titled(rows: Sequence[dict[str, Any]], title: str) -> dict[str, Any] | None:
    return next((row for row in rows if _plain(row["title"]) == _plain(title)), None)


def _plain(text: str) -> str:
    words = re.findall(r"[a-z0-9]+", text.lower())
    return " ".join(_ABBREVIATED.get(word, word) for word in words)


def _put_list(
    phase: dict[str, Any],
    title: str,
    lines: Sequence[Line],
    library: Library,
    taken: set[str],
    found: list[tuple[str, str]],
) -> None:
    """Put a list of these lines into a phase, in the place of its own of this title or behind the last."""
    before = _titled(phase["lists"], title)
    had = list(before["items"]) if before else []
    taken -= {item["id"] for item in had}
    items = []
    for line in lines:
        item, how = _item(line, had, library, taken)
        taken.add(item["id"])
        items.append(item)
        found.append((line.challenge, how))
    if before is not None:
        phase["lists"][phase["lists"].index(before)] = {**before, "items": items}
    else:
        phase["lists"].append(
            {"id": _free(_slug(title), {one["id"] for one in phase["lists"]}), "title": title, "items": items}
        )


def _item(line: Line, had: list[dict[str, Any]], library: Library, taken: set[str]) -> tuple[dict[str, Any], str]:
    own = _nearest(line, had)
    if own is not None:
        had.remove(own)
        return {**own, "challenge": line.challenge, "response": line.response, "why": line.why or own["why"]}, KEPT
    known = _nearest(line, [row for name, row in library.items() if name not in taken])
    if known is not None:
        shared = {key: value for key, value in known.items() if key != "slot"}
        more = {"challenge": line.challenge, "response": line.response, "why": line.why or known["why"]}
        return {**shared, "of": known["id"], **more}, KNOWN
    name = _free(_slug(line.challenge), taken)
    return {"id": name, "challenge": line.challenge, "response": line.response, "why": line.why or _OWN_WHY}, OWN


def _nearest(line: Line, rows: Sequence[Mapping[str, Any]]) -> Any:
    """Return the row that means the same item: by challenge and response as they are, by challenge and response nearly so, or by a
    challenge that only one row has."""
    exact = [row for row in rows if (row["challenge"], row["response"]) == (line.challenge, line.response)]
    if exact:
        return exact[0]
    same = [row for row in rows if _alike(row["challenge"], line.challenge) >= _SAME_WORDS]
    if len(same) == 1:
        return same[0]
    return max(same, key=lambda row: _alike(row["response"], line.response), default=None)


def _alike(one: str, other: str) -> float:
    return difflib.SequenceMatcher(None, _plain(one), _plain(other)).ratio()


def _slug(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", "_", text.lower()).strip("_")[:34] or "item"


def _free(name: str, taken: set[str]) -> str:
    """Return a name that nothing has yet."""
    number = 1
    while (made := name if number == 1 else f"{name}_{number}") in taken:
        number += 1
    return made
