"""Settings: the pit and its units, keys of the API, the store's file and its backups. Who else is let in: `others`."""

from collections import Counter
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputErrors
from waldhorn.core.base.units import CHOICES
from waldhorn.pit.settings import pit as pit
from waldhorn.pit.settings.seats import ROLE_WORDS
from waldhorn.store import api_keys, backups, motors, rigs, seats
from waldhorn.store import pit as pit_store
from waldhorn.store.engine import Store
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, now, page
from waldhorn.web.common.presence import presence_of

router = APIRouter()
LONGEST_NAME = 60
_SHOWN = 5


@router.get("/settings")
def settings(request: Request, store: StoreOf, kept: bool = False) -> HTMLResponse:
    """The settings as they are."""
    with store.reading() as session:
        return draw(request, store, session, saved=kept)


@router.post("/settings")
def keep_settings(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Keep the settings."""
    try:
        with store.writing(by) as session:
            request.app.state.pit = pit.change_settings(session, typed)
    except InputErrors as refusals:
        with store.reading() as session:
            return draw(request, store, session, 422, typed=typed, wrong=refusals.by_field)
    return go(request, "/settings?kept=1")


@router.post("/settings/backup")
def back_up(request: Request, store: StoreOf, now: Now) -> Response:
    """Write a backup beside the store."""
    backups.back_up(store, now)
    return go(request, "/settings#backups")


@router.post("/settings/keys")
def make(request: Request, store: StoreOf, by: By, now: Now, typed: Typed) -> HTMLResponse:
    """Make a key and show it, this once."""
    name = typed.get("key_name", "").strip()
    with store.writing(by) as session:
        if not name or len(name) > LONGEST_NAME:
            wrong = {"key_name": f"say what the key is for, {LONGEST_NAME} signs at most"}
            return draw(request, store, session, 422, wrong=wrong)
        made = api_keys.make(session, name, now)
        return draw(request, store, session, made=made)


@router.post("/settings/keys/{key_id}/withdraw")
def withdraw(request: Request, store: StoreOf, by: By, now: Now, key_id: str) -> Response:
    """Let a key open nothing any more."""
    with store.writing(by) as session:
        api_keys.withdraw(session, key_id, now)
    return go(request, "/settings#programs")


def draw(request: Request, store: Store, session: Session, status: int = 200, **more: Any) -> HTMLResponse:
    """The page with the settings as they stand, or as they were typed."""
    shown = pit.typed_of(pit_store.load(session)) | more.pop("typed", {})
    copies, file = backups.copies(store), backups.file_of(store)
    return page(
        request,
        "settings/settings.html",
        status,
        **{
            "keys": api_keys.standing(session),
            "made": "",
            "wrong": {},
            "saved": False,
            "typed": shown,
            "units": CHOICES,
            "themes": pit.THEMES,
            "classes": motors.known_values(session, "motor_class"),
            "held_down": pit.HELD_DOWN,
            "rigs": [u.name for u in rigs.uses(session)],
            "file": file,
            "size": file.stat().st_size if file.exists() else 0,
            "copies": copies[:_SHOWN],
            "folder": backups.folder_of(store),
            "count": len(copies),
            "roles": ROLE_WORDS,
            "passphrases": seats.roles(session),
            "seats": seats.standing(session, now()),
            "here": Counter(s.seat.id for s in presence_of(request).screens),
            "phrase": "",
            "of_role": "",
        }
        | more,
    )
