"""The load sheet as the pages show it: the chart that is asked for and the others, the machine that is asked about."""

from collections.abc import Mapping, Sequence
from typing import Any
from urllib.parse import urlencode

from markupsafe import Markup

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.units import Notation
from waldhorn.core.comparing.load_words import is_sure
from waldhorn.core.measuring.load import UNDER_WAY
from waldhorn.pit.between import loads as pit
from waldhorn.pit.judging import view_cache
from waldhorn.pit.writing import Store, read
from waldhorn.web.common.pages import rendered
from waldhorn.web.drawing.load_chart import KINDS, kinds_of, load_chart

ASKED = ("mass", "count", "ah", "pack_v")


def load_values(
    store: Store, notation: Notation, tags: Sequence[str], typed: Mapping[str, str], here: str, kept: Mapping[str, str]
) -> dict[str, Any]:
    """What a page shows of these motors under load, nothing where no row was read; `here` is its address, `kept` what
    its query holds beside. Raises InputError for a motor that is not there."""
    wrong: dict[str, str] = {}
    machine = None
    try:
        machine = pit.machine_of(typed, notation)
    except InputError as refused:
        wrong = {refused.field: refused.sentence}
    found = read(store, pit.sheet, tags, machine)
    kinds = kinds_of(found.rows)
    chosen = typed.get("chart", "")
    kind = chosen if chosen in kinds else next(iter(kinds), "")
    asked = {n: typed[n][:40] for n in ASKED if typed.get(n)}

    def to(**more: str) -> str:
        query = urlencode({n: v for n, v in {**kept, **asked, **more}.items() if v})
        return f"{here}?{query}" if query else here

    def draw() -> Markup:
        return Markup(rendered(notation, "_load_chart.html", chart=load_chart(found.rows, found.motors, kind)))

    after = kinds[(kinds.index(kind) + 1) % len(kinds)] if len(kinds) > 1 else ""
    return {
        "sheet": found,
        "chart": KINDS[kind] if kind else None,
        "drawn": read(store, view_cache.until_changed, ("chart", kind, notation, *found.motors), draw) if kind else "",
        "chosen_kind": kind,
        "kinds": [(n, KINDS[n].title, to(chart=n)) for n in kinds],
        "next_kind": after,
        "machine_asked": asked,
        "machine_wrong": wrong,
        "kept": {**kept, **({"chart": kind} if chosen else {})},
        "here": here,
        "files": urlencode({"tags": ",".join(found.motors), "chart": kind}),
        "is_sure": is_sure,
        "under_way": UNDER_WAY,
    }
