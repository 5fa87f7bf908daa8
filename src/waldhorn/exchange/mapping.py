"""A foreign sheet mapped to Waldhorn's own tables: what each column means, and what each row becomes.

A mapping is kept by the sheet's header, so that the next sheet with the same header is read the same way, and can be
saved as JSON for the command line.
"""

import csv
import re
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime, time, tzinfo
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ConfigDict

from waldhorn.core.base import conditions
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.text import key_of
from waldhorn.core.base.times import read_timestamp
from waldhorn.core.base.units import read_number
from waldhorn.core.base.vocabulary import Method, Purpose
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.exchange.guessing import LOADED, ON_SHAFT, UNDER_LOAD, dimension_of, guess_all, says_nothing, with_unit
from waldhorn.exchange.hand_words import BY_WORDS, HEARD, SOUNDS, WORKED_OUT, is_known, state_of
from waldhorn.exchange.rows import column_names
from waldhorn.exchange.sheets import Sheet, read

FACTS = (
    "tag", "model", "owner", "machine", "motor_class", "label_kv", "poles", "slots", "turns", "mass_g", "note", "kind",
    "sensored",
)  # fmt: skip
CONDITIONS = tuple(conditions.CONDITIONS)
LONG = ("measure", "value", "unit")
MEANINGS = (*FACTS, "at", "check", "run", *CONDITIONS, *LONG, *MEASURES, *BY_WORDS)
WORKED_OUT_ROW = "worked out"  # in place of a column's meaning
OF_THE_PACK = ("load_volts", "rest_volts")  # read once beside several propellers; amps are those of one of them
_NAMES_A_ROW = ("tag", "run", "check", "at")  # and its first cell
_SAID = 20  # bad cells
_LAST_DAY = 12  # of a month that could be a month as well
_NUMERIC_DAY = re.compile(r"(\d{1,2})([./-])(\d{1,2})[./-](\d{4}|\d\d)(?:[ T]+(\d{1,2}):(\d\d)(?::\d\d)?)?$")

_DAY_ALONE = re.compile(r"(\d{1,2})\.(\d{1,2})\.")


class Column(BaseModel):
    """What a column means ("" is left out), the unit of its numbers, the run it is of, and what was on the shaft where
    it is another than the other columns'."""

    model_config = ConfigDict(extra="forbid")

    header: str
    means: str = ""
    unit: str = ""
    run: int | None = None
    on_shaft: str = ""


class Mapping(BaseModel):
    """How a sheet is read: its columns, whether the day comes first in a date written in numbers, the rig and the way
    of taking KV where no column says; `motors` is which motor is meant by what is written, by tag as compared. Of this
    sheet alone: `corrected` are cells that were put right, by "row:column", `taken` facts that this sheet says better
    than the rack, by "tag:fact", `counted` rows that look like a mean of the others and are none."""

    model_config = ConfigDict(extra="forbid")

    columns: list[Column]
    day_first: bool = True
    rig: str = ""
    method: str = Method.LOADED_SUPPLY.value
    motors: dict[str, str] = {}
    corrected: dict[str, str] = {}
    taken: list[str] = []
    counted: list[int] = []

    def places(self, means: str) -> list[int]:
        """Which columns mean something."""
        return [i for i, c in enumerate(self.columns) if c.means == means]


@dataclass(frozen=True)
class Became:
    """What a row of a sheet becomes: a row of motors.csv, rows of readings.csv and of findings.csv, and its cells that
    are wrong: the column's number (None: of the whole row), what it means, and why. A bad cell costs the cell; one
    without which the row cannot be placed (its motor, its date) costs the row."""

    number: int
    motor: dict[str, str]
    readings: list[dict[str, str]]
    wrong: list[tuple[int | None, str, str]]
    findings: list[dict[str, str]] = field(default_factory=list)


def guessed(sheet: Sheet) -> Mapping:
    """The mapping that the sheet's headers and values suggest."""
    values = [[c for c in sheet.column(i) if not says_nothing(c)] for i in range(len(sheet.header))]
    found = guess_all(sheet.header, values)
    columns = [
        Column(header=h, means=g.means, unit=g.unit, run=g.run, on_shaft=g.on_shaft)
        for h, g in zip(sheet.header, found, strict=True)
    ]
    days = [cell for i, g in enumerate(found) if g.means == "at" for cell in values[i]]
    return Mapping(columns=columns, day_first=_day_first(days))


def header_key(sheet: Sheet) -> str:
    """Under what the mapping of a sheet is kept: its header."""
    return "\x1f".join(h.casefold() for h in sheet.header)


