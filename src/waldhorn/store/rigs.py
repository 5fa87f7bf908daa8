"""Rigs as the store knows them: by the name that was typed with their readings."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import distinct, func, select
from sqlalchemy.orm import Session

from waldhorn.store.acts import live
from waldhorn.store.models import CheckRow, ReadingRow


@dataclass(frozen=True, slots=True)
class RigUse:
    """How much rests on a rig: readings, checks, motors, the ways KV is taken on it, when it was last used."""

    name: str
    readings: int
    checks: int
    motors: int
    methods: tuple[str, ...]
    last_at: datetime


def uses(session: Session, name: str | None = None) -> list[RigUse]:
    """Every rig that readings name, or one, the most used first."""
    r = ReadingRow
    query = (
        select(r.rig, func.count(), func.count(distinct(r.check_id)), func.count(distinct(CheckRow.motor_id)),
               func.group_concat(distinct(r.method)), func.max(r.at))
        .join(CheckRow, CheckRow.id == r.check_id)
        .where(live(r), r.rig != "")
        .group_by(r.rig)
        .order_by(func.count().desc(), r.rig)
    )  # fmt: skip
    if name is not None:
        query = query.where(r.rig == name)
    return [
        RigUse(rig, readings, checks, motors, tuple(sorted(m for m in (methods or "").split(",") if m)), at)
        for rig, readings, checks, motors, methods, at in session.execute(query)
    ]
