"""A check, its readings, and what is typed but not taken yet."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from waldhorn.store.models.base import Base, Written


class CheckState:
    """How a check stands: its rig and warmth, what it was found to do, what it is compared with."""

    open: Mapped[bool]
    plan: Mapped[str]
    rig: Mapped[str]
    method: Mapped[str]
    motor_c: Mapped[float | None]
    ambient_c: Mapped[float | None]
    timing_set_deg: Mapped[float | None]
    first_spin: Mapped[str | None]
    sweep: Mapped[str | None]
    caution_confirmed: Mapped[bool]
    compare_c: Mapped[float | None]
    lever_unit: Mapped[str]
    lever_mm: Mapped[float | None]
    stopped_because: Mapped[str]


class CheckRow(CheckState, Written, Base):
    __tablename__ = "bench_check"
    __table_args__ = (
        UniqueConstraint("motor_id", "key"),
        Index("ix_bench_check_motor_at", "motor_id", "at"),
        Index("ix_bench_check_at", "at"),
        Index("ix_bench_check_open", "motor_id", sqlite_where=text("open")),
    )

    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"))
    key: Mapped[str]
    at: Mapped[datetime]


class CheckRevisionRow(CheckState, Written, Base):
    """A check as a change left it."""

    __tablename__ = "check_revision"

    of_id: Mapped[str] = mapped_column(ForeignKey("bench_check.id"), index=True)


class ReadingUnder:
    """The conditions of a reading (`core.base.conditions`)."""

    rig: Mapped[str] = mapped_column(default="")
    method: Mapped[str] = mapped_column(default="")
    throttle_pct: Mapped[float | None] = mapped_column(default=None)
    placement: Mapped[str] = mapped_column(default="")
    distance_cm: Mapped[float | None] = mapped_column(default=None)
    meter: Mapped[str] = mapped_column(default="")
    supply_v: Mapped[float | None] = mapped_column(default=None)
    timing_set_deg: Mapped[float | None] = mapped_column(default=None)
    motor_c: Mapped[float | None] = mapped_column(default=None)
    ambient_c: Mapped[float | None] = mapped_column(default=None)
    on_shaft: Mapped[str] = mapped_column(default="")
    pack: Mapped[str] = mapped_column(default="")
    cells: Mapped[float | None] = mapped_column(default=None)
    pack_mohm: Mapped[float | None] = mapped_column(default=None)
    spot: Mapped[str] = mapped_column(default="")
    lever: Mapped[str] = mapped_column(default="")


class ReadingState(ReadingUnder):
    """What a change may alter on a reading."""

    value: Mapped[float]
    accepted: Mapped[bool]
    aside_reason: Mapped[str]


class ReadingRow(ReadingState, Written, Base):
    """One number. `fingerprint` and `occurrence` tell the same reading that comes in twice (see `fingerprints`)."""

    __tablename__ = "reading"
    __table_args__ = (UniqueConstraint("check_id", "fingerprint", "occurrence"),)

    check_id: Mapped[str] = mapped_column(ForeignKey("bench_check.id"))
    fingerprint: Mapped[int | None]
    occurrence: Mapped[int]
    at: Mapped[datetime]
    measure: Mapped[str]
    run: Mapped[int]
    purpose: Mapped[str]
    angle_deg: Mapped[float | None]
    position: Mapped[int | None]
    note: Mapped[str]


class ReadingRevisionRow(ReadingState, Written, Base):
    """A reading as a change left it: corrected, set aside, brought back, re-based."""

    __tablename__ = "reading_revision"

    of_id: Mapped[str] = mapped_column(ForeignKey("reading.id"), index=True)


class CheckDraftRow(Base):
    """What is typed into a step of a check but not taken yet, for which run; it goes with its check."""

    __tablename__ = "check_draft"

    check_id: Mapped[str] = mapped_column(ForeignKey("bench_check.id", ondelete="CASCADE"), primary_key=True)
    step: Mapped[str] = mapped_column(primary_key=True)
    run: Mapped[int | None]
    fields: Mapped[dict[str, Any]]


class FormDraftRow(Base):
    """What is typed into a form that belongs to no check."""

    __tablename__ = "form_draft"

    form: Mapped[str] = mapped_column(primary_key=True)
    fields: Mapped[dict[str, Any]]
