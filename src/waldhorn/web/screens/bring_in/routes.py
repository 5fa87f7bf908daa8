"""Bring in: files are chosen, looked at, mapped where they are foreign, and stored in one go."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, PlainTextResponse, Response
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.units import unit_words
from waldhorn.core.base.vocabulary import Method
from waldhorn.core.measuring.measures import MEASURES, Measure
from waldhorn.exchange.mapping import FACTS, LONG, Column, Mapping
from waldhorn.pit.files import bringing_in as pit
from waldhorn.pit.files import import_worker, jobs, upload_staging
from waldhorn.pit.writing import changing
from waldhorn.store import pit as pit_store
from waldhorn.store import rigs
from waldhorn.web.common.addresses import address, attachment
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, missing, page

router = APIRouter()
FACT_WORDS = {
    "tag": "which motor",
    "motor_class": "class",
    "label_kv": "label KV",
    "mass_g": "mass",
    "at": "date or time",
    "ambient_c": "air temperature",
}


def _unit_after(measure: Measure) -> str:
    """Its unit, where its name is not the unit already (rpm)."""
    return f", {unit_words(measure.unit)}" if measure.unit not in ("", measure.title) else ""


CHOICES = [
    ("the motor", [(n, FACT_WORDS.get(n, n)) for n in FACTS]),
    ("the reading", [(n, FACT_WORDS.get(n, n)) for n in ("at", "check", "run", "rig", "ambient_c")]),
    ("measured", [(m.name, m.title + _unit_after(m)) for m in MEASURES.values()]),
    ("one reading a row", [(n, n) for n in LONG]),
]
_SHOWN_WRONG = 30
_AT_ONCE_S = 1.0  # longer work says how far it is


@router.get("/bring-in")
def choose(request: Request, store: StoreOf, said: Annotated[str, Query(max_length=200)] = "") -> HTMLResponse:
    """Choose files; what was brought in lately can be taken back."""
    with store.reading() as session:
        return _choose(request, session, {}, said)


@router.post("/bring-in")
async def lay_aside(request: Request, store: StoreOf) -> Response:
    """Lay chosen files aside."""
    async with request.form() as form:
        files = [f for f in form.getlist("files") if isinstance(f, UploadFile)]
        chosen = [(f.filename or "", await f.read()) for f in files]
    try:
        token = await run_in_threadpool(upload_staging.lay_aside, chosen)
    except InputError as refused:
        with store.reading() as session:
            return _choose(request, session, {refused.field: refused.sentence})
    return go(request, address("bring-in", token))


@router.post("/bring-in/undo/{act_id}")
def undo(request: Request, store: StoreOf, by: By, now: Now, act_id: str) -> Response:
    """Take back what was brought in."""
    try:
        with changing(store, by) as session:
            what = pit.undo(session, act_id, now)
    except InputError as refused:
        with store.reading() as session:
            return _choose(request, session, {refused.field: refused.sentence})
    return go(request, address("bring-in", said=what))


@router.get("/bring-in/{token}")
def look(request: Request, store: StoreOf, now: Now, token: str) -> HTMLResponse:
    """What was staged, and what its rows would become."""
    with store.reading() as session:
        return _look(request, session, now, token)


@router.get("/bring-in/{token}/{key}.json")
def saved(request: Request, store: StoreOf, now: Now, token: str, key: str) -> Response:
    """The mapping of a sheet, for the command line."""
    with store.reading() as session:
        staged = pit.look(session, token, now)
    one = next((f for f in staged.foreign if f.key == key), None) if staged else None
    if one is None:
        raise missing("This sheet is there no more.")
    named = attachment(f"{key}.map.json")
    return PlainTextResponse(pit.saved_mapping(one), headers=named, media_type="application/json")


@router.post("/bring-in/{token}/map")
def remap(request: Request, store: StoreOf, now: Now, token: str, typed: Typed) -> HTMLResponse:
    """Another meaning for a column: what the rows become is shown anew."""
    with store.reading() as session:
        staged = pit.look(session, token, now)
        one = next((f for f in staged.foreign if f.key == typed.get("key")), None) if staged else None
        if one is None:
            raise missing("This sheet is there no more.")
        pit.remap(token, one.key, _mapping(one, typed))
        return _look(request, session, now, token)


@router.post("/bring-in/{token}")
def bring_in(request: Request, store: StoreOf, by: By, token: str, typed: Typed) -> Response:
    """Store it; what takes longer than a second says how far it is."""
    job = import_worker.start(store, by, token, typed.get("skip_bad") == "yes")
    if not job.wait(_AT_ONCE_S):
        return go(request, address("bring-in", token, "going"))
    return _over(request, store, by.at, token, job)


@router.get("/bring-in/{token}/going")
def going(request: Request, store: StoreOf, now: Now, token: str) -> HTMLResponse:
    """How far it is, or what came of it."""
    job = jobs.find(token)
    if job is None:
        with store.reading() as session:
            return _look(request, session, now, token)
    if not job.done:
        return page(request, "bring_in/bringing_in.html", job=job, laid_as=token)
    return _over(request, store, now, token, job)


@router.post("/bring-in/{token}/cancel")
def cancel(request: Request, token: str) -> Response:
    """Call it off."""
    if job := jobs.find(token):
        job.cancel()
        job.wait(_AT_ONCE_S)
    return go(request, address("bring-in", token, "going"))


def _over(request: Request, store: Any, now: Any, token: str, job: jobs.Job) -> HTMLResponse:
    jobs.forget(token)
    if job.failed:
        raise job.failed
    with store.reading() as session:
        if job.refused:
            staged = pit.look(session, token, now)
            said = job.refused.sentence
            return _look(request, session, now, token, [said]) if staged else _choose(request, session, {"files": said})
        if not job.result.stored:
            return _look(request, session, now, token, job.result.wrong)
        request.app.state.pit = pit_store.load(session)  # a backup brings its own into an empty store
    return page(request, "bring_in/brought_in.html", brought=job.result, most=_SHOWN_WRONG)


def _mapping(one: pit.Foreign, typed: dict[str, str]) -> Mapping:
    """The mapping of a form: what cannot be is left out, and the page says what is missing."""
    columns = []
    for i, column in enumerate(one.mapping.columns):
        run, unit = typed.get(f"run-{i}", ""), typed.get(f"unit-{i}", column.unit)[:20]
        number = int(run) if run.isdecimal() and 1 <= int(run[:4]) <= 9 else None
        means = typed.get(f"means-{i}", column.means)
        columns.append(Column(header=column.header, means=means, unit=unit, run=number))
    method = typed.get("method", "")
    return Mapping(
        columns=columns,
        day_first=typed.get("day_first", "yes") == "yes",
        rig=" ".join(typed.get("rig", "").split())[:60],
        method=method if method in set(Method) else Method.LOADED_SUPPLY.value,
    )


def _choose(request: Request, session: Session, wrong: dict[str, str], said: str = "") -> HTMLResponse:
    return page(
        request, "bring_in/bring_in.html", 422 if wrong else 200, wrong=wrong, lately=pit.lately(session), back=said
    )


def _look(request: Request, session: Session, now: Any, token: str, refused: list[str] | None = None) -> HTMLResponse:
    staged = pit.look(session, token, now)
    if staged is None:
        return _choose(request, session, {"files": "these files are there no more: choose them again"})
    return page(
        request,
        "bring_in/staged.html",
        422 if refused else 200,
        staged=staged,
        refused=(refused or [])[:_SHOWN_WRONG],
        more=max(0, len(refused or []) - _SHOWN_WRONG),
        choices=CHOICES,
        methods=tuple(Method),
        known_rigs=[u.name for u in rigs.uses(session)],
    )
