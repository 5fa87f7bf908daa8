"""Change, its uncertainty, and what it proves."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from waldhorn.core.judging.change import RunUncertainty, assess, probability_beyond, uncertainty
from waldhorn.core.measuring.quantity import Limits, difference

LIMITS = Limits(15, 30)


def judge(value: float, u: float, direction: int = 1) -> str:
    return assess(value, u, LIMITS, direction, RunUncertainty(u, 0, 0, 1, 0)).state


def test_uncertainty_adds_repeats_resolution_and_extra_in_squares():
    # 1² (1/1 + 1/2) + 3² (1/2 + 1.09²/4) + 0.6²/6 + 2², a median of four being 1.09 times less sure than their mean
    assert uncertainty(3, 1, 0.6, 2, 4, 1, 2, 2) == pytest.approx(math.sqrt(1.5 + 9 * (0.5 + 1.09**2 / 4) + 4.06))


def test_a_label_has_no_runs_of_its_own():
    assert uncertainty(0.5, 0, 0, 1, 0) == 0.5


@pytest.mark.parametrize(
    ("value", "u", "state"),
    [(5, 2, "within"), (15, 2, "unproven"), (22, 2, "watch"), (30, 2, "unproven"), (35, 2, "past"), (-40, 2, "within")],
)
def test_states_follow_the_two_probabilities(value, u, state):
    assert judge(value, u) == state


def test_both_directions_count_where_both_are_bad():
    assert judge(-40, 2, direction=0) == "past"
    assert probability_beyond(0, 1, 1, 0) == pytest.approx(2 * probability_beyond(0, 1, 1, 1))


def test_headroom_is_what_is_left_of_the_way_to_act():
    found = assess(7.7, 0.5, Limits(3, 6), 1, RunUncertainty(0.5, 0, 0, 2, 4))
    assert found.headroom == pytest.approx(1 - 7.7 / 6)


def test_an_unproven_change_says_how_many_runs_would_settle_it():
    runs = RunUncertainty(3, 0, 0, 1, 4)
    found = assess(12, runs.after(0), LIMITS, 1, runs)
    assert found.state == "unproven"
    assert found.further_runs
    assert assess(12, runs.after(found.further_runs), LIMITS, 1, runs).state == "within"
    assert assess(12, runs.after(found.further_runs - 1), LIMITS, 1, runs).state == "unproven"


def test_a_change_right_on_the_limit_is_never_settled_by_repeats():
    runs = RunUncertainty(3, 0, 0, 2, 4)
    assert assess(30, runs.after(0), LIMITS, 1, runs).further_runs is None


@given(st.floats(-60, 60), st.floats(0.1, 20), st.floats(0.01, 100))
def test_scaling_units_changes_nothing(value, u, scale):
    plain = assess(value, u, LIMITS, 0, RunUncertainty(u, 0, 0, 1, 0))
    scaled = assess(value * scale, u * scale, Limits(15 * scale, 30 * scale), 0, RunUncertainty(u * scale, 0, 0, 1, 0))
    assert scaled.p_past_act == pytest.approx(plain.p_past_act, abs=1e-9)
    assert scaled.headroom == pytest.approx(plain.headroom, abs=1e-9)


@given(st.floats(1, 1e5), st.floats(1, 1e5))
def test_a_relative_difference_undoes_itself(now, base):
    forth = difference(now, base, True)
    assert base * (1 + forth / 100) == pytest.approx(now)


def test_what_clamping_anew_strays_no_run_settles_but_another_visit_does():
    runs = RunUncertainty(1, 4, 0, 2, 4, 1, 2)
    found = assess(20, runs.after(0), LIMITS, 1, runs)
    assert (found.state, found.further_runs) == ("unproven", None)
    assert found.further_visits
    assert 1.2816 * runs.clamped_anew(found.further_visits) <= 5
    assert 1.2816 * runs.clamped_anew(found.further_visits - 1) > 5
