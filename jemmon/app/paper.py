"""An aircraft's card on paper, as a PDF: its lists, blanks for the figures of the run-up, power and prime, the emergency cards on
the back, and in the foot which version it is. Page breaks fall between lists; inside one only where it is longer than a page.
"""

import io
from dataclasses import dataclass

from fpdf import FPDF
from fpdf.enums import XPos, YPos
from pypdf import PdfReader, PdfWriter, Transformation

from ..core.aircraft import Checklist, Profile
from ..core.aircraft.lists import Item
from ..core.base.errors import CoreError
from ..core.base.figures import plain
from ..core.power.card_lines import power_lines

# [mm]: the knee board's is a usual size of its clip; the folded A4 has two A5 pages a side
SIZES: dict[str, tuple[float, float]] = {
    "A5": (148.0, 210.0),
    "A6": (105.0, 148.0),
    "knee": (127.0, 203.0),
    "A4-folded": (148.0, 210.0),
}
_MARGIN_MM, _FOOT_MM = 8.0, 9.0
_LARGE, _ITEM_PT = 1.35, 8.5
_DAY, _NIGHT = (
    ((0, 0, 0), (255, 255, 255)),
    ((190, 20, 20), (0, 0, 0)),
)  # ink and paper; red keeps the eye used to the dark
_LATIN = str.maketrans(
    {"–": "-", "—": "-", "’": "'", "“": '"', "”": '"', "…": "...", "→": "to", "≥": ">=", "−": "-", "✓": "x"}
)
_BLANKS = ("Before", "Left", "Right", "Difference", "Heat", "Idle")


class PaperError(CoreError):
    """A card cannot be made as it is asked for."""

    code = "paper_error"


@dataclass(frozen=True, slots=True, kw_only=True)
class CardAsked:
    """How a card is made: its size, in large print, for red light at night, and what its foot says of the version."""

    size: str = "A5"
    large: bool = False
    night: bool = False
    version: str = ""
    day: str = ""


class _Card(FPDF):
    """The page: its ink and paper, and its foot."""

    def __init__(self, asked: CardAsked, foot: str):
        super().__init__(unit="mm", format=SIZES[asked.size])
        self.asked, self.foot = asked, foot
        self.ink, self.paper = _NIGHT if asked.night else _DAY
        self.scale = (_LARGE if asked.large else 1.0) * (0.82 if asked.size == "A6" else 1.0)
        self.set_margins(_MARGIN_MM, _MARGIN_MM)
        self.set_auto_page_break(False)
        self.set_title(foot)

    def header(self) -> None:
        """Fill the paper; nothing is printed above."""
        if self.asked.night:
            self.set_fill_color(*self.paper)
            self.rect(0, 0, self.w, self.h, style="F")
        self.set_draw_color(*self.ink)

    def footer(self) -> None:
        """Print which aircraft, which version, which page."""
        self.set_y(-_FOOT_MM)
        self.set_font("Helvetica", size=6.5)
        self.set_text_color(*self.ink)
        self.cell(0, 4, _latin(f"{self.foot}   page {self.page_no()}"), align="C")

    @property
    def left_mm(self) -> float:
        """How much of the page is left [mm]."""
        return float(self.h - _FOOT_MM - 1.0 - self.get_y())

    def say(self, text: str, points: float, bold: bool = False) -> None:
        """Print a paragraph over the whole width."""
        self.set_font("Helvetica", "B" if bold else "", points * self.scale)
        self.set_text_color(*self.ink)
        self.multi_cell(0, self.line_mm(points), _latin(text), new_x=XPos.LMARGIN, new_y=YPos.NEXT, align="L")

    def line_mm(self, points: float) -> float:
        """Return the height of a line of text in points [mm]."""
        return points * self.scale * 0.353 * 1.25

    def height_mm(self, text: str, points: float, bold: bool = False) -> float:
        """Return how high a paragraph is [mm]."""
        self.set_font("Helvetica", "B" if bold else "", points * self.scale)
        lines = self.multi_cell(0, self.line_mm(points), _latin(text), dry_run=True, output="LINES", align="L")
        assert isinstance(lines, list)
        return len(lines) * self.line_mm(points)

    def say_item(self, item: Item) -> None:
        """Print an item: the challenge, dots, and the response at the right edge; over several lines where it is too long."""
        self.set_font("Helvetica", "B" if item.killer else "", _ITEM_PT * self.scale)
        self.set_text_color(*self.ink)
        left, right = _latin(_challenge(item)), _latin(plain(item.response))
        free = self.w - 2 * _MARGIN_MM - self.get_string_width(f"{left}  {right} ") - 2
        if free < 2:
            self.say(_line(item), _ITEM_PT, item.killer)
            return
        dots = "." * int(free / self.get_string_width("."))
        high = self.line_mm(_ITEM_PT)
        self.cell(self.get_string_width(f"{left} ") + 2, high, left)
        self.cell(0, high, f"{dots} {right}", align="R", new_x=XPos.LMARGIN, new_y=YPos.NEXT)


