"""Opening a store: the file, its pragmas, its migrations, and the two kinds of transaction.

Every commit is on the disk before it is acknowledged (`synchronous=FULL`), readers never wait for a writer
(WAL), and a writer takes its lock at the start, so that a busy store waits instead of failing half way. Writers wait
in the order they came (`writer_queue`), and are told when it takes too long.

A store of an earlier edition is copied beside itself before its tables change; the copy stays until the store has been
judged once in its new form. A store whose file was deleted or replaced, or may not be written, can only be read.
"""

import os
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import URL, Connection, Engine, create_engine, event
from sqlalchemy.exc import DatabaseError, OperationalError
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import Busy, InputError, StoreDown
from waldhorn.store import migrations
from waldhorn.store.models import clock, ids_after
from waldhorn.store.writer_queue import WriterQueue
from waldhorn.store.writing import Writing, carried_by, mark_form

_WRITES = "waldhorn_writes"
_OWNER_ONLY = 0o600
_PART = ".part"
PATIENCE_S = 8.0  # how long a writer waits for its turn: longer than the last step of a large import


class Store:
    """One SQLite file. Use `reading()` to look and `writing()` to change; both give a SQLAlchemy session."""

    def __init__(self, engine: Engine, file: "OpenedFile", patience_s: float = PATIENCE_S) -> None:
        self.engine = engine
        self.file = file
        self.patience_s = patience_s
        self._writer = engine.execution_options(**{_WRITES: True})
        self._queue = WriterQueue()
        self.on_commit: list[Callable[[Writing], None]] = []  # told after every commit, in the thread that made it

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only looks; raises StoreDown."""
        with down_is_said(), Session(self.engine) as session:
            yield session

    @contextmanager
    def writing(self, by: Writing | None = None) -> Iterator[Session]:
        """A session that writes for somebody, or for the program itself. It commits when the block ends, and rolls
        everything back when it raises; raises Busy when it does not get its turn in time, StoreDown when the store
        cannot be written, SentTwice."""
        self.must_be_writable()
        by = by or Writing(clock())
        with (
            down_is_said(),
            self._queue.turn(self.patience_s),
            Session(self._writer, expire_on_commit=False, info=carried_by(by)) as session,
            session.begin(),
        ):
            _lock(session)
            mark_form(session, by)
            yield session
        self._committed(by)

    @contextmanager
    def writing_beside(self, other: Path, by: Writing) -> Iterator[Session]:
        """The same, with the tables of another store as `other`."""
        self.must_be_writable()
        with down_is_said(), self._queue.turn(self.patience_s), self._writer.connect() as connection:
            driver = connection.connection.driver_connection
            assert driver is not None
            driver.execute("ATTACH ? AS other", (str(other),))  # not inside a transaction
            try:
                info = carried_by(by)
                with Session(connection, expire_on_commit=False, info=info) as session, session.begin():
                    _lock(session)
                    mark_form(session, by)
                    yield session
                self._committed(by)
            finally:
                driver.rollback()
                driver.execute("DETACH other")

    def _committed(self, by: Writing) -> None:
        by.stored = True
        for tell in self.on_commit:
            tell(by)

    def must_be_writable(self) -> None:
        """Raises StoreDown where the store can only be read."""
        if why := self.file.trouble():
            raise StoreDown(why)

    def close(self) -> None:
        """Let go of the file. What waits in the write-ahead log goes into it."""
        self.engine.dispose()


@dataclass(frozen=True, slots=True)
class OpenedFile:
    """The file of a store: its path, which file that was when it was opened, whether it may be written, and the copy
    made before its tables were changed."""

    path: Path
    identity: tuple[int, int]
    read_only: bool
    before: Path

    @classmethod
    def at(cls, path: Path) -> "OpenedFile":
        """The file at a path; raises OSError where there is none."""
        may_write = os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)
        return cls(path, _identity(path), not may_write, path.with_name(f"{path.stem}.before-{migrations.HEAD}.db"))

    def trouble(self) -> str:
        """Why the store cannot be written just now, in words; empty where it can."""
        if self.read_only:
            return f"{self.path.name} or its folder may not be written by this program: it can only be looked at"
        try:
            same = _identity(self.path) == self.identity
        except OSError:
            return f"the file {self.path.name} was deleted or moved while Waldhorn runs: put it back, then start again"
        return "" if same else f"another file was put in the place of {self.path.name}: start Waldhorn again"

    def connect(self, patience_s: float) -> sqlite3.Connection:
        """A connection to this very file; raises sqlite3.OperationalError where another one lies there, or none. A path
        alone would make SQLite create an empty store in the place of a deleted one."""
        waits = any(self.path.with_name(f"{self.path.name}-{part}").exists() for part in ("wal", "shm"))
        mode = "mode=rw" if not self.read_only else "mode=ro" if waits else "mode=ro&immutable=1"
        address = f"{self.path.absolute().as_uri()}?{mode}"
        driver = sqlite3.connect(address, uri=True, timeout=patience_s, check_same_thread=False)
        try:
            same = _identity(self.path) == self.identity
        except OSError:
            same = False
        if not same:
            driver.close()
            raise sqlite3.OperationalError(self.trouble())
        return driver

    def let_copy_go(self) -> None:
        """Delete the copy made before the tables were changed: what they became was judged."""
        self.before.unlink(missing_ok=True)


def _identity(path: Path) -> tuple[int, int]:
    stat = path.stat()
    return stat.st_dev, stat.st_ino


@contextmanager
def down_is_said() -> Iterator[None]:
    """What the driver says of a full disk, a torn or a read-only file, in one error of our own."""
    try:
        yield
    except UnicodeDecodeError as error:  # SQLite hands on what a torn page holds, in its complaints too
        raise StoreDown("what it holds is no text: the file is torn") from error
    except (DatabaseError, sqlite3.Error) as error:
        if isinstance(error, DatabaseError) and type(error) not in (DatabaseError, OperationalError):
            raise  # a constraint or a query of ours: not the disk
        raise StoreDown(str(getattr(error, "orig", error))) from error


def open_store(path: Path, patience_s: float = PATIENCE_S, copy_first: bool = True) -> Store:
    """Open the store at `path`, making or migrating it as needed; raises InputError where that cannot be. Before a
    migration the store is copied beside itself, unless it is a copy already (`copy_first` false)."""
    file = _there(path)
    address = URL.create("sqlite", database=str(path))  # whatever characters are in it
    engine = create_engine(address, creator=lambda: file.connect(patience_s))
    event.listen(engine, "connect", _on_connect)
    event.listen(engine, "begin", _on_begin)
    try:
        _migrate(engine, file, copy_first)
        with engine.connect() as connection:
            ids_after(connection.exec_driver_sql("SELECT max(id) FROM change").scalar())
    except InputError:
        engine.dispose()
        raise
    except (DatabaseError, UnicodeDecodeError) as error:
        engine.dispose()
        why = getattr(error, "orig", "the file is torn")
        raise InputError("db", f"{path}: cannot be opened as a store: {why}") from error
    return Store(engine, file, patience_s)


def _there(path: Path) -> OpenedFile:
    """The file at `path`, made where there is none; raises InputError where that cannot be."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError("db", f"{path}: its folder cannot be made: {error.strerror}") from error
    try:
        if not path.exists():
            path.touch(_OWNER_ONLY)
        file = OpenedFile.at(path)
        if not file.read_only and path.stat().st_mode & 0o077:
            path.chmod(_OWNER_ONLY)  # what SQLite keeps beside it is as private as the store itself
    except OSError as error:
        raise InputError("db", f"{path}: cannot be opened as a store: {error.strerror}") from error
    return file


