"""Instruments that print lines of their own: what their lines say by a line format, tried before it is kept."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.instruments import line_protocol
from waldhorn.instruments.line_format import TOLD, LineFormat, Reader, columns, guessed, line_format_of
from waldhorn.store import line_formats as store

MOST_LINES, LISTENED_S = 40, 3.0
_PLAIN = ("name", "kind", "pattern", "baud", "max_v", "max_a")
KINDS = {"separated": "columns", "json": "JSON objects", "pattern": "a pattern"}


@dataclass(frozen=True)
class Tried:
    """What a line format makes of lines: by line what it tells in words or why nothing, how many were read, and the
    columns of the first lines."""

    told: list[tuple[str, str, bool]]
    read: int
    cells: list[list[str]]


def all_of(session: Session) -> list[LineFormat]:
    """Every line format that is kept."""
    return [line_format_of(r) for r in store.all_of(session).values()]


def find(session: Session, name: str) -> LineFormat:
    """A line format by name; raises InputError when there is none."""
    kept = store.all_of(session).get(name)
    if kept is None:
        raise InputError("recipe", f"no line_format is called “{name}”")
    return line_format_of(kept)


def store_line_format(session: Session, line_format: LineFormat) -> None:
    """Keep a line format by its name."""
    store.store_line_format(session, line_format.name, line_format.model_dump())


def forget(session: Session, name: str) -> None:
    """Let go of a line format."""
    store.forget(session, name)


def typed_of(line_format: LineFormat) -> dict[str, str]:
    """A line format as it stands in the form."""
    typed = {
        n: f"{v:g}" if isinstance(v, float) else str(v) for n, v in line_format.model_dump(exclude={"told"}).items()
    }
    for name, where in line_format.told.items():
        typed |= {f"at-{name}": where.at, f"factor-{name}": f"{where.factor:g}", f"unit-{name}": where.unit}
    return typed


def first_guess(heard: Sequence[str], name: str) -> dict[str, str]:
    """A form filled in from lines that were heard."""
    found = guessed(name, heard)
    told = {f"at-{n}": w["at"] for n, w in found.pop("told").items()}
    return {n: str(v) for n, v in found.items()} | told


def read(typed: Mapping[str, str]) -> LineFormat:
    """The line format of a form; raises InputError."""
    told: dict[str, Any] = {}
    for name in TOLD:
        if at := typed.get(f"at-{name}", "").strip():
            factor = typed.get(f"factor-{name}", "").strip().replace(",", ".") or "1"
            told[name] = {"at": at, "factor": factor, "unit": typed.get(f"unit-{name}", "").strip()}
    given = {
        n: typed[n].strip() for n in ("name", "kind", "pattern", "baud", "max_v", "max_a") if typed.get(n, "").strip()
    }
    line_format = line_format_of({"name": "?"} | given | {"separator": typed.get("separator", ","), "told": told})
    if line_format.name == "?":
        raise InputError("recipe", "give it a name to keep it by")
    return line_format


def try_on(line_format: LineFormat, heard: Sequence[str]) -> Tried:
    """What a line format makes of lines."""
    reader, told, count = Reader(line_format), [], 0
    for text in heard:
        said = reader.read(text.encode())
        good = isinstance(said, line_protocol.Sample)
        count += good
        told.append((text, _words(line_format, reader, text) if good else getattr(said, "why", ""), good))
    parted = [columns(text, line_format.separator) for text in heard[:4]] if line_format.kind == "separated" else []
    return Tried(told, count, parted)


def _words(line_format: LineFormat, reader: Reader, text: str) -> str:
    found = reader.values(text.encode())
    return ", ".join(f"{TOLD[n][1]} {found[n]:g}" for n in line_format.told if n in found)
