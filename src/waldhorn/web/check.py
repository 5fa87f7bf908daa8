"""The bench: one screen from taking a motor in hand to hanging it back. Here: the page, typing, taking, undoing."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.errors import Refused
from waldhorn.pit import checks, undoing
from waldhorn.pit.panels import PANELS
from waldhorn.pit.run import STEPS
from waldhorn.pit.steps import SETUP
from waldhorn.store import readings
from waldhorn.web.bench import CheckId, act, answer, desk_of, found, refused, values
from waldhorn.web.pages import Now, StoreOf, Typed, go, missing, page

router = APIRouter()


@router.get("/checks/{check_id}")
def bench(request: Request, store: StoreOf, now: Now, check_id: CheckId, step: str = "") -> HTMLResponse:
    """The bench as it stands; `step` goes back to one of its steps."""
    with store.reading() as session:
        return page(request, "check.html", **values(session, check_id, now, step))


@router.post("/checks/{check_id}/steps/{step}/draft")
def draft(request: Request, store: StoreOf, now: Now, check_id: CheckId, step: str, typed: Typed) -> HTMLResponse:
    """Keep what is typed and say what it means."""
    _known(step)
    with store.writing() as session:
        desk = desk_of(session, check_id, now)
        if desk.check.open:
            checks.keep_draft(session, desk.check, step, {k: v[:60_000] for k, v in typed.items()}, desk)
    with store.reading() as session:
        return page(request, "_bench_live.html", **values(session, check_id, now, step))


@router.post("/checks/{check_id}/steps/{step}")
def take(request: Request, store: StoreOf, now: Now, check_id: CheckId, step: str, typed: Typed) -> Response:
    """Take what was typed into a step."""
    _known(step)
    if step == SETUP.name:
        return act(request, store, now, check_id, lambda d: checks.set_up(d.session, d.check, typed, now), step, typed)
    panel = PANELS.get(step)
    if panel is None:
        raise missing("There is nothing to take in this step.")
    return act(request, store, now, check_id, lambda d: checks.take(d.session, d, panel, typed), step, typed)


@router.post("/checks/{check_id}/undo")
def undo(request: Request, store: StoreOf, now: Now, check_id: CheckId) -> Response:
    """Undo the last act; undoing the opening goes back to the motor's page."""
    with store.reading() as session:
        tag = found(session, check_id)[1].tag
    try:
        with store.writing() as session:
            undoing.undo_last(session, found(session, check_id)[0].motor_id)
    except Refused as error:
        return refused(request, store, now, check_id, {"undo": error.sentence}, "", {})
    with store.reading() as session:
        gone = readings.check(session, check_id) is None
    return go(request, f"/motors/{tag}") if gone else answer(request, store, now, check_id)


def _known(step: str) -> None:
    if step not in STEPS:
        raise missing(f"There is no step {step[:40]}.")
