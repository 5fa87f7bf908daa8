"""Models: all motors of one beside each other."""

from collections.abc import Mapping
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputErrors
from waldhorn.core.comparing.differences import MOST_MOTORS
from waldhorn.pit.between import scoring
from waldhorn.pit.motors import models as pit
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, missing, page

router = APIRouter()


@router.post("/models/{name:path}/facts")
def say_of_all(request: Request, store: StoreOf, by: By, name: str, typed: Typed) -> Response:
    """Say one fact of every motor of the model of which nobody has said it."""
    try:
        said = write(store, by, pit.say_of_all, name, typed, by.at)
    except InputErrors as refusals:
        return _page(request, store, by.at, name, refusals.by_field, typed)
    return go(request, address("models", name, said=str(said)))


@router.get("/models/{name:path}")
def model(
    request: Request, store: StoreOf, now: Now, name: str, said: Annotated[int, Query(ge=0, le=100_000)] = 0
) -> HTMLResponse:
    """All motors of a model, how far apart they are, and how the label fits; of how many a fact was `said` just now."""
    return _page(request, store, now, name, {}, {}, said)


def _page(
    request: Request,
    store: Store,
    now: datetime,
    name: str,
    wrong: Mapping[str, str],
    typed: Mapping[str, str],
    said: int = 0,
) -> HTMLResponse:
    found = read(store, pit.view, name, now)
    if found is None:
        raise missing(f"No motor of a model {name} hangs on this rack.")
    scores = read(store, scoring.of_model, found.name, now)
    return page(
        request,
        "model/model.html",
        422 if wrong else 200,
        model=found,
        most=MOST_MOTORS,
        scores=scores,
        facts=pit.OF_A_MODEL,
        wrong=wrong,
        typed=typed,
        said=said,
    )
