"""Checks and readings in the store: writing many at once, each at most once, and loading whole histories."""

import hashlib
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import bindparam, func, select, text
from sqlalchemy.dialects.sqlite import insert as upsert
from sqlalchemy.orm import Session

from waldhorn.core.history import Check, Conditions, Event, History, Reading, throttle_pct
from waldhorn.store.models import CheckRow, EventRow, MotorRow, ReadingRow
from waldhorn.store.motors import to_motor

_IDENTITY = (
    "at", "measure", "value", "run", "step", "throttle_pct", "rig", "method", "placement", "supply_v",
    "timing_set_deg", "motor_c", "ambient_c", "angle_deg", "note",
)  # fmt: skip
_DIGEST = 8  # bytes; SQLite integers have as many


@dataclass(frozen=True, slots=True)
class NewReading:
    """A reading on its way into the store: the columns of `ReadingRow` that a person or a file gives."""

    at: datetime
    measure: str
    value: float
    run: int = 1
    step: int | None = None
    throttle_pct: float | None = None
    rig: str = ""
    method: str = ""
    placement: str = ""
    supply_v: float | None = None
    timing_set_deg: float | None = None
    motor_c: float | None = None
    ambient_c: float | None = None
    angle_deg: float | None = None
    accepted: bool = True
    aside_reason: str = ""
    note: str = ""


def fingerprint(reading: NewReading) -> int:
    """What makes a reading the same reading when it comes in twice: all but whether it was set aside."""
    identity = "\x1f".join([repr(reading.at.timestamp()), *(repr(getattr(reading, n)) for n in _IDENTITY[1:])])
    return int.from_bytes(hashlib.blake2b(identity.encode(), digest_size=_DIGEST).digest(), "big", signed=True)


def check_ids(session: Session, checks: Iterable[tuple[int, str, datetime, NewReading]]) -> dict[tuple[int, str], int]:
    """Make the checks that are not there yet; returns ids by (motor id, key) of all checks of those motors.

    `checks` gives motor id, key, time and a reading whose conditions become those of the check.
    """
    rows = [
        {"motor_id": motor_id, "key": key, "at": at, "open": False, "rig": r.rig, "method": r.method,
         "motor_c": r.motor_c, "ambient_c": r.ambient_c}
        for motor_id, key, at, r in checks
    ]  # fmt: skip
    if rows:
        session.execute(upsert(CheckRow).on_conflict_do_nothing(), rows)
    found = session.execute(select(CheckRow.motor_id, CheckRow.key, CheckRow.id))
    return {(motor_id, key): check_id for motor_id, key, check_id in found}


def add_readings(session: Session, readings: Iterable[tuple[int, NewReading]]) -> None:
    """Store readings, given as (check id, reading); one that is already there is left alone.

    Equal readings of one check are told apart by their order, so that two equal peaks are two peaks.
    """
    rows = list(_numbered(readings))
    if rows:
        session.execute(upsert(ReadingRow).on_conflict_do_nothing(), rows)


def count_readings(session: Session) -> int:
    """How many readings the store holds."""
    return session.scalar(select(func.count()).select_from(ReadingRow)) or 0


def _numbered(readings: Iterable[tuple[int, NewReading]]) -> Iterator[dict[str, Any]]:
    seen: dict[tuple[int, int], int] = defaultdict(int)
    for check_id, reading in readings:
        mark = fingerprint(reading)
        row = {name: getattr(reading, name) for name in NewReading.__slots__}
        row |= {"check_id": check_id, "fingerprint": mark, "occurrence": seen[check_id, mark]}
        seen[check_id, mark] += 1
        yield row


def histories(session: Session, motor_ids: Sequence[int] | None = None) -> dict[int, History]:
    """Whole histories by motor id, of all motors or of those named, in four statements."""
    motors = session.scalars(_only(select(MotorRow).order_by(MotorRow.id), MotorRow.id, motor_ids)).all()
    readings = _readings(session, motor_ids)
    checks: dict[int, list[Check]] = defaultdict(list)
    query = select(CheckRow.id, CheckRow.motor_id, CheckRow.at).order_by(CheckRow.at, CheckRow.id)
    for check_id, motor_id, at in session.execute(_only(query, CheckRow.motor_id, motor_ids)):
        checks[motor_id].append(Check(str(check_id), at, tuple(readings.get(check_id, ()))))
    events: dict[int, list[Event]] = defaultdict(list)
    happened = select(EventRow.motor_id, EventRow.event, EventRow.at, EventRow.count, EventRow.detail)
    for motor_id, *event in session.execute(_only(happened.order_by(EventRow.at), EventRow.motor_id, motor_ids)):
        events[motor_id].append(Event(*event))
    return {m.id: History(to_motor(m), tuple(checks[m.id]), tuple(events[m.id])) for m in motors}


