"""A motor, what happened to it, and what was signed of it."""

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, UniqueConstraint
from sqlalchemy.ext.hybrid import hybrid_property
from sqlalchemy.orm import Mapped, mapped_column

from waldhorn.store.models.base import Base, Withdrawable, Written


class MotorFacts:
    """The facts of a motor."""

    tag: Mapped[str]
    model: Mapped[str]
    kind: Mapped[str]
    sensored: Mapped[bool | None]
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
    rated_a: Mapped[float | None]
    rated_w: Mapped[float | None]
    rated_rpm: Mapped[float | None]
    can_mm: Mapped[float | None]
    length_mm: Mapped[float | None]
    rotor_mm: Mapped[float | None]
    rotor_length_mm: Mapped[float | None]
    bearing_front: Mapped[str]
    bearing_rear: Mapped[str]
    price: Mapped[float | None]
    rated_cells: Mapped[int | None] = mapped_column(default=None)
    stator_mm: Mapped[float | None] = mapped_column(default=None)
    stator_length_mm: Mapped[float | None] = mapped_column(default=None)
    shaft_mm: Mapped[float | None] = mapped_column(default=None)
    laminations_mm: Mapped[float | None] = mapped_column(default=None)
    variant: Mapped[str] = mapped_column(default="")
    wire: Mapped[str] = mapped_column(default="")
    magnet_grade: Mapped[str] = mapped_column(default="")
    own: Mapped[str] = mapped_column(default="")
    note: Mapped[str]
    reference: Mapped[bool] = mapped_column(default=False)
    yardstick: Mapped[bool] = mapped_column(default=False)
    tag_key: Mapped[str]
    model_key: Mapped[str]
    search: Mapped[str]


class MotorRow(MotorFacts, Written, Base):
    """A motor. One whose taking in was undone, or that was merged into another, keeps its row but not its tag:
    `tag_key` is then the identifier, and it is not `on_rack`."""

    __tablename__ = "motor"
    __table_args__ = (
        UniqueConstraint("tag_key"),
        Index("ix_motor_model_key", "model_key"),
        Index("ix_motor_machine", "machine"),
        CheckConstraint("poles IS NULL OR (poles >= 2 AND poles % 2 = 0)", name="poles_even"),
        CheckConstraint("kind IN ('', 'inrunner', 'outrunner')", name="kind"),
    )

    @hybrid_property
    def on_rack(self) -> bool:
        """Whether it can be found: every query of motors filters by it, or says why not."""
        return self.tag_key != self.id


class MotorRevisionRow(MotorFacts, Written, Base):
    """The facts of a motor as a change left them; the first is what they were before."""

    __tablename__ = "motor_revision"

    of_id: Mapped[str] = mapped_column(ForeignKey("motor.id"), index=True)


class EventRow(Withdrawable, Base):
    """Something that happened. `fingerprint` tells the same event that comes in twice; None once it is undone."""

    __tablename__ = "event"
    __table_args__ = (UniqueConstraint("motor_id", "fingerprint"),)

    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"))
    fingerprint: Mapped[int | None]
    at: Mapped[datetime]
    event: Mapped[str]
    count: Mapped[int]
    detail: Mapped[str]
    item: Mapped[str]
    machine: Mapped[str] = mapped_column(default="")
    position: Mapped[str] = mapped_column(default="")


class SignedRow(Written, Base):
    """A verdict a technician signed, with what the tool said at that time beside it."""

    __tablename__ = "signed_verdict"

    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"), index=True)
    check_id: Mapped[str | None] = mapped_column(ForeignKey("bench_check.id"))
    at: Mapped[datetime]
    verdict: Mapped[str]
    tool_verdict: Mapped[str]
    reason: Mapped[str]
    signed_by: Mapped[str]
    judgement: Mapped[dict[str, Any]]
