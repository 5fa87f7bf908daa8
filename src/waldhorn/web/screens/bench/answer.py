"""The end of a check: signing it, or hanging the motor back without a signature."""

from fastapi import APIRouter
from fastapi.responses import Response

from waldhorn.core.base.errors import Refusals, Refused
from waldhorn.core.judging.verdict import judge
from waldhorn.pit.judging.unit_of_work import changing
from waldhorn.pit.motors import signing
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import Typed, go
from waldhorn.web.screens.bench.view import Seated, context_of, refused

router = APIRouter(prefix="/checks/{check_id}")


@router.post("/sign")
def sign(seat: Seated, typed: Typed) -> Response:
    """Sign the answer and hang the motor back on the rack."""
    try:
        with changing(seat.store, seat.now) as session:
            ctx = context_of(session, seat.check_id, seat.now)
            signing.sign(session, ctx, judge(ctx.history, seat.now, ctx.terms), typed)
    except Refusals as refusals:
        return refused(seat, refusals.by_field, "answer", typed)
    except Refused as error:
        return refused(seat, {error.field: error.sentence}, "answer", typed)
    return go(seat.request, address(hung=ctx.motor.tag))


@router.post("/hang")
def hang_back(seat: Seated) -> Response:
    """Hang the motor back without a signature."""
    try:
        with changing(seat.store, seat.now) as session:
            ctx = context_of(session, seat.check_id, seat.now)
            signing.hang_back(session, ctx)
    except Refused as error:
        return refused(seat, {error.field: error.sentence}, "answer", {})
    return go(seat.request, address(hung=ctx.motor.tag))
