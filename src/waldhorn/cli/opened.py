"""A store as commands open it, and how they say their progress."""

from collections.abc import Callable
from pathlib import Path

import typer

from waldhorn.cli.command import now
from waldhorn.core.base.errors import InputError, NotStored
from waldhorn.exchange import importing
from waldhorn.pit.judging import judging
from waldhorn.store.engine import PATIENCE_S, Store, open_store


def existing(db: Path) -> Store:
    """The store in a file that is there already, judged; raises InputError where there is none."""
    if not db.is_file():
        raise InputError("db", f"{db}: there is no store here: import into it or name another with --db")
    return opened(db)


def opened(db: Path, patience_s: float = PATIENCE_S) -> Store:
    """The store in a file, made where there is none, with every cached verdict fresh; raises InputError."""
    store = open_store(db, patience_s)
    try:
        return settled(store)
    except BaseException:
        store.close()
        raise


def settled(store: Store) -> Store:
    """The store with every cached verdict fresh: after a new edition of the tables or of the judge all are stale. One
    that can only be read stays as it is.

    Raises InputError where a store of an earlier edition cannot be judged; its copy stays then.
    """
    if store.file.read_only:
        return store
    before = store.file.before
    if not before.exists():
        judging.settle_apart(store, now(), judging_progress())
        return store
    typer.echo(f"this store is of an earlier Waldhorn: {before} holds it as it was until it is judged", err=True)
    try:
        judging.settle_anew(store, now(), judging_progress())
    except NotStored:
        raise
    except Exception as error:
        raise InputError("db", f"it cannot be judged ({error!r}): {before} holds it as it was") from error
    store.file.let_copy_go()
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
