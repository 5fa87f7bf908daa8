"""Which motors differ, which belong together, and which is better for what."""

import math
from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from made import full, history
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.comparing.differences import (
    CRITICAL_90,
    MOST_MOTORS,
    Contender,
    Latest,
    Row,
    compare,
    counts,
    difference,
)
from waldhorn.core.comparing.equal_conditions import ComparedValue, Price
from waldhorn.core.comparing.partition import part
from waldhorn.core.comparing.sets import best_sets, score, telling
from waldhorn.core.comparing.uses import better_for, better_in_nothing, speed_per_amp
from waldhorn.core.comparing.words import better_words, row_words, set_words, sure_words
from waldhorn.core.judging.evidence import default_repeatability
from waldhorn.core.measuring.end_bell import TimingPull, growth_and_u
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.rigs.calibration import Translation

FIVE = {"a": (3420, 2.25), "b": (3445, 2.31), "c": (3390, 2.20), "d": (3428, 2.60), "e": (3418, 2.28)}
MOTORS = {t: {"kv": kv, "no_load_current": amps} for t, (kv, amps) in FIVE.items()}
U = {"kv": 17.0, "no_load_current": 0.0675}


def contender(tag, **changed):
    h = history(full(0, **changed), motor=Motor(tag, label_kv=3450, poles=4, poles_known_by="counted"))
    return Contender(h.motor, latest_of(all_groups(h)))


def latest_of(groups):
    return {name: Latest.of(mine[-1], QUANTITIES[name]) for name, mine in groups.items() if mine}


def rows_of(*contenders):
    return {r.quantity.name: r for r in compare(contenders, default_repeatability)}


def test_the_pairs_of_five_motors_and_their_scores():
    found = best_sets(MOTORS, U, 2)
    assert (found.best.motors, found.left_over) == (("a", "e"), ("b", "c", "d"))
    assert [s.motors for s in found.runners_up[:2]] == [("b", "e"), ("a", "b")]
    scores = [found.best.score, *(s.score for s in found.runners_up[:2])]
    assert scores == pytest.approx([0.053, 0.68, 0.74], abs=0.005)


def test_two_pairs_out_of_five_are_parted_so_that_both_are_alike():
    found = part(MOTORS, U, 2, 2)
    pairs = found.sets
    assert (len(found.left_over), found.short) == (1, 0.0)
    assert len({t for s in pairs for t in s.motors}) == 4

    def together(*sets):
        return sum(score(np.array([FIVE[t] for t in s]), np.array(list(U.values()))) for s in sets)

    every = [(p, q) for p in combinations("abcde", 2) for q in combinations("abcde", 2) if not set(p) & set(q)]
    assert sum(s.score for s in pairs) == pytest.approx(min(together(*two) for two in every))


def test_two_sets_of_four_out_of_nine_take_eight():
    nine = {f"m{i}": {"kv": 3400.0 + 10 * i + 200 * (i == 4)} for i in range(9)}
    found = part(nine, {"kv": 17.0}, 4, 2)
    assert [s.motors for s in found.sets] == [("m0", "m1", "m2", "m3"), ("m5", "m6", "m7", "m8")]
    assert found.left_over == ("m4",)


@pytest.mark.long
def test_forty_motors_into_ten_sets_of_four_is_proven_to_be_the_best():
    rng = np.random.default_rng(1)
    forty = {f"m{i:02}": dict(zip("abcd", 3 * rng.normal(size=4), strict=True)) for i in range(40)}
    found = part(forty, dict.fromkeys("abcd", 1.0), 4, 10)
    assert sorted(t for s in found.sets for t in s.motors) == sorted(forty)
    assert found.short == 0.0
    assert sum(s.score for s in found.sets) == pytest.approx(24.4585, abs=1e-3)


@pytest.mark.parametrize("seed", range(5))
def test_a_parting_is_as_good_as_the_best_of_all(seed):
    rng = np.random.default_rng(seed)
    values = {
        t: {"kv": float(x), "amps": float(y)} for t, (x, y) in zip("abcdef", rng.normal(size=(6, 2)), strict=True)
    }
    u = {"kv": 0.3, "amps": 0.5}

    def sum_of(*sets):
        return sum(best_sets({t: values[t] for t in s}, u, 3).best.score for s in sets)

    every = [sum_of(s, set("abcdef") - set(s)) for s in combinations("abcdef", 3)]
    assert sum(s.score for s in part(values, u, 3, 2).sets) == pytest.approx(min(every))


@pytest.mark.parametrize(
    ("take", "words"), [(1, "two motors at least"), (6, "a set of 6 out of 5"), (0, "two motors at least")]
)
def test_a_set_that_cannot_be_is_refused(take, words):
    with pytest.raises(InputError, match=words):
        best_sets(MOTORS, U, take)


