"""The end of a check: signing it, or hanging the motor back without a signature."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from waldhorn.core.errors import Refusals
from waldhorn.pit import bench as pit
from waldhorn.pit import signing
from waldhorn.web.bench import CheckId, found, refused
from waldhorn.web.pages import Now, StoreOf, Typed, go

router = APIRouter(prefix="/checks/{check_id}")


@router.post("/sign")
def sign(request: Request, store: StoreOf, now: Now, check_id: CheckId, typed: Typed) -> Response:
    """Sign the answer and hang the motor back on the rack."""
    try:
        with store.writing() as session:
            check, motor = found(session, check_id)
            judged = pit.look(session, check, motor, now, "answer").judgement
            signing.sign(session, check, judged, typed, now)
            tag = motor.tag
    except Refusals as refusals:
        return refused(request, store, now, check_id, refusals.by_field, "answer", typed)
    return go(request, f"/?hung={tag}")


@router.post("/hang")
def hang_back(request: Request, store: StoreOf, now: Now, check_id: CheckId) -> Response:
    """Hang the motor back without a signature."""
    with store.writing() as session:
        check, motor = found(session, check_id)
        signing.hang_back(session, check, now)
        tag = motor.tag
    return go(request, f"/?hung={tag}")
