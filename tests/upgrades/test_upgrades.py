"""Stores and files of earlier versions open, are judged, and hold every row that stood in them.

`store.db.xz` of each folder was written by the commands of that version, `backup.json.xz`, a motor's own file and
`export.zip` beside it out of that store. CONTRIBUTING says how a release adds its own.
"""

import json
import lzma
import sqlite3
import zipfile
from collections import Counter
from contextlib import closing
from pathlib import Path

import pytest
from alembic import command

from made import START
from waldhorn.cli import opened
from waldhorn.core.base.errors import InputError
from waldhorn.exchange.documents import take_in
from waldhorn.exchange.importing import import_tables
from waldhorn.pit.judging import judging
from waldhorn.store import cached_verdicts, limits_and_prices, motors
from waldhorn.store.engine import open_store
from waldhorn.store.migrations import HEAD
from waldhorn.store.migrations.upgrade import config
from waldhorn.store.models import BACKED_UP, WORKED_OUT

HERE = Path(__file__).parent
STORES = sorted(f.parent.name for f in HERE.glob("*/store.db.xz"))
RELEASES = sorted(f.parent.name for f in HERE.glob("*/backup.json.xz"))
# What a later edition calls or keeps otherwise: the column stands apart, and is looked at by itself.
FORMER = {"change": "act", "change_id": "act_id"}  # tables and columns that were called otherwise
MOVED = {("reading", "measure"), ("reading", "note"), ("class_limits", "limits"), ("use_weights", "weights")}
NOW = START.replace(year=2027)


def unpacked(version, name, folder):
    file = folder / name
    file.write_bytes(lzma.decompress((HERE / version / f"{name}.xz").read_bytes()))
    return file


def rows_of(file, columns):
    """What stands in a store: by table, its rows as these columns, as often as each stands there."""
    found = {}
    with closing(sqlite3.connect(file)) as driver:
        for table, names in columns.items():
            called, there = stored_as(driver, table)
            wanted = [n if n in there else FORMER[n] for n in names]
            found[table] = Counter(driver.execute(f"SELECT {', '.join(wanted)} FROM {called}"))
    return found


def stored_as(driver, table):
    """What a table of today is called in a store, and its columns there."""
    for called in (table, FORMER.get(table, table)):
        if there := [row[1] for row in driver.execute(f"PRAGMA table_info({called})")]:
            return called, there
    return table, []


def columns_of(file):
    """The columns of what cannot be worked out again, by table, but for those that moved."""
    with closing(sqlite3.connect(file)) as driver:
        found = {}
        for model in BACKED_UP:
            table = model.__tablename__
            _, names = stored_as(driver, table)
            today = {former: name for name, former in FORMER.items()}
            found[table] = [today.get(n, n) for n in names if (table, n) not in MOVED]
    return {table: names for table, names in found.items() if names}


@pytest.fixture(params=STORES)
def earlier(request, tmp_path):
    """A store as an earlier version left it."""
    return unpacked(request.param, "store.db", tmp_path)


def judged_as_kept(store):
    """Every motor is judged, and the rack keeps what judging it says."""
    with store.reading() as session:
        said = {i: j.verdict for i, j in judging.judge_all(session, NOW).items()}
        kept = cached_verdicts.tool_verdicts(session, list(said))
        assert set(said) == set(motors.ids_by_tag(session).values())
    assert kept == said
    return said


def test_a_store_opens_whole_and_is_judged(earlier):
    columns = columns_of(earlier)
    before = rows_of(earlier, columns)
    assert before["motor"].total() == 4
    store = opened.opened(earlier)
    judged_as_kept(store)
    store.close()
    assert rows_of(earlier, columns) == before
    assert [f.name for f in earlier.parent.iterdir()] == [earlier.name]  # no copy is left, nothing waits in a log


def test_limits_keep_their_quantity_under_its_name_of_today(earlier):
    with closing(opened.opened(earlier)) as store, store.reading() as session:
        assert limits_and_prices.limits(session, NOW)["one-design"]["speed_ripple"].watch == 0.4


def test_gaps_that_stood_in_notes_are_a_measure(tmp_path):
    file = unpacked("before-0007", "store.db", tmp_path)
    opened.opened(file).close()
    with closing(sqlite3.connect(file)) as driver:
        found = driver.execute("SELECT measure, note, count(*) FROM reading WHERE measure LIKE 'gap%' GROUP BY 1, 2")
        assert found.fetchall() == [("gap", "", 8), ("gap_turned", "", 4)]


def test_a_store_that_version_04_brought_half_over_opens(tmp_path):
    file = unpacked("0.3", "store.db", tmp_path)
    with closing(open_store(file)) as store, store.engine.begin() as connection:
        command.downgrade(config(connection), "0012")
    with closing(sqlite3.connect(file)) as driver, driver:  # what 0009 left there
        [(check,)] = driver.execute("SELECT min(id) FROM bench_check")
        [(motor,)] = driver.execute("SELECT min(id) FROM motor")
        spread = f"('{check}', 'stand', 'steadiness', '{motor}', '2026-06-01', 1.0, 9, 1.0, 9, 2.0)"
        driver.execute(
            "INSERT INTO rig_spread (check_id, rig, quantity, motor_id, at, squares, pairs, visit_squares, visit_pairs,"
            f" visit_runs) VALUES {spread}"
        )
        own = f"('{motor}', 'steadiness', 0.3, 2, '{{}}', '2026-06-01T10:00:00+00:00')"
        driver.execute(f"INSERT INTO own_baseline (motor_id, quantity, value, n, conditions, at) VALUES {own}")
    judged_as_kept(opened.opened(file))