def copy_to(store: Store, file: Path) -> None:
    """Write a store into a new file, consistent while it is in use: whole, or not at all. Raises StoreDown, also where
    the store's own file is gone."""
    with whole_or_not(file) as aside, down_is_said():
        with closing(store.file.connect(store.patience_s)) as driver:
            driver.isolation_level = None
            driver.execute("VACUUM INTO ?", (str(aside),))
        with closing(sqlite3.connect(aside)) as driver:
            [(found,)] = driver.execute("PRAGMA quick_check(1)").fetchall()
        if found != "ok":
            raise StoreDown(found)


@contextmanager
def whole_or_not(file: Path) -> Iterator[Path]:
    """Where to write a file that must never stand there half: beside it, for its owner only, renamed when the block
    ends well and gone when it does not. What a process that was killed has left of the same file goes too."""
    clear_parts(file.parent, file.name)
    aside = file.with_name(f".{file.name}.{os.getpid()}{_PART}")
    try:
        yield aside
        aside.chmod(_OWNER_ONLY)
        with aside.open("r+b") as written:
            os.fsync(written.fileno())
        aside.replace(file)
    finally:
        for left in (aside, *(aside.with_name(f"{aside.name}{tail}") for tail in ("-wal", "-shm", "-journal"))):
            left.unlink(missing_ok=True)