def test_more_sets_than_can_be_looked_at_and_too_few_motors_are_refused():
    with pytest.raises(InputError, match="too many"):
        best_sets({f"m{i}": {"kv": float(i)} for i in range(40)}, {"kv": 1.0}, 8)
    with pytest.raises(InputError, match="too many"):
        part({f"m{i}": {"kv": float(i)} for i in range(40)}, {"kv": 1.0}, 6, 5)
    with pytest.raises(InputError, match="one machine at least"):
        part(MOTORS, U, 2, 0)
    with pytest.raises(InputError, match="take 6 motors, 5 compare"):
        part(MOTORS, U, 2, 3)


@pytest.mark.parametrize("motors", [2, 3, 5, 12])
def test_where_there_is_no_difference_one_is_called_in_one_of_ten_at_most(motors):
    rng = np.random.default_rng(5)
    called = [
        counts([ComparedValue(str(i), x, 1.0) for i, x in enumerate(rng.standard_normal(motors))]) for _ in range(4000)
    ]
    assert np.mean(called) <= 0.115


def test_a_difference_of_nearly_three_uncertainties_is_found_in_four_of_five():
    rng = np.random.default_rng(6)
    u = 1.0  # of the difference, so 1/√2 each
    found = [
        counts(
            [
                ComparedValue("a", rng.standard_normal() / 2**0.5, u / 2**0.5),
                ComparedValue("b", 2.8 * u + rng.standard_normal() / 2**0.5, u / 2**0.5),
            ]
        )
        for _ in range(4000)
    ]
    assert np.mean(found) >= 0.8


@given(st.floats(10, 5000), st.floats(10, 5000))
def test_a_difference_has_two_sides(a, b):
    one, other = ComparedValue("a", a, 20.0), ComparedValue("b", b, 20.0)
    there, back = difference(one, other, QUANTITIES["kv"]), difference(other, one, QUANTITIES["kv"])
    assert (there.value, there.p) == pytest.approx((-back.value, back.p))


def test_a_faster_and_a_thirstier_motor_are_named_in_the_others_own_per_cent():
    rows = rows_of(contender("x"), contender("y", kv=3500.0), contender("z", amps=2.6))
    assert row_words(rows["kv"]) == "y turns 2.9 % faster"
    assert row_words(rows["no_load_current"]) == "z draws 30 % more"
    rows = rows_of(contender("x", amps=3.1), contender("y", amps=7.8))
    assert row_words(rows["no_load_current"]) == "y draws much more (×2.5)"
    rows = rows_of(contender("x"), contender("y", kv=3500.0), contender("z", amps=2.6))
    assert sure_words(rows["kv"]) == "99 in 100"
    assert row_words(rows["noise_avg"]) == "no difference that counts"
    assert sure_words(rows["noise_avg"]) == "could be chance"


def test_timing_is_brought_to_that_of_the_first_by_the_price_of_a_degree():
    early = contender("y", timing=(24.3, 23.7, 24.0), kv=3400 * 1.02, amps=2.0 * np.exp(0.2))
    rows = rows_of(contender("x"), early)
    brought = rows["kv"].values[1]
    assert brought.brought_deg == pytest.approx(-4)
    assert brought.value == pytest.approx(3400 * 1.02 * 0.98)
    assert rows["no_load_current"].values[1].value == pytest.approx(2.0)
    assert not rows["kv"].counts
    assert rows["timing_mean"].counts
    assert brought.u > rows["kv"].values[0].u


def test_what_was_read_on_another_rig_is_parted_and_said():
    other = contender("z", under={"rig": "elsewhere"})
    row = rows_of(contender("x"), contender("y"), other)["noise_avg"]
    assert {s.tag for s in row.values} == {"x", "y"}
    assert [(p.tag, p.why) for p in row.parted] == [("z", "noise: another rig")]


def test_one_motor_alone_in_a_row_compares_with_nothing():
    row = rows_of(contender("x"), contender("z", under={"rig": "elsewhere"}))["noise_avg"]
    assert row.largest is None
    assert row_words(row) == "nothing to compare with"


def test_which_is_better_for_what():
    worn = {"noise": 86.0, "amps": 2.6, "wander": 1.2, "surface": 52.0, "peaks": (15.0, 15.2, 15.1, 15.3) * 3}
    rows = list(rows_of(contender("x"), contender("y", kv=3600.0), contender("z", kv=3300.0, **worn)).values())
    found = {b.use: b for b in better_for(rows)}
    assert found["speed"].best == "y"
    assert found["long life"].best is None
    assert better_words(found["speed"], rows) == "y is better for speed: turns 5.9 % faster, 99 in 100"
    assert "z" in found["economy"].behind
    without_start = [b for b in found.values() if b.use not in ("smooth start", "hold")]
    assert better_in_nothing(rows, without_start) == ["z"]


def test_a_set_is_called_as_alike_as_can_be_read_only_when_it_is():
    assert set_words(("a", "b"), True, 0.1) == "a and b: as alike as two can be read."
    assert (
        set_words(("a", "b", "c"), False, 4.0)
        == "a, b and c are the most alike; they differ by 2 times what reading them leaves open."
    )


def test_equal_values_of_a_row_without_spread_differ_in_nothing():
    quantity = QUANTITIES["kv"]
    row = Row(quantity, (ComparedValue("a", 1.0, 0.1), ComparedValue("b", 1.0, 0.1)), ())
    assert difference(*row.values, quantity).p == 0


