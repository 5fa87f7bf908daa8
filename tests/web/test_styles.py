"""Every rule written by hand is one that something wears."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[2]
GIVEN = {"htmx-request", "u-legend"}  # by htmx and uPlot


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
    assert len(named) > 100
    assert sorted(n for n in named - GIVEN if n not in words and not n.startswith(begun)) == []
