"""Checks and readings in the store: writing many at once, each at most once, and loading whole histories.

A reading is one value (`core.history.Reading`) and one row (`ReadingRow`); the two functions between them stand here.
"""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import fields
from datetime import date, datetime, time, timedelta, tzinfo
from itertools import zip_longest
from operator import attrgetter
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Check, History, Reading
from waldhorn.core.base.vocabulary import Purpose, Spin, Sweep
from waldhorn.store import findings, fingerprints
from waldhorn.store.changes import not_undone
from waldhorn.store.findings import Findings
from waldhorn.store.models import (
    CheckRow,
    EventRow,
    MotorRow,
    ReadingRevisionRow,
    ReadingRow,
    RigRow,
    clock,
    new_id,
    timestamp,
)
from waldhorn.store.motors import events_of, only, to_motor

STUDY_PLAN = "study"  # of a check that is a visit of a study
Seen = defaultdict[tuple[str, int], int]  # (check id, fingerprint) to how often it has come in
_CONDITIONS = tuple(f.name for f in fields(Conditions))
_OWN = ("measure", "value", "run", "purpose", "accepted", "angle_deg", "position", "note", "aside_reason")
_own = attrgetter(*_OWN)
_conditions = attrgetter(*_CONDITIONS)
_COLUMNS = ("id", "changed_at", "change_id", "check_id", "fingerprint", "occurrence", "at", *_OWN, *_CONDITIONS)
_LOADED = ("at", *_OWN, *_CONDITIONS)
_CHECK_COLUMNS = (
    "id",
    "changed_at",
    "change_id",
    "motor_id",
    "key",
    "at",
    "open",
    "plan",
    "rig",
    "method",
    "motor_c",
    "ambient_c",
    "caution_confirmed",
    "lever_unit",
    "stopped_because",
)


def check_ids(
    session: Session, checks: Iterable[tuple[str, str, datetime, Conditions]], change_id: str | None = None
) -> dict[tuple[str, str], str]:
    """Make the checks that are not there yet; returns ids by (motor id, key) of all checks of those motors.

    `checks` gives motor id, key, time and the conditions that become those of the check.
    """
    now = timestamp(clock())
    rows = [
        (
            new_id(),
            now,
            change_id,
            motor_id,
            key,
            timestamp(at),
            False,
            "quick",
            c.rig,
            c.method,
            c.motor_c,
            c.ambient_c,
            False,
            "",
            "",
        )
        for motor_id, key, at, c in checks
    ]
    _insert(session, "bench_check", _CHECK_COLUMNS, rows)
    query = select(CheckRow.motor_id, CheckRow.key, CheckRow.id)
    found = session.execute(only(query, CheckRow.motor_id, sorted({row[3] for row in rows})))
    return {(motor_id, key): check_id for motor_id, key, check_id in found}


def _insert(session: Session, table: str, names: Sequence[str], rows: Sequence[tuple[Any, ...]]) -> int:
    """Insert rows that are not there yet; returns how many. An import writes hundreds of thousands of them: they go to
    the driver as they are."""
    if not rows:
        return 0
    columns = ",".join(f'"{name}"' for name in names)
    statement = f"INSERT OR IGNORE INTO {table} ({columns}) VALUES ({','.join('?' * len(names))})"
    return session.connection().exec_driver_sql(statement, list(rows)).rowcount


def add(
    session: Session,
    readings: Iterable[tuple[str, Reading]],
    change_id: str | None = None,
    seen: Seen | None = None,
    row_ids: Iterable[str | None] = (),
) -> int:
    """Store readings, given as (check id, reading); one that is already there is left alone. Returns how many are new.

    Equal readings of one check are told apart by their order, so that two equal peaks are two peaks; `seen` carries
    the count from one batch to the next. `row_ids` are identifiers that came with them: the same twice stores once.
    """
    rows = list(_rows(readings, change_id, defaultdict(int) if seen is None else seen))
    rows = [(given or row[0], *row[1:]) for row, given in zip_longest(rows, row_ids)] if row_ids else rows
    return _insert(session, "reading", _COLUMNS, rows)


def _rows(readings: Iterable[tuple[str, Reading]], change_id: str | None, seen: Seen) -> Iterator[tuple[Any, ...]]:
    now = timestamp(clock())
    for check_id, reading in readings:
        at = timestamp(reading.at)
        mark = fingerprints.of_reading(reading, at)
        place = (check_id, mark)
        yield (
            new_id(),
            now,
            change_id,
            check_id,
            mark,
            seen[place],
            at,
            *_own(reading),
            *_conditions(reading.conditions),
        )
        seen[place] += 1


