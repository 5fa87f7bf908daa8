"""Take out: everything as a data package, a workbook, or a backup."""

import json
import tempfile
from collections.abc import Callable
from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import Response
from sqlalchemy.orm import Session

from waldhorn.exchange import exporting
from waldhorn.web.pages import Now, StoreOf

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
def backup(store: StoreOf, now: Now) -> Response:
    """Everything, to be brought into an empty store."""
    return _file(store, f"waldhorn-{now:%Y-%m-%d}.json", _backup)


def _backup(session: Session, target: Path) -> None:
    target.write_text(json.dumps(exporting.backup(session), ensure_ascii=False), encoding="utf-8")


def _file(store: StoreOf, name: str, write: Callable[[Session, Path], None]) -> Response:
    with tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / name
        with store.reading() as session:
            write(session, target)
        content = target.read_bytes()
    named = {"Content-Disposition": f'attachment; filename="{name}"', "Cache-Control": "no-store"}
    return Response(content, media_type=_KINDS[target.suffix], headers=named)
