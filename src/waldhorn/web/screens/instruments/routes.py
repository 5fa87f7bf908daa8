"""Instruments as they are: lines that were heard, how they are read, tried before it is kept."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, PlainTextResponse, Response
from starlette.concurrency import run_in_threadpool

from waldhorn.core.base.errors import InputError
from waldhorn.instruments.line_format import SEPARATORS, TOLD, line_format_of, unit_of
from waldhorn.instruments.ports import BAUD, overhear
from waldhorn.pit.settings import instruments as pit
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.addresses import attachment
from waldhorn.web.common.pages import By, StoreOf, Typed, go, missing, page

router = APIRouter(prefix="/instruments")
_FIRST = {"kind": "separated", "separator": ",", "baud": str(BAUD)}


@router.get("")
def instruments(request: Request, store: StoreOf, name: str = "") -> HTMLResponse:
    """The line formats that are kept, and a form for one."""
    kept = read(store, pit.all_of)
    one = next((r for r in kept if r.name == name), None)
    return _page(request, store, pit.typed_of(one) if one else _FIRST, {})


@router.post("/listen")
async def listen(request: Request, store: StoreOf, typed: Typed) -> HTMLResponse:
    """Hear what an instrument prints for some seconds, and guess how it is read."""
    where, baud = typed.get("where", "").strip(), typed.get("baud", "")
    try:
        speed = int(baud) if baud.isdecimal() else BAUD
        heard = await run_in_threadpool(overhear, where, pit.LISTENED_S, pit.MOST_LINES, speed)
        if not heard:
            raise InputError("where", f"{where} answers, but prints nothing in {pit.LISTENED_S:g} s")
    except InputError as refused:
        return await run_in_threadpool(_page, request, store, typed, {"where": refused.sentence}, 422)
    filled = typed if typed.get("at-rpm") else typed | pit.first_guess(heard, typed.get("name", ""))
    return await run_in_threadpool(_page, request, store, filled | {"lines": "\n".join(heard)}, {})


@router.post("/try")
def try_it(request: Request, store: StoreOf, typed: Typed) -> HTMLResponse:
    """What the line format makes of the lines that stand there."""
    heard = _heard(typed)
    filled = typed if typed.get("at-rpm") or not heard else typed | pit.first_guess(heard, typed.get("name", ""))
    return _page(request, store, filled, {})


@router.post("")
def keep_line_format(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Keep the line format."""
    try:
        line_format = pit.read(typed)
    except InputError as refused:
        return _page(request, store, typed, {"recipe": refused.sentence}, 422)
    write(store, by, pit.store_line_format, line_format)
    return go(request, "/instruments")


@router.post("/take-in")
def take_in(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Keep a line format that comes as JSON."""
    try:
        line_format = line_format_of(typed.get("json", ""))
    except InputError as refused:
        return _page(request, store, _FIRST | {"json": typed.get("json", "")}, {"json": refused.sentence}, 422)
    write(store, by, pit.store_line_format, line_format)
    return go(request, "/instruments")


@router.post("/forget")
def forget(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Let go of a line format."""
    write(store, by, pit.forget, typed.get("name", ""))
    return go(request, "/instruments")


@router.get("/{name:path}.json")
def saved(store: StoreOf, name: str) -> Response:
    """A line format as JSON, for another pit."""
    try:
        line_format = read(store, pit.find, name)
    except InputError as refused:
        raise missing(refused.sentence) from refused
    named = attachment("instrument.recipe.json")
    return PlainTextResponse(line_format.model_dump_json(indent=1) + "\n", headers=named, media_type="application/json")


def _heard(typed: dict[str, str]) -> list[str]:
    return [text for text in typed.get("lines", "").splitlines() if text.strip()][: pit.MOST_LINES]


def _page(
    request: Request, store: Store, typed: dict[str, str], wrong: dict[str, str], status: int = 200
) -> HTMLResponse:
    tried, heard = None, _heard(typed)
    if heard:
        try:
            tried = pit.try_on(pit.read({"name": "this one"} | {n: v for n, v in typed.items() if v}), heard)
        except InputError as refused:
            wrong = {"recipe": refused.sentence} | wrong
    return page(
        request,
        "instruments/instruments.html",
        status,
        kept=read(store, pit.all_of),
        typed=typed,
        wrong=wrong,
        tried=tried,
        told=TOLD,
        kinds=pit.KINDS,
        separators=SEPARATORS,
        unit_of=unit_of,
    )
