"""What was agreed: limits of a class of motor, every version of them, and prices of an owner."""

from collections.abc import Mapping
from datetime import datetime

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from waldhorn.core.comparing.sets import GOOD_ENOUGH
from waldhorn.core.comparing.uses import USES
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.measuring.quantity import Limits
from waldhorn.store.models import GoodEnoughRow, LimitsRow, PricesRow, UseRow


def limits(session: Session, as_of: datetime | None = None) -> dict[str, dict[str, Limits]]:
    """The limits that hold (or held at a time) by class and quantity, where they differ from the default."""
    query = select(LimitsRow).order_by(LimitsRow.at, LimitsRow.id)
    rows = [r for r in session.scalars(query) if as_of is None or r.at <= as_of]
    return {r.motor_class: {q: Limits(*pair) for q, pair in r.limits.items()} for r in rows}


def versions(session: Session, motor_class: str) -> list[LimitsRow]:
    """Every version of the limits of a class, newest first."""
    query = select(LimitsRow).where(LimitsRow.motor_class == motor_class).order_by(LimitsRow.id.desc())
    return list(session.scalars(query))


def save_limits(session: Session, motor_class: str, changed: dict[str, Limits], at: datetime, signed_by: str) -> None:
    """Write a new version of the limits of a class."""
    plain = {q: [limit.watch, limit.act, limit.ceiling] for q, limit in changed.items()}
    session.add(LimitsRow(motor_class=motor_class, limits=plain, at=at, signed_by=signed_by))


def uses(session: Session) -> dict[str, dict[str, float]]:
    """What each use weighs, by quantity, as this pit set it or as is usual."""
    return {
        **{use: dict(weights) for use, weights in USES.items()},
        **{r.use: r.weights for r in session.scalars(select(UseRow))},
    }


def save_use(session: Session, use: str, weights: Mapping[str, float]) -> None:
    """Keep what a use weighs."""
    session.merge(UseRow(use=use, weights=dict(weights)))


def good_enough(session: Session, motor_class: str) -> dict[str, float]:
    """How far the motors of a set may lie apart in a class, by quantity, in its change unit."""
    row = session.get(GoodEnoughRow, motor_class) if motor_class else None
    return {**GOOD_ENOUGH, **(row.within if row else {})}


def save_good_enough(session: Session, motor_class: str, within: Mapping[str, float]) -> None:
    """Keep how far the motors of a set may lie apart in a class."""
    session.merge(GoodEnoughRow(motor_class=motor_class, within=dict(within)))


def prices(session: Session) -> dict[str, Prices]:
    """What each owner sets against each other, by owner."""
    return {r.owner: Prices(r.new, r.repair, r.failure, r.faulty) for r in session.scalars(select(PricesRow))}


def save_prices(session: Session, owner: str, agreed: Prices) -> None:
    """Keep an owner's prices."""
    session.execute(delete(PricesRow).where(PricesRow.owner == owner))
    session.add(
        PricesRow(owner=owner, new=agreed.new, repair=agreed.repair, failure=agreed.failure, faulty=agreed.faulty)
    )
