"""Undo: the last change on a motor, or any other that is named."""

from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.pit.bench.words import change_words
from waldhorn.pit.judging import judging
from waldhorn.store import changes, drafts, motors, readings
from waldhorn.store.models import ChangeKind, ChangeRow


def undo(session: Session, motor_id: str, now: datetime, named: str = "") -> str:
    """Undo the last change on a motor, or the one that is `named`, and say what it was; raises InputError where it was
    undone already, or something that came after it stands on it.

    What was typed comes back into its fields; what is typed into a check that was never opened goes, and so does a
    motor whose taking in is undone.
    """
    change = session.get(ChangeRow, named) if named else changes.last(session, motor_id)
    if change is None or change.motor_id != motor_id:
        raise InputError("undo", "there is nothing to undo on this motor")
    if change.undone_at is not None:
        raise InputError("undo", f"that is undone already: {change_words(change)}")
    if why := _leans_on(session, change):
        raise InputError("undo", why)
    words, kind, check_id, step, typed = (
        change_words(change),
        change.kind,
        change.check_id,
        change.step,
        dict(change.typed),
    )
    touched = changes.motors_touched(session, change)
    before = motors.several(session, sorted(touched))
    corrected = readings.revised_by(session, change.id)
    changes.undo(session, change, now)
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


def _leans_on(session: Session, change: ChangeRow) -> str:
    """What stands on a change, so that it cannot be undone now; empty where nothing does."""
    if change.kind == ChangeKind.TAKE_IN and motors.known_beyond(session, [change.motor_id or ""], change.id):
        return "more is known of this motor by now: it stays"
    if change.kind == ChangeKind.OPEN and changes.after(
        session, change, check_id=readings.opened_by(session, change.id)
    ):
        return "something was done in this check: undo that first"
    if change.kind == ChangeKind.MERGE_MOTORS:
        tag = motors.tag_out_of_sight(session, change.typed[changes.DOUBLE])
        if motors.find(session, tag) is not None:
            return f"another motor is called {tag} by now: give that one another tag first"
    if change.kind in (ChangeKind.SIGN, ChangeKind.HANG_BACK) and changes.after(session, change, kind=ChangeKind.OPEN):
        return "another check was opened since: undo that first"
    return ""
