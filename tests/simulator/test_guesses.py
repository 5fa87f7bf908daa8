"""What is said of motors that were never under load, against what the motors of the simulated bench then do."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.optimize import brentq

from waldhorn.core.base.history import Motor
from waldhorn.core.predicting import constants
from waldhorn.core.predicting.constants import Constants, Row
from waldhorn.core.predicting.guess import guess
from waldhorn.core.predicting.operating_point import Load, Pack, constant_of_row
from waldhorn.core.predicting.prediction import Measured, predict
from waldhorn.simulator.motor_model import MotorModel
from waldhorn.simulator.season import MODELS

WARM_C = 30.0


def propeller(model, times=12):
    wanted, rest = times * model.build.no_load_a, model.build.rated_v
    return float(np.exp(brentq(lambda k: model.driving(rest, 0.02, np.exp(k), WARM_C).amps - wanted, -41.0, -7.0)))


def said(found, model, k):
    told = predict(found.constants, found, Pack(model.build.rated_v, 0.02), Load(k))
    low, high = told.band["amps"]
    return low, high, model.driving(model.build.rated_v, 0.02, k, WARM_C).amps


def test_label_and_size_alone_hold_the_truth_in_a_wide_band_that_one_row_more_than_halves():
    held, narrower = [], []
    for motor, build, _ in MODELS.values():
        model = MotorModel(build)
        k = propeller(model)
        low, high, true = said(guess(motor, [], []), model, k)
        held.append(low <= true <= high)
        idle = [model.spin(build.rated_v * share, WARM_C) for share in (1.0, 1.0, 0.5)]
        driven = model.driving(build.rated_v, 0.02, k, WARM_C)
        rows = tuple(Row(s.volts, s.amps, s.rpm) for s in (*idle, driven))
        grows = constants.no_load_current(rows[:3])
        fitted = replace(constants.fit(rows, rows[0].amps), no_load=grows)
        load = Load(constant_of_row(fitted, driven.volts, driven.amps))
        told = predict(fitted, Measured(rows, rows[0].amps, no_load=grows), Pack(build.rated_v, 0.02), load, 3)
        narrower.append((told.band["amps"][1] - told.band["amps"][0]) / (high - low))
    assert sum(held) >= 4
    assert max(narrower) < 0.5


def test_siblings_hold_the_truth_in_nine_of_ten():
    rng, held = np.random.default_rng(5), []
    for motor, build, _ in MODELS.values():
        for _ in range(40):
            one, *others = [
                replace(
                    build,
                    kv=build.kv * (1 + 0.015 * float(rng.standard_normal())),
                    resistance_ohm=build.resistance_ohm * (1 + 0.06 * float(rng.standard_normal())),
                    no_load_a=build.no_load_a * (1 + 0.06 * float(rng.standard_normal())),
                )
                for _ in range(3)
            ]
            known = [
                (replace(motor, tag=f"S-{i}"), Constants(b.resistance_ohm, b.kv, b.no_load_a, 0.0, 0.0))
                for i, b in enumerate(others)
            ]
            model = MotorModel(one)
            low, high, true = said(guess(motor, [], known), model, propeller(model))
            held.append(low <= true <= high)
    assert 0.85 <= np.mean(held) <= 1.0, np.mean(held)


def test_what_is_nearer_to_the_motor_is_taken_first():
    sibling = (Motor("S", "Skerry 36", label_kv=3450, mass_g=178), Constants(0.016, 3400, 2.2, 0.001, 10))
    hotter = (replace(sibling[0], label_kv=4600), Constants(0.009, 4600, 3.0, 0.001, 10))
    motor = Motor("A", "skerry 36", label_kv=3450, mass_g=178)
    assert guess(motor, [], [hotter]).rests_on == ("its label", "its size")
    assert guess(motor, [], [sibling]).rests_on == ("its siblings S",)
    pulled = guess(motor, [Row(7.4, 2.0, 25_000)], [sibling])
    assert pulled.rests_on == ("its pulls", "its siblings S")
    assert pulled.constants.kv == pytest.approx(25_000 / (7.4 - 2.0 * pulled.constants.resistance_ohm))
    assert pulled.constants.no_load_a == 2.0
    assert guess(Motor("B", label_kv=3450), [], []) is None  # nothing tells its size
    assert guess(Motor("B", mass_g=178), [], []) is None  # nothing tells its KV