def count(session: Session) -> int:
    """How many readings the store holds."""
    return session.scalar(select(func.count()).select_from(ReadingRow).where(not_undone(ReadingRow))) or 0


def histories(
    session: Session, motor_ids: Sequence[str] | None = None, measures: Sequence[str] | None = None
) -> dict[str, History]:
    """Histories by motor id, of all motors or those named, whole or with these measures alone; in five statements."""
    motors = session.scalars(
        only(select(MotorRow).where(MotorRow.on_rack).order_by(MotorRow.id), MotorRow.id, motor_ids)
    ).all()
    by_check = _readings(session, motor_ids, measures)
    c = CheckRow
    query = select(c.id, c.motor_id, c.at, c.first_spin, c.sweep).where(not_undone(c)).order_by(c.at, c.id)
    checks: dict[str, list[Check]] = defaultdict(list)
    for check_id, motor_id, at, spin, sweep in session.execute(only(query, c.motor_id, motor_ids)):
        checks[motor_id].append(_check(check_id, at, by_check, spin, sweep))
    events = defaultdict(list)
    for motor_id, event in events_of(session, motor_ids):
        events[motor_id].append(event)
    found = findings.of_motors(session, motor_ids)
    return {m.id: findings.with_history(to_motor(m), checks[m.id], events[m.id], found.get(m.id)) for m in motors}


def _check(
    check_id: str, at: datetime, by_check: Mapping[str, Sequence[Reading]], spin: str | None, sweep: str | None
) -> Check:
    found = tuple(by_check.get(check_id, ()))
    return Check(check_id, at, found, Spin(spin) if spin else None, Sweep(sweep) if sweep else None)


def history(session: Session, motor_id: str) -> History:
    """The whole history of one motor; LookupError when there is none."""
    return histories(session, [motor_id])[motor_id]


def _readings(
    session: Session, motor_ids: Sequence[str] | None, measures: Sequence[str] | None = None
) -> dict[str, list[Reading]]:
    r = ReadingRow
    query = select(r.check_id, *(getattr(r, n) for n in _LOADED)).where(not_undone(r)).order_by(r.id)
    if measures is not None:
        query = query.where(r.measure.in_(measures))
    if motor_ids is not None:
        query = only(query.join(CheckRow, CheckRow.id == r.check_id), CheckRow.motor_id, motor_ids)
    found: dict[str, list[Reading]] = defaultdict(list)
    shared: dict[tuple[Any, ...], Conditions] = {}
    for check_id, *row in session.execute(query):
        found[check_id].append(_value(row, shared))
    return found


def _value(row: Sequence[Any], shared: dict[tuple[Any, ...], Conditions]) -> Reading:
    """A reading of the columns _LOADED; equal conditions are one object."""
    at, measure, value, run, purpose, accepted, angle, position, note, aside, *rest = row
    place = tuple(rest)
    conditions = shared.get(place)
    if conditions is None:
        conditions = shared[place] = Conditions(*place)
    return Reading(measure, value, at, run, conditions, _PURPOSES[purpose], accepted, angle, position, note, aside)


_PURPOSES = {p.value: p for p in Purpose}


def to_reading(row: ReadingRow) -> Reading:
    """A stored reading as a plain value."""
    return _value([getattr(row, n) for n in _LOADED], {})


def of_bench(session: Session, check_id: str) -> tuple[str, History, Findings, list[CheckRow], str] | None:
    """What the bench needs of a check's motor: its id, its history, all findings, its checks oldest first, and whose
    amps the check's rig is said to measure; in four statements. None when there is no such check."""
    of = select(CheckRow.motor_id).where(CheckRow.id == check_id, not_undone(CheckRow)).scalar_subquery()
    query = select(CheckRow, MotorRow, RigRow.measures).join(MotorRow, MotorRow.id == CheckRow.motor_id)
    query = query.outerjoin(RigRow, RigRow.name == CheckRow.rig)
    rows = session.execute(
        query.where(CheckRow.motor_id == of, MotorRow.on_rack, not_undone(CheckRow)).order_by(CheckRow.at, CheckRow.id)
    ).all()
    if not rows:
        return None
    motor = rows[0][1]
    by_check = _readings(session, [motor.id])
    checks = [_check(c.id, c.at, by_check, c.first_spin, c.sweep) for c, _, _ in rows]
    events = [event for _, event in events_of(session, [motor.id])]
    found = findings.of_motors(session, [motor.id]).get(motor.id) or Findings()
    return (
        motor.id,
        findings.with_history(to_motor(motor), checks, events, found),
        found,
        [c for c, _, _ in rows if c.plan != STUDY_PLAN],
        next((reads for c, _, reads in rows if c.id == check_id), "") or "",
    )


