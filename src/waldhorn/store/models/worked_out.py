"""What can be worked out again from the other tables, kept only where a page would otherwise have to judge the whole
rack, and the count of changes that tells when it is stale."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index
from sqlalchemy.orm import Mapped, mapped_column

from waldhorn.core.base.conditions import Conditions
from waldhorn.store.models.base import Base


class StoreStateRow(Base):
    """The one row that counts changes: `revision` grows with everything that can change an answer."""

    __tablename__ = "store_state"

    id: Mapped[int] = mapped_column(primary_key=True)
    revision: Mapped[int]


class CachedVerdictRow(Base):
    """How a motor stands on the rack: its judgement, kept.

    It is stale when it was `judged` at an earlier revision of the store than the motor was last `touched` at, or by
    another version of the judge.
    """

    __tablename__ = "standing"
    __table_args__ = (Index("ix_standing_rank", "rank", "due_on"),)

    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"), primary_key=True)
    touched: Mapped[int]
    judged: Mapped[int]
    judge_version: Mapped[int]
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
    """A motor's own early value of a quantity, for the median of its model, and from when until when it held."""

    __tablename__ = "own_baseline"

    id: Mapped[int] = mapped_column(primary_key=True)
    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"), index=True)
    quantity: Mapped[str]
    value: Mapped[float]
    n: Mapped[int]
    conditions: Mapped[Conditions]
    at: Mapped[datetime]
    until: Mapped[datetime | None]


class LatestRow(Base):
    """What was read of a motor last, a quantity a row (see `core.comparing.Latest`), so that comparing does not read
    whole histories; `change` and `u_change` how far that lies from its own past, change unit."""

    __tablename__ = "latest_value"

    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"), primary_key=True)
    quantity: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[float]
    n: Mapped[int]
    runs: Mapped[int]
    at: Mapped[datetime]
    conditions: Mapped[Conditions]
    u_further: Mapped[float]
    resolution: Mapped[float]
    change: Mapped[float | None]
    u_change: Mapped[float | None]


class RigShiftRow(Base):
    """What the motors of a day moved alike on a rig, and how many (see `core.rigs.day_shift`)."""

    __tablename__ = "rig_shift"

    rig: Mapped[str] = mapped_column(primary_key=True)
    quantity: Mapped[str] = mapped_column(primary_key=True)
    day: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[float]
    u: Mapped[float]
    motors: Mapped[int]


class ModelSpreadRow(Base):
    """How far the motors of a model lie apart as they came in, a quantity and a rig a row: how many, their median, and
    one standard deviation in the change unit."""

    __tablename__ = "model_spread"

    model_key: Mapped[str] = mapped_column(primary_key=True)
    quantity: Mapped[str] = mapped_column(primary_key=True)
    rig: Mapped[str] = mapped_column(primary_key=True)
    motors: Mapped[int]
    middle: Mapped[float]
    apart: Mapped[float]


class RigSpreadRow(Base):
    """What one check says of a rig: pooled squares of runs within it, and of visits of the motor, in the quantity's
    change unit (see `core.learning`)."""

    __tablename__ = "rig_spread"

    check_id: Mapped[str] = mapped_column(ForeignKey("bench_check.id"), primary_key=True)
    rig: Mapped[str] = mapped_column(primary_key=True)
    quantity: Mapped[str] = mapped_column(primary_key=True)
    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"), index=True)
    at: Mapped[datetime] = mapped_column(index=True)
    squares: Mapped[float]
    pairs: Mapped[int]
    visit_squares: Mapped[float]
    visit_pairs: Mapped[int]
    visit_runs: Mapped[float]


class SumsOfRig:
    """What the repeats of a quantity on a rig have shown, summed."""

    rig: Mapped[str] = mapped_column(primary_key=True)
    quantity: Mapped[str] = mapped_column(primary_key=True)
    squares: Mapped[float]
    pairs: Mapped[int]
    visit_squares: Mapped[float]
    visit_pairs: Mapped[int]
    visit_runs: Mapped[float]


class RigTotalRow(SumsOfRig, Base):
    """The sums of `rig_spread` over all checks, kept up with it: every page that judges asks for them."""

    __tablename__ = "rig_total"


class RigHeldRow(SumsOfRig, Base):
    """The sums of `rig_total` that motors are judged by: they follow once a rig's repeatability has moved enough to
    matter, and then every motor read on it is judged again. So the rack and a page always judge by the same."""

    __tablename__ = "rig_held"


class RigPairRow(Base):
    """What a motor read of a quantity on two rigs, nearest in time (see `core.rigs.pairs`)."""

    __tablename__ = "rig_pair"

    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"), primary_key=True)
    quantity: Mapped[str] = mapped_column(primary_key=True)
    rig: Mapped[str] = mapped_column(primary_key=True)
    other: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[float]
    other_value: Mapped[float]
    at: Mapped[datetime]


class RigLineRow(Base):
    """The line from one rig to another for a quantity, worked out of the motors that were read on both, and from when
    on it holds."""

    __tablename__ = "rig_line"

    rig: Mapped[str] = mapped_column(primary_key=True)
    other: Mapped[str] = mapped_column(primary_key=True)
    quantity: Mapped[str] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    k: Mapped[float]
    a: Mapped[float]
    u_k: Mapped[float]
    u_a: Mapped[float]
    cov: Mapped[float]
    residual: Mapped[float]
    pairs: Mapped[int]


class RigDriftRow(Base):
    """From when until when a rig read a reference motor wrongly (None: it does still), worked out of its chart."""

    __tablename__ = "rig_drift"

    id: Mapped[int] = mapped_column(primary_key=True)
    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"), index=True)
    rig: Mapped[str]
    quantity: Mapped[str]
    since: Mapped[datetime]
    until: Mapped[datetime | None]
