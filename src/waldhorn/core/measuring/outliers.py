"""Peaks of a run that a touching wire may have made, and those that count.

References
----------
.. [1] Iglewicz, Hoaglin, How to Detect and Handle Outliers, 1993 (modified z-score over 3.5).
"""

from collections.abc import Sequence
from statistics import median

OUTLIER_Z = 3.5  # [1]


def outliers(peaks: Sequence[float]) -> tuple[int, ...]:
    """Places of the peaks that a touching wire may have made: far above the rest, each alone among its neighbours.

    A single low peak is no slip of the bench, and neighbours that are high together are a pattern.

    Parameters
    ----------
    peaks : sequence of float
        Any unit.

    Returns
    -------
    tuple of int
        Empty for fewer than five peaks.

    Notes
    -----
    Formula: 0.6745·(x − median) / MAD > 3.5; with MAD = 0, a peak more than 10 % above the median

    Source: [1]_.

    Examples
    --------
    >>> outliers([18.1, 18.3, 18.2, 18.4, 29.0, 18.2])
    (4,)
    """
    if len(peaks) < 5:
        return ()
    centre = median(peaks)
    spread = median(abs(p - centre) for p in peaks)
    least = OUTLIER_Z * spread / 0.6745 if spread else 0.1 * centre
    high = {i for i, p in enumerate(peaks) if p - centre > least}
    return tuple(sorted(i for i in high if not high & {i - 1, i + 1}))


def kept(peaks: Sequence[float]) -> list[float]:
    """The peaks that count: those above zero that no wire made, see `outliers`; the one rule of panel and judge.

    >>> kept([18.1, 18.3, 18.2, 18.4, 29.0, 18.2])
    [18.1, 18.3, 18.2, 18.4, 18.2]
    """
    values = [p for p in peaks if p > 0]
    odd = outliers(values)
    return [v for i, v in enumerate(values) if i not in odd]
