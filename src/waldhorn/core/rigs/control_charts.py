"""Drift: a slow creep under every limit, seen by charts that remember.

References
----------
.. [1] Montgomery, Introduction to Statistical Quality Control, 7th ed., 2013, ch. 9 (EWMA and CUSUM charts).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

WEIGHT = 0.2  # of the latest value in the average
_REMEMBERED = 160  # values: what lies further back weighs less than rounding
LIMIT = 2.86  # of the average, in its standard deviations: a steady series is out once in 372 [1]
SLACK, OUT_AT = 0.5, 5.0  # of the sums, in standard deviations: a steady series is out once in 482, either way [1]


@dataclass(frozen=True, slots=True)
class Chart:
    """What a chart shows: its value after each point, its limit there, the first point that is out (None: none is) and
    the one from which it left the middle for good."""

    values: NDArray[np.float64]
    limits: NDArray[np.float64]
    out: int | None
    since: int | None

    @property
    def is_out(self) -> bool:
        """Whether it is out at the latest point."""
        return bool(len(self.values)) and bool(abs(self.values[-1]) > self.limits[-1])


def ewma(xs: Sequence[float], common: float = 0.0) -> Chart:
    """Exponentially weighted moving average.

    Parameters
    ----------
    xs : sequence of float
        Changes in standard deviations, oldest first, from one baseline.
    common : float
        Standard deviation of the baseline they share, likewise: a wrong one shifts them all.

    Returns
    -------
    Chart

    Notes
    -----
    Formula: z_i = λ·x_i + (1 − λ)·z_(i−1), out beyond 2.86·√(λ/(2 − λ)·(1 − (1 − λ)^(2i)) + (b·(1 − (1 − λ)^i))²),
    λ = 0.2, b the standard deviation of the baseline

    Source: [1]_.

    Examples
    --------
    >>> ewma([0.3, -0.5, 1.1, 0.9, 1.6, 1.4, 2.0, 1.2]).out
    6
    """
    if not len(xs):
        return _chart(np.zeros(0), np.zeros(0))
    kept = 1 - WEIGHT
    ages = np.arange(len(xs))
    values = np.convolve(xs, WEIGHT * kept ** ages[:_REMEMBERED])[: len(xs)]
    own = WEIGHT / (2 - WEIGHT) * (1 - kept ** (2 * (ages + 1)))
    return _chart(values, LIMIT * np.sqrt(own + (common * (1 - kept ** (ages + 1))) ** 2))


def cusum(xs: Sequence[float]) -> Chart:
    """Cumulative sum of what lies beyond half a standard deviation, of the side that is further out; a fall counts
    below zero.

    Parameters
    ----------
    xs : sequence of float
        As for `ewma`.

    Returns
    -------
    Chart

    Notes
    -----
    Formula: S = max(0, S + x − 0.5), out at 5

    Source: [1]_.

    Examples
    --------
    >>> round(float(cusum([0.3, -0.5, 1.1, 0.9, 1.6, 1.4, 2.0, 1.2]).values[-1]), 1)
    5.2
    """
    up, down = (_sum(way * np.asarray(xs, float) - SLACK) for way in (1, -1))
    return _chart(np.where(up >= down, up, -down), np.full(len(xs), OUT_AT))


def _sum(steps: NDArray[np.float64]) -> NDArray[np.float64]:
    """A sum that starts anew wherever it would fall below zero."""
    whole = np.cumsum(steps)
    return np.asarray(whole - np.minimum(np.minimum.accumulate(whole), 0.0))


def _chart(values: NDArray[np.float64], limits: NDArray[np.float64]) -> Chart:
    beyond = np.flatnonzero(np.abs(values) > limits)
    if not len(beyond):
        return Chart(values, limits, None, None)
    out = int(beyond[0])
    other_side = np.flatnonzero(values[:out] * values[out] <= 0)
    return Chart(values, limits, out, int(other_side[-1]) + 1 if len(other_side) else 0)
