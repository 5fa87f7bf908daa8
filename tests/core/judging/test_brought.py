"""Under other conditions: a past brought to the warmth and timing of now, the settings of a visit weighed as one."""

from dataclasses import replace
from itertools import permutations

import numpy as np
import pytest

from made import NOW, day, full, history
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Check, Reading
from waldhorn.core.base.vocabulary import NoteKind, Source
from waldhorn.core.judging.brought import by_warmth, own_slope
from waldhorn.core.judging.sentences import note_words
from waldhorn.core.judging.settings import weigh
from waldhorn.core.judging.verdict import judge
from waldhorn.core.measuring.current import NO_LOAD_CURRENT
from waldhorn.core.measuring.kv import KV
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.rigs.repeatability import Spread
from waldhorn.exchange.judgement import to_json

STAND = Conditions(rig="bench", placement="stand", distance_cm=10.0, supply_v=7.4)


def heard(number, *levels, **under):
    """A visit in which levels were read at throttles, in this order, a minute apart."""
    where = replace(STAND, **under)
    readings = [Reading("noise_background", 55.0, day(number), 1, where)]
    for minute, (throttle, level) in enumerate(levels):
        at = day(number + minute / 1440)
        readings.append(Reading("noise_avg", level, at, 1, replace(where, throttle_pct=throttle)))
    return Check(f"c{number}", day(number), tuple(readings))


def evidence(name, *checks, events=()):
    found = judge(history(*checks, events=events), NOW)
    return found, next(e for e in found.evidence if e.quantity.name == name)


PAST = (heard(0, (15.0, 72.0), (50.0, 77.0), (100.0, 83.0)), heard(7, (15.0, 72.2), (50.0, 77.1), (100.0, 83.2)))


def test_changes_at_several_settings_are_one_with_the_spread_of_the_visit_once():
    found = weigh([6.2, 5.4, 5.8], [0.5, 0.5, 0.5], 0.9)
    assert (round(found.change, 2), round(found.u, 2), round(found.q, 2)) == (5.8, 1.03, 0.64)
    assert found.one_thing
    apart = weigh([0.3, 12.1], [0.5, 0.5], 0.9)
    assert (round(apart.q), apart.one_thing) == (139, False)
    unequal = weigh([6.0, 3.0], [1.0, 2.0], 0.0)
    assert (unequal.change, unequal.u) == (pytest.approx(5.0), pytest.approx(np.sqrt(2 / 3)))


def test_settings_that_say_one_thing_are_weighed_together():
    _, e = evidence("noise_avg", *PAST, heard(20, (15.0, 78.0), (50.0, 82.9), (100.0, 89.0)))
    assert e.change.value == pytest.approx(5.85, abs=0.1)
    assert e.setting is None
    assert e.has(NoteKind.SETTINGS_TOGETHER)
    assert e.now - e.reference.value == pytest.approx(e.change.value)
    _, alone = evidence("noise_avg", *PAST, heard(20, (100.0, 89.0)))
    assert e.change.u < alone.change.u


def test_settings_that_do_not_say_one_thing_are_named():
    _, e = evidence("noise_avg", *PAST, heard(20, (15.0, 72.4), (100.0, 95.3)))
    assert (e.setting, round(e.change.value)) == (100.0, 12)
    [note] = [n for n in e.notes if n.kind is NoteKind.SETTINGS_DIFFER]
    assert note_words(note, e.quantity).startswith("at full throttle; at 15 % it is otherwise")


@pytest.mark.parametrize(
    "levels",
    [
        ((100.0, 97.0), (15.0, 72.1)),
        ((100.0, 89.0), (50.0, 82.9), (15.0, 78.0)),
        ((100.0, 83.0), (30.0, 90.0), (15.0, 72.1)),  # one that was never read before
    ],
)
def test_the_order_of_readings_within_a_visit_changes_no_judgement(levels):
    answers = []
    for order in permutations(levels):
        said = to_json(judge(history(*PAST, heard(20, *order)), NOW))
        answers.append((said["verdict"], said["p_fault_act"], said["faults"], said["evidence"], said["headline"]))
    assert all(a == answers[0] for a in answers)
    assert any(e["measure"] == "noise_avg" and e["change"] is not None for e in answers[0][3])


