"""Lists as text: a profile's lists out as Markdown, and in again, or from plain text pasted from anywhere.

Out: `#` a phase, `##` a list, `- challenge | response`, the reason indented below it. In: the same, or lines such as
`MASTER .... ON` below a heading of their own. An item that the profile has in that list keeps everything that data need
(lever, reading, check); one that the library knows by its words comes from there; the rest are the pilot's own.
"""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..base.errors import ProfileError
from .composition import Library, of_this_type
from .matching import best_match, heading_of

OWN, KEPT, KNOWN = "own", "kept", "known"
UNMARKED = 0  # the level of a heading without its mark: a phase or a list, by its words
_UNSAID = "Done"
_CLEARLY = 0.1  # an item of the library that fits so much better is taken before one of the list
_OWN_WHY = "An item of the pilot's own list."
_HEADING = re.compile(r"^(#{1,2})\s+(.+?)\s*#*$")
# what stands between a challenge and its response: a bar, a row of dots, a tab, a dash or a colon with spaces, three spaces
_BETWEEN = re.compile(r"\s*\|\s*|\s*(?:\.{2,}|…+|·{2,})\s*|\t+|\s+(?:[-–—]+>?|=+>|→)\s+|:\s+|\s{3,}")
_BAR = " | "
_BULLET = re.compile(r"^(?:[-*•☐□]|\d+[.)]|\[ ?\])\s+")
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
    """A heading: of a phase (level 1), a list (level 2) or either (unmarked), and the line of the text that it is."""

    level: int
    title: str
    number: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Match:
    """How a line was found: `kept` (the profile had it in that phase), `known` (from the library), `own` (neither); `of` is the
    library's name of it."""

    line: str
    how: str
    of: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadLists:
    """A profile's JSON with its lists as a text says, and how each line was found, in their order."""

    body: dict[str, Any]
    found: tuple[Match, ...]

    def count(self, how: str) -> int:
        """Return how many items were found so."""
        return sum(match.how == how for match in self.found)


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


def lists_from_text(text: str, body: Mapping[str, Any], library: Library, instead: bool = False) -> ReadLists:
    """Return a whole profile's JSON with the lists that a text gives in the place of its own; those that it does not name stay, or
    `instead` go from the phases that it names.

    Raises:
        ProfileError: nothing in the text is an item, an item stands under no phase, or a phase is none of the profile.
    """
    phases = [{**phase, "lists": list(phase["lists"])} for phase in body["phases"]]
    library = of_this_type(library, body)
    found: list[Match] = []
    taken = {item["id"] for phase in phases for one in phase["lists"] for item in one["items"]}
    place = Place()
    put: set[tuple[str, str]] = set()
    for heading, lines in _parts(text):
        place = _placed(heading, place, phases, bool(lines))
        if not lines:
            _check_phase(heading, place.phase, phases)
            continue
        if place.phase is None or place.title is None:
            known = ", ".join(row["title"] for row in phases)
            raise ProfileError(f"{lines[0].challenge!r} stands under no phase; begin with a heading of one: {known}.")
        _put_list(place, lines, library, taken, found)
        put.add((place.phase["id"], _plain(place.title)))
    if not found:
        raise ProfileError("Nothing in this text is an item; write one a line, `challenge | response`.")
    if instead:
        phases = [_only(phase, {title for phase_id, title in put if phase_id == phase["id"]}) for phase in phases]
    return ReadLists(body={**body, "phases": phases}, found=tuple(found))


def _only(phase: dict[str, Any], titles: set[str]) -> dict[str, Any]:
    """Return a phase with the lists of these titles alone, or as it was where there is none."""
    return {**phase, "lists": [one for one in phase["lists"] if _plain(one["title"]) in titles]} if titles else phase


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """Where lines go: the phase, the title of the list, and which parts of the library its heading names."""

    phase: dict[str, Any] | None = None
    title: str | None = None
    slots: tuple[str, ...] = ()


def _placed(heading: Heading | None, before: Place, phases: list[dict[str, Any]], has_lines: bool) -> Place:
    """Return where the lines below a heading go: a phase or a list by its own title, else by what its words name in a flight, else
    as a new list of the phase before."""
    if heading is None:
        return Place(phase=before.phase, slots=before.slots)
    meant = heading_of(heading.title)
    slots = meant.slots if meant else before.slots
    is_list = heading.level == 2 and before.phase is not None
    if not is_list and (named := _titled(phases, heading.title)) is not None:
        title = named["lists"][0]["title"] if has_lines and named["lists"] else None
        return Place(phase=named, title=title, slots=slots)
    if heading.level == UNMARKED:
        for phase in phases:
            if (own := _titled(phase["lists"], heading.title)) is not None:
                return Place(phase=phase, title=own["title"], slots=slots)
        for kind in meant.kinds if meant else ():
            found = [phase for phase in phases if phase["kind"] == kind]
            if found:
                return Place(phase=found[0], title=heading.title, slots=slots)
    return Place(phase=before.phase, title=heading.title, slots=slots)


