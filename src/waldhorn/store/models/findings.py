"""What was found in a check beside its readings."""

from datetime import datetime
from enum import StrEnum

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from waldhorn.store.models.base import Base, Withdrawable


class StepState(StrEnum):
    """What became of a step that yields no readings, or was passed over."""

    DONE = "done"
    SKIPPED = "skipped"


class OfCheck(Withdrawable):
    """Something found in a check."""

    check_id: Mapped[str] = mapped_column(ForeignKey("bench_check.id"), index=True)
    at: Mapped[datetime]


class InspectionRow(OfCheck, Base):
    """An item looked at; the latest counts."""

    __tablename__ = "inspection"

    item: Mapped[str]
    state: Mapped[str]
    note: Mapped[str]


class HallLampsRow(OfCheck, Base):
    """What the Hall lamps showed; states A B C parted by blanks."""

    __tablename__ = "hall_lamps"

    kind: Mapped[str]
    states: Mapped[str]
    turned: Mapped[str]
    direction: Mapped[int]


class PoleCountRow(OfCheck, Base):
    """A pole count found: None when it did not settle; `before` is what was on record."""

    __tablename__ = "pole_count"

    poles: Mapped[int | None]
    known_by: Mapped[str]
    before: Mapped[int | None]
    rebased: Mapped[bool]


class StepStateRow(OfCheck, Base):
    """A step done or passed over; the latest counts."""

    __tablename__ = "step_state"

    step: Mapped[str]
    state: Mapped[str]


class OverruleRow(OfCheck, Base):
    """Power allowed in spite of a finding."""

    __tablename__ = "overrule"

    subject: Mapped[str]
    reason: Mapped[str]


class GuardTripRow(OfCheck, Base):
    """A live run stopped by a guard, or trouble the instrument reported."""

    __tablename__ = "guard_trip"

    kind: Mapped[str]
    detail: Mapped[str]


class CrossTriedRow(OfCheck, Base):
    """How this motor and a known good one ran on the machine's controller and on the bench; empty was not tried."""

    __tablename__ = "cross_tried"

    own_machine: Mapped[str]
    own_bench: Mapped[str]
    known_machine: Mapped[str]
    known_bench: Mapped[str]
    other_cable: Mapped[str]


class TimingGoalRow(OfCheck, Base):
    """The current the timing is set to, on which rig and by which meter; the latest counts."""

    __tablename__ = "timing_goal"

    target_a: Mapped[float]
    tolerance_a: Mapped[float]
    resolution_deg: Mapped[float]
    knee_rpm_per_a: Mapped[float | None]
    rig: Mapped[str]
    meter: Mapped[str] = mapped_column(default="")


class FlywheelTraceRow(OfCheck, Base):
    """A speed trace of a flywheel, as it was typed, with its inertia in kg·m² and the stated speed."""

    __tablename__ = "flywheel_trace"

    trace: Mapped[str]
    inertia_kgm2: Mapped[float]
    at_rpm: Mapped[float]


class PictureRow(OfCheck, Base):
    """A picture of an item looked at, re-encoded without anything but its pixels."""

    __tablename__ = "picture"

    item: Mapped[str]
    width: Mapped[int]
    height: Mapped[int]
    image: Mapped[bytes]


class SoundRow(OfCheck, Base):
    """What was heard in a step, as FLAC of one channel; the note says what ran and what recorded it."""

    __tablename__ = "sound"

    step: Mapped[str]
    note: Mapped[str]
    flac: Mapped[bytes]
