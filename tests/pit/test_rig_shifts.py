"""A rig without a reference motor: what several motors moved alike on one day is said of the rig and of each."""

from datetime import timedelta

from made import day, full
from waldhorn.core.base.history import Event, Motor
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.pit.judging import judging
from waldhorn.store import motors, readings, rigs

LATER = day(31)


def put(session, tag, *checks, **facts):
    """A motor with its checks, closed, as an import leaves them."""
    [motor_id] = motors.add(
        session, [Motor(tag, "Skerry 36", label_kv=3450, poles=4, poles_known_by="counted", **facts)]
    )
    for check in checks:
        ids = readings.check_ids(session, [(motor_id, check.id, check.at, check.readings[0].conditions)])
        readings.add(session, ((ids[motor_id, check.id], r) for r in check.readings))
    return motor_id


def judged(session):
    judging.settle(session, LATER)
    return {j.motor: j for j in judging.judge_all(session, LATER).values()}


def test_what_the_motors_of_a_day_moved_alike_accuses_none_of_them(session):
    for i in range(4):
        put(session, f"S-{i}", full(0), full(14), full(30, kv=3400 * (1.05 + 0.001 * i)))
    found = judged(session)
    assert {j.headline for j in found.values()} == {"Unproven: 4 motors moved alike (+5.1 %): check bench."}
    [shift] = [s for s in rigs.said_of_rigs(session)[2] if s.quantity == "kv"]
    assert (shift.rig, shift.motors) == ("bench", 4)


def test_one_that_moved_by_itself_is_the_motors_own(session):
    for i in range(4):
        put(session, f"S-{i}", full(0), full(14), full(30, kv=3400 * (1.05 if i == 0 else 1.0)))
    found = judged(session)
    assert rigs.said_of_rigs(session)[2] == []
    assert "moved alike" not in found["S-0"].headline


def test_a_reference_motor_that_is_read_on_it_speaks_instead(session):
    for i in range(3):
        put(session, f"S-{i}", full(0), full(14), full(30, kv=3400 * 1.05))
    assert rigs.said_of_rigs(session)[2] == []
    assert "moved alike" in judged(session)["S-0"].headline
    put(session, "REF", full(0), full(14), full(30), reference=True)
    assert "moved alike" not in judged(session)["S-0"].headline


def test_a_day_is_worked_out_again_when_a_motor_of_it_is(session):
    ids = [put(session, f"S-{i}", full(0), full(14), full(30, kv=3400 * 1.05)) for i in range(3)]
    assert "moved alike" in judged(session)["S-1"].headline
    motors.add_events(session, [(ids[0], Event(EventKind.TIMING_CHANGED, day(29) + timedelta(hours=1)))])
    motors.touch(session, [ids[0]])
    assert "moved alike" not in judged(session)["S-1"].headline
