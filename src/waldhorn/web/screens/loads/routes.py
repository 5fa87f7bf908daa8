"""A motor under load, its sheet as a table and its chart as a picture."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError
from waldhorn.exchange import loads as exchange
from waldhorn.pit.between import loads as pit
from waldhorn.pit.motors import corrections, motor_page
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.addresses import address
from waldhorn.web.common.load_sheet import load_values
from waldhorn.web.common.pages import By, StoreOf, Typed, Written, go, missing, page, rendered
from waldhorn.web.drawing.load_chart import kinds_of, load_chart

router = APIRouter()
_Tags = Annotated[str, Query(max_length=1200)]


@router.get("/motors/{tag}/loads")
def of_motor(request: Request, store: StoreOf, notation: Written, tag: str) -> HTMLResponse:
    """What one motor drove, and what it made of it."""
    typed = {n: v[:200] for n, v in request.query_params.items()}
    row = read(store, motor_page.on_rack, tag)
    values = load_values(store, notation, [row.tag], typed, address("motors", row.tag, "loads"), {})
    return page(request, "loads/loads.html", 422 if values["machine_wrong"] else 200, motor=row, **values)


@router.post("/motors/{tag}/loads/pack")
def say_pack(request: Request, store: StoreOf, by: By, tag: str, typed: Typed) -> Response:
    """Say the pack of all its rows that lack one; back to where that was asked."""
    write(store, by, corrections.say_pack, tag, typed.get("source", ""), by.at)
    tags = typed.get("tags", "")[:1200]
    back = address("compare", tags=tags) if "," in tags else address("motors", tag, "loads")
    return go(request, back)


@router.get("/loads.csv")
def as_table(store: StoreOf, tags: _Tags) -> Response:
    """The load rows of these motors."""
    text = exchange.to_csv(_sheet(store, tags).rows)
    return Response(text, media_type="text/csv", headers={"content-disposition": 'attachment; filename="loads.csv"'})


@router.get("/loads.svg")
def as_picture(
    store: StoreOf, notation: Written, tags: _Tags, chart: Annotated[str, Query(max_length=40)] = ""
) -> Response:
    """The chart of these motors, to be put into another document."""
    found = _sheet(store, tags)
    kinds = kinds_of(found.rows)
    if not kinds:
        raise missing("There is nothing to draw: no two load rows of these motors.")
    drawn = load_chart(found.rows, found.motors, chart if chart in kinds else kinds[0])
    named = {"content-disposition": 'attachment; filename="loads.svg"'}
    return Response(rendered(notation, "loads/loads.svg", chart=drawn), media_type="image/svg+xml", headers=named)


def _sheet(store: Store, tags: str) -> pit.LoadSheet:
    try:
        return read(store, pit.sheet, [t.strip() for t in tags.split(",") if t.strip()])
    except InputError as refused:
        raise missing(f"{refused.sentence[0].upper()}{refused.sentence[1:]}.") from refused
