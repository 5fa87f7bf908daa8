"""Trend: does a quantity creep, and when would it cross its limits; or did it jump.

Within one baseline segment, against runs, or days where runs are not logged. Fewer than four points: no forecast.

References
----------
.. [1] Sen, Estimates of the regression coefficient based on Kendall's tau, JASA 63, 1968 (slope and its interval).
.. [2] Bench practice.
"""

import math
from bisect import bisect_right
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from itertools import accumulate, pairwise
from statistics import NormalDist, median

import numpy as np

from waldhorn.core.base.conditions import comparable
from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import GRAVE, EventKind
from waldhorn.core.judging.baseline import Segment
from waldhorn.core.measuring.quantity import Limits, Quantity
from waldhorn.core.rigs import control_charts
from waldhorn.core.rigs.repeatability import Spread

LEAST_POINTS, LEAST_FOR_CREEP = 4, 5  # four points that all rise come by chance once in twelve
CONFIDENCE = 0.98  # a dozen quantities are looked at: one in ten would be called creeping in every other motor
WORTH_A_WORD = 0.3  # of the watch limit: a smaller creep is not spoken of [2]
STEP_SIGMA = 2.8  # a jump must be larger than two runs may differ [2]
STEP_GAIN = 2.5  # ... and fit so many times better than a straight line [2]


@dataclass(frozen=True, slots=True)
class Crossing:
    """When a limit is crossed, counted from the last check: likely, at the earliest, at the latest (None: never)."""

    likely: float
    earliest: float
    latest: float | None


@dataclass(frozen=True, slots=True)
class Trend:
    """How a quantity moves. `axis` is runs or days; slopes in change units for each; `kind` is steady, creep or step;
    `step_at` the time and `step_event` the name of the event it jumped at, if one explains it; `creeping_since` when a
    creep began that the charts of `drift` see."""

    quantity: str
    axis: str
    points: int
    kind: str
    slope: float
    slope_low: float
    slope_high: float
    watch: Crossing | None
    act: Crossing | None
    step_at: datetime | None = None
    step_event: str = ""
    creeping_since: datetime | None = None


def slope(xs: Sequence[float], changes: Sequence[float]) -> tuple[float, float, float]:
    """Robust slope with its 98 % interval.

    Parameters
    ----------
    xs : sequence of float, two at least
        Runs or days, not all equal.
    changes : sequence of float
        As many, change units.

    Returns
    -------
    tuple of float
        Slope, low, high, in change units for each run or day.

    Notes
    -----
    Formula: median of all pairwise slopes; interval from Kendall's tau, all of them where ties leave it without one

    Source: [1]_.

    Examples
    --------
    >>> slope([0, 1, 2, 3, 4], [0.0, 1.0, 2.0, 3.0, 4.0])
    (1.0, 1.0, 1.0)
    """
    return _slope(tuple(xs), tuple(changes))


@lru_cache(4096)
def _slope(xs: tuple[float, ...], changes: tuple[float, ...]) -> tuple[float, float, float]:
    """Kept: all pairs are looked at, and a motor's past is the same at every key. SciPy's own takes two seconds to load
    before the first motor is judged."""
    x, y = np.array(xs), np.array(changes)
    apart = np.subtract.outer(x, x)
    every = np.sort(np.subtract.outer(y, y)[apart > 0] / apart[apart > 0])
    n, ties = len(xs), sum(k * (k - 1) * (2 * k + 5) for values in (xs, changes) for k in Counter(values).values())
    variance = (n * (n - 1) * (2 * n + 5) - ties) / 18
    if variance < 0:  # nearly all are tied
        return float(np.median(every)), float(every[0]), float(every[-1])
    within = -NormalDist().inv_cdf((1 - CONFIDENCE) / 2) * math.sqrt(variance)
    low = max(round((len(every) - within) / 2) - 1, 0)
    high = min(round((len(every) + within) / 2), len(every) - 1)
    return float(np.median(every)), float(every[low]), float(every[high])


def crossing(now: float, rate: tuple[float, float, float], limit: float, direction: int) -> Crossing | None:
    """When a creeping change crosses a limit.

    Parameters
    ----------
    now : float
        Change units, the fitted change at the last check.
    rate : tuple of float
        Slope, low, high, in change units for each run or day.
    limit : float
        Change units, above 0.
    direction : int
        +1 a rise is bad, −1 a fall.

    Returns
    -------
    Crossing
        Or None when it moves away from the limit or may stand still.

    Notes
    -----
    Formula: x = (limit − now) / slope, with the slope and both ends of its interval

    Source: [1]_.

    Examples
    --------
    >>> crossing(10.0, (1.0, 0.5, 2.0), 30.0, 1)
    Crossing(likely=20.0, earliest=10.0, latest=40.0)
    """
    middle, *ends = (direction * r for r in rate)
    slow, fast = min(ends), max(ends)
    left = limit - direction * now
    if middle <= 0 or slow <= 0:
        return None
    if left <= 0:
        return Crossing(0.0, 0.0, 0.0)
    return Crossing(left / middle, left / fast, left / slow)


