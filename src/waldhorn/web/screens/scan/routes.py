"""Scanning a tag: the camera of this device, or what is typed off the tag."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError
from waldhorn.pit.finding import scanned
from waldhorn.pit.writing import Store, read
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import StoreOf, go, page
from waldhorn.web.screens.together.routes import others

router = APIRouter()
LONGEST_CODE = 400


@router.get("/scan")
def scan(
    request: Request,
    store: StoreOf,
    code: Annotated[str, Query(max_length=LONGEST_CODE)] = "",
    to: Annotated[str, Query(max_length=40)] = "",
) -> Response:
    """The camera, and a field; with a `code`, its motor's page, `to` another screen where that is chosen."""
    if not code.strip():
        return _page(request, to)
    try:
        place = place_of_code(store, code)
    except InputError as refused:
        return _page(request, to, code, {"code": refused.sentence}, 422)
    return _page(request, to, code, place=place) if to else go(request, place)


def place_of_code(store: Store, code: str) -> str:
    """Where the motor of a code is, or is taken in; raises InputError."""
    found = read(store, scanned, code)
    return address("motors", found.tag) if found.known else address("motors", "new", tag=found.tag, model=found.model)


def _page(
    request: Request,
    to: str,
    code: str = "",
    wrong: dict[str, str] | None = None,
    status: int = 200,
    place: str = "",
) -> HTMLResponse:
    asked = {"others": others(request), "to": to, "code": code, "wrong": wrong or {}, "place": place}
    return page(request, "scan/scan.html", status, **asked)
