"""Settings: the pit and its units, keys of the API, the store's file and its backups. Who else is let in: `others`."""

from collections import Counter
from datetime import datetime
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.units import CHOICES
from waldhorn.pit.settings import keys, pit
from waldhorn.pit.settings.seats import ROLE_WORDS
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, page
from waldhorn.web.common.presence import presence_of

router = APIRouter()
_SHOWN = 5


@router.get("/settings")
def settings(request: Request, store: StoreOf, now: Now, kept: bool = False) -> HTMLResponse:
    """The settings as they are."""
    return draw(request, store, now, saved=kept)


@router.post("/settings")
def keep_settings(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Keep the settings."""
    try:
        request.app.state.pit = write(store, by, pit.change_settings, typed)
    except InputErrors as refusals:
        return draw(request, store, by.at, 422, typed=typed, wrong=refusals.by_field)
    return go(request, "/settings?kept=1")


@router.post("/settings/backup")
def back_up(request: Request, store: StoreOf, now: Now) -> Response:
    """Write a backup beside the store."""
    pit.back_up(store, now)
    return go(request, "/settings#backups")


@router.post("/settings/keys")
def make(request: Request, store: StoreOf, by: By, typed: Typed) -> HTMLResponse:
    """Make a key and show it, this once."""
    try:
        made = write(store, by, keys.make, typed.get("key_name", ""), by.at)
    except InputError as refused:
        return draw(request, store, by.at, 422, wrong={refused.field: refused.sentence})
    return draw(request, store, by.at, made=made)


@router.post("/settings/keys/{key_id}/withdraw")
def withdraw(request: Request, store: StoreOf, by: By, key_id: str) -> Response:
    """Let a key open nothing any more."""
    write(store, by, keys.withdraw, key_id, by.at)
    return go(request, "/settings#programs")


def draw(request: Request, store: Store, now: datetime, status: int = 200, **more: Any) -> HTMLResponse:
    """The page with the settings as they stand, or as they were typed."""
    found = read(store, pit.settings, store, now)
    shown = vars(found) | {
        "typed": {**found.typed, **more.pop("typed", {})},
        "copies": found.copies[:_SHOWN],
        "count": len(found.copies),
        "units": CHOICES,
        "themes": pit.THEMES,
        "held_down": pit.HELD_DOWN,
        "roles": ROLE_WORDS,
        "here": Counter(s.seat.id for s in presence_of(request).screens),
    }
    usual = {"made": "", "wrong": {}, "saved": False, "phrase": "", "of_role": ""}
    return page(request, "settings/settings.html", status, **shown | usual | more)
