"""What was done last and how to undo it: an act carries its inverse as a list of small operations."""

from datetime import datetime
from typing import Any

from sqlalchemy import Table, delete, insert, select, update
from sqlalchemy.orm import Session

from waldhorn.store.models import ActRow, Base, DraftRow

Operation = dict[str, Any]


def delete_rows(table: str, ids: list[int]) -> Operation:
    """Take rows out again."""
    return {"op": "delete", "table": table, "ids": ids}


def set_back(table: str, row_id: int, **values: Any) -> Operation:
    """Put columns of a row back to what they were."""
    return {"op": "set", "table": table, "id": row_id, "values": values}


def draft_back(key: str, fields: dict[str, Any]) -> Operation:
    """Put what was typed back into its fields."""
    return {"op": "draft", "key": key, "fields": fields}


def record(session: Session, motor_id: int, at: datetime, kind: str, words: str, inverse: list[Operation]) -> None:
    """Remember an act, with the operations that undo it in order."""
    session.add(ActRow(motor_id=motor_id, at=at, kind=kind, words=words, inverse={"do": inverse}, undone=False))


def last(session: Session, motor_id: int) -> ActRow | None:
    """The last act on a motor that has not been undone."""
    query = select(ActRow).where(ActRow.motor_id == motor_id, ~ActRow.undone).order_by(ActRow.id.desc()).limit(1)
    return session.scalar(query)


def undo(session: Session, act: ActRow) -> None:
    """Carry out the inverse of an act and mark it undone."""
    for operation in act.inverse["do"]:
        if operation["op"] == "draft":
            save_draft(session, operation["key"], operation["fields"])
            continue
        table = _table(operation["table"])
        if operation["op"] == "delete":
            session.execute(delete(table).where(table.c.id.in_(operation["ids"])))
        else:
            session.execute(update(table).where(table.c.id == operation["id"]).values(operation["values"]))
    session.execute(update(ActRow).where(ActRow.id == act.id).values(undone=True))
    session.expire_all()


def _table(name: str) -> Table:
    return Base.metadata.tables[name]


def draft(session: Session, key: str) -> dict[str, Any]:
    """What is typed under a key but not taken yet."""
    row = session.get(DraftRow, key)
    return dict(row.fields) if row else {}


def save_draft(session: Session, key: str, fields: dict[str, Any]) -> None:
    """Keep what is typed; an empty one is forgotten."""
    session.execute(delete(DraftRow).where(DraftRow.key == key))
    if any(fields.values()):
        session.execute(insert(DraftRow).values(key=key, fields=fields))