def motors_on(session: Session, rig: str, since: datetime) -> list[str]:
    """Motors that were read on a rig since a time."""
    query = select(CheckRow.motor_id).join(ReadingRow, ReadingRow.check_id == CheckRow.id).distinct()
    return list(session.scalars(query.where(ReadingRow.rig == rig, ReadingRow.at >= since, CheckRow.at >= since)))


def motors_on_day(session: Session, rig: str, day: str) -> list[str]:
    """Motors that were read on a rig on a day, as ISO 8601 in UTC."""
    query = select(CheckRow.motor_id).join(ReadingRow, ReadingRow.check_id == CheckRow.id).distinct()
    return list(session.scalars(query.where(ReadingRow.rig == rig, func.substr(ReadingRow.at, 1, 10) == day)))


def motors_with(session: Session, purpose: Purpose) -> list[str]:
    """Motors of which something was read for a purpose, the latest first."""
    query = select(CheckRow.motor_id).join(ReadingRow, ReadingRow.check_id == CheckRow.id)
    query = query.where(ReadingRow.purpose == purpose, not_undone(ReadingRow)).group_by(CheckRow.motor_id)
    return list(session.scalars(query.order_by(func.max(ReadingRow.at).desc(), CheckRow.motor_id)))


def dates(session: Session, motor_ids: Sequence[str]) -> dict[str, dict[str, list[datetime]]]:
    """When each of these motors was checked and when something happened to it: by motor id, "checks" and "events"."""
    found: dict[str, dict[str, list[datetime]]] = defaultdict(lambda: {"checks": [], "events": []})
    for what, model in (("checks", CheckRow), ("events", EventRow)):
        query = select(model.motor_id, model.at).where(not_undone(model))
        for motor_id, at in session.execute(only(query, model.motor_id, motor_ids)):
            found[motor_id][what].append(at)
    return found


def last_check(session: Session, motor_id: str | None, but: str = "") -> CheckRow | None:
    """The latest check of a motor, or of any motor, but one; a visit of a study is none."""
    query = select(CheckRow).where(not_undone(CheckRow), CheckRow.id != but, CheckRow.plan != STUDY_PLAN)
    query = query.order_by(CheckRow.at.desc(), CheckRow.id.desc()).limit(1)
    return session.scalar(query if motor_id is None else query.where(CheckRow.motor_id == motor_id))


def checks_of_day(session: Session, day: date, here: tzinfo | None, most: int) -> Sequence[tuple[str, str, datetime]]:
    """The latest checks of a day where one is: the motor's tag, the check's id and when."""
    start = datetime.combine(day, time(), here)
    query = select(MotorRow.tag, CheckRow.id, CheckRow.at).join(MotorRow, MotorRow.id == CheckRow.motor_id)
    query = query.where(
        not_undone(CheckRow), MotorRow.on_rack, CheckRow.at >= start, CheckRow.at < start + timedelta(days=1)
    )
    rows = session.execute(query.order_by(CheckRow.at.desc()).limit(most))
    return [(tag, check_id, at) for tag, check_id, at in rows]


def check_row(session: Session, check_id: str) -> CheckRow:
    """A check to be changed; LookupError when there is none."""
    row = session.get(CheckRow, check_id)
    if row is None:
        raise LookupError(f"no check {check_id}")
    return row


def opened_by(session: Session, change_id: str) -> str | None:
    """The check that a change opened."""
    return session.scalar(select(CheckRow.id).where(CheckRow.change_id == change_id))


def check(session: Session, check_id: str) -> tuple[CheckRow, MotorRow] | None:
    """A check with its motor."""
    query = select(CheckRow, MotorRow).join(MotorRow, MotorRow.id == CheckRow.motor_id)
    found = session.execute(query.where(CheckRow.id == check_id, MotorRow.on_rack, not_undone(CheckRow))).one_or_none()
    return (found[0], found[1]) if found else None


def of_check(session: Session, check_id: str) -> list[ReadingRow]:
    """The readings of a check, those set aside among them."""
    query = select(ReadingRow).where(ReadingRow.check_id == check_id, not_undone(ReadingRow))
    return list(session.scalars(query.order_by(ReadingRow.run, ReadingRow.id)))


