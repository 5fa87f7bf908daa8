"""Import: any mix of the tables, in one transaction.

A bad row is named by file, line and column and nothing is stored, unless bad rows are to be skipped: then the good
rows are stored and the bad ones come back with their reason, to be written beside the file.
"""

import csv
from codecs import BOM_UTF8
from collections import Counter, defaultdict
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from itertools import islice
from pathlib import Path
from typing import Any, BinaryIO

from pydantic import TypeAdapter, ValidationError
from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import NO_CONDITIONS
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor, Reading
from waldhorn.core.base.text import key_of, loosely
from waldhorn.core.motors.dating import odd_dates
from waldhorn.core.motors.facts import impossible
from waldhorn.exchange import findings_table
from waldhorn.exchange.cells import as_written
from waldhorn.exchange.complaints import complaints
from waldhorn.exchange.rows import TABLES, TELLING_COLUMN, EventsRow, FindingsRow, MotorsRow, is_column
from waldhorn.exchange.workbook_reader import MOST_COLUMNS
from waldhorn.store import changes, load_names
from waldhorn.store import motors as motor_store
from waldhorn.store import readings as reading_store
from waldhorn.store import rigs as rig_store
from waldhorn.store.models import PackRow, PropellerRow

Progress = Callable[[str, int, int], None]  # what, bytes done, bytes in all
Place = tuple[str, str]  # motor id and check key: where a reading belongs
_REPORT_EVERY = 5_000
_UNSAID = (None, "")
_BATCH = 20_000
LONGEST_LINE = 1 << 20  # bytes
MOST_REJECTED = 20_000


@dataclass
class Rejected:
    """A row that cannot be stored: where it stands and why, one (column, words) a problem."""

    file: Path
    line: int
    problems: list[tuple[str, str]]
    cells: list[str]

    def sentences(self) -> list[str]:
        """One line a problem: file:line: column: what is wrong."""
        return [f"{self.file}:{self.line}: {column}: {words}" for column, words in self.problems]


@dataclass
class Outcome:
    """What an import did: rows stored and ignored by table, bad rows, warnings, headers by file, motors touched; the
    facts that the files say better than the rack, by tag as compared, and those overwritten, by motor id."""

    stored: dict[str, int] = field(default_factory=lambda: dict.fromkeys(TABLES, 0))
    ignored: dict[str, int] = field(default_factory=lambda: dict.fromkeys(TABLES, 0))
    rejected: list[Rejected] = field(default_factory=list)
    warnings: list[str] = field(default_factory=list)
    headers: dict[Path, list[str]] = field(default_factory=dict)
    touched: set[str] = field(default_factory=set)
    change_id: str | None = None
    better: frozenset[Place] = frozenset()
    overwritten: set[Place] = field(default_factory=set)


@dataclass
class Table:
    """A CSV file known by its header."""

    file: Path
    kind: str
    header: list[str]


def recognise(file: Path, outcome: Outcome) -> Table:
    """Tell by its header which table a file holds; unknown columns are kept out with a warning."""
    try:
        with file.open("rb") as raw:
            line = raw.readline(LONGEST_LINE + 1)
        if len(line) > LONGEST_LINE:
            raise InputError("file", f"{file}: its first line has over {LONGEST_LINE:,} bytes: this is no table")
        header = [name.strip() for name in next(csv.reader([line.decode("utf-8-sig")]), [])]
    except (OSError, UnicodeDecodeError, csv.Error) as error:
        raise InputError("file", f"{file}: cannot be read as UTF-8 text: {error}") from error
    kind = next((k for k, column in TELLING_COLUMN.items() if column in header), None)
    if kind is None:
        raise InputError("file", f"{file}: not a table of Waldhorn: needs a column tag, event or measure, has {header}")
    if len(header) > MOST_COLUMNS:
        raise InputError("file", f"{file}: has {len(header):,} columns: {MOST_COLUMNS} at most")
    if twice := sorted(c for c, count in Counter(header).items() if c and count > 1):
        raise InputError("file", f"{file}:1: column {', '.join(twice)} stands there twice")
    if strange := [c for c in header if not is_column(kind, c)]:
        outcome.warnings.append(f"{file}: unknown columns kept out: {', '.join(c or '(no name)' for c in strange)}")
    outcome.headers[file] = header
    return Table(file, kind, header)


