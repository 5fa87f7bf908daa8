"""The bench: one screen from taking a motor in hand to hanging it back. Here: the page, typing, taking, undoing."""

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError
from waldhorn.pit.bench import bench as pit
from waldhorn.pit.bench import checks, stepper
from waldhorn.web.common.access import seat_of
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import AS_SHOWN, Typed, announce, as_shown, go, is_htmx, lately, missing, page
from waldhorn.web.common.presence import TOLD, presence_of
from waldhorn.web.screens.bench.view import Asked, carry_out, refused, step_named, values

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


@router.get("/checks/{check_id}/steps/{step}")
def reload(asked: Asked, step: str) -> Response:
    """A step that was posted to and is loaded again: back to the bench at that step."""
    return go(asked.request, address("checks", asked.check_id, step=step_named(step).name))


@router.post("/checks/{check_id}/steps/{step}/draft")
def draft(asked: Asked, step: str, typed: Typed) -> HTMLResponse:
    """Keep what is typed and say what it means."""
    mine = {name: value for name, value in typed.items() if name != AS_SHOWN}
    form = asked.request.state.form_id
    shown = pit.keep_typing(asked.store, asked.check_id, asked.now, step_named(step).name, mine, form)
    if shown.both_typed and TOLD not in asked.request.headers:
        presence_of(asked.request).both_typed(asked.check_id)  # the other sees both values too, before the next key
    return announce(page(asked.request, "bench/_bench_live.html", **values(shown)), shown.judgement.headline)


@router.post("/checks/{check_id}/steps/{step}")
def take_step(asked: Asked, step: str, typed: Typed) -> Response:
    """Take what was typed into a step."""
    chosen = step_named(step)
    if chosen is stepper.ANSWER:
        raise missing("There is nothing to take in this step.")
    shown = as_shown(typed)
    return carry_out(asked, lambda session, ctx: checks.take_step(session, ctx, chosen, typed, shown), step, typed)


@router.post("/checks/{check_id}/undo")
def undo(asked: Asked, typed: Typed) -> Response:
    """Undo the change that is named, where it is the last; undoing the opening goes back to the motor's page."""
    try:
        words, tag, shown = pit.undo(asked.store, asked.check_id, asked.now, typed.get("act", ""))
    except InputError as error:
        return refused(asked, error, "", {})
    if shown is None:
        return go(asked.request, address("motors", tag, undone="1"))
    if not is_htmx(asked.request):
        return go(asked.request, address("checks", asked.check_id, undone="1"))
    said = f"Undone: {words}."
    return announce(page(asked.request, "bench/_bench.html", **values(shown)), said, said)
