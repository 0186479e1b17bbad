"""The card on paper: everything is on it, breaks fall where they may, the foot says which version it is."""

import copy
import io
import re

import pytest
from pypdf import PdfReader

from jemmon.app.paper import SIZES, CardAsked, booklet_order, card_pdf
from jemmon.core.aircraft import profile_from_json
from jemmon.core.base.figures import plain
from tests.conftest import run_jemmon
from tests.core.builders import PROFILES

MM = 72 / 25.4


def read(kind: str, **asked) -> PdfReader:
    return PdfReader(io.BytesIO(card_pdf(PROFILES[kind], CardAsked(day="2026-11-28", version="version 3", **asked))))


def words(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", "", text.lower())


@pytest.mark.parametrize(
    ("kind", "size"), [*((kind, "A5") for kind in sorted(PROFILES)), ("d-twin", "A6"), ("g-vee", "knee")]
)
def test_every_item_and_every_step_of_an_emergency_is_on_the_card(kind, size):
    whole = words("".join(page.extract_text() for page in read(kind, size=size, large=size == "knee").pages))
    for item in PROFILES[kind].items.values():
        assert words(item.challenge) in whole, item.challenge
        assert words(plain(item.response)) in whole, item.response
    for drill in PROFILES[kind].body["emergency"]:
        assert all(words(plain(step)) in whole for step in drill["steps"]), drill["title"]


@pytest.mark.parametrize("size", ["A5", "A6", "knee"])
def test_each_page_is_of_its_size_and_says_which_version_it_is(size):
    for number, page in enumerate(read("a-trainer", size=size).pages, 1):
        assert (float(page.mediabox.width) / MM, float(page.mediabox.height) / MM) == pytest.approx(
            SIZES[size], abs=0.1
        )
        assert "ZZ-WRN version 3 2026-11-28" in re.sub(r" +", " ", page.extract_text())
        assert f"page {number}" in page.extract_text()


def test_a_list_is_broken_only_where_it_is_longer_than_a_page_and_then_after_an_item():
    assert "continued" not in "\n".join(page.extract_text() for page in read("d-twin", size="A5").pages)
    body = copy.deepcopy(dict(PROFILES["a-trainer"].body))
    rows = body["phases"][0]["lists"][1]["items"]
    rows += [{**rows[0], "id": f"more_{n}", "challenge": f"Line number {n}"} for n in range(40)]
    asked = CardAsked(size="A6", version="1", day="today")
    texts = [page.extract_text() for page in PdfReader(io.BytesIO(card_pdf(profile_from_json(body), asked))).pages]
    broken = [text for text in texts if "continued" in text]
    assert broken
    for text in broken:
        assert "Outside and cabin, continued" in text.splitlines()[0]


def test_the_emergency_cards_are_on_the_back_of_a_sheet():
    for kind in ("a-trainer", "d-twin", "e-rotor"):
        texts = [page.extract_text() for page in read(kind, size="A5").pages]
        first = next(number for number, text in enumerate(texts, 1) if "EMERGENCY" in text)
        assert first % 2 == 0, kind


def test_blanks_prime_and_power_are_printed():
    text = "\n".join(page.extract_text() for page in read("d-twin", size="A5").pages)
    assert all(name in text for name in ("Run-up figures", "Left", "Right", "Prime", "Below 41", "Power", "65 %"))


@pytest.mark.parametrize(
    ("pages", "order"),
    [
        (1, [(None, 0), (None, None)]),
        (4, [(3, 0), (1, 2)]),
        (6, [(None, 0), (1, None), (5, 2), (3, 4)]),
        (8, [(7, 0), (1, 6), (5, 2), (3, 4)]),
    ],
)
def test_folded_sheets_are_read_in_order(pages, order):
    assert booklet_order(pages) == order


def test_a_folded_card_has_two_pages_a_side_on_a4():
    flat, folded = read("a-trainer", size="A5"), read("a-trainer", size="A4-folded")
    page = folded.pages[0]
    assert (float(page.mediabox.width) / MM, float(page.mediabox.height) / MM) == pytest.approx((297, 210), abs=0.1)
    assert len(folded.pages) == 2 * -(-len(flat.pages) // 4)


def test_night_is_red_on_black():
    content = read("a-trainer", size="A5", night=True).pages[0].get_contents().get_data().decode("latin-1")
    assert "0.745" in content  # the red of the ink
    assert "0.745" not in read("a-trainer", size="A5").pages[0].get_contents().get_data().decode("latin-1")


def test_the_card_from_the_command_line_and_from_the_screen(client, tmp_path):
    made = run_jemmon(tmp_path, "card", "a-trainer", "--size", "knee", "--night", "--pdf", str(tmp_path / "card.pdf"))
    assert made.returncode == 0, made.stderr
    assert PdfReader(tmp_path / "card.pdf").pages
    answer = client.get("/api/aircraft/a-trainer/card.pdf?size=A6&large=true")
    assert answer.mimetype == "application/pdf"
    assert "as it ships" in PdfReader(io.BytesIO(answer.data)).pages[0].extract_text()
    assert client.get("/api/aircraft/a-trainer/card.pdf?size=A3").status_code == 422
    refused = run_jemmon(tmp_path, "card", "a-trainer", "--pdf", str(tmp_path / "no" / "card.pdf"))
    assert refused.returncode == 2
    assert "cannot be written" in refused.stderr
