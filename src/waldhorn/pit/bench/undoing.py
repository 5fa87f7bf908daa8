"""Undo: the last act on a motor, or any other that is named."""

from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.pit.bench.words import act_words
from waldhorn.pit.judging import judging
from waldhorn.store import changes, drafts, motors, readings
from waldhorn.store.models import ChangeKind, ChangeRow


def undo(session: Session, motor_id: str, now: datetime, named: str = "") -> str:
    """Undo the last act on a motor, or the one that is `named`, and say what it was; raises InputError where it was
    undone already, or something that came after it stands on it.

    What was typed comes back into its fields; what is typed into a check that was never opened goes, and so does a
    motor whose taking in is undone.
    """
    act = session.get(ChangeRow, named) if named else changes.last(session, motor_id)
    if act is None or act.motor_id != motor_id:
        raise InputError("undo", "there is nothing to undo on this motor")
    if act.undone_at is not None:
        raise InputError("undo", f"that is undone already: {act_words(act)}")
    if why := _leans_on(session, act):
        raise InputError("undo", why)
    words, kind, check_id, step, typed = act_words(act), act.kind, act.check_id, act.step, dict(act.typed)
    touched = changes.motors_touched(session, act)
    before = motors.several(session, sorted(touched))
    corrected = readings.revised_by(session, act.id)
    changes.undo(session, act, now)
    readings.mark_again(session, corrected)
    if kind == ChangeKind.TAKE_IN:
        judging.put_out_of_sight(session, [motor_id])
        return words
    if kind == ChangeKind.MERGE_MOTORS:
        motors.show(session, typed[changes.DOUBLE])
    elif kind == ChangeKind.OPEN:
        drafts.forget_closed(session, motor_id)
    elif check_id and step and typed and readings.check_row(session, check_id).open:
        drafts.store_draft(session, check_id, step, None, typed)
    for other, motor in motors.several(session, sorted(touched)).items():
        motors.touch_beside(session, before.get(other, motor), motor)
    motors.touch(session, touched)
    return words


def _leans_on(session: Session, act: ChangeRow) -> str:
    """What stands on an act, so that it cannot be undone now; empty where nothing does."""
    if act.kind == ChangeKind.TAKE_IN and motors.known_beyond(session, [act.motor_id or ""], act.id):
        return "more is known of this motor by now: it stays"
    if act.kind == ChangeKind.OPEN and changes.after(session, act, check_id=readings.opened_by(session, act.id)):
        return "something was done in this check: undo that first"
    if act.kind == ChangeKind.MERGE_MOTORS:
        tag = motors.tag_out_of_sight(session, act.typed[changes.DOUBLE])
        if motors.find(session, tag) is not None:
            return f"another motor is called {tag} by now: give that one another tag first"
    if act.kind in (ChangeKind.SIGN, ChangeKind.HANG_BACK) and changes.after(session, act, kind=ChangeKind.OPEN):
        return "another check was opened since: undo that first"
    return ""
