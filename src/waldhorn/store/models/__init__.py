"""The tables.

A reading belongs to a check, a check and an event to a motor. Every row has an identifier made where the row is made
(a UUID that sorts by time) and a time of change, so that two stores can become one. Rows that a person's change wrote
carry that change: a change that is undone takes its rows out of sight, nothing is deleted. What a change alters on a
motor, a check or a reading is kept as a revision beside the row.

What can be worked out again from these stands in `worked_out`.
"""

from waldhorn.store.models.base import Base, RowBase, Timestamp, Written, clock, ids_after, new_id, timestamp
from waldhorn.store.models.changes import ChangeKind, ChangeRow, SentFormRow
from waldhorn.store.models.checks import (
    CheckDraftRow,
    CheckRevisionRow,
    CheckRow,
    FormDraftRow,
    ReadingRevisionRow,
    ReadingRow,
)
from waldhorn.store.models.findings import (
    CrossTriedRow,
    FlywheelTraceRow,
    GuardTripRow,
    HallLampsRow,
    InspectionRow,
    OfCheck,
    OverruleRow,
    PictureRow,
    PoleCountRow,
    SoundRow,
    StepState,
    StepStateRow,
    TimingGoalRow,
)
from waldhorn.store.models.loads import PackRow, PropellerRow
from waldhorn.store.models.motors import EventRow, MotorRevisionRow, MotorRow, SignedRow
from waldhorn.store.models.pit import (
    ApiKeyRow,
    GoodEnoughRow,
    LimitsRow,
    LineFormatRow,
    PassphraseRow,
    PitRow,
    PricesRow,
    RigNameRow,
    RigRow,
    SeatRow,
    SecretRow,
    SheetMappingRow,
    StudyRow,
    UseRow,
)
from waldhorn.store.models.worked_out import (
    CachedVerdictRow,
    LatestRow,
    ModelSpreadRow,
    OwnBaselineRow,
    RigDriftRow,
    RigHeldRow,
    RigLineRow,
    RigPairRow,
    RigShiftRow,
    RigSpreadRow,
    RigTotalRow,
    StoreStateRow,
)

__all__ = [
    "ATTACHED",
    "BACKED_UP",
    "FINDINGS",
    "WORKED_OUT",
    "ApiKeyRow",
    "Base",
    "CachedVerdictRow",
    "ChangeKind",
    "ChangeRow",
    "CheckDraftRow",
    "CheckRevisionRow",
    "CheckRow",
    "CrossTriedRow",
    "EventRow",
    "FlywheelTraceRow",
    "FormDraftRow",
    "GoodEnoughRow",
    "GuardTripRow",
    "HallLampsRow",
    "InspectionRow",
    "LatestRow",
    "LimitsRow",
    "LineFormatRow",
    "ModelSpreadRow",
    "MotorRevisionRow",
    "MotorRow",
    "OfCheck",
    "OverruleRow",
    "OwnBaselineRow",
    "PackRow",
    "PassphraseRow",
    "PictureRow",
    "PitRow",
    "PoleCountRow",
    "PricesRow",
    "PropellerRow",
    "ReadingRevisionRow",
    "ReadingRow",
    "RigDriftRow",
    "RigHeldRow",
    "RigLineRow",
    "RigNameRow",
    "RigPairRow",
    "RigRow",
    "RigShiftRow",
    "RigSpreadRow",
    "RigTotalRow",
    "RowBase",
    "SeatRow",
    "SecretRow",
    "SentFormRow",
    "SheetMappingRow",
    "SignedRow",
    "SoundRow",
    "StepState",
    "StepStateRow",
    "StoreStateRow",
    "StudyRow",
    "Timestamp",
    "TimingGoalRow",
    "UseRow",
    "Written",
    "clock",
    "ids_after",
    "new_id",
    "timestamp",
]

FINDINGS = (
    InspectionRow, HallLampsRow, PoleCountRow, StepStateRow, OverruleRow, GuardTripRow, CrossTriedRow, TimingGoalRow,
    FlywheelTraceRow,
)  # fmt: skip
# Caches: what a migration empties.
WORKED_OUT = (
    CachedVerdictRow, OwnBaselineRow, LatestRow, ModelSpreadRow, RigSpreadRow, RigTotalRow, RigHeldRow, RigLineRow,
    RigPairRow, RigShiftRow, RigDriftRow,
)  # fmt: skip
ATTACHED = (PictureRow, SoundRow)  # to a check, as files
# In the order in which a backup must put them back, parents first.
BACKED_UP = (
    ChangeRow, MotorRow, MotorRevisionRow, EventRow, CheckRow, CheckRevisionRow, *FINDINGS, *ATTACHED, ReadingRow,
    ReadingRevisionRow, SignedRow, CheckDraftRow, FormDraftRow, LimitsRow, PricesRow, UseRow,
    GoodEnoughRow, RigRow, RigNameRow, StudyRow, SheetMappingRow, PitRow, LineFormatRow, PropellerRow, PackRow,
)  # fmt: skip
