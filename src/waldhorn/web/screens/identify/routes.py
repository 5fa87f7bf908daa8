"""What is this motor? A form for what was seen and measured of one without a label, and what that tells."""

from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from waldhorn.core.motors.facts import KINDS
from waldhorn.pit.motors import identification as pit
from waldhorn.pit.writing import read
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import StoreOf, Written, page
from waldhorn.web.drawing.motor import draw
from waldhorn.web.screens.identify.from_the_side import sides

router = APIRouter()
_FIELDS = ("kind", "size", *pit.NUMBERS)
EXAMPLE = address("identify", kind="outrunner", size="2212", can_mm="27.9 mm", slots="12", poles="14")


@router.get("/identify")
def identify(request: Request, store: StoreOf, notation: Written) -> HTMLResponse:
    """What is typed stands in the address."""
    typed = {n: request.query_params.get(n, "")[:40] for n in _FIELDS}
    seen, wrong = pit.read(typed, notation)
    told = read(store, pit.tell, typed, seen)
    return page(
        request,
        "identify/identify.html",
        422 if wrong else 200,
        typed=typed,
        wrong=wrong,
        told=told,
        begun=any(typed.values()),
        drawing=draw(told.motor),
        sides=sides(told.sizes, seen.get("can_mm"), seen.get("length_mm")),
        kinds=("", *KINDS),
        numbers=pit.NUMBERS,
        example=EXAMPLE,
        take_in=urlencode(told.facts),
    )
