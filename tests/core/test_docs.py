"""The documents are true where a program can see it: they name only modules and pages that there are."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
DOCUMENTS = [*sorted((ROOT / "docs").glob("*.md")), ROOT / "README.md", ROOT / "CONTRIBUTING.md"]


@pytest.mark.parametrize("document", DOCUMENTS, ids=lambda path: path.name)
def test_a_document_names_only_modules_and_pages_that_there_are(document):
    text = document.read_text(encoding="utf-8")
    modules = [
        path.as_posix() for folder in ("jemmon", "tests", "tools") for path in ROOT.joinpath(folder).rglob("*.py")
    ]
    named = set(re.findall(r"`([\w/]+\.py)`", text))
    assert not [name for name in named if not any(path.endswith(f"/{name}") for path in modules)]
    pages = [target for target in re.findall(r"\]\(([^)#:]+)\)", text) if not target.startswith("/")]
    assert not [target for target in pages if not (document.parent / target).exists()]
