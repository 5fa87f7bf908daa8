"""A store as commands open it, and how they say their progress."""

from collections.abc import Callable
from pathlib import Path

import typer

from waldhorn.cli.command import now
from waldhorn.core.base.errors import InputError
from waldhorn.exchange import importing
from waldhorn.pit.judging import judging
from waldhorn.store.engine import Store, open_store


def existing(db: Path) -> Store:
    """The store in a file that is there already; others are refused."""
    if not db.is_file():
        raise InputError("db", f"{db}: there is no store here: import into it or name another with --db")
    return open_store(db)


def settled(store: Store) -> Store:
    """The store with every cached verdict fresh: after a new edition of the judge all of them are stale."""
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
