"""A rig without a reference motor: when several motors of one day moved alike on it, it is the rig that is suspect.

References
----------
.. [1] Cochran, Biometrics 10, 1954 (weighted mean of several results and the test of whether they agree).
.. [2] Bench practice.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime

LEAST_MOTORS = 3
SUSPECT_FROM = 4.0  # standard deviations of the common shift [2]
MOST_OF_THE_DAY = 0.5  # more than this share of the day's motors must have moved alike [2]
_AGREE = 0.05  # of days without a shift of their own are found to disagree


@dataclass(frozen=True, slots=True)
class Moved:
    """How far a motor moved from its own past on a rig, and the standard uncertainty of that, change unit."""

    motor: str
    change: float
    u: float


@dataclass(frozen=True, slots=True)
class RigShift:
    """What the motors of a day moved alike on a rig: by how much, how sure, and how many of them."""

    rig: str
    quantity: str
    day: date
    value: float
    u: float
    motors: int

    def holds(self, rig: str, quantity: str, at: datetime) -> bool:
        """Whether a reading is of this rig, quantity and day."""
        return (self.rig, self.quantity, self.day) == (rig, quantity, at.date())


def common(moved: Sequence[Moved]) -> tuple[float, float, Sequence[Moved]] | None:
    """What the motors of a day moved alike, where they did.

    Parameters
    ----------
    moved : sequence of Moved
        One a motor.

    Returns
    -------
    tuple of float, float and sequence of Moved, or None
        The common shift, its standard uncertainty, change unit, and the motors that share it.

    Notes
    -----
    Formula: d̄ = Σ(d/u²)/Σ(1/u²), u_d̄ = 1/√Σ(1/u²), Q = Σ((d − d̄)/u)²; suspect when |d̄|/u_d̄ > 4 and Q lies below the
    95 % point of χ² with k − 1, of three motors or more, over half of the day's. Those that fit least are left out.

    Source: [1]_, thresholds from [2]_.

    Examples
    --------
    >>> value, u, motors = common([Moved(str(i), d, 1.1) for i, d in enumerate((3.5, 3.1, 3.9, 3.3))])
    >>> round(value, 2), round(value / u, 1), len(motors)
    (3.45, 6.3, 4)
    """
    from scipy.special import chdtri  # SciPy's special functions take a while to load, and few days ask

    left = list(moved)
    while len(left) >= LEAST_MOTORS and len(left) > MOST_OF_THE_DAY * len(moved):
        weight = sum(1 / m.u**2 for m in left)
        value = sum(m.change / m.u**2 for m in left) / weight
        u = 1 / math.sqrt(weight)
        misfit = sum(((m.change - value) / m.u) ** 2 for m in left)
        if misfit < chdtri(len(left) - 1, _AGREE):
            return (value, u, left) if abs(value) > SUSPECT_FROM * u else None
        left.remove(max(left, key=lambda m: abs(m.change - value) / m.u))
    return None


def shifts(days: Mapping[tuple[str, str, date], Sequence[Moved]]) -> tuple[RigShift, ...]:
    """The shifts of every rig, quantity and day, where the motors of that day moved alike.

    Parameters
    ----------
    days : mapping of rig, quantity and day to sequence of Moved

    Returns
    -------
    tuple of RigShift
    """
    found = []
    for (rig, quantity, day), moved in days.items():
        if together := common(moved) if len(moved) >= LEAST_MOTORS else None:
            value, u, motors = together
            found.append(RigShift(rig, quantity, day, value, u, len(motors)))
    return tuple(found)
