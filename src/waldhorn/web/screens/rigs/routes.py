"""Rigs: what each is worth, what its reference motor says of it, and studies of it."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.rigs import study as core
from waldhorn.pit.judging.judging import GLANCE
from waldhorn.pit.rigs import rigs as pit
from waldhorn.pit.rigs import studies
from waldhorn.pit.writing import changing
from waldhorn.store import rigs as store_rigs
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, missing, page
from waldhorn.web.drawing import rig_pictures

router = APIRouter()


@router.get("/rigs")
def rigs(request: Request, store: StoreOf, now: Now) -> HTMLResponse:
    """Every rig that readings name, and how well each repeats what the rack shows."""
    with store.reading() as session:
        found = pit.every(session, now)
    shown = [q for names in GLANCE for q in names if any(q in r.repeats for r in found)]
    return page(request, "rigs/rigs.html", rigs=found, shown=[QUANTITIES[q] for q in shown])


@router.get("/rigs/{name:path}")
def rig(
    request: Request, store: StoreOf, now: Now, name: str, measure: Annotated[str, Query(max_length=40)] = ""
) -> HTMLResponse:
    """One rig: how well it repeats, what rests on it, and how it compares with the others; with the motors for a study
    of a measure."""
    with store.reading() as session:
        return _rig(request, session, now, name, typed={"measure": measure})


@router.post("/rigs/{name:path}/name")
def rename(request: Request, store: StoreOf, by: By, now: Now, name: str, typed: Typed) -> Response:
    """Give a rig another name, or make it one with another."""
    try:
        with changing(store, by) as session:
            new = pit.rename(session, name, typed, now)
    except InputError as refused:
        with store.reading() as session:
            return _rig(request, session, now, name, {refused.field: refused.sentence}, typed)
    return go(request, address("rigs", new))


@router.post("/rigs/{name:path}/right")
def put_right(request: Request, store: StoreOf, by: By, now: Now, name: str) -> Response:
    """The rig was put right."""
    with changing(store, by) as session:
        pit.put_right(session, name, now)
    return go(request, address("rigs", name))


@router.post("/rigs/{name:path}/study")
def begin(request: Request, store: StoreOf, by: By, now: Now, name: str, typed: Typed) -> Response:
    """Begin a study of a rig."""
    try:
        with changing(store, by) as session:
            study_id = studies.start(session, name, typed, now)
    except InputErrors as refusals:
        with store.reading() as session:
            return _rig(request, session, now, name, refusals.by_field, typed)
    return go(request, address("studies", study_id))


@router.post("/rigs/{name:path}")
def describe(request: Request, store: StoreOf, by: By, now: Now, name: str, typed: Typed) -> Response:
    """Keep what is said of a rig."""
    try:
        with changing(store, by) as session:
            pit.describe(session, name, typed)
    except InputErrors as refusals:
        with store.reading() as session:
            return _rig(request, session, now, name, refusals.by_field, typed)
    return go(request, address("rigs", name))


@router.get("/studies/{study_id}")
def study(
    request: Request, store: StoreOf, study_id: str, said: Annotated[str, Query(max_length=60)] = ""
) -> HTMLResponse:
    """A study: what to clamp next, and what it says of the rig."""
    with store.reading() as session:
        return _study(request, session, study_id, said=said)


@router.post("/studies/{study_id}")
def take_readings(request: Request, store: StoreOf, by: By, now: Now, study_id: str, typed: Typed) -> Response:
    """Take the runs of a visit."""
    try:
        with changing(store, by) as session:
            studies.take_readings(session, _found(session, study_id), typed, now)
    except (InputError, InputErrors) as refused:
        wrong = refused.by_field if isinstance(refused, InputErrors) else {refused.field: refused.sentence}
        with store.reading() as session:
            return _study(request, session, study_id, wrong, typed)
    return go(request, address("studies", study_id))


@router.post("/studies/{study_id}/undo")
def undo(request: Request, store: StoreOf, by: By, now: Now, study_id: str) -> Response:
    """Take the last visit back."""
    try:
        with changing(store, by) as session:
            tag = studies.undo(session, _found(session, study_id), now)
    except InputError as refused:
        with store.reading() as session:
            return _study(request, session, study_id, {refused.field: refused.sentence})
    return go(request, address("studies", study_id, said=tag))


def _found(session: Session, study_id: str) -> studies.StudyView:
    found = studies.view(session, study_id)
    if found is None:
        raise missing("There is no such study.")
    return found


def _rig(
    request: Request,
    session: Session,
    now: Any,
    name: str,
    wrong: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
) -> HTMLResponse:
    found = pit.view(session, name, now)
    if found is None:
        raise missing(f"No reading names a rig {name}.")
    others = [u.name for u in store_rigs.uses(session) if u.name != name]
    return page(
        request,
        "rigs/rig.html",
        422 if wrong else 200,
        rig=found,
        wrong=wrong or {},
        typed=typed or {},
        amps=pit.AMPS,
        others=others,
        studied=studies.STUDIED,
        choice=studies.choice(session, name, (typed or {}).get("measure", "")),
        usual=core,
        charts=[rig_pictures.chart(c) for c in found.charts],
        fits=[rig_pictures.fit(b) for b in found.beside if b.fitted],
    )


def _study(
    request: Request,
    session: Session,
    study_id: str,
    wrong: dict[str, str] | None = None,
    typed: dict[str, str] | None = None,
    said: str = "",
) -> HTMLResponse:
    found = _found(session, study_id)
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