def test_what_is_worked_out_is_worked_out_alike_from_any_version(tmp_path):
    answers = []
    for version in ("0.3", "before-0010"):
        folder = tmp_path / version
        folder.mkdir()
        with closing(opened.opened(unpacked(version, "store.db", folder))) as store, store.reading() as session:
            tags = {i: tag for tag, i in motors.ids_by_tag(session).items()}
            answers.append({tags[i]: j.verdict for i, j in judging.judge_all(session, NOW).items()})
    assert answers[0] == answers[1]


def test_a_migration_that_fails_leaves_the_store_as_it_was_and_a_copy(tmp_path, monkeypatch):
    file = unpacked("0.3", "store.db", tmp_path)
    with closing(sqlite3.connect(file)) as driver:
        before = list(driver.iterdump())

    def fails(_session):
        raise KeyError("steadiness")

    monkeypatch.setattr("waldhorn.store.motors.ensure_standings", fails)  # after all tables were changed
    copy = file.with_name(f"store.before-{HEAD}.db")
    with pytest.raises(InputError, match=f"it is as it was, and a copy of it is {copy.name}"):
        open_store(file)
    for one in (file, copy):
        with closing(sqlite3.connect(one)) as driver:
            assert list(driver.iterdump()) == before
    monkeypatch.undo()
    opened.opened(file).close()
    assert not copy.exists()


def test_a_store_that_cannot_be_judged_keeps_its_copy_and_says_so(tmp_path, monkeypatch, capsys):
    file = unpacked("0.3", "store.db", tmp_path)
    copy = file.with_name(f"store.before-{HEAD}.db")

    def fails(*_args):
        raise KeyError("steadiness")

    monkeypatch.setattr(judging, "settle_anew", fails)
    with pytest.raises(InputError, match=f"{copy.name} holds it as it was"):
        opened.opened(file)
    assert str(copy) in capsys.readouterr().err
    monkeypatch.undo()
    opened.opened(file).close()
    assert not copy.exists()


def test_a_store_of_a_newer_version_is_refused_with_both(tmp_path):
    file = unpacked("0.4", "store.db", tmp_path)
    with closing(sqlite3.connect(file)) as driver, driver:
        driver.execute("UPDATE alembic_version SET version_num = '0099'")
    with pytest.raises(InputError, match=f"its tables are of edition 0099, this one knows those up to {HEAD}"):
        open_store(file)


@pytest.mark.parametrize("version", RELEASES)
def test_a_backup_becomes_the_store_it_was_made_of(version, tmp_path):
    with closing(open_store(tmp_path / "fresh.db")) as fresh:
        with fresh.writing() as session:
            assert take_in(session, unpacked(version, "backup.json", tmp_path), NOW).conflicts == []
        judging.settle_apart(fresh, NOW)
        judged_as_kept(fresh)
    store = unpacked(version, "store.db", tmp_path)
    opened.opened(store).close()
    columns = {t: n for t, n in columns_of(store).items() if t != "pit"}
    assert rows_of(tmp_path / "fresh.db", columns) == rows_of(store, columns)
    with closing(open_store(tmp_path / "fresh.db")) as again, again.reading() as session:
        assert limits_and_prices.limits(session, NOW)["one-design"]["speed_ripple"].watch == 0.4


@pytest.mark.parametrize("version", RELEASES)
def test_a_motor_comes_in_its_own_file_with_all_that_is_known_of_it(version, store, tmp_path):
    file = unpacked(version, "VS-09.waldhorn.json", tmp_path)
    said = json.loads(file.read_text(encoding="utf-8"))
    with store.writing() as session:
        done = take_in(session, file, NOW)
    judging.settle_apart(store, NOW)
    judged_as_kept(store)
    counts = {
        "motor": 1,
        "bench_check": len(said["checks"]),
        "reading": sum(len(c["readings"]) for c in said["checks"]),
        "event": len(said["events"]),
        "signed_verdict": len(said["signed"]),
    }
    assert counts["reading"] > 20
    assert counts["signed_verdict"] == 1
    assert {table: done.stored[table] for table in counts} == counts


@pytest.mark.parametrize("version", RELEASES)
def test_an_export_comes_in_row_by_row(version, store, tmp_path):
    with zipfile.ZipFile(HERE / version / "export.zip") as packed:
        packed.extractall(tmp_path)
    tables = sorted(tmp_path.glob("*.csv"))
    rows = {f.stem: len(f.read_text(encoding="utf-8").splitlines()) - 1 for f in tables}
    with store.writing() as session:
        outcome = import_tables(session, tables, lambda *_: None)
    assert {table: n for table, n in outcome.stored.items() if n} == rows
    assert outcome.rejected == []
    judging.settle_apart(store, NOW)
    judged_as_kept(store)


@pytest.mark.parametrize("mark", ["waldhorn_backup", "waldhorn_motor"])
def test_a_file_of_a_newer_program_is_refused_with_both_versions(mark, store, tmp_path):
    file = tmp_path / "newer.json"
    version = {"waldhorn_backup": 3, "waldhorn_motor": 1}[mark]
    for said in ({mark: version, "written_by": "7.2.0"}, {mark: 9, "written_by": "7.2.0"}):
        file.write_text(json.dumps(said))
        refused = pytest.raises(InputError, match=r"was written by Waldhorn 7\.2\.0 .* this is Waldhorn 0\.")
        with refused, store.writing() as session:
            take_in(session, file, NOW)


def test_the_worked_out_tables_are_those_of_their_module():
    here = {m.class_.__tablename__ for m in BACKED_UP[0].registry.mappers if "worked_out" in m.class_.__module__}
    assert {m.__tablename__ for m in WORKED_OUT} == here - {"store_state"}


def test_the_fixtures_stay_small():
    assert sum(f.stat().st_size for f in HERE.rglob("*.xz")) < 300_000
