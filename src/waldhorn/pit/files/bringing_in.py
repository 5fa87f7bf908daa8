"""Bringing in: files that were chosen in the browser are staged, looked at, mapped where they are foreign sheets,
and stored in one transaction as one change that can be undone."""

import contextlib
import json
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, NotThere
from waldhorn.core.base.text import key_of, loosely
from waldhorn.exchange import documents, mapping, sheets
from waldhorn.exchange.backup import is_store
from waldhorn.exchange.guessing import UNDER_LOAD
from waldhorn.exchange.importing import Outcome, Progress, Rejected, differing_facts, import_tables, recognise
from waldhorn.exchange.mapping import Became, Mapping
from waldhorn.exchange.sheets import Sheet
from waldhorn.exchange.staging import import_staged
from waldhorn.pit.files.upload_staging import folder_of, forget
from waldhorn.pit.judging import judging
from waldhorn.store import backups, changes, motors, rigs
from waldhorn.store import imports as store
from waldhorn.store.engine import Store
from waldhorn.store.models import ChangeKind, ChangeRow
from waldhorn.store.writing import Writing

PREVIEWED = 8  # rows of a sheet
OF_ONE_SHEET = {"corrected", "taken", "counted"}  # no other sheet is read by it
_TABLE_WORDS = {
    "motor": "motors",
    "event": "events",
    "reading": "readings",
    "bench_check": "checks",
    "picture": "pictures",
    "sound": "sounds",
    "signed_verdict": "signed verdicts",
}


@dataclass(frozen=True)
class Differs:
    """A fact that a sheet says otherwise than the rack: of which motor, as both say it, and whether it is taken."""

    tag: str
    fact: str
    here: str
    there: str
    taken: bool

    @property
    def key(self) -> str:
        """How it is ticked."""
        return f"{self.tag}:{self.fact}"


@dataclass(frozen=True)
class Foreign:
    """A foreign sheet: the file and its place in it, how it is mapped, what its first rows become, the
    rows with a cell that cannot be, and how many rows there are besides; its tags that are nearly those of motors on
    the rack, with these, and the facts it says otherwise than the rack."""

    key: str
    file: str
    sheet: Sheet
    mapping: Mapping
    problems: list[str]
    preview: list[Became]
    bad: list[Became]
    good: int
    alike: list[tuple[str, str, str]] = field(default_factory=list)
    differ: list[Differs] = field(default_factory=list)

    @property
    def loaded(self) -> bool:
        """Whether something was on the shaft."""
        return any(c.means in UNDER_LOAD for c in self.mapping.columns)

    def cell(self, number: int, place: int) -> str:
        """A cell as it stands in the sheet."""
        cells = next(c for n, c in self.sheet.rows if n == number)
        return cells[place] if place < len(cells) else ""


@dataclass(frozen=True)
class Staged:
    """Files that were staged: those of Waldhorn's own kind by name, backups and motors' own files with what is in
    them, foreign sheets, what is wrong, and the rigs that readings may have been taken on."""

    token: str
    own: list[str] = field(default_factory=list)
    documents: dict[str, str] = field(default_factory=dict)
    foreign: list[Foreign] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)
    known_rigs: Sequence[str] = ()


@dataclass(frozen=True)
class Brought:
    """What bringing in did: rows stored and ignored by table, warnings, and sentences of what is wrong."""

    stored: dict[str, int]
    ignored: dict[str, int]
    warnings: list[str]
    wrong: list[str]


def look(session: Session, token: str, now: datetime) -> Staged | None:
    """What was staged, or None when it is there no more."""
    folder = folder_of(token)
    if not folder.is_dir():
        return None
    found = Staged(token, known_rigs=[u.name for u in rigs.uses(session)])
    for file in sorted(f for f in folder.iterdir() if f.is_file() and not f.name.endswith(".mapping")):
        try:
            if file.suffix.lower() == ".json" or is_store(file):
                found.documents[file.name] = documents.in_words(file)
            elif _is_own(file):
                found.own.append(file.name)
            else:
                found.foreign.extend(
                    _foreign(session, folder, file, place, sheet, now) for place, sheet in enumerate(sheets.read(file))
                )
        except InputError as refused:
            found.wrong.append(refused.sentence)
    return found


