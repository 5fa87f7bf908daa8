"""Magnet strength, by two ways that must agree: detent grows with its square, KV goes as its inverse.

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (cogging torque; E = k ω).
.. [4] Bench practice.
"""

import math

from waldhorn.core.base.vocabulary import SetUp, Verdict
from waldhorn.core.measuring.derivation import as_read
from waldhorn.core.measuring.quantity import REWOUND, ROTOR, BenchTest, Limits, Quantity, named

AGREE_SIGMA = 2.0


def strength_from_detent(now_nmm: float, baseline_nmm: float) -> float:
    """Magnet strength against the baseline, from detent.

    Parameters
    ----------
    now_nmm, baseline_nmm : float
        Same unit, above 0.

    Returns
    -------
    float
        1 is as it was.

    Notes
    -----
    Formula: b = √(T / T₀)

    Source: cogging goes with the square of the flux, [1]_.

    Examples
    --------
    >>> round(strength_from_detent(15.9, 18.4), 3)
    0.93
    """
    return math.sqrt(now_nmm / baseline_nmm)


def strength_from_kv(now_kv: float, baseline_kv: float) -> float:
    """Magnet strength against the baseline, from KV.

    Parameters
    ----------
    now_kv, baseline_kv : float
        rpm/V at 25 °C, timing unchanged.

    Returns
    -------
    float
        1 is as it was.

    Notes
    -----
    Formula: b = KV₀ / KV

    Source: speed per volt goes with the inverse of the flux, [1]_.

    Examples
    --------
    >>> round(strength_from_kv(3660, 3400), 3)
    0.929
    """
    return baseline_kv / now_kv


def strengths_agree(from_kv: float, u_kv: float, from_detent: float, u_detent: float) -> bool:
    """Whether the two estimates of magnet strength agree; where they do not, the magnets are not the fault.

    Parameters
    ----------
    from_kv, from_detent : float
        1 is as it was.
    u_kv, u_detent : float
        Their standard uncertainties.

    Returns
    -------
    bool

    Notes
    -----
    Formula: |b_KV − b_T| ≤ 2·√(u_KV² + u_T²)

    Source: [4]_.

    Examples
    --------
    >>> strengths_agree(0.94, 0.005, 0.93, 0.01), strengths_agree(0.94, 0.005, 1.0, 0.01)
    (True, False)
    """
    return abs(from_kv - from_detent) <= AGREE_SIGMA * math.hypot(u_kv, u_detent)


MAGNET_UNEVENNESS = Quantity(
    name="magnet_unevenness",
    set_up=SetUp.PROBE,
    title="magnet unevenness",
    symbol="Mu",
    unit="%",
    limits=Limits(50, 100),
    repeatability=10,
    made=(as_read("magnet_unevenness"),),
    reset_by=frozenset({ROTOR, REWOUND}),
    test=BenchTest("timing", "magnet unevenness by the instrument", 60, sensored_only=True),
    relative=True,
    natural_spread=30,
    worst_means=Verdict.RETIRE,
    sayings=named("Magnet unevenness"),
)

MAGNET_STRENGTH = Quantity(
    name="magnet_strength",
    set_up=SetUp.LEVER,
    title="magnet strength",
    symbol="b",
    unit="%",
    made=(),
    limits=Limits(3, 6),
    repeatability=0.5,
    direction=-1,
    worst_means=Verdict.RETIRE,
    sayings=named("Magnets", "{} stronger", "{} weaker"),
    reset_by=frozenset({ROTOR, REWOUND}),
    part="magnets",
)
