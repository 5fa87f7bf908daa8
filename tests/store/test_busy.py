"""Many at once: turns of writers, a busy store, a full disk, and clocks that go back."""

import sqlite3
import threading
import time
from contextlib import closing
from datetime import datetime, timedelta

import pytest

from made import NOW
from waldhorn.core.base.conditions import NO_CONDITIONS
from waldhorn.core.base.errors import Busy
from waldhorn.core.base.history import Motor, Reading
from waldhorn.pit.judging import judging
from waldhorn.pit.writing import Writing, changing
from waldhorn.store import backups, cached_verdicts, changes, models, motors, readings
from waldhorn.store.engine import open_store
from waldhorn.store.models import ChangeKind
from waldhorn.store.writer_queue import WriterQueue
from waldhorn.web.common import pages


def test_writers_go_in_the_order_they_came():
    queue, order, waiting = WriterQueue(), [], threading.Barrier(2)

    def write(number):
        waiting.wait()
        with queue.turn(5):
            order.append(number)

    with queue.turn(1):
        threads = []
        for number in range(6):
            threads.append(threading.Thread(target=write, args=(number,)))
            threads[-1].start()
            waiting.wait()
            while len(queue._waiting) < number + 2:
                time.sleep(0.001)
    for thread in threads:
        thread.join()
    assert order == list(range(6))


def test_who_waits_too_long_is_told_and_holds_nobody_up():
    queue = WriterQueue()
    with queue.turn(1), pytest.raises(Busy), queue.turn(0.02):
        raise AssertionError("it was not its turn")
    with queue.turn(0.02):
        pass


def test_another_process_that_writes_makes_the_store_busy_not_broken(tmp_path):
    store = open_store(tmp_path / "pit.db", patience_s=0.05)
    with closing(sqlite3.connect(tmp_path / "pit.db")) as other:
        other.execute("BEGIN IMMEDIATE")
        with pytest.raises(Busy), store.writing():
            raise AssertionError("the lock is another's")
        with store.reading() as session:
            assert motors.all_tags(session) == []
        other.rollback()
    with store.writing() as session:
        motors.add(session, [Motor("VS-01")])
    store.close()


class LateClock:
    int = 5


def test_identifiers_rise_whatever_the_clock_does(monkeypatch):
    monkeypatch.setattr(models.base, "_last_id", models.base._last_id)  # for the tests after this one
    before = models.new_id()
    monkeypatch.setattr(models.base.uuid_utils, "uuid7", lambda: LateClock)
    assert before < models.new_id() < models.new_id()
    models.ids_after("ffffffff-0000-7000-8000-000000000000")
    assert models.new_id() > "ffffffff-0000-7000-8000-000000000000"


def test_readings_of_a_day_whose_clock_lags_are_all_stored(monkeypatch, store):
    monkeypatch.setattr(models.base, "_last_id", models.base._last_id)
    with store.writing() as session:
        [motor_id] = motors.add(session, [Motor("VS-01")])
        check = readings.check_ids(session, [(motor_id, "first", NOW, NO_CONDITIONS)])[motor_id, "first"]
        changes.record(session, ChangeKind.TAKE, NOW, motor_id, check)
    monkeypatch.setattr(models.base.uuid_utils, "uuid7", lambda: LateClock)
    file, stored = store.file.path, 0
    for start in (0, 20):  # the program is started twice, its clock behind what is stored
        monkeypatch.setattr(models.base, "_last_id", 0)
        again = open_store(file)
        with again.writing() as session:
            for value in range(start, start + 20):
                stored += readings.add(session, [(check, Reading("rpm", 1000.0 + value, NOW))])
        again.close()
    assert stored == 40


@pytest.mark.parametrize(("back", "stands"), [(timedelta(minutes=50), True), (timedelta(hours=2), False)])
def test_a_clock_set_back_a_little_stands_still(monkeypatch, back, stands):
    class Clock(datetime):
        @classmethod
        def now(cls, tz=None):
            return start - back

    start = datetime(2026, 10, 25, 3, 0).astimezone()
    monkeypatch.setattr(pages, "_latest", start)
    monkeypatch.setattr(pages, "datetime", Clock)
    assert pages.now() == (start if stands else start - back)


