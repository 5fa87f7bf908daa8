"""Undo: the last act on a motor, whatever it was."""

from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.pit.bench.words import act_words
from waldhorn.store import changes, drafts, motors, readings
from waldhorn.store.models import ChangeKind


def undo_last(session: Session, motor_id: str, now: datetime, named: str = "") -> str:
    """Undo the last act on a motor and say what it was; raises InputError when it is not the one that was `named`: it
    was undone already, or something came after it.

    What was typed comes back into its fields; what is typed into a check that was never opened goes, and so does a
    motor whose taking in is undone.
    """
    act = changes.last(session, motor_id)
    if act is None:
        raise InputError("undo", "there is nothing to undo on this motor")
    if named and act.id != named:
        raise InputError(
            "undo", f"that is undone already, or something came after it; the last thing is: {act_words(act)}"
        )
    if act.kind == ChangeKind.TAKE_IN and motors.known_beyond(session, [motor_id], act.id):
        raise InputError("undo", "more is known of this motor by now: it stays")
    words, kind, check_id, step, typed = act_words(act), act.kind, act.check_id, act.step, dict(act.typed)
    others = readings.of_act(session, act.id)  # what was moved there
    corrected = readings.revised_by(session, act.id)
    changes.undo(session, act, now)
    readings.mark_again(session, corrected)
    if kind == ChangeKind.TAKE_IN:
        motors.hide(session, [motor_id])
        return words
    if kind == ChangeKind.OPEN:
        drafts.forget_closed(session, motor_id)
    elif check_id and step and typed:
        drafts.keep(session, check_id, step, None, typed)
    motors.touch(session, [motor_id, *others])
    return words
