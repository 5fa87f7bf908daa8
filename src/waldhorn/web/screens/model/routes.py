"""Models: all motors of one beside each other."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from waldhorn.core.comparing.differences import MOST_MOTORS
from waldhorn.pit.between import scoring
from waldhorn.pit.motors import models as pit
from waldhorn.pit.writing import read
from waldhorn.web.common.pages import Now, StoreOf, missing, page

router = APIRouter()


@router.get("/models/{name:path}")
def model(request: Request, store: StoreOf, now: Now, name: str) -> HTMLResponse:
    """All motors of a model, how far apart they are, and how the label fits."""
    found = read(store, pit.view, name, now)
    if found is None:
        raise missing(f"No motor of a model {name} hangs on this rack.")
    scores = read(store, scoring.of_model, found.name, now)
    return page(request, "model/model.html", model=found, most=MOST_MOTORS, scores=scores)
