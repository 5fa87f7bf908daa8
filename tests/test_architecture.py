"""What the docs say of the code is there: each file by its path, each name in the file it is said to be in."""

import re
from itertools import chain
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
DOCS = [
    page for page in (ROOT / "docs").rglob("*.md") if page.parent.name != "extending"
]  # those name files to be made
PAGES = sorted(chain(DOCS, [ROOT / "README.md", ROOT / "CONTRIBUTING.md"]))
ROOMS = tuple(f.name for f in (ROOT / "src" / "waldhorn").iterdir() if f.is_dir())
QUESTIONS = re.findall(r"^\| (.+\?) \| (.+) \|$", (ROOT / "docs" / "architecture.md").read_text(encoding="utf-8"), re.M)


def there(path):
    """A file or folder that a page names, from the package, from the checkout, or with any beginning."""
    places = [ROOT / "src" / "waldhorn" / path, ROOT / path]
    return next((place for place in places if place.exists()), None)


def test_there_are_twelve_questions():
    assert len(QUESTIONS) == 12


@pytest.mark.parametrize(("question", "answer"), QUESTIONS)
def test_each_question_is_answered_by_a_file_and_a_name_in_it(question, answer):
    named = re.findall(r"`([\w/]+\.py)::(\w+)`", answer)
    assert named, f"{question} names no function"
    for path, name in named:
        assert re.search(rf"^(def|class) {name}\b", there(path).read_text(encoding="utf-8"), re.M), f"{path}::{name}"


@pytest.mark.parametrize("page", PAGES, ids=lambda p: p.name)
def test_every_file_that_a_page_names_is_there(page):
    text = page.read_text(encoding="utf-8")
    named = {
        p
        for p in re.findall(r"`([\w./-]+/[\w.-]+)`", text)
        if p.startswith((*ROOMS, "src/", "tests/", "docs/", "scripts/"))
    }
    missing = sorted(p for p in named if not there(p.rstrip("/")))
    assert missing == []
