"""Documents that hold rows as they were made: a backup, a motor's own file. Taking one in adds what is new."""

from datetime import datetime
from pathlib import Path

from sqlalchemy import delete
from sqlalchemy.orm import Session

from waldhorn.exchange import motor_file
from waldhorn.exchange.backup import Tables, read_document, tables_of
from waldhorn.exchange.merging import Merged, Merging
from waldhorn.store import changes, pit
from waldhorn.store.models import BACKED_UP, ChangeKind, PitRow


def take_in(session: Session, file: Path, now: datetime, name: str = "") -> Merged:
    """Take a document in, as one change; raises InputError, and the caller must roll back then.

    A backup is that of another store of the same pit, or of this one as it was. A motor that comes in its own file can
    be taken back; a backup cannot.
    """
    name = name or file.name
    document = read_document(file)
    if motor_file.is_motor_file(document):
        change_id = changes.record(session, ChangeKind.BRING_IN, now, None, detail=name)
        return motor_file.merge_motor(session, document, name, now, change_id)
    return _merge(session, tables_of(document, name), name, now)


def _merge(session: Session, tables: Tables, name: str, now: datetime) -> Merged:
    """Make two stores of one pit one; an empty one becomes the other."""
    others = [row for row in tables.get("pit", []) if isinstance(row, dict)]
    if empty := pit.is_empty(session):
        if others:
            session.execute(delete(PitRow))
    else:
        for row in others:
            pit.joined(session, str(row.get("pit_id", "")))
        tables = tables | {"pit": []}
    change_id = "" if empty else changes.record(session, ChangeKind.MERGE, now, None, detail=name)
    merging = Merging(session, change_id)
    for model in BACKED_UP:
        table = model.__tablename__
        merging.merge(model, tables.get(table, []), f"{name}: {table}")
    return merging.finish()


def in_words(file: Path) -> str:
    """What is in a document, before it is taken in; raises InputError where it is none."""
    document = read_document(file)
    if motor_file.is_motor_file(document):
        return motor_file.in_words(document, file.name)
    tables = tables_of(document, file.name)
    counts = {name: len(rows) for name, rows in tables.items() if isinstance(rows, list)}
    told = ", ".join(f"{counts.get(table, 0)} {words}" for table, words in _TOLD.items())
    return f"a backup: {told}; what is here already is not doubled"


_TOLD = {
    "motor": "motors",
    "bench_check": "checks",
    "reading": "readings",
    "picture": "pictures",
    "sound": "sounds",
}
