"""The commands. Exit status: 0 done, 1 refused (one line a problem on standard error), 2 wrong usage."""

import asyncio
import contextlib
import json
import os
import shutil
import socket
import sys
import tempfile
from collections.abc import Callable, Mapping
from dataclasses import asdict
from datetime import datetime
from pathlib import Path
from typing import Annotated

import typer
import uvicorn

from waldhorn.core import between_words
from waldhorn.core.errors import Busy, Refused
from waldhorn.core.sets import Chosen
from waldhorn.core.times import read_moment
from waldhorn.exchange import documents, exporting, importing, mapping, matching
from waldhorn.exchange.backup import backup as whole
from waldhorn.exchange.backup import is_store
from waldhorn.exchange.judgement import to_json
from waldhorn.exchange.staging import import_staged
from waldhorn.link.clamped import simulated
from waldhorn.link.instrument import BenchServer
from waldhorn.link.plain_mouth import PlainMouth
from waldhorn.link.recipe import recipe_of
from waldhorn.link.season import PIT_BOX
from waldhorn.pit import demo as demo_season
from waldhorn.pit import judging
from waldhorn.pit.between import between
from waldhorn.pit.live import replay as replay_stream
from waldhorn.store import motors
from waldhorn.store.engine import Store, copy_to, open_store
from waldhorn.web.app import create_app
from waldhorn.web.guard import THIS_MACHINE

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Checks used brushless motors between heats.")

PATIENCE_S = 30.0  # how long a command waits for others that write
_OWN = Path(os.environ.get("XDG_DATA_HOME", Path.home() / ".local" / "share")) / "waldhorn"
DbOption = Annotated[Path, typer.Option("--db", help="The store, a SQLite file.", show_default="your own")]
PortOption = Annotated[int, typer.Option(min=1, max=65535, help="The port to listen on.")]


class _Undo(Exception):
    """Leave the transaction without keeping it."""


def main() -> None:
    """Run the command line; a refusal is one line a problem on standard error and exit status 1."""
    try:
        app()
    except Refused as refused:
        _fail([refused.sentence])
    except Busy:
        _fail(["another Waldhorn is writing to this store: try again in a moment"])


def _fail(lines: list[str]) -> None:
    for line in lines:
        typer.echo(line, err=True)
    raise SystemExit(1)


def _now() -> datetime:
    return datetime.now().astimezone()


@app.command()
def demo(
    port: PortOption = 8700,
    db: Annotated[Path, typer.Option("--db", help="Where the demo's own store goes.")] = _OWN / "demo.db",
) -> None:
    """Start the application on 127.0.0.1 with demo data in a store of its own."""
    store = open_store(db)
    with store.writing() as session:
        if not motors.all_tags(session):
            typer.echo("Making the demo season on the simulated bench; this takes a few seconds.")
            demo_season.fill(session, _now())
        else:
            judging.settle(session, _now())
    benches = {tag: port + place for place, tag in enumerate(PIT_BOX, 1)}
    for tag, at in benches.items():
        typer.echo(f"The simulated bench with {tag} clamped listens at 127.0.0.1:{at}")
    _serve(store, "127.0.0.1", port, benches)


@app.command()
def serve(
    db: DbOption = _OWN / "waldhorn.db",
    host: Annotated[str, typer.Option(help="The address to listen on.")] = "127.0.0.1",
    port: PortOption = 8700,
) -> None:
    """Start the application on your own store."""
    if host not in THIS_MACHINE:
        raise Refused("host", f"{host} lets in everybody on the network, and Waldhorn has no passphrase yet: 127.0.0.1")
    _serve(_settled(open_store(db)), host, port)


def _settled(store: Store) -> Store:
    """The store with every standing fresh: after a new edition of the judge all of them are stale."""
    judging.settle_apart(store, _now(), _judging_progress())
    return store


def _serve(store: Store, host: str, port: int, benches: Mapping[str, int] | None = None) -> None:
    _free(host, port)
    typer.echo(f"Waldhorn is at http://{host}:{port}/ (stop with Ctrl+C)")
    served = create_app(store, benches=benches)
    uvicorn.run(served, host=host, port=port, log_level="warning", timeout_graceful_shutdown=3)
    store.close()


