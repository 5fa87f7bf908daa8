"""Writing down that the timing was set: the event and the check's own setting, in one change."""

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.pit.bench import checks
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.set_timing import STEP, SetTimingFields
from waldhorn.pit.bench.steps.step import Taken
from waldhorn.store import changes, motors
from waldhorn.store.models import ChangeKind


def write_down(session: Session, ctx: CheckContext) -> None:
    """Log the timing as changed and note the new setting; raises InputError before the target is reached."""
    found = STEP.proposal(ctx, SetTimingFields(), ())
    if found is None or not found.reached:
        raise InputError("closed", "the target is not reached yet: pull again at the setting it says")
    setting = f"{found.setting_deg:g}"
    change_id = changes.record(session, ChangeKind.TIMING_SET, ctx.now, ctx.motor_id, ctx.check.id, detail=setting)
    what = "end bell" if ctx.motor.may_have_sensors else "controller"
    detail = f"{what} set to {setting}°, {found.words}"
    motors.add_events(session, [(ctx.motor_id, Event(EventKind.TIMING_CHANGED, ctx.now, 1, detail))], change_id)
    checks.store(session, ctx, change_id, Taken(check={"timing_set_deg": found.setting_deg}))
    motors.touch(session, [ctx.motor_id])