def import_tables(
    session: Session,
    files: list[Path],
    progress: Progress,
    skip_bad: bool = False,
    now: datetime | None = None,
    change_id: str | None = None,
    better: Collection[Place] = (),
) -> Outcome:
    """Import tables in the order of `TABLES`. The caller's transaction decides whether it stays;
    the rows carry the change that brought them in, if one did. Facts of motors that are there already are filled in
    where nobody had said them, and overwritten where these files say them `better`, by tag and fact.

    Raises InputError when a file is no table at all. Bad rows are in the outcome; unless `skip_bad`, the caller must
    roll back when there are any.
    """
    outcome = Outcome(change_id=change_id, better=frozenset((key_of(tag), name) for tag, name in better))
    tables = [recognise(file, outcome) for file in files]
    store = {
        "motors": _motors,
        "events": _events,
        "readings": _readings,
        "findings": _findings,
        "propellers": _load_names,
        "packs": _load_names,
    }
    for kind, store_table in store.items():
        for table in tables:
            if table.kind == kind and (skip_bad or not outcome.rejected or kind in ("motors", "events")):
                store_table(session, table, outcome, progress)
    motor_store.touch(session, outcome.touched)
    _warn_of_dates(session, outcome, now or datetime.now().astimezone())
    return outcome


def _warn_of_dates(session: Session, outcome: Outcome, now: datetime) -> None:
    touched = sorted(outcome.touched)
    known = motor_store.several(session, touched)
    for motor_id, dated in reading_store.dates(session, touched).items():
        for what, times in dated.items():
            said = odd_dates(known[motor_id], times, now, what)
            outcome.warnings += [f"{known[motor_id].tag}: {words}" for words in said]


def _rows(table: Table, outcome: Outcome, progress: Progress) -> Iterator[tuple[int, list[str], Any]]:
    """Line number, cells and validated row of every good row; the bad ones go to the outcome."""
    adapter: TypeAdapter[Any] = TypeAdapter(TABLES[table.kind])
    names = [name if is_column(table.kind, name) else "" for name in table.header]

    def given(cells: list[str]) -> dict[str, str]:
        return {
            name: as_written(cell) if cell[0] == "'" else cell
            for name, cell in zip(names, cells, strict=False)
            if cell and name and (cell[0] != " " or cell.strip())
        }

    size = table.file.stat().st_size or 1
    with table.file.open("rb") as raw:
        raw.seek(len(BOM_UTF8) if raw.read(len(BOM_UTF8)) == BOM_UTF8 else 0)
        reader = csv.reader(_lines(raw), strict=True)
        line, after = 2, 1  # a row is named by the line it starts on, though a quoted cell may span several
        try:
            next(reader)
            for count, cells in enumerate(reader, 1):
                line, after = after + 1, reader.line_num
                if count % _REPORT_EVERY == 0:
                    progress(table.file.name, raw.tell(), size)
                if not any(cells):
                    continue
                if len(cells) > len(table.header):
                    wrong = [("row", f"has {len(cells)} cells, the header {len(table.header)}")]
                    outcome.rejected.append(Rejected(table.file, line, wrong, cells))
                    continue
                try:
                    yield line, cells, adapter.validate_python(given(cells))
                except ValidationError as error:
                    outcome.rejected.append(Rejected(table.file, line, complaints(error), cells))
                    if len(outcome.rejected) > MOST_REJECTED:
                        raise InputError(
                            "file", f"{table.file}: over {MOST_REJECTED:,} bad rows: look at it first"
                        ) from error
        except (UnicodeDecodeError, csv.Error) as error:
            wrong = [("row", f"cannot be read: {error}")]
            outcome.rejected.append(Rejected(table.file, after + 1, wrong, []))
    progress(table.file.name, size, size)


def _lines(raw: BinaryIO) -> Iterator[str]:
    """The lines of a table, whatever it unpacked to; raises csv.Error for one that no table has."""
    while line := raw.readline(LONGEST_LINE + 1):
        if len(line) > LONGEST_LINE:
            raise csv.Error(f"it has over {LONGEST_LINE:,} bytes")
        yield line.decode()


