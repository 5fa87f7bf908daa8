"""Reads a workbook in a process of its own, with a limit of memory and of time: a workbook is other people's work, and
one of a kilobyte may ask for more than a machine has.

Run as a program it prints one JSON line: [[sheet name, rows of cells as text], …], or {"refused": "why"}.
"""

import contextlib
import json
import re
import subprocess
import sys
import zipfile
from datetime import date, datetime, time
from pathlib import Path
from typing import Any

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.text import without_control

MOST_CELLS = 4_000_000
MOST_COLUMNS, MOST_ROWS = 1000, 1_048_576
MOST_UNPACKED = 400 * 1024 * 1024
MEMORY_BYTES = 1536 * 1024 * 1024
LONGEST_S = 60
_FAR = re.compile(rb'\br="([A-Z]{1,3})([0-9]{1,7})"')
_CHUNK, _OVERLAP = 1 << 20, 32

Tables = list[tuple[str, list[list[str]]]]


def read(file: Path) -> Tables:
    """Every sheet of a workbook by name, each cell as text; raises InputError where its limits do not do."""
    command = [sys.executable, "-m", __name__, str(file)]
    try:
        done = subprocess.run(command, capture_output=True, timeout=LONGEST_S, check=False)
    except subprocess.TimeoutExpired as error:
        raise InputError("file", f"{file.name}: reading it takes more than {LONGEST_S} s: split it") from error
    try:
        told = json.loads(done.stdout)
    except ValueError as error:
        raise InputError(
            "file", f"{file.name}: too large to be read as a workbook, or broken: save it as CSV"
        ) from error
    if isinstance(told, dict):
        raise InputError("file", f"{file.name}: {told['refused']}")
    return [(name, rows) for name, rows in told]


def main() -> None:
    """Read the file that is named, and print what is in it."""
    _limit_memory()
    try:
        told: Any = _sheets(Path(sys.argv[1]))
    except InputError as refused:
        told = {"refused": refused.sentence}
    except MemoryError:
        told = {"refused": "needs more memory than it may have: save the sheet that counts as CSV"}
    json.dump(told, sys.stdout)


def _limit_memory() -> None:
    with contextlib.suppress(ImportError, ValueError, OSError):  # not every system can
        import resource

        resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))


def _sheets(file: Path) -> Tables:
    from python_calamine import CalamineError, CalamineWorkbook

    try:
        if zipfile.is_zipfile(file):
            _look_at_dimensions(file)
        book = CalamineWorkbook.from_path(str(file))
        found: Tables = []
        cells = 0
        for name in book.sheet_names:
            sheet = book.get_sheet_by_name(name)
            _refuse_large(name, sheet.total_height, sheet.total_width)
            cells += sheet.height * sheet.width
            if cells > MOST_CELLS:
                raise InputError("file", f"{cells:,} cells: {MOST_CELLS:,} at most")
            found.append((name, [[_text(cell) for cell in row] for row in sheet.to_python()]))
    except (CalamineError, OSError, ValueError, EOFError, zipfile.BadZipFile, RuntimeError) as error:
        if isinstance(error, InputError):
            raise
        raise InputError("file", f"cannot be read as a workbook: {error}") from error
    return found


def _look_at_dimensions(file: Path) -> None:
    """Refuse a workbook whose cells lie too far out, or that unpacks to too much, before any cell is read."""
    left = MOST_UNPACKED
    with zipfile.ZipFile(file) as packed:
        for part in packed.infolist():
            row, column, rest = 0, 0, b""
            with packed.open(part) as stream:
                while chunk := stream.read(_CHUNK):
                    left -= len(chunk)
                    if left < 0:
                        raise InputError("file", f"unpacks to more than {MOST_UNPACKED >> 20} MB")
                    if part.filename.startswith("xl/worksheets/"):
                        for letters, digits in _FAR.findall(rest + chunk):
                            row, column = max(row, int(digits)), max(column, _column(letters))
                        rest = chunk[-_OVERLAP:]
            _refuse_large(part.filename, row, column)


def _refuse_large(name: str, rows: int, columns: int) -> None:
    if columns > MOST_COLUMNS:
        raise InputError("file", f"{name} has {columns:,} columns: {MOST_COLUMNS} at most")
    if rows > MOST_ROWS or rows * columns > MOST_CELLS:
        raise InputError("file", f"{name} has {rows:,} rows and {columns:,} columns: {MOST_CELLS:,} cells at most")


def _column(letters: bytes) -> int:
    """The number of a column by its letters.

    >>> _column(b"A"), _column(b"XFD")
    (1, 16384)
    """
    number = 0
    for letter in letters:
        number = 26 * number + letter - 64
    return number


def _text(cell: Any) -> str:
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return repr(int(cell)) if cell.is_integer() and abs(cell) < 1e15 else repr(cell)
    if isinstance(cell, (datetime, date, time)):
        return cell.isoformat()
    return without_control(str(cell)).strip()


if __name__ == "__main__":
    main()
