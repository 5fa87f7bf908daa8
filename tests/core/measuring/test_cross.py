"""Motor or controller: what swapping proves."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from waldhorn.core.base.vocabulary import Ran
from waldhorn.core.measuring.swap_test import INVOLVED, Suspect, judge_cross, odds_of_motor

WELL, POORLY = Ran.WELL, Ran.POORLY


def by_hand(trials):
    """Bayes' theorem, written out."""
    prior = {"motor": 0.3, "controller": 0.3, "cable": 0.2, "nothing": 0.2}
    play = {
        "motor": ("own_machine", "own_bench", "other_cable"),
        "controller": ("own_machine", "known_machine", "other_cable"),
        "cable": ("own_machine", "known_machine"),
        "nothing": (),
    }
    joint = {}
    for cause, p in prior.items():
        for trial, ran in trials.items():
            poorly = 0.9 if trial in play[cause] else 0.04
            p *= poorly if ran is POORLY else 1 - poorly
        joint[cause] = p
    return {c: p / sum(joint.values()) for c, p in joint.items()}


@given(st.dictionaries(st.sampled_from(sorted(INVOLVED)), st.sampled_from(list(Ran))))
def test_it_is_bayes_theorem(trials):
    assert judge_cross(trials).suspects == pytest.approx(by_hand(trials))


def test_poorly_everywhere_but_with_a_good_motor_is_the_motor():
    found = judge_cross({"own_machine": POORLY, "own_bench": POORLY, "known_machine": WELL})
    assert found.words.startswith("It is the motor")


def test_a_good_motor_that_runs_poorly_in_the_machine_leaves_controller_and_cable():
    found = judge_cross({"own_machine": POORLY, "own_bench": WELL, "known_machine": POORLY})
    assert found.next_trial == "other_cable"
    after = judge_cross({"own_machine": POORLY, "own_bench": WELL, "known_machine": POORLY, "other_cable": WELL})
    assert max(after.suspects, key=after.suspects.get) is Suspect.CABLE


def test_a_sensorless_motor_has_no_cable_to_suspect():
    found = judge_cross({"own_machine": POORLY, "own_bench": WELL}, sensored=False)
    assert Suspect.CABLE not in found.suspects
    assert found.next_trial == "known_machine"


def test_nothing_tried_changes_no_odds_and_everything_tried_asks_for_nothing():
    assert odds_of_motor({}) == pytest.approx(1)
    assert judge_cross(dict.fromkeys(INVOLVED, WELL)).next_trial is None
    assert odds_of_motor({"own_bench": WELL}) < 1 < odds_of_motor({"own_bench": POORLY})