def test_a_setting_without_a_past_takes_no_part():
    _, with_new = evidence("noise_avg", *PAST, heard(20, (15.0, 72.1), (30.0, 99.0)))
    _, without = evidence("noise_avg", *PAST, heard(20, (15.0, 72.1)))
    assert (with_new.change.value, with_new.change.u) == (without.change.value, without.change.u)


def test_warmth_is_a_correction_with_an_uncertainty():
    by = by_warmth(NO_LOAD_CURRENT, Conditions(motor_c=17.0), Conditions(motor_c=29.0), None)
    assert (round(100 * (by.factor - 1), 2), round(100 * by.u, 2)) == (-3.6, 3.6)
    assert by_warmth(NO_LOAD_CURRENT, Conditions(), Conditions(motor_c=29.0), None) is None
    magnets = by_warmth(KV, Conditions(motor_c=17.0), Conditions(motor_c=47.0), None)
    assert (magnets.factor, magnets.u) == (1.0, pytest.approx(5 * 0.0011, rel=0.2))


def test_a_spring_baseline_holds_in_summer():
    spring = [full(d, under={"motor_c": 17.0}, leave=("timing",)) for d in (0, 14)]
    summer = full(60, under={"motor_c": 29.0}, amps=2.0 * 1.36 * (1 - 0.036), leave=("timing",))
    found, e = evidence("no_load_current", *spring, summer)
    assert e.reference.source is Source.OWN
    assert e.change.value == pytest.approx(36.0, abs=0.5)
    assert e.change.u > 3.6
    assert e.has(NoteKind.BROUGHT)
    assert found.verdict != "keep"
    brought = next(x for x in to_json(found)["evidence"] if x["measure"] == "no_load_current")["brought"]
    assert (brought["from"], brought["by"]) == ({"motor_c": 17.0}, "warmth")
    raw = 100 * (1.36 * (1 - 0.036) - 1)
    assert brought["of_change"] == pytest.approx((e.change.value - raw) / e.change.value, abs=0.01)


def test_a_motor_that_shows_its_own_warmth_is_believed_within_reason():
    def groups(slope):
        visits = [
            full(d, under={"motor_c": t}, amps=2.0 * np.exp(slope * (t - 20)))
            for d, t in ((0, 15.0), (7, 20.0), (14, 28.0), (21, 33.0))
        ]
        return all_groups(history(*visits))["no_load_current"]

    spread = Spread(1.0, 1.0)
    slope, u = own_slope(NO_LOAD_CURRENT, groups(-0.006), spread)
    assert slope == pytest.approx(-0.0055, abs=0.0006)
    assert u < 0.002
    assert own_slope(NO_LOAD_CURRENT, groups(0.02), spread) is None  # that is wear
    assert own_slope(NO_LOAD_CURRENT, groups(-0.006)[:2], spread) is None


def test_a_turned_end_bell_leaves_a_motor_its_past():
    before = [full(d, under={"timing_set_deg": 34.0}, leave=("timing",)) for d in (0, 14)]
    turned = full(30, under={"timing_set_deg": 39.0}, amps=2.6, kv=3400 * 1.025, leave=("timing",))
    _, e = evidence("no_load_current", *before, turned, events=((20, "timing_changed"),))
    assert e.reference.source is Source.OWN
    assert e.reference.brought.factor == pytest.approx(np.exp(0.25))
    assert 100 * (np.exp(0.25) - 1) == pytest.approx(28.4, abs=0.05)
    assert e.change.value == pytest.approx(1.2, abs=0.1)
    assert e.change.u == pytest.approx(10, abs=1.5)
    _, kv = evidence("kv", *before, turned, events=((20, "timing_changed"),))
    assert kv.change.value == pytest.approx(0.0, abs=0.05)
    unknown = [full(d, leave=("timing",)) for d in (0, 14)]
    _, nothing = evidence("no_load_current", *unknown, turned, events=((20, "timing_changed"),))
    assert nothing.change is None
