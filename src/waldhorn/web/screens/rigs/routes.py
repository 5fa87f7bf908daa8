"""Rigs: what each is worth, what its reference motor says of it, and studies of it."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.rigs import study as core
from waldhorn.pit.judging.judging import GLANCE
from waldhorn.pit.rigs import rigs as pit
from waldhorn.pit.rigs import studies
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, page
from waldhorn.web.drawing import rig_pictures

router = APIRouter()


@router.get("/rigs")
def rigs(request: Request, store: StoreOf, now: Now) -> HTMLResponse:
    """Every rig that readings name, and how well each repeats what the rack shows."""
    found = read(store, pit.every, now)
    shown = [q for names in GLANCE for q in names if any(q in r.repeats for r in found)]
    return page(request, "rigs/rigs.html", rigs=found, shown=[QUANTITIES[q] for q in shown])


@router.get("/rigs/{name:path}")
def rig(
    request: Request, store: StoreOf, now: Now, name: str, measure: Annotated[str, Query(max_length=40)] = ""
) -> HTMLResponse:
    """One rig: how well it repeats, what rests on it, and how it compares with the others; with the motors for a study
    of a measure."""
    return _rig(request, store, now, name, typed={"measure": measure})


@router.post("/rigs/{name:path}/name")
def rename(request: Request, store: StoreOf, by: By, name: str, typed: Typed) -> Response:
    """Give a rig another name, or make it one with another."""
    try:
        new = write(store, by, pit.rename, name, typed)
    except InputError as refused:
        return _rig(request, store, by.at, name, {refused.field: refused.sentence}, typed)
    return go(request, address("rigs", new))


@router.post("/rigs/{name:path}/right")
def put_right(request: Request, store: StoreOf, by: By, name: str) -> Response:
    """The rig was put right."""
    write(store, by, pit.put_right, name, by.at)
    return go(request, address("rigs", name))


@router.post("/rigs/{name:path}/study")
def begin(request: Request, store: StoreOf, by: By, name: str, typed: Typed) -> Response:
    """Begin a study of a rig."""
    try:
        study_id = write(store, by, studies.start, name, typed, by.at)
    except InputErrors as refusals:
        return _rig(request, store, by.at, name, refusals.by_field, typed)
    return go(request, address("studies", study_id))


@router.post("/rigs/{name:path}")
def describe(request: Request, store: StoreOf, by: By, name: str, typed: Typed) -> Response:
    """Keep what is said of a rig."""
    try:
        write(store, by, pit.describe, name, typed)
    except InputErrors as refusals:
        return _rig(request, store, by.at, name, refusals.by_field, typed)
    return go(request, address("rigs", name))


@router.get("/studies/{study_id}")
def study(
    request: Request, store: StoreOf, study_id: str, said: Annotated[str, Query(max_length=60)] = ""
) -> HTMLResponse:
    """A study: what to clamp next, and what it says of the rig."""
    return _study(request, store, study_id, said=said)


@router.post("/studies/{study_id}")
def take_readings(request: Request, store: StoreOf, by: By, study_id: str, typed: Typed) -> Response:
    """Take the runs of a visit."""
    try:
        write(store, by, studies.take_readings, study_id, typed, by.at)
    except (InputError, InputErrors) as refused:
        wrong = refused.by_field if isinstance(refused, InputErrors) else {refused.field: refused.sentence}
        return _study(request, store, study_id, wrong, typed)
    return go(request, address("studies", study_id))


@router.post("/studies/{study_id}/undo")
def undo(request: Request, store: StoreOf, by: By, study_id: str) -> Response:
    """Take the last visit back."""
    try:
        tag = write(store, by, studies.undo, study_id, by.at)
    except InputError as refused:
        return _study(request, store, study_id, {refused.field: refused.sentence})
    return go(request, address("studies", study_id, said=tag))


def _rig(
    request: Request,
    store: Store,
    now: datetime,
    name: str,
    wrong: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
) -> HTMLResponse:
    found = read(store, pit.view, name, now)
    return page(
        request,
        "rigs/rig.html",
        422 if wrong else 200,
        rig=found,
        wrong=wrong or {},
        typed=typed or {},
        amps=pit.AMPS,
        studied=studies.STUDIED,
        choice=read(store, studies.choice, name, (typed or {}).get("measure", "")),
        usual=core,
        charts=[rig_pictures.chart(c) for c in found.charts],
        fits=[rig_pictures.fit(b) for b in found.beside if b.fitted],
    )


def _study(
    request: Request,
    store: Store,
    study_id: str,
    wrong: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    said: str = "",
) -> HTMLResponse:
    found = read(store, studies.view, study_id)
    return page(
        request,
        "rigs/study.html",
        422 if wrong else 200,
        study=found,
        picture=rig_pictures.study(found),
        wrong=wrong or {},
        typed=typed or {},
        said=said,
    )
