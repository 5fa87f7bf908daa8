"""The book of a motor: every check, newest first, and putting a reading right."""

from collections.abc import Mapping
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.units import DIMENSIONS, bare_unit, from_stored
from waldhorn.core.base.vocabulary import Look
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.motors import book as pit
from waldhorn.store.models import ReadingRow
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import Now, StoreOf, Typed, go, lately, page

router = APIRouter(prefix="/motors/{tag}/book")
_Short = Annotated[str, Query(max_length=200)]


@router.get("")
def book(
    request: Request,
    store: StoreOf,
    now: Now,
    tag: str,
    measure: _Short = "",
    rig: _Short = "",
    step: _Short = "",
    skip: Annotated[int, Query(ge=0, le=100_000)] = 0,
    reading: _Short = "",
    was: _Short = "",
) -> HTMLResponse:
    """The book; `reading` opens a reading to be put right, `was` is the answer before the last correction."""
    found = pit.look(store, tag, now, pit.Asked(measure, rig, step, skip))
    told = lately(found.last, now, address("motors", tag, "undo"))
    return _page(request, found, reading, {}, {}, was=was, **told)


@router.post("/found/{kind}/{row_id}")
def put_found_right(
    request: Request, store: StoreOf, now: Now, tag: str, kind: str, row_id: str, typed: Typed
) -> Response:
    """Take a finding or an event back, or put an item into another state."""
    try:
        before = pit.put_found_right(store, tag, now, kind, row_id, typed)
    except InputError as refused:
        found = pit.look(store, tag, now, _back(typed))
        return _page(request, found, "", {"found": refused.sentence}, typed, was="")
    return go(request, address("motors", tag, "book", was=before, skip=str(_back(typed).skip or "")))


@router.post("/{reading}")
def put_right(request: Request, store: StoreOf, now: Now, tag: str, reading: str, typed: Typed) -> Response:
    """Put a reading right, and go back to it."""
    try:
        before = pit.put_right(store, tag, now, reading, typed)
    except InputError as refused:
        found = pit.look(store, tag, now, _back(typed))
        return _page(request, found, reading, {"reading": refused.sentence}, typed, was="")
    asked = _back(typed)
    chosen = {"measure": asked.measure, "rig": asked.rig, "step": asked.step, "skip": str(asked.skip or "")}
    kept = {name: value for name, value in chosen.items() if value}
    return go(request, address("motors", tag, "book", was=before, **kept) + f"#r-{reading}")


def _back(typed: Mapping[str, str]) -> pit.Asked:
    skip = typed.get("skip", "")
    return pit.Asked(
        typed.get("measure", ""), typed.get("rig", ""), typed.get("step", ""), int(skip) if skip.isdecimal() else 0
    )


def _page(
    request: Request, found: pit.Book, reading: str, wrong: dict[str, str], typed: Mapping[str, str], **more: Any
) -> HTMLResponse:
    return page(
        request,
        "book/book.html",
        422 if wrong else 200,
        motor=found.row,
        book=found,
        judgement=found.seen.judgement,
        measures=MEASURES,
        step_titles={name: s.title for name, s in STEPS.items()},
        items=ITEMS,
        looks=tuple(Look),
        chosen=reading,
        wrong=wrong,
        typed=typed,
        written=_written,
        unit_of=_unit_of,
        page_size=pit.CHECKS_A_PAGE,
        **more,
    )


def _written(row: ReadingRow, value: float | None = None) -> str:
    """A value to the digits it was read in, in the unit the pit writes."""
    stored = row.value if value is None else value
    dimension = MEASURES[row.measure].dimension
    return f"{from_stored(stored, bare_unit(dimension), dimension):.7g}"


def _unit_of(measure: str) -> str:
    dimension = MEASURES[measure].dimension
    return bare_unit(dimension) or DIMENSIONS[dimension].unit
