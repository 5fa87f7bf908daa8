"""Timing: the advance of the three phases in electrical degrees.

Not for the sensors' lamps (see `hall`), nor for setting it (see `end_bell`).

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (phase advance).
.. [2] Bench practice.
"""

from waldhorn.core.base.vocabulary import SetUp
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs, as_read
from waldhorn.core.measuring.quantity import (
    BOARD,
    REWOUND,
    ROTOR,
    TIMING,
    BenchTest,
    BetweenMotors,
    Limits,
    Quantity,
    named,
)
from waldhorn.core.motors.winding import whole_poles

PHASES = ("timing_a", "timing_b", "timing_c")


def mean_of_phases(a_deg: float, b_deg: float, c_deg: float) -> float:
    """Timing of the motor.

    Parameters
    ----------
    a_deg, b_deg, c_deg : float
        electrical degrees.

    Returns
    -------
    float
        electrical degrees.

    Notes
    -----
    Formula: mean = (A + B + C) / 3

    Source: definition.

    Examples
    --------
    >>> round(mean_of_phases(27.8, 28.4, 28.1), 2)
    28.1
    """
    return (a_deg + b_deg + c_deg) / 3


def spread_of_phases(a_deg: float, b_deg: float, c_deg: float) -> float:
    """How far the phases lie apart: up to 2° is good, to 4° worth watching, beyond it the board or the rotor.

    Parameters
    ----------
    a_deg, b_deg, c_deg : float
        electrical degrees.

    Returns
    -------
    float
        electrical degrees.

    Notes
    -----
    Formula: spread = max(A, B, C) − min(A, B, C)

    Source: [2]_.

    Examples
    --------
    >>> round(spread_of_phases(27.8, 28.4, 28.1), 2)
    0.6
    """
    return max(a_deg, b_deg, c_deg) - min(a_deg, b_deg, c_deg)


def mechanical(electrical_deg: float, poles: int) -> float:
    """Mechanical degrees at the end bell.

    Parameters
    ----------
    electrical_deg : float
        electrical degrees.
    poles : int
        Magnet faces.

    Returns
    -------
    float
        Mechanical degrees.

    Raises
    ------
    InputError
        A pole count that cannot be.

    Notes
    -----
    Formula: mechanical = electrical × 2 / P

    Source: definition of electrical degrees, [1]_.

    Examples
    --------
    >>> mechanical(28.0, 4)
    14.0
    """
    return electrical_deg * 2 / whole_poles(poles)


def mean_of_run(given: Inputs) -> Derived:
    """Mean timing of a sweep in which all three phases were read."""
    value = mean_of_phases(*(given.one(p) for p in PHASES))
    return Derived(value, value)


def spread_of_run(given: Inputs) -> Derived:
    """Spread of the phases of a sweep."""
    value = spread_of_phases(*(given.one(p) for p in PHASES))
    return Derived(value, value)


TIMING_MEAN = Quantity(
    name="timing_mean",
    set_up=SetUp.SWEEP,
    title="timing",
    symbol="°",
    unit="°",
    limits=Limits(2, 4),
    repeatability=0.5,
    made=(
        DerivationRule(of="timing_a", run=("timing_b", "timing_c"), make=mean_of_run),
        as_read("timing_mean"),
    ),
    same=("rig", "timing_set_deg"),
    reset_by=frozenset({ROTOR, TIMING, BOARD, REWOUND}),
    may_slip=True,
    test=BenchTest("timing", "timing sweep", 60, sensored_only=True),
    direction=0,
    resolution=0.1,
    natural_spread=3,
    sayings=("Timing {} further on", "Timing {} further back", "Timing the same"),
    part="sensors",
    between=BetweenMotors(more="is set {} further on", less="is set {} further back", good_enough=1.0, quick=True),
    glance=4,
    on_tag=4,
)

TIMING_SPREAD = Quantity(
    name="timing_spread",
    set_up=SetUp.SWEEP,
    title="timing spread",
    symbol="Δ°",
    unit="°",
    limits=Limits(2, 4),
    repeatability=0.5,
    made=(DerivationRule(of="timing_a", run=("timing_b", "timing_c"), make=spread_of_run),),
    reset_by=frozenset({ROTOR, BOARD, REWOUND}),
    test=BenchTest("timing", "timing sweep", 60, sensored_only=True),
    absolute=True,
    resolution=0.1,
    natural_spread=0.4,
    typical=0.9,
    stands="Phases {} apart",
    sayings=named("Phases", "{} further apart", "{} closer"),
    part="sensors",
    between=BetweenMotors(more="has phases {} further apart", less="has phases {} closer", uses={"smooth start": -0.5}),
    glance=4,
)
