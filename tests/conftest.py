"""What all tests share: a store of their own, and the demo season."""

import fcntl
import os
import shutil
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from waldhorn.pit import demo
from waldhorn.store.engine import Store, open_store

# How long an example takes says more about the machine than about Waldhorn.
settings.register_profile("waldhorn", deadline=None, suppress_health_check=list(HealthCheck), max_examples=40)
settings.load_profile("waldhorn")


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
def demo_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo season in a file, made once for all workers; copy it before changing it."""
    worker = os.environ.get("PYTEST_XDIST_WORKER")
    folder = tmp_path_factory.getbasetemp().parent if worker else tmp_path_factory.mktemp("demo")
    file = folder / "demo.db"
    with (folder / "demo.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (folder / "demo.made").exists():
            store = open_store(file)
            with store.writing() as session:
                demo.fill(session, datetime.now().astimezone())
            store.close()
            (folder / "demo.made").touch()
    return file


@pytest.fixture
def demo_store(demo_file: Path, tmp_path: Path) -> Iterator[Store]:
    """A copy of the demo season."""
    opened = open_store(Path(shutil.copy(demo_file, tmp_path / "demo.db")))
    yield opened
    opened.close()
