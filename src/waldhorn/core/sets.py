"""Sets: which motors belong together in one machine, by how far apart they are against what can be read.

References
----------
.. [1] Bench practice.
.. [2] Balas, Padberg, Set partitioning: a survey, SIAM Review 18, 1976.
"""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations
from math import comb

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.errors import Refused

SCORED = ("kv", "no_load_current", "timing_mean", "detent_peak")  # what a set is made alike in [1]
AS_ALIKE_AS_CAN_BE_READ = 1.0
MOST_SETS = 200_000  # looked at one by one
RUNNERS_UP = 3
MOST_MOTORS = 40
SURE_Z = 1.64
_STARTS = 20  # of the search for a parting to begin with
_SECONDS, _STEPS, _ROUNDING = 3.0, 10**7, 1e-9


@dataclass(frozen=True, slots=True)
class ScoredSet:
    """Motors of one set, by tag, and its score: below 1 they lie no further apart than they can be read."""

    motors: tuple[str, ...]
    score: float


@dataclass(frozen=True, slots=True)
class Parted:
    """Motors parted into sets, the most alike first, who is left over, and by what share the whole may be further apart
    than the best parting there is: 0 where it is proven to be the best."""

    sets: tuple[ScoredSet, ...]
    left_over: tuple[str, ...]
    short: float


@dataclass(frozen=True, slots=True)
class Chosen:
    """The best set, those after it, and who is left over."""

    best: ScoredSet
    runners_up: tuple[ScoredSet, ...]
    left_over: tuple[str, ...]


# How far apart the motors of a set may lie, in the change unit, where a class says nothing [1].
GOOD_ENOUGH: Mapping[str, float] = {"kv": 1.0, "no_load_current": 8.0, "timing_mean": 1.0, "detent_peak": 6.0}


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
    every = _scored(motors, u, take)
    order = np.argsort(every.scores, kind="stable")[: RUNNERS_UP + 1]  # of equal ones, the first by tag
    first, *others = [every.named(at) for at in order]
    return Chosen(first, tuple(others), tuple(t for t in every.tags if t not in first.motors))


def part(motors: Mapping[str, Mapping[str, float]], u: Mapping[str, float], take: int, sets: int) -> Parted:
    """Part motors into several sets at once, so that all sets together are most alike within.

    Parameters
    ----------
    motors, u, take
        As for `best_sets`.
    sets : int
        How many machines are to be filled.

    Returns
    -------
    Parted

    Raises
    ------
    Refused
        As for `best_sets`, or too few motors for so many sets.

    Notes
    -----
    Formula: the least sum of the sets' scores over all choices of sets that share no motor. A linear programme bounds
    it from below; sets whose reduced cost exceeds what lies between the bound and a good parting are out; a solver
    takes the best of the rest

    Source: [1]_; set partitioning as in [2]_.

    Examples
    --------
    >>> four = {t: {"kv": v} for t, v in {"a": 1.0, "b": 9.0, "c": 1.5, "d": 9.2}.items()}
    >>> [s.motors for s in part(four, {"kv": 1.0}, 2, 2).sets]
    [('b', 'd'), ('a', 'c')]
    """
    if sets < 1:
        raise Refused("sets", "one machine at least is to be filled")
    if take * sets > len(motors):
        raise Refused("sets", f"{sets} sets of {take} take {take * sets} motors, {len(motors)} compare in all of this")
    every = _scored(motors, u, take)
    chosen, short = _choose(every, len(motors), sets)
    found = sorted((every.named(at) for at in chosen), key=lambda s: (s.score, s.motors))
    used = {t for s in found for t in s.motors}
    return Parted(tuple(found), tuple(t for t in every.tags if t not in used), short)


@dataclass(frozen=True)
class _Every:
    """Every set there could be: tags, their values in uncertainties, places among them by set, and score by set."""

    tags: list[str]
    scaled: NDArray[np.float64]
    sets: NDArray[np.int64]
    scores: NDArray[np.float64]

    def named(self, at: int) -> ScoredSet:
        return ScoredSet(tuple(self.tags[i] for i in self.sets[at]), float(self.scores[at]))


