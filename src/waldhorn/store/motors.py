"""Motors and events in the store: rows to plain values and back, finding, and what counts as changed."""

import json
from collections.abc import Iterable, Sequence
from dataclasses import asdict, fields
from typing import Any

from sqlalchemy import bindparam, delete, func, insert, or_, select, update
from sqlalchemy.dialects.sqlite import insert as upsert
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import NotThere
from waldhorn.core.base.history import Event, Motor
from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.store import fingerprints
from waldhorn.store.changes import not_undone
from waldhorn.store.models import (
    CachedVerdictRow,
    ChangeKind,
    ChangeRow,
    CheckRow,
    EventRow,
    LatestRow,
    MotorRevisionRow,
    MotorRow,
    OwnBaselineRow,
    SignedRow,
    StoreStateRow,
    new_id,
    timestamp,
)

MOTOR_FIELDS = tuple(f.name for f in fields(Motor))


_BY_TAGS = select(MotorRow.tag_key, MotorRow.id, *(getattr(MotorRow, n) for n in MOTOR_FIELDS)).where(
    MotorRow.tag_key.in_(bindparam("keys", expanding=True)), MotorRow.on_rack
)


def to_motor(row: MotorRow) -> Motor:
    """The facts of a stored motor as a plain value."""
    return Motor(**{name: getattr(row, name) for name in MOTOR_FIELDS})


def columns(motor: Motor) -> dict[str, Any]:
    """Every column of a motor's facts, worked-out ones included."""
    values = asdict(motor)
    search = " ".join(key_of(values[n]) for n in ("tag", "model", "variant", "owner", "machine", "position", "own"))
    return values | {"tag_key": key_of(motor.tag), "model_key": key_of(motor.model), "search": search}


def find(session: Session, tag: str) -> MotorRow | None:
    """The motor of that tag, in any case."""
    return session.scalar(select(MotorRow).where(MotorRow.tag_key == key_of(tag), MotorRow.on_rack))


def on_rack(session: Session, tag: str) -> MotorRow:
    """The motor of that tag, in any case; raises NotThere where no motor has it."""
    row = find(session, tag)
    if row is None:
        raise NotThere(_merged_into(session, tag) or f"No motor {tag} hangs on this rack.")
    return row


def _merged_into(session: Session, tag: str) -> str:
    """That a motor was merged into another, in words; empty where it was not."""
    query = select(ChangeRow.detail, MotorRow.tag).join(MotorRow, MotorRow.id == ChangeRow.motor_id)
    query = query.where(ChangeRow.kind == ChangeKind.MERGE_MOTORS, ChangeRow.undone_at.is_(None), MotorRow.on_rack)
    into = {key_of(double): kept for double, kept in session.execute(query.order_by(ChangeRow.id))}.get(key_of(tag))
    return f"{tag} was the same motor as {into}, and all that is known of it is there." if into else ""


def get(session: Session, motor_id: str) -> MotorRow:
    """The motor of that id; LookupError when there is none."""
    row = session.get(MotorRow, motor_id)
    if row is None or not row.on_rack:
        raise LookupError(f"no motor {motor_id}")
    return row


def several(session: Session, motor_ids: Sequence[str]) -> dict[str, Motor]:
    """The facts of these motors."""
    rows = session.scalars(only(select(MotorRow).where(MotorRow.on_rack), MotorRow.id, motor_ids))
    return {row.id: to_motor(row) for row in rows}


def every(session: Session) -> list[Motor]:
    """The facts of every motor, without its readings."""
    return [to_motor(row) for row in session.scalars(select(MotorRow).where(MotorRow.on_rack).order_by(MotorRow.id))]


def of_class(session: Session, motor_class: str) -> list[Motor]:
    """The facts of every motor of a class; of none where a motor has no class."""
    query = select(MotorRow).where(MotorRow.motor_class == motor_class, MotorRow.motor_class != "", MotorRow.on_rack)
    return [to_motor(row) for row in session.scalars(query.order_by(MotorRow.id))]


def by_tags(session: Session, keys: Sequence[str]) -> dict[str, tuple[str, Motor]]:
    """The motors of these tags, as they are compared: id and facts by tag."""
    rows = session.execute(_BY_TAGS, {"keys": list(keys)})
    return {tag_key: (motor_id, Motor(*facts)) for tag_key, motor_id, *facts in rows}


