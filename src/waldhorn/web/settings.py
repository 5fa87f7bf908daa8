"""Settings: keys of the API."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.store import api_keys
from waldhorn.web.pages import Now, StoreOf, Typed, go, page

router = APIRouter()
LONGEST_NAME = 60


@router.get("/settings")
def settings(request: Request, store: StoreOf) -> HTMLResponse:
    """The keys that stand."""
    with store.reading() as session:
        return page(request, "settings.html", keys=api_keys.standing(session), made="", wrong={})


@router.post("/settings/keys")
def make(request: Request, store: StoreOf, now: Now, typed: Typed) -> HTMLResponse:
    """Make a key and show it, this once."""
    name = typed.get("name", "").strip()
    with store.writing() as session:
        if not name or len(name) > LONGEST_NAME:
            wrong = {"name": f"say what the key is for, {LONGEST_NAME} signs at most"}
            return page(request, "settings.html", 422, keys=api_keys.standing(session), made="", wrong=wrong)
        made = api_keys.make(session, name, now)
        return page(request, "settings.html", keys=api_keys.standing(session), made=made, wrong={})


@router.post("/settings/keys/{key_id}/withdraw")
def withdraw(request: Request, store: StoreOf, now: Now, key_id: str) -> Response:
    """Let a key open nothing any more."""
    with store.writing() as session:
        api_keys.withdraw(session, key_id, now)
    return go(request, "/settings")
