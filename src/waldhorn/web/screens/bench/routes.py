"""The bench: one screen from taking a motor in hand to hanging it back. Here: the page, typing, taking, undoing."""

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.pit.bench import bench as pit
from waldhorn.pit.bench import checks, stepper, typed_not_taken
from waldhorn.web.common.access import seat_of
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import (
    AS_SHOWN,
    Typed,
    announce,
    as_shown,
    drawn,
    go,
    is_htmx,
    lately,
    missing,
    page,
)
from waldhorn.web.common.presence import TOLD, presence_of
from waldhorn.web.screens.bench.view import Asked, carried_out, carry_out, refused, step_named, values

router = APIRouter()


@router.get("/checks/{check_id}")
def bench(asked: Asked, step: str = "", undone: bool = False) -> HTMLResponse:
    """The bench as it stands; `step` goes back to one of its steps."""
    watching = not seat_of(asked.request).may_change
    shown = pit.look(asked.store, asked.check_id, asked.now, step, undone, watching)
    did = lately(shown.undone or shown.last, asked.now, "") | {"did_undo": address("checks", asked.check_id, "undo")}
    return page(asked.request, "bench/check.html", **values(shown) | did)


@router.get("/checks/{check_id}/now")
def now(asked: Asked, step: str = "") -> HTMLResponse:
    """What of the bench follows when somebody else did something."""
    shown = pit.look(asked.store, asked.check_id, asked.now, step)
    return page(asked.request, "bench/_bench_now.html", **values(shown))


@router.get("/checks/{check_id}/steps")
def steps(asked: Asked) -> HTMLResponse:
    """Every step as it stands, for a page that is away from Waldhorn later."""
    views = pit.look_at_all(asked.store, asked.check_id, asked.now)
    work = {v.step.name: drawn(asked.request, "bench/_work.html", **values(v)) for v in views}
    return page(asked.request, "bench/_steps.html", steps=work)


@router.get("/checks/{check_id}/steps/{step}")
def reload(asked: Asked, step: str) -> Response:
    """A step that was posted to and is loaded again: back to the bench at that step."""
    return go(asked.request, address("checks", asked.check_id, step=step_named(step).name))


@router.post("/checks/{check_id}/steps/{step}/draft")
def draft(asked: Asked, step: str, typed: Typed) -> HTMLResponse:
    """Keep what is typed and say what it means."""
    mine = {name: value for name, value in typed.items() if name != AS_SHOWN}
    form = asked.request.state.form_id
    shown = pit.keep_typing(asked.store, asked.by, asked.check_id, step_named(step).name, mine, form)
    if shown.both_typed and TOLD not in asked.request.headers:
        # the other sees both values too, before the next key
        presence_of(asked.request).both_typed(asked.check_id, asked.by.screen)
    return announce(page(asked.request, "bench/_bench_live.html", **values(shown)), shown.judgement.headline)


@router.post("/checks/{check_id}/steps/{step}")
def take_step(asked: Asked, step: str, typed: Typed) -> Response:
    """Take what was typed into a step."""
    chosen = step_named(step)
    if chosen is stepper.ANSWER:
        raise missing("There is nothing to take in this step.")
    shown, form = as_shown(typed), asked.request.state.form_id
    return carry_out(
        asked, lambda session, ctx: checks.take_step(session, ctx, chosen, typed, shown, form), step, typed
    )


@router.post("/checks/{check_id}/steps/{step}/typed/take")
def take_typed(asked: Asked, step: str) -> Response:
    """Take what is typed into a step and was not taken, from the answer."""
    chosen = step_named(step)
    try:
        return carried_out(asked, lambda session, ctx: typed_not_taken.take(session, ctx, chosen), stepper.ANSWER.name)
    except (InputError, InputErrors) as error:
        return refused(asked, error, step, {})


@router.post("/checks/{check_id}/steps/{step}/typed/let-go")
def let_typed_go(asked: Asked, step: str) -> Response:
    """Let go of what is typed into a step and was not taken."""
    chosen = step_named(step)
    return carry_out(asked, lambda session, ctx: typed_not_taken.let_go(session, ctx, chosen), stepper.ANSWER.name, {})


@router.post("/checks/{check_id}/undo")
def undo(asked: Asked, typed: Typed) -> Response:
    """Undo the change that is named, where it is the last; undoing the opening goes back to the motor's page."""
    try:
        words, tag, shown = pit.undo(asked.store, asked.by, asked.check_id, typed.get("change", ""))
    except InputError as error:
        return refused(asked, error, "", {})
    if shown is None:
        return go(asked.request, address("motors", tag, undone="1"))
    if not is_htmx(asked.request):
        return go(asked.request, address("checks", asked.check_id, undone="1"))
    said = f"Undone: {words}."
    return announce(page(asked.request, "bench/_bench.html", **values(shown)), said, said)
