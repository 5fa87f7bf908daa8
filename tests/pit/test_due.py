"""When a motor is due: counted in days and runs from what was signed, never from midnight of the same day."""

from datetime import timedelta

import pytest

from made import day, full
from waldhorn.core.base.history import Event, Inspected, Motor
from waldhorn.core.base.vocabulary import EventKind, Look
from waldhorn.pit.judging import judging
from waldhorn.pit.motors import rack
from waldhorn.store import cached_verdicts, findings, motors, readings
from waldhorn.store.models import SignedRow

CHECKED = day(30)


@pytest.fixture
def hung(session):
    """Puts a motor on the rack with three checks, and says how it hangs there later."""

    def put(tag="D-1", signed="", events=(), looked=(), **changed):
        [motor_id] = motors.add(session, [Motor(tag, label_kv=3450, poles=4, poles_known_by="counted")])
        for check in (full(0), full(14), full(30, **changed)):
            ids = readings.check_ids(session, [(motor_id, check.id, check.at, check.readings[0].conditions)])
            readings.add(session, ((ids[motor_id, check.id], r) for r in check.readings))
        motors.add_events(session, [(motor_id, e) for e in events])
        if looked:
            findings.add(session, [Inspected(ids[motor_id, check.id], *one) for one in looked], None)
        if signed:
            at = CHECKED + timedelta(minutes=10)
            row = SignedRow(
                motor_id=motor_id, check_id=ids[motor_id, check.id], change_id=None, at=at, verdict=signed,
                tool_verdict="keep", reason="", signed_by="Oda", judgement={},
            )  # fmt: skip
            cached_verdicts.add_signed(session, row)
        motors.touch(session, [motor_id])

        def later(days):
            now = CHECKED + timedelta(days=days)
            motors.touch(session, [motor_id])
            judging.settle(session, now)
            found = rack.view(session, tag, now)
            return found.hooks[0], found.counts["overdue"]

        return later

    return put


def runs(count, at):
    return Event(EventKind.RUN, day(at), count)


def test_nothing_that_was_read_today_is_overdue_today(hung):
    for number, changed in enumerate(({}, {"noise": 89.0}, {"amps": 2.9}, {"kv": 6800.0})):
        later = hung(f"D-{number}", **changed)
        assert later(0.1)[1] == 0
        assert later(0.9)[1] == 0


def test_an_open_answer_is_overdue_after_a_week_or_once_it_was_run_all_the_same(hung):
    later = hung(noise=89.0)
    assert later(0.1)[0].shown.verdict == "unproven"
    assert [later(days)[1] for days in (6, 9)] == [0, 1]
    assert hung("D-2", noise=89.0, events=[runs(1, 31)])(2)[1] == 1


def test_a_signed_answer_is_the_motors_state_until_something_new_is_known(hung):
    assert hung(noise=89.0, signed="watch")(1)[0].shown.verdict == "watch"
    assert hung("D-2", noise=89.0, signed="watch", events=[runs(2, 31)])(2)[0].shown.verdict == "watch"
    crashed = hung("D-3", noise=89.0, signed="watch", events=[Event(EventKind.CRASH, day(31))])
    assert crashed(2)[0].shown.verdict == "unproven"


def test_what_an_eye_finds_is_new(hung):
    looked = hung(signed="keep", looked=[("bearings", Look.BAD, day(31), "gritty")])
    assert looked(2)[0].shown.headline == "Unproven: bearings gritty by hand: listen and spin up."


def test_what_is_due_counts_from_the_signature(hung):
    by_tool, by_hand = hung("D-1")(1)[0].shown, hung("D-2", signed="watch")(1)[0].shown
    assert (by_tool.due_runs, by_hand.due_runs) == (12, 4)
    assert by_hand.due_on == (CHECKED + timedelta(days=14)).date().isoformat()


def test_a_motor_signed_to_retire_needs_no_answer(hung):
    later = hung(noise=95.0, signed="retire")
    assert later(90)[1] == 0
    assert (later(90)[0].shown.due_on, later(90)[0].shown.due_runs) == ("", None)


def test_motors_hang_together_by_what_is_asked(session):
    of = {"R-1": ("Heron", "Pell"), "R-2": ("Otter", "Pell"), "R-3": ("Heron", "Ines")}
    ids = motors.add(session, [Motor(tag, machine=machine, owner=owner) for tag, (machine, owner) in of.items()])
    motors.add_events(session, [(ids[2], Event(EventKind.RETIRED, CHECKED))])
    motors.touch(session, ids)
    judging.settle(session, CHECKED)
    groups = {by: {h.shown.tag: h.group for h in rack.view(session, "", CHECKED, by=by).hooks} for by in rack.GROUPS}
    assert groups[""] == dict.fromkeys(of, "")
    assert groups["machine"] == {tag: machine for tag, (machine, _) in of.items()}
    assert groups["owner"] == {tag: owner for tag, (_, owner) in of.items()}
    assert groups["state"] == {"R-1": "unproven", "R-2": "unproven", "R-3": "off the rack"}
