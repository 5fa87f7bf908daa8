"""What a person did that can be undone: every row that a change wrote carries it."""

from datetime import datetime
from enum import StrEnum
from typing import Any

from sqlalchemy import Index, text
from sqlalchemy.orm import Mapped, mapped_column

from waldhorn.store.models.base import Base, RowBase


class ChangeKind(StrEnum):
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
    CORRECT = "correct"
    SKIP = "skip"
    STOP = "stop"
    OVERRULE = "overrule"
    REBASE = "rebase"
    TIMING_SET = "timing_set"
    PICTURE = "picture"
    SOUND = "sound"
    SIGN = "sign"
    HANG_BACK = "hang_back"
    AMEND = "amend"
    EVENT = "event"
    SHAKE = "shake"
    STUDY = "study"
    BRING_IN = "bring_in"
    MERGE = "merge"  # of two stores
    MERGE_MOTORS = "merge_motors"  # of one that was on the rack twice
    TAKE_IN = "take_in"
    LOAD_NAME = "load_name"  # a propeller or a pack got a name


class SentFormRow(Base):
    """A form that was sent and stored, by a mark of its identifier and what stood in it."""

    __tablename__ = "sent_form"
    __table_args__ = (Index("ix_sent_form_at", "at"),)

    mark: Mapped[str] = mapped_column(primary_key=True)
    at: Mapped[datetime]


class ChangeRow(RowBase, Base):
    """Something a person did, in order of its identifier; `typed` is what stood in the fields of its step, `who` the
    seat it was done from, empty where nobody had said who is at this machine."""

    __tablename__ = "change"
    __table_args__ = (
        Index("ix_change_motor_id", "motor_id", "id"),
        Index("ix_change_undone", "id", sqlite_where=text("undone_at IS NOT NULL")),
    )

    motor_id: Mapped[str | None]
    check_id: Mapped[str | None]
    at: Mapped[datetime]
    kind: Mapped[str]
    step: Mapped[str]
    detail: Mapped[str]
    count: Mapped[int]
    typed: Mapped[dict[str, Any]]
    who: Mapped[str] = mapped_column(default="", server_default="")
    undone_at: Mapped[datetime | None]
