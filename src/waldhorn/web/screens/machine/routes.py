"""The machines, and which motor on one of them shakes."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputErrors
from waldhorn.pit.motors import machines as pit
from waldhorn.pit.writing import changing
from waldhorn.store import drafts
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, missing, page
from waldhorn.web.drawing.from_above import box, spots

router = APIRouter()
SCREENFUL = 24  # machines


@router.get("/machines")
def machines(request: Request, store: StoreOf, start: Annotated[int, Query(ge=0)] = 0) -> HTMLResponse:
    """A screenful of the machines that a motor sits on, the one with the worst news first."""
    with store.reading() as session:
        found = list(pit.fleet_of(session).items())
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
    with store.reading() as session:
        typed = drafts.of_form(session, pit.draft_form(name))
        found = pit.view(session, name, typed, now)
        if found is None:
            raise missing(f"No motor sits on a machine {name[:60]}.")
        return page(request, "machine/machine.html", typed=typed, wrong={}, said=said[:200], **_shown(found))


@router.post("/machines/{name:path}/draft")
def draft(request: Request, store: StoreOf, by: By, now: Now, name: str, typed: Typed) -> HTMLResponse:
    """Keep what is typed and rank what there is."""
    with store.writing(by) as session:
        drafts.keep_form(session, pit.draft_form(name), {k: v[:60] for k, v in typed.items()})
    with store.reading() as session:
        found = pit.view(session, name, typed, now)
        if found is None:
            raise missing(f"No motor sits on a machine {name[:60]}.")
        return page(request, "machine/_ranking.html", **_shown(found))


@router.post("/machines/{name:path}")
def take_shaking(request: Request, store: StoreOf, by: By, now: Now, name: str, typed: Typed) -> Response:
    """Store how much each motor shakes."""
    try:
        with changing(store, by) as session:
            pit.take_shaking(session, name, typed, now)
            drafts.keep_form(session, pit.draft_form(name), {})
    except InputErrors as refusals:
        with store.reading() as session:
            found = pit.view(session, name, typed, now)
            if found is None:
                raise missing(f"No motor sits on a machine {name[:60]}.") from refusals
            return page(
                request, "machine/machine.html", 422, typed=typed, wrong=refusals.by_field, said="", **_shown(found)
            )
    return go(request, address("machines", name, said="kept"))


def _shown(found: pit.MachineView) -> dict[str, Any]:
    seen = spots(found)
    return {"machine": found, "ways": pit.WAYS, "spots": seen, "box": box(seen)}
