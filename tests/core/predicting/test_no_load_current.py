"""The no-load current at another speed than it was read at, and what it does to a prediction."""

from dataclasses import replace

import pytest

from waldhorn.core.predicting.constants import Constants, Row, fit, no_load_current, shaft_power, wound_for
from waldhorn.core.predicting.operating_point import Load, Pack, load_constant, operating_point
from waldhorn.core.predicting.prediction import Measured, predict

IDLE = (Row(3.7, 0.40, 3364), Row(7.4, 0.47, 6760), Row(11.1, 0.55, 10156))
DRIVEN = (Row(10.8, 9.0, 9025), Row(10.4, 14.0, 8151))
FIXED = Constants(0.110, 920, 0.55, 0.0042, 4)
SPOKEN = replace(FIXED, no_load=no_load_current(IDLE))


def test_a_propeller_at_other_volts_takes_what_the_losses_at_its_speed_leave():
    k = load_constant(shaft_power(FIXED, 10.8, 9.0), 9025)
    told = operating_point(SPOKEN, Pack(16.8, 0.020), Load(k))
    assert (round(told.amps, 2), round(told.rpm, -1)) == (
        pytest.approx(18.74, rel=5e-3),
        pytest.approx(13_215, rel=5e-3),
    )
    assert told.efficiency == pytest.approx(0.846, abs=0.002)
    assert operating_point(FIXED, Pack(16.8, 0.020), Load(k)).efficiency == pytest.approx(0.849, abs=0.002)


def test_one_speed_alone_goes_by_a_power_and_leaves_a_wider_band():
    one = no_load_current(IDLE[-1:])
    assert one.per_rpm is None
    assert float(one.at(2 * one.rpm)) == pytest.approx(0.55 * 2**0.6)
    load = Load(load_constant(0.5, 9000))  # light: the losses are most of what it takes
    bands = []
    for rows in (IDLE, IDLE[-1:]):
        known = Measured((*IDLE, *DRIVEN), 0.55, no_load=no_load_current(rows))
        found = replace(fit(known.rows, 0.55), no_load=known.no_load)
        low, high = predict(found, known, Pack(40.0, 0.02), load).band["amps"]
        bands.append(high - low)
    assert bands[1] > 1.1 * bands[0]


def test_speeds_that_lie_near_each_other_draw_no_line():
    near = [Row(10.0, 0.50, 9_200), Row(10.5, 0.60, 9_600), Row(11.0, 0.40, 10_100)]
    assert no_load_current(near).per_rpm is None
    assert no_load_current([]) is None


def test_another_winding_keeps_the_torque_of_its_losses():
    other = wound_for(SPOKEN, 1150)
    for rpm in (4000.0, 13_215.0):
        assert other.no_load_at(rpm) * other.torque_constant == pytest.approx(
            SPOKEN.no_load_at(rpm) * SPOKEN.torque_constant
        )


@pytest.mark.parametrize("row", DRIVEN)
def test_a_row_comes_back_from_the_prediction_that_was_made_from_it(row):
    pack = Pack(row.volts + 0.02 * row.amps, 0.02)
    told = operating_point(SPOKEN, pack, Load(load_constant(shaft_power(SPOKEN, row.volts, row.amps), row.rpm)))
    assert told.amps == pytest.approx(row.amps, rel=0.01)
    assert told.rpm == pytest.approx(row.rpm, rel=0.01)
