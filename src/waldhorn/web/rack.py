"""The rack: the home screen."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse

from waldhorn.pit import rack as pit
from waldhorn.store import acts, motors
from waldhorn.web.pages import Now, StoreOf, lately, page

router = APIRouter()


@router.get("/")
def rack(
    request: Request,
    store: StoreOf,
    now: Now,
    find: Annotated[str, Query(max_length=200)] = "",
    start: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    hung: Annotated[str, Query(max_length=40)] = "",
) -> HTMLResponse:
    """Every motor at a glance, worst news and most overdue first."""
    with store.reading() as session:
        found = pit.view(session, find.strip(), now, start)
        motor = motors.find(session, hung) if hung else None
        act = acts.last(session, motor.id) if motor else None
        done: dict[str, Any] = lately(act, now, f"/motors/{hung}/undo")
        return page(request, "rack.html", rack=found, today=now.date(), hung=motor.tag if motor else "", **done)
