"""The tables.

A reading belongs to a check, a check and an event to a motor. What can be worked out again from these is kept
only where a page would otherwise have to judge the whole rack (`Standing`, `OwnBaseline`, `RigSpread`), and is
marked stale with every change.
"""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import (
    JSON,
    CheckConstraint,
    Dialect,
    ForeignKey,
    Index,
    MetaData,
    String,
    TypeDecorator,
    UniqueConstraint,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


def moment(at: datetime) -> str:
    """A point in time as it is stored."""
    if at.tzinfo is None:
        raise ValueError(f"{at} has no offset from UTC")
    return at.astimezone(UTC).isoformat(timespec="microseconds")


class Moment(TypeDecorator[datetime]):
    """A point in time: stored as ISO 8601 text in UTC, so that it sorts and can be read with any tool."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> str | None:
        return None if value is None else moment(value)

    def process_result_value(self, value: str | None, dialect: Dialect) -> datetime | None:
        return None if value is None else datetime.fromisoformat(value)


class Base(DeclarativeBase):
    metadata = MetaData(naming_convention=NAMING)
    type_annotation_map = {datetime: Moment, dict[str, Any]: JSON, list[Any]: JSON}  # noqa: RUF012 -- SQLAlchemy's hook


class MotorRow(Base):
    __tablename__ = "motor"
    __table_args__ = (
        CheckConstraint("poles IS NULL OR (poles >= 2 AND poles % 2 = 0)", name="poles_even"),
        CheckConstraint("kind IN ('inrunner', 'outrunner')", name="kind"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    tag: Mapped[str]
    tag_key: Mapped[str] = mapped_column(unique=True)
    model: Mapped[str]
    model_key: Mapped[str] = mapped_column(index=True)
    kind: Mapped[str]
    sensored: Mapped[bool]
    motor_class: Mapped[str]
    label_kv: Mapped[float | None]
    turns: Mapped[float | None]
    poles: Mapped[int | None]
    poles_known_by: Mapped[str]
    slots: Mapped[int | None]
    magnet: Mapped[str]
    mass_g: Mapped[float | None]
    lead_mm: Mapped[float | None]
    lead_awg: Mapped[float | None]
    machine: Mapped[str]
    position: Mapped[str]
    owner: Mapped[str]
    in_service_on: Mapped[str]
    note: Mapped[str]
    search: Mapped[str]


class EventRow(Base):
    __tablename__ = "event"
    __table_args__ = (UniqueConstraint("motor_id", "at", "event", "count", "detail"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    motor_id: Mapped[int] = mapped_column(ForeignKey("motor.id"))
    at: Mapped[datetime]
    event: Mapped[str]
    count: Mapped[int]
    detail: Mapped[str]


class CheckRow(Base):
    __tablename__ = "bench_check"
    __table_args__ = (UniqueConstraint("motor_id", "key"), Index("ix_bench_check_motor_at", "motor_id", "at"))

    id: Mapped[int] = mapped_column(primary_key=True)
    motor_id: Mapped[int] = mapped_column(ForeignKey("motor.id"))
    key: Mapped[str]
    at: Mapped[datetime]
    open: Mapped[bool]
    rig: Mapped[str]
    method: Mapped[str]
    motor_c: Mapped[float | None]
    ambient_c: Mapped[float | None]
    timing_set_deg: Mapped[float | None]
    plan: Mapped[str] = mapped_column(server_default="quick")


class FindingRow(Base):
    """Something noticed in a check that is no number: an item looked at, the lamps, a step skipped, why it stopped."""

    __tablename__ = "finding"
    __table_args__ = (UniqueConstraint("check_id", "subject"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    check_id: Mapped[int] = mapped_column(ForeignKey("bench_check.id"))
    subject: Mapped[str]
    value: Mapped[str]
    note: Mapped[str]
    at: Mapped[datetime]


class PictureRow(Base):
    """A picture of an item looked at, re-encoded without anything but its pixels."""

    __tablename__ = "picture"

    id: Mapped[int] = mapped_column(primary_key=True)
    check_id: Mapped[int] = mapped_column(ForeignKey("bench_check.id"), index=True)
    item: Mapped[str]
    at: Mapped[datetime]
    width: Mapped[int]
    height: Mapped[int]
    image: Mapped[bytes]


class ReadingRow(Base):
    __tablename__ = "reading"
    __table_args__ = (UniqueConstraint("check_id", "fingerprint", "occurrence"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    check_id: Mapped[int] = mapped_column(ForeignKey("bench_check.id"))
    fingerprint: Mapped[int]
    occurrence: Mapped[int]
    at: Mapped[datetime]
    measure: Mapped[str]
    value: Mapped[float]
    run: Mapped[int]
    step: Mapped[int | None]
    throttle_pct: Mapped[float | None]
    rig: Mapped[str]
    method: Mapped[str]
    placement: Mapped[str]
    supply_v: Mapped[float | None]
    timing_set_deg: Mapped[float | None]
    motor_c: Mapped[float | None]
    ambient_c: Mapped[float | None]
    angle_deg: Mapped[float | None]
    accepted: Mapped[bool]
    aside_reason: Mapped[str]
    note: Mapped[str]


class SignedRow(Base):
    """A verdict a technician signed, with what the tool said at that time beside it."""

    __tablename__ = "signed_verdict"

    id: Mapped[int] = mapped_column(primary_key=True)
    motor_id: Mapped[int] = mapped_column(ForeignKey("motor.id"), index=True)
    check_id: Mapped[int | None] = mapped_column(ForeignKey("bench_check.id"))
    at: Mapped[datetime]
    verdict: Mapped[str]
    tool_verdict: Mapped[str]
    reason: Mapped[str]
    signed_by: Mapped[str]
    judgement: Mapped[dict[str, Any]]


class DraftRow(Base):
    """What is typed but not taken yet, so that nothing is lost on a reload or a change of browser."""

    __tablename__ = "draft"

    key: Mapped[str] = mapped_column(primary_key=True)
    fields: Mapped[dict[str, Any]]


class ActRow(Base):
    """What was done last, with what it takes to undo it."""

    __tablename__ = "act"

    id: Mapped[int] = mapped_column(primary_key=True)
    motor_id: Mapped[int] = mapped_column(ForeignKey("motor.id"), index=True)
    at: Mapped[datetime]
    kind: Mapped[str]
    words: Mapped[str]
    inverse: Mapped[dict[str, Any]]
    undone: Mapped[bool]


class StandingRow(Base):
    """How a motor stands on the rack: its judgement, kept until something changes."""

    __tablename__ = "standing"
    __table_args__ = (Index("ix_standing_stale", "stale"), Index("ix_standing_rank", "rank", "due_on"))

    motor_id: Mapped[int] = mapped_column(ForeignKey("motor.id"), primary_key=True)
    stale: Mapped[bool]
    leans_on_model: Mapped[bool]
    rank: Mapped[int]
    verdict: Mapped[str]
    headline: Mapped[str]
    reason: Mapped[str]
    strips: Mapped[list[Any]]
    checked_at: Mapped[datetime | None]
    due_on: Mapped[str]
    due_runs: Mapped[int | None]
    retired: Mapped[bool]
    overruled_by: Mapped[str]
    tool_verdict: Mapped[str]
    on_bench: Mapped[bool]


class OwnBaselineRow(Base):
    """A motor's own early value of a quantity, for the median of its model."""

    __tablename__ = "own_baseline"

    id: Mapped[int] = mapped_column(primary_key=True)
    motor_id: Mapped[int] = mapped_column(ForeignKey("motor.id"), index=True)
    quantity: Mapped[str]
    value: Mapped[float]
    n: Mapped[int]
    conditions: Mapped[dict[str, Any]]


class RigSpreadRow(Base):
    """What one motor's repeats say of a rig: pooled squares, in the quantity's change unit."""

    __tablename__ = "rig_spread"

    motor_id: Mapped[int] = mapped_column(ForeignKey("motor.id"), primary_key=True)
    rig: Mapped[str] = mapped_column(primary_key=True)
    quantity: Mapped[str] = mapped_column(primary_key=True)
    squares: Mapped[float]
    pairs: Mapped[int]


class LimitsRow(Base):
    """Limits of a class of motor as someone set them: every change is a new row, the latest holds."""

    __tablename__ = "class_limits"

    id: Mapped[int] = mapped_column(primary_key=True)
    motor_class: Mapped[str] = mapped_column(index=True)
    limits: Mapped[dict[str, Any]]
    at: Mapped[datetime]
    signed_by: Mapped[str]


class PricesRow(Base):
    """What an owner sets against each other: a new motor, the repair, a failure in a heat."""

    __tablename__ = "owner_prices"

    owner: Mapped[str] = mapped_column(primary_key=True)
    new: Mapped[float]
    repair: Mapped[float]
    failure: Mapped[float]


# In the order in which a backup must put them back, parents first.
BACKED_UP = (
    MotorRow, EventRow, CheckRow, FindingRow, PictureRow, ReadingRow, SignedRow, DraftRow, ActRow, LimitsRow, PricesRow,
)  # fmt: skip
