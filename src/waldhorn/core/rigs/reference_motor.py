"""The reference motor: never raced, read first on a day. When it reads otherwise, it is the rig that drifted.

References
----------
.. [1] Montgomery, Introduction to Statistical Quality Control, 7th ed., 2013, ch. 9 (EWMA charts, restarted once the
   cause was put right).
.. [2] Bench practice.
.. [3] Lucas, Saccucci, Technometrics 32, 1990 (the same charts with a limit for single readings besides).
"""

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from statistics import median

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.conditions import comparable
from waldhorn.core.base.history import Event
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import Group, last_reset
from waldhorn.core.measuring.quantity import Quantity, difference
from waldhorn.core.rigs import control_charts
from waldhorn.core.rigs.repeatability import Repeatability

CHARTED = ("kv", "no_load_current", "noise_avg", "temperature", "timing_mean", "detent_peak")
BASE_READINGS = 3  # what a rig reads right is taken from so many [2]
FAR_OFF = 3.5  # of one reading, in its standard deviations: a day's jump, which an average is slow to follow [3]
ITS_DAY = timedelta(hours=12)  # what was read on a rig so long before its reference was out is in doubt as well [2]
_STILL_OFF = 1.0  # a reading that lies nearer than this to where it was is one that is right again


@dataclass(frozen=True, slots=True)
class Drifted:
    """From when until when (None: still) a rig read a quantity of a reference motor wrongly."""

    rig: str
    quantity: str
    since: datetime
    until: datetime | None = None


@dataclass(frozen=True)
class RigChart:
    """The chart of one quantity of a reference motor on a rig: times, changes in standard deviations, the average that
    remembers and its limit at each, and at which of them the rig was out. `base` is what it reads when it is right."""

    rig: str
    quantity: Quantity
    base: float
    times: tuple[datetime, ...]
    changes: NDArray[np.float64]
    averages: NDArray[np.float64]
    limits: NDArray[np.float64]
    out: NDArray[np.bool_]

    @property
    def is_out(self) -> bool:
        """Whether the rig is out at the latest reading."""
        return bool(len(self.out)) and bool(self.out[-1])


def charts(
    groups: Mapping[str, Sequence[Group]],
    events: Iterable[Event],
    repeatability: Repeatability,
    put_right: Mapping[str, datetime],
) -> list[RigChart]:
    """The charts of a reference motor: each quantity on each rig that has read it often enough.

    Parameters
    ----------
    groups : mapping of str to sequence of Group
        Its groups by quantity, oldest first.
    events : iterable of Event
        What happened to it: a reset starts a chart anew.
    repeatability : callable
        How well a rig repeats a quantity.
    put_right : mapping of str to datetime
        When each rig was put right last: a chart starts anew from there, from the same base.

    Returns
    -------
    list of RigChart
        Without the readings that the base is taken from.

    Notes
    -----
    Formula: x = Δ/u, u² = s_L² + s_r²/n + resolution²/12; see `drift.ewma`. Out where the average lies beyond its limit
    and the reading itself does not lie back where it was, or where x lies beyond 3.5·√(1 + b²), b the
    uncertainty of the base in u

    Source: [1]_ and [3]_.
    """
    happened = list(events)
    found = []
    for name in CHARTED:
        quantity = QUANTITIES[name]
        by_rig: dict[str, list[Group]] = defaultdict(list)
        mine_all = groups.get(name, ())
        reset = last_reset(happened, quantity, mine_all[-1].at) if mine_all else None
        for group in mine_all:
            if group.conditions.rig and (reset is None or group.at > reset):
                by_rig[group.conditions.rig].append(group)
        for rig, mine in by_rig.items():
            alike = [g for g in mine if comparable(quantity.same, g.conditions, mine[0].conditions)]
            if len(alike) > BASE_READINGS:
                found.append(_chart(rig, quantity, alike, repeatability, put_right.get(rig)))
    return found


def _chart(
    rig: str, quantity: Quantity, alike: Sequence[Group], repeatability: Repeatability, put_right: datetime | None
) -> RigChart:
    first, charted = alike[:BASE_READINGS], alike[BASE_READINGS:]
    base = median(g.value for g in first)
    spread = repeatability(rig, quantity.name)

    def u(group: Group) -> float:
        return math.sqrt(spread.visit**2 + spread.run**2 / group.n + group.resolution(quantity.resolution) ** 2 / 12)

    of_base = math.sqrt(sum(u(g) ** 2 for g in first)) / len(first)
    common = of_base / max(u(g) for g in charted)
    xs = [difference(g.value, base, quantity.relative) / u(g) for g in charted]
    since = next((i for i, g in enumerate(charted) if put_right and g.at > put_right), len(charted) if put_right else 0)
    parts = [control_charts.ewma(xs[:since], common), control_charts.ewma(xs[since:], common)]
    averages, limits = (np.concatenate([getattr(p, n) for p in parts]) for n in ("values", "limits"))
    changes = np.asarray(xs, float)
    slowly = (np.abs(averages) > limits) & (changes * np.sign(averages) > _STILL_OFF)
    out = slowly | (np.abs(changes) > FAR_OFF * math.hypot(1, common))
    return RigChart(rig, quantity, base, tuple(g.at for g in charted), changes, averages, limits, out)


def drifted(chart: RigChart, put_right: datetime | None = None) -> list[Drifted]:
    """When a rig was out: from its day, or from when it was last seen to be right, until it was read right again.

    Parameters
    ----------
    chart : RigChart
    put_right : datetime, optional
        When the rig was put right last.

    Returns
    -------
    list of Drifted

    Notes
    -----
    Source: [2]_.
    """
    found: list[Drifted] = []
    right_at: datetime | None = None
    for at, out in zip(chart.times, chart.out, strict=True):
        if out and not (found and found[-1].until is None):
            found.append(Drifted(chart.rig, chart.quantity.name, max(at - ITS_DAY, right_at or at - ITS_DAY)))
        elif not out:
            if found and found[-1].until is None:
                found[-1] = Drifted(chart.rig, chart.quantity.name, found[-1].since, at)
            right_at = at
    if found and found[-1].until is None and put_right and put_right > chart.times[-1]:
        found[-1] = Drifted(chart.rig, chart.quantity.name, found[-1].since, put_right)
    return found


def was_out(found: Sequence[Drifted], rig: str, quantity: str, at: datetime) -> Drifted | None:
    """The drift that a reading falls into, if any.

    Parameters
    ----------
    found : sequence of Drifted
    rig, quantity : str
        Its name.
    at : datetime
        With its time zone.

    Examples
    --------
    >>> from datetime import UTC
    >>> day = [Drifted("a", "kv", datetime(2026, 5, 1, tzinfo=UTC), datetime(2026, 5, 2, tzinfo=UTC))]
    >>> was_out(day, "a", "kv", datetime(2026, 5, 1, 12, tzinfo=UTC)) is day[0]
    True
    """
    return next(
        (
            d
            for d in found
            if d.rig == rig and d.quantity == quantity and d.since <= at and (d.until is None or at < d.until)
        ),
        None,
    )
