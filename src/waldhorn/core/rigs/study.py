"""A study of a rig: several motors, clamped several times, several runs each time; how much of it is the rig.

References
----------
.. [1] ISO 5725-3:1994, annex B (nested design: motors, visits, runs); number of categories from gauge studies.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import fmean

import numpy as np

USUAL_MOTORS, USUAL_VISITS, USUAL_RUNS = 5, 3, 2


@dataclass(frozen=True, slots=True)
class Nested:
    """Variance components of a nested study as standard deviations, the rig's share of the whole spread in percent,
    and how many groups of motors it can tell apart."""

    run: float
    visit: float
    motor: float
    share_pct: float
    categories: int


def order(motors: int, visits: int, seed: int) -> list[int]:
    """In which order motors are clamped: every motor once a round, in an order drawn anew each round, and never the
    same twice in a row, since it has to be taken off in between.

    Parameters
    ----------
    motors : int
        How many, two at least.
    visits : int
        How often each is clamped.
    seed : int
        Draws the order.

    Returns
    -------
    list of int
        Places of motors, motors × visits of them.

    Notes
    -----
    Source: [1]_ (runs in random order).

    Examples
    --------
    >>> sorted(order(3, 2, 1))
    [0, 0, 1, 1, 2, 2]
    """
    rng = np.random.default_rng(seed)
    found: list[int] = []
    for _ in range(visits):
        one = [int(i) for i in rng.permutation(motors)]
        if found and one[0] == found[-1]:
            one = [*one[1:], one[0]]
        found += one
    return found


def furthest_apart(values: Mapping[str, float], count: int = USUAL_MOTORS) -> list[str]:
    """Motors that span what is read, evenly: the least, the greatest, and those nearest to even steps between.

    Parameters
    ----------
    values : mapping of str to float
        What was read last, by motor.
    count : int
        How many motors, fewer where there are not as many.

    Returns
    -------
    list of str
        From the least to the greatest.

    Notes
    -----
    Source: [1]_ (motors that cover the range the rig is used over).

    Examples
    --------
    >>> furthest_apart({"A": 80.0, "B": 80.2, "C": 84.0, "D": 88.0}, 3)
    ['A', 'C', 'D']
    """
    left = dict(values)
    found = []
    for step in np.linspace(min(left.values()), max(left.values()), min(count, len(left))) if left else ():
        nearest = min(left, key=lambda motor: (abs(left[motor] - step), motor))
        left.pop(nearest)
        found.append(nearest)
    return sorted(found, key=lambda motor: (values[motor], motor))


def nested(motors: Sequence[Sequence[Sequence[float]]]) -> Nested:
    """How well a rig repeats, from a study of several motors, clamped several times, several runs each time.

    Parameters
    ----------
    motors : sequence of sequence of sequence of float
        Motors × visits × runs, as many of each everywhere, two at least.

    Returns
    -------
    Nested

    Raises
    ------
    ValueError
        Fewer than two of anything, or not as many everywhere.

    Notes
    -----
    Formula: s_r² = MS_e, s_L² = (MS_v − MS_e)/r, s_p² = (MS_p − MS_v)/(v·r), none below 0;
    share = √(s_r² + s_L²)/total; categories = ⌊1.41·s_p/√(s_r² + s_L²)⌋

    Source: [1]_.

    Examples
    --------
    >>> round(nested([[[1.0, 1.2], [2.0, 2.2]], [[5.0, 5.2], [6.0, 6.2]]]).run, 3)
    0.141
    """
    p, v, r = len(motors), len(motors[0]) if motors else 0, len(motors[0][0]) if motors and motors[0] else 0
    if min(p, v, r) < 2 or any(len(visits) != v or any(len(runs) != r for runs in visits) for visits in motors):
        raise ValueError("a study needs two motors, two visits and two runs at least, as many everywhere")
    of_visits = [[fmean(runs) for runs in visits] for visits in motors]
    of_motors = [fmean(visits) for visits in of_visits]
    whole = fmean(of_motors)
    within = sum((x - fmean(runs)) ** 2 for visits in motors for runs in visits for x in runs) / (p * v * (r - 1))
    visited = r * sum((m - of_motors[i]) ** 2 for i, visits in enumerate(of_visits) for m in visits) / (p * (v - 1))
    among = v * r * sum((m - whole) ** 2 for m in of_motors) / (p - 1)
    visit, motor = max(0.0, (visited - within) / r), max(0.0, (among - visited) / (v * r))
    rig, total = math.sqrt(within + visit), math.sqrt(within + visit + motor)
    categories = (
        math.floor(1.41 * math.sqrt(motor) / rig) if rig else p if motor else 0
    )  # a perfect rig tells all apart
    return Nested(
        math.sqrt(within), math.sqrt(visit), math.sqrt(motor), 100 * rig / total if total else 0.0, categories
    )
