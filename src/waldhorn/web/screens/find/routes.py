"""Find: what a few letters mean, below the field of every page, and as a page of all that can be done."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from waldhorn.exchange import tag_code
from waldhorn.pit import finding
from waldhorn.pit.motors import rack
from waldhorn.pit.writing import read
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import Now, StoreOf, go, is_htmx, page
from waldhorn.web.screens.find import things
from waldhorn.web.screens.find.ranking import ranked

router = APIRouter()


@router.get("/find")
def find(
    request: Request,
    store: StoreOf,
    now: Now,
    q: Annotated[str, Query(max_length=400)] = "",
    of: Annotated[str, Query(max_length=60)] = "",
    do: Annotated[str, Query(max_length=80)] = "",
) -> Response:
    """Everything that is meant by `q`; on the page `of` a motor, what can be done with it first. `do` asks of which
    motor a thing is done. Enter opens the likeliest. The code of a tag is the rack's to read."""
    if tag_code.is_code(q):
        return go(request, address(find=q))
    thing = next((t for group in things.THINGS.values() for t in group if t.name == do), None)
    found = read(store, finding.find, q, now, of)
    hooks = read(store, rack.view, "", now).hooks if thing else []
    lines = ranked(q, found)
    if is_htmx(request):
        return page(request, "find/_found.html", q=q, lines=lines)
    if q.strip() and lines:
        return go(request, lines[0].url)
    return page(
        request,
        "find/find.html",
        q=q,
        found_by=q,
        things=things.THINGS,
        tag=found.tag or found.here,
        thing=thing,
        hooks=hooks,
    )
