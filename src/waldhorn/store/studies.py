"""Studies of rigs in the store, and the visits that were made for them: checks whose key names study and place."""

from collections import defaultdict

from sqlalchemy import select
from sqlalchemy.orm import Session

from waldhorn.store.changes import not_undone
from waldhorn.store.models import CheckRow, ReadingRow, StudyRow


def key(study_id: str, place: int) -> str:
    """The key of the check that is a visit of a study."""
    return f"study {study_id} {place}"


def get(session: Session, study_id: str) -> StudyRow | None:
    """A study."""
    return session.get(StudyRow, study_id)


def of_rig(session: Session, rig: str) -> list[StudyRow]:
    """The studies of a rig, newest first."""
    return list(session.scalars(select(StudyRow).where(StudyRow.rig == rig).order_by(StudyRow.id.desc())))


def visits(session: Session, study_id: str) -> dict[int, tuple[float, ...]]:
    """What was read at each visit that was made, by its place."""
    query = (
        select(CheckRow.key, ReadingRow.value)
        .join(ReadingRow, ReadingRow.check_id == CheckRow.id)
        .where(CheckRow.key.startswith(f"study {study_id} "), not_undone(CheckRow), not_undone(ReadingRow))
        .order_by(ReadingRow.run, ReadingRow.id)
    )
    found: dict[int, list[float]] = defaultdict(list)
    for name, value in session.execute(query):
        found[int(name.rsplit(" ", 1)[1])].append(value)
    return {place: tuple(values) for place, values in found.items()}


def check_of(session: Session, study_id: str, place: int) -> CheckRow | None:
    """The check of a visit."""
    return session.scalar(select(CheckRow).where(CheckRow.key == key(study_id, place), not_undone(CheckRow)))
