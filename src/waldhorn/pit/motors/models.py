"""All motors of a model beside each other: how far apart they are as they came in, and how the label fits."""

from dataclasses import dataclass
from datetime import datetime
from statistics import median
from typing import Any

from sqlalchemy import Row, bindparam, func, select
from sqlalchemy.orm import Session

from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import CONDEMNED, EventKind
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.quantity import Quantity
from waldhorn.store import figures
from waldhorn.store.changes import not_undone
from waldhorn.store.models import CachedVerdictRow, EventRow, MotorRow

SHOWN = 60  # motors of a model on its page
# Composed once: that takes longer than running it. The runs of each motor are summed by themselves.
_runs = (
    select(func.sum(EventRow.count))
    .where(EventRow.motor_id == MotorRow.id, EventRow.event == EventKind.RUN, not_undone(EventRow))
    .correlate(MotorRow)
    .scalar_subquery()
)
_MEMBERS = (
    select(
        MotorRow.model,
        MotorRow.tag,
        MotorRow.label_kv,
        CachedVerdictRow.verdict,
        CachedVerdictRow.headline,
        CachedVerdictRow.retired,
        _runs.label("runs"),
    )
    .join(CachedVerdictRow, CachedVerdictRow.motor_id == MotorRow.id)
    .where(MotorRow.model_key == bindparam("key"))
    .order_by(CachedVerdictRow.retired, CachedVerdictRow.rank, MotorRow.tag_key)
)


@dataclass(frozen=True)
class Spread:
    """One quantity over the motors of a model, under one set of conditions: their median, how far they lie apart as one
    standard deviation and as it is usual, both in the change unit."""

    quantity: Quantity
    rig: str
    motors: int
    middle: float
    apart: float


@dataclass(frozen=True)
class Member:
    """A motor of the model as it stands, after how many runs."""

    tag: str
    label_kv: float | None
    verdict: str
    headline: str
    runs: int


@dataclass(frozen=True)
class ModelView:
    """A model with its page. `label_off_pct` is how far its motors read from their labels, the middle one of
    `labelled`; `members` are the first of `motors`, worst first, `failed` all that did."""

    name: str
    members: list[Member]
    spreads: list[Spread]
    label_off_pct: float | None
    labelled: int
    failed: list[Member]
    motors: int


def view(session: Session, name: str, now: datetime) -> ModelView | None:
    """A model, or None when no motor has it; in a fixed number of statements however many there are."""
    key = key_of(name)
    rows = session.execute(_MEMBERS, {"key": key}).all()
    if not rows or not key:
        return None
    failed = [_member(r) for r in rows if r.retired or r.verdict in CONDEMNED]
    off = figures.off_labels(session, key)
    spreads = [
        Spread(QUANTITIES[r.quantity], r.rig, r.motors, r.middle, r.apart) for r in figures.spreads_of(session, key)
    ]
    order = list(QUANTITIES)
    spreads.sort(key=lambda one: (order.index(one.quantity.name), -one.motors))
    members = [_member(r) for r in rows[:SHOWN]]
    return ModelView(rows[0].model, members, spreads, median(off) if off else None, len(off), failed, len(rows))


def _member(row: Row[Any]) -> Member:
    return Member(row.tag, row.label_kv, row.verdict, row.headline, row.runs or 0)
