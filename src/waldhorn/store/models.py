"""The tables.

A reading belongs to a check, a check and an event to a motor. Every row has an identifier made where the row is made
(a UUID that sorts by time) and a time of change, so that two stores can become one. Rows that a person's act wrote
carry that act: an act that is undone takes its rows out of sight, nothing is deleted. What an act changes on a motor,
a check or a reading is kept as a revision beside the row.

What can be worked out again from these is kept only where a page would otherwise have to judge the whole rack
(`Standing`, `OwnBaseline`, `RigSpread`).
"""

import threading
from datetime import UTC, datetime
from enum import StrEnum
from typing import Any

import uuid_utils
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

from waldhorn.core.faults import FAULTY

NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


_id_lock = threading.Lock()
_last_id = 0


def new_id() -> str:
    """A new identifier: a UUID of version 7, sortable by the time it was made, and always after the one before: a clock
    that is set back does not reorder what was entered."""
    global _last_id
    with _id_lock:
        _last_id = max(uuid_utils.uuid7().int, _last_id + 1)
        h = f"{_last_id:032x}"
    return f"{h[:8]}-{h[8:12]}-{h[12:16]}-{h[16:20]}-{h[20:]}"


def ids_after(known: str | None) -> None:
    """Make every further identifier later than one that is stored already."""
    global _last_id
    with _id_lock:
        _last_id = max(_last_id, int(known.replace("-", ""), 16)) if known else _last_id


def clock() -> datetime:
    """The time a row is changed."""
    return datetime.now(UTC)


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


class ActKind(StrEnum):
    """What a person can do that can be undone."""

    OPEN = "open"
    PLAN = "plan"
    SET_UP = "set_up"
    TAKE = "take"
    LIVE = "live"
    CAUTION = "caution"
    ASIDE = "aside"
    PEAKS_ASIDE = "peaks_aside"
    BACK = "back"
    SKIP = "skip"
    STOP = "stop"
    OVERRULE = "overrule"
    REBASE = "rebase"
    TIMING_SET = "timing_set"
    PICTURE = "picture"
    SIGN = "sign"
    HANG_BACK = "hang_back"
    AMEND = "amend"
    EVENT = "event"
    SHAKE = "shake"
    STUDY = "study"
    BRING_IN = "bring_in"
    MERGE = "merge"


class StepState(StrEnum):
    """What became of a step that yields no readings, or was passed over."""

    DONE = "done"
    SKIPPED = "skipped"


class Kept:
    """What every row has: its identifier, and when it was changed last."""

    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    changed_at: Mapped[datetime] = mapped_column(default=clock, onupdate=clock)


class Written(Kept):
    """A row that an act wrote; None for what came in from a file."""

    act_id: Mapped[str | None] = mapped_column(ForeignKey("act.id"), index=True)


class ActRow(Kept, Base):
    """Something a person did, in order of its identifier; `typed` is what stood in the fields of its step."""

    __tablename__ = "act"

    motor_id: Mapped[str | None] = mapped_column(index=True)
    check_id: Mapped[str | None]
    at: Mapped[datetime]
    kind: Mapped[str]
    step: Mapped[str]
    detail: Mapped[str]
    count: Mapped[int]
    typed: Mapped[dict[str, Any]]
    undone_at: Mapped[datetime | None]


class MotorFacts:
    """The facts of a motor."""

    tag: Mapped[str]
    model: Mapped[str]
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
    note: Mapped[str]
    reference: Mapped[bool] = mapped_column(default=False)
    tag_key: Mapped[str]
    model_key: Mapped[str]
    search: Mapped[str]


class MotorRow(MotorFacts, Written, Base):
    __tablename__ = "motor"
    __table_args__ = (
        UniqueConstraint("tag_key"),
        Index("ix_motor_model_key", "model_key"),
        Index("ix_motor_machine", "machine"),
        CheckConstraint("poles IS NULL OR (poles >= 2 AND poles % 2 = 0)", name="poles_even"),
        CheckConstraint("kind IN ('inrunner', 'outrunner')", name="kind"),
    )


