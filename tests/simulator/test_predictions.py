"""What is predicted against what the motors of the simulated bench then do: other motors, packs and propellers each
time, constants fitted from rows as a hand meter reads them."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.optimize import brentq

from waldhorn.core.base.errors import InputError
from waldhorn.core.predicting import constants
from waldhorn.core.predicting.constants import Row
from waldhorn.core.predicting.operating_point import Load, Pack, constant_of_row, operating_point
from waldhorn.core.predicting.prediction import Measured, predict
from waldhorn.simulator.motor_model import Build, MotorModel

WARM_C = 30.0


def a_motor(rng):
    kv = float(np.exp(rng.uniform(np.log(700), np.log(5200))))
    volts = float(np.clip(11_000 / kv * rng.uniform(1.2, 2.8), 5, 26))
    ohm = float(volts / (40 * rng.uniform(6, 14)))
    return MotorModel(Build(kv, ohm, volts, float(rng.uniform(0.02, 0.05) * volts / ohm / 10), 4, 12))


def a_propeller(motor, rest):
    """One that draws fourteen times the no-load current."""
    wanted = 14 * motor.build.no_load_a
    return float(np.exp(brentq(lambda k: motor.driving(rest, 0.02, np.exp(k), WARM_C).amps - wanted, -41.0, -7.0)))


def read(rng, volts, amps, rpm):
    """As a hand meter shows it."""
    gain_v, gain_a, gain_n = (1 + u * float(rng.standard_normal()) for u in (0.003, 0.012, 0.001))
    return Row(round(volts * gain_v, 2), round(amps * gain_a, 2), round(rpm * gain_n, -1))


@pytest.fixture(scope="module")
def told():
    """Prediction and true amps, and whether the truth lies in the band, of three hundred motors, at half to one and a
    half times the volts and a third to twice the load that were read."""
    rng, found = np.random.default_rng(13), []
    while len(found) < 300:
        motor = a_motor(rng)
        rest = motor.build.rated_v
        idle = [motor.spin(rest * share, WARM_C) for share in (1.0, 1.0, 0.6)]
        some = a_propeller(motor, rest)
        driven = [motor.driving(rest * share, 0.02, some, WARM_C) for share in (1.0, 0.85)]
        rows = [read(rng, s.volts, s.amps, s.rpm) for s in (*idle, *driven)]
        no_load = float(np.median([r.amps for r in rows[:2]]))
        try:
            grows = constants.no_load_current(rows[:3])
            fitted = replace(constants.fit(rows, no_load), no_load=grows)
        except InputError:
            continue
        pack = Pack(rest * rng.uniform(0.5, 1.5), float(rng.uniform(0.005, 0.04)))
        taken = rows[3]
        k = constant_of_row(fitted, taken.volts, taken.amps)
        share = float(
            np.exp(rng.uniform(np.log(0.3), np.log(2.0)))
        )  # another propeller of known size against the one that was read
        asked = Load(k * share)
        shown = predict(fitted, Measured(tuple(rows), no_load, no_load=grows), pack, asked, own_row=3)
        inner = pack.inner_ohm * (1 + 0.1 * float(rng.standard_normal()))  # no pack is quite as it was
        amps = motor.driving(pack.rest_v, inner, some * share, WARM_C).amps
        low, high = shown.band["amps"]
        found.append((shown.outcome.amps, amps, low <= amps <= high))
    return found


def test_the_amps_are_within_five_percent_in_nine_of_ten(told):
    near = np.mean([abs(said / true - 1) < 0.05 for said, true, _ in told])
    assert near >= 0.9, f"{near:.3f}"


def test_the_band_holds_what_it_says(told):
    inside = np.mean([held for *_, held in told])
    assert 0.88 <= inside <= 0.97, f"{inside:.3f}"


def test_what_is_foretold_never_contradicts_the_row_it_was_made_from():
    """On the very pack that drove the row, amps come out as read and the speed as near as the fit is known."""
    rng, off = np.random.default_rng(29), []
    while len(off) < 100:
        motor = a_motor(rng)
        rest = motor.build.rated_v
        idle = [motor.spin(rest * share, WARM_C) for share in (1.0, 1.0, 0.6)]
        some = a_propeller(motor, rest)
        rows = [read(rng, s.volts, s.amps, s.rpm) for s in (*idle, motor.driving(rest, 0.02, some, WARM_C))]
        no_load = float(np.median([r.amps for r in rows[:2]]))
        try:
            fitted = replace(constants.fit(rows, no_load), no_load=constants.no_load_current(rows[:3]))
        except InputError:
            continue
        own = rows[3]
        pack = Pack(own.volts + own.amps * 0.02, 0.02)
        load = Load(constant_of_row(fitted, own.volts, own.amps))
        shown = predict(fitted, Measured(tuple(rows), no_load, no_load=fitted.no_load), pack, load, own_row=3)
        assert shown.outcome.amps == pytest.approx(own.amps, rel=1e-6)
        low, high = shown.band["rpm"]
        off.append(not low <= own.rpm <= high)
    assert np.mean(off) == 0, np.mean(off)


def test_more_volts_draw_more_and_a_heavier_propeller_turns_slower():
    motor = constants.Constants(0.11, 920, 0.55, 0.004, 4)
    light, heavy = (operating_point(motor, Pack(12.6, 0.02), Load(k)) for k in (1e-10, 1.5e-10))
    assert heavy.rpm < light.rpm
    assert heavy.amps > light.amps
    assert operating_point(motor, Pack(14.8, 0.02), Load(1e-10)).amps > light.amps
    geared = operating_point(motor, Pack(12.6, 0.02), Load(1e-10, gear=2.0))
    assert geared.rpm > light.rpm
    assert geared.amps < light.amps


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        ([(3.7, 0.40, 3364), (7.4, 0.47, 6760), (11.1, 0.55, 10156)], "three rows without load cannot tell R"),
        ([(10.8, 9.0, 9025)], "one row cannot tell R and Kv apart"),
        ([(10.8, 9.0, 9025), (10.8, 9.0, 9025)], "all alike"),
        ([(11.1, 0.55, 10156), (11.0, 5.6, 10000)], "do not tell R better than"),
    ],
)
def test_rows_that_cannot_tell_are_refused_in_words(rows, says):
    with pytest.raises(InputError) as refused:
        constants.fit([Row(*r) for r in rows], 0.55)
    assert says in refused.value.sentence


def test_a_pack_that_cannot_turn_it_is_refused():
    with pytest.raises(InputError, match="do not turn this load"):
        operating_point(constants.Constants(0.11, 920, 0.55, 0, 0), Pack(0.05, 0.02), Load(1e-10))