def book(session: Session, motor_id: str) -> list[tuple[CheckRow, list[ReadingRow]]]:
    """Every check of a motor with all its readings, newest first, studies among them."""
    checks = select(CheckRow).where(CheckRow.motor_id == motor_id, not_undone(CheckRow))
    kept = list(session.scalars(checks.order_by(CheckRow.at.desc(), CheckRow.id.desc())))
    by: dict[str, list[ReadingRow]] = {c.id: [] for c in kept}
    query = select(ReadingRow).join(CheckRow, CheckRow.id == ReadingRow.check_id)
    query = query.where(CheckRow.motor_id == motor_id, not_undone(CheckRow), not_undone(ReadingRow))
    for row in session.scalars(query.order_by(ReadingRow.run, ReadingRow.id)):
        by[row.check_id].append(row)
    return [(c, by[c.id]) for c in kept]


def of_book(session: Session, motor_id: str, reading_id: str) -> ReadingRow | None:
    """One reading of a motor, to be put right."""
    query = select(ReadingRow).join(CheckRow, CheckRow.id == ReadingRow.check_id)
    query = query.where(CheckRow.motor_id == motor_id, ReadingRow.id == reading_id, not_undone(CheckRow))
    return session.scalar(query.where(not_undone(ReadingRow)))


def forces_on(session: Session, lever: str, rig: str, motor_id: str | None) -> list[ReadingRow]:
    """The forces that count and were read on a lever, of every motor or of one; on one without a name, those of a
    rig."""
    query = select(ReadingRow).join(CheckRow, CheckRow.id == ReadingRow.check_id)
    query = query.where(ReadingRow.measure == "detent_force", ReadingRow.accepted, ReadingRow.lever == lever)
    query = query.where(not_undone(ReadingRow), not_undone(CheckRow))
    if motor_id is not None:
        query = query.where(CheckRow.motor_id == motor_id, ReadingRow.rig == rig)
    return list(session.scalars(query.order_by(ReadingRow.id)))


def mark_again(session: Session, rows: Iterable[ReadingRow]) -> None:
    """Tell readings by the value they have now, so that what is exported of them is known when it comes back."""
    for row in rows:
        mark = fingerprints.of_reading(to_reading(row), timestamp(row.at))
        if row.fingerprint in (None, mark):
            continue
        alike = select(ReadingRow.occurrence).where(ReadingRow.check_id == row.check_id, ReadingRow.fingerprint == mark)
        taken = set(session.scalars(alike))
        row.occurrence = next(n for n in range(len(taken) + 1) if n not in taken)
        row.fingerprint = mark
        session.flush()


def revised_by(session: Session, change_id: str) -> list[ReadingRow]:
    """The readings that a change altered."""
    query = select(ReadingRow).join(ReadingRevisionRow, ReadingRevisionRow.of_id == ReadingRow.id)
    return list(session.scalars(query.where(ReadingRevisionRow.change_id == change_id).distinct()))


def before_correction(session: Session, reading_ids: Sequence[str]) -> dict[str, list[float]]:
    """What corrected readings were before, oldest first, by reading."""
    found: dict[str, list[float]] = defaultdict(list)
    revision = ReadingRevisionRow
    query = select(revision.of_id, revision.value).where(not_undone(revision)).order_by(revision.id)
    for of_id, value in session.execute(only(query, revision.of_id, reading_ids)):
        if not found[of_id] or found[of_id][-1] != value:
            found[of_id].append(value)
    return {of_id: values[:-1] for of_id, values in found.items() if len(values) > 1}


def of_purpose(session: Session, motor_id: str, purpose: Purpose) -> list[ReadingRow]:
    """The readings of a motor that were taken for one purpose and stand, in the order they were read."""
    r = ReadingRow
    query = select(r).join(CheckRow, CheckRow.id == r.check_id).where(CheckRow.motor_id == motor_id, not_undone(r))
    return list(session.scalars(query.where(r.purpose == purpose).order_by(r.id)))


def of_motor(session: Session, motor_id: str, measures: Sequence[str]) -> list[ReadingRow]:
    """Every reading of some measures of a motor."""
    query = select(ReadingRow).join(CheckRow, CheckRow.id == ReadingRow.check_id)
    query = query.where(CheckRow.motor_id == motor_id, ReadingRow.measure.in_(measures), not_undone(ReadingRow))
    return list(session.scalars(query))