def _is_own(file: Path) -> bool:
    """Whether a file is one of the three tables: every word of its header is one of theirs."""
    try:
        outcome = Outcome()
        recognise(file, outcome)
        return not outcome.warnings
    except InputError:
        return False


def _foreign(session: Session, folder: Path, file: Path, place: int, sheet: Sheet, now: datetime) -> Foreign:
    key = f"{file.name}.{place}"
    kept = folder / f"{key}.mapping"
    if kept.exists():
        chosen = Mapping.model_validate_json(kept.read_text(encoding="utf-8"))
    elif before := store.mapping(session, mapping.header_key(sheet)):
        chosen = Mapping.model_validate(before)
    else:
        chosen = mapping.guessed(sheet)
    wrong = mapping.problems(chosen)
    became = [] if wrong else list(mapping.apply(sheet, chosen, now))
    bad = [b for b in became if b.wrong]
    known = motors.ids_by_tag(session)
    alike = _alike(session, sheet, chosen, known) if not wrong else []
    wrong += [f"is {tag} the motor {there}?" for tag, there, meant in alike if not meant]
    differ = _differing(session, became, chosen, known)
    return Foreign(key, file.name, sheet, chosen, wrong, became[:PREVIEWED], bad, len(became) - len(bad), alike, differ)


def _alike(session: Session, sheet: Sheet, chosen: Mapping, known: dict[str, str]) -> list[tuple[str, str, str]]:
    """The tags of a sheet that are no motor's, but nearly one's, “GR 6” beside GR-06; and which is meant, once that is
    said."""
    nearly = {loosely(tag): tag for tag in motors.all_tags(session)}
    tags = dict.fromkeys(tag for place in chosen.places("tag") for tag in sheet.column(place))
    strange = [tag for tag in tags if key_of(tag) not in known and loosely(tag) in nearly]
    return [(tag, nearly[loosely(tag)], chosen.motors.get(key_of(tag), "")) for tag in strange]


def _differing(session: Session, became: Sequence[Became], chosen: Mapping, known: dict[str, str]) -> list[Differs]:
    """What a sheet says of motors on the rack otherwise than the rack."""
    said: dict[str, dict[str, str]] = {}
    for one in became:
        if one.motor and key_of(one.motor["tag"]) in known:
            said.setdefault(known[key_of(one.motor["tag"])], {}).update(one.motor)
    there = motors.several(session, list(said)) if said else {}
    return [
        Differs(motor.tag, name, *words, f"{motor.tag}:{name}" in chosen.taken)
        for i, motor in there.items()
        for name, words in differing_facts(motor, said[i]).items()
    ]


def foreign(session: Session, token: str, key: str, now: datetime) -> Foreign:
    """A foreign sheet that was staged; raises NotThere."""
    staged = look(session, token, now)
    for one in staged.foreign if staged else ():
        if one.key == key:
            return one
    raise NotThere("This sheet is there no more.")


def remap(token: str, key: str, chosen: Mapping) -> None:
    """Keep how a sheet is mapped, until it is brought in."""
    folder = folder_of(token)
    if folder.is_dir():
        (folder / f"{Path(key).name}.mapping").write_text(chosen.model_dump_json(), encoding="utf-8")


def bring_in(store_: Store, by: Writing, token: str, skip_bad: bool, progress: Progress = lambda *_: None) -> Brought:
    """Store what was staged, all of it or nothing; raises InputError when it is there no more or cannot be."""
    with store_.reading() as session:
        staged = look(session, token, by.at)
    if staged is None:
        raise InputError("files", "these files are there no more: choose them again")
    if staged.wrong:
        raise InputError("files", " ".join(staged.wrong))
    told: list[str] = []
    with tempfile.TemporaryDirectory() as scratch:
        files, lines, wrong = _tables(staged, Path(scratch), by.at)
        names = ", ".join(dict.fromkeys([*staged.own, *(f.file for f in staged.foreign)]))[:200]
        if staged.documents:
            outcome, told = _with_documents(store_, by, staged, files, skip_bad, names, progress)
        else:
            outcome = import_staged(
                store_, by, files, progress, skip_bad, dry_run=False, what=names, better=_better(staged)
            )
    rejected = [s for r in outcome.rejected for s in _sentences(r, lines)]
    if rejected and not skip_bad:
        return Brought({}, {}, [], rejected)
    with store_.writing(by) as session:
        for one in staged.foreign:
            store.keep_mapping(session, mapping.header_key(one.sheet), one.mapping.model_dump(exclude=OF_ONE_SHEET))
    forget(token)
    return Brought(outcome.stored, outcome.ignored, [*told, *outcome.warnings], [*wrong, *rejected])


