"""The store: its pragmas, its migrations, its transactions."""

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import inspect, text
from sqlalchemy.exc import IntegrityError

from made import NOW
from waldhorn.core.base.conditions import NO_CONDITIONS
from waldhorn.core.base.history import Event, Motor, Reading
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.store import drafts, motors, readings
from waldhorn.store.engine import open_store
from waldhorn.store.migrations import HEAD
from waldhorn.store.migrations.upgrade import config, downgrade
from waldhorn.store.models import Base, new_id


def test_a_store_is_durable_and_checks_its_references(store):
    with store.reading() as session:
        pragmas = {p: session.scalar(text(f"PRAGMA {p}")) for p in ("journal_mode", "foreign_keys", "synchronous")}
    assert pragmas == {"journal_mode": "wal", "foreign_keys": 1, "synchronous": 2}


def test_the_migrations_make_exactly_the_tables_of_the_models(store):
    with store.engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": False})
        assert compare_metadata(context, Base.metadata) == []
        assert "reading" in inspect(connection).get_table_names()


def test_opening_twice_keeps_what_is_there(store, tmp_path):
    with store.writing() as session:
        motors.add(session, [Motor("VS-01")])
    again = open_store(tmp_path / "pit.db")
    with again.reading() as session:
        assert motors.all_tags(session) == ["VS-01"]
    again.close()


def test_a_block_that_fails_leaves_nothing(store):
    with pytest.raises(RuntimeError, match="half way"), store.writing() as session:  # noqa: PT012 -- the block is what fails
        motors.add(session, [Motor("VS-01")])
        raise RuntimeError("half way")
    with store.reading() as session:
        assert motors.all_tags(session) == []


def test_a_tag_is_unique_in_any_case(store):
    with store.writing() as session:
        motors.add(session, [Motor("VS-01")])
    with pytest.raises(IntegrityError), store.writing() as session:
        motors.add(session, [Motor(" vs-01 ")])


def test_equal_readings_are_told_apart_by_order_and_stored_once(store):
    peak = Reading("detent_peak", 18.4, NOW)
    with store.writing() as session:
        [motor_id] = motors.add(session, [Motor("VS-01")])
    for stored in (2, 0):
        with store.writing() as session:
            ids = readings.check_ids(session, [(motor_id, "first", NOW, NO_CONDITIONS)])
            assert readings.add(session, [(ids[motor_id, "first"], peak)] * 2) == stored
    with store.reading() as session:
        assert readings.count(session) == 2
        assert [r.value for r in readings.history(session, motor_id).checks[0].readings] == [18.4, 18.4]


def test_the_same_event_twice_is_one_event(store):
    crash = Event(EventKind.CRASH, NOW)
    with store.writing() as session:
        [motor_id] = motors.add(session, [Motor("VS-01")])
        assert motors.add_events(session, [(motor_id, crash)]) == 1
        assert motors.add_events(session, [(motor_id, crash)]) == 0


def test_an_empty_draft_is_forgotten(store):
    with store.writing() as session:
        drafts.keep_form(session, "take-in", {"tag": "VS-01"})
        assert drafts.of_form(session, "take-in") == {"tag": "VS-01"}
        drafts.keep_form(session, "take-in", {"tag": ""})
        assert drafts.of_form(session, "take-in") == {}


def test_identifiers_sort_by_the_time_they_were_made():
    made = [new_id() for _ in range(2000)]
    assert made == sorted(made)
    assert len(set(made)) == 2000


def _back_to(store, revision):
    with store.engine.execution_options(waldhorn_writes=True).begin() as connection:
        downgrade(connection, revision)


def test_gaps_of_an_older_store_that_were_read_with_the_rotor_turned_are_a_measure_of_their_own(store, tmp_path):
    with store.writing() as session:
        motors.add(session, [Motor("VS-01")])
        motor_id = motors.find(session, "VS-01").id
        check = readings.check_ids(session, [(motor_id, "gauged", NOW, NO_CONDITIONS)])[motor_id, "gauged"]
        found = [Reading("gap", 0.5, NOW, angle_deg=0.0), Reading("gap", 0.6, NOW, 2, angle_deg=0.0, note="turned")]
        readings.add(session, [(check, r) for r in found])
    _back_to(store, "0006")
    with store.writing() as session:
        session.execute(text("UPDATE reading SET measure = 'gap', note = 'turned' WHERE value = 0.6"))
    store.close()
    again = open_store(tmp_path / "pit.db")
    with again.reading() as session:
        found = session.execute(text("SELECT measure, value, note FROM reading ORDER BY value")).all()
    assert [tuple(row) for row in found] == [("gap", 0.5, ""), ("gap_turned", 0.6, "")]
    again.close()


def test_the_head_that_is_named_is_the_latest_migration(store):
    with store.engine.connect() as connection:
        assert ScriptDirectory.from_config(config(connection)).get_current_head() == HEAD
