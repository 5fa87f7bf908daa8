"""From one rig to another: a line through the same motors read on both, allowing for error in both, and what a reading
of one would be on the other.

References
----------
.. [1] Deming, Statistical Adjustment of Data, 1943; Linnet, Clinical Chemistry 39, 1993 (slope, jackknife).
.. [2] Bland, Altman, Lancet 327, 1986 (limits of agreement, here of logarithms).
.. [3] JCGM 100:2008 (GUM), 5.2 (correlated input quantities).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, stdev

from waldhorn.core.base.errors import InputError

LEAST_PAIRS = 5
LEAST_RANGE = 1.5  # the largest to the smallest reading
LEAST_SLOPE = 3.0  # of a line that says anything, in its uncertainty


@dataclass(frozen=True, slots=True)
class Translation:
    """y = a + k·x from one rig to another: slope, offset, their standard uncertainties and covariance, and what the
    pairs stray about the line; `pairs` how many it rests on."""

    k: float
    a: float
    u_k: float
    u_a: float
    cov: float
    residual: float
    pairs: int


@dataclass(frozen=True, slots=True)
class Agreement:
    """How many times as much the second rig shows, and between which limits 95 % of the motors lie."""

    ratio: float
    low: float
    high: float


def fit(x: Sequence[float], y: Sequence[float], u_ratio: float = 1.0) -> Translation:
    """The line from one rig to another.

    Parameters
    ----------
    x, y : sequence of float
        The same motors on the first and on the second rig, same unit, as many.
    u_ratio : float
        λ = u_y²/u_x², how much less surely the second rig reads, squared.

    Returns
    -------
    Translation

    Raises
    ------
    InputError
        Fewer than five motors, over a range of less than 1 to 1.5, or no line in them.

    Notes
    -----
    Formula: k = [S_yy − λS_xx + √((S_yy − λS_xx)² + 4λS_xy²)]/(2S_xy), a = ȳ − k·x̄; uncertainties by jackknife

    Source: [1]_.

    Examples
    --------
    >>> round(fit([1, 2, 3, 4, 5], [2.1, 4.0, 6.0, 8.1, 9.9]).k, 2)
    1.97
    """
    if len(x) != len(y):
        raise ValueError("as many readings on both rigs")
    if len(x) < LEAST_PAIRS:
        raise InputError("pairs", f"{len(x)} motors were read on both rigs, {LEAST_PAIRS} are needed")
    if any(min(v) <= 0 or max(v) < LEAST_RANGE * min(v) for v in (x, y)):
        raise InputError(
            "pairs", f"they lie too close together: the largest must be {LEAST_RANGE:g} times the smallest"
        )
    sums = _Sums.of(x, y)
    k, a = sums.line(u_ratio)
    n = len(x)
    others = [sums.without(p, q).line(u_ratio) for p, q in zip(x, y, strict=True)]
    ks = [n * k - (n - 1) * other for other, _ in others]
    offsets = [n * a - (n - 1) * other for _, other in others]
    mean_k, mean_a = fmean(ks), fmean(offsets)
    cov = sum((p - mean_k) * (q - mean_a) for p, q in zip(ks, offsets, strict=True)) / (n - 1) / n
    left = sum((q - a - k * p) ** 2 for p, q in zip(x, y, strict=True))
    u_k, u_a = stdev(ks) / math.sqrt(n), stdev(offsets) / math.sqrt(n)
    if k <= LEAST_SLOPE * u_k:
        raise InputError("pairs", "what one rig shows says nothing of what the other shows")
    return Translation(k, a, u_k, u_a, cov, math.sqrt(left / (n - 2)), n)


def translated(x: float, u_x: float, by: Translation) -> tuple[float, float]:
    """What a reading of the first rig would be on the second, and its standard uncertainty.

    Parameters
    ----------
    x, u_x : float
        Reading and standard uncertainty on the first rig.
    by : Translation

    Returns
    -------
    (float, float)
        Never to be a baseline.

    Notes
    -----
    Formula: y = a + k·x; u² = (k·u_x)² + u_a² + x²·u_k² + 2x·cov(a, k) + s_res²

    Source: [3]_.

    Examples
    --------
    >>> translated(2.0, 0.1, Translation(1.5, 0.5, 0.0, 0.0, 0.0, 0.0, 5))
    (3.5, 0.15000000000000002)
    """
    square = (by.k * u_x) ** 2 + by.u_a**2 + (x * by.u_k) ** 2 + 2 * x * by.cov + by.residual**2
    return by.a + by.k * x, math.sqrt(max(square, 0.0))


def agreement(x: Sequence[float], y: Sequence[float]) -> Agreement:
    """How two rigs agree on the same motors.

    Parameters
    ----------
    x, y : sequence of float
        On the first and on the second rig, above 0, two at least.

    Returns
    -------
    Agreement

    Notes
    -----
    Formula: ratio = exp(mean ln(y/x)), limits exp(mean ± 1.96·s)

    Source: [2]_.

    Examples
    --------
    >>> round(agreement([1.0, 2.0], [1.2, 2.4]).ratio, 2)
    1.2
    """
    logs = [math.log(q / p) for p, q in zip(x, y, strict=True)]
    mean, spread = fmean(logs), stdev(logs)
    return Agreement(math.exp(mean), math.exp(mean - 1.96 * spread), math.exp(mean + 1.96 * spread))


@dataclass(frozen=True, slots=True)
class _Sums:
    """Count, means and centred sums of squares and products of pairs: a line is made of them, and a pair taken out of
    them, however many there are."""

    n: int
    mean_x: float
    mean_y: float
    xx: float
    yy: float
    xy: float

    @classmethod
    def of(cls, x: Sequence[float], y: Sequence[float]) -> "_Sums":
        mean_x, mean_y = fmean(x), fmean(y)
        apart = [(p - mean_x, q - mean_y) for p, q in zip(x, y, strict=True)]
        xx, yy = sum(p * p for p, _ in apart), sum(q * q for _, q in apart)
        return cls(len(x), mean_x, mean_y, xx, yy, sum(p * q for p, q in apart))

    def without(self, x: float, y: float) -> "_Sums":
        n = self.n
        off_x, off_y, share = x - self.mean_x, y - self.mean_y, n / (n - 1)
        return _Sums(
            n - 1,
            self.mean_x - off_x / (n - 1),
            self.mean_y - off_y / (n - 1),
            self.xx - share * off_x**2,
            self.yy - share * off_y**2,
            self.xy - share * off_x * off_y,
        )

    def line(self, u_ratio: float) -> tuple[float, float]:
        """Slope and offset."""
        if self.xy == 0:
            raise InputError("pairs", "what one rig shows says nothing of what the other shows")
        apart = self.yy - u_ratio * self.xx
        k = (apart + math.sqrt(apart**2 + 4 * u_ratio * self.xy**2)) / (2 * self.xy)
        return k, self.mean_y - k * self.mean_x