def _readings(session: Session, motor_ids: Sequence[int] | None) -> dict[int, list[Reading]]:
    r = ReadingRow
    query = select(
        r.check_id, r.measure, r.value, r.at, r.run, r.accepted, r.angle_deg, r.note,
        r.rig, r.method, r.step, r.throttle_pct, r.placement, r.supply_v, r.timing_set_deg, r.motor_c, r.ambient_c,
    )  # fmt: skip
    if motor_ids is not None:
        query = query.join(CheckRow, CheckRow.id == r.check_id)
    found: dict[int, list[Reading]] = defaultdict(list)
    shared: dict[tuple[Any, ...], Conditions] = {}
    for row in session.execute(_only(query.order_by(r.id), CheckRow.motor_id, motor_ids)):
        check_id, measure, value, at, run, accepted, angle, note, *rest = row
        conditions = shared.get(place := tuple(rest))
        if conditions is None:
            rig, method, step, percent, placement, supply, timing, motor_c, ambient_c = place
            conditions = shared[place] = Conditions(
                rig, method, throttle_pct(step, percent), placement, supply, timing, motor_c, ambient_c
            )
        found[check_id].append(Reading(measure, value, at, run, conditions, accepted, angle, note))
    return found


def _only(query: Any, column: Any, motor_ids: Sequence[int] | None) -> Any:
    """Narrow a query to motors, in one statement however many there are."""
    if motor_ids is None:
        return query
    ids = text("SELECT value FROM json_each(:ids)").bindparams(bindparam("ids", _json(motor_ids)))
    return query.where(column.in_(ids))


def _json(ids: Sequence[int]) -> str:
    return "[" + ",".join(str(int(i)) for i in ids) + "]"


def last_check(session: Session, motor_id: int | None) -> CheckRow | None:
    """The latest check of a motor, or of any motor."""
    query = select(CheckRow).order_by(CheckRow.at.desc(), CheckRow.id.desc()).limit(1)
    return session.scalar(query if motor_id is None else query.where(CheckRow.motor_id == motor_id))


def check(session: Session, check_id: int) -> tuple[CheckRow, MotorRow] | None:
    """A check with its motor."""
    query = select(CheckRow, MotorRow).join(MotorRow, MotorRow.id == CheckRow.motor_id).where(CheckRow.id == check_id)
    found = session.execute(query).one_or_none()
    return (found[0], found[1]) if found else None


def last_run(session: Session, check_id: int) -> int:
    """The highest run number of a check, 0 before the first."""
    return session.scalar(select(func.max(ReadingRow.run)).where(ReadingRow.check_id == check_id)) or 0


def of_run(session: Session, check_id: int, run: int) -> list[ReadingRow]:
    """The readings of one run of a check."""
    query = select(ReadingRow).where(ReadingRow.check_id == check_id, ReadingRow.run == run).order_by(ReadingRow.id)
    return list(session.scalars(query))


def of_check(session: Session, check_id: int) -> list[ReadingRow]:
    """The readings of a check, those set aside among them."""
    query = select(ReadingRow).where(ReadingRow.check_id == check_id).order_by(ReadingRow.run, ReadingRow.id)
    return list(session.scalars(query))


def last_full_throttle(session: Session, motor_id: int) -> dict[str, float]:
    """Volts, amps and rpm of the latest run at full throttle of a motor."""
    names = {"supply_volts": "volts", "no_load_current": "amps", "rpm": "rpm"}
    query = (
        select(ReadingRow.measure, ReadingRow.value)
        .join(CheckRow, CheckRow.id == ReadingRow.check_id)
        .where(CheckRow.motor_id == motor_id, ReadingRow.measure.in_(names))
        .order_by(ReadingRow.at)
    )
    return {names[measure]: value for measure, value in session.execute(query)}
