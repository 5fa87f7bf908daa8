"""The book of a motor: every check, newest first, and putting a reading right."""

from collections.abc import Mapping
from functools import partial
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.vocabulary import EventKind, Look
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.motors import book as pit
from waldhorn.pit.motors import corrections
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, lately, notation_of, page

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
    under: _Short = "",
    was: _Short = "",
) -> HTMLResponse:
    """The book; `reading` opens a reading to be put right, `under` what it was read under, `was` is the answer before
    the last correction."""
    found = pit.look(store, tag, now, pit.Asked(measure, rig, step, skip))
    told = lately(found.last, now, address("motors", tag, "undo"))
    return _page(request, found, reading or under, {}, {"do": "under"} if under else {}, was=was, **told)


@router.post("/found/{kind}/{row_id}")
def put_found_right(
    request: Request, store: StoreOf, by: By, tag: str, kind: str, row_id: str, typed: Typed
) -> Response:
    """Take a finding or an event back, or put an item into another state."""
    try:
        before = corrections.put_found_right(store, by, tag, kind, row_id, typed)
    except (InputError, InputErrors) as refused:
        wrong = refused.by_field if isinstance(refused, InputErrors) else {"found": refused.sentence}
        return _page(request, pit.look(store, tag, by.at, _back(typed)), row_id, wrong, typed, was="")
    return go(request, _told(tag, before, typed))


@router.post("/undo")
def undo(request: Request, store: StoreOf, by: By, tag: str, typed: Typed) -> Response:
    """Undo any change on the motor."""
    try:
        before = corrections.undo(store, by, tag, typed.get("change", ""))
    except InputError as refused:
        return _page(request, pit.look(store, tag, by.at, _back(typed)), "", {"undo": refused.sentence}, typed, was="")
    return go(request, _told(tag, before, typed))


@router.post("/{reading}")
def put_right(request: Request, store: StoreOf, by: By, tag: str, reading: str, typed: Typed) -> Response:
    """Put a reading right, and go back to it."""
    try:
        before = corrections.put_right(store, by, tag, reading, typed)
    except (InputError, InputErrors) as refused:
        wrong = refused.by_field if isinstance(refused, InputErrors) else {"reading": refused.sentence}
        return _page(request, pit.look(store, tag, by.at, _back(typed)), reading, wrong, typed, was="")
    return go(request, _told(tag, before, typed) + f"#r-{reading}")


def _told(tag: str, before: str, typed: Mapping[str, str]) -> str:
    """The book again, as it was narrowed, with the answer as it was before."""
    asked = _back(typed)
    chosen = {"measure": asked.measure, "rig": asked.rig, "step": asked.step, "skip": str(asked.skip or "")}
    return address("motors", tag, "book", was=before, **{name: value for name, value in chosen.items() if value})


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
        step_titles={name: s.title for name, s in STEPS.items()},
        items=ITEMS,
        looks=tuple(Look),
        event_names=tuple(EventKind),
        chosen=reading,
        wrong=wrong,
        typed=typed,
        under_fields=partial(corrections.under_fields, notation=notation_of(request)),
        page_size=pit.CHECKS_A_PAGE,
        **more,
    )
