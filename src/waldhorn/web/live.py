"""The live run: choose an instrument, confirm the caution, step up, watch, stop."""

import json
from collections.abc import AsyncIterator
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response, StreamingResponse
from starlette.concurrency import run_in_threadpool

from waldhorn.core.errors import Refused
from waldhorn.core.inspection import hold_share
from waldhorn.core.noticed import looked_at
from waldhorn.pit import taking
from waldhorn.store.engine import Store
from waldhorn.web.bench import CheckId, desk_of, values
from waldhorn.web.hub import Hub, hub_of
from waldhorn.web.pages import Now, StoreOf, Typed, go, now, page

router = APIRouter(prefix="/checks/{check_id}/live")
SIMULATED = "simulated"


@router.get("")
def live(request: Request, store: StoreOf, now: Now, check_id: CheckId) -> HTMLResponse:
    """The live page."""
    return _page(request, store, now, check_id, {})


@router.get("/meaning")
def meaning(request: Request, store: StoreOf, now: Now, check_id: CheckId) -> HTMLResponse:
    """What has been captured so far, and what it means."""
    with store.reading() as session:
        return page(request, "_live_meaning.html", **values(session, check_id, now, "pull"))


@router.post("/connect")
async def connect(request: Request, store: StoreOf, check_id: CheckId, typed: Typed) -> Response:
    """Connect an instrument: the simulated one, started here, or one on a port."""
    hub, where = hub_of(request), typed.get("instrument", "").strip()
    try:
        desk = await run_in_threadpool(_facts, store, check_id)
        where = await hub.simulated(desk["motor"], check_id) if where == SIMULATED else where
        live = await hub.live(check_id, store, desk["hold_share"], desk["motor"].poles)
        await live.connect(where[:200])
    except Refused as refused:
        return await run_in_threadpool(_page, request, store, now(), check_id, {"instrument": refused.sentence}, 422)
    return go(request, f"/checks/{check_id}/live")


@router.post("/caution")
def caution(request: Request, store: StoreOf, now: Now, check_id: CheckId) -> Response:
    """Confirm the caution, once a check."""
    with store.writing() as session:
        taking.confirm_caution(desk_of(session, check_id, now))
    return go(request, f"/checks/{check_id}/live")


@router.post("/do")
async def do(request: Request, store: StoreOf, check_id: CheckId, typed: Typed) -> Response:
    """Go to a step, stop, sweep, take again, let go."""
    live = hub_of(request).runs.get(check_id)
    what = typed.get("what", "")
    try:
        if live is None:
            raise Refused("live", "no instrument is connected: choose one first")
        if what == "stop":
            live.stop()
        elif what == "again":
            live.take_again()
        elif what == "disconnect":
            await live.close()
        elif what in ("step", "sweep"):
            await run_in_threadpool(_may_spin, store, check_id)
            live.sweep() if what == "sweep" else live.go_to(int(typed.get("step", "0") or 0))
        else:
            raise Refused("live", "step, stop, sweep, again or disconnect")
    except Refused as refused:
        return Response(refused.sentence, 422, media_type="text/plain; charset=utf-8")
    except ValueError:
        return Response("a step is a number from 0 to 8", 422, media_type="text/plain; charset=utf-8")
    return Response(status_code=204)


@router.get("/recording")
def recording(request: Request, check_id: CheckId) -> Response:
    """What the instrument said lately, line by line as it came, to be kept and replayed."""
    live = hub_of(request).runs.get(check_id)
    heard = b"".join(live.recording) if live else b""
    name = f'attachment; filename="check-{check_id}.ndjson"'
    return Response(heard, media_type="application/x-ndjson", headers={"Content-Disposition": name})


@router.get("/stream")
async def stream(request: Request, store: StoreOf, check_id: CheckId) -> StreamingResponse:
    """Everything the instrument says, as it says it."""
    hub = hub_of(request)
    live = await hub.live(check_id, store)
    queue = live.subscribe()

    async def told() -> AsyncIterator[bytes]:
        try:
            while not hub.closing.is_set():
                event = await hub.next_of(queue)
                if event is None:
                    yield b": still here\n\n"
                    continue
                yield b"data: " + json.dumps(event).encode() + b"\n\n"
        finally:
            live.unsubscribe(queue)

    return StreamingResponse(told(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})


def _facts(store: Store, check_id: int) -> dict[str, Any]:
    with store.reading() as session:
        desk = desk_of(session, check_id, now())
        return {"motor": desk.motor, "hold_share": hold_share(looked_at(desk.history))}


def _may_spin(store: Store, check_id: int) -> None:
    with store.reading() as session:
        taking.may_spin(desk_of(session, check_id, now()))


def _page(
    request: Request, store: Store, at: Any, check_id: int, wrong: dict[str, str], status: int = 200
) -> HTMLResponse:
    hub: Hub = hub_of(request)
    running = hub.runs.get(check_id)
    with store.reading() as session:
        shown = values(session, check_id, at, "pull")
        desk = shown["bench"].desk
        shown["wrong"] = shown["wrong"] | wrong
        return page(request, "live.html", status, **shown, confirmed=desk.said(taking.CAUTION) == "confirmed",
                    live=running.state if running else None)  # fmt: skip
