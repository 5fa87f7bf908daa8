"""The bench: one screen from taking a motor in hand to hanging it back."""

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Path, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from waldhorn.core.errors import Refusals, Refused
from waldhorn.pit import bench as pit
from waldhorn.pit import checks, signing, undoing
from waldhorn.pit.steps import METHOD_WORDS, STEPS
from waldhorn.store import readings
from waldhorn.store.models import CheckRow, MotorRow
from waldhorn.store.motors import to_motor
from waldhorn.web.drawing import draw
from waldhorn.web.pages import Now, StoreOf, Typed, go, is_htmx, missing, page
from waldhorn.web.strips import strip

router = APIRouter()

CheckId = Annotated[int, Path(ge=1, lt=2**53)]
RunNumber = Annotated[int, Path(ge=1, le=1_000_000)]


@router.get("/checks/{check_id}")
def bench(request: Request, store: StoreOf, now: Now, check_id: CheckId, step: str = "") -> HTMLResponse:
    """The bench as it stands; `step` goes back to one of its steps."""
    with store.reading() as session:
        return page(request, "check.html", **_values(session, check_id, now, step))


@router.post("/checks/{check_id}/draft")
def draft(request: Request, store: StoreOf, now: Now, check_id: CheckId, typed: Typed) -> HTMLResponse:
    """Keep what is typed and say what it means."""
    with store.writing() as session:
        check, _ = _found(session, check_id)
        if check.open:
            checks.keep_draft(session, check, {k: v[:500] for k, v in typed.items() if k != "step"})
    with store.reading() as session:
        return page(request, "_bench_live.html", **_values(session, check_id, now, typed.get("step", "")))


@router.post("/checks/{check_id}/setup")
def set_up(request: Request, store: StoreOf, now: Now, check_id: CheckId, typed: Typed) -> Response:
    """Note the rig and how warm it is."""
    return _act(request, store, now, check_id, lambda s, c: checks.set_up(s, c, typed, now), "setup", typed)


@router.post("/checks/{check_id}/runs")
def take_run(request: Request, store: StoreOf, now: Now, check_id: CheckId, typed: Typed) -> Response:
    """Take the run that was typed."""
    return _act(request, store, now, check_id, lambda s, c: checks.take_run(s, c, typed, now), "pull", typed)


@router.post("/checks/{check_id}/runs/{run}/aside")
def set_aside(request: Request, store: StoreOf, now: Now, check_id: CheckId, run: RunNumber, typed: Typed) -> Response:
    """Set a run aside with a reason."""
    reason = typed.get("reason", "")
    return _act(request, store, now, check_id, lambda s, c: checks.set_aside(s, c, run, reason, now), "", typed)


@router.post("/checks/{check_id}/runs/{run}/back")
def bring_back(request: Request, store: StoreOf, now: Now, check_id: CheckId, run: RunNumber) -> Response:
    """Let a run count again."""
    return _act(request, store, now, check_id, lambda s, c: checks.bring_back(s, c, run, now), "", {})


@router.post("/checks/{check_id}/undo")
def undo(request: Request, store: StoreOf, now: Now, check_id: CheckId) -> Response:
    """Undo the last act; undoing the opening goes back to the motor's page."""
    with store.reading() as session:
        tag = _found(session, check_id)[1].tag
    try:
        with store.writing() as session:
            undoing.undo_last(session, _found(session, check_id)[0].motor_id)
    except Refused as refused:
        return _refused(request, store, now, check_id, {"undo": refused.sentence}, "", {})
    with store.reading() as session:
        gone = readings.check(session, check_id) is None
    return go(request, f"/motors/{tag}") if gone else _answer(request, store, now, check_id)


@router.post("/checks/{check_id}/sign")
def sign(request: Request, store: StoreOf, now: Now, check_id: CheckId, typed: Typed) -> Response:
    """Sign the answer and hang the motor back on the rack."""
    try:
        with store.writing() as session:
            check, motor = _found(session, check_id)
            judged = pit.look(session, check, motor, now).judgement
            signing.sign(session, check, judged, typed, now)
            tag = motor.tag
    except Refusals as refusals:
        return _refused(request, store, now, check_id, refusals.by_field, "answer", typed)
    return go(request, f"/?hung={tag}")


@router.post("/checks/{check_id}/hang")
def hang_back(request: Request, store: StoreOf, now: Now, check_id: CheckId) -> Response:
    """Hang the motor back without a signature."""
    with store.writing() as session:
        check, motor = _found(session, check_id)
        signing.hang_back(session, check, now)
        tag = motor.tag
    return go(request, f"/?hung={tag}")


def _act(
    request: Request,
    store: Any,
    now: Any,
    check_id: int,
    what: Callable[[Session, CheckRow], object],
    step: str,
    typed: dict[str, str],
) -> Response:
    """Do one thing to a check and draw the bench again, or say what is wrong with what was typed kept."""
    try:
        with store.writing() as session:
            what(session, _found(session, check_id)[0])
    except Refusals as refusals:
        return _refused(request, store, now, check_id, refusals.by_field, step, typed)
    except Refused as refused:
        return _refused(request, store, now, check_id, {refused.field: refused.sentence}, step, typed)
    return _answer(request, store, now, check_id)


def _answer(request: Request, store: Any, now: Any, check_id: int) -> Response:
    if not is_htmx(request):
        return go(request, f"/checks/{check_id}")
    with store.reading() as session:
        return page(request, "_bench.html", **_values(session, check_id, now, ""))


def _refused(
    request: Request, store: Any, now: Any, check_id: int, wrong: dict[str, str], step: str, typed: dict[str, str]
) -> Response:
    with store.reading() as session:
        values = _values(session, check_id, now, step)
        values["wrong"] = values["wrong"] | wrong
        values["typed"] = values["typed"] | typed
        return page(request, "_bench.html" if is_htmx(request) else "check.html", 422, **values)


def _found(session: Session, check_id: int) -> tuple[CheckRow, MotorRow]:
    found = readings.check(session, check_id)
    if found is None:
        raise missing("There is no such check.")
    return found


def _values(session: Session, check_id: int, now: Any, step: str) -> dict[str, Any]:
    check, motor = _found(session, check_id)
    found = pit.look(session, check, motor, now, step)
    judged = found.judgement
    return {
        "bench": found,
        "motor": motor,
        "check": check,
        "steps": STEPS,
        "judgement": judged,
        "typed": found.typed,
        "wrong": found.wrong,
        "strips": [(e, strip(e)) for e in judged.evidence],
        "drawing": draw(to_motor(motor), judged.evidence),
        "method_words": METHOD_WORDS,
        "verdicts": signing.VERDICTS,
        "signer": signing.last_signature(session),
        "last_act": found.last_act,
    }
