"""Noise: levels with the background taken out, and when one is telling.

Levels compare at the same placement, distance, setting and meter only. The best single witness for bearings, a poor one
for magnets.

References
----------
.. [1] ISO 3744:2010, 8.2.3 (background correction; below 3 dB no valid measurement, above 10 dB negligible here).
.. [2] Bench practice.
"""

import math
from dataclasses import dataclass
from statistics import median

from waldhorn.core.base.conditions import CONDITIONS, Conditions, at_full_throttle
from waldhorn.core.base.vocabulary import NoteKind, SetUp
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs
from waldhorn.core.measuring.quantity import (
    BEARINGS,
    BOARD,
    REWOUND,
    ROTOR,
    SHAFT,
    TIMING,
    BenchTest,
    BetweenMotors,
    Limits,
    Quantity,
)

TOO_LOUD_DB = 3.0  # [1]
NEAREST_DB = 0.5  # nearer to the hall nothing is told
METER_DB = 1.0  # one standard uncertainty of a level, and of the hall [2]
LOUD_SMALL_MOTOR_DB = 92.0  # a small motor at 10 cm and full throttle [2]
DISTANCE_CM = 10.0


@dataclass(frozen=True, slots=True)
class Corrected:
    """A level with the background taken out, dB, how much that was, and its standard uncertainty where either reading
    is known to 1 dB; `bound` where it stands so near the hall that it is at most what was read."""

    level_db: float
    correction_db: float
    u_db: float
    bound: bool = False

    @property
    def negligible(self) -> bool:
        """Whether the background hardly mattered (0.5 dB or less)."""
        return self.correction_db <= 0.5


def without_background(level_db: float, background_db: float) -> Corrected:
    """The motor's own level, the less sure the nearer it stands to the hall.

    Parameters
    ----------
    level_db : float
        dB, with the motor running.
    background_db : float
        dB, without it.

    Returns
    -------
    Corrected

    Notes
    -----
    Formula: L = 10·log10(10^(Lm/10) − 10^(Lb/10)); with q = 10^(−Δ/10), u² = (u_m/(1 − q))² + (u_b·q/(1 − q))², u_m =
    u_b = 1 dB. Below 3 dB it is an upper bound besides, and taken no nearer to the hall than 0.5 dB.

    Source: [1]_, law of propagation of uncertainty.

    Examples
    --------
    >>> round(without_background(80.0, 74.0).level_db, 2)
    78.74
    >>> for level in (82, 80.5, 87):
    ...     own = without_background(level, 77)
    ...     print(round(own.level_db, 2), round(own.u_db, 2), own.bound)
    80.35 1.53 False
    77.93 1.98 False
    86.54 1.12 False
    """
    gap = max(level_db - background_db, NEAREST_DB)
    q = 10 ** (-gap / 10)
    own = level_db + 10 * math.log10(1 - q)
    u = math.hypot(METER_DB / (1 - q), METER_DB * q / (1 - q))
    return Corrected(own, level_db - own, u, level_db - background_db < TOO_LOUD_DB)


def telltale(suspect_lowest_db: float, healthy_full_db: float) -> bool:
    """Whether a suspect is louder at the lowest setting than a healthy one of its model at full throttle.

    Parameters
    ----------
    suspect_lowest_db, healthy_full_db : float
        dB, same placement and meter.

    Returns
    -------
    bool

    Notes
    -----
    Formula: L_suspect(lowest setting) > L_healthy(full)

    Source: [2]_.

    Examples
    --------
    >>> telltale(84.0, 81.0)
    True
    """
    return suspect_lowest_db > healthy_full_db


def close_by(under: Conditions) -> bool:
    """Whether a level was taken where the absolute limit holds: at full throttle, from 10 cm.

    >>> close_by(Conditions(distance_cm=10.0)), close_by(Conditions(throttle_pct=15.0))
    (True, False)
    """
    near = under.distance_cm is None or abs(under.distance_cm - DISTANCE_CM) <= CONDITIONS["distance_cm"].within
    return near and at_full_throttle(under)


def of_reading(given: Inputs) -> Derived:
    """A level with the hall taken out, and what the hall adds to its doubt beyond the meter's own; as it is where no
    hall was noted."""
    level, halls = given.one("noise_avg"), given.values.get("noise_background")
    if not halls:
        return Derived(level, level, note=NoteKind.BACKGROUND_NOT_NOTED)
    own = without_background(level, median(halls))
    further = math.sqrt(max(own.u_db**2 - METER_DB**2, 0.0))
    return Derived(own.level_db, level, further, note=NoteKind.NEAR_THE_HALL if own.bound else None)


NOISE = Quantity(
    name="noise_avg",
    set_up=SetUp.CLAMP,
    title="noise",
    symbol="dB",
    unit="dB",
    limits=Limits(3, 6, LOUD_SMALL_MOTOR_DB),
    repeatability=1,
    made=(DerivationRule(of="noise_avg", beside=("noise_background",), make=of_reading),),
    same=("rig", "placement", "distance_cm", "meter", "throttle_pct", "supply_v"),
    under_ceiling=close_by,
    reset_by=frozenset({BEARINGS, ROTOR, SHAFT, TIMING, BOARD, REWOUND}),
    may_slip=True,
    test=BenchTest("noise", "noise at the lowest setting", 40),
    resolution=0.1,
    natural_spread=1.5,
    sayings=("{} louder", "{} quieter", "As loud"),
    part="bearings",
    between=BetweenMotors(more="is {} louder", less="is {} quieter", uses={"long life": -1.0}, quick=True),
    glance=5,
    on_tag=3,
)
