"""The application: guard, static files, one router a screen, and one place where errors become pages."""

import asyncio
import logging
import pkgutil
from collections.abc import AsyncIterator, Iterator, Mapping, Sequence
from contextlib import asynccontextmanager
from datetime import datetime
from importlib import import_module
from typing import TYPE_CHECKING
from urllib.parse import urlsplit

from fastapi import APIRouter, Depends, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.requests import ClientDisconnect

from waldhorn.core.base.errors import Busy, InputError, InputErrors, NotStored, NotThere, StoreDown
from waldhorn.core.base.text import without_control
from waldhorn.pit.settings import pit
from waldhorn.pit.writing import SentTwice, Store, Writing, read
from waldhorn.web import screens
from waldhorn.web.api.routes import create_api
from waldhorn.web.common import guard, static_files
from waldhorn.web.common.access import Access, Limits, Seated
from waldhorn.web.common.pages import as_it_stands, go, is_htmx, page
from waldhorn.web.common.presence import Presence
from waldhorn.web.opening import Opening
from waldhorn.web.screens.live.hub import Hub

if TYPE_CHECKING:
    from waldhorn.pit.settings.certificate import Certificate

# Each a folder of `screens`; where two could answer the same address, the first does.
SCREENS = (
    "rack",
    "find",
    "compare",
    "bring_in",
    "rigs",
    "propellers",
    "model",
    "limits",
    "take_in",
    "loads",
    "motor",
    "book",
    "machine",
    "live",
    "bench",
    "help",
    "take_out",
    "paper",
    "sheet",
    "instruments",
    "predict",
    "identify",
    "settings",
    "join",
    "together",
    "scan",
)
ToOpen = tuple[Sequence[str], "Certificate | None"]  # the addresses, and the certificate to be reached under
RETRY_S = 1
BACK_UP_EVERY_S = 600  # how often it is looked whether a backup is due
STORED = "What you sent is stored; judging follows."
_log = logging.getLogger("waldhorn")


def create_app(
    store: Store, speed: float = 1.0, benches: Mapping[str, int] | None = None, to_open: ToOpen | None = None
) -> FastAPI:
    """The application on a store, to be reached under the names of this machine.

    `speed` is how much faster than real time its simulated benches run; `benches` names motors of the demo that lie
    clamped from the start, and the port of each; `to_open` is where it is opened to others once it runs.
    """

    @asynccontextmanager
    async def living(app: FastAPI) -> AsyncIterator[None]:
        app.state.hub = Hub(speed)
        for tag, port in (benches or {}).items():
            await app.state.hub.stand(tag, port)
        running = (asyncio.create_task(_back_up(store)), app.state.presence.start())
        if to_open:
            await app.state.opening.open(app, *to_open)
        yield
        for task in running:
            task.cancel()
        app.state.presence.close()
        await app.state.opening.shut()
        await app.state.hub.close()

    app = FastAPI(
        lifespan=living,
        title="Waldhorn",
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        dependencies=[Depends(guard.check_token), Depends(as_it_stands)],
    )
    app.state.store = store
    app.state.in_pit_box = tuple(benches or ())
    app.state.pit = read(store, pit.load)
    app.state.presence, app.state.opening = Presence(store), Opening()
    app.state.seated, app.state.limits = Seated(store), Limits()
    app.add_middleware(GZipMiddleware, minimum_size=2_000, compresslevel=4)
    app.add_middleware(Access, seated=app.state.seated, limits=app.state.limits)
    app.add_middleware(guard.Guard)
    app.mount("/api/v1", create_api(store), name="api")
    for address in (static_files.ADDRESS, "/static"):
        app.mount(address, StaticFiles(directory=static_files.FOLDER))
    for router in _routers():
        app.include_router(router)
    app.add_exception_handler(HTTPException, _refused)
    app.add_exception_handler(NotThere, _not_there)
    app.add_exception_handler(RequestValidationError, _not_understood)
    app.add_exception_handler(ClientDisconnect, _gone)
    app.add_exception_handler(Busy, _busy)
    app.add_exception_handler(InputErrors, _wrong)
    app.add_exception_handler(InputError, _wrong)
    app.add_exception_handler(StoreDown, _no_disk)
    app.add_exception_handler(SentTwice, _sent_twice)
    app.add_exception_handler(Exception, _failed)
    return app


