"""What a used motor is worth: by hand from the formula, what wears it, and the page's words."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import NOW, full, history
from waldhorn.core.judging.trend import Crossing, Trend
from waldhorn.core.judging.verdict import judge
from waldhorn.core.predicting import resale
from waldhorn.core.predicting.resale import Wear, wear_of, worth

SHARE = st.floats(0, 1)


@pytest.mark.parametrize(
    ("wear", "mendable", "for_good", "share", "mended_first"),
    [
        (Wear(1.0), 0.0, 0.0, 0.8, False),
        (Wear(0.5, "kv"), 0.0, 0.0, 0.4, False),
        (Wear(0.5, "noise_avg", mendable=True), 0.0, 0.0, 0.5, True),
        (Wear(0.7, "noise_avg", mendable=True), 0.0, 0.0, 0.56, False),
        (Wear(0.0, "kv"), 0.0, 0.0, 0.1, False),
        (Wear(1.0), 1.0, 0.0, 0.5, False),
        (Wear(1.0), 0.0, 1.0, 0.1, False),
        (Wear(1.0), 0.2, 0.1, 0.7 * 0.8 + 0.2 * 0.5 + 0.1 * 0.1, False),
    ],
)
def test_it_is_what_may_be_the_case_weighed(wear, mendable, for_good, share, mended_first):
    found = worth(wear, mendable, for_good, 0.3)
    assert found.share == pytest.approx(share)
    assert found.mended_first == mended_first
    assert found.at_worst <= found.share + 1e-9
    assert found.share <= found.at_best + 1e-9


def test_a_repair_dearer_than_the_motor_leaves_the_parts():
    assert worth(Wear(1.0), 1.0, 0.0, 0.9).share == pytest.approx(resale.FOR_PARTS)


@given(SHARE, SHARE, SHARE, SHARE, st.floats(0, 1.5))
def test_more_wear_and_likelier_faults_are_never_worth_more(left, less, due, more, repair):
    low, high = sorted((left, less))
    p, q = sorted((due / 2, more / 2))
    assert worth(Wear(low), p, 0.1, repair).share <= worth(Wear(high), p, 0.1, repair).share + 1e-9
    assert worth(Wear(1.0), 0.1, q, repair).share <= worth(Wear(1.0), 0.1, p, repair).share + 1e-9
    assert resale.FOR_PARTS - 1e-9 <= worth(Wear(low), p, q, repair).share <= resale.SOUND_AND_USED + 1e-9


def judged(*checks):
    return judge(history(*checks), NOW)


def test_noise_of_reading_is_no_wear_and_what_moved_is():
    sound = judged(full(1), full(15), full(120))
    assert wear_of(sound.evidence, ()) == Wear(1.0)
    louder = judged(full(1), full(15), full(120, noise=84.6))
    found = wear_of(louder.evidence, ())
    assert (found.quantity, found.mendable) == ("noise_avg", True)
    assert found.left == pytest.approx(1 - 3.6 / 6, abs=0.02)
    weaker = wear_of(judged(full(1), full(15), full(120, kv=3550.0)).evidence, ())
    assert (weaker.quantity, weaker.mendable) == ("kv", False)


@pytest.mark.parametrize(("axis", "likely", "left"), [("runs", 30, 0.5), ("days", 45, 0.25), ("runs", 500, 1.0)])
def test_a_creep_uses_up_what_is_left_until_its_limit(axis, likely, left):
    creep = Trend("noise_avg", axis, 6, "creep", 0.1, 0.05, 0.2, None, Crossing(likely, likely, None))
    found = wear_of(judged(full(1), full(15), full(120)).evidence, [creep])
    assert found.left == left
    assert (found.until if left < 1 else likely) == likely
    assert wear_of((), [replace(creep, act=None)]) == Wear(1.0)


def test_what_is_due_is_parted_by_whether_it_can_be_mended():
    bearings = judged(full(1), full(15), full(120, noise=90.0, wander=1.8, amps=2.7))
    magnets = judged(full(1), full(15), full(120, kv=3640.0, peaks=(15.6, 15.9, 15.7, 16.0) * 3))
    assert bearings.due_mendable > 0.9 > 0.1 > bearings.due_for_good
    assert magnets.due_for_good > 0.85 > 0.1 > magnets.due_mendable
    assert math.isclose(judged(full(1), full(15), full(120)).due_mendable, 0, abs_tol=0.05)
