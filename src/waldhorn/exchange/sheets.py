"""Sheets: any spreadsheet as rows of text, whatever it is kept in: separated text in any separator and encoding, or a
workbook. Not what its columns mean (see `mapping`)."""

import csv
import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import TextIO

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.text import without_control
from waldhorn.exchange import workbook_reader

SEPARATORS = ";\t|,"
NOTHING = frozenset({"n/a", "na", "-", "–", "—", "?", "none", "x"})  # how a sheet says that nothing was read
_PROPELLER = re.compile(r"\d[\d.,]*\s*[x×]\s*\d")
MOST_HEAD_ROWS = 12  # above the header: a title, a date, a merged head
LONGEST_LINE = 1 << 20
MOST_TEXT_CELLS = 1_500_000
_MOST_SEEN = 200_000
_SAMPLE = 64 * 1024
_ENCODINGS = ("utf-8-sig", "utf-16", "cp1252")


@dataclass(frozen=True)
class Sheet:
    """A sheet: its name, its header, and its rows with the number each has in the file; every cell as text."""

    name: str
    header: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]

    def column(self, place: int) -> list[str]:
        """The cells of a column that are not empty."""
        return [row[place] for _, row in self.rows if place < len(row) and row[place]]


@dataclass(frozen=True)
class FileFormat:
    """A kind of file that sheets come in: the suffixes it is known by, what its first bytes begin with where they tell,
    and how its tables are read: each by name, its rows as text."""

    name: str
    suffixes: tuple[str, ...]
    begins: tuple[bytes, ...]
    read: Callable[[Path], workbook_reader.Tables]

    def fits(self, file: Path, head: bytes) -> bool:
        """Whether a file is of this kind."""
        return file.suffix.lower() in self.suffixes or (bool(self.begins) and head.startswith(self.begins))


def format_of(file: Path) -> FileFormat:
    """The format of a file: the first of `FORMATS` that fits, separated text where none does."""
    with file.open("rb") as opened:
        head = opened.read(16)
    return next((f for f in FORMATS if f.fits(file, head)), SEPARATED)


def read(file: Path) -> list[Sheet]:
    """The sheets of a file that hold anything.

    Raises
    ------
    InputError
        It cannot be read as a sheet, or holds nothing.
    """
    tables = format_of(file).read(file)
    found = [sheet for name, table in tables if (sheet := _sheet(name, table))]
    if not found:
        raise InputError("file", f"{file.name}: no rows under a header in it")
    return found


def _separated(file: Path) -> workbook_reader.Tables:
    encoding = _encoding_of(file)
    try:
        with file.open(encoding=encoding, newline="") as text:
            sample = text.read(_SAMPLE)
            text.seek(0)
            return [("", list(_cells(file, csv.reader(_lines(file, text), delimiter=_separator(sample)))))]
    except csv.Error as error:
        raise InputError("file", f"{file.name}: cannot be read as separated text: {error}") from error


def _encoding_of(file: Path) -> str:
    """The first encoding that a whole text can be, read a piece at a time; raises InputError."""
    with file.open("rb") as raw:
        head = raw.read(_SAMPLE)
    is_utf_16 = head[:2] in (b"\xff\xfe", b"\xfe\xff")
    if b"\0" in head and not is_utf_16:
        raise InputError("file", f"{file.name}: this is no text and no workbook that can be read")
    for encoding in _ENCODINGS if is_utf_16 else [e for e in _ENCODINGS if e != "utf-16"]:
        with suppress(UnicodeError), file.open(encoding=encoding) as text:
            while text.read(_SAMPLE):
                pass
            return encoding
    raise InputError("file", f"{file.name}: in no encoding that can be read: save it as UTF-8")


def _lines(file: Path, text: TextIO) -> Iterator[str]:
    """The lines of a text; raises InputError for one that no table has."""
    while line := text.readline(LONGEST_LINE + 1):
        if len(line) > LONGEST_LINE:
            raise InputError("file", f"{file.name}: a line has over {LONGEST_LINE:,} characters: this is no table")
        yield line


def _cells(file: Path, rows: Iterable[list[str]]) -> Iterator[list[str]]:
    """Rows of clean cells, of which equal ones are one value; raises InputError where there are too many."""
    seen: dict[str, str] = {}
    count = 0
    for row in rows:
        if len(row) > workbook_reader.MOST_COLUMNS:
            raise InputError("file", f"{file.name} has {len(row):,} columns: {workbook_reader.MOST_COLUMNS} at most")
        count += len(row)
        if count > MOST_TEXT_CELLS:
            raise InputError("file", f"{file.name} has over {MOST_TEXT_CELLS:,} cells: bring it in in parts")
        clean = [without_control(cell).strip() for cell in row]
        yield [seen.setdefault(cell, cell) if len(seen) < _MOST_SEEN else cell for cell in clean]


