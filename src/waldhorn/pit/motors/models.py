"""All motors of a model beside each other: how far apart they are as they came in, and how the label fits."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from statistics import median
from typing import Any

from sqlalchemy import Row, bindparam, func, select
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputErrors
from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import CONDEMNED, EventKind
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.quantity import Quantity
from waldhorn.pit.motors import facts
from waldhorn.store import figures, fleet, motors, pit
from waldhorn.store.changes import not_undone
from waldhorn.store.models import CachedVerdictRow, EventRow, MotorRow

SHOWN = 60  # motors of a model on its page
# What all motors of a model have alike, so that it may be said of all at once; how each is typed.
OF_A_MODEL = {
    "sensored": ("sensors", ("yes", "no")),
    "kind": ("kind", ("inrunner", "outrunner")),
    "poles": ("poles", ()),
    "slots": ("slots", ()),
    "label_kv": ("label KV", ()),
    "turns": ("turns", ()),
    "rated_cells": ("rated cells", ()),
    "rated_a": ("rated amps", ()),
    "rated_w": ("rated watts", ()),
}
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


def say_of_all(session: Session, name: str, typed: Mapping[str, str], now: datetime) -> int:
    """Say one fact of every motor of a model of which nobody has said it; returns of how many. Each is a change of its
    own that can be undone. Raises InputErrors."""
    fact, value = typed.get("fact", ""), typed.get("value", "").strip()
    if fact not in OF_A_MODEL or not value:
        raise InputErrors({"value": "choose a fact, and say what it is"})
    if fact == "sensored" and value not in ("yes", "no"):
        raise InputErrors({"value": "yes or no"})
    notation, said = pit.notation(session), 0
    for row in fleet.of_model(session, name):
        known = facts.as_typed(motors.to_motor(row), notation)
        if known.get(fact, "").strip():
            continue
        try:
            facts.amend(session, row, known | {fact: value}, now)
        except InputErrors as refused:
            raise InputErrors({"value": f"{row.tag}: {refused.by_field.get(fact, str(refused))}"}) from refused
        said += 1
    if not said:
        raise InputErrors({"value": "that is said of each of them already"})
    return said


def _member(row: Row[Any]) -> Member:
    return Member(row.tag, row.label_kv, row.verdict, row.headline, row.runs or 0)
