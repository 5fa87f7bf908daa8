"""A line format: how the lines of any instrument that prints some are read, so that it serves as one of the bench line.

A line is parted by a separator, is a JSON object, or is matched by a pattern with named groups; each quantity is a
column, a key or a group of it, with a factor and a unit. Patterns are matched by RE2, which no pattern can hold up.
"""

import csv
import json
import math
import time
from collections.abc import Callable, Sequence
from typing import Annotated, Any, Literal

import re2  # type: ignore[import-untyped]
from pydantic import BaseModel, ConfigDict, Field, FiniteFloat, ValidationError, model_validator

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.units import DIMENSIONS, to_stored
from waldhorn.instruments import line_protocol

# What a line may tell: its dimension, what it is called, between which bounds, and whether a run needs it.
TOLD: dict[str, tuple[str, str, float, float]] = {
    "rpm": ("speed", "rpm", 0, 1e6),
    "volts": ("voltage", "volts", 0, 1000),
    "amps": ("current", "amps", -1000, 1000),
    "motor_c": ("temperature", "motor temperature", -60, 400),
    "sound_db": ("level", "loudness", 0, 200),
    "pct": ("percent", "throttle", 0, 100),
    "t": ("duration", "time", 0, 1e9),
}
NEEDED = ("rpm", "volts", "amps")
SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab", " ": "blank"}
USUAL_MAX_V, USUAL_MAX_A = 60.0, 40.0
Text = Annotated[str, Field(max_length=200)]


class Where(BaseModel):
    """Where a quantity stands in a line: the number of its column from 1, its key (parts of it parted by points), or
    the name of its group; what it is multiplied by, and its unit."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    at: Annotated[str, Field(min_length=1, max_length=60)]
    factor: FiniteFloat = 1.0
    unit: Annotated[str, Field(max_length=12)] = ""


class LineFormat(BaseModel):
    """How the lines of an instrument are read."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    waldhorn_recipe: Literal[1] = 1
    name: Annotated[str, Field(min_length=1, max_length=60)]
    kind: Literal["separated", "json", "pattern"]
    separator: Literal[",", ";", "\t", " "] = ","
    pattern: Annotated[str, Field(max_length=500)] = ""
    baud: Annotated[int, Field(ge=300, le=4_000_000)] = 115_200
    max_v: Annotated[FiniteFloat, Field(gt=0, le=1000)] = USUAL_MAX_V
    max_a: Annotated[FiniteFloat, Field(gt=0, le=1000)] = USUAL_MAX_A
    told: dict[Literal[tuple(TOLD)], Where]  # type: ignore[valid-type]

    @model_validator(mode="after")
    def _fits(self) -> "LineFormat":
        for name, where in self.told.items():
            to_stored(1.0, where.unit, TOLD[name][0])
            if self.kind == "separated" and not (where.at.isascii() and where.at.isdecimal() and int(where.at) > 0):
                raise ValueError(f"{TOLD[name][1]}: “{where.at}” is no column: count them from 1")
        if self.kind == "pattern":
            groups = _compiled(self.pattern).groupindex
            if strange := [w.at for w in self.told.values() if w.at not in groups]:
                raise ValueError(f"the pattern has no group {', '.join(strange)}: write (?P<{strange[0]}>…)")
        return self

    @property
    def missing(self) -> list[str]:
        """What a run needs and the lines do not tell."""
        return [TOLD[n][1] for n in NEEDED if n not in self.told]


def _compiled(pattern: str) -> Any:
    options = re2.Options()
    options.log_errors = False
    try:
        return re2.compile(pattern, options)
    except re2.error as error:
        raise ValueError(f"the pattern cannot be read: {error}") from error


def line_format_of(given: Any) -> LineFormat:
    """A line format from what a form or a file says; raises InputError with the first thing that is wrong."""
    try:
        return (
            LineFormat.model_validate_json(given)
            if isinstance(given, (str, bytes))
            else LineFormat.model_validate(given)
        )
    except InputError as refused:
        raise InputError("recipe", refused.sentence) from refused
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        place = " ".join(str(p) for p in first["loc"])
        raise InputError(
            "recipe", f"{place}: {first['msg']}".removeprefix(": ").replace("Value error, ", "")
        ) from error


