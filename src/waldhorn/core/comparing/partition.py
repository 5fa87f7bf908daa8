"""Parting motors into several machines at once, so that all sets together are most alike within.

Proven to be the best, or how far from it at most.

References
----------
.. [1] Balas, Padberg, Set partitioning: a survey, SIAM Review 18, 1976.
"""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.errors import Refused
from waldhorn.core.comparing.sets import Every, ScoredSet, scored

_STARTS = 20  # of the search for a parting to begin with
_SECONDS, _STEPS, _ROUNDING = 3.0, 10**7, 1e-9


@dataclass(frozen=True, slots=True)
class Parted:
    """Motors parted into sets, the most alike first, who is left over, and by what share the whole may be further apart
    than the best parting there is: 0 where it is proven to be the best."""

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
    Refused
        As for `best_sets`, or too few motors for so many sets.

    Notes
    -----
    Formula: the least sum of the sets' scores over all choices of sets that share no motor. A linear programme bounds
    it from below; sets whose reduced cost exceeds what lies between the bound and a good parting are out; a solver
    takes the best of the rest

    Source: [1]_.

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
    every = scored(motors, u, take)
    chosen, short = _choose(every, len(motors), sets)
    found = sorted((every.named(at) for at in chosen), key=lambda s: (s.score, s.motors))
    used = {t for s in found for t in s.motors}
    return Parted(tuple(found), tuple(t for t in every.tags if t not in used), short)


def _choose(every: Every, motors: int, sets: int) -> tuple[list[int], float]:
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


def _swapped(every: Every, take: int, sets: int) -> list[int]:
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


def _solved(every: Every, among: NDArray[np.int64], known: list[int], sets: int) -> tuple[list[int], bool]:
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