def problems(mapping: Mapping) -> list[str]:
    """What a mapping as a whole lacks, in sentences."""
    found = []
    if len(mapping.places("tag")) != 1:
        found.append("say which column names the motor: exactly one does")
    unknown = sorted({c.means for c in mapping.columns if c.means and c.means not in MEANINGS})
    if unknown:
        found.append(f"no meaning is called {', '.join(unknown)}")
    measures = [(c.means, c.run, c.on_shaft) for c in mapping.columns if c.means in MEASURES]
    twice = sorted({one[0] for one in measures if measures.count(one) > 1})
    loaded = any(m in UNDER_LOAD for m, *_ in measures)
    if bare := [MEASURES[m].title for m in twice if loaded and m in ON_SHAFT]:
        found.append(f"two columns are {', '.join(bare)}: name the propeller of each")
    if same := [MEASURES[m].title for m in twice if not (loaded and m in ON_SHAFT)]:
        found.append(f"two columns are {', '.join(same)} of the same run: give each its run, or leave one out")
    if len([n for n in ("measure", "value") if mapping.places(n)]) == 1:
        found.append("a column that names the measure needs one with its value, and the other way around")
    return found


def apply(sheet: Sheet, mapping: Mapping, now: datetime) -> Iterator[Became]:
    """What each row of a sheet becomes; a row without a motor's name is passed over with a word."""
    seen: dict[tuple[str, str], int] = defaultdict(int)
    for number, cells in sheet.rows:
        yield _Row(mapping, number, cells, now, seen).became()


@dataclass(frozen=True)
class Measured:
    """A value of a row as text in its stored unit, of which run, and what was on the shaft where its column says so."""

    measure: str
    value: str
    run: int | None = None
    on_shaft: str = ""


