"""The commands that bring files in and take them out."""

import json
import shutil
import tempfile
import zipfile
from contextlib import closing, suppress
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from waldhorn.cli.command import OWN, PATIENCE_S, DbOption, app, complain, fail, now
from waldhorn.core.base.errors import Busy, InputError

if TYPE_CHECKING:
    from waldhorn.exchange import importing
    from waldhorn.store.engine import Store


class _Undo(Exception):
    """Leave the transaction without keeping it."""


@app.command("import")
def import_(
    files: Annotated[
        list[Path],
        typer.Argument(help="Any mix of tables, folders of them, data packages, motors' own files and backups."),
    ],
    db: DbOption = OWN / "waldhorn.db",
    skip_bad: Annotated[
        bool, typer.Option("--skip-bad", help="Store the good rows, write the bad ones aside.")
    ] = False,
    strict: Annotated[
        bool, typer.Option("--strict", help="Refuse a sheet with a bad cell, instead of leaving the cell out.")
    ] = False,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Say what would be stored, store nothing.")] = False,
    map_: Annotated[Path | None, typer.Option("--map", help="A foreign sheet's mapping, saved by the page.")] = None,
) -> None:
    """Bring in tables, motors' own files, backups, or a foreign sheet with its mapping."""
    from waldhorn.exchange import mapping

    if map_ is not None:
        with tempfile.TemporaryDirectory() as scratch:
            made = []
            for file in files:
                tables, bad = mapping.tables_of(file, map_, Path(scratch), now(), strict)
                made += tables
                for words in bad:
                    complain(f"left out: {words}")
            _import(made, db, skip_bad, dry_run)
        return
    with tempfile.TemporaryDirectory() as scratch:
        _import([t for f in files for t in _tables_in(f, Path(scratch))], db, skip_bad, dry_run)


def _tables_in(file: Path, scratch: Path) -> list[Path]:
    """The tables of a folder or of a packed data package; any other file is itself."""
    from waldhorn.exchange.rows import TABLES
    from waldhorn.pit.files.upload_staging import unpack

    folder = file
    if file.is_file() and file.suffix.lower() == ".zip" and zipfile.is_zipfile(file):
        folder = scratch / file.stem
        folder.mkdir()
        unpack(file, folder)
    if not folder.is_dir():
        return [file]
    found = [folder / f"{table}.csv" for table in TABLES if (folder / f"{table}.csv").is_file()]
    if not found:
        fail([f"{file}: no {', '.join(f'{table}.csv' for table in TABLES)} in it"])
    return found


def _import(files: list[Path], db: Path, skip_bad: bool, dry_run: bool) -> None:
    from waldhorn.cli.opened import opened
    from waldhorn.exchange import sheets
    from waldhorn.exchange.backup import is_store

    if unmapped := [f for f in files if f.is_file() and not is_store(f) and sheets.format_of(f) is sheets.WORKBOOK]:
        told = "a workbook needs its mapping: save it on the page Bring in, then name it with --map"
        fail([f"{f.name}: {told}" for f in unmapped])
    if missing := [f"{f}: there is no such file" for f in files if not f.is_file()]:
        fail(missing)
    with closing(opened(db, PATIENCE_S)) as store:
        _bring_in(store, files, skip_bad, dry_run)


def _bring_in(store: "Store", files: list[Path], skip_bad: bool, dry_run: bool) -> None:
    from waldhorn.cli.opened import judging_progress, reading_progress
    from waldhorn.exchange import importing
    from waldhorn.exchange.backup import is_store
    from waldhorn.exchange.staging import import_staged
    from waldhorn.pit.judging import judging
    from waldhorn.pit.writing import Writing

    held = [f for f in files if f.suffix == ".json" or is_store(f)]
    if held:
        _take_in(store, held, dry_run)
        files = [f for f in files if f not in held]
        if not files:
            return
    outcome = import_staged(store, Writing(now()), files, reading_progress(), skip_bad, dry_run)
    if not dry_run:
        try:
            judging.settle_apart(store, now(), judging_progress())
        except Busy:
            typer.echo("warning: others write just now; what was brought in is judged at the next start", err=True)
    for warning in outcome.warnings:
        complain(f"warning: {warning}")
    problems = [sentence for r in outcome.rejected for sentence in r.sentences()]
    if problems and not skip_bad:
        fail([*problems, f"nothing stored: {len(outcome.rejected)} bad rows"])
    for line in problems:
        complain(line)
    _say_outcome(outcome, dry_run)
    if skip_bad and not dry_run:
        for file in importing.write_rejected(outcome):
            typer.echo(f"bad rows written to {file}")