def _free(host: str, port: int) -> None:
    """Refuse a port that somebody listens on, before anything is promised."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise Refused("port", f"port {port} is taken: choose another with --port") from error


@app.command("import")
def import_(
    files: Annotated[list[Path], typer.Argument(help="Any mix of tables, motors' own files and backups.")],
    db: DbOption = _OWN / "waldhorn.db",
    skip_bad: Annotated[
        bool, typer.Option("--skip-bad", help="Store the good rows, write the bad ones aside.")
    ] = False,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Say what would be stored, store nothing.")] = False,
    map_: Annotated[Path | None, typer.Option("--map", help="A foreign sheet's mapping, saved by the page.")] = None,
) -> None:
    """Bring in tables, motors' own files, backups, or a foreign sheet with its mapping."""
    if map_ is not None:
        with tempfile.TemporaryDirectory() as scratch:
            made = [t for f in files for t in mapping.tables_of(f, map_, Path(scratch), _now())]
            import_(made, db, skip_bad, dry_run, None)
        return
    if missing := [f"{f}: there is no such file" for f in files if not f.is_file()]:
        _fail(missing)
    store = open_store(db, PATIENCE_S)
    held = [f for f in files if f.suffix == ".json" or is_store(f)]
    if held:
        _take_in(store, held, dry_run)
        files = [f for f in files if f not in held]
        if not files:
            return
    outcome = import_staged(store, files, _reading_progress(), skip_bad, dry_run)
    if not dry_run:
        try:
            judging.settle_apart(store, _now(), _judging_progress())
        except Busy:
            typer.echo("warning: others write just now; what was brought in is judged at the next start", err=True)
    for warning in outcome.warnings:
        typer.echo(f"warning: {warning}", err=True)
    problems = [sentence for r in outcome.rejected for sentence in r.sentences()]
    if problems and not skip_bad:
        _fail([*problems, f"nothing stored: {len(outcome.rejected)} bad rows"])
    for line in problems:
        typer.echo(line, err=True)
    _say_outcome(outcome, dry_run)
    if skip_bad and not dry_run:
        for file in importing.write_rejected(outcome):
            typer.echo(f"bad rows written to {file}")


def _say_outcome(outcome: importing.Outcome, dry_run: bool) -> None:
    verb = "would be stored" if dry_run else "stored"
    for table, count in outcome.stored.items():
        typer.echo(f"{table}: {count} {verb}, {outcome.ignored[table]} ignored")
    if outcome.rejected:
        typer.echo(f"rejected: {len(outcome.rejected)}")


def _take_in(store: Store, files: list[Path], dry_run: bool) -> None:
    """Take in backups and motors' own files, all of them or none."""
    with contextlib.suppress(_Undo):
        with store.writing() as session:
            merged = [documents.take_in(session, file, _now()) for file in files]
            for one in merged:
                for words in one.conflicts:
                    typer.echo(f"differs: {words}", err=True)
                for table, count in one.stored.items():
                    verb = "would be stored" if dry_run else "stored"
                    typer.echo(f"{table}: {count} {verb}, {one.ignored[table]} ignored")
            if dry_run:
                raise _Undo
        judging.settle_apart(store, _now(), _judging_progress())


def _reading_progress() -> importing.Progress:
    said: dict[str, int] = {}

    def say(name: str, done: int, size: int) -> None:
        percent = 100 * done // size
        if percent // 10 > said.get(name, -1) or percent == 100:
            said[name] = percent // 10
            typer.echo(f"reading {name}: {percent} %", err=True)

    return say


def _judging_progress() -> Callable[[int, int], None]:
    return lambda done, total: typer.echo(f"judging: {done} of {total} motors", err=True)


@app.command()
def export(folder: Annotated[Path, typer.Argument(metavar="DIR")], db: DbOption = _OWN / "waldhorn.db") -> None:
    """Write the three tables with their data package, and a JSON backup, into a folder."""
    with _existing(db).reading() as session:
        for table, count in exporting.export_tables(session, folder).items():
            typer.echo(f"{folder / table}.csv: {count} rows")


@app.command()
def backup(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="Where to: a new .db, or .json.")],
    db: DbOption = _OWN / "waldhorn.db",
) -> None:
    """Write the whole store into one file, consistent while it is in use."""
    if file.exists():
        raise Refused("file", f"{file} is there already: name a new file")
    store = _existing(db)
    if file.suffix == ".json":
        with store.reading() as session:
            document = whole(session)
        file.write_text(json.dumps(document, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
    else:
        copy_to(store, file)
    typer.echo(f"{file}: {file.stat().st_size:,} bytes")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="A backup, .db or .json.")],
    db: Annotated[Path, typer.Option("--db", help="The new store it becomes.")],
) -> None:
    """Make a new store of a backup."""
    if db.exists():
        raise Refused("db", f"{db} is there already: a backup becomes a new store")
    if not file.is_file():
        raise Refused("file", f"{file}: there is no such file")
    if file.suffix == ".json":
        try:
            _take_in(open_store(db, PATIENCE_S), [file], dry_run=False)
        except Refused:
            db.unlink(missing_ok=True)
            raise
    else:
        shutil.copyfile(file, db)
    _settled(open_store(db)).close()
    typer.echo(f"{db}: restored")