def _check_phase(heading: Heading | None, phase: dict[str, Any] | None, phases: Sequence[dict[str, Any]]) -> None:
    if heading is not None and heading.level == 1 and _titled(phases, heading.title) is None and phase is None:
        known = ", ".join(row["title"] for row in phases)
        raise ProfileError(f"Line {heading.number}: {heading.title!r} is none of the profile's phases: {known}.")


def _parts(text: str) -> Iterator[tuple[Heading | None, list[Line]]]:
    """Yield each heading with the lines below it. A line by itself, if not a heading, is an item without a response."""
    heading: Heading | None = None
    lines: list[Line] = []
    is_after_gap = True
    for number, raw in enumerate(text.splitlines(), 1):
        if not raw.strip():
            is_after_gap = True
            continue
        marked = _HEADING.match(raw.strip())
        line = None if marked else _line(raw)
        is_alone = line is None and not raw.startswith((" ", "\t"))
        if marked or is_alone and (is_after_gap or raw.rstrip().endswith(":") or raw.isupper()):
            if heading is not None or lines:
                yield heading, lines
            title = marked[2] if marked else raw.strip().rstrip(":")
            heading, lines = Heading(level=len(marked[1]) if marked else UNMARKED, title=title, number=number), []
        elif is_alone:
            lines.append(Line(challenge=_sentence(_BULLET.sub("", raw.strip())), response=_UNSAID))
        elif line is not None and not (raw.startswith("    ") and lines and _BAR not in raw):
            lines.append(line)
        elif lines:
            why = f"{lines[-1].why} {raw.strip()}".strip()
            lines[-1] = Line(challenge=lines[-1].challenge, response=lines[-1].response, why=why)
        is_after_gap = False
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
    place: Place,
    lines: Sequence[Line],
    library: Library,
    taken: set[str],
    found: list[Match],
) -> None:
    """Put a list of these lines into a phase, in the place of its own of this title or behind the last."""
    phase, title = place.phase, place.title
    assert phase is not None
    assert title is not None
    before = _titled(phase["lists"], title)
    had = [item for one in phase["lists"] for item in one["items"]]
    each_engine = {item["id"] for one in phase["lists"] if one.get("each_engine") for item in one["items"]}
    items: list[dict[str, Any]] = []
    taken -= {item["id"] for item in before["items"]} if before else set()
    for line in lines:
        item, how = _item(line, had, library, taken, place.slots)
        taken.add(item["id"])
        items.append(item)
        found.append(Match(line=line.challenge, how=how, of=item.get("of")))
    own = {item["id"] for item in items}
    each = {"each_engine": True} if each_engine & own else {}
    if before is None:
        names = {one["id"] for one in phase["lists"]}
        made = {"id": _free(_slug(title), names), "title": title, **each, "items": items}
        phase["lists"] = [*_without(phase["lists"], own), made]
    else:
        at = phase["lists"].index(before)
        rest = phase["lists"]
        phase["lists"] = [*_without(rest[:at], own), {**before, **each, "items": items}, *_without(rest[at + 1 :], own)]


def _without(lists: Sequence[dict[str, Any]], taken: set[str]) -> list[dict[str, Any]]:
    """Return lists without the items that another has taken; one that is empty then is left out."""
    rest = [{**one, "items": [item for item in one["items"] if item["id"] not in taken]} for one in lists]
    return [one for one in rest if one["items"]]


def _item(
    line: Line, had: list[dict[str, Any]], library: Library, taken: set[str], slots: tuple[str, ...]
) -> tuple[dict[str, Any], str]:
    own = _exact(line, had)
    here_only = [row for row in library.values() if not slots or row.get("slot") in slots]
    known = None if own else _exact(line, here_only)
    if own is None and known is None:
        here = best_match(line.challenge, line.response, had)
        there = best_match(line.challenge, line.response, library.values(), slots)
        if here and not (there and there.score > here.score + _CLEARLY):
            own = here.row
        elif there:
            known = there.row
    if own is None and known is not None:
        own = next((row for row in had if row.get("of") == known["id"]), None)
    if own is not None:
        had[:] = [row for row in had if row["id"] != own["id"]]
        return {**own, "challenge": line.challenge, "response": line.response, "why": line.why or own["why"]}, KEPT
    if known is not None:
        shared = {key: value for key, value in known.items() if key != "slot"}
        more = {"challenge": line.challenge, "response": line.response, "why": line.why or known["why"]}
        return {**shared, "id": _free(known["id"], taken), "of": known["id"], **more}, KNOWN
    name = _free(_slug(line.challenge), taken)
    return {"id": name, "challenge": line.challenge, "response": line.response, "why": line.why or _OWN_WHY}, OWN


def _exact(line: Line, rows: Sequence[Mapping[str, Any]]) -> Mapping[str, Any] | None:
    """Return the row with these very words."""
    return next((row for row in rows if (row["challenge"], row["response"]) == (line.challenge, line.response)), None)


def _slug(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", "_", text.lower()).strip("_")[:34] or "item"


def _free(name: str, taken: set[str]) -> str:
    """Return a name that nothing has yet."""
    number = 1
    while (made := name if number == 1 else f"{name}_{number}") in taken:
        number += 1
    return made
