"""A motor that is on the rack twice becomes one: nothing is lost, the double is in no list, undo takes it apart."""

import json
from contextlib import closing
from datetime import timedelta

import pytest
from alembic import command
from fastapi.testclient import TestClient

from made import BY, NOW
from waldhorn.core.base.errors import InputError, InputErrors, NotThere
from waldhorn.core.base.history import Motor
from waldhorn.exchange.backup import backup
from waldhorn.exchange.documents import take_in
from waldhorn.pit.bench import bench, checks
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.judging import judging
from waldhorn.pit.motors import book, corrections, facts, motor_page
from waldhorn.pit.motors.book import Asked
from waldhorn.pit.writing import Writing
from waldhorn.store import cached_verdicts, motors, readings
from waldhorn.store.engine import open_store
from waldhorn.store.migrations.upgrade import config
from waldhorn.web.app import create_app

OF = {"model": "Skerry 36", "machine": "Heron", "owner": "Ada", "label_kv": 3450, "poles": 4}
RUN = {"volts": "7.4", "amps": "2.2", "rpm": "25500"}


@pytest.fixture
def twice(store):
    """B-1 was checked, signed and crashed, and is the same motor as B-2."""
    with store.writing() as session:
        for tag in ("B-1", "B-2", "B-3"):
            facts.add(session, Motor(tag, **OF), NOW)
    check, _ = motor_page.open_check(store, BY, "B-1", "quick")
    for name, typed in (("setup", {"rig": "pier", "method": "fixed-volt"}), ("look", {"shaft": "ok"}), ("pull", RUN)):
        bench.carry_out(store, BY, check, name, lambda s, c, n=name, t=typed: checks.take_step(s, c, STEPS[n], t))
    bench.sign(store, BY, check, {"verdict": "watch", "reason": "listen to it", "signed_by": "Oda"})
    happen(store, "B-1", lambda s, row: facts.add_event(s, row, {"event": "crash"}, NOW))
    return store


def happen(store, tag, command):
    return motor_page.carry_out(store, BY, tag, command)


def merge(store, tag="B-1", into="b-2"):
    return happen(store, tag, lambda s, row: corrections.merge(s, row, {"same": into}, NOW))


def known(store, tag):
    """What is known of a motor: readings, findings, events, signatures."""
    found = book.look(store, tag, NOW, Asked())
    with store.reading() as session:
        motor_id = motors.find(session, tag).id
        values = sorted(r.value for _, rows in readings.book(session, motor_id) for r in rows)
        signed = [(s.verdict, s.reason) for s in cached_verdicts.all_signed(session, [motor_id])]
    return values, sorted(f.words for v in found.visits for f in v.found), [e.event for e in found.events], signed


def test_all_that_is_known_of_the_double_is_the_other_s(twice):
    before = known(twice, "B-1")
    assert before[3] == [("watch", "listen to it")]
    assert merge(twice) == "B-2"
    assert known(twice, "B-2") == before


def test_what_was_merged_away_is_in_no_list(twice):
    merge(twice)
    with TestClient(create_app(twice), base_url="http://127.0.0.1") as client:
        pages = ("/", "/rack/now", "/machines", "/machines/Heron", "/models/Skerry%2036", "/motors/B-3", "/rigs/pier")
        more = ("/compare?tags=B-2,B-3", "/paper/rack", "/identify", "/limits", "/api/v1/motors")
        for path in (*pages, *more):
            answer = client.get(path)
            assert answer.status_code == 200, path
            assert "B-1" not in answer.text, path
        gone = client.get("/motors/B-1")
        assert (gone.status_code, "B-1 was the same motor as B-2" in gone.text) == (404, True)


def test_what_is_merged_is_merged_into_nothing_again_and_takes_nothing(twice):
    merge(twice)
    with pytest.raises(NotThere, match="B-1 was the same motor as B-2"):
        merge(twice)
    with pytest.raises(InputErrors, match="B-1 is no other motor of this rack"):
        merge(twice, "B-2", "B-1")
    assert known(twice, "B-2")[3] == [("watch", "listen to it")]


def test_undo_brings_both_back_as_they_were(twice):
    before = [known(twice, tag) for tag in ("B-1", "B-2")]
    merge(twice)
    motor_page.undo(twice, BY, "B-2", "")
    assert [known(twice, tag) for tag in ("B-1", "B-2")] == before
    with twice.reading() as session:
        said = {i: j.verdict for i, j in judging.judge_all(session, NOW).items()}
        assert cached_verdicts.tool_verdicts(session, list(said)) == said
        assert len(said) == 3


def test_a_motor_does_not_come_back_under_a_tag_that_another_has(twice):
    merge(twice)
    with twice.writing() as session:
        facts.add(session, Motor("B-1"), NOW)
    with pytest.raises(InputError, match="another motor is called B-1 by now"):
        motor_page.undo(twice, BY, "B-2", "")


@pytest.mark.parametrize(("tag", "into", "says"), [("B-1", "B-1", "no other motor"), ("B-1", "", "name its double")])
def test_what_cannot_be_merged_is_refused(twice, tag, into, says):
    with pytest.raises(InputErrors, match=says):
        merge(twice, tag, into)


def test_a_motor_on_the_bench_is_hung_back_first(twice):
    motor_page.open_check(twice, Writing(NOW + timedelta(hours=1)), "B-1", "quick")
    with pytest.raises(InputErrors, match="B-1 lies on the bench: hang it back first"):
        merge(twice)


def test_what_an_earlier_version_merged_goes_out_of_sight(twice):
    merge(twice)
    file = twice.file.path
    with twice.engine.begin() as connection:
        command.downgrade(config(connection), "0012")  # there the double stayed on the rack, put away
    twice.close()
    with closing(open_store(file)) as again:
        with again.reading() as session:
            assert motors.all_tags(session) == ["B-2", "B-3"]
        motor_page.undo(again, BY, "B-2", "")
        with again.reading() as session:
            assert motors.all_tags(session) == ["B-1", "B-2", "B-3"]


def test_a_backup_of_what_was_merged_comes_back_and_comes_apart_too(twice, tmp_path):
    before = [known(twice, tag) for tag in ("B-1", "B-2")]
    merge(twice)
    after = known(twice, "B-2")
    with twice.reading() as session:
        (tmp_path / "backup.json").write_text(json.dumps(backup(session)))
    with closing(open_store(tmp_path / "fresh.db")) as fresh:
        with fresh.writing() as session:
            take_in(session, tmp_path / "backup.json", NOW)
        judging.settle_apart(fresh, NOW)
        assert known(fresh, "B-2") == after
        motor_page.undo(fresh, BY, "B-2", "")
        assert [known(fresh, tag) for tag in ("B-1", "B-2")] == before
