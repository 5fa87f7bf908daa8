"""Repeats: do the runs of one check agree, and how well does a rig repeat.

Two runs further apart than 2.8 standard deviations of a repeat ask for a third; of three, the one that stands
apart from two that agree is the odd one out. Nothing is deleted here or anywhere.

References
----------
.. [1] ISO 5725-6:1994, 4.1 and 5.2 (repeatability limit 2.8 s_r; median of three).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

REPEATABILITY_FACTOR = 2.8  # 1.96 · √2, a 95 % limit for the difference of two runs [1]
PAIRS_TO_LEARN = 8


@dataclass(frozen=True, slots=True)
class Agreement:
    """What the runs of one check say together.

    `spread` and `limit` are in the change unit (percent for relative quantities). `odd` is the place in the list
    of the run that stands apart, `ask_again` whether one more run is needed to know.
    """

    centre: float
    spread: float
    limit: float
    ask_again: bool
    odd: int | None = None

    @property
    def agrees(self) -> bool:
        return self.spread <= self.limit


def agreement(values: Sequence[float], repeatability: float, relative: bool) -> Agreement:
    """Compare the runs of one check with the rig's repeatability.

    Parameters
    ----------
    values : sequence of float, one at least
        In the quantity's unit, in the order they were taken.
    repeatability : float
        S_r, in percent of the value if `relative`, else in the quantity's unit.
    relative : bool

    Returns
    -------
    Agreement
        Of three or more values that do not all agree, `odd` is the one furthest from the median provided that the
        others agree among themselves.

    Raises
    ------
    ValueError
        No values.

    Notes
    -----
    Formula: limit = 2.8 · s_r; centre = median

    Source: [1]_.

    Examples
    --------
    >>> agreement([3400, 3404], 0.5, True).agrees
    True
    >>> agreement([3400, 3510, 3404], 0.5, True).odd
    1
    """
    if not values:
        raise ValueError("agreement needs at least one value")
    limit = REPEATABILITY_FACTOR * repeatability
    centre = median(values)
    spread = _spread(values, centre, relative)
    if spread <= limit:
        return Agreement(centre, spread, limit, ask_again=False)
    if len(values) == 2:
        return Agreement(centre, spread, limit, ask_again=True)
    odd = max(range(len(values)), key=lambda i: abs(values[i] - centre))
    others = [v for i, v in enumerate(values) if i != odd]
    if _spread(others, median(others), relative) <= limit:
        return Agreement(median(others), spread, limit, ask_again=False, odd=odd)
    return Agreement(centre, spread, limit, ask_again=True)


def _spread(values: Sequence[float], centre: float, relative: bool) -> float:
    gap = max(values) - min(values)
    if not relative:
        return gap
    return 100 * gap / abs(centre) if centre else (math.inf if gap else 0.0)


def within_check(values: Sequence[float], relative: bool, readings: float = 1.0) -> tuple[float, int]:
    """Sum of squares within one check and its degrees of freedom, to be pooled over checks.

    Parameters
    ----------
    values : floats
        The accepted runs of one check under equal conditions.
    relative : bool
        Whether squares are of percent of the mean.
    readings : float
        How many readings stand behind each value: squares are of one reading.

    Returns
    -------
    (sum of squares, n − 1)
        (0, 0) for fewer than two values or a zero mean.

    Notes
    -----
    Source: pooled variance, ISO 5725-2.

    Examples
    --------
    >>> within_check([10.0, 12.0], False)
    (2.0, 1)
    """
    mean = sum(values) / len(values) if values else 0.0
    if len(values) < 2 or (relative and mean == 0):
        return 0.0, 0
    scale = 100 / mean if relative else 1.0
    return readings * sum(((v - mean) * scale) ** 2 for v in values), len(values) - 1


def learned(sum_of_squares: float, pairs: int, default: float) -> float:
    """A rig's repeatability: its own once it has eight pairs, the default before.

    Parameters
    ----------
    sum_of_squares : float
        Pooled, in squared change units.
    pairs : int
        Pooled degrees of freedom.
    default : float
        In the change unit.

    Returns
    -------
    float
        One standard deviation, in the change unit, never under a fifth of the default: a rig that repeats
        better than its own display is rounding.

    Notes
    -----
    Formula: s_r = √(Σ SS / Σ ν)

    Source: pooled standard deviation, ISO 5725-2; floor from bench practice.

    Examples
    --------
    >>> learned(8.0, 8, 0.5), learned(8.0, 7, 0.5)
    (1.0, 0.5)
    """
    if pairs < PAIRS_TO_LEARN:
        return default
    return max(math.sqrt(sum_of_squares / pairs), default / 5)
