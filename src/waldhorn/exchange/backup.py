"""A backup: everything that cannot be worked out again, as one JSON document or the SQLite file itself."""

import json
import re
import shutil
import sqlite3
import tempfile
from contextlib import closing
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

import waldhorn
from waldhorn.core.base.conditions import CONDITIONS
from waldhorn.core.base.errors import InputError
from waldhorn.exchange.stored_rows import plain
from waldhorn.store.engine import open_store
from waldhorn.store.models import BACKED_UP

BACKUP_VERSION = 3
WRITTEN_BY = "written_by"  # the program's version
_RENAMED = {"steadiness": "speed_ripple"}  # quantities that had another name in earlier backups of this version
_TABLES = {"act": "change"}  # tables and columns that had another name in them
_COLUMNS = {"act_id": "change_id"}
_BY_QUANTITY = {"class_limits": "limits", "use_weights": "weights", "good_enough": "within"}
_SQLITE = b"SQLite format 3\x00"

Tables = dict[str, Any]


def backup(session: Session) -> dict[str, Any]:
    """The whole store as one document; what can be worked out again is left out."""
    tables = {}
    for model in BACKED_UP:
        columns = list(model.__table__.columns)
        keys = [c for c in columns if c.primary_key]
        rows = session.execute(select(*columns).order_by(*keys)).mappings()
        tables[model.__tablename__] = [{k: plain(v) for k, v in row.items()} for row in rows]
    return {"waldhorn_backup": BACKUP_VERSION, WRITTEN_BY: waldhorn.__version__, "tables": tables}


def read_document(file: Path) -> dict[str, Any]:
    """A backup or a motor's own file as a document; a SQLite file is read as the backup it is. Raises InputError."""
    if is_store(file):
        return _of_store(file)
    try:
        document = json.loads(file.read_text(encoding="utf-8-sig"))  # an editor may have put its mark in front
    except (OSError, ValueError, RecursionError) as error:
        raise InputError("file", f"{file.name}: cannot be read as JSON: {error}") from error
    if not isinstance(document, dict):
        raise InputError("file", f"{file.name}: holds no JSON object")
    return document


def tables_of(document: dict[str, Any], name: str) -> Tables:
    """The tables of a backup by name, as they are called today; raises InputError where it is none that can be read."""
    must_be_read_by_this("waldhorn_backup", BACKUP_VERSION, document, name)
    tables = document.get("tables", {})
    if not isinstance(tables, dict):
        raise InputError("file", f'{name}: "tables" is no object of tables by name')
    tables = {_TABLES.get(table, table): _with_columns_of_today(rows) for table, rows in tables.items()}
    _give_conditions(tables)
    return tables | {
        table: _renamed(tables[table], column) for table, column in _BY_QUANTITY.items() if table in tables
    }


def must_be_read_by_this(mark: str, version: int, document: dict[str, Any], name: str) -> None:
    """Raises InputError for a document that is of another version than `version`, or that a newer program wrote."""
    said = document.get(mark)
    if isinstance(said, bool) or not isinstance(said, int) or said < version:
        raise InputError("file", f'{name}: not a file of version {version}: needs "{mark}": {version}')
    writer = str(document.get(WRITTEN_BY, ""))[:20]
    if said > version or _edition(writer) > _edition(waldhorn.__version__):
        by = f"Waldhorn {writer}" if writer else "a newer Waldhorn"
        raise InputError(
            "file",
            f"{name}: was written by {by} in version {said} of its file; this is Waldhorn {waldhorn.__version__}, which"
            f" reads version {version}: take it in with that one",
        )


def _edition(version: str) -> tuple[int, ...]:
    """Major and minor: what is mended within an edition changes no file."""
    return tuple(int(part) for part in re.findall(r"\d{1,4}", version)[:2])


def _with_columns_of_today(rows: Any) -> Any:
    """Rows by the names their columns have today; what is no row is refused later."""
    if not isinstance(rows, list):
        return rows
    return [{_COLUMNS.get(c, c): v for c, v in row.items()} if isinstance(row, dict) else row for row in rows]


def _renamed(rows: Any, column: str) -> Any:
    """Rows whose `column` names quantities, by the names these have today; what is no row is refused later."""
    if not isinstance(rows, list):
        return rows
    return [
        row | {column: {_RENAMED.get(q, q): v for q, v in row[column].items()}}
        if isinstance(row, dict) and isinstance(row.get(column), dict)
        else row
        for row in rows
    ]


def _give_conditions(tables: Tables) -> None:
    """Revisions of readings of before conditions could be corrected: under what the reading stands."""
    readings, revisions = (tables.get(table) for table in ("reading", "reading_revision"))
    if not isinstance(readings, list) or not isinstance(revisions, list):
        return
    under = {r.get("id"): {c: r[c] for c in CONDITIONS if c in r} for r in readings if isinstance(r, dict)}
    tables["reading_revision"] = [
        under.get(row.get("of_id"), {}) | row if isinstance(row, dict) else row for row in revisions
    ]


def is_store(file: Path) -> bool:
    """Whether a file is a SQLite file."""
    with file.open("rb") as opened:
        return opened.read(len(_SQLITE)) == _SQLITE


def is_own_store(file: Path) -> bool:
    """Whether a file is a SQLite file with tables of Waldhorn that can be read whole."""
    try:
        with closing(sqlite3.connect(f"{file.resolve().as_uri()}?mode=ro", uri=True)) as driver:
            whole = driver.execute("PRAGMA quick_check(1)").fetchall() == [("ok",)]
            made = driver.execute("SELECT count(*) FROM sqlite_master WHERE name IN ('alembic_version', 'motor')")
            return whole and made.fetchone() == (2,)
    except sqlite3.Error:
        return False


def _of_store(file: Path) -> dict[str, Any]:
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "other.db"  # opening may bring it to this version
        shutil.copyfile(file, copy)
        try:
            store = open_store(copy, copy_first=False)
        except InputError as refused:
            raise InputError("file", f"{file.name}: {refused.sentence.split(': ', 1)[-1]}") from refused
        try:
            with store.reading() as session:
                return backup(session)
        finally:
            store.close()
