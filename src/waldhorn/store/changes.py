"""Changes: what a person did, the rows and revisions it wrote, and undoing it.

Rows carry the change that wrote them; `not_undone` narrows a query to those whose change stands. What a change alters
on a row that was there before is a revision: the row holds what stands now, the revisions what each change left.
Undoing marks the change, and brings every row it revised back to what the changes that stand made of it.
"""

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, and_, func, insert, or_, select, update
from sqlalchemy.orm import Session

from waldhorn.store.models import (
    ATTACHED,
    FINDINGS,
    ChangeKind,
    ChangeRow,
    CheckRevisionRow,
    CheckRow,
    EventRow,
    MotorRevisionRow,
    MotorRow,
    ReadingRevisionRow,
    ReadingRow,
    SignedRow,
    clock,
    new_id,
)
from waldhorn.store.models.base import columns_of
from waldhorn.store.models.checks import CheckState, ReadingState
from waldhorn.store.models.motors import MotorFacts
from waldhorn.store.writing import writer

UNDONE = "SELECT id FROM change WHERE undone_at IS NOT NULL"
DOUBLE = "double"  # of a merging of motors, in `typed`: the one that went out of sight
SUSPECT = "suspect"  # of a machine's shaking, in `typed`: the motor that the eye suspected
LATELY = 500  # changes: a long day at the bench
Revised = MotorRow | CheckRow | ReadingRow
# What a change may alter on a row, and where it keeps what that was.
STATE: Mapping[type[Revised], tuple[str, ...]] = {
    MotorRow: columns_of(MotorFacts),
    CheckRow: columns_of(CheckState),
    ReadingRow: columns_of(ReadingState),
}
_REVISIONS: Mapping[type[Revised], type[Any]] = {
    MotorRow: MotorRevisionRow,
    CheckRow: CheckRevisionRow,
    ReadingRow: ReadingRevisionRow,
}


def record(
    session: Session,
    kind: ChangeKind,
    at: datetime,
    motor_id: str | None,
    check_id: str | None = None,
    step: str = "",
    detail: str = "",
    count: int = 0,
    typed: Mapping[str, Any] | None = None,
) -> str:
    """Remember a change, and who asked for it; returns its id, which the rows it writes are to carry."""
    change_id = new_id()
    session.execute(
        insert(ChangeRow).values(
            id=change_id,
            motor_id=motor_id,
            check_id=check_id,
            at=at,
            kind=kind,
            step=step,
            detail=detail,
            count=count,
            typed=dict(typed or {}),
            who=writer(session),
            undone_at=None,
        )
    )
    return change_id


def not_undone(model: Any) -> ColumnElement[bool]:
    """Rows whose change stands, or that no change wrote, and that no change which stands has taken back."""
    undone = select(ChangeRow.id).where(ChangeRow.undone_at.is_not(None))
    stands = or_(model.change_id.is_(None), model.change_id.not_in(undone))
    if not hasattr(model, "withdrawn_by"):
        return stands
    return and_(stands, or_(model.withdrawn_by.is_(None), model.withdrawn_by.in_(undone)))


def motors_touched(session: Session, change: ChangeRow) -> set[str]:
    """The motors that a change wrote something of, by whatever row: the same for the change and for its undoing."""
    found = set(session.scalars(select(MotorRevisionRow.of_id).where(MotorRevisionRow.change_id == change.id)))
    found |= {motor_id for motor_id in (change.motor_id, change.typed.get(DOUBLE)) if motor_id}
    found |= set(session.scalars(select(MotorRow.id).where(MotorRow.change_id == change.id)))  # off the rack too
    mine: tuple[Any, ...] = (CheckRow, EventRow, SignedRow)
    for model in mine:
        found |= set(session.scalars(select(model.motor_id).where(_by(model, change.id))))
    of_check = select(CheckRow.motor_id).distinct()
    written: tuple[Any, ...] = (ReadingRow, *FINDINGS, *ATTACHED)
    for model in written:
        found |= set(session.scalars(of_check.join(model, model.check_id == CheckRow.id).where(_by(model, change.id))))
    checks, readings = CheckRevisionRow, ReadingRevisionRow
    revised = of_check.join(checks, checks.of_id == CheckRow.id).where(checks.change_id == change.id)
    found |= set(session.scalars(revised))
    read = of_check.join(ReadingRow, ReadingRow.check_id == CheckRow.id)
    read = read.join(readings, readings.of_id == ReadingRow.id).where(readings.change_id == change.id)
    return found | set(session.scalars(read))


def _by(model: Any, change_id: str) -> ColumnElement[bool]:
    """Rows that a change wrote or took back."""
    wrote: ColumnElement[bool] = model.change_id == change_id
    return or_(wrote, model.withdrawn_by == change_id) if hasattr(model, "withdrawn_by") else wrote


def standing(session: Session, model: Any, row_id: str) -> Any:
    """A row by its identifier, None where it is out of sight."""
    return session.scalar(select(model).where(model.id == row_id, not_undone(model)))


def last(session: Session, motor_id: str, undone: bool = False) -> ChangeRow | None:
    """The last change on a motor that has not been undone, or the one that was undone last."""
    query = select(ChangeRow).where(ChangeRow.motor_id == motor_id)
    if undone:
        query = query.where(ChangeRow.undone_at.is_not(None)).order_by(ChangeRow.undone_at.desc())
    else:
        query = query.where(ChangeRow.undone_at.is_(None))
    return session.scalar(query.order_by(ChangeRow.id.desc()).limit(1))


