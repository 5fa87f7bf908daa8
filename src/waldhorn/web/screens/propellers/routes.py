"""Propellers and packs: their names, sizes and spellings, and which two are one."""

from collections.abc import Callable, Mapping

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputErrors
from waldhorn.pit.rigs import load_names as pit
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.pages import By, StoreOf, Typed, go, page

router = APIRouter(prefix="/propellers")
Command = Callable[..., None]


@router.get("")
def propellers(request: Request, store: StoreOf, edit: str = "") -> HTMLResponse:
    """Both lists; `edit` opens one of them."""
    return _page(request, store, edit, {}, {})


@router.post("")
def save(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Give a propeller its name and size."""
    return _done(request, store, by, pit.save, typed, typed.get("was") or "new")


@router.post("/join")
def join(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Make two propellers one."""
    return _done(request, store, by, pit.join, typed, "join")


@router.post("/packs")
def save_pack(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Say what a pack is."""
    return _done(request, store, by, pit.save_pack, typed, f"pack {typed.get('name', '')}")


@router.post("/undo")
def undo(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Undo the last change of the lists."""
    return _done(request, store, by, pit.undo, typed, "")


def _done(request: Request, store: Store, by: By, command: Command, typed: Mapping[str, str], edit: str) -> Response:
    try:
        write(store, by, command, typed, by.at)
    except InputErrors as refusals:
        return _page(request, store, edit, refusals.by_field, typed)
    return go(request, "/propellers")


def _page(
    request: Request, store: Store, edit: str, wrong: Mapping[str, str], typed: Mapping[str, str]
) -> HTMLResponse:
    found = read(store, pit.view)
    return page(
        request, "propellers/propellers.html", 422 if wrong else 200, found=found, edit=edit, wrong=wrong, typed=typed
    )
