"""No-load current: when two readings compare, and speed per amp.

No-load current compares at one voltage (within 2 %), one timing, one rig and a similar temperature only. Not for
load rows (see `load`).
"""

import math
from collections.abc import Sequence

import numpy as np

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import SetUp
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs
from waldhorn.core.measuring.end_bell import CURRENT_PER_DEG, CURRENT_PER_DEG_U
from waldhorn.core.measuring.quantity import (
    BEARINGS,
    BOARD,
    REWOUND,
    ROTOR,
    TIMING,
    WARMTH,
    BenchTest,
    BetweenMotors,
    Limits,
    Quantity,
)


def speed_per_amp(kv: float, no_load_current_a: float) -> float:
    """Speed per volt bought by each amp: a guide for two motors in the same condition, not a score.

    Parameters
    ----------
    kv : float
        rpm/V.
    no_load_current_a : float
        A, same run.

    Returns
    -------
    float
        rpm/V per A.

    Raises
    ------
    InputError
        The current is not above zero.

    Notes
    -----
    Formula: rpm per amp = KV / I0

    Source: bench practice.

    Examples
    --------
    >>> round(speed_per_amp(3391, 2.27))
    1494
    """
    if no_load_current_a <= 0:
        raise InputError("amps", f"current {no_load_current_a:g} A must be above 0 to divide by")
    return kv / no_load_current_a


def growth_over_settings(points: Sequence[tuple[float, float]]) -> float:
    """How steeply the no-load current grows over the throttle settings: about 1 for a sound motor, bent up by drag.

    Parameters
    ----------
    points : sequence of (float, float)
        Throttle in percent and A, at three or more settings, both above 0.

    Returns
    -------
    float
        No unit.

    Raises
    ------
    InputError
        Fewer than two different steps, or a current that is not above zero.

    Notes
    -----
    Formula: ln I0 = k + n·ln(throttle) by least squares; n

    Source: bench practice.

    Examples
    --------
    >>> round(growth_over_settings([(25, 0.5), (50, 1.0), (100, 2.0)]), 6)
    1.0
    """
    if len({t for t, _ in points}) < 2 or min(min(p) for p in points) <= 0:
        raise InputError("step", "two different settings at least, with currents above 0")
    slope, _ = np.polyfit([math.log(t) for t, _ in points], [math.log(a) for _, a in points], 1)
    return float(slope)


def of_run(given: Inputs) -> Derived:
    """No-load current of a run; the volts read at the motor beside it become its supply condition."""
    amps = given.one("no_load_current")
    return Derived(amps, amps, supply_v=given.maybe("supply_volts"))


NO_LOAD_CURRENT = Quantity(
    name="no_load_current",
    set_up=SetUp.SUPPLY,
    title="no-load current",
    symbol="A",
    unit="A",
    limits=Limits(15, 30),
    repeatability=3,
    made=(DerivationRule(of="no_load_current", run_maybe=("supply_volts",), make=of_run, full_throttle=True),),
    same=("rig", "throttle_pct", "supply_v", "timing_set_deg"),
    per_kelvin=WARMTH,
    reset_by=frozenset({BEARINGS, ROTOR, TIMING, BOARD, REWOUND}),
    may_slip=True,
    test=BenchTest("pull", "full-throttle pull", 40),
    relative=True,
    resolution=0.5,
    natural_spread=8,
    decimals=2,
    sayings=("Draws {} more", "Draws {} less", "Draws the same"),
    part="bearings",
    between=BetweenMotors(
        more="draws {} more",
        less="draws {} less",
        uses={"economy": -1.0, "long life": -0.5},
        good_enough=8.0,
        over_volts=(0.6, 0.25),
        per_degree=(CURRENT_PER_DEG, CURRENT_PER_DEG_U),
        quick=True,
    ),
    glance=2,
    on_tag=2,
)