def loud_on(tag, rig, level, **more):
    return contender(tag, noise=level, under={"rig": rig} | more)


def test_what_another_rig_read_is_translated_marked_and_less_sure():
    louder = Translation(1.1, -2.0, 0.02, 1.5, -0.029, 0.4, 7)
    known = {("elsewhere", "bench", "noise_avg"): louder}
    three = (contender("x"), contender("y"), loud_on("z", "elsewhere", 80.0))
    row = {r.quantity.name: r for r in compare(three, default_repeatability, known)}["noise_avg"]
    assert row.parted == ()
    mine = row.values[2]
    assert (mine.from_rig, [s.from_rig for s in row.values[:2]]) == ("elsewhere", ["", ""])
    assert mine.value == pytest.approx(1.1 * 80 - 2, abs=0.2)
    assert mine.u > row.values[0].u
    assert {r.quantity.name: len(r.parted) for r in compare(three, default_repeatability, known)}["kv"] == 1


def test_another_voltage_is_brought_to_equal_where_it_is_near_enough():
    rows = rows_of(contender("x"), contender("y", volts=8.4))
    current = rows["no_load_current"].values[1]
    assert current.value == pytest.approx(2.0 * (7.4 / 8.4) ** 0.6)
    assert current.from_volts == pytest.approx(8.4)
    assert current.u > rows["no_load_current"].values[0].u
    far = rows_of(contender("x"), contender("y", volts=14.8))["no_load_current"]
    assert [p.condition for p in far.parted] == ["supply_v"]
    assert [p.condition for p in rows["noise_avg"].parted] == ["supply_v"]


def test_a_motors_own_sweep_sets_its_price_of_a_degree():
    pulls = [TimingPull(t, 2.0 * np.exp(0.09 * (t - 20))) for t in (20, 26, 32, 38)]
    steep = replace(contender("y", timing=(24.3, 23.7, 24.0)), price=Price(*growth_and_u(pulls)))
    usual = rows_of(contender("x"), contender("y", timing=(24.3, 23.7, 24.0)))["no_load_current"].values[1]
    own = rows_of(contender("x"), steep)["no_load_current"].values[1]
    assert usual.value == pytest.approx(2.0 * np.exp(-0.05 * 4))
    assert own.value == pytest.approx(2.0 * np.exp(-4 * growth_and_u(pulls)[0]))
    assert own.value < usual.value
    assert own.u < usual.u


def test_another_warmth_is_brought_to_equal_and_said_beyond_three_kelvin():
    rows = rows_of(contender("x"), contender("y", under={"motor_c": 40.0}))
    row = rows["no_load_current"]
    assert row.parted == ()
    assert row.values[1].value == pytest.approx(2.0 * (1 + 0.003 * 15))
    assert row.values[1].u == pytest.approx(np.hypot(row.values[0].u * (1 + 0.003 * 15), 2.0 * 0.003 * 15))
    assert [s.brought_k for s in row.values] == [0.0, -15.0]
    near = rows_of(contender("x"), contender("y", under={"motor_c": 28.0}))["no_load_current"]
    assert [s.brought_k for s in near.values] == [0.0, 0.0]
    assert speed_per_amp(list(rows.values())) == {}


def test_a_motor_read_once_is_marked():
    once = Contender(*_once("y"))
    assert [s.once for s in rows_of(contender("x"), once)["kv"].values] == [False, True]


def _once(tag):
    h = history(full(0, runs=1), motor=Motor(tag, label_kv=3450, poles=4, poles_known_by="counted"))
    return h.motor, latest_of(all_groups(h))


def test_speed_per_amp_is_shown_only_in_one_condition():
    alike = compare([contender("x"), contender("y", kv=3300.0)], default_repeatability)
    assert speed_per_amp(alike) == pytest.approx({"x": 1700, "y": 1650}, rel=0.01)
    for other in (contender("y", timing=(25.3, 24.7, 25.0)), contender("y", under={"rig": "elsewhere"})):
        assert speed_per_amp(compare([contender("x"), other], default_repeatability)) == {}


def test_the_reading_that_would_tell_two_sets_apart_is_of_a_motor_of_theirs():
    found = best_sets(MOTORS, U, 2)
    tag, quantity = telling(MOTORS, U, found.best, found.runners_up[0])
    assert (tag, quantity) == ("b", "kv")
    far = {"a": {"kv": 1.0}, "b": {"kv": 1.2}, "c": {"kv": 9.0}}
    pairs = best_sets(far, {"kv": 0.1}, 2)
    assert telling(far, {"kv": 0.1}, pairs.best, pairs.runners_up[0]) is None


def test_the_critical_ranges_are_those_of_the_studentised_range():
    from scipy.stats import studentized_range  # a second that only this test needs

    assert set(CRITICAL_90) == set(range(2, MOST_MOTORS + 1))
    for n, critical in CRITICAL_90.items():
        assert critical == pytest.approx(studentized_range.ppf(0.9, n, math.inf), abs=6e-4)
