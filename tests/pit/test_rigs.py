"""What a rig is worth, from what is stored."""

from dataclasses import replace

import pytest

from made import NOW, PULL, pulls
from waldhorn.core.history import Motor
from waldhorn.pit import judging, rigs
from waldhorn.store import motors, readings
from waldhorn.store import rigs as store_rigs

AMPS = (1.0, 1.4, 1.9, 2.4, 2.9, 3.3)


def read_on_both(session, days_apart=3.0):
    """Motors of one model that were read on the bench and on another rig, which shows a fifth more current."""
    ids = motors.add(session, [Motor(f"VS-{i}", "Skerry 36", label_kv=3450, poles=4) for i in range(len(AMPS))])
    for motor, amps in zip(ids, AMPS, strict=True):
        for at, rig, share in ((0, "bench", 1.0), (1, "bench", 1.01), (days_apart, "other", 1.2)):
            made = pulls(at, *((7.4, amps * share, 25160),) * 2, conditions=replace(PULL, rig=rig), name=f"{at}")
            keys = readings.check_ids(session, [(motor, made.id, made.at, made.readings[0].conditions)])
            readings.add(session, [(keys[motor, made.id], r) for r in made.readings])
    motors.touch(session, ids)
    judging.settle(session, NOW)


def test_a_rig_shows_what_rests_on_it_and_how_well_it_repeats(session):
    read_on_both(session)
    found = rigs.view(session, "bench", NOW)
    assert (found.use.motors, found.use.checks, found.use.methods) == (6, 12, ("loaded-supply",))
    kv = next(r for r in found.repeats if r.quantity.name == "kv")
    assert (kv.sums.pairs, kv.sums.visit_pairs) == (12, 6)
    assert kv.shown.run < kv.usual.run
    assert rigs.view(session, "nowhere", NOW) is None
    assert [u.name for u in store_rigs.uses(session)] == ["bench", "other"]


def test_the_same_motors_on_both_rigs_give_the_line_between_them(session):
    read_on_both(session)
    current = next(b for b in rigs.view(session, "bench", NOW).beside if b.quantity.name == "no_load_current")
    assert (current.other, current.motors) == ("other", 6)
    assert current.fitted.k == pytest.approx(1.2)
    assert current.agreement.ratio == pytest.approx(1.2)
    speed = next(b for b in rigs.view(session, "bench", NOW).beside if b.quantity.name == "kv")
    assert (speed.fitted, "too close together" in speed.refused) == (None, True)


def test_what_was_read_months_apart_is_no_pair(session):
    read_on_both(session, days_apart=45)
    assert rigs.view(session, "bench", NOW).beside == []