def _motors(session: Session, table: Table, outcome: Outcome, progress: Progress) -> None:
    """New motors hang on the rack; of one that hangs there already, what nobody had said is filled in, and where both
    say something else, what stands here stays and both are told."""
    known = motor_store.ids_by_tag(session)
    nearly = {loosely(tag): tag for tag in motor_store.all_tags(session)}
    fresh: dict[str, Motor] = {}
    for line, cells, row in _rows(table, outcome, progress):
        motor = row.to_motor() if isinstance(row, MotorsRow) else Motor("")
        key = key_of(motor.tag)
        if wrong := impossible(motor):
            outcome.rejected.append(Rejected(table.file, line, list(wrong.items()), cells))
        elif key in known or key in fresh:
            given = [n for n in motor_store.MOTOR_FIELDS if n in row.model_fields_set or n == "own"]
            if key in known and _said_anew(session, known[key], motor, given, outcome):
                outcome.stored["motors"] += 1
            else:
                outcome.ignored["motors"] += 1
            _warn_of_difference(session, motor, given, fresh.get(key), table, line, outcome)
        else:
            fresh[key] = motor
            if alike := nearly.get(loosely(motor.tag)):
                words = f"{motor.tag} is a new motor beside {alike}: if they are one, merge them on its page"
                outcome.warnings.append(f"{table.file}:{line}: {words}")
    motor_store.add(session, list(fresh.values()), outcome.change_id)
    outcome.stored["motors"] += len(fresh)


def _warn_of_difference(
    session: Session,
    motor: Motor,
    given: Sequence[str],
    before: Motor | None,
    table: Table,
    line: int,
    outcome: Outcome,
) -> None:
    row = None if before else motor_store.find(session, motor.tag)
    kept = before or (motor_store.to_motor(row) if row else motor)
    said = [
        f"{n} {_written(here)} here, {_written(there)} there"
        for n in given
        if n != "tag" and (here := getattr(kept, n)) != (there := getattr(motor, n)) and there not in _UNSAID
    ]
    if said:
        words = f"{kept.tag} is there already and stays as it is: {'; '.join(said)}"
        outcome.warnings.append(f"{table.file}:{line}: {words}")


def differing_facts(kept: Motor, said: Mapping[str, str]) -> dict[str, tuple[str, str]]:
    """The facts that a row of motors.csv says otherwise than the rack: here and there, in words, by fact. A note is a
    remark and no fact."""
    columns = {("class" if n == "motor_class" else n): v for n, v in said.items() if n != "note"}
    try:
        row = MotorsRow.model_validate(columns)
    except ValidationError:
        return {}  # said when it is brought in
    there = row.to_motor()
    return {
        n: (_written(mine), _written(theirs))
        for n in motor_store.MOTOR_FIELDS
        if n in row.model_fields_set and n != "tag"
        if (mine := getattr(kept, n)) not in _UNSAID
        if (theirs := getattr(there, n)) not in _UNSAID and mine != theirs
    }


