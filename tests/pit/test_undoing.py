"""Undo marks and never deletes: an import taken back leaves what others wrote, and an undo names its act."""

from datetime import timedelta

import pytest
from sqlalchemy import func, select

from made import BY, NOW
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.exchange.staging import import_staged
from waldhorn.pit.bench import checks, signing, undoing
from waldhorn.pit.bench.context import load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.files import bringing_in
from waldhorn.pit.judging import judging
from waldhorn.pit.motors import facts as pit_motors
from waldhorn.store import changes, motors, readings
from waldhorn.store import imports as brought
from waldhorn.store.models import CheckRow, EventRow, MotorRow, ReadingRow

MOTORS = "tag,model\nA-1,Skerry 36\nA-2,Skerry 36\n"
HEAD = "motor,check,at,measure,value,run,throttle_pct,rig\n"
FIRST = HEAD + "A-1,may,2026-05-02T10:00:00+02:00,supply_volts,7.4,1,100,bench\n"
SECOND = HEAD + "A-1,may,2026-05-02T10:01:00+02:00,no_load_current,2.1,1,100,bench\n"
EVENTS = "motor,at,event\nA-1,2026-05-03T10:00:00+02:00,crash\n"
FINDINGS = "motor,check,at,finding,item,state\nA-1,may,2026-05-02T10:02:00+02:00,inspection,shaft,bad\n"


@pytest.fixture
def bring(store, tmp_path):
    """Bring tables in as one act; returns the act's id."""

    def one(name, *tables):
        files = []
        for place, table in enumerate(tables):
            files.append(tmp_path / f"{name}-{place}.csv")
            files[-1].write_text(table)
        outcome = import_staged(store, BY, files, lambda *_: None, skip_bad=False, dry_run=False, what=name)
        assert not outcome.rejected, [r.sentences() for r in outcome.rejected]
        with store.reading() as session:
            return next(a.id for a in brought.changes_of_bringing_in(session) if a.detail == name)

    return one


def take_back(store, change_id):
    with store.writing() as session:
        bringing_in.undo(session, change_id, NOW)
    judging.settle_apart(store, NOW)


def standing(store):
    """What stands: tags, and values by tag."""
    with store.reading() as session:
        found = {
            h.motor.tag: [r.value for c in h.checks for r in c.readings] for h in readings.histories(session).values()
        }
        assert sorted(found) == motors.all_tags(session)
        return found


def rows(store):
    with store.reading() as session:
        models = (MotorRow.__table__, CheckRow, ReadingRow, EventRow)
        return [session.scalar(select(func.count()).select_from(model)) for model in models]


def test_what_a_second_import_added_to_a_check_of_the_first_stays(store, bring):
    first = bring("first", MOTORS, FIRST, EVENTS)
    second = bring("second", SECOND)
    before = rows(store)
    take_back(store, first)
    assert standing(store) == {"A-1": [2.1]}
    assert rows(store) == before  # nothing is deleted
    with store.reading() as session:
        assert motors.events_of(session) == []
    take_back(store, second)
    assert standing(store) == {}
    assert rows(store) == before


def test_an_import_is_taken_back_with_a_reading_that_was_set_aside(store, bring):
    change_id = bring("first", MOTORS, FIRST)
    with store.writing() as session:
        row = session.scalar(select(ReadingRow))
        motor_id = session.get(CheckRow, row.check_id).motor_id
        aside = changes.record(session, changes.ChangeKind.ASIDE, NOW, motor_id, row.check_id)
        changes.revise(session, aside, [(row, {"accepted": False, "aside_reason": "the clip slipped"})])
    take_back(store, change_id)
    assert standing(store) == {}


def test_what_a_person_wrote_of_a_motor_that_came_keeps_it_on_the_rack(store, bring):
    change_id = bring("first", MOTORS, FIRST)
    with store.writing() as session:
        pit_motors.add_event(session, motors.find(session, "A-1"), {"event": "crash"}, NOW)
    take_back(store, change_id)
    assert standing(store) == {"A-1": []}


def test_taken_back_it_comes_again_whole(store, bring):
    for name in ("first", "again", "once more"):
        change_id = bring(name, MOTORS, FIRST, EVENTS, FINDINGS)
        assert standing(store) == {"A-1": [7.4], "A-2": []}
        with store.reading() as session:
            history = readings.history(session, motors.find(session, "A-1").id)
        assert [f.item for f in history.inspected] == ["shaft"]
        assert len(history.events) == 1
        take_back(store, change_id)
        assert standing(store) == {}


def test_an_import_does_not_bring_back_a_motor_that_was_undone_meanwhile(store, bring, tmp_path, monkeypatch):
    first = bring("first", MOTORS, FIRST)
    file = tmp_path / "late.csv"
    file.write_text(SECOND)

    def undone_meanwhile(name, done, of):
        with store.reading() as session:
            if any(a.id == first for a in brought.changes_of_bringing_in(session)):
                take_back(store, first)

    outcome = import_staged(store, BY, [file], undone_meanwhile, skip_bad=False, dry_run=False, what="late")
    assert [r.sentences()[0].split(": ", 1)[1] for r in outcome.rejected] == [
        "motor: no motor “A-1” in the store or in these files"
    ]
    assert standing(store) == {}


