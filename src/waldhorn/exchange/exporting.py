"""Export: the tables with their data package, and as a workbook."""

import csv
import json
import tempfile
import zipfile
from collections.abc import Iterator, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from waldhorn.core.measuring.measures import MEASURES
from waldhorn.core.motors import own_facts
from waldhorn.exchange import findings_table
from waldhorn.exchange.attachments import ATTACHMENTS
from waldhorn.exchange.backup import backup
from waldhorn.exchange.cells import harmless
from waldhorn.exchange.rows import TABLES, column_names
from waldhorn.store import load_names
from waldhorn.store import motors as motor_store
from waldhorn.store.changes import not_undone
from waldhorn.store.models import CheckRow, EventRow, MotorRow, PackRow, PropellerRow, ReadingRow

_BATCH = 5_000


def export_tables(session: Session, folder: Path) -> dict[str, int]:
    """Write the tables, what describes them, pictures, sounds and backup.json; returns rows by table."""
    folder.mkdir(parents=True, exist_ok=True)
    own = own_columns(session)
    counts = {name: _write(folder / f"{name}.csv", name, rows, own) for name, rows in _sources(session).items()}
    damaged = findings_table.write_attachments(session, folder)
    _write_json(folder / "datapackage.json", datapackage(own) | ({"damaged": damaged} if damaged else {}))
    _write_json(folder / "backup.json", backup(session))
    return counts


def package(session: Session, target: Path) -> None:
    """Write the data package as one ZIP file: the tables, what describes them, pictures and sounds."""
    with tempfile.TemporaryDirectory() as scratch, zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as packed:
        folder = Path(scratch)
        export_tables(session, folder)
        attached = [str(f.relative_to(folder)) for a in ATTACHMENTS.values() for f in (folder / a.folder).iterdir()]
        for name in (*(f"{table}.csv" for table in TABLES), "datapackage.json", *sorted(attached)):
            packed.write(folder / name, name)


def workbook(session: Session, target: Path) -> None:
    """Write the tables as a workbook, a sheet each, for people; no cell of it is a formula."""
    import openpyxl

    book = openpyxl.Workbook(write_only=True)
    for table, rows in _sources(session).items():
        sheet = book.create_sheet(table)
        sheet.freeze_panes = "B2"
        columns = [*column_names(table), *(own_columns(session) if table == "motors" else ())]
        sheet.append(columns)
        for row in (r for r in rows if r.get("finding") not in ATTACHMENTS):  # a cell holds none
            sheet.append([_workbook_cell(sheet, row.get(c)) for c in columns])
    book.save(target)


def _workbook_cell(sheet: Any, value: Any) -> Any:
    if value is None or (isinstance(value, (int, float)) and not isinstance(value, bool)):
        return value
    from openpyxl.cell import WriteOnlyCell

    cell = WriteOnlyCell(sheet, _cell(value))
    cell.data_type = "s"
    return cell


def _sources(session: Session) -> dict[str, Iterator[dict[str, Any]]]:
    return {
        "motors": _motors(session),
        "events": _events(session),
        "readings": _readings(session),
        "findings": findings_table.rows_out(session),
        "propellers": _load_names(session, PropellerRow),
        "packs": _load_names(session, PackRow),
    }


def datapackage(own: Sequence[str] = ()) -> dict[str, Any]:
    """The Frictionless Data Package that describes the tables; `own` are the columns of facts of one's own."""
    resources = [_resource(name, own if name == "motors" else ()) for name in TABLES]
    return {"name": "waldhorn", "profile": "tabular-data-package", "resources": resources}


def own_columns(session: Session) -> list[str]:
    """The columns of facts of one's own that any motor has."""
    return sorted(
        {c for text in session.scalars(select(MotorRow.own).where(MotorRow.on_rack)) for c in own_facts.columns(text)}
    )


def schemas() -> dict[str, Any]:
    """The JSON Schema of a row of each table, generated from the models."""
    return {name: model.model_json_schema() for name, model in TABLES.items()}


def _resource(name: str, own: Sequence[str] = ()) -> dict[str, Any]:
    properties = TABLES[name].model_json_schema()["properties"]
    fields = [{"name": column, "type": _frictionless(properties[column])} for column in column_names(name)]
    fields += [{"name": column, "type": "string"} for column in own]
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


def _write(file: Path, table: str, rows: Iterator[dict[str, Any]], own: Sequence[str] = ()) -> int:
    columns = [*column_names(table), *(own if table == "motors" else ())]
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
    for row in session.scalars(select(MotorRow).where(MotorRow.on_rack).order_by(MotorRow.id)):
        named = {
            ("class" if n == "motor_class" else n): getattr(row, n) for n in motor_store.MOTOR_FIELDS if n != "own"
        }
        yield named | own_facts.columns(row.own)


def _load_names(session: Session, model: Any) -> Iterator[dict[str, Any]]:
    for row in load_names.standing(session, model):
        said = {c.name: getattr(row, c.name) for c in model.__table__.columns}
        yield said | ({"also": "; ".join(map(str, said["also"]))} if "also" in said else {})


def _events(session: Session) -> Iterator[dict[str, Any]]:
    query = select(MotorRow.tag, EventRow).join(MotorRow).where(MotorRow.on_rack, not_undone(EventRow))
    for tag, row in session.execute(query.order_by(EventRow.at, EventRow.id)):
        yield {"motor": tag} | {c: getattr(row, c) for c in column_names("events") if c != "motor"}


def readings_of(session: Session, motor_id: str) -> list[dict[str, Any]]:
    """Every reading of one motor, as rows of readings.csv."""
    return list(_readings(session, motor_id))


def _readings(session: Session, motor_id: str | None = None) -> Iterator[dict[str, Any]]:
    query = (
        select(MotorRow.tag, CheckRow.key, ReadingRow)
        .join(CheckRow, CheckRow.id == ReadingRow.check_id)
        .join(MotorRow, MotorRow.id == CheckRow.motor_id)
        .where(MotorRow.on_rack, not_undone(ReadingRow))
        .order_by(CheckRow.at, CheckRow.id, ReadingRow.id)
    )
    if motor_id is not None:
        query = query.where(CheckRow.motor_id == motor_id)
    given = [c for c in column_names("readings") if c not in ("motor", "check", "unit")]
    for tag, key, row in session.execute(query.execution_options(yield_per=_BATCH)):
        note = row.note if row.position is None else str(row.position)
        shown = {c: getattr(row, c) for c in given} | {"note": note}
        yield {"motor": tag, "check": key, "unit": MEASURES[row.measure].unit} | shown


def _write_json(file: Path, document: dict[str, Any]) -> None:
    file.write_text(json.dumps(document, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