def _routers() -> Iterator[APIRouter]:
    """The routers of every screen: its folder may part them over several modules."""
    for name in SCREENS:
        folder = import_module(f"{screens.__name__}.{name}")
        for module in pkgutil.iter_modules(folder.__path__, f"{folder.__name__}."):
            router = getattr(import_module(module.name), "router", None)
            if isinstance(router, APIRouter):
                yield router


async def _back_up(store: Store) -> None:
    """Keep a backup of the store by itself, while it is served."""
    while True:
        await asyncio.sleep(BACK_UP_EVERY_S)
        try:
            await run_in_threadpool(pit.back_up_if_due, store, datetime.now().astimezone())
        except (OSError, NotStored):
            _log.exception("no backup could be written beside the store")


async def _refused(request: Request, error: Exception) -> HTMLResponse:
    status = error.status_code if isinstance(error, HTTPException) else 500
    detail = str(error.detail) if isinstance(error, HTTPException) else ""
    words = detail if detail not in ("Not Found", "Method Not Allowed") else "There is no such page."
    return page(request, "refused.html", status, words=words)


async def _not_there(request: Request, error: Exception) -> HTMLResponse:
    return page(request, "refused.html", 404, words=str(error))


async def _not_understood(request: Request, error: Exception) -> HTMLResponse:
    return page(request, "refused.html", 404, words="There is no such page.")


def _is_stored(request: Request) -> bool:
    by: Writing | None = getattr(request.state, "writing", None)
    return by is not None and by.stored


async def _sent_twice(request: Request, error: Exception) -> Response:
    """It is stored already: the page it was sent from says how things stand now."""
    came_from = urlsplit(request.headers.get("hx-current-url") or request.headers.get("referer") or "/")
    return go(request, came_from.path + (f"?{came_from.query}" if came_from.query else ""))


async def _wrong(request: Request, error: Exception) -> Response:
    """What was typed cannot be, and the page it was typed into does not say so itself."""
    said = ". ".join(error.by_field.values()) if isinstance(error, InputErrors) else str(error)
    if typed := getattr(request.state, "typed", None):
        request.state.typed = {name: without_control(value) for name, value in typed.items()}
    return _unwritten(request, 400 if is_htmx(request) else 422, f"{said}.")


async def _busy(request: Request, error: Exception) -> Response:
    """Not now: the page sends again what was typed, by itself."""
    if _is_stored(request):
        return page(request, "refused.html", 503, words=STORED)
    return _unwritten(request, 503, str(error), RETRY_S)


async def _no_disk(request: Request, error: Exception) -> Response:
    """The disk is full, or the file is torn: nothing was stored, and what was typed stays in its fields."""
    _log.error("the store failed at %s", request.url.path, exc_info=error)
    if _is_stored(request):
        return page(request, "refused.html", 507, words=f"{STORED} {error}")
    return _unwritten(request, 507, f"{error} Nothing new was stored: make room or mend it, then send it again.")


def _unwritten(request: Request, status: int, words: str, retry_s: int = 0) -> Response:
    after = {"Retry-After": str(retry_s)} if retry_s else {}
    if is_htmx(request):
        return Response(words, status, after, "text/plain; charset=utf-8")
    again = getattr(request.state, "typed", None)
    answer = page(request, "refused.html", status, words=words, again=again, retry_s=retry_s)
    answer.headers.update(after)
    return answer


async def _gone(request: Request, error: Exception) -> Response:
    return Response(status_code=400)  # nobody is there to read it


async def _failed(request: Request, error: Exception) -> HTMLResponse:
    _log.exception("failed at %s", request.url.path, exc_info=error)
    words = "That did not work, and it is Waldhorn's fault. Nothing stored was lost; go back and try again."
    if _is_stored(request):
        words = f"{STORED} Its page could not be drawn, and that is Waldhorn's fault."
    answer = page(request, "refused.html", 500, words=words)
    answer.headers.update(guard.HEADERS)  # it is sent from outside the guard
    return answer