def _say_outcome(outcome: "importing.Outcome", dry_run: bool) -> None:
    verb = "would be stored" if dry_run else "stored"
    for table, count in outcome.stored.items():
        typer.echo(f"{table}: {count} {verb}, {outcome.ignored[table]} ignored")
    if outcome.rejected:
        typer.echo(f"rejected: {len(outcome.rejected)}")


def _take_in(store: "Store", files: list[Path], dry_run: bool) -> None:
    """Take in backups and motors' own files, all of them or none."""
    from waldhorn.cli.opened import judging_progress
    from waldhorn.exchange import documents
    from waldhorn.pit.judging import judging

    with suppress(_Undo):
        with store.writing() as session:
            merged = [documents.take_in(session, file, now()) for file in files]
            for one in merged:
                for words in one.conflicts:
                    complain(f"differs: {words}")
                for table, count in one.stored.items():
                    verb = "would be stored" if dry_run else "stored"
                    typer.echo(f"{table}: {count} {verb}, {one.ignored[table]} ignored")
            if dry_run:
                raise _Undo
        judging.settle_apart(store, now(), judging_progress())


@app.command()
def export(folder: Annotated[Path, typer.Argument(metavar="DIR")], db: DbOption = OWN / "waldhorn.db") -> None:
    """Write the three tables with their data package, and a JSON backup, into a folder."""
    from waldhorn.cli.opened import existing
    from waldhorn.exchange import exporting

    with closing(existing(db)) as store, store.reading() as session:
        for table, count in exporting.export_tables(session, folder).items():
            typer.echo(f"{folder / table}.csv: {count} rows")
    for name in json.loads((folder / "datapackage.json").read_text(encoding="utf-8")).get("damaged", ()):
        complain(f"warning: {folder / name} is damaged in the store")


@app.command()
def backup(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="Where to: a new .db, or .json.")],
    db: DbOption = OWN / "waldhorn.db",
) -> None:
    """Write the whole store into one file, consistent while it is in use."""
    from waldhorn.cli.opened import existing
    from waldhorn.exchange.backup import backup as whole
    from waldhorn.store.engine import copy_to, whole_or_not

    if file.exists():
        raise InputError("file", f"{file} is there already: name a new file")
    with closing(existing(db)) as store:
        if file.suffix == ".json":
            with store.reading() as session:
                document = whole(session)
            with whole_or_not(file) as aside:
                aside.write_text(json.dumps(document, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
        else:
            copy_to(store, file)
    typer.echo(f"{file}: {file.stat().st_size:,} bytes")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="A backup, .db or .json.")],
    db: Annotated[Path, typer.Option("--db", help="The new store it becomes.")],
) -> None:
    """Make a new store of a backup."""
    from waldhorn.cli.opened import settled
    from waldhorn.exchange.backup import is_own_store
    from waldhorn.store.engine import open_store, whole_or_not

    if db.exists():
        raise InputError("db", f"{db} is there already: a backup becomes a new store")
    if not file.is_file():
        raise InputError("file", f"{file}: there is no such file")
    db.parent.mkdir(parents=True, exist_ok=True)
    with whole_or_not(db) as aside:
        document = file.suffix == ".json"
        if not document:
            if not is_own_store(file):
                raise InputError("file", f"{file}: holds no tables of Waldhorn")
            shutil.copyfile(file, aside)
        with closing(open_store(aside, PATIENCE_S, copy_first=False)) as store:
            if document:
                _take_in(store, [file], dry_run=False)
            settled(store)
    typer.echo(f"{db}: restored")
