"""What was brought in, in the store: the changes, taking one back, and how foreign sheets were mapped."""

from datetime import datetime
from typing import Any

from sqlalchemy import or_, select, update
from sqlalchemy.orm import Session

from waldhorn.store import changes, motors
from waldhorn.store.models import (
    ATTACHED,
    FINDINGS,
    ChangeKind,
    ChangeRow,
    CheckRevisionRow,
    CheckRow,
    MotorRow,
    ReadingRow,
    SheetMappingRow,
    SignedRow,
)

_SHOWN = 5


def mapping(session: Session, header: str) -> dict[str, Any] | None:
    """How a sheet of this header was mapped last."""
    row = session.get(SheetMappingRow, header)
    return row.mapping if row else None


def keep_mapping(session: Session, header: str, chosen: dict[str, Any]) -> None:
    """Keep how a sheet of this header is mapped."""
    session.merge(SheetMappingRow(header=header, mapping=chosen))


def changes_of_bringing_in(session: Session) -> list[ChangeRow]:
    """What was brought in and stands, newest first."""
    query = select(ChangeRow).where(ChangeRow.kind == ChangeKind.BRING_IN, ChangeRow.undone_at.is_(None))
    return list(session.scalars(query.order_by(ChangeRow.id.desc()).limit(_SHOWN)))


def take_back(session: Session, change: ChangeRow, at: datetime) -> tuple[set[str], set[str]]:
    """Mark a change of bringing in undone; returns the motors that are to be judged again, and those that came with it
    and of which nothing else is known: they are to go out of sight.

    Nothing is deleted. What others wrote into a check or a motor that came with it keeps that check or motor in sight:
    it stands by their change from then on.
    """
    touched = changes.motors_touched(session, change)
    came = list(session.scalars(select(MotorRow.id).where(MotorRow.change_id == change.id)))
    _hand_on_checks(session, change.id)
    changes.undo(session, change, at)
    kept = motors.known_beyond(session, came, change.id)
    for motor_id, by in kept.items():
        session.execute(update(MotorRow).where(MotorRow.id == motor_id).values(change_id=by))
    gone = set(came) - set(kept)
    return touched - gone, gone


def _hand_on_checks(session: Session, change_id: str) -> None:
    """Checks that a change made and others wrote into stand by the latest of those."""
    theirs = select(CheckRow.id).where(CheckRow.change_id == change_id)
    kept: dict[str, str | None] = {}
    written: tuple[Any, ...] = (ReadingRow, *FINDINGS, *ATTACHED, SignedRow, CheckRevisionRow)
    for model in written:
        check_id = model.of_id if model is CheckRevisionRow else model.check_id
        others = or_(model.change_id != change_id, model.change_id.is_(None))
        query = select(check_id, model.change_id).where(check_id.in_(theirs), changes.not_undone(model), others)
        if model is CheckRevisionRow:
            query = query.where(model.change_id.is_not(None))
        kept |= {i: by for i, by in session.execute(query.order_by(model.id))}  # noqa: C416
    for check, by in kept.items():
        session.execute(update(CheckRow).where(CheckRow.id == check).values(change_id=by))