def _with_documents(
    store_: Store, by: Writing, staged: Staged, files: list[Path], skip_bad: bool, what: str, progress: Progress
) -> tuple[Outcome, list[str]]:
    """Take in documents, and tables with them, in one transaction; returns what was done and what differed. A backup
    that became one with this store cannot be taken back: a copy of the store as it was is kept first."""
    backups.back_up(store_, by.at)
    outcome, told = Outcome(), []
    with contextlib.suppress(_Undone), store_.writing(by) as session:
        merged = [documents.take_in(session, folder_of(staged.token) / name, by.at) for name in staged.documents]
        told = [words for one in merged for words in one.conflicts]
        if files:
            change_id = changes.record(session, ChangeKind.BRING_IN, by.at, None, detail=what)
            outcome = import_tables(session, files, progress, skip_bad, by.at, change_id, _better(staged))
        if outcome.rejected and not skip_bad:
            raise _Undone
        for one in merged:
            for counts, more in ((outcome.stored, one.stored), (outcome.ignored, one.ignored)):
                for table, count in more.items():
                    if said := _TABLE_WORDS.get(table):
                        counts[said] = counts.get(said, 0) + count
    return outcome, told


def _better(staged: Staged) -> list[tuple[str, str]]:
    """The facts that somebody ticked, by tag and fact."""
    ticked = (key.rpartition(":") for one in staged.foreign for key in one.mapping.taken)
    return [(tag, fact) for tag, _, fact in ticked]


class _Undone(Exception):
    """Leave the transaction without keeping it."""


def _tables(
    staged: Staged, scratch: Path, now: datetime
) -> tuple[list[Path], dict[Path, tuple[str, list[int]]], list[str]]:
    """The tables to bring in, the rows behind the lines of those made of foreign sheets, and what is wrong there."""
    files = [folder_of(staged.token) / name for name in staged.own]
    lines: dict[Path, tuple[str, list[int]]] = {}
    wrong: list[str] = []
    for place, one in enumerate(staged.foreign):
        if one.problems:
            raise InputError("files", f"{one.file}: {one.problems[0]}")
        folder = scratch / str(place)
        folder.mkdir()
        became = list(mapping.apply(one.sheet, one.mapping, now))
        wrong += [f"{one.file}, row {b.number}: {says}" for b in became for _, _, says in b.wrong]
        for file, numbers in mapping.write_tables(became, folder).items():
            files.append(file)
            lines[file] = (one.file, numbers)
    return files, lines, wrong


def _sentences(rejected: Rejected, lines: dict[Path, tuple[str, list[int]]]) -> list[str]:
    if rejected.file in lines:
        name, numbers = lines[rejected.file]
        return [f"{name}, row {numbers[rejected.line - 2]}: {column}: {says}" for column, says in rejected.problems]
    return [f"{rejected.file.name}, row {rejected.line}: {column}: {says}" for column, says in rejected.problems]


def lately(session: Session) -> list[ChangeRow]:
    """What was brought in and stands, newest first."""
    return store.changes_of_bringing_in(session)


def undo(session: Session, change_id: str, now: datetime) -> str:
    """Take back what was brought in; motors that came with it and have nothing else go. Raises InputError. Says
    what."""
    change = session.get(ChangeRow, change_id)
    if change is None or change.kind != ChangeKind.BRING_IN or change.undone_at is not None:
        raise InputError("undo", "this was taken back already")
    touched, gone = store.take_back(session, change, now)
    judging.put_out_of_sight(session, gone)
    motors.touch(session, touched)
    return change.detail


def saved_mapping(found: Foreign) -> str:
    """A mapping as JSON, for the command line."""
    return json.dumps(found.mapping.model_dump(exclude=OF_ONE_SHEET), ensure_ascii=False, indent=1) + "\n"