def ids_by_tag(session: Session) -> dict[str, str]:
    """Every motor's id by its tag as it is compared."""
    rows = session.execute(select(MotorRow.tag_key, MotorRow.id).where(MotorRow.on_rack))
    return {tag: motor_id for tag, motor_id in rows}  # noqa: C416


def all_tags(session: Session) -> list[str]:
    """Every tag, in the order of taking in."""
    return list(session.scalars(select(MotorRow.tag).where(MotorRow.on_rack).order_by(MotorRow.id)))


def reference_ids(session: Session) -> list[str]:
    """The reference motors."""
    return list(session.scalars(select(MotorRow.id).where(MotorRow.reference, MotorRow.on_rack).order_by(MotorRow.id)))


def ids_of_class(session: Session, motor_class: str) -> list[str]:
    """The motors of a class."""
    query = select(MotorRow.id).where(MotorRow.motor_class == motor_class, MotorRow.on_rack)
    return list(session.scalars(query.order_by(MotorRow.id)))


def known_values(session: Session, column: str) -> list[str]:
    """Every different value of a motor column that is not empty, for offering while typing."""
    attribute = getattr(MotorRow, column)
    return list(
        session.scalars(select(attribute).where(attribute != "", MotorRow.on_rack).distinct().order_by(attribute))
    )


def add(session: Session, motors: Sequence[Motor], change_id: str | None = None) -> list[str]:
    """Store new motors, each with a verdict that is yet to be judged; returns their ids."""
    ids = [new_id() for _ in motors]
    if motors:
        rows = [columns(m) | {"id": i, "change_id": change_id} for i, m in zip(ids, motors, strict=True)]
        session.execute(insert(MotorRow), rows)
        ensure_standings(session)
    return ids


def ensure_standings(session: Session) -> None:
    """Give every motor without a cached verdict one that is yet to be judged."""
    judged = select(CachedVerdictRow.motor_id).where(CachedVerdictRow.motor_id == MotorRow.id)
    missing = select(MotorRow.id).where(MotorRow.on_rack, ~judged.exists())
    blank = {
        "touched": 1,
        "judged": 0,
        "judge_version": 0,
        "leans_on_model": False,
        "rank": 0,
        "verdict": "unproven",
        "headline": "",
        "reason": "",
        "strips": [],
        "checked_at": None,
        "due_on": "",
        "due_runs": None,
        "retired": False,
        "overruled_by": "",
        "tool_verdict": "unproven",
        "on_bench": False,
    }
    rows = [blank | {"motor_id": i} for i in session.scalars(missing).all()]
    if rows:
        session.execute(insert(CachedVerdictRow), rows)


def hide(session: Session, motor_ids: Sequence[str]) -> None:
    """Put motors out of sight: their rows stay, their tags are free, what was worked out of them goes."""
    ids = list(motor_ids)
    session.execute(only(update(MotorRow).values(tag_key=MotorRow.id), MotorRow.id, ids))
    for table in (LatestRow, CachedVerdictRow, OwnBaselineRow):
        session.execute(only(delete(table), table.motor_id, ids))
    bump(session)


def show(session: Session, motor_id: str) -> None:
    """Put a motor that went out of sight back on the rack under its tag, which must be free, yet to be judged."""
    tag = tag_out_of_sight(session, motor_id)
    session.execute(update(MotorRow).where(MotorRow.id == motor_id).values(tag_key=key_of(tag)))
    ensure_standings(session)
    touch(session, [motor_id])


def tag_out_of_sight(session: Session, motor_id: str) -> str:
    """What a motor is called, on the rack or not; LookupError where there is none."""
    row = session.get(MotorRow, motor_id)
    if row is None:
        raise LookupError(f"no motor {motor_id}")
    return row.tag


