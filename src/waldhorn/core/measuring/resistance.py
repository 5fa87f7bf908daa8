"""Winding resistance: three pairs of leads measured with four wires, what the phases are, and how unequal they are.

For a shorted turn and a bad joint, which change a pair by a few percent. Not for two-wire readings: a few milliohms of
clip and lead are as much as the winding. While it is measured the winding warms: short pulses, both polarities.

References
----------
.. [1] IEC 60034-1, Rotating electrical machines: rating and performance (resistance of copper with temperature).
.. [2] Star-delta theorem.
.. [3] Bench practice.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import SetUp
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs
from waldhorn.core.measuring.quantity import REWOUND, BenchTest, BetweenMotors, Limits, Quantity, named

_PAIR_NAMES = ("ab", "bc", "ca")
COUNTS_FROM = 0.02  # of a pair: four wires and their clips repeat to half a percent [3]
PAIRS = ("winding_resistance_ab", "winding_resistance_bc", "winding_resistance_ca")
REFERENCE_C = 25.0
_COPPER_C = 235.0  # copper would resist nothing at minus this, were it a straight line [1]


@dataclass(frozen=True, slots=True)
class Phases:
    """Resistance of each phase of a star, mΩ; a delta is shown as the star that measures the same."""

    a: float
    b: float
    c: float


def at_reference(milliohm: float, winding_c: float) -> float:
    """Resistance of a copper winding as it would be at 25 °C.

    Parameters
    ----------
    milliohm : float
        mΩ, as measured.
    winding_c : float
        °C of the winding, above -235.

    Returns
    -------
    float
        mΩ at 25 °C.

    Raises
    ------
    InputError
        A temperature at which copper does not follow the line.

    Notes
    -----
    Formula: R25 = R · (235 + 25) / (235 + T)

    Source: [1]_.

    Examples
    --------
    >>> round(at_reference(17.0, 38.0), 2)
    16.19
    """
    if winding_c <= -_COPPER_C:
        raise InputError("motor_c", f"{winding_c:g} °C cannot be: the winding has the temperature of the room or more")
    return milliohm * (_COPPER_C + REFERENCE_C) / (_COPPER_C + winding_c)


def phases(ab: float, bc: float, ca: float) -> Phases:
    """Resistance of each phase, from the three pairs.

    Parameters
    ----------
    ab, bc, ca : float
        mΩ between two leads.

    Returns
    -------
    Phases
        mΩ each.

    Raises
    ------
    InputError
        A pair that is larger than the two others together: no star measures so.

    Notes
    -----
    Formula: R_a = (ab + ca − bc) / 2, and round the letters

    Source: [2]_.

    Examples
    --------
    >>> found = phases(16.2, 16.2, 15.4)
    >>> round(found.a, 6), round(found.b, 6), round(found.c, 6)
    (7.7, 8.5, 7.7)
    """
    found = Phases((ab + ca - bc) / 2, (ab + bc - ca) / 2, (bc + ca - ab) / 2)
    if min(found.a, found.b, found.c) <= 0:
        raise InputError("winding_resistance_ab", "one pair is larger than the two others together: is a lead open?")
    return found


class Sign(StrEnum):
    """What pairs say that have moved from their own past."""

    SAME = "same"
    TURN = "turn"
    JOINT = "joint"
    ONE_PAIR = "one pair"
    ALIKE = "alike"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class Moved:
    """What three pairs have done since, by sign: of which lead or pair ("a", "bc"; empty where of none), and by how
    much, a share."""

    sign: Sign
    where: str = ""
    change: float = 0.0


def by_sign(past: Sequence[float], now: Sequence[float]) -> Moved:
    """What each pair against its own past says: a resistance cannot fall by a bad joint nor rise by a short.

    Parameters
    ----------
    past, now : three floats each
        mΩ at 25 °C: AB, BC, CA.

    Returns
    -------
    Moved

    Raises
    ------
    InputError
        A resistance that is not above zero.

    Notes
    -----
    Formula: one turn of N shorted in phase A: AB and CA fall by 1/(2N), BC stays; a lead or joint of +r at A: AB and CA
    rise by r, BC stays; one pair alone is the clip, or a phase of a delta (its pair by 0.69 of it, the others by 0.17);
    all alike the temperature or the meter. A change counts from 2 %: clips repeat to half a percent

    Source: [2]_, [3]_.

    Examples
    --------
    >>> by_sign([40.0, 40.0, 40.0], [37.5, 40.0, 37.5])
    Moved(sign=<Sign.TURN: 'turn'>, where='a', change=-0.0625)
    >>> found = by_sign([16.2, 16.2, 16.2], [17.8, 16.2, 17.8])
    >>> str(found.sign), found.where, round(found.change, 3)
    ('joint', 'a', 0.099)
    >>> [str(by_sign([40.0] * 3, now).sign) for now in ([37.24, 39.32, 39.32], [41.5] * 3, [40.0, 40.2, 39.9])]
    ['one pair', 'alike', 'same']
    """
    if min(*past, *now) <= 0:
        raise InputError("ab", "a resistance must be above 0")
    changes = [b / a - 1 for a, b in zip(past, now, strict=True)]
    order = sorted(range(3), key=lambda i: -abs(changes[i]))
    first, second, third = (changes[i] for i in order)
    if abs(first) < COUNTS_FROM:
        return Moved(Sign.SAME)
    if max(changes) - min(changes) < COUNTS_FROM:
        return Moved(Sign.ALIKE, "", sum(changes) / 3)
    if abs(second) < max(COUNTS_FROM, abs(first) / 3):
        return Moved(Sign.ONE_PAIR, _PAIR_NAMES[order[0]], first)
    if abs(third) < COUNTS_FROM and abs(first - second) < max(COUNTS_FROM, abs(first) / 2) and first * second > 0:
        [lead] = set(_PAIR_NAMES[order[0]]) & set(_PAIR_NAMES[order[1]])
        return Moved(Sign.TURN if first < 0 else Sign.JOINT, lead, (first + second) / 2)
    return Moved(Sign.OTHER)


def imbalance_pct(ab: float, bc: float, ca: float) -> float:
    """How far the pair that is furthest off lies from the mean of the three.

    Parameters
    ----------
    ab, bc, ca : float
        mΩ between two leads, above 0, at one temperature.

    Returns
    -------
    float
        Percent of the mean.

    Raises
    ------
    InputError
        A pair of 0 mΩ or less.

    Notes
    -----
    Formula: imbalance = 100 · max |R − mean| / mean

    Source: [3]_.

    Examples
    --------
    >>> round(imbalance_pct(16.2, 16.2, 15.4), 2)
    3.35
    """
    pairs = (ab, bc, ca)
    if min(pairs) <= 0:
        raise InputError("winding_resistance_ab", "a pair of 0 mΩ cannot be: is the meter on the leads?")
    mean = sum(pairs) / 3
    return 100 * max(abs(r - mean) for r in pairs) / mean


def of_run(given: Inputs) -> Derived:
    """Imbalance of a run in which all three pairs were read."""
    value = imbalance_pct(*(given.one(p) for p in PAIRS))
    return Derived(value, value)


RESISTANCE_IMBALANCE = Quantity(
    name="resistance_imbalance",
    set_up=SetUp.OHMMETER,
    title="winding imbalance",
    symbol="Rw",
    unit="%",
    limits=Limits(2, 4),
    repeatability=0.3,
    made=(DerivationRule(of=PAIRS[0], run=PAIRS[1:], make=of_run),),
    same=(),
    reset_by=frozenset({REWOUND}),
    test=BenchTest("resistance", "winding resistance of the three pairs", 120),
    absolute=True,
    resolution=0.1,
    natural_spread=0.4,
    typical=0.5,
    stands="Winding pairs {} apart",
    sayings=named("Winding imbalance"),
    part="winding",
    between=BetweenMotors(more="has phases {} less alike", less="has phases {} more alike"),
)
