"""Take out: everything as a data package, a workbook, or a backup."""

import json
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response
from sqlalchemy.orm import Session

from waldhorn.exchange import exporting, motor_file
from waldhorn.exchange.backup import backup
from waldhorn.store import motors
from waldhorn.web.common.addresses import attachment
from waldhorn.web.common.pages import Now, StoreOf

router = APIRouter()
_KINDS = {
    ".zip": "application/zip",
    ".xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    ".json": "application/json",
}


@router.get("/take-out/package.zip")
def package(store: StoreOf, now: Now) -> Response:
    """The three tables with what describes them."""
    return _file(store, f"waldhorn-{now:%Y-%m-%d}.zip", exporting.package)


@router.get("/take-out/workbook.xlsx")
def workbook(store: StoreOf, now: Now) -> Response:
    """A sheet a table, for people."""
    return _file(store, f"waldhorn-{now:%Y-%m-%d}.xlsx", exporting.workbook)


@router.get("/take-out/backup.json")
def whole(store: StoreOf, now: Now) -> Response:
    """Everything, to be brought into a new store or into the other one of this pit."""
    return _file(store, f"waldhorn-{now:%Y-%m-%d}.json", lambda session, target: _json(target, backup(session)))


@router.get("/motors/{tag}/file")
def own_file(store: StoreOf, now: Now, tag: str) -> Response:
    """A motor's own file: everything known of it, for the pit it goes to."""
    with store.reading() as session:
        row = motors.on_rack(session, tag)
        motor_id, name = row.id, motor_file.file_name(row.tag)
    return _file(store, name, lambda session, target: _json(target, motor_file.write(session, motor_id, now)))


def _json(target: Path, document: dict[str, Any]) -> None:
    target.write_text(json.dumps(document, ensure_ascii=False), encoding="utf-8")


def _file(store: StoreOf, name: str, write: Callable[[Session, Path], None]) -> Response:
    with tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / name
        with store.reading() as session:
            write(session, target)
        content = target.read_bytes()
    named = attachment(name) | {"Cache-Control": "no-store"}
    return Response(content, media_type=_KINDS[target.suffix], headers=named)
