"""Findings and pictures of a check in the store."""

from collections.abc import Mapping
from datetime import datetime

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from waldhorn.store import acts
from waldhorn.store.acts import Operation
from waldhorn.store.models import CheckRow, FindingRow, PictureRow

MOST_PICTURES = 24  # of one check


def of_check(session: Session, check_id: int) -> dict[str, FindingRow]:
    """The findings of a check by subject."""
    rows = session.scalars(select(FindingRow).where(FindingRow.check_id == check_id).order_by(FindingRow.id))
    return {row.subject: row for row in rows}


def note(session: Session, check_id: int, found: Mapping[str, tuple[str, str]], at: datetime) -> list[Operation]:
    """Note findings, subject to (value, note); an empty value takes one away. Returns what undoes it."""
    known = of_check(session, check_id)
    inverse: list[Operation] = []
    for subject, (value, words) in found.items():
        row = known.get(subject)
        if row is None and value:
            row = FindingRow(check_id=check_id, subject=subject, value=value, note=words, at=at)
            session.add(row)
            session.flush()
            inverse.append(acts.delete_rows("finding", [row.id]))
        elif row is not None and (row.value, row.note) != (value, words):
            before = {"value": row.value, "note": row.note, "at": row.at}
            if value:
                inverse.append(acts.set_back("finding", row.id, **before))
                row.value, row.note, row.at = value, words, at
            else:
                inverse.append(acts.put_back("finding", id=row.id, check_id=check_id, subject=subject, **before))
                session.execute(delete(FindingRow).where(FindingRow.id == row.id))
    return inverse


def pictures(session: Session, motor_id: int) -> list[tuple[int, int, str, datetime]]:
    """Id, check, item and time of every picture of a motor, oldest first."""
    query = select(PictureRow.id, PictureRow.check_id, PictureRow.item, PictureRow.at)
    query = query.join(CheckRow, CheckRow.id == PictureRow.check_id).where(CheckRow.motor_id == motor_id)
    return [(i, c, item, at) for i, c, item, at in session.execute(query.order_by(PictureRow.id))]


def picture(session: Session, picture_id: int) -> PictureRow | None:
    """One picture."""
    return session.get(PictureRow, picture_id)


def count_pictures(session: Session, check_id: int) -> int:
    """How many pictures a check has."""
    query = select(func.count()).select_from(PictureRow).where(PictureRow.check_id == check_id)
    return session.scalar(query) or 0
