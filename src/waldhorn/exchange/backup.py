"""A backup: everything that cannot be worked out again, as one JSON document or the SQLite file itself."""

import json
import shutil
import sqlite3
import tempfile
from contextlib import closing
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.exchange.stored_rows import plain
from waldhorn.store.engine import open_store
from waldhorn.store.models import BACKED_UP

BACKUP_VERSION = 3
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
    return {"waldhorn_backup": BACKUP_VERSION, "tables": tables}


def read_document(file: Path) -> dict[str, Any]:
    """A backup or a motor's own file as a document; a SQLite file is read as the backup it is. Raises InputError."""
    if is_store(file):
        return _of_store(file)
    try:
        document = json.loads(file.read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError) as error:
        raise InputError("file", f"{file.name}: cannot be read as JSON: {error}") from error
    if not isinstance(document, dict):
        raise InputError("file", f"{file.name}: holds no JSON object")
    return document


def tables_of(document: dict[str, Any], name: str) -> Tables:
    """The tables of a backup by name; raises InputError where it is none of this version."""
    if document.get("waldhorn_backup") != BACKUP_VERSION:
        raise InputError(
            "file", f'{name}: not a backup of version {BACKUP_VERSION}: needs "waldhorn_backup": {BACKUP_VERSION}'
        )
    tables = document.get("tables", {})
    if not isinstance(tables, dict):
        raise InputError("file", f'{name}: "tables" is no object of tables by name')
    return tables


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
            store = open_store(copy)
        except InputError as refused:
            raise InputError("file", f"{file.name}: {refused.sentence.split(': ', 1)[-1]}") from refused
        try:
            with store.reading() as session:
                return backup(session)
        finally:
            store.close()
