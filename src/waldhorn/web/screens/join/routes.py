"""The page where one joins: on a device without a seat it asks who one is, on others it shows what they scan."""

from threading import BoundedSemaphore
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from waldhorn.core.base.errors import InputError
from waldhorn.pit.settings import seats as pit
from waldhorn.pit.writing import Store, Writing, write
from waldhorn.web.common import access, guard
from waldhorn.web.common.addresses import own_place
from waldhorn.web.common.pages import By, StoreOf, Typed, is_secure, page
from waldhorn.web.drawing.qr import qr

router = APIRouter()
Back = Annotated[str, Query(max_length=400)]
_hashing = BoundedSemaphore(2)  # each takes 64 MiB and a core for a moment


@router.get("/join")
def join(request: Request, back: Back = "/") -> HTMLResponse:
    """How to join, or who is asking."""
    return _page(request, back)


@router.post("/join")
def take_seat(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Give the device a seat, where the passphrase is right."""
    back, address = typed.get("back", "/"), request.client.host if request.client else ""
    tries = request.app.state.limits.tries
    if wait := tries.wait_s(address):
        words = f"Too many were wrong from this device: try again in {_in_words(wait)}."
        return _page(request, back, 429, typed=typed, wrong={"passphrase": words}, retry_s=int(wait) + 1)
    try:
        pit.name_of(typed.get("name", ""))
        with _hashing:
            found = pit.join(store, by, typed.get("name", ""), typed.get("passphrase", ""), _device(request))
    except InputError as refused:
        return _page(request, back, 422, typed=typed, wrong={refused.field: refused.sentence})
    if found is None:
        tries.was_wrong(address)
        return _page(request, back, 422, typed=typed, wrong={"passphrase": "This passphrase lets in nobody."})
    tries.was_right(address)
    if former := access.seat_of(request).id:  # a device has one seat
        put_out(request, store, former, by)
    answer = RedirectResponse(_local(request, back), 303)
    answer.delete_cookie(guard.COOKIE)  # a seat begins with a token of its own
    answer.set_cookie(
        access.SEAT_COOKIE,
        found[1],
        max_age=int(pit.LASTS.total_seconds()),
        httponly=True,
        samesite="lax",  # the link that was scanned opens as one's own
        secure=is_secure(request),
    )
    return answer


@router.post("/leave")
def leave(request: Request, store: StoreOf, by: By) -> Response:
    """Give the seat back."""
    put_out(request, store, access.seat_of(request).id, by)
    answer = RedirectResponse("/join", 303)
    answer.delete_cookie(access.SEAT_COOKIE)
    answer.delete_cookie(guard.COOKIE)
    return answer


def put_out(request: Request, store: Store, seat_id: str, by: Writing) -> None:
    """Take a seat away, at once and on every page that is open there."""
    if not seat_id:
        return
    write(store, by, pit.put_out, seat_id, by.at)
    request.app.state.seated.forget()
    request.app.state.presence.put_out(seat_id)


def _page(request: Request, back: str, status: int = 200, **more: Any) -> HTMLResponse:
    opening = request.app.state.opening
    has_seat = bool(access.seat_of(request).id) or access.is_own_machine(request.scope)
    shown = {
        "back": _local(request, back),
        "typed": {},
        "wrong": {},
        "has_seat": has_seat,
        "codes": [(url, qr(f"{url}/join")) for url in opening.urls],
    }
    answer = page(request, "join/join.html", status, **shown | more)
    if more.get("retry_s"):
        answer.headers["Retry-After"] = str(more["retry_s"])
    return answer


def _local(request: Request, path: str) -> str:
    """A place of this pit; anything else is the rack."""
    place = own_place(path, request.app.routes)
    return place if place and not place.startswith(("/join", "/leave")) else "/"


def _device(request: Request) -> str:
    """What kind of device a browser says it runs on."""
    return "phone" if "Mobile" in request.headers.get("user-agent", "") else "computer"


def _in_words(seconds: float) -> str:
    return f"{round(seconds / 60)} minutes" if seconds > 90 else f"{int(seconds) + 1} seconds"