class _Row:
    """One row on its way."""

    def __init__(
        self, mapping: Mapping, number: int, cells: Sequence[str], now: datetime, seen: dict[tuple[str, str], int]
    ) -> None:
        self.mapping, self.number, self.now, self.seen = mapping, number, now, seen
        right = [mapping.corrected.get(f"{number}:{i}", cell) for i, cell in enumerate(cells)]
        self.cells = ["" if says_nothing(cell) else cell for cell in right]
        self.wrong: list[tuple[int | None, str, str]] = []
        self.placed = True

    def became(self) -> Became:
        tag = self.text("tag")
        if (place := self.worked_out()) is not None:
            words = f"“{self.cells[place]}”: worked out of the other rows? It is left out"
            return Became(self.number, {}, [], [(place, WORKED_OUT_ROW, words)])
        if not tag:
            return Became(self.number, {}, [], [(None, "tag", "no motor is named in this row")])
        tag = self.mapping.motors.get(key_of(tag), tag)
        motor = {n: v for n in FACTS if (v := self.fact(n))} | {"tag": tag}
        at, day = self.timestamp()
        measured, heard = self.measured(), self.heard()
        if not (measured or heard) or not self.placed:
            return Became(self.number, motor, [], self.wrong)
        check = self.text("check") or day
        shared = {"motor": tag, "check": check, "at": at.isoformat()}
        findings = [shared | {"finding": "inspection", **finding} for finding in heard]
        readings = [r for group in self.by_propeller(measured) for r in self.read_together(group, shared)]
        return Became(self.number, motor, readings, self.wrong, findings)

    def read_together(self, measured: Sequence[Measured], shared: dict[str, str]) -> list[dict[str, str]]:
        """The readings of one run, or of those their columns name."""
        own_run, place = self.number_of("run"), (shared["motor"].casefold(), shared["check"])
        alone = len({m.on_shaft for m in measured if m.on_shaft}) == 0
        if not (own_run and alone) and all(m.run is None for m in measured):
            self.seen[place] += 1
        counted = int(float(own_run)) if own_run and alone else max(1, self.seen[place])
        under = self.under(measured)
        return [
            self.way(m.measure)
            | shared
            | under
            | {"measure": m.measure, "value": m.value, "run": str(m.run or counted)}
            for m in measured
        ]

    def by_propeller(self, measured: Sequence[Measured]) -> list[list[Measured]]:
        """What was read together: once for each propeller that a column names, with what no column says the propeller
        of."""
        names = list(dict.fromkeys(m.on_shaft for m in measured if m.on_shaft))
        if not names:
            return [list(measured)] if measured else []
        groups = [[m for m in measured if m.on_shaft == name] for name in names]
        common = [m for m in measured if not m.on_shaft]
        if len(names) == 1:
            return [[*groups[0], *(replace(c, on_shaft=names[0]) for c in common)]]
        volts = [m for m in common if m.measure in OF_THE_PACK]
        found = [[*mine, *(replace(v, on_shaft=name) for v in volts)] for name, mine in zip(names, groups, strict=True)]
        return [*found, common] if len(volts) < len(common) else found

    def worked_out(self) -> int | None:
        """The cell that says that the row is worked out of others; none once somebody said that it counts."""
        if self.number in self.mapping.counted:
            return None
        first = next((i for i, cell in enumerate(self.cells) if cell), None)
        naming = [i for n in _NAMES_A_ROW for i in self.mapping.places(n) if i < len(self.cells)]
        for i in dict.fromkeys([*([] if first is None else [first]), *naming]):
            if self.cells[i].casefold().strip(" .:") in WORKED_OUT:
                return i
        return None

    def heard(self) -> list[dict[str, str]]:
        """What was written of how it sounds or feels."""
        found = {}
        for i, column in enumerate(self.mapping.columns):
            cell = self.cells[i] if i < len(self.cells) else ""
            item = column.means if column.means in BY_WORDS else HEARD if _was_heard(column, cell) else ""
            if item and cell and (state := state_of(cell)):
                found[item] = {"item": item, "state": state.value, "note": cell}
        return list(found.values())

    def under(self, measured: Sequence[Measured]) -> dict[str, str]:
        """Under what a run was read, whatever its columns say of it."""
        said = {"rig": self.mapping.rig} if self.mapping.rig else {}
        for name, condition in conditions.CONDITIONS.items():
            value = self.number_of(name) if condition.dimension else self.chosen(name, condition.choices)
            said |= {name: value} if value else {}
        said |= next(({"on_shaft": m.on_shaft} for m in measured if m.on_shaft), {})
        loaded = "on_shaft" in said or any(m.measure in UNDER_LOAD for m in measured)
        return said | ({"purpose": Purpose.LOAD.value} if loaded else {})

    def way(self, measure: str) -> dict[str, str]:
        """The way KV is taken goes with what is read under power."""
        return {"method": self.mapping.method} if measure in ("kv", "rpm", "supply_volts", "no_load_current") else {}

    def chosen(self, name: str, choices: Sequence[str]) -> str:
        """A condition in words, one of its choices where it has any."""
        text = self.text(name)
        if not choices or not text or text.casefold() in choices:
            return text.casefold() if choices else text
        self.wrong.append((self.mapping.places(name)[0], name, f"“{text}” is none of {', '.join(choices)}"))
        return ""

    def text(self, means: str) -> str:
        return next((self.cells[i] for i in self.mapping.places(means) if i < len(self.cells) and self.cells[i]), "")

    def fact(self, name: str) -> str:
        if name == "note":  # several columns may be notes
            said = (self.cells[i] for i in self.mapping.places(name) if i < len(self.cells))
            return "; ".join(cell for cell in said if cell)
        return self.number_of(name) if dimension_of(name) else self.text(name)

    def number_of(self, means: str) -> str:
        """A number of the row as text in its stored unit, "" where there is none."""
        for i in self.mapping.places(means):
            if i < len(self.cells) and self.cells[i]:
                return self.read(means, self.cells[i], self.mapping.columns[i].unit, i)
        return ""

    def read(self, means: str, cell: str, unit: str, place: int | None) -> str:
        wanted = dimension_of(means)
        if wanted is None:
            return cell
        name = MEASURES[means].title if means in MEASURES else means.replace("_", " ")
        try:
            value = read_number(with_unit(cell, unit, wanted[0]), name, *wanted)
        except InputError as refused:
            self.wrong.append((place, means, refused.sentence))
            return ""
        return repr(int(value)) if value.is_integer() else repr(value)

    def measured(self) -> list[Measured]:
        """What the row holds, wide or long."""
        found = []
        for i, column in enumerate(self.mapping.columns):
            cell = self.cells[i] if i < len(self.cells) else ""
            if _was_heard(column, cell):
                continue  # see `heard`
            if column.means in MEASURES and cell:
                value = self.read(column.means, cell, column.unit, i)
                found.append(Measured(column.means, value, column.run, column.on_shaft))
        if self.mapping.places("measure") and (value := self.text("value")):
            named = self.text("measure")
            measure = _measure_named(named)
            if measure is None:
                words = f"“{named}” is no measure: one of {', '.join(MEASURES)}"
                self.wrong.append((self.mapping.places("measure")[0], "measure", words))
            else:
                place = self.mapping.places("value")[0]
                found.append(Measured(measure, self.read(measure, value, self.text("unit"), place)))
        if self.text("on_shaft") or any(m.measure in UNDER_LOAD or m.on_shaft for m in found):
            found = [replace(m, measure=LOADED.get(m.measure, m.measure)) for m in found]
        return [m for m in found if m.value]

    def timestamp(self) -> tuple[datetime, str]:
        """When the row was measured, and its day; now, where no column says."""
        written = self.text("at")
        if not written:
            return self.now, f"{self.now:%Y-%m-%d}"
        try:
            at = read_day_or_timestamp(written, self.mapping.day_first, self.now.tzinfo, self.now.date())
        except InputError as refused:
            self.wrong.append((self.mapping.places("at")[0], "at", refused.sentence))
            self.placed = False
            return self.now, ""
        return at, f"{at:%Y-%m-%d}"


