"""Every rule written by hand is one that something wears."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[2]
GIVEN = {"htmx-request"}  # by htmx


def test_no_style_is_dead():
    rules = "".join(f.read_text(encoding="utf-8") for f in (ROOT / "frontend/styles").glob("*.css"))
    named = set(
        re.findall(r"\.([a-zA-Z][\w-]*)", re.sub(r'/\*.*?\*/|url\([^)]*\)|"[^"]*"', "", rules, flags=re.DOTALL))
    )
    web = ROOT / "src/waldhorn/web"
    worn = "".join(
        f.read_text(encoding="utf-8")
        for ending in ("html", "py", "js", "svg")
        for f in web.rglob(f"*.{ending}")
        if "vendor" not in f.parts
    )
    words = set(re.findall(r"[a-zA-Z][\w-]*", worn))
    begun = tuple(set(re.findall(r"([a-zA-Z][\w-]*-)\{", worn)))  # finished by a value
    assert len(named) > 60
    assert sorted(n for n in named - GIVEN if n not in words and not n.startswith(begun)) == []


def test_a_chart_that_is_taken_away_carries_every_style_it_wears():
    web = ROOT / "src/waldhorn/web"
    drawn = (web / "common/templates/_load_chart.html").read_text(encoding="utf-8")
    worn = {
        word
        for classes in re.findall(r'class="([^"]*)"', drawn)
        for word in re.sub(r"style-\{\{.*?\}\}", "style-0 style-1 style-2", classes).split()
    }
    carried = set(re.findall(r"\.([a-z][\w-]*)", (web / "screens/loads/loads.svg").read_text(encoding="utf-8")))
    assert len(worn) >= 7
    assert sorted(worn - carried) == []
