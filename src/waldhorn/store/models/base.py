"""What every table stands on: identifiers made where a row is made, points in time, and who wrote a row."""

import json
import secrets
import threading
from collections.abc import Callable
from dataclasses import asdict
from datetime import UTC, datetime
from functools import lru_cache
from inspect import get_annotations
from typing import Any

import uuid_utils
from sqlalchemy import JSON, Dialect, ForeignKey, MetaData, String, TypeDecorator
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column
from sqlalchemy.types import UserDefinedType

from waldhorn.core.base.conditions import NO_CONDITIONS, Conditions

NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


_STEP_BITS = 48
_id_lock = threading.Lock()
_last_id = 0


def new_id() -> str:
    """A new identifier: a UUID of version 7, sortable by the time it was made, and always after the one before: a clock
    that is set back does not reorder what was entered.

    The step is random while the clock lags behind what is stored. Steps of one would come upon identifiers that an
    earlier run of the program gave to rows of the same table, and what is stored under a known identifier is ignored.
    """
    global _last_id
    with _id_lock:
        _last_id = max(uuid_utils.uuid7().int, _last_id + 1 + secrets.randbits(_STEP_BITS))
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


def timestamp(at: datetime) -> str:
    """A point in time as it is stored."""
    if at.tzinfo is None:
        raise ValueError(f"{at} has no offset from UTC")
    return at.astimezone(UTC).isoformat(timespec="microseconds")


class Timestamp(TypeDecorator[datetime]):
    """A point in time: stored as ISO 8601 text in UTC, so that it sorts and can be read with any tool."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> str | None:
        return None if value is None else timestamp(value)

    def process_result_value(self, value: str | None, dialect: Dialect) -> datetime | None:
        return None if value is None else datetime.fromisoformat(value)


class StoredConditions(UserDefinedType[Conditions]):
    """Conditions: those that are known, stored as JSON."""

    cache_ok = True

    def get_col_spec(self, **_: Any) -> str:
        """The type it is declared as."""
        return "JSON"

    def bind_processor(self, dialect: Dialect) -> Callable[[Conditions | None], str]:
        """To what is stored."""
        return _known

    def result_processor(self, dialect: Dialect, coltype: object) -> Callable[[str], Conditions]:
        """From what is stored."""
        return _under


_UNKNOWN = asdict(NO_CONDITIONS)


def _known(under: Conditions | None) -> str:
    return json.dumps({n: v for n, v in asdict(under or NO_CONDITIONS).items() if v != _UNKNOWN[n]})


@lru_cache(4096)
def _under(stored: str) -> Conditions:
    """Equal conditions are one value: a page reads hundreds, of a handful."""
    return Conditions(**json.loads(stored))


class Base(DeclarativeBase):
    metadata = MetaData(naming_convention=NAMING)
    type_annotation_map = {datetime: Timestamp, Conditions: StoredConditions, dict[str, Any]: JSON, list[Any]: JSON}  # noqa: RUF012 -- SQLAlchemy's hook


class RowBase:
    """What every row has: its identifier, and when it was changed last."""

    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    changed_at: Mapped[datetime] = mapped_column(default=clock, onupdate=clock)


class Written(RowBase):
    """A row that a change wrote; None for what came in from a file."""

    change_id: Mapped[str | None] = mapped_column(ForeignKey("change.id"), index=True)


class Withdrawable(Written):
    """A row that a later change may take back, as a slip; undoing that change brings it back."""

    withdrawn_by: Mapped[str | None] = mapped_column(ForeignKey("change.id"))


def columns_of(mixin: type) -> tuple[str, ...]:
    """The columns that a mixin declares, those of what it builds on among them."""
    return tuple(name for part in mixin.__mro__ for name in get_annotations(part))
