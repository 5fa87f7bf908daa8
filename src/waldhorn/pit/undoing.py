"""Undo: the last act on a motor, whatever it was."""

from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.errors import Refused
from waldhorn.pit.words import act_words
from waldhorn.store import acts, drafts, motors
from waldhorn.store.models import ActKind


def undo_last(session: Session, motor_id: str, now: datetime) -> str:
    """Undo the last act on a motor and say what it was; raises Refused when there is none.

    What was typed comes back into its fields; what is typed into a check that was never opened goes.
    """
    act = acts.last(session, motor_id)
    if act is None:
        raise Refused("undo", "there is nothing to undo on this motor")
    words, kind, check_id, step, typed = act_words(act), act.kind, act.check_id, act.step, dict(act.typed)
    acts.undo(session, act, now)
    if kind == ActKind.OPEN:
        drafts.forget_closed(session, motor_id)
    elif check_id and step and typed:
        drafts.keep(session, check_id, step, None, typed)
    motors.touch(session, [motor_id])
    return words
