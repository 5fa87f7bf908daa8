"""In which facts motors differ, and when they are windings of one model."""

import math

import pytest

from waldhorn.core.base.history import Motor
from waldhorn.core.comparing import uses
from waldhorn.core.comparing.facts_apart import facts_apart

ONE = Motor(
    "A",
    "Skerry 36",
    label_kv=2600,
    mass_g=178,
    lead_mm=160,
    lead_awg=14,
    price=80.0,
    rated_w=400.0,
    wire="0.2 × 12",
    rotor_mm=13.0,
    rotor_length_mm=25.0,
    own="colour: red",
)
OTHER = Motor(
    "B",
    "Skerry 36",
    label_kv=6500,
    mass_g=160,
    price=90.0,
    rated_w=300.0,
    wire="0.3 × 6",
    rotor_mm=13.0,
    rotor_length_mm=30.0,
    own="colour: blue\nbatch: 7",
)


def test_what_differs_is_told_with_units_and_against_the_first():
    rows = {row.title: row for row in facts_apart([ONE, OTHER])}
    assert set(rows) == {
        "label KV",
        "mass at one lead length",
        "rotor surface",
        "rated power",
        "price",
        "price of a rated watt",
        "wire",
        "colour",
    }
    assert rows["mass at one lead length"].told == {"A": "169.9", "B": "160"}
    assert rows["rotor surface"].told["A"] == f"{math.pi * 1.3 * 2.5:.2f}"
    assert rows["price of a rated watt"].told == {"A": "0.2", "B": "0.3"}
    assert rows["price of a rated watt"].per_cent["B"] == pytest.approx(50)
    assert rows["wire"].told == {"A": "0.2 × 12", "B": "0.3 × 6"}


def test_what_is_alike_or_known_of_one_alone_is_not_told():
    assert facts_apart([ONE, Motor("B", "skerry 36", label_kv=2600)]) == []


@pytest.mark.parametrize(
    ("other", "are"),
    [
        ({"label_kv": 3000}, True),
        ({"label_kv": 2700}, False),
        ({"label_kv": 2600, "turns": 5.5}, True),
        ({"label_kv": 2600, "model": "Gannet"}, False),
        ({"label_kv": 3900, "model": "Gannet"}, False),
    ],
)
def test_one_model_wound_otherwise_is_another_winding(other, are):
    first = Motor("A", "Skerry 36", label_kv=2600, turns=4.5)
    assert uses.are_windings([first, Motor("B", **({"model": "Skerry 36", "turns": 4.5} | other))]) is are


def test_a_use_that_weighs_nothing_but_kv_is_not_judged_between_windings():
    assert uses.without("kv", {"speed": {"kv": 1.0}, "economy": {"kv": -0.2, "no_load_current": -1.0}}) == {
        "economy": {"no_load_current": -1.0}
    }
