"""The stream of every open page, and handing a place from one screen to another."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse, HTMLResponse, Response, StreamingResponse

from waldhorn.web.common import static_files
from waldhorn.web.common.access import BENCH_SCREEN, LONGEST_SCREEN, seat_of
from waldhorn.web.common.addresses import own_place
from waldhorn.web.common.pages import Typed, is_htmx, page
from waldhorn.web.common.presence import Screen, TooMany, presence_of

router = APIRouter()
BENCH = "bench"  # the machine that serves the pit, among the seats a place is handed to
PlacePath = Annotated[str, Query(max_length=400)]


@router.get("/events")
async def events(
    request: Request,
    screen: Annotated[str, Query(max_length=LONGEST_SCREEN)],
    path: PlacePath = "/",
    at: Annotated[str, Query(max_length=80)] = "",
) -> Response:
    """What others do, as they do it."""
    presence = presence_of(request)
    try:
        entered = await presence.enter(screen, seat_of(request), path, at)
    except TooMany:
        return Response("More pages are open here than are kept in touch. Load this one again later.", 503)
    return StreamingResponse(
        presence.events(entered), media_type="text/event-stream", headers={"Cache-Control": "no-store"}
    )


@router.get(static_files.WORKER)
def worker() -> FileResponse:
    """The service worker, never older than this program."""
    file = static_files.FOLDER / "app" / "worker.js"
    return FileResponse(file, media_type="text/javascript", headers={"Cache-Control": "no-cache"})


@router.get("/screens")
def screens(request: Request, path: PlacePath = "/") -> HTMLResponse:
    """The other devices this place can be handed to, as buttons."""
    return page(request, "together/_screens.html", others=others(request), place=path, sent="")


@router.post("/screens/{seat_id}")
def hand(request: Request, seat_id: str, typed: Typed) -> Response:
    """Have a place opened on another device."""
    place = own_place(typed.get("path", "/")[:400], request.app.routes)
    if not place:
        return Response("Only a place of this pit can be handed over.", 422)
    presence, there = presence_of(request), others(request)
    at = presence.seated_at("" if seat_id == BENCH else seat_id)
    reached = presence.send(at[-1:], place, seat_of(request))
    said = f"It opens at {there.get(seat_id, 'the other one')}." if reached else "Nobody looks at that screen now."
    if not is_htmx(request):
        return page(request, "refused.html", words=said)
    if typed.get("quiet"):
        return HTMLResponse(said)
    return page(request, "together/_screens.html", others=others(request), place=place, sent=said)


def others(request: Request) -> dict[str, str]:
    """Who else looks at a page just now, by seat; the bench before all others."""
    mine = seat_of(request).id
    found: list[Screen] = [s for s in presence_of(request).screens if s.seat.id != mine]
    found.sort(key=lambda s: (bool(s.seat.id), s.seat.name))
    return {s.seat.id or BENCH: f"{s.seat.name}’s screen" if s.seat.id else BENCH_SCREEN for s in found}
