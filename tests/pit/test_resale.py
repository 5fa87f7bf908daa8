"""What a motor of the rack is worth to a buyer, in words and in money."""

from datetime import datetime

import pytest
from sqlalchemy import delete, update

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Reading
from waldhorn.pit.judging.view_cache import look_at
from waldhorn.pit.motors import resale
from waldhorn.store import motors, readings
from waldhorn.store.models import MotorRow, ReadingRow

NOW = datetime.now().astimezone()


def offer(store, tag):
    with store.reading() as session:
        look = look_at(session, motors.find(session, tag).id, NOW)
        return resale.offer(session, look.history.motor, look.judgement)


def test_a_sound_motor_a_worn_one_and_one_past_mending(demo_store):
    sound, worn, gone = (offer(demo_store, tag) for tag in ("VS-01", "VS-11", "VS-19"))
    assert sound.worth.share == pytest.approx(0.8, abs=0.02)
    assert sound.money == pytest.approx(0.8 * 96, abs=2)
    assert sound.words == ["A used motor in which nothing has moved is taken to fetch 80 % of new."]
    assert worn.worth.share == pytest.approx(0.5, abs=0.02)
    assert worn.words[0].startswith("With 0.9")
    assert "something is to be mended (worn bearings), at 30 % of new." in worn.words[0]
    assert gone.worth.share < 0.15
    assert "it is past mending (weakened magnets): 10 % of new, for parts." in gone.words[0]


def test_what_was_never_checked_is_said_to_be_unproven(demo_store):
    assert offer(demo_store, "VS-18").words[0].startswith("It is not proven")


def test_watts_and_points_are_priced_against_the_class(demo_store):
    with demo_store.writing() as session:
        session.execute(update(MotorRow).values(rated_w=None))
        session.execute(delete(ReadingRow).where(ReadingRow.measure.in_(("flywheel_torque", "response"))))
    assert offer(demo_store, "VS-08").buys == []
    with demo_store.writing() as session:
        for tag, watts, torque in (("VS-01", 200.0, 110.0), ("VS-03", 240.0, 100.0), ("VS-05", 240.0, 90.0)):
            row = motors.find(session, tag)
            row.rated_w = watts
            check = readings.check_ids(session, [(row.id, "wheel", NOW, Conditions())])[row.id, "wheel"]
            readings.add(session, [(check, Reading("flywheel_torque", torque, NOW))])
    watts, points = offer(demo_store, "VS-01").buys
    assert (watts.what, watts.mine, watts.count) == ("a rated watt", pytest.approx(0.8 * 96 / 200, rel=0.03), 2)
    assert watts.others == pytest.approx(96 / 240)
    assert (points.what, points.mine) == ("a point of its class", pytest.approx(0.8 * 96 / 110, rel=0.03))
    assert points.others == pytest.approx((96 / 100 + 96 / 90) / 2)
