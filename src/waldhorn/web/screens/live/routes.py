"""The live run: choose an instrument, confirm the caution, go up, watch, stop."""

import json
from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response, StreamingResponse
from starlette.concurrency import run_in_threadpool

from waldhorn.core.base.errors import Refused
from waldhorn.core.base.units import read_number
from waldhorn.instruments.line_format import Recipe
from waldhorn.instruments.line_protocol import USUAL_SETTINGS
from waldhorn.pit.bench import checks, stepper, taking
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.words import ceiling_words
from waldhorn.pit.settings import instruments
from waldhorn.web.common.addresses import address, attachment
from waldhorn.web.common.pages import StoreOf, Typed, go, page
from waldhorn.web.screens.bench.view import CheckId, Seat, Seated, context_of, values
from waldhorn.web.screens.live.hub import hub_of

router = APIRouter(prefix="/checks/{check_id}/live")
SIMULATED = "simulated"
PULL = "pull"


@router.get("")
def live(seat: Seated) -> HTMLResponse:
    """The live page."""
    return _page(seat, {})


@router.get("/meaning")
def meaning(seat: Seated) -> HTMLResponse:
    """What has been captured so far, and what it means."""
    with seat.store.reading() as session:
        shown = values(session, context_of(session, seat.check_id, seat.now), PULL)
    return page(seat.request, "live/_live_meaning.html", **shown)


@router.post("/connect")
async def connect(seat: Seated, typed: Typed) -> Response:
    """Connect an instrument: the simulated one, started here, or one on a port."""
    hub, where = hub_of(seat.request), typed.get("instrument", "").strip()
    try:
        ctx = await run_in_threadpool(_context, seat)
        recipe = await run_in_threadpool(_recipe, seat, typed.get("recipe", ""))
        clamped = ctx.motor if where == SIMULATED else None
        await hub.connect(seat.check_id, seat.store, taking.envelope_of(ctx), where[:200], recipe, clamped)
    except Refused as refused:
        return await run_in_threadpool(_page, seat, {"instrument": refused.sentence}, 422)
    return go(seat.request, address("checks", seat.check_id, "live"))


@router.post("/caution")
def caution(seat: Seated) -> Response:
    """Confirm the caution, once a check."""
    try:
        with seat.store.writing() as session:
            taking.confirm_caution(session, context_of(session, seat.check_id, seat.now))
    except Refused as refused:
        return _page(seat, {"instrument": refused.sentence}, 422)
    return go(seat.request, address("checks", seat.check_id, "live"))


@router.post("/overrule")
def overrule(seat: Seated, typed: Typed) -> Response:
    """Let a rotor turn faster than rated, with a reason."""
    try:
        with seat.store.writing() as session:
            ctx = context_of(session, seat.check_id, seat.now)
            checks.overrule(session, ctx, stepper.RATED_SPEED, typed.get("reason", ""))
    except Refused as refused:
        return _page(seat, {"overrule": refused.sentence}, 422)
    return go(seat.request, address("checks", seat.check_id, "live"))


@router.post("/do")
async def do(seat: Seated, typed: Typed) -> Response:
    """Go to a setting, stop, sweep, take again, let go."""
    run = hub_of(seat.request).runs.get(seat.check_id)
    what = typed.get("what", "")
    try:
        if run is None:
            raise Refused("live", "no instrument is connected: choose one first")
        if what == "stop":
            run.stop()
        elif what == "again":
            run.take_again()
        elif what == "release":
            run.release()
        elif what == "disconnect":
            await run.close()
        elif what in ("throttle", "sweep"):
            ctx = await run_in_threadpool(_context, seat)
            pct = 0.0 if what == "sweep" else _percent(typed.get("pct", ""))
            taking.may_spin(ctx, pct, run.last)
            run.keep_within(taking.envelope_of(ctx))
            run.sweep() if what == "sweep" else run.go_to(pct)
        else:
            raise Refused("live", "throttle, stop, release, sweep, again or disconnect")
    except Refused as refused:
        return Response(refused.sentence, 422, media_type="text/plain; charset=utf-8")
    return Response(status_code=204)


def _percent(text: str) -> float:
    return read_number(text, "throttle", "percent", 0, 100)


@router.get("/recording")
def recording(request: Request, check_id: CheckId) -> Response:
    """What the instrument said lately, line by line as it came, to be kept and replayed."""
    run = hub_of(request).runs.get(check_id)
    heard = b"".join(run.recording) if run else b""
    return Response(heard, media_type="application/x-ndjson", headers=attachment(f"check-{check_id}.ndjson"))


@router.get("/stream")
async def stream(request: Request, store: StoreOf, check_id: CheckId) -> StreamingResponse:
    """Everything the instrument says, as it says it."""
    hub = hub_of(request)
    run = await hub.channel(check_id, store)
    queue = run.subscribe()

    async def told() -> AsyncIterator[bytes]:
        try:
            while not hub.closing.is_set():
                event = await hub.next_of(queue)
                if event is None:
                    yield b": still here\n\n"
                    continue
                yield b"data: " + json.dumps(event).encode() + b"\n\n"
        finally:
            run.unsubscribe(queue)

    return StreamingResponse(told(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})


def _recipe(seat: Seat, name: str) -> Recipe | None:
    with seat.store.reading() as session:
        recipe = instruments.find(session, name) if name else None
    if recipe and recipe.missing:
        raise Refused("instrument", f"{recipe.name} tells no {', '.join(recipe.missing)}: a run needs them")
    return recipe


def _context(seat: Seat) -> CheckContext:
    with seat.store.reading() as session:
        return context_of(session, seat.check_id, seat.now)


def _page(seat: Seat, wrong: dict[str, str], status: int = 200) -> HTMLResponse:
    running = hub_of(seat.request).runs.get(seat.check_id)
    with seat.store.reading() as session:
        shown = values(session, context_of(session, seat.check_id, seat.now), PULL)
        recipes = [r.name for r in instruments.all_of(session)]
    state = running.state if running else None
    limit = stepper.ceiling(shown["ctx"])
    shown |= {
        "ceiling": ceiling_words(limit) if limit else "",
        "wrong": {**shown["wrong"], **wrong},
        "live": state,
        "recipes": recipes,
        "by_hand": bool(running and running.recipe),
        "settings": state.settings if state else USUAL_SETTINGS,
    }
    return page(seat.request, "live/live.html", status, **shown)