def _written(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "not said" if value in _UNSAID else f"{value:g}" if isinstance(value, float) else str(value)


def _said_anew(session: Session, motor_id: str, said: Motor, given: Sequence[str], outcome: Outcome) -> bool:
    """Fill in what nobody had said of a motor, and overwrite what these files say better; whether there was
    anything."""
    row = motor_store.get(session, motor_id)
    mine = motor_store.to_motor(row)
    here, there = ({n: getattr(of, n) for n in given} for of in (mine, said))
    better = {n for n in given if (key_of(mine.tag), n) in outcome.better and here[n] != there[n]}
    new = {n: there[n] for n in given if there[n] not in _UNSAID and (here[n] in _UNSAID or n in better)}
    filled = replace(mine, **new)
    outcome.overwritten |= {(motor_id, n) for n in new if here[n] not in _UNSAID}
    if not new or impossible(filled):
        return False
    changes.revise(session, outcome.change_id, [(row, motor_store.columns(filled))])
    outcome.touched.add(motor_id)
    return True


def _events(session: Session, table: Table, outcome: Outcome, progress: Progress) -> None:
    known = motor_store.ids_by_tag(session)
    found = []
    for line, cells, row in _rows(table, outcome, progress):
        motor_id = known.get(key_of(row.motor))
        if motor_id is None:
            outcome.rejected.append(_no_motor(table, line, row.motor, cells))
        elif isinstance(row, EventsRow):
            found.append((motor_id, row.to_event()))
    new = motor_store.add_events(session, found, outcome.change_id)
    outcome.touched |= {motor_id for motor_id, _ in found}
    outcome.stored["events"] += new
    outcome.ignored["events"] += len(found) - new


def _readings(session: Session, table: Table, outcome: Outcome, progress: Progress) -> None:
    known, meant = motor_store.ids_by_tag(session), rig_store.names(session)
    good = new = 0
    seen: reading_store.Seen = defaultdict(int)
    ids: dict[Place, str] = {}
    for batch in _batches(_good_readings(table, known, meant, outcome, progress)):
        first: dict[Place, Reading] = {}
        for place, reading in batch:
            if place not in ids and (place not in first or reading.at < first[place].at):
                first[place] = reading
        if first:
            outcome.touched |= {motor_id for motor_id, _ in first}
            made = ((*place, r.at, r.conditions) for place, r in first.items())
            ids |= reading_store.check_ids(session, made, outcome.change_id)
        new += reading_store.add(session, ((ids[place], reading) for place, reading in batch), outcome.change_id, seen)
        good += len(batch)
    outcome.stored["readings"] += new
    outcome.ignored["readings"] += good - new


def _findings(session: Session, table: Table, outcome: Outcome, progress: Progress) -> None:
    known, folder = motor_store.ids_by_tag(session), table.file.parent
    good: list[tuple[str, FindingsRow]] = []
    for line, cells, row in _rows(table, outcome, progress):
        motor_id = known.get(key_of(row.motor))
        if motor_id is None:
            outcome.rejected.append(_no_motor(table, line, row.motor, cells))
            continue
        try:
            findings_table.refuse_wrong(row, folder)
            good.append((motor_id, row))
        except InputError as refused:
            outcome.rejected.append(Rejected(table.file, line, [(refused.field, refused.sentence)], cells))
    made = ((motor_id, row.check_key(), row.at, NO_CONDITIONS) for motor_id, row in good)
    ids = reading_store.check_ids(session, made, outcome.change_id) if good else {}
    placed = [(motor_id, ids[motor_id, row.check_key()], row) for motor_id, row in good]
    new = findings_table.add(session, placed, outcome.change_id, folder)
    outcome.touched |= {motor_id for motor_id, _ in good}
    outcome.stored["findings"] += new
    outcome.ignored["findings"] += len(good) - new


def _load_names(session: Session, table: Table, outcome: Outcome, progress: Progress) -> None:
    """Propellers or packs: what is on the list already stays as it is."""
    model: Any = PropellerRow if table.kind == "propellers" else PackRow
    known = {key_of(row.name): row for row in load_names.standing(session, model)}
    for line, _, row in _rows(table, outcome, progress):
        values, there = row.columns(), known.get(key_of(row.name))
        if there is None:
            known[key_of(row.name)] = fresh = model(**values, change_id=outcome.change_id)
            session.add(fresh)
            outcome.stored[table.kind] += 1
            continue
        outcome.ignored[table.kind] += 1
        if differ := [n for n, v in values.items() if getattr(there, n) != v and n != "name"]:
            words = f"{there.name} is on the list already and stays as it is ({', '.join(differ)} differ)"
            outcome.warnings.append(f"{table.file}:{line}: {words}")
    session.flush()


def _good_readings(
    table: Table, known: dict[str, str], meant: dict[str, str], outcome: Outcome, progress: Progress
) -> Iterator[tuple[Place, Reading]]:
    for line, cells, row in _rows(table, outcome, progress):
        motor_id = known.get(row.motor) or known.get(key_of(row.motor))
        if motor_id is None:
            outcome.rejected.append(_no_motor(table, line, row.motor, cells))
            continue
        try:
            yield (motor_id, row.check_key()), row.on(meant).to_reading()
        except InputError as refused:
            outcome.rejected.append(Rejected(table.file, line, [(refused.field, refused.sentence)], cells))


def _batches(rows: Iterator[tuple[Place, Reading]]) -> Iterator[list[tuple[Place, Reading]]]:
    while batch := list(islice(rows, _BATCH)):
        yield batch


def _no_motor(table: Table, line: int, tag: str, cells: list[str]) -> Rejected:
    return Rejected(table.file, line, [("motor", f"no motor “{tag}” in the store or in these files")], cells)


def write_rejected(outcome: Outcome) -> list[Path]:
    """Write the bad rows of each file to <file>.rejected.csv, with a reason column; returns the files written."""
    written = []
    for file, header in outcome.headers.items():
        bad = [r for r in outcome.rejected if r.file == file]
        if bad:
            target = file.with_name(file.name + ".rejected.csv")
            with target.open("w", encoding="utf-8", newline="") as stream:
                writer = csv.writer(stream)
                writer.writerow([*header, "reason"])
                for row in bad:
                    cells = (row.cells + [""] * len(header))[: len(header)]
                    writer.writerow([*cells, "; ".join(f"{c}: {w}" for c, w in row.problems)])
            written.append(target)
    return written
