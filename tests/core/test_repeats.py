"""Runs that agree, runs that do not, and what a rig's repeats teach."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from waldhorn.core.repeats import agreement, learned, within_check


def test_one_run_agrees_with_itself():
    assert agreement([3400], 0.5, True).agrees


def test_two_runs_beyond_the_limit_ask_for_a_third():
    found = agreement([3400, 3460], 0.5, True)  # 1.75 % apart, the limit is 1.4 %
    assert found.ask_again
    assert found.odd is None
    assert found.centre == 3430


def test_the_odd_one_of_three_is_named_when_the_others_agree():
    found = agreement([3404, 3510, 3400], 0.5, True)
    assert found.odd == 1
    assert found.centre == 3402
    assert not found.ask_again


def test_three_that_all_differ_have_no_odd_one():
    found = agreement([80, 84, 88], 1, False)
    assert found.odd is None
    assert found.ask_again
    assert found.centre == 84


def test_zero_current_twice_agrees_and_zero_against_something_does_not():
    assert agreement([0, 0], 3, True).agrees
    assert not agreement([0, 0.1], 3, True).agrees


def test_no_values_is_a_mistake_of_the_caller():
    with pytest.raises(ValueError, match="at least one"):
        agreement([], 1, False)


@given(st.lists(st.floats(1, 1000), min_size=1, max_size=7), st.randoms())
def test_the_order_of_runs_does_not_matter(values, random):
    shuffled = values[:]
    random.shuffle(shuffled)
    assert agreement(shuffled, 1, True).centre == pytest.approx(agreement(values, 1, True).centre)
    assert agreement(shuffled, 1, True).ask_again == agreement(values, 1, True).ask_again


def test_a_rig_is_believed_after_eight_pairs():
    squares, pairs = map(sum, zip(*(within_check([100, 101], True) for _ in range(8)), strict=True))
    spread = 100 / 100.5 / math.sqrt(2)
    assert learned(squares, pairs, 0.5) == pytest.approx(spread)
    assert learned(squares, pairs - 1, 0.5) == 0.5


def test_a_rig_that_always_shows_the_same_is_rounding():
    assert learned(0.0, 20, 0.5) == 0.1
