"""Steadiness: how far the speed wanders while a step is held.

A healthy motor wanders by a few tenths of a per cent, one that fails by several per cent.

References
----------
.. [1] Bench practice.
"""

import math

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import SetUp
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs
from waldhorn.core.measuring.quantity import (
    BEARINGS,
    REWOUND,
    ROTOR,
    SHAFT,
    BenchTest,
    BetweenMotors,
    Limits,
    Quantity,
    named,
)


def wander(rpm_p2p: float, rpm: float) -> float:
    """How far the speed wanders at a step.

    Parameters
    ----------
    rpm_p2p : float
        rpm, peak to peak while the step was held.
    rpm : float
        rpm, mean.

    Returns
    -------
    float
        percent.

    Raises
    ------
    InputError
        The speed is not above zero.

    Notes
    -----
    Formula: 100·(peak to peak) / mean

    Source: [1]_.

    Examples
    --------
    >>> wander(50, 25_000)
    0.2
    """
    if rpm <= 0:
        raise InputError("rpm", f"speed {rpm:g} rpm must be above 0 to divide by")
    return 100 * rpm_p2p / rpm


def of_run(given: Inputs) -> Derived | None:
    """Wander of a run in which speed and peak to peak were read; None for a motor that stood still."""
    rpm = given.one("rpm")
    if rpm <= 0:
        return None
    value = wander(given.one("rpm_p2p"), rpm)
    return Derived(value, value, resolution=100 * display_step(rpm, given.one("rpm_p2p")) / rpm)


def display_step(*speeds: float) -> float:
    """The step of a display, as far as the speeds read from it tell.

    >>> display_step(25_160, 60), display_step(25_163, 61), display_step(25_000, 100), display_step(25_160.4, 60.1)
    (10.0, 1.0, 10.0, 0.1)
    """
    for step in (10.0, 1.0):  # a hundred would more often be chance than a display
        if all(math.isclose(s / step, round(s / step), abs_tol=1e-6) for s in speeds):
            return step
    return 0.1


SPEED_RIPPLE = Quantity(
    name="speed_ripple",
    set_up=SetUp.CLAMP,
    title="wander",
    symbol="±",
    unit="%",
    limits=Limits(0.5, 1.5),
    repeatability=0.06,
    made=(DerivationRule(of="rpm_p2p", run=("rpm",), make=of_run, full_throttle=True),),
    same=("rig", "throttle_pct"),
    reset_by=frozenset({BEARINGS, ROTOR, SHAFT, REWOUND}),
    test=BenchTest("pull", "wander at full throttle", 40),
    absolute=True,
    resolution=0.02,
    natural_spread=0.1,
    typical=0.2,
    strays_by=0.15,
    decimals=2,
    stands="Speed wanders by {}",
    sayings=named("Speed wanders"),
    part="shaft",
    between=BetweenMotors(
        more="wanders {} more", less="wanders {} less", uses={"long life": -0.5, "smooth start": -1.0}
    ),
    glance=3,
    on_tag=7,
)
