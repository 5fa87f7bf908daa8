"""The machines, and which motor on one of them shakes."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputErrors
from waldhorn.pit.motors import machines as pit
from waldhorn.pit.writing import read, write
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, page
from waldhorn.web.drawing.from_above import box, spots

router = APIRouter()
SCREENFUL = 24  # machines


@router.get("/machines")
def machines(request: Request, store: StoreOf, start: Annotated[int, Query(ge=0)] = 0) -> HTMLResponse:
    """A screenful of the machines that a motor sits on, the one with the worst news first."""
    found = list(read(store, pit.fleet_of).items())
    return page(
        request,
        "machine/machines.html",
        machines=found[start : start + SCREENFUL],
        count=len(found),
        following=start + SCREENFUL if len(found) > start + SCREENFUL else None,
    )


@router.get("/machines/{name:path}")
def machine(request: Request, store: StoreOf, now: Now, name: str, said: str = "") -> Response:
    """All motors of a machine; without a name, all machines."""
    if not name.strip():
        return go(request, "/machines")
    found = read(store, pit.view, name, now)
    return page(request, "machine/machine.html", wrong={}, said=said[:200], **_shown(found))


@router.post("/machines/{name:path}/draft")
def draft(request: Request, store: StoreOf, by: By, name: str, typed: Typed) -> HTMLResponse:
    """Keep what is typed and rank what there is."""
    write(store, by, pit.keep_draft, name, typed)
    return page(request, "machine/_ranking.html", **_shown(read(store, pit.view, name, by.at, typed)))


@router.post("/machines/{name:path}")
def take_shaking(request: Request, store: StoreOf, by: By, name: str, typed: Typed) -> Response:
    """Store how much each motor shakes."""
    try:
        write(store, by, pit.take_shaking, name, typed, by.at)
    except InputErrors as refusals:
        found = read(store, pit.view, name, by.at, typed)
        return page(request, "machine/machine.html", 422, wrong=refusals.by_field, said="", **_shown(found))
    return go(request, address("machines", name, said="kept"))


def _shown(found: pit.MachineView) -> dict[str, Any]:
    seen = spots(found)
    return {"machine": found, "typed": found.typed, "ways": pit.WAYS, "spots": seen, "box": box(seen)}
