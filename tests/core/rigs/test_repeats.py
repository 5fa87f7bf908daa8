"""Runs that agree, runs that do not, and what a rig's repeats teach."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import history, pulls
from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.rigs.learning import Sums, of_motor, spread
from waldhorn.core.rigs.repeatability import agreement, between_visits, learned, within_check
from waldhorn.core.rigs.study import nested


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


def test_a_rig_is_weighed_with_the_default_which_is_worth_eight_pairs():
    squares, pairs = map(sum, zip(*(within_check([100, 101], True) for _ in range(8)), strict=True))
    own = 100 / 100.5 / math.sqrt(2)
    assert learned(squares, pairs, 0.5) == pytest.approx(math.sqrt((0.5**2 + own**2) / 2))
    assert learned(0.0, 0, 0.5) == 0.5


def test_a_rig_that_always_shows_the_same_is_rounding():
    assert learned(0.0, 1000, 0.5) == 0.1


def test_a_study_gives_the_parts_of_the_spread():
    table = (
        "81.2 80.8|82.9 83.3|80.4 80.6; 79.8 79.5|78.2 78.9|80.9 80.3; 83.0 83.4|84.6 84.1|82.2 82.9; "
        "80.1 80.7|81.5 81.1|79.0 79.6; 85.2 84.9|83.6 83.2|85.9 86.4"
    )
    found = nested([[[float(x) for x in v.split()] for v in m.split("|")] for m in table.split(";")])
    assert (found.run, found.visit, found.motor) == pytest.approx((0.345, 1.132, 2.064), abs=5e-4)
    assert (found.share_pct, found.categories) == (pytest.approx(49.8, abs=0.05), 2)


@pytest.mark.parametrize("table", [[], [[[1.0, 2.0], [1.0, 2.0]]], [[[1.0], [2.0]], [[1.0], [2.0]]]])
def test_a_study_too_small_is_a_mistake_of_the_caller(table):
    with pytest.raises(ValueError, match="two motors"):
        nested(table)


def test_what_the_runs_strayed_is_taken_off_what_the_visits_strayed():
    apart = Sums(0, 0, 8 * 2.0, 8, 8 * 0.5)  # visits 2 dB apart, two runs each
    assert spread(apart, "noise_avg").visit == pytest.approx(math.sqrt((8 + 16 - 4) / 16))
    assert spread(Sums(0, 0, 8 * 0.1, 8, 8 * 0.5), "noise_avg").visit == pytest.approx(math.sqrt(0.5))


def test_one_slip_between_two_visits_teaches_no_more_than_three_sigma():
    square, share = between_visits(80.0, 120.0, False, (2, 2), 1.0)
    assert (square, share) == (pytest.approx(9 * 1.5), 0.5)


def test_the_first_two_visits_between_which_nothing_happened_teach_what_clamping_anew_does():
    rpm = (25160, 25300, 25500)
    seen = history(*(pulls(number, (7.4, 2.0, turning), name=str(number)) for number, turning in enumerate(rpm)))
    (taught,) = (t for t in of_motor(all_groups(seen), ()) if t.quantity == "kv")
    apart = 100 * (rpm[1] - rpm[0]) / rpm[0]
    assert (taught.check, taught.sums.visit_pairs, taught.sums.visit_runs) == ("1", 1, 1.0)
    assert taught.sums.visit_squares == pytest.approx(apart**2 / 2, rel=1e-3)
    crashed = Event(EventKind.CRASH, seen.checks[1].at)
    (after,) = (t for t in of_motor(all_groups(seen), [crashed]) if t.quantity == "kv")
    assert after.check == "2"
    assert after.sums.visit_squares == pytest.approx((100 * (rpm[2] - rpm[1]) / rpm[1]) ** 2 / 2, rel=1e-3)
