"""What all commands share: where the store is, how a refusal and the progress are said."""

import os
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Annotated

import typer

from waldhorn.core.base.errors import Refused
from waldhorn.exchange import importing
from waldhorn.pit.judging import judging
from waldhorn.store.engine import Store, open_store

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Checks used brushless motors between heats.")

PATIENCE_S = 30.0  # how long a command waits for others that write
OWN = Path(os.environ.get("XDG_DATA_HOME", Path.home() / ".local" / "share")) / "waldhorn"
DbOption = Annotated[Path, typer.Option("--db", help="The store, a SQLite file.", show_default="your own")]
PortOption = Annotated[int, typer.Option(min=1, max=65535, help="The port to listen on.")]


def fail(lines: list[str]) -> None:
    """Say the problems on standard error, a line each, and leave with exit status 1."""
    for line in lines:
        typer.echo(line, err=True)
    raise SystemExit(1)


def now() -> datetime:
    """The time, with its offset."""
    return datetime.now().astimezone()


def existing(db: Path) -> Store:
    """The store in a file that is there already; others are refused."""
    if not db.is_file():
        raise Refused("db", f"{db}: there is no store here: import into it or name another with --db")
    return open_store(db)


def settled(store: Store) -> Store:
    """The store with every standing fresh: after a new edition of the judge all of them are stale."""
    judging.settle_apart(store, now(), judging_progress())
    return store


def reading_progress() -> importing.Progress:
    """Says on standard error how far a file is read, ten percent at a time."""
    said: dict[str, int] = {}

    def say(name: str, done: int, size: int) -> None:
        percent = 100 * done // size
        if percent // 10 > said.get(name, -1) or percent == 100:
            said[name] = percent // 10
            typer.echo(f"reading {name}: {percent} %", err=True)

    return say


def judging_progress() -> Callable[[int, int], None]:
    """Says on standard error how many motors are judged."""
    return lambda done, total: typer.echo(f"judging: {done} of {total} motors", err=True)
