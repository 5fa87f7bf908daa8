"""The API: the same rules and sentences as the pages and the files, as JSON; described at /api/v1/openapi.json.

Whoever is on this machine may read, and who has a seat; a change needs a key made on the settings page, and so does
reading from another device without a seat.
"""

import tempfile
from collections.abc import Mapping
from datetime import datetime
from pathlib import Path
from typing import Annotated, Any, cast
from uuid import UUID

from fastapi import APIRouter, Depends, FastAPI, Query, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse, JSONResponse, Response
from fastapi.security import HTTPAuthorizationCredentials, HTTPBearer
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.exceptions import HTTPException as StarletteHTTPException
from starlette.types import ASGIApp, Receive, Scope, Send

from waldhorn.core.base.errors import Busy, InputError, InputErrors, NotThere, StoreDown
from waldhorn.core.base.times import read_timestamp
from waldhorn.core.motors.facts import impossible
from waldhorn.exchange.complaints import complaints, in_words
from waldhorn.exchange.judgement import JudgementJson, to_json
from waldhorn.exchange.rows import EventsRow, MotorsRow, ReadingsRow
from waldhorn.pit import programs
from waldhorn.pit.settings import keys
from waldhorn.pit.writing import Store, Writing, read, write
from waldhorn.web.common.pages import now as clock
from waldhorn.web.common.pages import writing_of

MOST_READINGS = 20_000
_bearer = HTTPBearer(auto_error=False, description="A key made on the settings page.")


class Wrong(BaseModel):
    """Something that cannot be: where it stands, and what is wrong with it."""

    where: str
    says: str


class Stored(BaseModel):
    """How much of what was sent is new, and how much was there."""

    stored: int
    ignored: int


class SentEvent(BaseModel):
    """An event of a motor; see events.csv."""

    model_config = ConfigDict(extra="forbid")
    at: str
    event: str
    count: int = 1
    detail: str = ""
    item: str = ""
    machine: str = ""
    position: str = ""


class SentReading(ReadingsRow):
    """A reading; see readings.csv. The same `id` twice stores once."""

    id: UUID | None = None


class Unlike(Exception):
    """InputError, with what is wrong and where."""

    def __init__(self, status: int, *wrong: Wrong) -> None:
        self.status, self.wrong = status, wrong


def store_of(request: Request) -> Store:
    """The store this application serves."""
    return cast(Store, request.app.state.store)


StoreOf = Annotated[Store, Depends(store_of)]
Now = Annotated[datetime, Depends(clock)]
By = Annotated[Writing, Depends(writing_of)]