def _was_heard(column: Column, cell: str) -> bool:
    """Whether a cell among numbers of noise says in words that are known what was heard; any other word is a slip."""
    return column.means in SOUNDS and not any(c.isdigit() for c in cell) and is_known(cell)


def _measure_named(text: str) -> str | None:
    """The measure that a cell names, by its own name, its title or the words of headers."""
    if text in MEASURES:
        return text
    means = guess_all([text], [[]])[0].means
    return means if means in MEASURES else next((n for n, m in MEASURES.items() if m.title == text.casefold()), None)


def read_day_or_timestamp(text: str, day_first: bool, here: tzinfo | None, today: date | None = None) -> datetime:
    """A time as sheets write it: ISO 8601, or day, month and year in numbers; without a year the last such day before
    `today`. Raises InputError.

    >>> from datetime import UTC
    >>> read_day_or_timestamp("14.6.2026 9:05", True, UTC).isoformat()
    '2026-06-14T09:05:00+00:00'
    """
    match = _NUMERIC_DAY.fullmatch(text.strip())
    if not match and today and (bare := _DAY_ALONE.fullmatch(text.strip())):
        dated = (f"{bare[1]}.{bare[2]}.{year}" for year in (today.year, today.year - 1))
        days = [read_day_or_timestamp(one, True, here) for one in dated]
        return next((day for day in days if day.date() <= today), days[-1])
    if not match:
        return read_timestamp(text, here)
    first, sign, second, year, hour, minute = match.groups()
    day, month = (first, second) if day_first or sign == "." else (second, first)
    try:
        on = date(int(year) + (2000 if len(year) == 2 else 0), int(month), int(day))
        return datetime.combine(on, time(int(hour or 0), int(minute or 0)), here)
    except ValueError as error:
        raise InputError("at", f"“{text}” is no day: is it the day or the month that comes first?") from error


def _day_first(days: Sequence[str]) -> bool:
    """Whether the day comes first: unless a second number is too large for a month."""
    found = [m for d in days if (m := _NUMERIC_DAY.fullmatch(d.strip()))]
    return not any(int(m[3]) > _LAST_DAY and int(m[1]) <= _LAST_DAY for m in found)


def write_tables(found: Sequence[Became], folder: Path) -> dict[Path, list[int]]:
    """Write what rows became as the tables; returns for each file the sheet's row behind each line."""
    motors: dict[str, tuple[int, dict[str, Any]]] = {}
    for one in found:
        if one.motor and (key := one.motor["tag"].casefold()):
            kept = motors.get(key, (one.number, {}))
            motors[key] = (kept[0], one.motor | kept[1])
    rows: dict[str, list[tuple[int, dict[str, Any]]]] = {
        "motors": [(n, {("class" if k == "motor_class" else k): v for k, v in m.items()}) for n, m in motors.values()],
        "readings": [(one.number, r) for one in found for r in one.readings],
        "findings": [(one.number, f) for one in found for f in one.findings],
    }
    written = {}
    for table, lines in rows.items():
        if lines:
            file = folder / f"{table}.csv"
            with file.open("w", encoding="utf-8", newline="") as stream:
                writer = csv.DictWriter(stream, column_names(table))
                writer.writeheader()
                writer.writerows(row for _, row in lines)
            written[file] = [number for number, _ in lines]
    return written


def tables_of(file: Path, saved: Path, folder: Path, now: datetime, strict: bool) -> tuple[list[Path], list[str]]:
    """The tables that a foreign sheet becomes by a saved mapping, and its bad cells in sentences: each costs the cell.
    Raises InputError, of bad cells as well where it is `strict`."""
    try:
        chosen = Mapping.model_validate_json(saved.read_text(encoding="utf-8"))
    except (OSError, ValueError) as error:
        raise InputError("map", f"{saved}: not a mapping as the page saves it: {error}".splitlines()[0]) from error
    headers = [c.header for c in chosen.columns]
    sheet = next((s for s in read(file) if list(s.header) == headers), None)
    if sheet is None:
        raise InputError("map", f"{file}: no sheet in it has the header {', '.join(headers)}")
    if wrong := problems(chosen):
        raise InputError("map", f"{saved}: {wrong[0]}")
    became = list(apply(sheet, chosen, now))
    bad = [f"{file}:{b.number}: {means}: {says}" for b in became for _, means, says in b.wrong]
    if bad and strict:
        raise InputError("file", "\n".join([*bad[:_SAID], f"nothing stored: {len(bad)} bad cells"]))
    place = folder / file.stem
    place.mkdir(exist_ok=True)
    return list(write_tables(became, place)), bad
