"""The bench's smaller acts: setting runs aside, skipping, stopping, overruling, other lists of steps, re-basing."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from waldhorn.core.errors import Refused
from waldhorn.pit import checks, motors
from waldhorn.pit.desk import Desk
from waldhorn.pit.panels import PANELS
from waldhorn.pit.panels.set_timing import proposal, pulls_of
from waldhorn.pit.run import STEPS
from waldhorn.pit.steps import Step
from waldhorn.web.bench import CheckId, RunNumber, act
from waldhorn.web.pages import Now, StoreOf, Typed, missing

router = APIRouter(prefix="/checks/{check_id}")


@router.post("/steps/{step}/runs/{run}/aside")
def set_aside(
    request: Request, store: StoreOf, now: Now, check_id: CheckId, step: str, run: RunNumber, typed: Typed
) -> Response:
    """Set a run aside with a reason."""
    chosen, reason = _step(step), typed.get("reason", "")
    return act(request, store, now, check_id, lambda d: checks.set_aside(d, chosen, run, reason), step, typed)


@router.post("/steps/{step}/runs/{run}/back")
def bring_back(request: Request, store: StoreOf, now: Now, check_id: CheckId, step: str, run: RunNumber) -> Response:
    """Let a run count again."""
    chosen = _step(step)
    return act(request, store, now, check_id, lambda d: checks.bring_back(d, chosen, run), step, {})


@router.post("/steps/{step}/outliers")
def outliers(request: Request, store: StoreOf, now: Now, check_id: CheckId, step: str) -> Response:
    """Set the peaks aside that stand apart."""
    _step(step)
    return act(request, store, now, check_id, lambda d: checks.set_outliers_aside(d, PANELS[step]), step, {})


@router.post("/steps/{step}/skip")
def skip(request: Request, store: StoreOf, now: Now, check_id: CheckId, step: str) -> Response:
    """Pass a step over."""
    chosen = _step(step)
    return act(request, store, now, check_id, lambda d: checks.skip(d, chosen), step, {})


@router.post("/stop")
def stop(request: Request, store: StoreOf, now: Now, check_id: CheckId, typed: Typed) -> Response:
    """Stop the run with a reason."""
    return act(request, store, now, check_id, lambda d: checks.stop(d, typed.get("reason", "")), "", typed)


@router.post("/overrule")
def overrule(request: Request, store: StoreOf, now: Now, check_id: CheckId, typed: Typed) -> Response:
    """Open powered steps in spite of a finding."""
    subject, step = typed.get("subject", ""), typed.get("step_name", "")
    reason = typed.get("reason", "")
    return act(request, store, now, check_id, lambda d: checks.overrule(d, subject[:60], reason), step, typed)


@router.post("/plan")
def plan(request: Request, store: StoreOf, now: Now, check_id: CheckId, typed: Typed) -> Response:
    """Follow another list of steps."""
    wanted = typed.get("plan", "")
    return act(request, store, now, check_id, lambda d: checks.change_plan(d.session, d.check, wanted, now), "", typed)


@router.post("/rebase")
def rebase(request: Request, store: StoreOf, now: Now, check_id: CheckId) -> Response:
    """Bring speeds read with another pole setting to the true count."""
    return act(request, store, now, check_id, checks.rebase, "poles", {})


@router.post("/timing-event")
def timing_event(request: Request, store: StoreOf, now: Now, check_id: CheckId) -> Response:
    """Write down that the timing was set, once it is."""

    def write(desk: Desk) -> None:
        pulls = pulls_of(desk)
        found = proposal(desk, {}, pulls)
        if found is None or not found.reached:
            raise Refused("closed", "the target is not reached yet: pull again at the setting it says")
        detail = f"end bell set to {found.setting_deg:g}°, {found.words}"
        motors.add_event(desk.session, desk.row, {"event": "timing_changed", "detail": detail}, now)
        desk.check.timing_set_deg = found.setting_deg

    return act(request, store, now, check_id, write, "set_timing", {})


def _step(name: str) -> Step:
    if name not in PANELS:
        raise missing(f"There is no step {name[:40]}.")
    return STEPS[name]
