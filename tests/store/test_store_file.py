"""The file of a store: deleted or replaced under the running program, or one that may only be read."""

import os
import shutil
import subprocess
import sys
from contextlib import closing
from datetime import timedelta
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from made import NOW
from waldhorn.cli import app
from waldhorn.core.base.errors import StoreDown
from waldhorn.core.base.history import Motor
from waldhorn.store import backups, motors
from waldhorn.store.engine import copy_to, open_store
from waldhorn.web.app import create_app


def delete(file):
    file.unlink()


def replace(file):
    shutil.copy(file, file.with_name("other.db"))
    file.with_name("other.db").rename(file)


@pytest.mark.parametrize(
    ("happens", "says"),
    [
        (delete, "pit.db was deleted or moved while Waldhorn runs"),
        (replace, "another file was put in the place of"),
    ],
)
def test_a_store_whose_file_is_gone_takes_nothing_and_says_so_on_every_page(store, happens, says):
    file = store.file.path
    with store.writing() as session:
        motors.add(session, [Motor("VS-01")])
    assert backups.keep_if_due(store, NOW) is not None
    good = sorted(backups.folder_of(store).iterdir())
    with TestClient(create_app(store), base_url="http://127.0.0.1") as client:
        happens(file)
        with pytest.raises(StoreDown, match=says), store.writing():
            raise AssertionError("nothing is written")
        for path in ("/", "/motors/VS-01", "/settings", "/help"):
            assert says in client.get(path).text
        form = {"csrf_token": client.cookies["waldhorn_form"], "event": "crash"}
        refused = client.post("/motors/VS-01/events", data=form)
        assert (refused.status_code, says in refused.text) == (507, True)
    assert backups.keep_if_due(store, NOW + timedelta(days=1)) is None
    with pytest.raises(StoreDown):
        backups.back_up(store, NOW + timedelta(days=1))
    assert sorted(backups.folder_of(store).iterdir()) == good
    assert file.exists() == (happens is replace)  # no empty store was made in its place


@pytest.fixture
def read_only(few_store, tmp_path, monkeypatch):
    """A store in a folder that may not be written to."""
    few_store.close()
    folder = tmp_path / "shelf"
    folder.mkdir()
    file = Path(shutil.copy(few_store.file.path, folder / "pit.db"))
    may = os.access

    def access(path, mode):
        return not (mode & os.W_OK and "shelf" in str(path)) and may(path, mode)

    monkeypatch.setattr(os, "access", access)
    return file


@pytest.mark.long
def test_a_store_that_may_only_be_read_is_judged_and_taken_out(read_only, tmp_path):
    def inside(*told):
        return CliRunner().invoke(app, list(map(str, told)))

    out, before = tmp_path / "out", read_only.read_bytes()
    judged = inside("judge", "VS-01", "--db", read_only)
    assert (judged.exit_code, judged.output[:6]) == (0, "VS-01:")
    assert inside("export", out / "tables", "--db", read_only).exit_code == 0
    assert inside("backup", out / "whole.db", "--db", read_only).exit_code == 0
    with closing(open_store(out / "whole.db")) as copy, copy.reading() as session:
        assert len(motors.all_tags(session)) == 6
    refused = inside("import", out / "tables" / "motors.csv", "--db", read_only).exception
    assert "may not be written by this program: it can only be looked at" in str(refused)
    assert [f.name for f in read_only.parent.iterdir()] == ["pit.db"]
    assert read_only.read_bytes() == before


def test_the_pages_of_a_store_that_may_only_be_read_say_so(few_store):
    object.__setattr__(few_store.file, "read_only", True)
    with TestClient(create_app(few_store), base_url="http://127.0.0.1") as client:
        page = client.get("/motors/VS-01")
        assert (page.status_code, "it can only be looked at" in page.text) == (200, True)


def test_what_a_killed_program_left_half_written_goes_with_the_next_copy(store, tmp_path):
    with subprocess.Popen([sys.executable, "-c", ""]) as over:
        pass
    target = tmp_path / "copy.db"
    dead, journal = (tmp_path / f".copy.db.{over.pid}.part{tail}" for tail in ("", "-journal"))
    other = tmp_path / f".other.db.{over.pid}.part"
    living = tmp_path / f".copy.db.{os.getppid()}.part"
    for left in (dead, journal, living, other):
        left.touch()
    copy_to(store, target)
    assert sorted(f.name for f in tmp_path.glob(".*.part*")) == sorted([living.name, other.name])
    backups.folder_of(store).mkdir()
    torn = backups.folder_of(store) / f".20260101T000000Z.db.{over.pid}.part"
    torn.touch()
    backups.back_up(store, NOW)
    assert not torn.exists()