def typed_lately(session: Session, step: str, since: datetime) -> tuple[Mapping[str, Any], str | None]:
    """What was typed into a step last, since a time and among the last changes, and the id of the motor it was typed
    for."""
    newest = select(ChangeRow.id).order_by(ChangeRow.id.desc()).limit(LATELY)
    query = select(ChangeRow.typed, ChangeRow.motor_id).where(
        ChangeRow.id.in_(newest), ChangeRow.step == step, ChangeRow.at >= since, ChangeRow.undone_at.is_(None)
    )
    last = session.execute(query.order_by(ChangeRow.id.desc()).limit(1)).first()
    return (last[0] or {}, last[1]) if last else ({}, None)


def last_of_kind(session: Session, kind: ChangeKind) -> ChangeRow | None:
    """The last change of a kind that stands."""
    query = select(ChangeRow).where(ChangeRow.kind == kind, ChangeRow.undone_at.is_(None))
    return session.scalar(query.order_by(ChangeRow.id.desc()).limit(1))


def suspected(session: Session, motor_ids: Sequence[str]) -> str:
    """Whom the eye suspected when the shaking of these motors was read last; empty where nobody was."""
    query = select(ChangeRow.typed).where(
        ChangeRow.kind == ChangeKind.SHAKE, ChangeRow.motor_id.in_(motor_ids), ChangeRow.undone_at.is_(None)
    )
    typed = session.scalar(query.order_by(ChangeRow.id.desc()).limit(1)) or {}
    return str(typed.get(SUSPECT, ""))


def newer_than(session: Session, change_id: str, most: int) -> list[tuple[ChangeRow, str]]:
    """The changes after one, oldest first, each with the tag of its motor; empty where it has none."""
    on_rack = and_(MotorRow.id == ChangeRow.motor_id, MotorRow.on_rack)
    query = select(ChangeRow, func.coalesce(MotorRow.tag, "")).outerjoin(MotorRow, on_rack)
    found = session.execute(query.where(ChangeRow.id > change_id).order_by(ChangeRow.id).limit(most))
    return [(change, tag) for change, tag in found]


def of_motor(session: Session, motor_id: str, most: int) -> list[ChangeRow]:
    """The changes on a motor that stand, newest first."""
    mine = select(ChangeRow).where(ChangeRow.motor_id == motor_id, ChangeRow.undone_at.is_(None))
    return list(session.scalars(mine.order_by(ChangeRow.id.desc()).limit(most)))


def after(session: Session, change: ChangeRow, **narrowed: Any) -> bool:
    """Whether a change of the same motor that stands came after one, of the kind or check that is named."""
    later = select(ChangeRow.id).where(
        ChangeRow.motor_id == change.motor_id, ChangeRow.undone_at.is_(None), ChangeRow.id > change.id
    )
    return session.scalar(later.filter_by(**narrowed).limit(1)) is not None


def revise(session: Session, change_id: str | None, changes: Iterable[tuple[Revised, Mapping[str, Any]]]) -> None:
    """Change rows of one kind, each with its new values, keeping what they were and what the change left."""
    changed = list(changes)
    if not changed:
        return
    kind = type(changed[0][0])
    revision, names = _REVISIONS[kind], STATE[kind]
    known = set(session.scalars(select(revision.of_id).where(revision.of_id.in_([row.id for row, _ in changed]))))
    kept = []
    for row, values in changed:
        before = {name: getattr(row, name) for name in names}
        if row.id not in known:
            kept.append(before | {"id": new_id(), "of_id": row.id, "change_id": row.change_id, "changed_at": clock()})
        kept.append(
            {**before, **values} | {"id": new_id(), "of_id": row.id, "change_id": change_id, "changed_at": clock()}
        )
        for name, value in values.items():
            setattr(row, name, value)
    session.execute(insert(revision), kept)
    session.flush()


def undo(session: Session, change: ChangeRow, at: datetime) -> None:
    """Mark a change undone; what it wrote is out of sight, what it changed is as it was."""
    change.undone_at = at
    session.flush()
    for kind, revision in _REVISIONS.items():
        touched = set(session.scalars(select(revision.of_id).where(revision.change_id == change.id)))
        if touched:
            _bring_back(session, kind, revision, STATE[kind], touched)
    # what is out of sight may come in again, from a file or by hand
    session.execute(update(ReadingRow).where(ReadingRow.change_id == change.id).values(fingerprint=None))
    session.execute(update(EventRow).where(EventRow.change_id == change.id).values(fingerprint=None))
    session.execute(update(CheckRow).where(CheckRow.change_id == change.id).values(key=CheckRow.id))
    session.expire_all()


def _bring_back(session: Session, kind: Any, revision: Any, names: tuple[str, ...], touched: set[str]) -> None:
    """Rows as the changes that stand left them: each changed what its revision has otherwise than the one before it, so
    that a change can be undone though others came after it."""
    mine = revision.of_id.in_(touched)
    standing = set(session.scalars(select(revision.id).where(mine, not_undone(revision))))
    before: dict[str, dict[str, Any]] = {}
    values: dict[str, dict[str, Any]] = {}
    for r in session.scalars(select(revision).where(mine).order_by(revision.id)):
        left = {n: getattr(r, n) for n in names}
        was, before[r.of_id] = before.get(r.of_id), left
        if r.id in standing:
            row = values.setdefault(r.of_id, {"id": r.of_id, **left})
            row.update({n: v for n, v in left.items() if was is None or v != was[n]})
    if values:
        session.execute(update(kind), list(values.values()))
