"""The propellers and packs of the pit in the store: by what names it knows them, and what was written besides."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any, TypeVar

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from waldhorn.core.base.text import key_of
from waldhorn.core.measuring.propellers import Propeller, named
from waldhorn.store.changes import not_undone
from waldhorn.store.models import CheckRow, MotorRow, PackRow, PropellerRow, ReadingRow
from waldhorn.store.motors import bump

Named = TypeVar("Named", PropellerRow, PackRow)


def standing(session: Session, model: type[Named]) -> Sequence[Named]:
    """The propellers or packs that have a name, in its order."""
    return session.scalars(select(model).where(not_undone(model)).order_by(model.name, model.id)).all()


def known_propellers(session: Session) -> dict[str, Propeller]:
    """Every name, nickname and spelling that the pit knows a propeller by."""
    found: dict[str, Propeller] = {}
    for row in standing(session, PropellerRow):
        one = Propeller(row.name, row.diameter, row.pitch, row.blades, row.unit)
        found |= {key_of(text): one for text in (*map(str, row.also), row.nickname, row.name) if text}
    return found


def known_packs(session: Session) -> dict[str, float]:
    """The cells of every pack that has a name."""
    return {key_of(row.name): row.cells for row in standing(session, PackRow) if row.cells}


def written(session: Session, column: str) -> list[tuple[str, int, datetime]]:
    """What was written as propeller (`on_shaft`) or `pack`: the text, in how many readings, and when last."""
    text: Any = getattr(ReadingRow, column)
    query = (
        select(text, func.count(), func.max(ReadingRow.at))
        .join(CheckRow, CheckRow.id == ReadingRow.check_id)
        .join(MotorRow, MotorRow.id == CheckRow.motor_id)
        .where(text != "", MotorRow.on_rack, not_undone(ReadingRow))
        .group_by(text)
    )
    return [(said, count, at) for said, count, at in session.execute(query)]


def offered(session: Session, model: str, column: str, most: int = 12) -> list[str]:
    """What to offer as propeller (`on_shaft`) or `pack` of a motor: what its siblings had, then what any had, the most
    used first; by the name the pit knows it by."""
    text: Any = getattr(ReadingRow, column)
    sibling = MotorRow.model_key == key_of(model)
    query = (
        select(text)
        .join(CheckRow, CheckRow.id == ReadingRow.check_id)
        .join(MotorRow, MotorRow.id == CheckRow.motor_id)
        .where(text != "", MotorRow.on_rack, not_undone(ReadingRow))
        .group_by(text)
        .order_by(func.max(sibling).desc(), func.count().desc())
    )
    known = known_propellers(session) if column == "on_shaft" else None
    said = [named(t, known).name if known is not None else t for t in session.scalars(query)]
    return list(dict.fromkeys(said))[:most]


def replace(session: Session, change_id: str, before: Named | None, now: Named | None) -> None:
    """Take a row back and write another, as one change."""
    if before is not None:
        before.withdrawn_by = change_id
    if now is not None:
        now.change_id = change_id
        session.add(now)
    session.flush()
    bump(session)
