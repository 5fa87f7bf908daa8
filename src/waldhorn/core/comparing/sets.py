"""Sets: which motors belong together in one machine, by how far apart they are against what can be read.

References
----------
.. [1] Bench practice.
"""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations
from math import comb

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring.measures import BETWEEN

AS_ALIKE_AS_CAN_BE_READ = 1.0
MOST_SETS = 200_000  # looked at one by one
RUNNERS_UP = 3
MOST_MOTORS = 40
SURE_Z = 1.64


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


# How far apart the motors of a set may lie, in the change unit, where a class says nothing [1].
GOOD_ENOUGH: Mapping[str, float] = {n: b.good_enough for n, b in BETWEEN.items() if b.good_enough is not None}
SCORED = tuple(GOOD_ENOUGH)  # what a set is made alike in


def telling(
    motors: Mapping[str, Mapping[str, float]], u: Mapping[str, float], best: ScoredSet, other: ScoredSet
) -> tuple[str, str] | None:
    """Which further reading would tell two sets apart: of which motor, in what.

    Parameters
    ----------
    motors, u
        As for `best_sets`.
    best, other : ScoredSet
        The best and the one after it.

    Returns
    -------
    (tag, quantity)
        Or None where they are told apart already.

    Notes
    -----
    Formula: of D = score₂ − score₁, u_D² = Σ(∂D/∂x·u)²; the reading with the largest part in it, unless D > 1.64·u_D

    Source: law of propagation of uncertainty.

    Examples
    --------
    >>> three = {"a": {"kv": 1.0}, "b": {"kv": 2.0}, "c": {"kv": 2.2}}
    >>> telling(three, {"kv": 1.0}, ScoredSet(("b", "c"), 0.02), ScoredSet(("a", "b"), 0.5))
    ('b', 'kv')
    """
    slopes: dict[tuple[str, str], float] = defaultdict(float)
    for chosen, sign in ((best, -1), (other, 1)):
        for name in sorted(u):
            middle = sum(motors[t][name] for t in chosen.motors) / len(chosen.motors)
            for tag in chosen.motors:
                apart = (motors[tag][name] - middle) / u[name]
                slopes[tag, name] += sign * 2 * apart / (len(chosen.motors) - 1) / len(u)
    doubt = sum(s**2 for s in slopes.values()) ** 0.5
    if other.score - best.score > SURE_Z * doubt:
        return None
    return max(slopes, key=lambda place: (abs(slopes[place]), place))


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


def expected_score(chosen: float, motors: Mapping[str, Mapping[str, float]], u: Mapping[str, float]) -> float:
    """What the best of many sets is expected to score when it is read again: it was picked for being small.

    Parameters
    ----------
    chosen : float
        Its score as read.
    motors, u
        As for `best_sets`.

    Returns
    -------
    float

    Notes
    -----
    Formula: k²·score + k, k = σ_m²/(σ_m² + u²) by quantity and averaged, σ_m² the variance between the motors less u²

    Source: shrinkage of a normal mean towards its population (James and Stein, 1961).

    Examples
    --------
    >>> ten = {str(i): {"kv": v} for i, v in enumerate((-3.4, -2.2, -1.4, -0.8, -0.3, 0.3, 0.8, 1.4, 2.2, 3.4))}
    >>> round(expected_score(0.007, ten, {"kv": 1.0}), 2)
    0.77
    """
    if not u or len(motors) < 2:
        return chosen
    names = sorted(u)
    read = np.array([[mine[name] / u[name] for name in names] for mine in motors.values()])
    between = np.maximum(read.var(axis=0, ddof=1) - 1, 0.0)
    k = between / (between + 1)
    return float((k**2).mean() * chosen + k.mean())


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
    InputError
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
    every = scored(motors, u, take)
    order = np.argsort(every.scores, kind="stable")[: RUNNERS_UP + 1]  # of equal ones, the first by tag
    first, *others = [every.named(at) for at in order]
    return Chosen(first, tuple(others), tuple(t for t in every.tags if t not in first.motors))


@dataclass(frozen=True)
class Every:
    """Every set there could be: tags, their values in uncertainties, places among them by set, and score by set."""

    tags: list[str]
    scaled: NDArray[np.float64]
    sets: NDArray[np.int64]
    scores: NDArray[np.float64]

    def named(self, at: int) -> ScoredSet:
        """One of them."""
        return ScoredSet(tuple(self.tags[i] for i in self.sets[at]), float(self.scores[at]))


def scored(motors: Mapping[str, Mapping[str, float]], u: Mapping[str, float], take: int) -> Every:
    """Every set there could be, scored; raises InputError as `best_sets` does.

    Parameters
    ----------
    motors : mapping of str to mapping of str to float
        Values by quantity, by tag.
    u : mapping of str to float
        One standard uncertainty by quantity, in its unit.
    take : int
        How many motors make a set.

    Examples
    --------
    >>> scored({"a": {"kv": 1.0}, "b": {"kv": 9.0}, "c": {"kv": 1.5}}, {"kv": 1.0}, 2).named(1).motors
    ('a', 'c')
    """
    tags, names = sorted(motors), sorted(u)
    if take < 2:
        raise InputError("take", "a set has two motors at least")
    if take > len(tags):
        raise InputError("take", f"a set of {take} out of {len(tags)}: that many can not be compared")
    if not names:
        raise InputError("take", "nothing was read of all of them under equal conditions")
    if comb(len(tags), take) > MOST_SETS:
        raise InputError("take", f"{comb(len(tags), take):,} sets are too many to look at: leave some motors out")
    scaled = np.array([[motors[t][n] / u[n] for n in names] for t in tags])
    every = np.array(list(combinations(range(len(tags)), take)))
    scores = np.zeros(len(every))
    for column in scaled.T:  # one after the other: all at once would not fit where there are many sets
        scores += column[every].var(axis=1, ddof=1)
    return Every(tags, scaled, every, scores / len(names))
