"""All motors of a model beside each other."""

import pytest

from made import NOW, PULL, pulls
from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import Motor, Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.pit.between import scoring
from waldhorn.pit.judging import judging
from waldhorn.pit.motors import corrections, models
from waldhorn.pit.writing import Writing, write
from waldhorn.store import changes, motors, readings


def hang(session, count, kv=3450.0, step=20.0):
    """Motors of one model, each a little faster than the one before."""
    ids = motors.add(session, [Motor(f"VS-{i}", "Skerry 36", label_kv=3500, poles=4) for i in range(count)])
    for i, motor in enumerate(ids):
        made = pulls(0, *((7.4, 2.0, 7.4 * (kv + step * i)),) * 2, name="0")
        keys = readings.check_ids(session, [(motor, "0", made.at, PULL)])
        readings.add(session, [(keys[motor, "0"], r) for r in made.readings])
    motors.touch(session, ids)
    judging.settle(session, NOW)


def test_the_label_is_held_against_the_middle_motor(session):
    hang(session, 5, kv=3450.0, step=0.0)
    found = models.view(session, " skerry 36", NOW)
    assert (found.name, len(found.members), found.labelled) == ("Skerry 36", 5, 5)
    assert found.label_off_pct == pytest.approx(100 * (3450 / 3500 - 1), abs=0.01)


def test_the_spread_of_a_model_is_that_of_its_motors_once_there_are_five(session):
    hang(session, 7, step=60.0)
    kv = next(s for s in models.view(session, "Skerry 36", NOW).spreads if s.quantity.name == "kv")
    assert (kv.motors, kv.rig) == (7, "bench")
    assert kv.middle == pytest.approx(3630, abs=1)
    assert kv.apart == pytest.approx(1.4826 * 120 / 3630 * 100, rel=0.01)


def test_a_model_nobody_has_is_none_and_one_motor_has_no_spread(session):
    hang(session, 1)
    assert models.view(session, "Gannet", NOW) is None
    assert models.view(session, "", NOW) is None
    assert models.view(session, "Skerry 36", NOW).spreads == []


def test_its_motors_have_a_score_once_two_were_on_a_flywheel(session):
    hang(session, 3, kv=3430.0, step=35.0)  # labels of 3500: 98, 99 and 100 per cent true
    ids = motors.ids_by_tag(session)

    def spun(tag, torque):
        keys = readings.check_ids(session, [(ids[tag], "wheel", NOW, PULL)])
        readings.add(session, [(keys[ids[tag], "wheel"], Reading("flywheel_torque", torque, NOW, 1, PULL))])
        motors.touch(session, [ids[tag]])

    spun("vs-0", 330.0)
    assert scoring.of_model(session, "skerry 36", NOW) == []
    spun("vs-1", 270.0)
    first, second = scoring.of_model(session, "skerry 36", NOW)
    assert (first.motor, second.motor) == ("VS-0", "VS-1")
    assert first.score == pytest.approx((110 + 100 * 98 / 98.5) / 2, abs=0.2)
    assert second.score == pytest.approx((90 + 100 * 99 / 98.5) / 2, abs=0.2)


def test_torque_and_efficiency_are_weighed_at_one_speed_between_what_was_read(session):
    hang(session, 3, kv=3500.0, step=0.0)
    ids = motors.ids_by_tag(session)

    def braked(tag, *rows):
        keys = readings.check_ids(session, [(ids[tag], "brake", NOW, PULL)])
        for run, (rpm, torque, efficiency) in enumerate(rows, 1):
            read = (("load_rpm", rpm), ("shaft_torque", torque), ("efficiency", efficiency))
            readings.add(
                session,
                [(keys[ids[tag], "brake"], Reading(m, v, NOW, run, PULL, Purpose.LOAD)) for m, v in read],
            )

    braked("vs-0", (10_000, 200.0, 84.0), (20_000, 100.0, 80.0))
    braked("vs-1", (12_000, 120.0, 78.0), (18_000, 120.0, 78.0))
    braked("vs-2", (20_000, 900.0, 99.0))  # never as slow as asked
    only = {"flywheel_torque": 1.0, "efficiency": 1.0}
    tags = ["VS-0", "VS-1", "VS-2"]
    first, second = scoring.scored(session, tags, [], only, at_rpm=15_000.0)
    assert (first.motor, second.motor) == ("VS-0", "VS-1")  # 150 and 120 mN·m, 82 and 78 %
    assert first.score == pytest.approx(100 * (150 / 135 + 82 / 80) / 2)
    assert scoring.speed_of({"at_rpm": "15k"}) == 15_000
    with pytest.raises(InputError, match="is not a number"):
        scoring.speed_of({"at_rpm": "fast"})


def test_a_fact_is_said_of_all_motors_of_a_model_that_lack_it(store):
    with store.writing() as session:
        motors.add(session, [Motor("A", "Skerry 36", sensored=None), Motor("B", "skerry 36", sensored=False)])
        motors.add(session, [Motor("C", "Skerry 36", sensored=None), Motor("D", "Otter", sensored=None)])

    def say(**typed):
        return write(store, Writing(NOW), models.say_of_all, "Skerry 36", typed, NOW)

    def known():
        with store.reading() as session:
            return {m.tag: m.sensored for m in motors.every(session)}

    for typed, words in (
        ({"fact": "sensored", "value": "perhaps"}, "yes or no"),
        ({"fact": "tag", "value": "X"}, "choose a fact"),
        ({"fact": "poles", "value": "7"}, "A: "),
    ):
        with pytest.raises(InputErrors, match=words):
            say(**typed)
    assert known() == {"A": None, "B": False, "C": None, "D": None}
    assert say(fact="sensored", value="yes") == 2
    assert known() == {"A": True, "B": False, "C": True, "D": None}
    with pytest.raises(InputErrors, match="already"):
        say(fact="sensored", value="no")
    corrections.undo(store, Writing(NOW), "A", _last(store, "A"))
    assert known() == {"A": None, "B": False, "C": True, "D": None}


def _last(store, tag):
    with store.reading() as session:
        return changes.last(session, motors.find(session, tag).id).id
