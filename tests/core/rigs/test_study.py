"""A study of a rig: the order it is made in, and what it teaches."""

from dataclasses import astuple
from datetime import timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import day
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Check, History, Motor, Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring.observations import all_groups, groups_of_study
from waldhorn.core.rigs.learning import Sums, of_studies, spread
from waldhorn.core.rigs.study import nested, order

TABLE = [[[81.2, 80.8], [82.9, 83.3], [80.4, 80.6]], [[79.8, 79.5], [78.2, 78.9], [80.9, 80.3]]]


@given(st.integers(2, 12), st.integers(2, 8), st.integers(0, 10_000))
def test_every_motor_comes_once_a_round_and_never_twice_in_a_row(motors, visits, seed):
    found = order(motors, visits, seed)
    rounds = [found[i * motors : (i + 1) * motors] for i in range(visits)]
    assert all(sorted(one) == list(range(motors)) for one in rounds)
    assert all(a != b for a, b in pairwise(found))
    assert found == order(motors, visits, seed)


def test_another_seed_draws_another_order():
    assert len({tuple(order(5, 3, seed)) for seed in range(20)}) > 15


def studied(visits, at=0.0, rig="bench", measure="noise_avg"):
    under = Conditions(rig=rig, throttle_pct=100.0)
    checks = []
    for i, values in enumerate(visits):
        when = day(at) + timedelta(minutes=20 * i)
        readings = [Reading(measure, v, when, run, under, Purpose.STUDY) for run, v in enumerate(values, 1)]
        checks.append(Check(f"{at} {i}", when, tuple(readings)))
    return checks


def taught(*checks):
    known = History(Motor("VS-01", poles=4), studied=tuple(checks))
    total = Sums()
    for one in of_studies(groups_of_study(known)):
        total += one.sums
    return total


def test_what_a_study_teaches_is_what_its_analysis_finds():
    total = Sums()
    for motor in TABLE:
        total += taught(*studied(motor))
    assert (total.pairs, total.visit_pairs, total.visit_runs) == (6, 4, pytest.approx(2.0))
    found = nested(TABLE)
    assert total.squares / total.pairs == pytest.approx(found.run**2)
    of_visits = total.visit_squares / total.visit_pairs - found.run**2 * total.visit_runs / total.visit_pairs
    assert of_visits == pytest.approx(found.visit**2)
    assert spread(total, "noise_avg").visit > 1.0


def test_two_studies_months_apart_are_two():
    once = taught(*studied(TABLE[0]))
    for other in ({"at": 90}, {"rig": "other"}):
        both = taught(*studied(TABLE[0]), *studied(TABLE[0], **other))
        assert astuple(both) == pytest.approx(astuple(once + once))


def test_relative_quantities_teach_in_percent():
    total = taught(*studied([[2.0, 2.02], [2.1, 2.12]], measure="no_load_current"))
    assert total.squares == pytest.approx(2 * (100 * 0.01414 / 2.06) ** 2, rel=0.05)


def test_what_was_read_for_a_study_says_nothing_of_the_motor():
    known = History(Motor("VS-01", poles=4), studied=tuple(studied(TABLE[0])))
    assert not any(all_groups(known).values())
