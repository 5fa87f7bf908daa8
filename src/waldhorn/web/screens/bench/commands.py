"""The bench's smaller commands: setting runs aside, skipping, stopping, overruling, other lists of steps, re-basing."""

from fastapi import APIRouter
from fastapi.responses import Response

from waldhorn.pit.bench import checks, timing_setting
from waldhorn.web.common.pages import Typed
from waldhorn.web.screens.bench.view import Asked, RunNumber, carry_out, step_named

router = APIRouter(prefix="/checks/{check_id}")


@router.post("/steps/{step}/runs/{run}/aside")
def set_aside(asked: Asked, step: str, run: RunNumber, typed: Typed) -> Response:
    """Set a run aside with a reason."""
    chosen, reason = step_named(step), typed.get("reason", "")
    return carry_out(asked, lambda s, ctx: checks.set_aside(s, ctx, chosen, run, reason), step, typed)


@router.post("/steps/{step}/runs/{run}/back")
def bring_back(asked: Asked, step: str, run: RunNumber) -> Response:
    """Let a run count again."""
    chosen = step_named(step)
    return carry_out(asked, lambda s, ctx: checks.bring_back(s, ctx, chosen, run), step, {})


@router.post("/steps/{step}/outliers")
def outliers(asked: Asked, step: str) -> Response:
    """Set the peaks aside that stand apart."""
    chosen = step_named(step)
    return carry_out(asked, lambda s, ctx: checks.set_outliers_aside(s, ctx, chosen), step, {})


@router.post("/steps/{step}/skip")
def skip(asked: Asked, step: str) -> Response:
    """Pass a step over."""
    chosen = step_named(step)
    return carry_out(asked, lambda s, ctx: checks.skip(s, ctx, chosen), step, {})


@router.post("/stop")
def stop(asked: Asked, typed: Typed) -> Response:
    """Stop the run with a reason."""
    return carry_out(asked, lambda s, ctx: checks.stop(s, ctx, typed.get("reason", "")), "", typed)


@router.post("/overrule")
def overrule(asked: Asked, typed: Typed) -> Response:
    """Open powered steps in spite of a finding."""
    subject, step, reason = typed.get("subject", "")[:60], typed.get("step_name", ""), typed.get("reason", "")
    return carry_out(asked, lambda s, ctx: checks.overrule(s, ctx, subject, reason), step, typed)


@router.post("/plan")
def plan(asked: Asked, typed: Typed) -> Response:
    """Follow another list of steps."""
    wanted = typed.get("plan", "")
    return carry_out(asked, lambda s, ctx: checks.change_plan(s, ctx, wanted), "", typed)


@router.post("/rebase")
def rebase(asked: Asked) -> Response:
    """Bring speeds read with another pole setting to the true count."""
    return carry_out(asked, checks.rebase, "poles", {}, for_all=True)


@router.post("/timing-event")
def timing_event(asked: Asked) -> Response:
    """Write down that the timing was set, once it is."""
    return carry_out(asked, timing_setting.write_down, "set_timing", {}, for_all=True)
