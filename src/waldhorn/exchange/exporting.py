"""Export: the three tables with their data package, and the whole store as one JSON document, and back."""

import csv
import json
import tempfile
import zipfile
from base64 import b64encode
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any

import openpyxl
from openpyxl.cell import WriteOnlyCell
from pydantic import Base64Bytes, BaseModel, ConfigDict, ValidationError, create_model
from sqlalchemy import func, insert, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from waldhorn.core.errors import Refused
from waldhorn.core.measures import MEASURES
from waldhorn.exchange.rows import TABLES, Time, column_names, harmless
from waldhorn.store import motors as motor_store
from waldhorn.store.acts import live
from waldhorn.store.models import BACKED_UP, CheckRow, EventRow, Moment, MotorRow, ReadingRow

BACKUP_VERSION = 3
_STRICT = ConfigDict(allow_inf_nan=False, extra="forbid")
_BATCH = 5_000


def export_tables(session: Session, folder: Path) -> dict[str, int]:
    """Write motors.csv, events.csv, readings.csv, datapackage.json and backup.json; returns rows by table."""
    folder.mkdir(parents=True, exist_ok=True)
    counts = {name: _write(folder / f"{name}.csv", name, rows) for name, rows in _sources(session).items()}
    _write_json(folder / "datapackage.json", datapackage())
    _write_json(folder / "backup.json", backup(session))
    return counts


def package(session: Session, target: Path) -> None:
    """Write the data package as one ZIP file: the three tables and what describes them."""
    with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as packed:
        export_tables(session, Path(folder))
        for name in (*(f"{table}.csv" for table in TABLES), "datapackage.json"):
            packed.write(Path(folder) / name, name)


def workbook(session: Session, target: Path) -> None:
    """Write the three tables as a workbook, a sheet each, for people; no cell of it is a formula."""
    book = openpyxl.Workbook(write_only=True)
    for table, rows in _sources(session).items():
        sheet = book.create_sheet(table)
        sheet.freeze_panes = "B2"
        columns = column_names(table)
        sheet.append(columns)
        for row in rows:
            sheet.append([_workbook_cell(sheet, row.get(c)) for c in columns])
    book.save(target)


def _workbook_cell(sheet: Any, value: Any) -> Any:
    if value is None or (isinstance(value, (int, float)) and not isinstance(value, bool)):
        return value
    cell = WriteOnlyCell(sheet, _cell(value))
    cell.data_type = "s"
    return cell


def _sources(session: Session) -> dict[str, Iterator[dict[str, Any]]]:
    return {"motors": _motors(session), "events": _events(session), "readings": _readings(session)}


def datapackage() -> dict[str, Any]:
    """The Frictionless Data Package that describes the three tables."""
    return {"name": "waldhorn", "profile": "tabular-data-package", "resources": [_resource(name) for name in TABLES]}


def schemas() -> dict[str, Any]:
    """The JSON Schema of a row of each table, generated from the models."""
    return {name: model.model_json_schema() for name, model in TABLES.items()}


def _resource(name: str) -> dict[str, Any]:
    properties = TABLES[name].model_json_schema()["properties"]
    fields = [{"name": column, "type": _frictionless(properties[column])} for column in column_names(name)]
    return {
        "name": name,
        "path": f"{name}.csv",
        "profile": "tabular-data-resource",
        "encoding": "utf-8",
        "schema": {"fields": fields, "missingValues": [""]},
    }


def _frictionless(schema: dict[str, Any]) -> str:
    kinds = [schema, *schema.get("anyOf", [])]
    if any(k.get("format") == "date-time" for k in kinds):
        return "datetime"
    for kind in ("integer", "number"):
        if any(k.get("type") == kind for k in kinds):
            return kind
    return "string"


def _write(file: Path, table: str, rows: Iterator[dict[str, Any]]) -> int:
    columns = column_names(table)
    with file.open("w", encoding="utf-8", newline="") as stream:
        writer = csv.writer(stream)
        writer.writerow(columns)
        cells = [[_cell(row.get(c)) for c in columns] for row in rows]
        writer.writerows(cells)
    return len(cells)


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, datetime):
        return value.isoformat()
    if isinstance(value, float):
        return repr(int(value)) if value.is_integer() and abs(value) < 1e15 else repr(value)
    return harmless(value) if isinstance(value, str) else str(value)


def _motors(session: Session) -> Iterator[dict[str, Any]]:
    for row in session.scalars(select(MotorRow).order_by(MotorRow.id)):
        yield {("class" if n == "motor_class" else n): getattr(row, n) for n in motor_store.MOTOR_FIELDS}


