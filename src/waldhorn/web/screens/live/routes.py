"""The live run: choose an instrument, confirm the caution, go up, watch, stop."""

import json
from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response, StreamingResponse
from starlette.concurrency import run_in_threadpool

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.units import Notation, read_number
from waldhorn.instruments.line_format import LineFormat
from waldhorn.instruments.line_protocol import USUAL_SETTINGS
from waldhorn.pit.bench import bench, checks, stepper, taking
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.words import ceiling_words
from waldhorn.pit.settings import instruments
from waldhorn.pit.writing import read
from waldhorn.web.common.access import seat_of
from waldhorn.web.common.addresses import address, attachment
from waldhorn.web.common.pages import StoreOf, Typed, go, notation_of, page
from waldhorn.web.screens.bench.view import Asked, CheckId, RequestContext, values
from waldhorn.web.screens.live.hub import hub_of

router = APIRouter(prefix="/checks/{check_id}/live")
SIMULATED = "simulated"
PULL = "pull"


@router.get("")
def live(asked: Asked) -> HTMLResponse:
    """The live page."""
    return _page(asked, {})


@router.get("/meaning")
def meaning(asked: Asked) -> HTMLResponse:
    """What has been captured so far, and what it means."""
    shown = bench.look(asked.store, asked.check_id, asked.now, PULL)
    return page(asked.request, "live/_live_meaning.html", **values(shown))


@router.post("/connect")
async def connect(asked: Asked, typed: Typed) -> Response:
    """Connect an instrument: the simulated one, started here, or one on a port."""
    hub, where = hub_of(asked.request), typed.get("instrument", "").strip()
    try:
        ctx = await run_in_threadpool(_context, asked)
        line_format = await run_in_threadpool(_line_format, asked, typed.get("recipe", ""))
        clamped = ctx.motor if where == SIMULATED else None
        await hub.connect(
            asked.check_id, asked.store, asked.by.who, taking.envelope_of(ctx), where[:200], line_format, clamped
        )
    except InputError as refused:
        return await run_in_threadpool(_page, asked, {"instrument": refused.sentence}, 422)
    return go(asked.request, address("checks", asked.check_id, "live"))


@router.post("/caution")
def caution(asked: Asked) -> Response:
    """Confirm the caution, once a check."""
    try:
        bench.carry_out(asked.store, asked.by, asked.check_id, PULL, taking.confirm_caution)
    except InputError as refused:
        return _page(asked, {"instrument": refused.sentence}, 422)
    return go(asked.request, address("checks", asked.check_id, "live"))


@router.post("/overrule")
def overrule(asked: Asked, typed: Typed) -> Response:
    """Let a rotor turn faster than rated, with a reason."""
    try:
        reason = typed.get("reason", "")
        bench.carry_out(
            asked.store,
            asked.by,
            asked.check_id,
            PULL,
            lambda session, ctx: checks.overrule(session, ctx, stepper.RATED_SPEED, reason),
        )
    except InputError as refused:
        return _page(asked, {"overrule": refused.sentence}, 422)
    return go(asked.request, address("checks", asked.check_id, "live"))


@router.post("/do")
async def do(asked: Asked, typed: Typed) -> Response:
    """Go to a setting, stop, sweep, take again, let go."""
    run = hub_of(asked.request).runs.get(asked.check_id)
    what = typed.get("what", "")
    try:
        if run is None:
            raise InputError("live", "no instrument is connected: choose one first")
        if what == "stop":
            run.stop()
        elif what == "again":
            run.take_again()
        elif what == "release":
            run.release()
        elif what == "disconnect":
            await run.close()
        elif what in ("throttle", "sweep"):
            ctx = await run_in_threadpool(_context, asked)
            pct = 0.0 if what == "sweep" else _percent(typed.get("pct", ""), notation_of(asked.request))
            taking.may_spin(ctx, pct, run.last)
            run.keep_within(taking.envelope_of(ctx))
            run.sweep() if what == "sweep" else run.go_to(pct)
        else:
            raise InputError("live", "throttle, stop, release, sweep, again or disconnect")
    except InputError as refused:
        return Response(refused.sentence, 422, media_type="text/plain; charset=utf-8")
    return Response(status_code=204)


def _percent(text: str, notation: Notation) -> float:
    return read_number(text, "throttle", "percent", 0, 100, notation)


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
    queue = run.subscribe(seat_of(request).may_change)

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


def _line_format(asked: RequestContext, name: str) -> LineFormat | None:
    line_format = read(asked.store, instruments.find, name) if name else None
    if line_format and line_format.missing:
        raise InputError(
            "instrument", f"{line_format.name} tells no {', '.join(line_format.missing)}: a run needs them"
        )
    return line_format


def _context(asked: RequestContext) -> CheckContext:
    return bench.context(asked.store, asked.check_id, asked.now)


def _page(asked: RequestContext, wrong: dict[str, str], status: int = 200) -> HTMLResponse:
    running = hub_of(asked.request).runs.get(asked.check_id)
    found = bench.look(asked.store, asked.check_id, asked.now, PULL)
    state = running.state if running else None
    limit = stepper.ceiling(found.ctx)
    shown = values(found) | {
        "ceiling": ceiling_words(limit) if limit else "",
        "wrong": {**found.wrong, **wrong},
        "live": state,
        "line_formats": [r.name for r in read(asked.store, instruments.all_of)],
        "by_hand": bool(running and running.line_format),
        "settings": state.settings if state else USUAL_SETTINGS,
    }
    return page(asked.request, "live/live.html", status, **shown)