def _scored(motors: Mapping[str, Mapping[str, float]], u: Mapping[str, float], take: int) -> _Every:
    tags, names = sorted(motors), sorted(u)
    if take < 2:
        raise Refused("take", "a set has two motors at least")
    if take > len(tags):
        raise Refused("take", f"a set of {take} out of {len(tags)}: that many can not be compared")
    if not names:
        raise Refused("take", "nothing was read of all of them under equal conditions")
    if comb(len(tags), take) > MOST_SETS:
        raise Refused("take", f"{comb(len(tags), take):,} sets are too many to look at: leave some motors out")
    scaled = np.array([[motors[t][n] / u[n] for n in names] for t in tags])
    every = np.array(list(combinations(range(len(tags)), take)))
    scores = np.zeros(len(every))
    for column in scaled.T:  # one after the other: all at once would not fit where there are many sets
        scores += column[every].var(axis=1, ddof=1)
    return _Every(tags, scaled, every, scores / len(names))


def _choose(every: _Every, motors: int, sets: int) -> tuple[list[int], float]:
    """Sets that share no motor, of the least sum; and by what share of it the sum may be above the least, 0 where it
    is proven."""
    if sets == 1:
        return [int(every.scores.argmin())], 0.0
    from scipy.optimize import linprog  # half a second each to load, and most pages part nothing
    from scipy.sparse import csc_array

    count, take = every.sets.shape
    known = _swapped(every, take, sets)
    most = float(every.scores[known].sum())
    holds = csc_array((np.ones(every.sets.size), (every.sets.ravel(), np.repeat(np.arange(count), take))),
                      shape=(motors, count))  # fmt: skip
    relaxed = linprog(every.scores, A_ub=holds, b_ub=np.ones(motors), A_eq=np.ones((1, count)), b_eq=[sets])
    dear = every.scores - holds.T @ relaxed.ineqlin.marginals - relaxed.eqlin.marginals[0]
    among = np.flatnonzero(dear <= most - relaxed.fun + _ROUNDING * max(1.0, most))
    found, proven = _solved(every, np.union1d(among, known), known, sets)
    least = float(every.scores[found].sum())
    return found, 0.0 if proven else max(0.0, 1 - float(relaxed.fun) / least)


def _swapped(every: _Every, take: int, sets: int) -> list[int]:
    """A good parting, from which no exchange of two motors leads to a better one; the best of several starts."""
    n = len(every.tags)
    apart = ((every.scaled[:, None] - every.scaled[None]) ** 2).mean(axis=2) / (take * (take - 1))
    place = {tuple(motors): at for at, motors in enumerate(every.sets.tolist())}
    start = np.repeat(np.arange(sets + 1), [take] * sets + [n - take * sets])  # the last are left over
    rng = np.random.default_rng(0)
    found: list[list[int]] = []
    for _ in range(_STARTS):
        group = rng.permutation(start)
        while True:
            among = group[:, None] == np.arange(sets)
            to_group = np.column_stack([apart @ among, np.zeros(n)])  # how far each motor lies from each set
            away = to_group[:, group]  # from the set of each other motor
            own = to_group[np.arange(n), group]
            both = apart * ((group < sets)[:, None] * 1.0 + (group < sets)[None])
            gain = own[:, None] + own[None] - away - away.T + both
            gain[group[:, None] == group[None]] = 0.0
            i, j = np.unravel_index(gain.argmax(), gain.shape)
            if gain[i, j] <= _ROUNDING:
                break
            group[[i, j]] = group[[j, i]]
        found.append([place[tuple(np.flatnonzero(group == g).tolist())] for g in range(sets)])
    return min(found, key=lambda sets_at: float(every.scores[sets_at].sum()))


def _solved(every: _Every, among: NDArray[np.int64], known: list[int], sets: int) -> tuple[list[int], bool]:
    """The best choice among some of the sets, and whether it is proven to be; what is known is among them."""
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    taken = [model.new_bool_var("") for _ in among]
    holding: dict[int, list[cp_model.IntVar]] = defaultdict(list)
    for one, at in zip(taken, among, strict=True):
        for motor in every.sets[at]:
            holding[int(motor)].append(one)
    for those in holding.values():
        model.add_at_most_one(those)
    model.add(sum(taken) == sets)
    scale = _STEPS / max(float(every.scores[among].max()), 1e-9)
    model.minimize(sum(round(scale * every.scores[at]) * one for one, at in zip(taken, among, strict=True)))
    for one, at in zip(taken, among, strict=True):
        model.add_hint(one, at in known)
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = _SECONDS
    solver.parameters.num_workers = 2
    solver.parameters.random_seed = 1
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return known, False
    found = [int(at) for one, at in zip(taken, among, strict=True) if solver.boolean_value(one)]
    return found, status == cp_model.OPTIMAL