def known_beyond(session: Session, motor_ids: Sequence[str], change_id: str) -> dict[str, str | None]:
    """Of which of these motors something stands that another change wrote: the latest such change by motor, or None."""
    found: dict[str, str | None] = {}
    for model, of in (
        (MotorRevisionRow, "of_id"),
        (CheckRow, "motor_id"),
        (EventRow, "motor_id"),
        (SignedRow, "motor_id"),
    ):
        motor_id = getattr(model, of)
        others = or_(model.change_id != change_id, model.change_id.is_(None))
        query = select(motor_id, model.change_id).where(not_undone(model), others).order_by(model.id)
        if model is MotorRevisionRow:  # the first of a row is what it was, by whoever wrote it
            query = query.where(model.change_id.is_not(None))
        found |= {i: change for i, change in session.execute(only(query, motor_id, list(motor_ids)))}  # noqa: C416
    return found


def add_events(session: Session, events: Sequence[tuple[str, Event]], change_id: str | None = None) -> int:
    """Store events that are not there yet, given with their motor's id; returns how many were new."""
    if not events:
        return 0
    rows = [
        asdict(event)
        | {
            "id": new_id(),
            "motor_id": motor_id,
            "change_id": change_id,
            "fingerprint": fingerprints.of_event(event, timestamp(event.at)),
        }
        for motor_id, event in events
    ]
    statement = upsert(EventRow).on_conflict_do_nothing().returning(EventRow.id)
    return len(session.scalars(statement, rows).all())


def events_of(session: Session, motor_ids: Sequence[str] | None = None) -> list[tuple[str, Event]]:
    """Events with their motor's id, oldest first."""
    e = EventRow
    query = select(e.motor_id, e.event, e.at, e.count, e.detail, e.item, e.machine, e.position).where(not_undone(e))
    found = session.execute(only(query.order_by(e.at, e.id), e.motor_id, motor_ids))
    return [(motor_id, Event(EventKind(event), *rest)) for motor_id, event, *rest in found]


def event_rows(session: Session, motor_id: str) -> list[EventRow]:
    """What happened to a motor, oldest first, as rows that can be taken back."""
    query = select(EventRow).where(EventRow.motor_id == motor_id, not_undone(EventRow))
    return list(session.scalars(query.order_by(EventRow.at, EventRow.id)))


def touch(session: Session, motor_ids: Iterable[str] | None) -> None:
    """Count a change that can alter the answers of these motors, or of all: they are to be judged again."""
    revision = bump(session)
    statement = update(CachedVerdictRow).values(touched=revision)
    session.execute(only(statement, CachedVerdictRow.motor_id, None if motor_ids is None else list(motor_ids)))


def touch_beside(session: Session, before: Motor, after: Motor) -> None:
    """Count a change for the motors that are held against one whose facts changed: those of its model where it is
    another model, or a yardstick, or none any more; those on its machines where it moved."""
    if (before.yardstick, key_of(before.model)) != (after.yardstick, key_of(after.model)):
        models = {key_of(before.model), key_of(after.model)} - {""}
        touch(session, session.scalars(select(MotorRow.id).where(MotorRow.model_key.in_(models))).all())
    if before.machine != after.machine:
        touch_machines(session, {before.machine, after.machine})


def touch_machines(session: Session, machines: Iterable[str]) -> None:
    """Count a change for every motor on these machines: each is held against the others' shaking."""
    ids = session.scalars(select(MotorRow.id).where(MotorRow.machine.in_(set(machines) - {""}))).all()
    touch(session, ids)


def touch_leaning(session: Session, motor_ids: Iterable[str]) -> None:
    """Count a change for the other motors of these motors' models that are judged by the model's median."""
    ids = list(motor_ids)
    models = only(select(MotorRow.model_key), MotorRow.id, ids)
    leaning = select(MotorRow.id).where(MotorRow.model_key.in_(models), MotorRow.model_key != "")
    session.execute(
        update(CachedVerdictRow)
        .where(CachedVerdictRow.leans_on_model, CachedVerdictRow.motor_id.in_(leaning))
        .values(touched=bump(session))
    )


def bump(session: Session) -> int:
    """Count a change of the store; returns the count."""
    statement = update(StoreStateRow).values(revision=StoreStateRow.revision + 1).returning(StoreStateRow.revision)
    return session.scalars(statement).one()


def only(query: Any, column: Any, ids: Sequence[str] | None) -> Any:
    """Narrow a query to ids, in one statement however many there are."""
    if ids is None:
        return query
    if len(ids) == 1:
        return query.where(column == ids[0])
    listed = func.json_each(json.dumps(list(ids))).table_valued("value")
    return query.where(column.in_(select(listed.c.value)))
