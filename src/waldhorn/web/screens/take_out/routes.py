"""Take out: everything as a data package, a workbook, or a backup."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import Response

from waldhorn.pit.files import taking_out
from waldhorn.pit.writing import read
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
    return _file(f"waldhorn-{now:%Y-%m-%d}.zip", lambda file: read(store, taking_out.package, file))


@router.get("/take-out/workbook.xlsx")
def workbook(store: StoreOf, now: Now) -> Response:
    """A sheet a table, for people."""
    return _file(f"waldhorn-{now:%Y-%m-%d}.xlsx", lambda file: read(store, taking_out.workbook, file))


@router.get("/take-out/backup.json")
def whole(store: StoreOf, now: Now) -> Response:
    """Everything, to be brought into a new store or into the other one of this pit."""
    return _file(f"waldhorn-{now:%Y-%m-%d}.json", lambda file: read(store, taking_out.backup, file))


@router.get("/motors/{tag}/file")
def own_file(store: StoreOf, now: Now, tag: str) -> Response:
    """A motor's own file: everything known of it, for the pit it goes to."""
    name = read(store, taking_out.file_name, tag)
    return _file(name, lambda file: read(store, taking_out.own_file, file, tag, now))


def _file(name: str, write: Callable[[Path], object]) -> Response:
    with tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / name
        write(target)
        content = target.read_bytes()
    named = attachment(name) | {"Cache-Control": "no-store"}
    return Response(content, media_type=_KINDS[target.suffix], headers=named)
