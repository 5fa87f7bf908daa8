"""Opening a store: the file, its pragmas, its migrations, and the two kinds of transaction.

Every commit is on the disk before it is acknowledged (`synchronous=FULL`), readers never wait for a writer
(WAL), and a writer takes its lock at the start, so that a busy store waits instead of failing half way. Writers wait
in the order they came (`writer_queue`), and are told when it takes too long.
"""

import os
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import URL, Connection, Engine, create_engine, event, inspect
from sqlalchemy.exc import DatabaseError, OperationalError
from sqlalchemy.orm import ORMExecuteState, Session, with_loader_criteria

from waldhorn.core.base.errors import Busy, InputError, StoreDown
from waldhorn.store import migrations
from waldhorn.store.migrations import Newer
from waldhorn.store.models import MotorRow, ids_after
from waldhorn.store.sending import committed, mark
from waldhorn.store.writer_queue import WriterQueue

_WRITES = "waldhorn_writes"
_OWNER_ONLY = 0o600
PATIENCE_S = 8.0  # how long a writer waits for its turn: longer than the last step of a large import
_ON_THE_RACK = with_loader_criteria(MotorRow, MotorRow.tag_key != MotorRow.id, include_aliases=True)


@event.listens_for(Session, "do_orm_execute")
def _without_motors_that_were_undone(state: ORMExecuteState) -> None:
    if state.is_select and not state.is_column_load and not state.is_relationship_load:
        state.statement = state.statement.options(_ON_THE_RACK)


class Store:
    """One SQLite file. Use `reading()` to look and `writing()` to change; both give a SQLAlchemy session."""

    def __init__(self, engine: Engine, patience_s: float = PATIENCE_S) -> None:
        self.engine = engine
        self.patience_s = patience_s
        self._writer = engine.execution_options(**{_WRITES: True})
        self._queue = WriterQueue()
        self.on_commit: list[Callable[[], None]] = []  # told after every commit, in the thread that made it

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only looks; raises StoreDown."""
        with down_is_said(), Session(self.engine) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session that commits when the block ends, and rolls everything back when it raises; raises Busy when it
        does not get its turn in time, StoreDown when it cannot be written."""
        with (
            down_is_said(),
            self._queue.turn(self.patience_s),
            Session(self._writer, expire_on_commit=False) as session,
            session.begin(),
        ):
            _lock(session)
            mark(session)
            yield session
        self._committed()

    @contextmanager
    def writing_beside(self, other: Path) -> Iterator[Session]:
        """The same, with the tables of another store as `other`."""
        with down_is_said(), self._queue.turn(self.patience_s), self._writer.connect() as connection:
            driver = connection.connection.driver_connection
            assert driver is not None
            driver.execute("ATTACH ? AS other", (str(other),))  # not inside a transaction
            try:
                with Session(connection, expire_on_commit=False) as session, session.begin():
                    _lock(session)
                    mark(session)
                    yield session
                self._committed()
            finally:
                driver.rollback()
                driver.execute("DETACH other")

    def _committed(self) -> None:
        committed()
        for tell in self.on_commit:
            tell()

    def close(self) -> None:
        """Let go of the file."""
        self.engine.dispose()


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


def open_store(path: Path, patience_s: float = PATIENCE_S) -> Store:
    """Open the store at `path`, making or migrating it as needed; raises InputError where that cannot be."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError("db", f"{path}: its folder cannot be made: {error.strerror}") from error
    try:
        path.touch(_OWNER_ONLY)  # what SQLite keeps beside it is as private as the store itself
        if path.stat().st_mode & 0o077:
            path.chmod(_OWNER_ONLY)
    except OSError as error:
        raise InputError("db", f"{path}: cannot be opened as a store: {error.strerror}") from error
    address = URL.create("sqlite", database=str(path))  # whatever signs are in it
    engine = create_engine(address, connect_args={"timeout": patience_s})
    event.listen(engine, "connect", _on_connect)
    event.listen(engine, "begin", _on_begin)
    try:
        _migrate(engine)
    except (DatabaseError, UnicodeDecodeError) as error:
        engine.dispose()
        why = getattr(error, "orig", "the file is torn")
        raise InputError("db", f"{path}: cannot be opened as a store: {why}") from error
    except Newer as error:
        engine.dispose()
        raise InputError("db", f"{path}: was written by a newer Waldhorn: open it with that one") from error
    with down_is_said(), engine.connect() as connection:
        ids_after(connection.exec_driver_sql("SELECT max(id) FROM act").scalar())
    return Store(engine, patience_s)


def copy_to(store: Store, file: Path) -> None:
    """Write a store into a new file, consistent while it is in use: whole, or not at all."""
    with whole_or_not(file) as aside, down_is_said():
        with closing(sqlite3.connect(str(store.engine.url.database), isolation_level=None)) as driver:
            driver.execute("VACUUM INTO ?", (str(aside),))
        with closing(sqlite3.connect(aside)) as driver:
            [(found,)] = driver.execute("PRAGMA quick_check(1)").fetchall()
        if found != "ok":
            raise StoreDown(found)


@contextmanager
def whole_or_not(file: Path) -> Iterator[Path]:
    """Where to write a file that must never stand there half: beside it, for its owner only, renamed when the block
    ends well and gone when it does not."""
    aside = file.with_name(f".{file.name}.{os.getpid()}.part")
    try:
        yield aside
        aside.chmod(_OWNER_ONLY)
        with aside.open("r+b") as written:
            os.fsync(written.fileno())
        aside.replace(file)
    finally:
        for left in (aside, *(aside.with_name(f"{aside.name}{tail}") for tail in ("-wal", "-shm", "-journal"))):
            left.unlink(missing_ok=True)


def _migrate(engine: Engine) -> None:
    """Bring the tables to this edition; raises Newer."""
    with engine.connect() as connection:
        known = inspect(connection).has_table("alembic_version")
        if known and connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar() == migrations.HEAD:
            return  # without Alembic, which takes half a second to load
    from waldhorn.store.migrations.upgrade import upgrade

    with engine.execution_options(**{_WRITES: True}).begin() as connection:
        upgrade(connection)


def _on_connect(connection: Any, _record: Any) -> None:
    # The driver must not open transactions on its own: _on_begin does, with the right kind of lock.
    connection.isolation_level = None
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL"):
        connection.execute(f"PRAGMA {pragma}")


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
