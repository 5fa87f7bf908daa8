"""Files that were chosen in the browser, staged until they are brought in or forgotten."""

import contextlib
import csv
import re
import secrets
import shutil
import struct
import tempfile
import zipfile
import zlib
from collections.abc import Sequence
from datetime import datetime, timedelta
from pathlib import Path

from waldhorn.core.base.errors import InputError
from waldhorn.exchange import sheets
from waldhorn.exchange.attachments import ATTACHMENTS
from waldhorn.exchange.rows import TABLES, table_of

MOST_FILES = 12
MOST_UNPACKED = 400 * 1024 * 1024
MOST_PACKED = 5_000
_CHUNK = 1 << 20
KEPT_FOR = timedelta(hours=12)
_PACKED = tuple(f"{table}.csv" for table in TABLES)
_ATTACHED = re.compile(
    "(?:[^/]+/)?(?:" + "|".join(rf"{a.folder}/[\w.-]{{1,120}}\.{a.suffix}" for a in ATTACHMENTS.values()) + ")"
)
_TORN = (zipfile.BadZipFile, zlib.error, RuntimeError, NotImplementedError, EOFError, OSError, ValueError, struct.error)
_FOLDER = "waldhorn-bring-in"
_LONGEST = 80  # characters of a file name
_TOKEN = re.compile(r"[\w-]{16}")


def lay_aside(files: Sequence[tuple[str, bytes]]) -> str:
    """Keep files until they are brought in or forgotten; raises InputError. Returns under what they are found."""
    chosen = [(_safe(name), content) for name, content in files if name and content]
    if not chosen:
        raise InputError("files", "choose a file: a table, a spreadsheet, a data package or a backup")
    if len(chosen) > MOST_FILES:
        raise InputError("files", f"{len(chosen)} files: {MOST_FILES} at once at most")
    _forget_old()
    token = secrets.token_urlsafe(12)
    _root().mkdir(mode=0o700, exist_ok=True)  # nobody else's business on a shared machine
    folder = folder_of(token)
    folder.mkdir()
    for place, (name, content) in enumerate(chosen):
        target = folder / name
        if target.exists():
            target = folder / f"{place} {name}"
        target.write_bytes(content)
        if target.suffix.lower() == ".zip" and zipfile.is_zipfile(target):
            unpack(target, folder)
            target.unlink()
        elif sheets.format_of(target) is sheets.WORKBOOK:
            _unbind(target, folder)
    return token


def _safe(name: str) -> str:
    """A file's name as it can be kept: no folder, no character that means something, its ending at the end."""
    plain = re.sub(r"[^\w .()+-]", "_", name.replace("\\", "/").rsplit("/", 1)[-1])
    return plain[-_LONGEST:].lstrip(". ") or "file"


def _root() -> Path:
    return Path(tempfile.gettempdir()) / _FOLDER


def folder_of(token: str) -> Path:
    """Where files of a token lie; what is no token lies nowhere."""
    return _root() / (token if _TOKEN.fullmatch(token) else "nowhere")


def _forget_old() -> None:
    for folder in _root().glob("*"):
        with contextlib.suppress(FileNotFoundError):  # another Waldhorn of this machine has let it go
            if datetime.now().timestamp() - folder.stat().st_mtime > KEPT_FOR.total_seconds():
                shutil.rmtree(folder, ignore_errors=True)


def unpack(package: Path, folder: Path) -> None:
    """The tables of a data package and what is attached to them; nothing else in it. Raises InputError."""
    unreadable = InputError(
        "files", f"{package.name}: no motors.csv, events.csv or readings.csv in it that can be read"
    )
    left = MOST_UNPACKED
    try:
        with zipfile.ZipFile(package) as packed:
            inside = [i for i in packed.infolist() if Path(i.filename).name in _PACKED]
            attached = [i for i in packed.infolist() if _ATTACHED.fullmatch(i.filename)]
            if not inside or len(inside) + len(attached) > MOST_PACKED:
                raise unreadable
            for attachment in ATTACHMENTS.values():
                (folder / attachment.folder).mkdir(exist_ok=True)
            for one in (*inside, *attached):
                parts = Path(one.filename).parts
                left = _write_out(packed, one, folder.joinpath(*parts[-1 if one in inside else -2 :]), left)
                if left < 0:
                    raise InputError("files", f"{package.name}: unpacks to more than {MOST_UNPACKED >> 20} MB")
    except InputError:
        raise
    except _TORN as error:  # torn, locked, odd
        raise unreadable from error


def _write_out(packed: zipfile.ZipFile, one: zipfile.ZipInfo, target: Path, left: int) -> int:
    """Unpack one file, no more than so many bytes of it whatever it declares; returns how many are left, or less."""
    with packed.open(one) as stream, target.open("wb") as out:
        while left >= 0 and (chunk := stream.read(_CHUNK)):
            left -= len(chunk)
            out.write(chunk)
    return left


def _unbind(workbook: Path, folder: Path) -> None:
    """A workbook of Waldhorn's own tables becomes these; any other stays what it is."""
    try:
        found = sheets.read(workbook)
    except InputError:
        return
    tables = [table_of(sheet.header) for sheet in found]
    if all(tables):
        for table, sheet in zip(tables, found, strict=True):
            with (folder / f"{workbook.stem}.{table}.csv").open("w", encoding="utf-8", newline="") as stream:
                csv.writer(stream).writerows([sheet.header, *(cells for _, cells in sheet.rows)])
        workbook.unlink()


def size_of(token: str) -> int:
    """Bytes that were staged."""
    folder = folder_of(token)
    return sum(f.stat().st_size for f in folder.rglob("*") if f.is_file()) if folder.is_dir() else 0


def forget(token: str) -> None:
    shutil.rmtree(folder_of(token), ignore_errors=True)
