"""Rigs: what each is worth."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from waldhorn.pit import rigs as pit
from waldhorn.store import rigs as store_rigs
from waldhorn.web.pages import Now, StoreOf, missing, page

router = APIRouter()


@router.get("/rigs")
def rigs(request: Request, store: StoreOf) -> HTMLResponse:
    """Every rig that readings name."""
    with store.reading() as session:
        return page(request, "rigs.html", rigs=store_rigs.uses(session))


@router.get("/rigs/{name}")
def rig(request: Request, store: StoreOf, now: Now, name: str) -> HTMLResponse:
    """One rig: how well it repeats, what rests on it, and how it compares with the others."""
    with store.reading() as session:
        found = pit.view(session, name, now)
        if found is None:
            raise missing(f"No reading names a rig {name}.")
        return page(request, "rig.html", rig=found)
