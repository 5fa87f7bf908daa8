"""The table findings.csv: what was found that is no number, out of the store and back, with its pictures and
sounds."""

import json
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any
from uuid import NAMESPACE_URL, uuid5

from sqlalchemy import select, update
from sqlalchemy.dialects.sqlite import insert as upsert
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.exchange.attachments import ATTACHMENTS
from waldhorn.exchange.rows import FindingsRow
from waldhorn.exchange.stored_rows import checked
from waldhorn.store.changes import not_undone
from waldhorn.store.models import FINDINGS, CheckRow, MotorRow, SignedRow, clock

_MODELS: Mapping[str, Any] = {
    **{model.__tablename__: model for model in FINDINGS},
    **{kind: attachment.model for kind, attachment in ATTACHMENTS.items()},
    "signed": SignedRow,
}
_OF_CHECK = ("first_spin", "sweep")  # said of the check itself
_KEPT = {"id", "changed_at", "change_id", "check_id", "motor_id", "at", "withdrawn_by"}
_FILES = {attachment.column for attachment in ATTACHMENTS.values()}
_MOST_BYTES = 8 * 1024 * 1024

Placed = tuple[str, str, FindingsRow]  # motor id, check id, row


def rows_out(session: Session) -> Iterator[dict[str, Any]]:
    """Every finding as a row of the table, kind by kind."""
    place = select(CheckRow.id, MotorRow.tag, CheckRow.key).join(MotorRow, MotorRow.id == CheckRow.motor_id)
    of = {
        check_id: {"motor": tag, "check": key}
        for check_id, tag, key in session.execute(place.where(MotorRow.on_rack, not_undone(CheckRow)))
    }
    for kind, model in _MODELS.items():
        names = [c.name for c in model.__table__.columns if c.name not in _KEPT | _FILES]
        query = select(model.id, model.check_id, model.at, *(getattr(model, n) for n in names)).where(not_undone(model))
        for row_id, check_id, at, *values in session.execute(query.order_by(model.at, model.id)):
            if check_id not in of:
                continue
            said = dict(zip(names, values, strict=True)) | {"finding": kind, "at": at, "id": row_id}
            if kind in ATTACHMENTS:
                said["file"] = ATTACHMENTS[kind].file(row_id)
            if kind == "signed":
                said["judgement"] = json.dumps(said["judgement"], ensure_ascii=False)
            yield of[check_id] | said
    query = select(CheckRow.id, CheckRow.at, CheckRow.first_spin, CheckRow.sweep).where(not_undone(CheckRow))
    for check_id, at, *states in session.execute(query.order_by(CheckRow.at, CheckRow.id)):
        for kind, state in zip(_OF_CHECK, states, strict=True):
            if state:
                yield of[check_id] | {"finding": kind, "at": at, "state": state}


def write_attachments(session: Session, folder: Path) -> list[str]:
    """Write every picture and sound beside the table, under the name it has there; returns those that are
    damaged."""
    damaged = []
    for attachment in ATTACHMENTS.values():
        model = attachment.model
        (folder / attachment.folder).mkdir(exist_ok=True)
        files = select(model.id, getattr(model, attachment.column)).where(not_undone(model)).order_by(model.id)
        for row_id, data in session.execute(files):
            name = attachment.file(row_id)
            (folder / name).write_bytes(data)
            if attachment.is_damaged(data):
                damaged.append(name)
    return damaged


def add(session: Session, rows: Sequence[Placed], change_id: str | None, folder: Path) -> int:
    """Store findings that are not there yet; returns how many were new. Pictures and sounds lie in `folder`."""
    return sum(_add(session, placed, change_id, folder) for placed in rows)


def stored(motor_id: str, check_id: str, row: FindingsRow, change_id: str | None, folder: Path) -> dict[str, Any]:
    """A finding as a row of its table; raises InputError where it cannot be one."""
    model = _MODELS[row.finding]
    said = row.model_dump()
    values: dict[str, Any] = {c.name: said.get(c.name) for c in model.__table__.columns}
    if row.finding in ATTACHMENTS:
        values[ATTACHMENTS[row.finding].column] = _file(folder, row)
    if row.finding == "signed":
        values |= {"motor_id": motor_id, "judgement": _judgement(row.judgement)}
    values |= {"check_id": check_id, "change_id": change_id, "changed_at": clock(), "id": row.id or _id(check_id, said)}
    return checked(model, [values], "row")[0]


def refuse_wrong(row: FindingsRow, folder: Path) -> None:
    """Raise InputError for a row that cannot be stored, before anything is."""
    if row.finding in _OF_CHECK:
        checked(CheckRow, [_bare_check(row)], "row")
    else:
        stored("", "", row, None, folder)


def _bare_check(row: FindingsRow) -> dict[str, Any]:
    empty: dict[str, Any] = {c.name: None if c.nullable else "" for c in CheckRow.__table__.columns}
    return empty | {
        "open": False,
        "caution_confirmed": False,
        "at": row.at,
        "changed_at": row.at,
        row.finding: row.state,
    }


def _add(session: Session, placed: Placed, change_id: str | None, folder: Path) -> bool:
    motor_id, check_id, row = placed
    if row.finding in _OF_CHECK:
        column = getattr(CheckRow, row.finding)
        statement = update(CheckRow).where(CheckRow.id == check_id, column.is_(None)).values({column: row.state})
        return session.execute(statement.returning(CheckRow.id)).first() is not None
    model = _MODELS[row.finding]
    values = stored(motor_id, check_id, row, change_id, folder)
    fresh = upsert(model).values(values)
    back = {"change_id": fresh.excluded.change_id}  # one that was undone comes again with the identifier it had
    taken = fresh.on_conflict_do_update(index_elements=["id"], set_=back, where=~not_undone(model))
    return session.execute(taken.returning(model.id)).first() is not None


def _id(check_id: str, said: Mapping[str, Any]) -> str:
    """An identifier that the same finding always gets."""
    told = json.dumps({n: str(v) for n, v in said.items() if v not in (None, "") and n not in ("motor", "check")})
    return str(uuid5(NAMESPACE_URL, f"waldhorn:{check_id}:{told}"))


def _file(folder: Path, row: FindingsRow) -> bytes:
    file = folder / row.file
    there = row.file.startswith(ATTACHMENTS[row.finding].folder) and file.is_file()
    if not there or file.stat().st_size > _MOST_BYTES:
        raise InputError("file", f"“{row.file}” is no {row.finding} beside this table")
    return file.read_bytes()


def _judgement(text: str) -> Any:
    try:
        return json.loads(text or "{}")
    except ValueError as error:
        raise InputError("judgement", "is no JSON") from error
