"""Numbers as people write them, and units there and back."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.units import DIMENSIONS, read_number, to_stored


@pytest.mark.parametrize(
    ("text", "dimension", "low", "high", "value"),
    [
        ("7.4", "voltage", 0, 100, 7.4),
        ("7,4", "voltage", 0, 100, 7.4),
        (" 7.40 V ", "voltage", 0, 100, 7.4),
        ("12k", "speed", 0, 500_000, 12_000),
        ("25 120", "speed", 1000, 500_000, 25_120),
        ("25,120", "speed", 1000, 500_000, 25_120),
        ("25'120 rpm", "speed", 0, 500_000, 25_120),
        ("1,234,567", "speed", 0, 2_000_000, 1_234_567),
        ("1.234,5", "speed", 0, 500_000, 1234.5),
        ("2310 mA", "current", 0, 500, 2.31),
        ("3.2 A", "current", 0, 500, 3.2),
        ("110F", "temperature", -40, 300, 43.3333),
        ("−5 °C", "temperature", -40, 300, -5),
        ("0,125", "voltage", 0, 100, 0.125),
        ("7.", "voltage", 0, 100, 7),
    ],
)
def test_numbers_are_read_as_people_write_them(text, dimension, low, high, value):
    assert read_number(text, "it", dimension, low, high) == pytest.approx(value, rel=1e-5)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("seven", "is not a number"),
        ("", "is not a number"),
        ("7.4x", "is not a unit of voltage"),
        ("1,2,3", "is not a number"),
        ("74000", "is above 100"),
        ("-7", "is below 0"),
        ("1e999", "is not a unit"),
        ("7,400", None),
    ],
)
def test_what_cannot_be_is_refused_with_a_sentence(text, says):
    if says is None:
        assert read_number(text, "volts", "voltage", 0, 100) == 7.4  # 7400 V is not plausible, 7.4 V is
        return
    with pytest.raises(InputError, match=says):
        read_number(text, "volts", "voltage", 0, 100)


def test_a_meter_of_three_digits_reads_milliohms():
    assert read_number("40.255 mΩ", "resistance", "resistance", 0.1, 100_000) == 40.255
    assert read_number("1.255", "resistance", "resistance", 0.1, 100_000) == 1.255


def test_two_plausible_meanings_are_asked_about():
    with pytest.raises(InputError, match=r"could be 25.12 or 25120"):
        read_number("25,120", "rpm", "speed", 0, 500_000)


def test_torque_units_agree_with_standard_gravity():
    grams, lever_mm = 100, 30
    newton_mm = grams * 9.80665e-3 * lever_mm
    assert to_stored(grams * lever_mm / 10, "g·cm", "torque") == pytest.approx(newton_mm)
    assert to_stored(newton_mm / 7.0615518333, "oz·in", "torque") == pytest.approx(newton_mm, rel=1e-8)


@given(st.sampled_from(sorted(DIMENSIONS)), st.floats(0.01, 9999), st.data())
def test_a_number_written_in_any_unit_reads_back_as_itself(dimension, value, data):
    unit = data.draw(st.sampled_from(sorted(DIMENSIONS[dimension].written)))
    text = f"{value:.4f} {unit}"
    assert read_number(text, "it", dimension, -1e9, 1e9) == pytest.approx(
        to_stored(float(f"{value:.4f}"), unit, dimension)
    )
