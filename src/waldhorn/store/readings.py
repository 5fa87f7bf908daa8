"""Checks and readings in the store: writing many at once, each at most once, and loading whole histories."""

import hashlib
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from datetime import datetime
from operator import attrgetter
from typing import Any, NamedTuple

from sqlalchemy import bindparam, func, select, text
from sqlalchemy.orm import Session

from waldhorn.core.history import Check, Conditions, Event, Finding, History, Reading, throttle_pct
from waldhorn.store.models import CheckRow, EventRow, FindingRow, MotorRow, ReadingRow, moment
from waldhorn.store.motors import to_motor

_NOT_IDENTITY = ("at", "accepted", "aside_reason")
Seen = defaultdict[tuple[int, int], int]  # (check id, fingerprint) to how often it has come in
_DIGEST = 8  # bytes; SQLite integers have as many


class NewReading(NamedTuple):
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


_identity = attrgetter(*(name for name in NewReading._fields if name not in _NOT_IDENTITY))


def fingerprint(reading: NewReading, at: str) -> int:
    """What makes a reading the same reading when it comes in twice: all but whether it was set aside.

    `at` is its time as it is stored, whatever offset it was given in.
    """
    identity = repr((at, _identity(reading))).encode()
    return int.from_bytes(hashlib.blake2b(identity, digest_size=_DIGEST).digest(), "big", signed=True)


def check_ids(session: Session, checks: Iterable[tuple[int, str, datetime, NewReading]]) -> dict[tuple[int, str], int]:
    """Make the checks that are not there yet; returns ids by (motor id, key) of all checks of those motors.

    `checks` gives motor id, key, time and a reading whose conditions become those of the check.
    """
    rows = [
        (motor_id, key, moment(at), False, r.rig, r.method, r.motor_c, r.ambient_c) for motor_id, key, at, r in checks
    ]
    _insert(session, "bench_check", ("motor_id", "key", "at", "open", "rig", "method", "motor_c", "ambient_c"), rows)
    query = select(CheckRow.motor_id, CheckRow.key, CheckRow.id)
    found = session.execute(_only(query, CheckRow.motor_id, sorted({row[0] for row in rows})))
    return {(motor_id, key): check_id for motor_id, key, check_id in found}


def _insert(session: Session, table: str, names: Sequence[str], rows: Sequence[tuple[Any, ...]]) -> None:
    """Insert rows that are not there yet. An import writes hundreds of thousands: they go to the driver as they are."""
    if rows:
        columns = ",".join(f'"{name}"' for name in names)
        statement = f"INSERT OR IGNORE INTO {table} ({columns}) VALUES ({','.join('?' * len(names))})"
        session.connection().exec_driver_sql(statement, list(rows))


def add_readings(session: Session, readings: Iterable[tuple[int, NewReading]], seen: Seen | None = None) -> None:
    """Store readings, given as (check id, reading); one that is already there is left alone.

    Equal readings of one check are told apart by their order, so that two equal peaks are two peaks; `seen` carries
    the count from one batch to the next.
    """
    rows = list(_numbered(readings, defaultdict(int) if seen is None else seen))
    _insert(session, "reading", ("check_id", "fingerprint", "occurrence", *NewReading._fields), rows)


def count_readings(session: Session) -> int:
    """How many readings the store holds."""
    return session.scalar(select(func.count()).select_from(ReadingRow)) or 0


def _numbered(readings: Iterable[tuple[int, NewReading]], seen: Seen) -> Iterator[tuple[Any, ...]]:
    for check_id, reading in readings:
        at = moment(reading.at)
        mark = fingerprint(reading, at)
        yield (check_id, mark, seen[check_id, mark], at, *reading[1:])
        seen[check_id, mark] += 1


def histories(session: Session, motor_ids: Sequence[int] | None = None) -> dict[int, History]:
    """Whole histories by motor id, of all motors or of those named, in five statements."""
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
    findings: dict[int, list[Finding]] = defaultdict(list)
    f = FindingRow
    noticed = select(CheckRow.motor_id, f.check_id, f.subject, f.value, f.at, f.note).join(f, f.check_id == CheckRow.id)
    for motor_id, check_id, *finding in session.execute(_only(noticed.order_by(f.id), CheckRow.motor_id, motor_ids)):
        findings[motor_id].append(Finding(str(check_id), *finding))
    return {m.id: History(to_motor(m), tuple(checks[m.id]), tuple(events[m.id]), tuple(findings[m.id])) for m in motors}


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


def of_check(session: Session, check_id: int) -> list[ReadingRow]:
    """The readings of a check, those set aside among them."""
    query = select(ReadingRow).where(ReadingRow.check_id == check_id).order_by(ReadingRow.run, ReadingRow.id)
    return list(session.scalars(query))
