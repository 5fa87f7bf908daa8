"""What was brought in, in the store: the acts, taking one back, and how foreign sheets were mapped."""

from typing import Any

from sqlalchemy import delete, or_, select
from sqlalchemy.orm import Session

from waldhorn.store import standings
from waldhorn.store.models import (
    FINDINGS,
    ActKind,
    ActRow,
    CheckRow,
    EventRow,
    LatestRow,
    MotorRevisionRow,
    MotorRow,
    PictureRow,
    ReadingRow,
    SheetMappingRow,
    SignedRow,
    StandingRow,
)
from waldhorn.store.motors import only

_SHOWN = 5


def mapping(session: Session, header: str) -> dict[str, Any] | None:
    """How a sheet of this header was mapped last."""
    row = session.get(SheetMappingRow, header)
    return row.mapping if row else None


def keep_mapping(session: Session, header: str, chosen: dict[str, Any]) -> None:
    """Keep how a sheet of this header is mapped."""
    session.merge(SheetMappingRow(header=header, mapping=chosen))


def acts_of_bringing_in(session: Session) -> list[ActRow]:
    """What was brought in and stands, newest first."""
    query = select(ActRow).where(ActRow.kind == ActKind.BRING_IN, ActRow.undone_at.is_(None))
    return list(session.scalars(query.order_by(ActRow.id.desc()).limit(_SHOWN)))


def motors_of(session: Session, act_id: str) -> set[str]:
    """The motors that an act brought in, or brought something of."""
    found = set(session.scalars(select(MotorRow.id).where(MotorRow.act_id == act_id)))
    for model in (CheckRow, EventRow):
        found |= set(session.scalars(select(model.motor_id).where(model.act_id == act_id)))
    return found | set(
        session.scalars(
            select(CheckRow.motor_id).join(ReadingRow, ReadingRow.check_id == CheckRow.id)
            .where(ReadingRow.act_id == act_id).distinct()
        )
    )  # fmt: skip


def forget_motors(session: Session, act_id: str) -> set[str]:
    """Take away the motors that came with an act and of which nothing else is known; returns them."""
    for found in (*FINDINGS, PictureRow, SignedRow):  # they may come again, with the identifiers they have
        session.execute(delete(found).where(found.act_id == act_id))
    came = set(session.scalars(select(MotorRow.id).where(MotorRow.act_id == act_id)))
    kept: set[str] = set()
    for model in (CheckRow, EventRow, SignedRow):
        others = select(model.motor_id).where(or_(model.act_id != act_id, model.act_id.is_(None)))
        kept |= set(session.scalars(only(others, model.motor_id, sorted(came))))
    gone = sorted(came - kept)
    if not gone:
        return set()
    standings.keep_figures(session, gone, {}, {})
    checks = list(session.scalars(only(select(CheckRow.id), CheckRow.motor_id, gone)))
    session.execute(only(delete(ReadingRow), ReadingRow.check_id, checks))
    session.execute(only(delete(MotorRevisionRow), MotorRevisionRow.of_id, gone))
    for table in (LatestRow, StandingRow, EventRow, CheckRow):
        session.execute(only(delete(table), table.motor_id, gone))
    session.execute(only(delete(MotorRow), MotorRow.id, gone))
    return set(gone)
