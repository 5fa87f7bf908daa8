"""The rack: the home screen."""

from collections.abc import Sequence
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.exchange import tag_code
from waldhorn.pit.judging.judging import GLANCE
from waldhorn.pit.motors import rack as pit
from waldhorn.pit.writing import Store, read
from waldhorn.web.common.access import seat_of
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import Now, StoreOf, Written, go, is_htmx, lately, page, rendered
from waldhorn.web.screens.rack import tour
from waldhorn.web.screens.scan.routes import place_of_code

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
    found = read(store, pit.view, find.strip(), now, start, by, owner=_looks_at_own(request))
    news = read(store, pit.hung, hung, undone)
    done: dict[str, Any] = lately(news.change, now, address("motors", hung, "undo"))
    return page(
        request,
        "rack/rack.html",
        rack=found,
        after=after if start and is_htmx(request) else None,
        groups=pit.GROUPS,
        legend=LEGEND,
        today=now.date(),
        hung=news.tag,
        tour=_tour(found, request.app.state.in_pit_box),
        **done,
    )


@router.get("/rack/now")
def as_it_hangs(
    request: Request,
    store: StoreOf,
    notation: Written,
    now: Now,
    find: Annotated[str, Query(max_length=400)] = "",
    by: Annotated[str, Query(max_length=20)] = "",
    most: Annotated[int, Query(ge=1, le=MOST_FOLLOWED)] = pit.SCREENFUL,
) -> HTMLResponse:
    """The motors as they hang now, for a rack that is looked at; drawn once for all who look at the same."""
    asked = (find.strip(), now, 0, by, most, _looks_at_own(request))

    def drawn(found: pit.Rack) -> str:
        return rendered(notation, "rack/_now.html", rack=found, after=None, legend=LEGEND, today=now.date(), hung="")

    return HTMLResponse(read(store, pit.drawn_once, asked, drawn), headers={"Cache-Control": "no-store"})


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


def _coded(request: Request, store: Store, code: str) -> Response:
    """To the motor a scanned code is of, or to taking it in."""
    try:
        return go(request, place_of_code(store, code))
    except InputError as refused:
        return page(request, "refused.html", 422, words=refused.sentence)