def of_segment(
    part: Segment, events: Sequence[Event], quantity: Quantity, limits: Limits, spread: Spread
) -> Trend | None:
    """The trend of a quantity in a baseline segment.

    Parameters
    ----------
    part : Segment
        The latest, see `baseline.segments`.
    events : sequence of Event
        What happened to the motor; runs are the axis where they are logged.
    quantity : Quantity
    limits : Limits
        Change unit.
    spread : Spread
        How well its rig repeats it, change unit.

    Returns
    -------
    Trend
        Or None with fewer than four comparable points or no baseline.

    Notes
    -----
    Source: [1]_ and [2]_.
    """
    times, changes, sigmas = _points(part, quantity, spread)
    if len(times) < LEAST_POINTS:
        return None
    axis, xs = _axis(events, times)
    if xs[0] == xs[-1]:
        return None
    rate = slope(xs, changes)
    step = _step(events, times, xs, changes, rate[0], max(sigmas))
    began = None if step else _creep(part, changes, sigmas, quantity, limits, spread)
    moved = len(xs) >= LEAST_FOR_CREEP and (rate[1] > 0 or rate[2] < 0)
    kind = "step" if step else "creep" if moved or began is not None else "steady"
    direction = quantity.direction or (1 if rate[0] >= 0 else -1)
    level = median([c - rate[0] * (x - xs[-1]) for x, c in zip(xs, changes, strict=True)])
    crossings = [
        crossing(level, rate, limit, direction) if kind == "creep" else None for limit in (limits.watch, limits.act)
    ]
    at, event = step or (None, "")
    since = None if began is None else times[began]
    return Trend(quantity.name, axis, len(xs), kind, *rate, crossings[0], crossings[1], at, event, since)


def _creep(
    part: Segment, changes: Sequence[float], sigmas: Sequence[float], quantity: Quantity, limits: Limits, spread: Spread
) -> int | None:
    """The point from which it creeps the bad way: both charts are out, and what they see is worth a word; none once the
    latest reading is back where it was."""
    reference = part.baseline
    if reference is None or len(changes) < LEAST_FOR_CREEP:
        return None
    known = math.hypot(spread.visit / math.sqrt(max(1, reference.checks)), spread.run / math.sqrt(max(1, reference.n)))
    origin = reference.value if quantity.absolute else 0.0
    xs = [(c - origin) / math.hypot(s, known) for c, s in zip(changes, sigmas, strict=True)]
    charts = control_charts.ewma(xs), control_charts.cusum(xs)
    last_three, latest = median([c - origin for c in changes[-3:]]), changes[-1] - origin
    bad = min(abs(v) if quantity.direction == 0 else quantity.direction * v for v in (last_three, latest))
    if not all(c.is_out for c in charts) or bad < WORTH_A_WORD * limits.watch:
        return None
    return charts[1].since


def _points(part: Segment, quantity: Quantity, spread: Spread) -> tuple[list[datetime], list[float], list[float]]:
    reference = part.baseline
    times: list[datetime] = []
    changes: list[float] = []
    sigmas: list[float] = []
    if reference is None or reference.conditions is None:
        return times, changes, sigmas
    base = 0.0 if quantity.absolute else reference.value
    if quantity.relative and base == 0:
        return times, changes, sigmas
    alike = [g for g in part.groups if comparable(quantity.same, g.conditions, reference.conditions)]
    scale = 100 / base if quantity.relative else 1.0
    times = [g.at for g in alike]
    changes = [scale * (g.value - base) for g in alike]
    sigmas = [math.sqrt(spread.visit**2 + spread.run**2 / g.n) for g in alike]
    return times, changes, sigmas


def _axis(events: Sequence[Event], times: Sequence[datetime]) -> tuple[str, list[float]]:
    """Runs where they are logged between the checks, else days."""
    told = sorted((e.at, e.count) for e in events if e.event is EventKind.RUN)
    counted = [0, *accumulate(count for _, count in told)]
    runs = [float(counted[bisect_right(told, (at, math.inf))]) for at in times]
    logged = sum(b > a for a, b in pairwise(runs))
    if logged >= (len(times) - 1) / 2:
        return "runs", [r - runs[0] for r in runs]
    return "days", [(at - times[0]).total_seconds() / 86_400 for at in times]


def _step(
    events: Sequence[Event],
    times: Sequence[datetime],
    xs: Sequence[float],
    changes: Sequence[float],
    rate: float,
    sigma: float,
) -> tuple[datetime, str] | None:
    """The best place to break the series in two levels, if that fits much better than a slope."""
    middle = median([c - rate * x for x, c in zip(xs, changes, strict=True)])
    line = sum((c - rate * x - middle) ** 2 for x, c in zip(xs, changes, strict=True))
    floor = len(xs) * sigma**2 / 4
    cuts = np.arange(2, len(xs) - 1)
    if not len(cuts):
        return None
    y = np.asarray(changes)
    before, squares = np.cumsum(y), np.cumsum(y**2)
    left, right = before[cuts - 1], before[-1] - before[cuts - 1]
    jumps = right / (len(y) - cuts) - left / cuts
    rests = squares[-1] - left**2 / cuts - right**2 / (len(y) - cuts)  # what two levels leave over
    rests = np.where(np.abs(jumps) < STEP_SIGMA * sigma, np.inf, np.maximum(rests, 0.0))
    best = int(rests.argmin())
    if not np.isfinite(rests[best]) or (line + floor) / (rests[best] + floor) < STEP_GAIN:
        return None
    cut = int(cuts[best])
    between = [e for e in events if e.event is not EventKind.RUN and times[cut - 1] < e.at <= times[cut]]
    grave = next((e for e in between if e.event in GRAVE), None)
    told = grave or (between[0] if between else None)
    return (told.at, told.event) if told else (times[cut], "")