def _events(session: Session) -> Iterator[dict[str, Any]]:
    query = select(MotorRow.tag, EventRow).join(MotorRow).where(live(EventRow)).order_by(EventRow.at, EventRow.id)
    for tag, row in session.execute(query):
        yield {"motor": tag} | {c: getattr(row, c) for c in ("at", "event", "count", "detail", "item")}


def readings_of(session: Session, motor_id: str) -> list[dict[str, Any]]:
    """Every reading of one motor, as rows of readings.csv."""
    return list(_readings(session, motor_id))


def _readings(session: Session, motor_id: str | None = None) -> Iterator[dict[str, Any]]:
    query = (
        select(MotorRow.tag, CheckRow.key, ReadingRow)
        .join(CheckRow, CheckRow.id == ReadingRow.check_id)
        .join(MotorRow, MotorRow.id == CheckRow.motor_id)
        .where(live(ReadingRow))
        .order_by(CheckRow.at, CheckRow.id, ReadingRow.id)
    )
    if motor_id is not None:
        query = query.where(CheckRow.motor_id == motor_id)
    given = [c for c in column_names("readings") if c not in ("motor", "check", "unit")]
    for tag, key, row in session.execute(query.execution_options(yield_per=_BATCH)):
        note = row.note if row.position is None else str(row.position)
        shown = {c: getattr(row, c) for c in given} | {"note": note}
        yield {"motor": tag, "check": key, "unit": MEASURES[row.measure].unit} | shown


def backup(session: Session) -> dict[str, Any]:
    """The whole store as one document; what can be worked out again is left out."""
    tables = {}
    for model in BACKED_UP:
        columns = list(model.__table__.columns)
        keys = [c for c in columns if c.primary_key]
        rows = session.execute(select(*columns).order_by(*keys)).mappings()
        tables[model.__tablename__] = [{k: _plain(v) for k, v in row.items()} for row in rows]
    return {"waldhorn_backup": BACKUP_VERSION, "tables": tables}


def restore(session: Session, file: Path) -> dict[str, int]:
    """Put a backup into an empty store; returns rows by table. Raises Refused when either does not fit."""
    if session.scalar(select(func.count()).select_from(MotorRow)):
        raise Refused(
            "file", f"{file}: a backup goes into an empty store, this one holds motors: name a new one with --db"
        )
    try:
        document = json.loads(file.read_text(encoding="utf-8"))
    except (OSError, ValueError) as error:
        raise Refused("file", f"{file}: cannot be read as JSON: {error}") from error
    if not isinstance(document, dict) or document.get("waldhorn_backup") != BACKUP_VERSION:
        raise Refused(
            "file", f'{file}: not a backup of version {BACKUP_VERSION}: needs "waldhorn_backup": {BACKUP_VERSION}'
        )
    tables = document.get("tables", {})
    if not isinstance(tables, dict):
        raise Refused("file", f'{file}: "tables" is no object of tables by name')
    counts = {}
    for model in BACKED_UP:
        rows = _checked(model, tables.get(model.__tablename__, []), file)
        try:
            if rows:
                session.execute(insert(model), rows)
        except IntegrityError as error:
            raise Refused("file", f"{file}: {model.__tablename__}: rows do not fit together: {error.orig}") from error
        counts[model.__tablename__] = len(rows)
    motor_store.ensure_standings(session)
    return counts


def _checked(model: Any, rows: Any, file: Path) -> list[dict[str, Any]]:
    if not isinstance(rows, list):
        raise Refused("file", f"{file}: {model.__tablename__}: is no list of rows")
    columns: dict[str, Any] = {c.name: (_kind(c), _otherwise(c)) for c in model.__table__.columns}
    shape: type[BaseModel] = create_model(model.__tablename__, __config__=_STRICT, **columns)
    found = []
    for number, row in enumerate(rows, 1):
        try:
            found.append(shape.model_validate(row).model_dump())
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            where = "".join(f"{p}: " for p in first["loc"])
            said = f"{file}: {model.__tablename__}: row {number}: {where}{first['msg'].lower()}"
            raise Refused("file", said) from error
    return found


def _kind(column: Any) -> Any:
    kind: Any = Time if isinstance(column.type, Moment) else column.type.python_type
    if kind is bytes:
        return Base64Bytes
    return kind | None if column.nullable else kind


def _otherwise(column: Any) -> Any:
    """What stands for a column that an older backup does not have."""
    return column.default.arg if column.default is not None and column.default.is_scalar else ...


def _plain(value: Any) -> Any:
    if isinstance(value, bytes):
        return b64encode(value).decode()
    return value.isoformat() if isinstance(value, datetime) else value


def _write_json(file: Path, document: dict[str, Any]) -> None:
    file.write_text(json.dumps(document, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
