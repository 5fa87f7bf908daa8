"""What all tests share: a store of their own, and the demo season."""

import fcntl
import hashlib
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, settings
from sqlalchemy import Compiled, Engine, create_engine

import waldhorn
from waldhorn.pit import demo
from waldhorn.store.engine import Store, open_store

# How long an example takes says more about the machine than about Waldhorn.
settings.register_profile("waldhorn", deadline=None, suppress_health_check=list(HealthCheck), max_examples=40)
settings.load_profile("waldhorn")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What needs the demo season is slow."""
    for item in items:
        if "demo_file" in getattr(item, "fixturenames", ()):
            item.add_marker("slow")


@pytest.fixture(scope="session", autouse=True)
def compiled_once() -> Iterator[None]:
    """What SQLAlchemy compiles for one store serves all that a worker opens: it takes longer than most tests."""
    first = create_engine("sqlite://")
    first.connect().close()
    compiled: dict[Any, Compiled] = {}

    def sharing(*args: Any, **options: Any) -> Engine:
        engine = create_engine(*args, **options)
        engine.dialect = first.dialect  # a statement is compiled for a dialect
        engine.update_execution_options(compiled_cache=compiled)
        return engine

    patch = pytest.MonkeyPatch()
    patch.setattr("waldhorn.store.engine.create_engine", sharing)
    yield
    patch.undo()
    first.dispose()


@pytest.fixture(scope="session")
def empty_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """An empty store in a file, made once."""
    file = tmp_path_factory.mktemp("empty") / "pit.db"
    open_store(file).close()
    return file


@pytest.fixture
def store(empty_file: Path, tmp_path: Path) -> Iterator[Store]:
    """An empty store."""
    opened = open_store(Path(shutil.copy(empty_file, tmp_path / "pit.db")))
    yield opened
    opened.close()


@pytest.fixture(scope="session")
def demo_file(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo season in a file, made once for all workers and kept for the runs of a day while its sources stay the
    same; copy it before changing it."""
    cache = getattr(request.config, "cache", None)
    folder = cache.mkdir("demo") if cache else tmp_path_factory.getbasetemp().parent
    now = datetime.now().astimezone()
    file: Path = folder / f"{now:%Y-%m-%d}-{_hash_of_sources()}.db"
    with (folder / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not file.exists():
            for old in folder.glob("*.db*"):
                old.unlink()
            making = file.with_suffix(".making.db")
            store = open_store(making)
            with store.writing() as session:
                demo.fill(session, now)
            store.close()
            making.rename(file)
    return file


def _hash_of_sources() -> str:
    found = hashlib.sha256()
    for source in sorted(Path(waldhorn.__file__).parent.rglob("*.py")):
        found.update(source.read_bytes())
    return found.hexdigest()[:16]


@pytest.fixture
def demo_store(demo_file: Path, tmp_path: Path) -> Iterator[Store]:
    """A copy of the demo season."""
    opened = open_store(Path(shutil.copy(demo_file, tmp_path / "demo.db")))
    yield opened
    opened.close()


FEW = ("VS-01", "VS-02", "VS-04", "VS-07", "VS-11", "VS-24")


@pytest.fixture(scope="session")
def few_file(demo_file: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Six motors of the demo season, with all that belongs to them: for tests that write or read a whole store."""
    file = Path(shutil.copy(demo_file, tmp_path_factory.mktemp("few") / "few.db"))
    gone = f"SELECT id FROM motor WHERE tag NOT IN {FEW}"
    checks = f"SELECT id FROM bench_check WHERE motor_id IN ({gone})"
    with closing(sqlite3.connect(file)) as store, store:
        tables = [name for (name,) in store.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        columns = {name: {row[1] for row in store.execute(f"PRAGMA table_info({name})")} for name in tables}
        for column, theirs in (("check_id", checks), ("motor_id", gone)):
            for name in tables:
                if column in columns[name]:
                    store.execute(f"DELETE FROM {name} WHERE {column} IN ({theirs})")
        store.execute(f"DELETE FROM motor WHERE id IN ({gone})")
        for of, name in (
            ("motor", "motor_revision"),
            ("bench_check", "check_revision"),
            ("reading", "reading_revision"),
        ):
            store.execute(f"DELETE FROM {name} WHERE of_id NOT IN (SELECT id FROM {of})")
    return file


@pytest.fixture
def few_store(few_file: Path, tmp_path: Path) -> Iterator[Store]:
    """A copy of these."""
    opened = open_store(Path(shutil.copy(few_file, tmp_path / "few.db")))
    yield opened
    opened.close()