def _separator(text: str) -> str:
    """The separator that parts most lines into the same number of cells, the more the better."""
    lines = [line for line in text[:_SAMPLE].splitlines()[:60] if line.strip()]

    def fits(separator: str) -> tuple[float, int]:
        counts = [len(row) for row in csv.reader(lines, delimiter=separator)]
        usual = max(set(counts), key=lambda n: (counts.count(n), n), default=1)
        return (0.0 if usual == 1 else counts.count(usual) / len(counts)), usual

    return max(SEPARATORS, key=fits)


def _sheet(name: str, table: Sequence[Sequence[str]]) -> Sheet | None:
    """The header is the first of the upper rows whose cells are mostly words with as many filled as any below."""
    filled = [sum(bool(cell) for cell in row) for row in table]
    if not any(filled):
        return None
    upper = range(min(len(table), MOST_HEAD_ROWS))
    widest = max(filled[: MOST_HEAD_ROWS * 3])
    head = next((i for i in upper if filled[i] >= 0.6 * widest and _words(table[i]) >= 0.6 * filled[i]), None)
    if head is None:
        return None
    header, last = _heading(table, head)
    one_line = ((i, tuple(map(_one_line, row))) for i, row in enumerate(table))
    rows = tuple((i + 1, row) for i, row in one_line if i > last and filled[i])
    return Sheet(name, header, rows) if rows else None


def _heading(table: Sequence[Sequence[str]], head: int) -> tuple[tuple[str, ...], int]:
    """The header of a table and its last row: two rows are one heading where the second says more of the first (units,
    parts of a wide cell), or the first parts what the second names twice."""
    header = [" ".join(cell.split()) for cell in table[head]]
    below = table[head + 1] if head + 1 < len(table) else ()
    if _goes_on(header, below, table[head + 2 :]):
        return _joined(_wide(header), _padded(below, header)), head + 1
    named = [cell.casefold() for cell in header if cell]
    above = table[head - 1] if head else ()
    if len(set(named)) < len(named) and sum(map(bool, above)) > 1 and not any(map(_number_like, above)):
        return _joined(_wide(_padded(above, header)), header), head
    return tuple(header), head


def _goes_on(header: Sequence[str], below: Sequence[str], rest: Sequence[Sequence[str]]) -> bool:
    """Whether the row under a header is words over columns of numbers, or names the parts of its wide cells alone."""
    if not any(below) or any(_number_like(cell) and not _PROPELLER.match(cell) for cell in below):
        return False
    parts = {i for i, cell in enumerate(header) if not cell or header[i + 1 : i + 2] == [""]}
    filled = {i for i, cell in enumerate(below) if cell}
    if filled <= parts and any(not header[i] for i in filled if i < len(header)):
        return True
    numbers = [
        i
        for i in range(len(header))
        if (column := [row[i] for row in rest[:20] if i < len(row) and row[i]])
        and sum(map(_number_like, column)) > len(column) / 2
    ]
    said = [below[i] for i in numbers if i < len(below) and below[i] and below[i].casefold() not in NOTHING]
    return len(numbers) > 1 and len(said) > len(numbers) / 2


def _joined(first: Sequence[str], second: Sequence[str]) -> tuple[str, ...]:
    return tuple(" ".join(f"{a} {b}".split()) for a, b in zip(first, second, strict=True))


def _wide(cells: Sequence[str]) -> list[str]:
    """Each cell, or the one before it that it belongs to: a wide cell is written once."""
    found: list[str] = []
    for cell in cells:
        found.append(cell or (found[-1] if found else ""))
    return found


def _padded(cells: Sequence[str], header: Sequence[str]) -> list[str]:
    clean = [" ".join(cell.split()) for cell in cells]
    return (clean + [""] * len(header))[: len(header)]


def _one_line(cell: str) -> str:
    joined = " ".join(cell.split())
    return cell if joined == cell else joined  # equal cells stay one value


def _words(row: Sequence[str]) -> int:
    return sum(any(c.isalpha() for c in cell) and not _number_like(cell) for cell in row)


def _number_like(cell: str) -> bool:
    return bool(cell) and cell[0].isdigit()


WORKBOOK = FileFormat(
    "workbook", (".xlsx", ".xls", ".ods", ".xlsm", ".xlsb"), (b"\xd0\xcf\x11\xe0",), workbook_reader.read
)
SEPARATED = FileFormat("separated text", (".csv", ".tsv", ".txt"), (), _separated)
FORMATS = (
    WORKBOOK,
    SEPARATED,
)
