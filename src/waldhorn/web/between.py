"""Between motors: a comparison at equal conditions, which is better for what, and the set that is most alike."""

from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from waldhorn.core import between_words as words
from waldhorn.core.comparing import Row
from waldhorn.core.errors import Refused
from waldhorn.pit import motors
from waldhorn.pit.between import Between, between
from waldhorn.pit.changing import changing
from waldhorn.web.pages import Now, StoreOf, Typed, go, page

router = APIRouter()
WIDTH, LANE, PAD = 520, 18, 6
_COVERAGE = 1.28  # a bar spans 80 %
_LEAST_BAR = 5.0


@dataclass(frozen=True)
class Bar:
    """One motor in a row: its letter, its number among them (for colour and pattern), where its bar lies and its value
    in words."""

    letter: str
    number: int
    x: float
    width: float
    y: float
    value: str


@dataclass(frozen=True)
class Drawn:
    """A row as it is drawn."""

    title: str
    unit: str
    bars: list[Bar]
    height: float
    says: str
    sure: str
    parted: str


@router.get("/compare")
def compare(
    request: Request, store: StoreOf, now: Now, tags: Annotated[str, Query(max_length=600)] = "",
    take: Annotated[str, Query(max_length=4)] = "",
) -> HTMLResponse:  # fmt: skip
    """Two to twelve motors on one scale a quantity."""
    with store.reading() as session:
        return _page(request, session, now, tags, take)


@router.post("/compare/put")
def put(request: Request, store: StoreOf, now: Now, typed: Typed) -> Response:
    """Put the chosen set into its machine."""
    tags, take, machine = (typed.get(n, "") for n in ("tags", "take", "machine"))
    try:
        with changing(store, now) as session:
            found = between(session, _named(tags), now, _count(take))
            if found.chosen is None:
                raise Refused("machine", found.refused)
            motors.put_in(session, found.chosen.best.motors, machine, now)
    except Refused as refused:
        with store.reading() as session:
            return _page(request, session, now, tags, take, {"machine": refused.sentence})
    return go(request, f"/machines/{machine.strip()}")


def _page(
    request: Request, session: Session, now: Any, tags: str, take: str, wrong: dict[str, str] | None = None
) -> HTMLResponse:  # fmt: skip
    values: dict[str, Any] = {"typed_tags": tags, "take": take or "2", "wrong": wrong or {}, "found": None}
    try:
        found = between(session, _named(tags), now, _count(take))
    except Refused as refused:
        values["wrong"] = {refused.field: refused.sentence} | values["wrong"]
        return page(request, "compare.html", 200 if not tags else 422, **values)
    values |= {"found": found, "rows": [_drawn(r, found) for r in found.rows], "says": _headline(found),
               "better": [words.better_words(b, found.letters) for b in found.better]}  # fmt: skip
    return page(request, "compare.html", 422 if wrong else 200, **values)


def _named(tags: str) -> list[str]:
    return [t.strip() for t in tags.split(",") if t.strip()]


def _count(take: str) -> int:
    if not take.strip():
        return 2
    if not take.strip().isdecimal():
        raise Refused("take", f"“{take}” is no number of motors")
    return int(take)


def _headline(found: Between) -> tuple[str, str]:
    """What the page says first, and under it."""
    if found.chosen is None:
        return f"{len(found.motors)} motors beside each other.", found.refused
    best, *others = found.chosen.best, *found.chosen.runners_up
    first = words.set_words(best.motors, found.alike, best.score)
    rest = []
    if found.chosen.left_over:
        rest.append(f"Left over: {', '.join(found.chosen.left_over)}.")
    if others and best.score > 0:
        times = (others[0].score / best.score) ** 0.5
        rest.append(f"Next best: {' with '.join(others[0].motors)}, {times:.2g} times as far apart.")
    return first, " ".join(rest)


def _drawn(row: Row, found: Between) -> Drawn:
    low = min(s.value - _COVERAGE * s.u for s in row.standings)
    high = max(s.value + _COVERAGE * s.u for s in row.standings)
    scale = (WIDTH - 60) / (high - low) if high > low else 0.0
    order = sorted(row.standings, key=lambda s: found.letters[s.tag])
    bars = []
    for lane, s in enumerate(order):
        width = max(_LEAST_BAR, 2 * _COVERAGE * s.u * scale)
        x = 30 + (s.value - low) * scale - width / 2
        letter = found.letters[s.tag]
        value = f"{s.value:.{row.quantity.decimals}f} {row.quantity.unit}"
        bars.append(Bar(letter, ord(letter) - ord("A"), round(x, 1), round(width, 1), PAD + LANE * lane, value))
    brought = any(s.brought_deg for s in row.standings)
    unit = f"{row.quantity.unit}, {_equal(row.quantity.name, brought)}".rstrip(", ")
    return Drawn(row.quantity.title, unit, bars, 2 * PAD + LANE * len(bars), words.row_words(row, found.letters),
                 words.sure_words(row), _parted_words(row, found))  # fmt: skip


def _equal(name: str, brought: bool) -> str:
    """What was brought to equal, in words."""
    done = ["at 25 °C"] if name in ("kv", "detent_peak") else []
    return " and ".join([*done, "one timing"] if brought else done)


def _parted_words(row: Row, found: Between) -> str:
    return "; ".join(f"{found.letters[p.tag]} does not compare: {p.why.partition(': ')[2]}" for p in row.parted)
