"""Floors under the judge: how well it does on simulated motors whose truth is known may rise, and not fall."""

from datetime import timedelta

import pytest

from made_eval import evaluation
from waldhorn.core.verdict import judge
from waldhorn.core.vocabulary import CONDEMNED


@pytest.fixture(scope="module")
def judged():
    """Motors of the evaluation, fewer of them, each with its truth and its judgement."""
    made = evaluation()
    at = made.START + timedelta(days=61)
    return [(case, judge(case.history, at)) for case in made.cases(480, 7)]


def share(found):
    return sum(found) / len(found)


def test_faults_past_their_limit_are_caught_and_named(judged):
    past = [(c, j) for c, j in judged if c.complete and len(c.truth) == 1 and max(c.truth.values()) >= 1.3]
    assert len(past) > 60
    assert share([j.verdict in CONDEMNED for _, j in past]) >= 0.94
    caught = [(c, j) for c, j in past if j.verdict in CONDEMNED]
    assert share([bool(set(c.truth) & set(j.faults[0].names)) for c, j in caught]) >= 0.97


def test_sound_motors_are_not_condemned(judged):
    sound = [j for c, j in judged if not c.truth]
    assert len(sound) > 100
    assert share([j.verdict in CONDEMNED for j in sound]) <= 0.01
    assert share([j.verdict == "keep" for j in sound]) >= 0.8


def test_small_faults_are_not_cried_out(judged):
    small = [j for c, j in judged if c.truth and max(c.truth.values()) <= 0.3]
    assert share([j.verdict in CONDEMNED for j in small]) <= 0.05
