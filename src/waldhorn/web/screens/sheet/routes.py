"""A filled-in run sheet, typed in on one screen in its own order."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputErrors
from waldhorn.pit.bench import run_sheets as pit
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, StoreOf, Typed, go, page

router = APIRouter()


@router.get("/motors/{tag}/sheet")
def form(request: Request, store: StoreOf, tag: str) -> HTMLResponse:
    """The empty sheet."""
    return _page(request, store, tag)


@router.post("/motors/{tag}/sheet")
def take_sheet(request: Request, store: StoreOf, by: By, tag: str, typed: Typed) -> Response:
    """Store the sheet as a check, and go on to its answer."""
    try:
        check_id = write(store, by, pit.take_sheet, tag, typed, by.at)
    except InputErrors as refusals:
        return _page(request, store, tag, 422, typed=typed, wrong=refusals.by_field)
    return go(request, address("checks", check_id, step="answer"))


def _page(request: Request, store: Store, tag: str, status: int = 200, **more: Any) -> HTMLResponse:
    shown = read(store, pit.empty, tag)
    values = vars(shown) | {"typed": shown.usual, "wrong": {}, "field_name": pit.field_name} | more
    return page(request, "sheet/sheet.html", status, **values)