class Reader:
    """Reads lines by a line format; what has no time of its own is timed as it comes."""

    def __init__(self, line_format: LineFormat, clock: Callable[[], float] = time.monotonic) -> None:
        self.line_format, self._clock, self._start = line_format, clock, clock()
        self._pattern = _compiled(line_format.pattern) if line_format.kind == "pattern" else None

    def read(self, line: bytes) -> line_protocol.Message:
        """What a line says; Unread for whatever does not fit."""
        start = line[:60].decode("utf-8", "replace").strip()
        try:
            told = self.values(line)
        except (ValueError, KeyError, RecursionError, InputError) as error:
            return line_protocol.Unread(getattr(error, "sentence", "") or f"does not fit: {error}", start)
        if absent := [n for n in NEEDED if n not in told]:
            return line_protocol.Unread(f"no {', '.join(TOLD[n][1] for n in absent)} in it", start)
        return line_protocol.Sample(
            told.get("t", self._clock() - self._start),
            told.get("pct", 0.0),
            told["volts"],
            told["amps"],
            told["rpm"],
            "",
            told.get("motor_c"),
            told.get("sound_db"),
        )

    def values(self, line: bytes) -> dict[str, float]:
        """The quantities a line tells, in stored units; what is empty is left out. Raises ValueError or InputError."""
        if len(line) > line_protocol.LONGEST_LINE:
            raise ValueError(f"longer than {line_protocol.LONGEST_LINE} bytes")
        cells = self._cells(line.decode("utf-8", "replace").strip())
        found = {}
        for name, where in self.line_format.told.items():
            text = cells(where.at)
            if text in (None, ""):
                continue
            dimension, words, low, high = TOLD[name]
            value = to_stored(_number(text, words) * where.factor, where.unit, dimension)
            if not low <= value <= high:
                raise ValueError(f"{words} {value:g} cannot be")
            found[name] = value
        return found

    def _cells(self, text: str) -> Callable[[str], Any]:
        """How a quantity is found in a line."""
        if self.line_format.kind == "json":
            whole = json.loads(text)
            return lambda at: _deep(whole, at)
        if self._pattern is not None:
            match = self._pattern.search(text)
            if match is None:
                raise ValueError("the pattern is not in it")
            return lambda at: match.group(at)
        cells = columns(text, self.line_format.separator)
        return lambda at: cells[int(at) - 1] if int(at) <= len(cells) else None


def columns(text: str, separator: str) -> list[str]:
    """The columns of a line; blanks between columns count once.

    >>> columns("1.25  11820 7.38", " "), columns('1;"a;b";', ";")
    (['1.25', '11820', '7.38'], ['1', 'a;b', ''])
    """
    if separator == " ":
        return text.split()
    try:
        return [c.strip() for c in next(csv.reader([text], delimiter=separator), [])]
    except csv.Error as error:
        raise ValueError(f"cannot be parted: {error}") from error


def _deep(whole: Any, at: str) -> Any:
    for part in at.split("."):
        if not isinstance(whole, dict):
            return None
        whole = whole.get(part)
    return whole


def _number(given: Any, words: str) -> float:
    if isinstance(given, bool) or not isinstance(given, (int, float, str)):
        raise ValueError(f"{words}: “{given}” is no number")
    try:
        value = float(given.replace(",", ".")) if isinstance(given, str) else float(given)
    except ValueError as error:
        raise ValueError(f"{words}: “{given}” is no number") from error
    if not math.isfinite(value):
        raise ValueError(f"{words}: “{given}” is no number")
    return value


_NAMES = {
    "rpm": ("rpm", "speed", "upm", "u/min", "drehzahl"),
    "volts": ("v", "volt", "volts", "voltage", "u", "spannung"),
    "amps": ("a", "amp", "amps", "current", "i", "strom"),
    "motor_c": ("c", "temp", "temperature", "degc", "°c", "t_motor"),
    "sound_db": ("db", "dba", "sound", "noise", "spl"),
    "pct": ("pct", "throttle", "percent", "%"),
    "t": ("t", "s", "time", "seconds", "sec"),
}


def guessed(name: str, heard: Sequence[str]) -> dict[str, Any]:
    """A first line format for lines, from how they look and what their header or keys are called; as fields of a
    form."""
    first = next((text for text in heard if text.strip()), "")
    if first.lstrip().startswith("{"):
        keys = [k for text in heard if (o := _object(text)) for k in o]
        told = {n: k for n, names in _NAMES.items() for k in keys if k.lower() in names}
        return {"name": name, "kind": "json", "told": {n: {"at": k} for n, k in told.items()}}
    separator = max(SEPARATORS, key=lambda s: (len(columns(first, s)) if s == " " else first.count(s) + 1, s != " "))
    header = [c.lower().split(" ")[0].split("(")[0].split("[")[0].strip() for c in columns(first, separator)]
    told = {n: str(i) for n, names in _NAMES.items() for i, c in enumerate(header, 1) if c in names}
    return {"name": name, "kind": "separated", "separator": separator, "told": {n: {"at": i} for n, i in told.items()}}


def _object(text: str) -> dict[str, Any]:
    try:
        found = json.loads(text)
    except (ValueError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


def unit_of(name: str) -> str:
    """The unit of a quantity that is written without one."""
    return DIMENSIONS[TOLD[name][0]].unit
