"""Who else is let in: opening the pit to the local network, passphrases, seats."""

from datetime import datetime
from typing import TYPE_CHECKING

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool

from waldhorn.core.base.errors import InputError
from waldhorn.pit.settings import seats as pit
from waldhorn.pit.settings.seats import Role
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.access import is_own_machine
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, missing
from waldhorn.web.opening import Opening, of_local_network
from waldhorn.web.screens.join.routes import put_out
from waldhorn.web.screens.settings.routes import draw

if TYPE_CHECKING:
    from waldhorn.pit.settings.certificate import Certificate

router = APIRouter(prefix="/settings")
_BACK = "/settings#others"


@router.post("/open")
async def open_pit(request: Request, store: StoreOf, now: Now, typed: Typed) -> Response:
    """Listen on the local network too."""
    opening: Opening = request.app.state.opening

    def found() -> "tuple[list[str], Certificate | None]":
        read(store, pit.lets_somebody_in)
        addresses = of_local_network()
        if typed.get("tls") != "yes":
            return addresses, None
        from waldhorn.pit.settings.certificate import of_pit

        return addresses, of_pit(store.file.path, addresses, now)

    try:
        addresses, certificate = await run_in_threadpool(found)
        await opening.open(request.app, addresses, certificate)
    except InputError as refused:
        return await run_in_threadpool(_refused, request, store, now, {"open": refused.sentence})
    return go(request, "/join")


@router.post("/shut")
async def shut_pit(request: Request) -> Response:
    """Listen on this machine only; who asks for it from outside is answered first."""
    opening: Opening = request.app.state.opening
    if is_own_machine(request.scope):
        await opening.shut()
        return go(request, _BACK)
    shutting = BackgroundTask(opening.shut_soon)
    return Response("It is shut: only its own machine reaches this pit now.", background=shutting)


@router.post("/passphrases")
def set_passphrase(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Set the passphrase of a role: the one that was typed, or one that is made and shown this once."""
    role = _role(typed.get("role", ""))
    made = pit.suggested() if typed.get("make") else ""
    try:
        write(store, by, pit.set_passphrase, role, made or typed.get("passphrase", ""), by.at)
    except InputError as refused:
        return _refused(request, store, by.at, {"passphrase": refused.sentence}, role)
    _put_out_role(request)
    return draw(request, store, by.at, phrase=made or "as you typed it", of_role=role)


@router.post("/passphrases/{role}/drop")
def drop_passphrase(request: Request, store: StoreOf, by: By, role: str) -> Response:
    """Let in nobody any more in this role."""
    write(store, by, pit.drop_passphrase, _role(role), by.at)
    _put_out_role(request)
    return go(request, _BACK)


@router.post("/seats/{seat_id}/put-out")
def put_out_seat(request: Request, store: StoreOf, by: By, seat_id: str) -> Response:
    """Take a seat from its device."""
    put_out(request, store, seat_id, by)
    return go(request, _BACK)


def _put_out_role(request: Request) -> None:
    """Whoever sat there joins anew: read every seat again, and end the streams of those that are gone."""
    request.app.state.seated.forget()
    presence, store = request.app.state.presence, request.app.state.store
    for seat_id in read(store, pit.put_out_among, {s.seat.id for s in presence.screens}):
        presence.put_out(seat_id)


def _role(name: str) -> Role:
    if name not in tuple(Role):
        raise missing(f"There is no role {name[:20]}: {', '.join(Role)}.")
    return Role(name)


def _refused(request: Request, store: Store, now: datetime, wrong: dict[str, str], role: str = "") -> Response:
    return draw(request, store, now, 422, wrong=wrong, of_role=role)
