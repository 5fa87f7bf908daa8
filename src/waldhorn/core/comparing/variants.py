"""Two variants of one motor on the same loads: how much faster one turns, row by row, and how that closes as the load
grows.

References
----------
.. [1] Bench practice: a faster winding falls off more under load, through the current it draws.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from waldhorn.core.measuring.load import LoadRow, power


@dataclass(frozen=True, slots=True)
class LoadDifference:
    """Two motors with the same on their shafts: rpm and A of each, how much faster the second turns, percent of their
    mean, and the mean power they take, W."""

    on_shaft: str
    rpm: tuple[float, float]
    amps: tuple[float, float]
    faster_pct: float
    watts: float


def row_by_row(first: Sequence[LoadRow], second: Sequence[LoadRow]) -> list[LoadDifference]:
    """How two motors differ on the same loads, the lightest first.

    Parameters
    ----------
    first, second : sequence of LoadRow
        What each drove, more than once where it was repeated: the median counts.

    Returns
    -------
    list of LoadDifference
        Of what both drove with a speed read.

    Notes
    -----
    Formula: 200·(n₂ − n₁)/(n₂ + n₁), in the order of the mean power

    Source: [1]_.

    Examples
    --------
    >>> small, large = LoadRow("6x4", load_v=11, amps=10, rpm=9000), LoadRow("6x4", load_v=11, amps=12, rpm=9400)
    >>> round(row_by_row([small], [large])[0].faster_pct, 2)
    4.35
    """
    found = []
    for name in dict.fromkeys(r.what for r in first):
        both = [[r for r in rows if r.what.casefold() == name.casefold() and r.rpm] for rows in (first, second)]
        if not all(both):
            continue
        rpm = tuple(median(r.rpm or 0.0 for r in rows) for rows in both)
        amps = tuple(median(r.amps or 0.0 for r in rows) for rows in both)
        watts = median(power(r) or 0.0 for rows in both for r in rows)
        faster = 200 * (rpm[1] - rpm[0]) / (rpm[1] + rpm[0])
        found.append(LoadDifference(name, (rpm[0], rpm[1]), (amps[0], amps[1]), faster, watts))
    return sorted(found, key=lambda d: (d.watts, d.on_shaft))


def closes(rows: Sequence[LoadDifference]) -> float | None:
    """By what share the difference is smaller under the heaviest load than under the lightest; None with fewer than two
    rows, or no difference to begin with.

    >>> from dataclasses import replace
    >>> one = LoadDifference("6x4", (9000, 9400), (10, 12), 4.0, 120)
    >>> closes([one, replace(one, faster_pct=1.0, watts=200)])
    0.75
    """
    if len(rows) < 2 or abs(rows[0].faster_pct) < 0.1:
        return None
    return 1 - rows[-1].faster_pct / rows[0].faster_pct