@app.command()
def judge(
    tags: Annotated[list[str] | None, typer.Argument(metavar="[TAG]...")] = None,
    db: DbOption = _OWN / "waldhorn.db",
    as_of: Annotated[str | None, typer.Option(help="Judge from what was known at this time (ISO 8601).")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON array.")] = False,
) -> None:
    """Judge the named motors, or all."""
    moment = _moment(as_of) if as_of else _now()
    with _existing(db).reading() as session:
        known = motors.ids_by_tag(session)
        if strange := [t for t in tags or [] if motors.key_of(t) not in known]:
            _fail([f"no motor “{tag}” in {db}" for tag in strange])
        wanted = [known[motors.key_of(t)] for t in tags] if tags else None
        found = list(judging.judge_all(session, moment, wanted).values())
    if as_json:
        json.dump([to_json(j) for j in found], sys.stdout, ensure_ascii=False, indent=1)
        typer.echo()
    else:
        for j in found:
            typer.echo(f"{j.motor}: {j.headline} {j.reason}")


@app.command()
def match(
    tags: Annotated[list[str], typer.Argument(metavar="TAG TAG...")],
    take: Annotated[int, typer.Option(help="How many motors a set has.")] = 2,
    db: DbOption = _OWN / "waldhorn.db",
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Compare motors at equal conditions and pick the set of them that is most alike."""
    with _existing(db).reading() as session:
        found = between(session, tags, _now(), take)
    compared, parting = found.compared, found.parting
    if not parting.sets:
        raise Refused("take", parting.refused)
    best = parting.sets[0]
    if as_json:
        chosen = Chosen(best, parting.runners_up, parting.left_over)
        json.dump(matching.to_json(chosen, parting.alike, compared.rows), sys.stdout, ensure_ascii=False, indent=1)
        typer.echo()
        return
    typer.echo(between_words.set_words(best.motors, parting.alike, best.score))
    for row in compared.rows:
        typer.echo(f"{row.quantity.title}: {between_words.row_words(row, {m.tag: m.tag for m in compared.motors})}")


@app.command()
def bench(
    motor: Annotated[int, typer.Option(metavar="SEED", help="Which motor is clamped: any number makes one.")] = 1,
    fault: Annotated[str, typer.Option(metavar="NAME[:SEVERITY]", help="What is wrong with it.")] = "none",
    speed: Annotated[float, typer.Option(min=0.1, max=1000, help="How much faster than real time.")] = 1.0,
    port: PortOption = 8701,
    reads: Annotated[str, typer.Option(metavar="motor|supply", help="Whose amps it reads.")] = "motor",
    plain_port: Annotated[
        int, typer.Option(min=0, max=65535, help="Print plain comma-separated lines on this port too (0: not).")
    ] = 0,
) -> None:
    """Start the simulated analyser on 127.0.0.1."""
    name, _, size = fault.partition(":")
    try:
        severity = float(size or 1.0)
    except ValueError:
        raise Refused("fault", f"“{size}” is no severity: write it like worn_bearing:1.5") from None
    if reads not in ("motor", "supply"):
        raise Refused("reads", f"“{reads}” is neither motor nor supply")
    instrument = simulated(motor, name, severity, reads)
    typer.echo(f"The simulated bench listens at 127.0.0.1:{port} (stop with Ctrl+C)")
    with contextlib.suppress(KeyboardInterrupt):
        asyncio.run(_serve_bench(BenchServer(instrument, speed), port, plain_port))


async def _serve_bench(served: BenchServer, port: int, plain_port: int) -> None:
    try:
        await served.start(port)
        if plain_port:
            await PlainMouth(served).start(plain_port)
    except OSError as error:
        raise Refused("port", f"port {port} is taken: name another with --port") from error
    await served.serve_forever()


@app.command()
def replay(
    file: Annotated[Path, typer.Argument(help="A recorded stream, line by line.")],
    recipe: Annotated[Path | None, typer.Option(help="How its lines are read, saved by the page.")] = None,
) -> None:
    """Print what a recorded stream yields, one JSON object a line: the same as when it was live."""
    if not file.is_file():
        raise Refused("file", f"{file}: there is no such file")
    read_by = recipe_of(recipe.read_bytes()) if recipe and recipe.is_file() else None
    if recipe and read_by is None:
        raise Refused("recipe", f"{recipe}: there is no such file")
    for found in replay_stream(file.read_bytes(), recipe=read_by):
        typer.echo(json.dumps({"kind": type(found).__name__.lower()} | asdict(found), ensure_ascii=False))


def _existing(db: Path) -> Store:
    if not db.is_file():
        raise Refused("db", f"{db}: there is no store here: import into it or name another with --db")
    return open_store(db)


def _moment(text: str) -> datetime:
    at = read_moment(text, None)
    return at if at.tzinfo else at.astimezone()


if __name__ == "__main__":
    main()
