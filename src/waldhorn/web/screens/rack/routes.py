"""The rack: the home screen."""

from collections.abc import Sequence
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.exchange import tag_code
from waldhorn.pit.judging.judging import GLANCE
from waldhorn.pit.motors import rack as pit
from waldhorn.store import changes, motors
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import Now, StoreOf, go, lately, page
from waldhorn.web.screens.rack import tour

router = APIRouter()


@router.get("/")
def rack(
    request: Request,
    store: StoreOf,
    now: Now,
    find: Annotated[str, Query(max_length=400)] = "",
    start: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    hung: Annotated[str, Query(max_length=40)] = "",
    undone: Annotated[str, Query(max_length=40)] = "",
    by: Annotated[str, Query(max_length=20)] = "",
) -> Response:
    """Every motor at a glance, worst news and most overdue first; the code of a tag opens its motor."""
    if tag_code.is_code(find):
        return _coded(request, store, find)
    with store.reading() as session:
        found = pit.view(session, find.strip(), now, start, by)
        motor = motors.find(session, hung) if hung else None
        act = changes.last(session, motor.id) if motor else None
        if undone:
            act = changes.last(session, undone, undone=True)
        done: dict[str, Any] = lately(act, now, address("motors", hung, "undo"))
        return page(
            request,
            "rack/rack.html",
            rack=found,
            groups=pit.GROUPS,
            legend=[(QUANTITIES[names[0]].symbol, QUANTITIES[names[0]].title) for names in GLANCE],
            today=now.date(),
            hung=motor.tag if motor else "",
            tour=_tour(found, request.app.state.in_pit_box),
            **done,
        )


def _tour(found: pit.Rack, in_pit_box: Sequence[str]) -> list[tour.TourStep]:
    """What is to be tried first: on the demo, or on a rack that is nearly empty; else nothing."""
    tags = [h.shown.tag for h in found.hooks]
    if in_pit_box and tags:
        return tour.of_demo(tags[0], in_pit_box)
    return tour.of_own(tags) if found.counts["all"] <= tour.FEW else []


def _coded(request: Request, store: StoreOf, code: str) -> Response:
    """To the motor a scanned code is of, or to taking it in."""
    try:
        said = tag_code.decode(code)
    except InputError as refused:
        return page(request, "refused.html", 422, words=refused.sentence)
    with store.reading() as session:
        known = motors.find(session, said.t)
    if known is not None:
        return go(request, address("motors", known.tag))
    return go(request, address("motors", "new", tag=said.t, model=said.m))
