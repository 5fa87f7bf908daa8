"""What a degree of timing buys and costs: closed form, a motor's own sweep, the simulated bench, suggestions."""

import math
from dataclasses import replace

import numpy as np
import pytest

from waldhorn.core.base.errors import InputError
from waldhorn.core.comparing.equal_conditions import Price
from waldhorn.core.measuring.end_bell import TimingPull
from waldhorn.core.predicting import timing_price
from waldhorn.core.predicting.constants import Constants
from waldhorn.core.predicting.operating_point import Load, Outcome, Pack, load_constant, operating_point
from waldhorn.core.predicting.timing_price import Slopes, further_on, of_a_degree, over_timing, slopes_of, suggest
from waldhorn.simulator.motor_model import Build, Condition, MotorModel

BUILD = Build(3430, 0.016, 7.4, 2.25, 4, 12)
MOTOR = Constants(0.016, 3430, 2.25, 0.001, 10)
PACK, LOAD = Pack(7.4, 0.02), Load(load_constant(250, 20_000))
SURE = Slopes(Price(0.005, 0.0), Price(0.05, 0.0))


def test_without_a_sweep_it_is_what_is_usual_and_with_one_it_is_the_motors_own():
    assert slopes_of([]) == Slopes(Price(0.005, 0.002), Price(0.05, 0.02))
    sweep = [
        TimingPull(deg, 2.0 * math.exp(0.08 * (deg - 20)), 25_000 * math.exp(0.009 * (deg - 20)))
        for deg in (10, 20, 30)
    ]
    found = slopes_of(sweep)
    assert found.speed.per_deg == pytest.approx(0.009, abs=1e-4)
    assert found.current.per_deg == pytest.approx(0.08, abs=2e-3)
    assert found.speed.u < 0.0003
    near = slopes_of([TimingPull(20, 2.0, 25_000), TimingPull(21, 2.0, 25_000)])
    assert near.speed == Price(0.005, 0.002)


def test_a_degree_is_what_turning_the_end_bell_by_one_brings():
    by = of_a_degree(MOTOR, PACK, LOAD, SURE)
    half = [operating_point(further_on(MOTOR, deg, SURE), PACK, LOAD) for deg in (-0.5, 0.5)]
    assert by["amps"] == (pytest.approx(half[1].amps - half[0].amps), 0.0)
    assert by["rpm"][0] > 0 > by["efficiency"][0]
    assert by["heat_w"][0] > 0
    doubtful = of_a_degree(MOTOR, PACK, LOAD, slopes_of([]))
    assert doubtful["amps"][0] == pytest.approx(by["amps"][0])
    assert doubtful["amps"][1] > 0.1
    with pytest.raises(InputError):
        of_a_degree(MOTOR, Pack(0.001, 0.02), LOAD, SURE)


def test_it_predicts_what_the_simulated_bench_then_does():
    rng, near = np.random.default_rng(3), []
    for _ in range(60):
        build = replace(BUILD, kv=float(rng.uniform(1500, 5000)), no_load_a=float(rng.uniform(1.2, 3.5)))
        k = load_constant(float(rng.uniform(80, 260)), build.kv * 7.4 * 0.82)
        told = of_a_degree(
            Constants(build.resistance_ohm, build.kv, build.no_load_a, 0, 0), PACK, Load(k), slopes_of([])
        )
        spun = [MotorModel(build, Condition(board_turned_deg=deg)).driving(7.4, 0.02, k) for deg in (0.0, 1.0)]
        for name in ("amps", "rpm"):
            value, u = told[name]
            near.append(abs(getattr(spun[1], name) - getattr(spun[0], name) - value) < 1.645 * u)
    assert np.mean(near) >= 0.9


def outcomes(*figures):
    """Outcomes at degrees from −1 on, of amps, rpm, efficiency and heat."""
    return [
        (float(deg), Outcome(amps, 7, rpm, 100, 80, share, heat))
        for deg, (amps, rpm, share, heat) in enumerate(figures, -1)
    ]


RISING = outcomes(
    (30, 18_000, 0.88, 28),
    (32, 18_200, 0.87, 30),
    (34, 18_400, 0.86, 33),
    (36, 18_600, 0.85, 36),
    (38, 18_800, 0.84, 39),
)


@pytest.mark.parametrize(
    ("ratings", "furthest", "held_by"),
    [({}, 2.0, "heat_w"), ({"amps": 35}, 1.0, "amps"), ({"rpm": 18_300}, 0.0, "rpm"), ({"amps": 36}, 2.0, "amps")],
)
def test_top_speed_goes_as_far_as_ratings_and_heat_allow(ratings, furthest, held_by):
    thrifty, fast = suggest(RISING, ratings)
    assert (thrifty.by_deg, thrifty.held_by) == (-1.0, "range")
    assert (fast.by_deg, fast.held_by) == (furthest, held_by)


def test_what_gets_no_faster_is_not_turned_further_and_no_course_suggests_nothing():
    flat = outcomes((30, 18_000, 0.86, 28), (32, 18_200, 0.87, 30), (34, 18_200, 0.86, 33))
    thrifty, fast = suggest(flat, {})
    assert (thrifty.by_deg, fast.by_deg, fast.held_by) == (0.0, 0.0, "no_faster")
    assert thrifty.held_by == "best"
    assert suggest([], {}) is None
    assert suggest(RISING[2:], {}) is None


def test_what_cannot_be_turned_is_left_out():
    assert over_timing(MOTOR, Pack(0.001, 0.02), LOAD, SURE, (0.0, 1.0)) == []
    assert [deg for deg, _ in over_timing(MOTOR, PACK, LOAD, SURE, (-2.0, 0.0, 2.0))] == [-2.0, 0.0, 2.0]
    assert (timing_price.FURTHEST_DEG, timing_price.MOST_HEAT, timing_price.SPEED_U) == (5, 1.25, 0.003)
