"""Sets: which motors belong together in one machine, by how far apart they are against what can be read.

References
----------
.. [1] Bench practice.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import comb, factorial, prod

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.errors import Refused

SCORED = ("kv", "no_load_current", "timing_mean", "detent_peak")  # what a set is made alike in [1]
AS_ALIKE_AS_CAN_BE_READ = 1.0
MOST_SETS = 100_000  # looked at one by one
RUNNERS_UP = 3


@dataclass(frozen=True, slots=True)
class ScoredSet:
    """Motors of one set, by tag, and its score: below 1 they lie no further apart than they can be read."""

    motors: tuple[str, ...]
    score: float


@dataclass(frozen=True, slots=True)
class Chosen:
    """The best set, those after it, and who is left over."""

    best: ScoredSet
    runners_up: tuple[ScoredSet, ...]
    left_over: tuple[str, ...]


def score(values: NDArray[np.float64], u: NDArray[np.float64]) -> float:
    """How far apart the motors of a set are, against what can be read.

    Parameters
    ----------
    values : array
        Motors × quantities, in the quantities' units.
    u : array
        Quantities: standard uncertainty of one reading, likewise.

    Returns
    -------
    float
        Below 1 the set is as alike as it can be read.

    Notes
    -----
    Formula: mean over the quantities of s²/u², s the standard deviation within the set

    Source: [1]_.

    Examples
    --------
    >>> round(score(np.array([[3420, 2.25], [3418, 2.28]]), np.array([17, 0.0675])), 3)
    0.053
    """
    return float((values.var(axis=0, ddof=1) / u**2).mean())


def best_sets(motors: Mapping[str, Mapping[str, float]], u: Mapping[str, float], take: int) -> Chosen:
    """The set of so many motors that are most alike.

    Parameters
    ----------
    motors : mapping of str to mapping of str to float
        Values by tag and quantity, all of them the same quantities.
    u : mapping of str to float
        Standard uncertainty of one reading, by quantity.
    take : int
        How many a set has.

    Returns
    -------
    Chosen

    Raises
    ------
    Refused
        Fewer than two, more than there are, nothing to compare them in, or too many sets to look at.

    Notes
    -----
    Formula: the least `score` of all sets

    Source: [1]_.

    Examples
    --------
    >>> best_sets({"a": {"kv": 1.0}, "b": {"kv": 9.0}, "c": {"kv": 1.5}}, {"kv": 1.0}, 2).best.motors
    ('a', 'c')
    """
    tags = sorted(motors)
    if take < 2:
        raise Refused("take", "a set has two motors at least")
    if take > len(tags):
        raise Refused("take", f"a set of {take} out of {len(tags)}: that many can not be compared")
    names = sorted(u)
    if not names:
        raise Refused("take", "nothing was read of all of them under equal conditions")
    if comb(len(tags), take) > MOST_SETS:
        raise Refused("take", f"{comb(len(tags), take):,} sets are too many to look at: leave some motors out")
    values = np.array([[motors[t][n] for n in names] for t in tags])
    doubts = np.array([u[n] for n in names])
    every = np.array(list(combinations(range(len(tags)), take)))
    scores = (values[every].var(axis=1, ddof=1) / doubts**2).mean(axis=1)
    order = np.lexsort((*every.T[::-1], scores))[: RUNNERS_UP + 1]
    first, *others = [ScoredSet(tuple(tags[i] for i in every[at]), float(scores[at])) for at in order]
    return Chosen(first, tuple(others), tuple(t for t in tags if t not in first.motors))


def part(
    motors: Mapping[str, Mapping[str, float]], u: Mapping[str, float], take: int, sets: int
) -> tuple[ScoredSet, ...]:  # fmt: skip
    """Part motors into several sets at once, so that all sets together are most alike within.

    Parameters
    ----------
    motors, u, take
        As for `best_sets`.
    sets : int
        How many machines are to be filled.

    Returns
    -------
    tuple of ScoredSet
        Best first.

    Raises
    ------
    Refused
        As for `best_sets`, or too few motors for so many sets.

    Notes
    -----
    Formula: the least sum of the sets' scores, by taking every way to part them

    Source: [1]_.

    Examples
    --------
    >>> four = {t: {"kv": v} for t, v in {"a": 1.0, "b": 9.0, "c": 1.5, "d": 9.2}.items()}
    >>> [s.motors for s in part(four, {"kv": 1.0}, 2, 2)]
    [('b', 'd'), ('a', 'c')]
    """
    if take * sets > len(motors):
        raise Refused("sets", f"{sets} sets of {take} take {take * sets} motors, {len(motors)} are there")
    if _ways(len(motors), take, sets) > MOST_SETS:
        raise Refused("sets", f"{_ways(len(motors), take, sets):,} ways are too many to look at: leave some motors out")
    tags = sorted(motors)
    names = sorted(u)
    values = np.array([[motors[t][n] for n in names] for t in tags])
    doubts = np.array([u[n] for n in names])
    scores = {c: score(values[list(c)], doubts) for c in combinations(range(len(tags)), take)}
    best = min(_partings(tuple(range(len(tags))), take, sets), key=lambda p: (sum(scores[c] for c in p), p))
    found = [ScoredSet(tuple(tags[i] for i in c), scores[c]) for c in best]
    return tuple(sorted(found, key=lambda s: (s.score, s.motors)))


def _ways(n: int, take: int, sets: int) -> int:
    return prod(comb(n - take * k, take) for k in range(sets)) // factorial(sets)


def _partings(left: Sequence[int], take: int, sets: int) -> list[tuple[tuple[int, ...], ...]]:
    """Every way to part what is left, each once: the sets stand in the order of their first motors."""
    if sets == 0:
        return [()]
    found = []
    for at, first in enumerate(left):
        rest = left[at + 1 :]
        if len(rest) + 1 < take * sets:
            break
        for others in combinations(rest, take - 1):
            chosen = (first, *others)
            remaining = tuple(i for i in rest if i not in others)
            found += [(chosen, *more) for more in _partings(remaining, take, sets - 1)]
    return found
