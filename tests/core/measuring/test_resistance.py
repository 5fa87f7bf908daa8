"""Windings by sign: what three pairs say against their own past."""

import pytest

from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring.resistance import Sign, by_sign

NEW = (40.0, 40.4, 39.8)  # AB, BC, CA
SHARES = {
    "one turn of eight in B": ((-0.0625, -0.0625, 0.0), Sign.TURN, "b"),
    "a cold joint at C": ((0.0, 0.09, 0.09), Sign.JOINT, "c"),
    "the clip": ((0.0, 0.06, 0.0), Sign.ONE_PAIR, "bc"),
    "a phase of a delta": ((-0.017, -0.017, -0.069), Sign.ONE_PAIR, "ca"),
    "10 K warmer": ((0.0385, 0.0385, 0.0385), Sign.ALIKE, ""),
    "clips that repeat": ((0.004, -0.005, 0.003), Sign.SAME, ""),
    "up and down": ((0.06, -0.06, 0.0), Sign.OTHER, ""),
}


@pytest.mark.parametrize("name", SHARES)
def test_each_pair_against_its_own_past(name):
    shares, sign, where = SHARES[name]
    found = by_sign(NEW, [r * (1 + s) for r, s in zip(NEW, shares, strict=True)])
    assert (found.sign, found.where) == (sign, where)


def test_no_resistance_is_none():
    with pytest.raises(InputError, match="above 0"):
        by_sign(NEW, (40.0, 0.0, 40.0))
