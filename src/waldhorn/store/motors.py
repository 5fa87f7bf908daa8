"""Motors and events in the store: rows to plain values and back, finding, and marking what must be judged again."""

from collections.abc import Iterable, Sequence
from dataclasses import asdict, fields

from sqlalchemy import func, insert, select, update
from sqlalchemy.dialects.sqlite import insert as upsert
from sqlalchemy.orm import Session

from waldhorn.core.history import Event, Motor
from waldhorn.store.models import EventRow, MotorRow, StandingRow

MOTOR_FIELDS = tuple(f.name for f in fields(Motor))


def key_of(name: str) -> str:
    """A tag or model as it is compared: case and outer blanks do not matter."""
    return name.strip().casefold()


def to_motor(row: MotorRow) -> Motor:
    """The facts of a stored motor as a plain value."""
    return Motor(**{name: getattr(row, name) for name in MOTOR_FIELDS})


def columns(motor: Motor) -> dict[str, object]:
    """Every column of a motor's row, worked-out ones included."""
    values = asdict(motor)
    search = " ".join(key_of(values[n]) for n in ("tag", "model", "owner", "machine", "position"))
    return values | {"tag_key": key_of(motor.tag), "model_key": key_of(motor.model), "search": search}


def find(session: Session, tag: str) -> MotorRow | None:
    """The motor of that tag, in any case."""
    return session.scalar(select(MotorRow).where(MotorRow.tag_key == key_of(tag)))


def ids_by_tag(session: Session) -> dict[str, int]:
    """Every motor's id by its tag as it is compared."""
    return {tag: motor_id for tag, motor_id in session.execute(select(MotorRow.tag_key, MotorRow.id))}  # noqa: C416


def all_tags(session: Session) -> list[str]:
    """Every tag, in the order of taking in."""
    return list(session.scalars(select(MotorRow.tag).order_by(MotorRow.id)))


def ids_of_class(session: Session, motor_class: str) -> list[int]:
    """The motors of a class."""
    return list(session.scalars(select(MotorRow.id).where(MotorRow.motor_class == motor_class).order_by(MotorRow.id)))


def known_values(session: Session, column: str) -> list[str]:
    """Every different value of a motor column that is not empty, for offering while typing."""
    attribute = getattr(MotorRow, column)
    return list(session.scalars(select(attribute).where(attribute != "").distinct().order_by(attribute)))


def add(session: Session, motors: Sequence[Motor]) -> None:
    """Store new motors, each with a standing that is yet to be judged."""
    if not motors:
        return
    session.execute(insert(MotorRow), [columns(m) for m in motors])
    ensure_standings(session)


def ensure_standings(session: Session) -> None:
    """Give every motor without a standing one that is yet to be judged."""
    missing = select(MotorRow.id).where(
        ~select(StandingRow.motor_id).where(StandingRow.motor_id == MotorRow.id).exists()
    )
    _blank_standings(session, session.scalars(missing).all())


def _blank_standings(session: Session, motor_ids: Iterable[int]) -> None:
    blank = {
        "stale": True, "leans_on_model": False, "rank": 0, "verdict": "unproven", "headline": "", "reason": "",
        "strips": [], "checked_at": None, "due_on": "", "due_runs": None, "retired": False, "overruled_by": "",
        "tool_verdict": "unproven", "on_bench": False,
    }  # fmt: skip
    rows = [blank | {"motor_id": i} for i in motor_ids]
    if rows:
        session.execute(insert(StandingRow), rows)


def add_events(session: Session, events: Sequence[tuple[int, Event]]) -> int:
    """Store events that are not there yet; returns how many were new."""
    before = session.scalar(select(func.count()).select_from(EventRow)) or 0
    if events:
        rows = [{"motor_id": motor_id} | asdict(event) for motor_id, event in events]
        session.execute(upsert(EventRow).on_conflict_do_nothing(), rows)
    return (session.scalar(select(func.count()).select_from(EventRow)) or 0) - before


def amend(session: Session, motor_id: int, motor: Motor) -> None:
    """Write changed facts of a motor."""
    session.execute(update(MotorRow).where(MotorRow.id == motor_id).values(**columns(motor)))


def mark_stale(session: Session, motor_ids: Iterable[int]) -> None:
    """Mark motors to be judged again, and those of their models that are judged by the model's median."""
    ids = list(motor_ids)
    models = select(MotorRow.model_key).where(MotorRow.id.in_(ids))
    leaning = select(MotorRow.id).where(MotorRow.model_key.in_(models), MotorRow.model_key != "")
    session.execute(update(StandingRow).where(StandingRow.motor_id.in_(ids)).values(stale=True))
    session.execute(
        update(StandingRow).where(StandingRow.leans_on_model, StandingRow.motor_id.in_(leaning)).values(stale=True)
    )


def mark_all_stale(session: Session) -> None:
    """Mark every motor to be judged again, as after an import."""
    session.execute(update(StandingRow).values(stale=True))


def event_id(session: Session, motor_id: int, event: Event) -> int:
    """The id of a stored event."""
    query = select(EventRow.id).where(EventRow.motor_id == motor_id, EventRow.at == event.at)
    return session.scalars(query.where(EventRow.event == event.event, EventRow.detail == event.detail)).one()
