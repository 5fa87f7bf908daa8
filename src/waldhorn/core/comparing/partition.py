"""Partition motors into several machines at once, so that all sets together are most alike within.

Proven to be the best, or how far from it at most.

References
----------
.. [1] Balas, Padberg, Set partitioning: a survey, SIAM Review 18, 1976.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.errors import InputError
from waldhorn.core.comparing.sets import Every, ScoredSet, scored

_STARTS = 20  # of the search for a partition to begin with
_SECONDS, _ROUNDING = 3.0, 1e-9
_PROVEN = 1e-6  # of the sum: what rounding alone leaves open


@dataclass(frozen=True, slots=True)
class Parted:
    """Motors parted into sets, the most alike first, who is left over, and by what share the whole may be further apart
    than the best partition there is: 0 where it is proven to be the best."""

    sets: tuple[ScoredSet, ...]
    left_over: tuple[str, ...]
    short: float


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
    InputError
        As for `best_sets`, or too few motors for so many sets.

    Notes
    -----
    Formula: the least sum of the sets' scores over all choices of sets that share no motor. A linear programme bounds
    it from below; sets whose reduced cost exceeds what lies between the bound and a good partition are out; a solver
    takes the best of the rest

    Source: [1]_.

    Examples
    --------
    >>> four = {t: {"kv": v} for t, v in {"a": 1.0, "b": 9.0, "c": 1.5, "d": 9.2}.items()}
    >>> [s.motors for s in part(four, {"kv": 1.0}, 2, 2).sets]
    [('b', 'd'), ('a', 'c')]
    """
    if sets < 1:
        raise InputError("sets", "one machine at least is to be filled")
    if take * sets > len(motors):
        raise InputError(
            "sets", f"{sets} sets of {take} take {take * sets} motors, {len(motors)} compare in all of this"
        )
    every = scored(motors, u, take)
    chosen, short = _choose(every, sets)
    found = sorted((every.named(at) for at in chosen), key=lambda s: (s.score, s.motors))
    used = {t for s in found for t in s.motors}
    return Parted(tuple(found), tuple(t for t in every.tags if t not in used), short)


def _choose(every: Every, sets: int) -> tuple[list[int], float]:
    """Sets that share no motor, of the least sum; and by what share of it the sum may be above the least, 0 where it
    is proven."""
    if sets == 1:
        return [int(every.scores.argmin())], 0.0
    from scipy.optimize import linprog  # half a second to load, and most pages part nothing

    count, take = every.sets.shape
    known = _swapped(every, take, sets)
    most = float(every.scores[known].sum())
    holds = _holding(every, np.arange(count))
    relaxed = linprog(
        every.scores, A_ub=holds, b_ub=np.ones(holds.shape[0]), A_eq=np.ones((1, count)), b_eq=[sets], method="highs"
    )
    dear = every.scores - holds.T @ relaxed.ineqlin.marginals - relaxed.eqlin.marginals[0]
    among = np.flatnonzero(dear <= most - relaxed.fun + _ROUNDING * max(1.0, most))
    found, bound = _solved(every, np.union1d(among, known), known, sets)
    least = float(every.scores[found].sum())
    short = 1 - max(bound, float(relaxed.fun)) / least if least > 0 else 0.0
    return found, short if short > _PROVEN else 0.0


def _swapped(every: Every, take: int, sets: int) -> list[int]:
    """A good partition, from which no exchange of two motors leads to a better one; the best of several starts."""
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


def _solved(every: Every, among: NDArray[np.int64], known: list[int], sets: int) -> tuple[list[int], float]:
    """The best choice among some of the sets that the solver finds in its time, never worse than what is known; and the
    least sum that any choice among them can have."""
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import vstack

    holds = _holding(every, among)
    rows = vstack([holds, np.ones((1, len(among)))], format="csc")
    motors = holds.shape[0]
    limits = LinearConstraint(rows, np.append(np.zeros(motors), sets), np.append(np.ones(motors), sets))
    solved = milp(
        every.scores[among],
        integrality=np.ones(len(among)),
        bounds=Bounds(0, 1),
        constraints=limits,
        options={"time_limit": _SECONDS, "mip_rel_gap": 0.0},
    )
    bound = float(solved.mip_dual_bound) if solved.mip_dual_bound is not None else -np.inf
    if solved.x is None:
        return known, bound
    found = [int(at) for at in among[solved.x > 0.5]]
    return min(found, known, key=lambda at: float(every.scores[at].sum())), bound


def _holding(every: Every, among: NDArray[np.int64]) -> Any:
    """Which motor is in which of some sets: motors down, sets across, sparse."""
    from scipy.sparse import csc_array

    count, take = len(among), every.sets.shape[1]
    ones = (every.sets[among].ravel(), np.repeat(np.arange(count), take))
    return csc_array((np.ones(count * take), ones), shape=(len(every.tags), count))
