"""What is kept of motors for comparing them: what was read of each last, how far those of a model lie apart."""

import json
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from sqlalchemy import String, bindparam, delete, func, insert, select
from sqlalchemy.orm import Session

from waldhorn.core.base.history import Reading
from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.comparing.differences import Latest
from waldhorn.core.rigs.day_shift import Moved
from waldhorn.store.changes import not_undone
from waldhorn.store.models import CheckRow, LatestRow, ModelSpreadRow, MotorRow, OwnBaselineRow, ReadingRow
from waldhorn.store.motors import only
from waldhorn.store.readings import to_reading

# Made once: composing a statement takes longer than running it.
_AMONG = select(func.json_each(bindparam("ids", type_=String)).table_valued("value").c.value)
_LATEST = select(
    LatestRow.motor_id,
    LatestRow.quantity,
    LatestRow.value,
    LatestRow.n,
    LatestRow.runs,
    LatestRow.at,
    LatestRow.conditions,
    LatestRow.u_further,
    LatestRow.resolution,
).where(LatestRow.motor_id.in_(_AMONG))
_TAKEN = (
    select(CheckRow.motor_id, ReadingRow)
    .join(CheckRow, CheckRow.id == ReadingRow.check_id)
    .where(ReadingRow.purpose.in_(bindparam("purposes", expanding=True)), ReadingRow.accepted, not_undone(ReadingRow))
    .where(CheckRow.motor_id.in_(_AMONG))
    .order_by(ReadingRow.id)
)
_OFF = (  # SQLite takes the other columns from the row of the maximum
    select(100 * (OwnBaselineRow.value / MotorRow.label_kv - 1), func.max(OwnBaselineRow.id))
    .join(MotorRow, MotorRow.id == OwnBaselineRow.motor_id)
    .where(MotorRow.model_key == bindparam("model"), OwnBaselineRow.quantity == "kv", MotorRow.label_kv > 0)
    .where(OwnBaselineRow.until.is_(None))
    .group_by(OwnBaselineRow.motor_id)
)


def _ids(motor_ids: Sequence[str]) -> dict[str, Any]:
    return {"ids": json.dumps(list(motor_ids))}


def keep_latest(
    session: Session, found: Mapping[str, Mapping[str, Latest]], moved: Mapping[str, Mapping[str, Moved]]
) -> None:
    """Replace what was read last of these motors, by id and quantity, and how far that lies from their own past."""
    session.execute(only(delete(LatestRow), LatestRow.motor_id, list(found)))
    rows = [
        {
            "motor_id": i,
            "quantity": name,
            "value": one.value,
            "n": one.n,
            "runs": one.runs,
            "at": one.at,
            "conditions": one.conditions,
            "u_further": one.u_further,
            "resolution": one.resolution,
            "change": by.change if (by := moved[i].get(name)) else None,
            "u_change": by.u if by else None,
        }
        for i, mine in found.items()
        for name, one in mine.items()
    ]
    if rows:
        session.execute(insert(LatestRow), rows)


def latest(session: Session, motor_ids: Sequence[str]) -> dict[str, dict[str, Latest]]:
    """What was read last of these motors, by id and quantity."""
    found: dict[str, dict[str, Latest]] = defaultdict(dict)
    for i, name, value, n, runs, at, under, further, resolution in session.execute(_LATEST, _ids(motor_ids)):
        found[i][name] = Latest(value, n, runs, at, under, further, resolution)
    return found


def taken_for(
    session: Session, motor_ids: Sequence[str], purposes: Sequence[Purpose]
) -> dict[str, dict[tuple[str, int], list[Reading]]]:
    """The accepted readings of these purposes, by motor and by check and run."""
    found: dict[str, dict[tuple[str, int], list[Reading]]] = defaultdict(lambda: defaultdict(list))
    for motor_id, row in session.execute(_TAKEN, _ids(motor_ids) | {"purposes": list(purposes)}):
        found[motor_id][row.check_id, row.run].append(to_reading(row))
    return found


def models_of(session: Session, motor_ids: Iterable[str]) -> set[str]:
    """The models of these motors, as they are compared."""
    return set(session.scalars(only(select(MotorRow.model_key).distinct(), MotorRow.id, list(motor_ids)))) - {""}


def keep_spreads(session: Session, models: Iterable[str], rows: Sequence[Mapping[str, Any]]) -> None:
    """Replace how far the motors of these models lie apart, given as columns of `ModelSpreadRow`."""
    session.execute(delete(ModelSpreadRow).where(ModelSpreadRow.model_key.in_(list(models))))
    if rows:
        session.execute(insert(ModelSpreadRow), [dict(row) for row in rows])


def off_labels(session: Session, model_key: str) -> list[float]:
    """By how much each motor of a model reads from its label as it came in, percent."""
    return [off for off, _ in session.execute(_OFF, {"model": model_key})]


def spreads_of(session: Session, model: str) -> Sequence[ModelSpreadRow]:
    """How far the motors of a model lie apart, the rig of most motors first."""
    r = ModelSpreadRow
    query = select(r).where(r.model_key == key_of(model)).order_by(r.motors.desc(), r.rig)
    return session.scalars(query).all()