class MotorRevisionRow(MotorFacts, Written, Base):
    """The facts of a motor as an act left them; the first is what they were before."""

    __tablename__ = "motor_revision"

    of_id: Mapped[str] = mapped_column(ForeignKey("motor.id"), index=True)


class EventRow(Written, Base):
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
    __table_args__ = (UniqueConstraint("motor_id", "key"), Index("ix_bench_check_motor_at", "motor_id", "at"))

    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"))
    key: Mapped[str]
    at: Mapped[datetime]


class CheckRevisionRow(CheckState, Written, Base):
    """A check as an act left it."""

    __tablename__ = "check_revision"

    of_id: Mapped[str] = mapped_column(ForeignKey("bench_check.id"), index=True)


class OfCheck(Written):
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
    """The current the timing is set to, on which rig; the latest counts."""

    __tablename__ = "timing_goal"

    target_a: Mapped[float]
    tolerance_a: Mapped[float]
    resolution_deg: Mapped[float]
    knee_rpm_per_a: Mapped[float | None]
    rig: Mapped[str]


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


class ReadingState:
    """What an act may change on a reading."""

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
    rig: Mapped[str]
    method: Mapped[str]
    throttle_pct: Mapped[float | None]
    placement: Mapped[str]
    distance_cm: Mapped[float | None]
    meter: Mapped[str]
    supply_v: Mapped[float | None]
    timing_set_deg: Mapped[float | None]
    motor_c: Mapped[float | None]
    ambient_c: Mapped[float | None]
    on_shaft: Mapped[str]
    angle_deg: Mapped[float | None]
    position: Mapped[int | None]
    note: Mapped[str]


class ReadingRevisionRow(ReadingState, Written, Base):
    """A reading as an act left it: set aside, brought back, re-based."""

    __tablename__ = "reading_revision"

    of_id: Mapped[str] = mapped_column(ForeignKey("reading.id"), index=True)


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


class StoreStateRow(Base):
    """The one row that counts changes: `revision` grows with everything that can change an answer."""

    __tablename__ = "store_state"

    id: Mapped[int] = mapped_column(primary_key=True)
    revision: Mapped[int]


class StandingRow(Base):
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
    conditions: Mapped[dict[str, Any]]
    at: Mapped[datetime]
    until: Mapped[datetime | None]


class LatestRow(Base):
    """What was read of a motor last, a quantity a row (see `core.comparing.Latest`), so that comparing does not read
    whole histories."""

    __tablename__ = "latest_value"

    motor_id: Mapped[str] = mapped_column(ForeignKey("motor.id"), primary_key=True)
    quantity: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[float]
    n: Mapped[int]
    runs: Mapped[int]
    at: Mapped[datetime]
    conditions: Mapped[dict[str, Any]]
    u_further: Mapped[float]
    resolution: Mapped[float]


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


class RigTotalRow(Base):
    """The sums of `rig_spread` over all checks, kept up with it: every page that judges asks for them."""

    __tablename__ = "rig_total"

    rig: Mapped[str] = mapped_column(primary_key=True)
    quantity: Mapped[str] = mapped_column(primary_key=True)
    squares: Mapped[float]
    pairs: Mapped[int]
    visit_squares: Mapped[float]
    visit_pairs: Mapped[int]
    visit_runs: Mapped[float]


class LimitsRow(Kept, Base):
    """Limits of a class of motor as someone set them: every change is a new row, the latest holds."""

    __tablename__ = "class_limits"

    motor_class: Mapped[str] = mapped_column(index=True)
    limits: Mapped[dict[str, Any]]
    at: Mapped[datetime]
    signed_by: Mapped[str]


class PricesRow(Base):
    """What an owner sets against each other: a new motor, the repair, a failure in a heat; and the share of motors with
    a fault."""

    __tablename__ = "owner_prices"

    owner: Mapped[str] = mapped_column(primary_key=True)
    new: Mapped[float]
    repair: Mapped[float]
    failure: Mapped[float]
    faulty: Mapped[float] = mapped_column(default=FAULTY)