def test_what_changes_while_it_is_judged_stays_stale(demo_store, monkeypatch):
    now = datetime.now().astimezone()
    with demo_store.writing() as session:
        one, other = (motors.find(session, tag).id for tag in ("VS-01", "VS-02"))
        motors.touch(session, [one, other])
    judged = judging._cached

    def meanwhile(session, fresh, at):
        with demo_store.writing() as writing:
            motors.touch(writing, [other])
        return judged(session, fresh, at)

    monkeypatch.setattr(judging, "_cached", meanwhile)
    judging.settle_apart(demo_store, now)
    with demo_store.reading() as session:
        assert cached_verdicts.stale_ids(session, judging.JUDGE_VERSION) == [other]
    monkeypatch.undo()
    with changing(demo_store, Writing(now)) as session:
        motors.touch(session, [one])
    with demo_store.reading() as session:
        assert cached_verdicts.stale_ids(session, judging.JUDGE_VERSION) == [other]  # not this one's to judge
    judging.settle_apart(demo_store, now)
    with demo_store.reading() as session:
        assert cached_verdicts.stale_ids(session, judging.JUDGE_VERSION) == []


@pytest.mark.long
def test_judged_apart_is_judged_the_same(demo_store, tmp_path):
    now = datetime.now().astimezone()

    def all_standings(session):
        columns = [c for c in models.CachedVerdictRow.__table__.columns if c.name not in ("touched", "judged")]
        own = session.query(*models.OwnBaselineRow.__table__.columns[1:]).all()
        return session.query(*columns).order_by(models.CachedVerdictRow.motor_id).all(), sorted(map(str, own))

    with demo_store.writing() as session:
        motors.touch(session, None)
        judging.settle(session, now)
        together = all_standings(session)
        motors.touch(session, None)
    judging.settle_apart(demo_store, now)
    with demo_store.reading() as session:
        assert all_standings(session) == together


def test_what_is_committed_is_done_though_others_hold_the_lock_while_it_is_judged(demo_store, monkeypatch):
    now, settle, tries = datetime.now().astimezone(), judging.settle_apart, []

    def busy_at_first(*given, **more):
        tries.append(given)
        if len(tries) < 3:
            raise Busy
        settle(*given, **more)

    monkeypatch.setattr("waldhorn.pit.writing.settle_apart", busy_at_first)
    with changing(demo_store, Writing(now)) as session:
        motors.touch(session, [motors.find(session, "VS-12").id])
    for thread in threading.enumerate():
        if thread.daemon and "_make_up" in thread.name:
            thread.join(20)
    with demo_store.reading() as session:
        assert cached_verdicts.stale_ids(session, judging.JUDGE_VERSION) == []
    assert len(tries) == 3


def test_a_backup_is_whole_or_not_there_and_a_torn_one_is_none(tmp_path, monkeypatch):
    store = open_store(tmp_path / "pit.db")
    now = datetime.now().astimezone()
    with store.writing() as session:
        motors.add(session, [Motor("VS-01")])
    first = backups.back_up(store, now - timedelta(days=1))
    torn = first.file.with_name(f"{now:%Y%m%dT%H%M%SZ}.db")
    with store.writing() as session:
        motors.add(session, [Motor("VS-02")])
    torn.write_bytes(first.file.read_bytes()[:-5000])  # as an earlier edition left it when it was killed
    assert [c.file for c in backups.copies(store)] == [first.file]
    assert backups.keep_if_due(store, now) is not None
    before = {f.name for f in first.file.parent.iterdir()}

    def broken(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("waldhorn.store.engine.os.fsync", broken)
    with pytest.raises(OSError, match="No space"):
        backups.back_up(store, now + timedelta(hours=1))
    assert {f.name for f in first.file.parent.iterdir()} == before
    assert first.file.parent.stat().st_mode & 0o077 == 0
    store.close()
