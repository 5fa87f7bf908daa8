"""All motors of a model beside each other: how far apart they are as they came in, and how the label fits."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from statistics import median

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from waldhorn.core.baseline import LEAST_PEERS, Baseline, of_model
from waldhorn.core.measures import QUANTITIES, Quantity
from waldhorn.core.vocabulary import CONDEMNED, EventKind
from waldhorn.store import standings
from waldhorn.store.acts import live
from waldhorn.store.models import EventRow, MotorRow, StandingRow
from waldhorn.store.motors import key_of

_runs = (
    select(EventRow.motor_id, func.sum(EventRow.count).label("runs"))
    .where(EventRow.event == EventKind.RUN, live(EventRow))
    .group_by(EventRow.motor_id)
    .subquery()
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
    """A motor of the model as it stands, after how many runs; `failed` when it is to be repaired or is off the rack."""

    tag: str
    label_kv: float | None
    verdict: str
    headline: str
    runs: int
    failed: bool


@dataclass(frozen=True)
class ModelView:
    """A model with its page. `label_off_pct` is how far its motors read from their labels, the middle one of
    `labelled`."""

    name: str
    members: list[Member]
    spreads: list[Spread]
    label_off_pct: float | None
    labelled: int


def view(session: Session, name: str, now: datetime) -> ModelView | None:
    """A model, or None when no motor has it; in a fixed number of statements however many there are."""
    key = key_of(name)
    m, s = MotorRow, StandingRow
    rows = session.execute(
        select(m.id, m.model, m.tag, m.label_kv, s.verdict, s.headline, s.retired, _runs.c.runs)
        .join(s, s.motor_id == m.id)
        .outerjoin(_runs, _runs.c.motor_id == m.id)
        .where(m.model_key == key)
        .order_by(s.retired, s.rank, m.tag_key)
    ).all()
    if not rows or not key:
        return None
    own = standings.model_baselines(session, [name], now).get(key, {})
    members = [
        Member(r.tag, r.label_kv, r.verdict, r.headline, r.runs or 0, r.retired or r.verdict in CONDEMNED) for r in rows
    ]
    off = [
        100 * (own[r.id]["kv"][-1].value / r.label_kv - 1) for r in rows if r.label_kv and own.get(r.id, {}).get("kv")
    ]
    spreads = [found for q in QUANTITIES.values() for found in _spreads(q, [by.get(q.name, []) for by in own.values()])]
    return ModelView(rows[0].model, members, spreads, median(off) if off else None, len(off))


def _spreads(quantity: Quantity, of_motors: Sequence[Sequence[Baseline]]) -> list[Spread]:
    """Under the conditions that most motors were read in."""
    found: dict[str, Spread] = {}
    everyone = [b for mine in of_motors for b in mine if b.conditions]
    for one in everyone:
        held = of_model(everyone, one.conditions, quantity) if one.conditions else None
        if held is None or one.conditions is None or held.n < LEAST_PEERS:
            continue
        rig = one.conditions.rig
        if rig not in found or held.n > found[rig].motors:
            scale = 1 / (1 + 1.5707963 / held.n) ** 0.5
            found[rig] = Spread(quantity, rig, held.n, held.value, held.u_further * scale)
    return list(found.values())
