"""Who else is let in: opening the pit to the local network, passphrases, seats."""

from typing import TYPE_CHECKING

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool

from waldhorn.core.base.errors import InputError
from waldhorn.pit.settings import seats as pit
from waldhorn.store import backups, seats
from waldhorn.store.engine import Store
from waldhorn.store.seats import Role
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
        with store.reading() as session:
            pit.lets_somebody_in(session)
        addresses = of_local_network()
        if typed.get("tls") != "yes":
            return addresses, None
        from waldhorn.pit.settings.certificate import of_pit

        return addresses, of_pit(backups.file_of(store), addresses, now)

    try:
        addresses, certificate = await run_in_threadpool(found)
        await opening.open(request.app, addresses, certificate)
    except InputError as refused:
        return await run_in_threadpool(_refused, request, store, {"open": refused.sentence})
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
def set_passphrase(request: Request, store: StoreOf, by: By, now: Now, typed: Typed) -> Response:
    """Set the passphrase of a role: the one that was typed, or one that is made and shown this once."""
    role = _role(typed.get("role", ""))
    made = pit.suggested() if typed.get("make") else ""
    try:
        with store.writing(by) as session:
            pit.set_passphrase(session, role, made or typed.get("passphrase", ""), now)
    except InputError as refused:
        return _refused(request, store, {"passphrase": refused.sentence}, role)
    _put_out_role(request)
    with store.reading() as session:
        return draw(request, store, session, phrase=made or "as you typed it", of_role=role)


@router.post("/passphrases/{role}/drop")
def drop_passphrase(request: Request, store: StoreOf, by: By, now: Now, role: str) -> Response:
    """Let in nobody any more in this role."""
    with store.writing(by) as session:
        seats.drop_passphrase(session, _role(role), now)
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
    with store.reading() as session:
        for seat_id in seats.put_out_among(session, {s.seat.id for s in presence.screens}):
            presence.put_out(seat_id)


def _role(name: str) -> Role:
    if name not in tuple(Role):
        raise missing(f"There is no role {name[:20]}: {', '.join(Role)}.")
    return Role(name)


def _refused(request: Request, store: Store, wrong: dict[str, str], role: str = "") -> Response:
    with store.reading() as session:
        return draw(request, store, session, 422, wrong=wrong, of_role=role)