class KeyFirst:
    """ASGI middleware: a change without a key that stands is refused before its body is read."""

    def __init__(self, app: ASGIApp, store: Store) -> None:
        self.app, self.store = app, store

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or refuse it."""
        if scope["type"] == "http" and scope["method"] not in ("GET", "HEAD", "OPTIONS"):
            scheme, _, key = Headers(scope=scope).get("authorization", "").partition(" ")
            is_good = scheme.lower() == "bearer" and await run_in_threadpool(
                read, self.store, keys.is_good, key.strip()
            )
            if not is_good:
                refusal = [Wrong(where="Authorization", says="a change needs a key: make one on the settings page")]
                await JSONResponse([w.model_dump() for w in refusal], 401)(scope, receive, send)
                return
        await self.app(scope, receive, send)


def with_key(given: Annotated[HTTPAuthorizationCredentials | None, Depends(_bearer)] = None) -> None:
    """Says in the description that a change needs a key; `KeyFirst` asks for it."""


_REFUSALS: Mapping[int | str, dict[str, Any]] = {404: {"model": list[Wrong]}, 422: {"model": list[Wrong]}}
_CHANGES: Mapping[int | str, dict[str, Any]] = {**_REFUSALS, 401: {"model": list[Wrong]}}


router = APIRouter(responses=dict(_REFUSALS))


def create_api(store: Store) -> FastAPI:
    """The API on a store."""
    api = FastAPI(
        title="Waldhorn",
        version="1",
        docs_url=None,
        redoc_url=None,
        description="What the pages know, as JSON. Reading needs no key on this machine.",
    )
    api.state.store = store
    api.add_middleware(KeyFirst, store=store)
    api.add_exception_handler(RequestValidationError, _not_valid)
    api.add_exception_handler(Unlike, _unlike)
    api.add_exception_handler(NotThere, _not_there)
    api.add_exception_handler(Busy, _busy)
    api.add_exception_handler(StoreDown, _down)
    api.add_exception_handler(StarletteHTTPException, _http)
    api.include_router(router)
    return api


@router.get("/motors")
def all_motors(store: StoreOf) -> list[MotorsRow]:
    """Every motor."""
    return read(store, programs.all_motors)


@router.get("/motors/{tag}")
def one_motor(store: StoreOf, tag: str) -> MotorsRow:
    """One motor."""
    return read(store, programs.motor, tag)


@router.get("/motors/{tag}/judgement")
def judgement(store: StoreOf, now: Now, tag: str, as_of: Annotated[str, Query(max_length=40)] = "") -> JudgementJson:
    """The answer for a motor, now or from what was known at a time."""
    try:
        at = read_timestamp(as_of, now.tzinfo) if as_of.strip() else now
    except InputError as refused:
        raise Unlike(422, Wrong(where="as_of", says=refused.sentence)) from refused
    return JudgementJson.model_validate(to_json(read(store, programs.judgement, tag, at)))


@router.get("/motors/{tag}/readings")
def readings_of(store: StoreOf, tag: str) -> list[dict[str, Any]]:
    """Every reading of a motor, as rows of readings.csv."""
    return read(store, programs.readings_of, tag)


@router.post(
    "/motors",
    status_code=201,
    responses={**_CHANGES, 409: {"model": list[Wrong]}},
    dependencies=[Depends(with_key)],
)
def take_in(store: StoreOf, by: By, sent: MotorsRow) -> MotorsRow:
    """Take in a motor."""
    motor = sent.to_motor()
    if wrong := impossible(motor):
        raise Unlike(422, *(Wrong(where=n, says=says) for n, says in wrong.items()))
    try:
        write(store, by, programs.take_in, motor, by.at)
    except InputError as refused:
        raise Unlike(409, Wrong(where=refused.field, says=refused.sentence)) from refused
    return sent


@router.post("/motors/{tag}/events", status_code=201, responses=dict(_CHANGES), dependencies=[Depends(with_key)])
def log(store: StoreOf, by: By, tag: str, sent: SentEvent) -> Stored:
    """Log what happened to a motor."""
    try:
        row = EventsRow.model_validate({"motor": tag, **sent.model_dump()})
    except ValidationError as error:
        raise Unlike(422, *(Wrong(where=where, says=says) for where, says in complaints(error))) from error
    stored = write(store, by, programs.log, tag, row)
    return Stored(stored=stored, ignored=1 - stored)


@router.post("/readings", status_code=201, responses=dict(_CHANGES), dependencies=[Depends(with_key)])
def take(store: StoreOf, by: By, sent: Annotated[list[SentReading], Field(max_length=MOST_READINGS)]) -> Stored:
    """Store readings, all of them or none."""
    try:
        stored = write(store, by, programs.take_readings, [(row, row.id) for row in sent])
    except InputErrors as refusals:
        wrong = (Wrong(where=f"readings/{where}", says=says) for where, says in refusals.by_field.items())
        raise Unlike(422, *wrong) from refusals
    return Stored(stored=stored, ignored=len(sent) - stored)


@router.get("/export", response_class=Response, responses={200: {"content": {"application/zip": {}}}})
def export(store: StoreOf) -> Response:
    """The data package as a ZIP file."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "waldhorn.zip"
        read(store, programs.package, file)
        return Response(file.read_bytes(), media_type="application/zip")


@router.get("/docs", include_in_schema=False)
def docs(request: Request) -> HTMLResponse:
    """What there is, on a page that loads nothing from outside."""
    return HTMLResponse(_docs(request.app.openapi()))


def _docs(described: dict[str, Any]) -> str:
    rows = "".join(
        f"<dt><code>{method.upper()} /api/v1{path}</code></dt><dd>{what.get('description', '')}</dd>"
        for path, methods in described["paths"].items()
        for method, what in methods.items()
    )
    return (
        '<!doctype html><html lang="en"><title>The API of Waldhorn</title>'
        '<link rel="icon" href="/static/mark.svg"><link rel="stylesheet" href="/static/waldhorn.css">'
        '<main class="px-7 py-6"><h1>The API</h1>'
        f'<p>{described["info"]["description"]} Everything is in <a href="/api/v1/openapi.json">openapi.json</a>; '
        'keys are made on the <a href="/settings">settings page</a>.</p>'
        f'<dl class="mt-4">{rows}</dl></main></html>'
    )


async def _not_valid(request: Request, error: Exception) -> JSONResponse:
    prefix = ["readings"] if request.url.path.endswith("/readings") else []
    found = error.errors() if isinstance(error, RequestValidationError) else []
    wrong = [
        Wrong(
            where="/".join([*prefix, *(str(p) for p in e["loc"] if p not in ("body", "query", "path"))]) or "body",
            says=in_words(e),
        )
        for e in found
    ]
    return JSONResponse([w.model_dump() for w in wrong], 422)


async def _not_there(request: Request, error: Exception) -> JSONResponse:
    return JSONResponse([{"where": "tag", "says": str(error)}], 404)


async def _unlike(request: Request, error: Exception) -> JSONResponse:
    status, wrong = (error.status, error.wrong) if isinstance(error, Unlike) else (500, ())
    return JSONResponse([w.model_dump() for w in wrong], status)


async def _busy(request: Request, error: Exception) -> JSONResponse:
    return JSONResponse([{"where": "", "says": str(error)}], 503, {"Retry-After": "1"})


async def _down(request: Request, error: Exception) -> JSONResponse:
    return JSONResponse([{"where": "", "says": str(error)}], 507)


async def _http(request: Request, error: Exception) -> JSONResponse:
    status = error.status_code if isinstance(error, StarletteHTTPException) else 500
    return JSONResponse([{"where": request.url.path, "says": str(getattr(error, "detail", error))}], status)
