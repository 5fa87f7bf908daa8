"""What was done last and how to undo it: an act carries its inverse as a list of small operations."""

from datetime import datetime
from typing import Any

from sqlalchemy import Table, bindparam, delete, insert, select, update
from sqlalchemy.orm import Session

from waldhorn.store.models import ActRow, Base, DraftRow, Moment

Operation = dict[str, Any]


def delete_rows(table: str, ids: list[int]) -> Operation:
    """Take rows out again."""
    return {"op": "delete", "table": table, "ids": ids}


def set_back(table: str, row_id: int, **values: Any) -> Operation:
    """Put columns of a row back to what they were."""
    return {"op": "set", "table": table, "id": row_id, "values": values}


def put_back(table: str, **values: Any) -> Operation:
    """Put a row in again that was taken away."""
    return {"op": "insert", "table": table, "values": values}


def set_back_each(table: str, column: str, values: dict[int, Any]) -> Operation:
    """Put one column of many rows back to what it was, by row id."""
    return {"op": "each", "table": table, "column": column, "values": {str(i): v for i, v in values.items()}}


def draft_back(key: str, fields: dict[str, Any]) -> Operation:
    """Put what was typed back into its fields."""
    return {"op": "draft", "key": key, "fields": fields}


def record(session: Session, motor_id: int, at: datetime, kind: str, words: str, inverse: list[Operation]) -> None:
    """Remember an act, with the operations that undo it in order."""
    session.add(
        ActRow(
            motor_id=motor_id, at=at, kind=kind, words=words, inverse={"do": [_plain(o) for o in inverse]}, undone=False
        )
    )


def _plain(operation: Operation) -> Operation:
    values = operation.get("values")
    if not isinstance(values, dict):
        return operation
    return operation | {"values": {k: v.isoformat() if isinstance(v, datetime) else v for k, v in values.items()}}


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
        _KINDS[operation["op"]](session, table, operation)
    session.execute(update(ActRow).where(ActRow.id == act.id).values(undone=True))
    session.expire_all()


def _delete(session: Session, table: Table, operation: Operation) -> None:
    session.execute(delete(table).where(table.c.id.in_(operation["ids"])))


def _set(session: Session, table: Table, operation: Operation) -> None:
    values = _typed(table, operation["values"])
    session.execute(update(table).where(table.c.id == operation["id"]).values(values))


def _insert(session: Session, table: Table, operation: Operation) -> None:
    session.execute(insert(table).values(_typed(table, operation["values"])))


def _each(session: Session, table: Table, operation: Operation) -> None:
    statement = update(table).where(table.c.id == bindparam("row_id")).values({operation["column"]: bindparam("was")})
    rows = [{"row_id": int(i), "was": v} for i, v in operation["values"].items()]
    session.connection().execute(statement, rows)


_KINDS = {"delete": _delete, "set": _set, "insert": _insert, "each": _each}


def _typed(table: Table, values: dict[str, Any]) -> dict[str, Any]:
    """Times were kept as text: JSON has none."""
    return {
        k: datetime.fromisoformat(v) if isinstance(v, str) and isinstance(table.c[k].type, Moment) else v
        for k, v in values.items()
    }


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