def card_pdf(profile: Profile, asked: CardAsked) -> bytes:
    """Return an aircraft's card as the bytes of a PDF. Raises PaperError for a size that there is not."""
    if asked.size not in SIZES:
        raise PaperError(f"There is no size {asked.size!r}; there are {', '.join(SIZES)}.", "size")
    version = asked.version or profile.content_hash
    foot = f"{profile.registration}  {version}  {asked.day}  Not certified; the flight manual decides."
    card = _Card(asked, foot)
    card.add_page()
    card.say(f"{profile.registration}  {profile.name}", 11, bold=True)
    for phase in profile.phases:
        for one in phase.lists:
            _list(card, phase.title, one)
    _figures(card, profile)
    _emergency(card, profile)
    made = bytes(card.output())
    return _folded(made) if asked.size == "A4-folded" else made


def _list(card: _Card, phase: str, one: Checklist) -> None:
    """Print a list: on this page where it fits, else on the next; where it is longer than a page, broken after an item."""
    title = one.title if one.title == phase else f"{phase}: {one.title}"
    condition = f" (only if {plain(', '.join(c.words for c in one.only_if))})" if one.only_if else ""
    whole = card.height_mm(title + condition, 9.5, bold=True) + 2
    whole += sum(card.height_mm(_line(item), _ITEM_PT, item.killer) + 0.5 for item in one.items)
    if whole > card.left_mm and card.get_y() > _MARGIN_MM + 12:
        card.add_page()
    card.ln(1.5)
    card.say(title + condition, 9.5, bold=True)
    for item in one.items:
        if card.height_mm(_line(item), _ITEM_PT, item.killer) > card.left_mm:
            card.add_page()
            card.say(f"{title}, continued", 9.5, bold=True)
        card.say_item(item)
        card.ln(0.5)


def _line(item: Item) -> str:
    """Return an item as a line: challenge, dots, response; what kills has its mark."""
    return f"{_challenge(item)} .... {plain(item.response)}"


def _challenge(item: Item) -> str:
    return f"{'! ' if item.killer else ''}{item.challenge}"


def _figures(card: _Card, profile: Profile) -> None:
    """Print blanks for the run-up's figures, and the tables of prime and power."""
    rows = [*_prime_rows(profile), *_power_rows(profile)]
    if card.left_mm < 24 * card.scale + card.line_mm(8.5) * (len(rows) + 4):
        card.add_page()
    card.ln(2)
    card.say("Run-up figures", 9.5, bold=True)
    width = (card.w - 2 * _MARGIN_MM) / len(_BLANKS)
    for name in _BLANKS:
        card.set_font("Helvetica", size=6.5)
        card.cell(width, 4, name, border="LTR")
    card.ln(4)
    for _ in profile.engines:
        for _ in _BLANKS:
            card.cell(width, 8, "", border="LBR")
        card.ln(8)
    for title, lines in (("Prime", _prime_rows(profile)), ("Power", _power_rows(profile))):
        if lines:
            card.ln(1.5)
            card.say(title, 9.5, bold=True)
            for line in lines:
                card.say(line, 8.5)


def _prime_rows(profile: Profile) -> list[str]:
    unit = profile.start.unit
    return (
        [plain(f"Below {{{below:g}|c}}: {amount:g} {unit}") for below, amount in profile.prime]
        if unit != "none"
        else []
    )


def _power_rows(profile: Profile) -> list[str]:
    return [plain(line) for line in power_lines(profile)]


def _emergency(card: _Card, profile: Profile) -> None:
    """Print the emergency cards on the back of a sheet."""
    if card.page_no() % 2 == 0:
        card.add_page()
    card.add_page()
    card.say("EMERGENCY: the handbook's own drill comes first", 10, bold=True)
    for drill in profile.body.get("emergency", ()):
        steps = [f"{number}. {plain(step)}" for number, step in enumerate(drill["steps"], 1)]
        whole = card.height_mm(drill["title"], 9.5, bold=True) + sum(card.height_mm(step, 8.5) for step in steps) + 2
        if whole > card.left_mm and card.get_y() > _MARGIN_MM + 12:
            card.add_page()
        card.ln(1.5)
        card.say(drill["title"], 9.5, bold=True)
        for step in steps:
            card.say(step, 8.5)


def _latin(text: str) -> str:
    """Return a text in the letters that the PDF's own fonts have."""
    return text.translate(_LATIN).encode("latin-1", "replace").decode("latin-1")


_SHEET_MM = (297.0, 210.0)


def booklet_order(pages: int) -> list[tuple[int | None, int | None]]:
    """Return which pages (from 0; None is blank) lie left and right on each side of a sheet that is folded once and laid into each
    other.

    >>> booklet_order(4)
    [(3, 0), (1, 2)]
    """
    whole = -(-pages // 4) * 4
    places = [number if number < pages else None for number in range(whole)]
    rows: list[tuple[int | None, int | None]] = []
    for sheet in range(whole // 4):
        first, last = 2 * sheet, whole - 1 - 2 * sheet
        rows += [(places[last], places[first]), (places[first + 1], places[last - 1])]
    return rows


def _folded(pdf: bytes) -> bytes:
    """Return a card's A5 pages two a side on A4, in the order in which they are read once the sheets are folded."""
    read, made = PdfReader(io.BytesIO(pdf)), PdfWriter()
    to_points = 72 / 25.4
    for pair in booklet_order(len(read.pages)):
        sheet = made.add_blank_page(_SHEET_MM[0] * to_points, _SHEET_MM[1] * to_points)
        for side, number in enumerate(pair):
            if number is not None:
                move = Transformation().translate(side * _SHEET_MM[0] / 2 * to_points, 0)
                sheet.merge_transformed_page(read.pages[number], move)
    written = io.BytesIO()
    made.write(written)
    return written.getvalue()
