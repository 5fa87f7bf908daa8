"""The rack: the home screen."""

from collections.abc import Sequence
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.exchange import tag_code
from waldhorn.pit.judging.judging import GLANCE
from waldhorn.pit.judging.view_cache import until_changed
from waldhorn.pit.motors import rack as pit
from waldhorn.store import cached_verdicts, changes, motors
from waldhorn.web.common.access import seat_of
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import Now, StoreOf, go, is_htmx, lately, page, rendered
from waldhorn.web.screens.rack import tour

router = APIRouter()
LEGEND = [(QUANTITIES[names[0]].symbol, QUANTITIES[names[0]].title) for names in GLANCE]
MOST_FOLLOWED = 400  # of a rack that was scrolled: what hangs below is drawn anew when it is asked for


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
    after: Annotated[str, Query(max_length=100)] = "",
) -> Response:
    """Every motor at a glance, worst news and most overdue first; the code of a tag opens its motor. What is hung on
    below goes on in the group it comes `after`."""
    if tag_code.is_code(find):
        return _coded(request, store, find)
    with store.reading() as session:
        found = pit.view(session, find.strip(), now, start, by, owner=_looks_at_own(request))
        motor = motors.find(session, hung) if hung else None
        act = changes.last(session, motor.id) if motor else None
        if undone:
            act = changes.last(session, undone, undone=True)
        done: dict[str, Any] = lately(act, now, address("motors", hung, "undo"))
        return page(
            request,
            "rack/rack.html",
            rack=found,
            after=after if start and is_htmx(request) else None,
            groups=pit.GROUPS,
            legend=LEGEND,
            today=now.date(),
            hung=motor.tag if motor else "",
            tour=_tour(found, request.app.state.in_pit_box),
            **done,
        )


@router.get("/rack/now")
def as_it_hangs(
    request: Request,
    store: StoreOf,
    now: Now,
    find: Annotated[str, Query(max_length=400)] = "",
    by: Annotated[str, Query(max_length=20)] = "",
    most: Annotated[int, Query(ge=1, le=MOST_FOLLOWED)] = pit.SCREENFUL,
) -> HTMLResponse:
    """The motors as they hang now, for a rack that is looked at; drawn once for all who look at the same."""
    owner = _looks_at_own(request)
    with store.reading() as session:
        asked = ("rack", find, by, most, owner, now.date(), cached_verdicts.standing_at(session))

        def drawn() -> str:
            found = pit.view(session, find.strip(), now, 0, by, most, owner)
            return rendered("rack/_now.html", rack=found, after=None, legend=LEGEND, today=now.date(), hung="")

        return HTMLResponse(until_changed(session, asked, drawn), headers={"Cache-Control": "no-store"})


def _looks_at_own(request: Request) -> str:
    """Whose motors come first: those of an owner who looks."""
    seat = seat_of(request)
    return "" if seat.may_change else seat.name


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
