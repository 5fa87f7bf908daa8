"""Stored rows as plain JSON values, and rows of a document checked before they go into a store.

What a column may hold follows from the table: its type, whether it may be empty, and the closed list of words behind
it, where it has one.
"""

from base64 import b64decode, b64encode
from datetime import datetime
from enum import StrEnum
from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, create_model

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.text import without_control
from waldhorn.core.base.vocabulary import (
    EventKind,
    GuardKind,
    HallKind,
    Look,
    Method,
    Placement,
    PolesBy,
    Purpose,
    Ran,
    Spin,
    Spot,
    Sweep,
    Turning,
    Verdict,
)
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.core.motors.facts import KINDS, MAGNETS
from waldhorn.exchange.rows import Identifier, Time
from waldhorn.store.models import StepState, Timestamp

_STRICT = ConfigDict(allow_inf_nan=False, extra="forbid")
_WORDS: dict[tuple[str, str], type[StrEnum] | tuple[str, ...]] = {
    ("motor", "kind"): KINDS,
    ("motor", "magnet"): MAGNETS,
    ("motor", "poles_known_by"): PolesBy,
    ("event", "event"): EventKind,
    ("bench_check", "first_spin"): Spin,
    ("bench_check", "sweep"): Sweep,
    ("bench_check", "method"): Method,
    ("reading", "measure"): tuple(MEASURES),
    ("reading", "purpose"): Purpose,
    ("reading", "method"): Method,
    ("reading", "placement"): Placement,
    ("reading", "spot"): Spot,
    ("inspection", "state"): Look,
    ("hall_lamps", "kind"): HallKind,
    ("hall_lamps", "turned"): Turning,
    ("step_state", "state"): StepState,
    ("guard_trip", "kind"): GuardKind,
    ("signed_verdict", "verdict"): Verdict,
    ("signed_verdict", "tool_verdict"): Verdict,
    **{("cross_tried", c): Ran for c in ("own_machine", "own_bench", "known_machine", "known_bench", "other_cable")},
}


class _Judged(BaseModel):
    """What a signed judgement must say at least, for the page that shows it."""

    class Evidence(BaseModel):
        """One measure of it."""

        measure: str
        change: float | None
        watch: float
        act: float

    evidence: list[Evidence]


def _judgement(said: dict[str, Any]) -> dict[str, Any]:
    whole = said if "evidence" in said else said | {"evidence": []}
    _Judged.model_validate(whole)
    return whole


def _bytes(given: Any) -> Any:
    return b64decode(given, validate=True) if isinstance(given, str) else given


_JUDGEMENT = Annotated[dict[str, Any], AfterValidator(_judgement)]
_TEXT = Annotated[str, AfterValidator(without_control)]  # a store of an earlier edition may hold them
_INTEGER = Annotated[int, Field(ge=-(2**63), lt=2**63)]  # what a column holds
_BYTES = Annotated[bytes, BeforeValidator(_bytes)]
_MAY_BE_EMPTY = {("motor", "kind"), ("motor", "poles_known_by"), ("hall_lamps", "turned")} | {
    (table, name) for table in ("bench_check", "reading") for name in ("method", "placement", "spot")
}


def plain(value: Any) -> Any:
    """A stored value as JSON knows it: bytes as base64, times as ISO 8601."""
    if isinstance(value, bytes):
        return b64encode(value).decode()
    return value.isoformat() if isinstance(value, datetime) else value


def checked(model: Any, rows: Any, where: str) -> list[dict[str, Any]]:
    """Rows of a document as rows of a table; raises InputError with the place of the first that cannot be one.

    A column that an older document does not have stands at its default.
    """
    if not isinstance(rows, list):
        raise InputError("file", f"{where}: is no list of rows")
    shape, found = _shape(model), []
    for number, row in enumerate(rows, 1):
        try:
            found.append(shape.model_validate(row).model_dump())
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            place = "".join(f"{p}: " for p in first["loc"])
            raise InputError("file", f"{where}: row {number}: {place}{first['msg'].lower()}") from error
    return found


@lru_cache
def _shape(model: Any) -> type[BaseModel]:
    columns: dict[str, Any] = {c.name: (_kind(c), _otherwise(c)) for c in model.__table__.columns}
    return create_model(model.__tablename__, __config__=_STRICT, **columns)


def _kind(column: Any) -> Any:
    kind: Any = Time if isinstance(column.type, Timestamp) else column.type.python_type
    if kind is str:  # an identifier that is cut is no longer the one that other rows refer to: it is refused instead
        kind = Identifier if column.name == "id" or column.name.endswith("_id") else _TEXT
    if kind is int:
        kind = _INTEGER
    if kind is bytes:
        return _BYTES
    if column.name == "judgement":
        return _JUDGEMENT
    if words := _WORDS.get((column.table.name, column.name)):
        empty = ("",) if (at := (column.table.name, column.name)) in _MAY_BE_EMPTY or at[0] == "cross_tried" else ()
        kind = Literal[(*map(str, words), *empty)]
    return kind | None if column.nullable else kind


def _otherwise(column: Any) -> Any:
    """What stands for a column that an older document does not have."""
    if column.default is not None and column.default.is_scalar:
        return column.default.arg
    return None if column.nullable else ...
