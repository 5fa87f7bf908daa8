"""Repeats: do the runs of one check agree, and how well does a rig repeat, within a visit and from visit to visit.

Two runs further apart than 2.77 standard deviations of a repeat ask for a third; of three, the one that stands
apart from two that agree is the odd one out. Nothing is deleted here or anywhere.

References
----------
.. [1] ISO 5725-6:1994, 4.1 and 5.2 (critical range of n repeats at 95 %, the studentised range of infinitely many
   degrees of freedom; median of three).
.. [2] ISO 5725-3:1994, nested design (staggered or balanced) and its variance components.
.. [3] Gelman et al., Bayesian Data Analysis, 3rd ed., 2013, 3.3 (scaled inverse χ² prior of a variance).
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from statistics import median

CRITICAL = {
    2: 2.77,
    3: 3.31,
    4: 3.63,
    5: 3.86,
    6: 4.03,
    7: 4.17,
    8: 4.29,
    9: 4.39,
    10: 4.47,
}  # of the range, in s_r [1]
ODD_ONE_OUT = "odd one out"  # begins the reason of a run that was set aside by itself
PRIOR_DEGREES = 8  # how many degrees of freedom the default is worth
MOST_PER_PAIR = 9.0  # one slip teaches no more than three standard deviations of a rig


@dataclass(frozen=True, slots=True)
class Spread:
    """How well a rig repeats a quantity, one standard deviation in the change unit: between runs of one visit, and
    between visits (taken off and clamped again)."""

    run: float
    visit: float


Repeatability = Callable[[str, str], Spread]  # how well a rig repeats a quantity, by their names


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
    Formula: limit = f(n) · s_r, f = 2.77, 3.31, 3.63 for 2, 3, 4 runs; centre = median

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
    limit = critical_range(len(values)) * repeatability
    centre = median(values)
    spread = _spread(values, centre, relative)
    if spread <= limit:
        return Agreement(centre, spread, limit, ask_again=False)
    if len(values) == 2:
        return Agreement(centre, spread, limit, ask_again=True)
    odd = max(range(len(values)), key=lambda i: abs(values[i] - centre))
    others = [v for i, v in enumerate(values) if i != odd]
    if _spread(others, median(others), relative) <= critical_range(len(others)) * repeatability:
        return Agreement(median(others), spread, limit, ask_again=False, odd=odd)
    return Agreement(centre, spread, limit, ask_again=True)


def critical_range(runs: int) -> float:
    """How far the furthest of so many runs may lie apart at 95 %, in standard deviations of a repeat.

    >>> critical_range(2), critical_range(3)
    (2.77, 3.31)
    """
    return CRITICAL[min(max(runs, 2), max(CRITICAL))]


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


def learned(sum_of_squares: float, degrees: float, default: float) -> float:
    """A rig's repeatability: what it has shown, weighed with the default.

    Parameters
    ----------
    sum_of_squares : float
        Pooled, in squared change units.
    degrees : float
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
    Formula: s² = (ν₀ · s₀² + SS) / (ν₀ + ν), ν₀ = 8, s₀ the default

    Source: [3]_; floor from bench practice.

    Examples
    --------
    >>> learned(0.0, 0, 0.5), learned(24.0, 8, 1.0)
    (0.5, 1.4142135623730951)
    """
    found = (PRIOR_DEGREES * default**2 + sum_of_squares) / (PRIOR_DEGREES + degrees)
    return max(math.sqrt(found), default / 5)


def between_visits(
    first: float, second: float, relative: bool, runs: tuple[int, int], default: float
) -> tuple[float, float]:
    """What two visits of a motor in which nothing happened between say of clamping it anew, to be pooled.

    Parameters
    ----------
    first, second : float
        The visits' values, in the quantity's unit.
    relative : bool
        Whether the change is in percent of the first.
    runs : tuple of int
        How many runs stand behind each.
    default : float
        S_L as it is taken to be, change unit: no pair teaches more than three of it.

    Returns
    -------
    (float, float)
        A square whose expectation is s_L² + w·s_r², squared change unit, and w.

    Notes
    -----
    Formula: (x₂ − x₁)²/2, w = (1/n₁ + 1/n₂)/2

    Source: [2]_, two visits of one motor.

    Examples
    --------
    >>> between_visits(80.0, 82.0, False, (1, 1), 1.0)
    (2.0, 1.0)
    """
    apart = second - first
    if relative:
        apart = 100 * apart / first if first else 0.0
    share = (1 / runs[0] + 1 / runs[1]) / 2
    return min(apart**2 / 2, MOST_PER_PAIR * default**2 * (1 + share)), share
