"""The bench: one screen from taking a motor in hand to hanging it back. Here: the page, typing, taking, undoing."""

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import Refused
from waldhorn.pit.bench import checks, stepper, undoing
from waldhorn.pit.bench import view as pit
from waldhorn.pit.judging.unit_of_work import changing
from waldhorn.pit.judging.view_cache import at_bench
from waldhorn.store import acts, readings
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import AS_SHOWN, Typed, announce, as_shown, go, is_htmx, lately, missing, page
from waldhorn.web.screens.bench.view import Seated, act, context_of, drawn_values, refused, step_named, values

router = APIRouter()


@router.get("/checks/{check_id}")
def bench(seat: Seated, step: str = "", undone: bool = False) -> HTMLResponse:
    """The bench as it stands; `step` goes back to one of its steps."""
    with seat.store.reading() as session:
        ctx = context_of(session, seat.check_id, seat.now, step, at_bench)
        shown = values(session, ctx, step)
        act = acts.last(session, ctx.motor_id, undone=True) if undone else shown["last_act"]
    shown |= lately(act, seat.now, "") | {"did_undo": address("checks", seat.check_id, "undo")}
    return page(seat.request, "bench/check.html", **shown)


@router.get("/checks/{check_id}/steps/{step}")
def reload(seat: Seated, step: str) -> Response:
    """A step that was posted to and is loaded again: back to the bench at that step."""
    return go(seat.request, address("checks", seat.check_id, step=step_named(step).name))


@router.post("/checks/{check_id}/steps/{step}/draft")
def draft(seat: Seated, step: str, typed: Typed) -> HTMLResponse:
    """Keep what is typed and say what it means."""
    one = step_named(step)
    cut = {k: v[:60_000] for k, v in typed.items() if k != AS_SHOWN}
    with seat.store.writing() as session:
        elsewhere = checks.keep_draft(session, seat.check_id, step, cut, seat.request.state.form_id)
    with seat.store.reading() as session:
        ctx = context_of(session, seat.check_id, seat.now, step, at_bench)
        late = typed.get("run") not in (None, str(one.next_run(ctx)))
        mine = checks.typed_so_far(session, ctx, one) if late else {n: v for n, v in cut.items() if n != "run"}
    shown = drawn_values(pit.view(ctx, mine, step))
    shown["wrong"] = elsewhere | dict(shown["wrong"])
    return announce(page(seat.request, "bench/_bench_live.html", **shown), shown["judgement"].headline)


@router.post("/checks/{check_id}/steps/{step}")
def take(seat: Seated, step: str, typed: Typed) -> Response:
    """Take what was typed into a step."""
    chosen = step_named(step)
    if chosen is stepper.ANSWER:
        raise missing("There is nothing to take in this step.")
    shown = as_shown(typed)
    return act(seat, lambda session, ctx: checks.take(session, ctx, chosen, typed, shown), step, typed)


@router.post("/checks/{check_id}/undo")
def undo(seat: Seated, typed: Typed) -> Response:
    """Undo the act that is named, where it is the last; undoing the opening goes back to the motor's page."""
    try:
        with changing(seat.store, seat.now) as session:
            ctx = context_of(session, seat.check_id, seat.now)
            words = undoing.undo_last(session, ctx.motor_id, seat.now, typed.get("act", ""))
            gone = readings.check(session, seat.check_id) is None
    except Refused as error:
        return refused(seat, {"undo": error.sentence}, "", {})
    if gone:
        return go(seat.request, address("motors", ctx.motor.tag, undone="1"))
    with seat.store.reading() as session:
        shown = values(session, context_of(session, seat.check_id, seat.now), "")
    if not is_htmx(seat.request):
        return go(seat.request, address("checks", seat.check_id, undone="1"))
    return announce(page(seat.request, "bench/_bench.html", **shown), said := f"Undone: {words}.", said)