def test_taking_in_is_undone_and_the_tag_is_free_again(session):
    motor_id = pit_motors.add(session, Motor("VS-01"), NOW)
    assert undoing.undo(session, motor_id, NOW) == "VS-01 taken in"
    assert motors.find(session, "VS-01") is None
    assert motors.all_tags(session) == []
    assert pit_motors.add(session, Motor("vs-01"), NOW) != motor_id
    assert motors.all_tags(session) == ["vs-01"]


def test_a_motor_of_which_more_is_known_is_not_undone(session):
    motor_id = pit_motors.add(session, Motor("VS-01"), NOW)
    readings.check_ids(session, [(motor_id, "file", NOW, readings.Conditions())])
    with pytest.raises(InputError, match="more is known of this motor"):
        undoing.undo(session, motor_id, NOW)


def test_an_undo_names_its_act_and_pressed_twice_undoes_one(session):
    motor_id = pit_motors.add(session, Motor("VS-01"), NOW)
    row = motors.find(session, "VS-01")
    pit_motors.add_event(session, row, {"event": "crash"}, NOW)
    pit_motors.add_event(session, row, {"event": "dunked"}, NOW)
    shown = changes.last(session, motor_id).id
    assert undoing.undo(session, motor_id, NOW, shown) == "dunked logged"
    with pytest.raises(InputError, match="undone already"):
        undoing.undo(session, motor_id, NOW, shown)
    assert [e.event for _, e in motors.events_of(session)] == ["crash"]


def test_an_act_is_undone_though_others_changed_the_same_row_after_it(session):
    motor_id = pit_motors.add(session, Motor("VS-01"), NOW)
    row = motors.find(session, "VS-01")
    for facts in ({"mass_g": "250"}, {"mass_g": "250", "label_kv": "3000"}, {"mass_g": "250", "label_kv": "3100"}):
        pit_motors.amend(session, row, {"tag": "VS-01", **facts}, NOW)
    third, second, first = changes.of_motor(session, motor_id, 3)

    def stands():
        motor = motors.to_motor(motors.find(session, "VS-01"))
        return motor.mass_g, motor.label_kv

    undoing.undo(session, motor_id, NOW, first.id)
    assert stands() == (None, 3100)
    undoing.undo(session, motor_id, NOW, second.id)
    assert stands() == (None, 3100)
    undoing.undo(session, motor_id, NOW, third.id)
    assert stands() == (None, None)


def test_what_others_stand_on_is_not_undone(session):
    motor_id = pit_motors.add(session, Motor("VS-01"), NOW)
    row = motors.find(session, "VS-01")
    check = checks.open_check(session, row, NOW)
    opened = changes.last(session, motor_id).id
    ctx = load(session, check.id, NOW)
    checks.take_step(session, ctx, STEPS["setup"], {"rig": "bench", "method": "fixed-volt"})
    with pytest.raises(InputError, match="something was done in this check"):
        undoing.undo(session, motor_id, NOW, opened)
    signing.hang_back(session, load(session, check.id, NOW))
    hung = changes.last(session, motor_id).id
    checks.open_check(session, row, NOW + timedelta(hours=1))
    with pytest.raises(InputError, match="another check was opened since"):
        undoing.undo(session, motor_id, NOW, hung)
    other = pit_motors.add(session, Motor("VS-02"), NOW)
    with pytest.raises(InputError, match="nothing to undo on this motor"):
        undoing.undo(session, other, NOW, hung)


CLOSED_ACTS = {
    "take": lambda s, ctx: checks.take_step(s, ctx, STEPS["setup"], {"rig": "bench", "method": "fixed-volt"}),
    "skip": lambda s, ctx: checks.skip(s, ctx, STEPS["noise"]),
    "stop": lambda s, ctx: checks.stop(s, ctx, "called"),
    "plan": lambda s, ctx: checks.change_plan(s, ctx, "full"),
    "overrule": lambda s, ctx: checks.overrule(s, ctx, "shaft", "looked"),
}


@pytest.mark.parametrize("what", CLOSED_ACTS)
def test_a_closed_check_takes_nothing_and_says_how_to_open_a_new_one(session, what):
    motor_id = pit_motors.add(session, Motor("VS-01"), NOW)
    check = checks.open_check(session, motors.get(session, motor_id), NOW)
    check.open = False
    session.flush()
    before = changes.last(session, motor_id).id
    with pytest.raises(ValueError, match="open a new one"):
        CLOSED_ACTS[what](session, load(session, check.id, NOW + timedelta(minutes=1)))
    assert changes.last(session, motor_id).id == before