class UseRow(Base):
    """What a use weighs, in watch limits of each quantity, where a pit sets it otherwise than the usual."""

    __tablename__ = "use_weights"

    use: Mapped[str] = mapped_column(primary_key=True)
    weights: Mapped[dict[str, Any]]


class GoodEnoughRow(Base):
    """How far the motors of a set may lie apart in a class, by quantity, in its change unit."""

    __tablename__ = "good_enough"

    motor_class: Mapped[str] = mapped_column(primary_key=True)
    within: Mapped[dict[str, Any]]


class RigRow(Base):
    """A rig as it was described: what it is, how it is connected, which amps it measures, how it is set; and when it
    was put right last, which starts the chart of its reference motor anew. One of another pit carries that pit's
    identifier and name, and what it is called there."""

    __tablename__ = "rig"

    name: Mapped[str] = mapped_column(primary_key=True)
    what: Mapped[str]
    connected: Mapped[str]
    measures: Mapped[str]
    settings: Mapped[str]
    put_right_at: Mapped[datetime | None]
    pit_id: Mapped[str] = mapped_column(default="")
    pit_name: Mapped[str] = mapped_column(default="")
    own_name: Mapped[str] = mapped_column(default="")


class PitRow(Base):
    """The one row of what a pit calls itself and how it wants numbers shown; `also` are identifiers of stores that
    became this one, `maxima` what the rules of a class allow at most, by class and measure."""

    __tablename__ = "pit"

    id: Mapped[int] = mapped_column(primary_key=True)
    pit_id: Mapped[str]
    name: Mapped[str]
    signer: Mapped[str]
    rig: Mapped[str]
    theme: Mapped[str]
    temperature: Mapped[str]
    torque: Mapped[str]
    length: Mapped[str]
    decimal_comma: Mapped[bool]
    also: Mapped[list[Any]]
    maxima: Mapped[dict[str, Any]]


class RecipeRow(Base):
    """How the lines of an instrument are read, by name."""

    __tablename__ = "recipe"

    name: Mapped[str] = mapped_column(primary_key=True)
    recipe: Mapped[dict[str, Any]]


class RigNameRow(Base):
    """A name that was typed for a rig, as it is compared, and the rig it means: one rig may have been typed twice."""

    __tablename__ = "rig_name"

    key: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]


class ApiKeyRow(Kept, Base):
    """A key of the API: its name and the digest of it; the key itself is kept nowhere."""

    __tablename__ = "api_key"

    name: Mapped[str]
    digest: Mapped[str] = mapped_column(index=True)
    made_at: Mapped[datetime]
    withdrawn_at: Mapped[datetime | None]


class SheetMappingRow(Base):
    """How a foreign sheet was mapped last, by its header."""

    __tablename__ = "sheet_mapping"

    header: Mapped[str] = mapped_column(primary_key=True)
    mapping: Mapped[dict[str, Any]]


class StudyRow(Kept, Base):
    """A study of a rig: which motors (by id), how often clamped and how many runs each time, of which measure, in the
    order `seed` draws. Its values are readings of the purpose study, in a check a visit."""

    __tablename__ = "study"

    rig: Mapped[str] = mapped_column(index=True)
    measure: Mapped[str]
    motors: Mapped[list[Any]]
    visits: Mapped[int]
    runs: Mapped[int]
    seed: Mapped[int]
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


FINDINGS = (
    InspectionRow, HallLampsRow, PoleCountRow, StepStateRow, OverruleRow, GuardTripRow, CrossTriedRow, TimingGoalRow,
    FlywheelTraceRow,
)  # fmt: skip
# In the order in which a backup must put them back, parents first.
BACKED_UP = (
    ActRow, MotorRow, MotorRevisionRow, EventRow, CheckRow, CheckRevisionRow, *FINDINGS, PictureRow, ReadingRow,
    ReadingRevisionRow, SignedRow, CheckDraftRow, FormDraftRow, LimitsRow, PricesRow, UseRow,
    GoodEnoughRow, RigRow, RigNameRow, StudyRow, SheetMappingRow, PitRow, RecipeRow,
)  # fmt: skip
