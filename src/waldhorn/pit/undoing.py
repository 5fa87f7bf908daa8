"""Undo: the last act on a motor, whatever it was."""

from sqlalchemy.orm import Session

from waldhorn.core.errors import Refused
from waldhorn.store import acts
from waldhorn.store.motors import mark_stale


def undo_last(session: Session, motor_id: int) -> str:
    """Undo the last act on a motor and say what it was; raises Refused when there is none."""
    act = acts.last(session, motor_id)
    if act is None:
        raise Refused("undo", "there is nothing to undo on this motor")
    acts.undo(session, act)
    mark_stale(session, [motor_id])
    return act.words