def clear_parts(folder: Path, name: str = "*") -> None:
    """Delete what processes that run no more have left of a file, or of every file, in a folder."""
    for left in folder.glob(f".{name}.*{_PART}*"):
        process = left.name.rpartition(_PART)[0].rpartition(".")[2]
        if process.isdecimal() and not _runs(int(process)):
            left.unlink(missing_ok=True)


def _runs(process: int) -> bool:
    if os.name != "posix":
        return True  # there is no harmless signal to ask with
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


def _migrate(engine: Engine, file: OpenedFile, copy_first: bool) -> None:
    """Bring the tables to this edition, or leave them as they were; raises InputError where that cannot be."""
    path = file.path
    with engine.connect() as connection:
        edition = migrations.edition_of(connection)
    if edition == migrations.HEAD:
        return  # without Alembic, which takes half a second to load
    if edition > migrations.HEAD:
        newer = f"its tables are of edition {edition}, this one knows those up to {migrations.HEAD}"
        raise InputError("db", f"{path}: was written by a newer Waldhorn ({newer}): open it with that one")
    if file.read_only:
        older = "was written by an earlier Waldhorn" if edition else "holds no store"
        raise InputError("db", f"{path}: {older} and may not be written here: copy it to where it may")
    from waldhorn.store.migrations.upgrade import upgrade

    if edition and copy_first and not file.before.exists():
        _copy_as_it_is(file)
    try:
        with engine.execution_options(**{_WRITES: True}).begin() as connection:
            upgrade(connection)
    except DatabaseError:
        raise
    except Exception as error:  # whatever a migration trips over in the rows of somebody's store
        kept = f", and a copy of it is {file.before.name}" if file.before.exists() else ""
        why = f"its tables of edition {edition} cannot become those of {migrations.HEAD} ({error!r})"
        raise InputError("db", f"{path}: {why}: it is as it was{kept}") from error


def _copy_as_it_is(file: OpenedFile) -> None:
    try:
        with (
            whole_or_not(file.before) as aside,
            closing(file.connect(PATIENCE_S)) as source,
            closing(sqlite3.connect(aside)) as target,
        ):
            source.backup(target)
    except (OSError, sqlite3.Error) as error:
        no_copy = f"no copy of it can be made before its tables are changed ({error})"
        raise InputError("db", f"{file.path}: {no_copy}: make room beside it") from error


def _on_connect(connection: Any, _record: Any) -> None:
    # The driver must not open transactions on its own: _on_begin does, with the right kind of lock.
    connection.isolation_level = None
    for pragma in ("foreign_keys=ON", "synchronous=FULL"):
        connection.execute(f"PRAGMA {pragma}")
    if connection.execute("PRAGMA journal_mode").fetchone() != ("wal",):
        with suppress(sqlite3.OperationalError):  # one that can only be read keeps what it has
            connection.execute("PRAGMA journal_mode=WAL")


def _lock(session: Session) -> None:
    """Take the lock, at the start of a transaction that writes."""
    try:
        session.connection()
    except OperationalError as error:
        if "locked" in str(error.orig):
            raise Busy from error
        raise


def _on_begin(connection: Connection) -> None:
    writes = connection.get_execution_options().get(_WRITES)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")
