"""Bring in: files are chosen, looked at, mapped where they are foreign, and stored in one go."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, PlainTextResponse, Response
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from waldhorn.core.base.conditions import CONDITIONS
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.text import key_of
from waldhorn.core.base.units import unit_words
from waldhorn.core.base.vocabulary import Method
from waldhorn.core.measuring.measures import MEASURES, Measure
from waldhorn.exchange.guessing import ON_SHAFT
from waldhorn.exchange.hand_words import BY_WORDS
from waldhorn.exchange.mapping import FACTS, LONG, WORKED_OUT_ROW, Column, Mapping
from waldhorn.pit.files import bringing_in as pit
from waldhorn.pit.files import import_worker, jobs, upload_staging
from waldhorn.pit.settings.pit import load
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.addresses import address, attachment
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, page

router = APIRouter()
FACT_WORDS = {
    "tag": "which motor",
    "motor_class": "class",
    "label_kv": "label KV",
    "mass_g": "mass",
    "at": "date or time",
}


def _unit_after(measure: Measure) -> str:
    """Its unit, where its name is not the unit already (rpm)."""
    return f", {unit_words(measure.unit)}" if measure.unit not in ("", measure.title) else ""


CHOICES = [
    ("the motor", [(n, FACT_WORDS.get(n, n)) for n in FACTS]),
    ("the reading", [(n, FACT_WORDS.get(n, n)) for n in ("at", "check", "run")]),
    ("read under", [(n, c.title) for n, c in CONDITIONS.items()]),
    ("measured", [(m.name, m.title + _unit_after(m)) for m in MEASURES.values()]),
    ("by ear and hand", list(BY_WORDS.items())),
    ("one reading a row", [(n, n) for n in LONG]),
]
_SHOWN_WRONG = 30
_AT_ONCE_S = 1.0  # longer work says how far it is


@router.get("/bring-in")
def choose(request: Request, store: StoreOf, said: Annotated[str, Query(max_length=200)] = "") -> HTMLResponse:
    """Choose files; what was brought in lately can be taken back."""
    return _choose(request, store, {}, said)


@router.post("/bring-in")
async def lay_aside(request: Request, store: StoreOf) -> Response:
    """Lay chosen files aside."""
    async with request.form() as form:
        files = [f for f in form.getlist("files") if isinstance(f, UploadFile)]
        chosen = [(f.filename or "", await f.read()) for f in files]
    try:
        token = await run_in_threadpool(upload_staging.lay_aside, chosen)
    except InputError as refused:
        return await run_in_threadpool(_choose, request, store, {refused.field: refused.sentence})
    return go(request, address("bring-in", token))


@router.post("/bring-in/undo/{change_id}")
def undo(request: Request, store: StoreOf, by: By, change_id: str) -> Response:
    """Take back what was brought in."""
    try:
        what = write(store, by, pit.undo, change_id, by.at)
    except InputError as refused:
        return _choose(request, store, {refused.field: refused.sentence})
    return go(request, address("bring-in", said=what))


@router.get("/bring-in/{token}")
def look(request: Request, store: StoreOf, now: Now, token: str) -> HTMLResponse:
    """What was staged, and what its rows would become."""
    return _look(request, store, now, token)


@router.get("/bring-in/{token}/{key}.json")
def saved(request: Request, store: StoreOf, now: Now, token: str, key: str) -> Response:
    """The mapping of a sheet, for the command line."""
    one = read(store, pit.foreign, token, key, now)
    named = attachment(f"{key}.map.json")
    return PlainTextResponse(pit.saved_mapping(one), headers=named, media_type="application/json")


@router.post("/bring-in/{token}/map")
def remap(request: Request, store: StoreOf, now: Now, token: str, typed: Typed) -> HTMLResponse:
    """Another meaning for a column: what the rows become is shown anew."""
    one = read(store, pit.foreign, token, typed.get("key", ""), now)
    pit.remap(token, one.key, _mapping(one, typed))
    return _look(request, store, now, token)


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
        return _look(request, store, now, token)
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


def _over(request: Request, store: Store, now: datetime, token: str, job: jobs.Job) -> HTMLResponse:
    jobs.forget(token)
    if job.failed:
        raise job.failed
    if job.refused:
        return _look(request, store, now, token, [job.refused.sentence])
    if not job.result.stored:
        return _look(request, store, now, token, job.result.wrong)
    request.app.state.pit = read(store, load)  # a backup brings its own into an empty store
    return page(request, "bring_in/brought_in.html", brought=job.result, most=_SHOWN_WRONG)


def _mapping(one: pit.Foreign, typed: dict[str, str]) -> Mapping:
    """The mapping of a form: what cannot be is left out, and the page says what is missing."""
    columns = []
    for i, column in enumerate(one.mapping.columns):
        run, unit = typed.get(f"run-{i}", ""), typed.get(f"unit-{i}", column.unit)[:20]
        number = int(run) if run.isdecimal() and 1 <= int(run[:4]) <= 9 else None
        means = typed.get(f"means-{i}", column.means)
        shaft = " ".join(typed.get(f"shaft-{i}", column.on_shaft).split())[:60]
        columns.append(Column(header=column.header, means=means, unit=unit, run=number, on_shaft=shaft))
    method = typed.get("method", "")
    cells = {n.removeprefix("cell-"): v[:200] for n, v in typed.items() if n.startswith("cell-")}
    return Mapping(
        columns=columns,
        corrected=one.mapping.corrected | cells,
        counted=[n for n, _ in one.sheet.rows if typed.get(f"row-{n}") == "yes"],
        motors=one.mapping.motors | _meant(one, typed),
        taken=[d.key for d in one.differ if typed.get(f"take-{d.key}") == "yes"],
        day_first=typed.get("day_first", "yes") == "yes",
        rig=" ".join(typed.get("rig", "").split())[:60],
        method=method if method in set(Method) else Method.LOADED_SUPPLY.value,
    )


def _meant(one: pit.Foreign, typed: dict[str, str]) -> dict[str, str]:
    """Which motor is meant by a tag that is nearly another's."""
    said = ((tag, there, typed.get(f"motor-{tag}", "")) for tag, there, _ in one.alike)
    return {key_of(tag): there if answer == "one" else tag for tag, there, answer in said if answer}


def _choose(request: Request, store: Store, wrong: dict[str, str], said: str = "") -> HTMLResponse:
    return page(
        request, "bring_in/bring_in.html", 422 if wrong else 200, wrong=wrong, lately=read(store, pit.lately), back=said
    )


def _look(request: Request, store: Store, now: datetime, token: str, refused: Sequence[str] = ()) -> HTMLResponse:
    staged = read(store, pit.look, token, now)
    if staged is None:
        gone = "these files are there no more: choose them again"
        return _choose(request, store, {"files": next(iter(refused), gone)})
    return page(
        request,
        "bring_in/staged.html",
        422 if refused else 200,
        staged=staged,
        refused=refused[:_SHOWN_WRONG],
        more=max(0, len(refused) - _SHOWN_WRONG),
        choices=CHOICES,
        on_shaft=ON_SHAFT,
        fact_words=FACT_WORDS,
        words_of=BY_WORDS,
        worked_out=WORKED_OUT_ROW,
        methods=tuple(Method),
    )
