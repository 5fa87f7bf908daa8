"""What other programs ask and send through the API; rows are those of the tables (see `exchange.rows`)."""

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import Any
from uuid import UUID

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import Motor
from waldhorn.core.base.text import key_of
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.motors import own_facts
from waldhorn.exchange import exporting
from waldhorn.exchange.rows import EventsRow, MotorsRow, ReadingsRow
from waldhorn.pit.judging import judging
from waldhorn.pit.motors import facts
from waldhorn.store import motors, readings, rigs


def all_motors(session: Session) -> list[MotorsRow]:
    """Every motor."""
    ids = list(motors.ids_by_tag(session).values())
    return [_row(motor) for motor in motors.several(session, ids).values()]


def motor(session: Session, tag: str) -> MotorsRow:
    """One motor; raises NotThere."""
    return _row(motors.to_motor(motors.on_rack(session, tag)))


def _row(one: Motor) -> MotorsRow:
    named = {("class" if n == "motor_class" else n): getattr(one, n) for n in motors.MOTOR_FIELDS if n != "own"}
    values = named | own_facts.columns(one.own)
    return MotorsRow.model_validate({n: v for n, v in values.items() if v not in ("", None)})


def judgement(session: Session, tag: str, as_of: datetime) -> Judgement:
    """The answer for a motor from what was known at a time; raises NotThere."""
    return judging.judge_motor(session, motors.on_rack(session, tag).id, as_of)[1]


def readings_of(session: Session, tag: str) -> list[dict[str, Any]]:
    """Every reading of a motor, as rows of readings.csv; raises NotThere."""
    return exporting.readings_of(session, motors.on_rack(session, tag).id)


def take_in(session: Session, one: Motor, now: datetime) -> None:
    """Take in a motor; raises InputError where one of its tag is on the rack."""
    if motors.find(session, one.tag):
        raise InputError("tag", f"{one.tag} is on the rack already")
    facts.add(session, one, now)


def log(session: Session, tag: str, row: EventsRow) -> int:
    """Log what happened to a motor; returns how many events are new. Raises NotThere."""
    motor_id = motors.on_rack(session, tag).id
    stored = motors.add_events(session, [(motor_id, row.to_event())])
    motors.touch(session, [motor_id])
    return stored


def take_readings(session: Session, sent: Sequence[tuple[ReadingsRow, UUID | None]]) -> int:
    """Store readings, all of them or none, each under an identifier where it has one; returns how many are new. Raises
    InputErrors, by the place of the reading and its column."""
    known, meant = motors.ids_by_tag(session), rigs.names(session)
    wrong: dict[str, str] = {}
    found = []
    for place, (row, row_id) in enumerate(sent):
        motor_id = known.get(key_of(row.motor))
        if motor_id is None:
            wrong[f"{place}/motor"] = f"no motor “{row.motor}” on this rack"
            continue
        try:
            found.append(((motor_id, row.check_key()), row.on(meant).to_reading(), row_id))
        except InputError as refused:
            wrong[f"{place}/{refused.field}"] = refused.sentence
    if wrong:
        raise InputErrors(wrong)
    first = {of: reading for of, reading, _ in reversed(found)}
    ids = readings.check_ids(session, ((*of, r.at, r.conditions) for of, r in first.items()))
    rows = ((ids[of], reading) for of, reading, _ in found)
    stored = readings.add(session, rows, row_ids=[str(row_id) if row_id else None for *_, row_id in found])
    motors.touch(session, {motor_id for (motor_id, _), *_ in found})
    return stored


def package(session: Session, file: Path) -> None:
    """Write the data package as a ZIP file."""
    exporting.package(session, file)
