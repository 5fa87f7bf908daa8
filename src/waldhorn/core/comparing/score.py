"""The school of a score: what a motor does against the mean of its fleet, one number, by mass.

A score ranks motors of one kind that were read alike. It hides what it is made of: it stands beside the numbers, and
nothing is judged by it.

References
----------
.. [1] Bench practice: torque, response, efficiency and label truth, each over the fleet's mean, by mean mass over mass.
.. [2] JCGM 100:2008, 5.1.2 (propagation to first order).
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import mean

# What a score may be made of, and what it is called; more is better of each.
PARTS: Mapping[str, str] = {
    "flywheel_torque": "torque",
    "response": "response",
    "efficiency": "efficiency",
    "label_truth": "label truth",
}
READ_TO_PCT = 3.0  # one sigma of a part that was read once [1]


@dataclass(frozen=True, slots=True)
class Read:
    """A part of a motor's score: its value and one standard uncertainty, in any one unit for all motors."""

    value: float
    u: float


@dataclass(frozen=True, slots=True)
class Scored:
    """A motor's score, 100 being the fleet's mean, with one standard uncertainty; before mass, and its rank from 1.
    What was asked for and not read of it is `missing`."""

    motor: str
    score: float
    u: float
    before_mass: float
    rank: int
    missing: Sequence[str]


def label_truth(kv: float, label_kv: float) -> float:
    """How true a label is, 100 where it reads what it says.

    Parameters
    ----------
    kv : float
        rpm/V, as measured.
    label_kv : float
        rpm/V, above 0.

    Examples
    --------
    >>> round(label_truth(3400, 3500), 2), round(label_truth(3600, 3500), 2)
    (97.14, 97.14)
    """
    return 100 * (1 - abs(kv / label_kv - 1))


def at_speed(read: Sequence[tuple[float, float]], rpm: float) -> float | None:
    """What was read over the speed, at one speed between two that were read.

    Parameters
    ----------
    read : sequence of (float, float)
        rpm and value, in any order; of one speed read twice the mean counts.
    rpm : float

    Returns
    -------
    float
        None outside what was read.

    Notes
    -----
    Formula: straight line between the two nearest speeds

    Source: [1]_.

    Examples
    --------
    >>> at_speed([(10_000, 80.0), (20_000, 60.0), (20_000, 62.0)], 15_000), at_speed([(10_000, 80.0)], 9_000)
    (70.5, None)
    """
    by: dict[float, list[float]] = {}
    for speed, value in read:
        by.setdefault(speed, []).append(value)
    points = sorted((speed, mean(values)) for speed, values in by.items())
    below = [p for p in points if p[0] <= rpm]
    above = [p for p in points if p[0] >= rpm]
    if not below or not above:
        return None
    (low, first), (high, second) = below[-1], above[0]
    return first if high == low else first + (second - first) * (rpm - low) / (high - low)


def scores(
    fleet: Mapping[str, Mapping[str, Read]],
    masses_g: Mapping[str, float | None],
    weights: Mapping[str, float] | None = None,
) -> list[Scored]:
    """Scores of motors of one kind, the best first.

    Parameters
    ----------
    fleet : mapping of motor to mapping of part to Read
        More is better, above 0. A part that fewer than two motors have compares nothing and is left out.
    masses_g : mapping of motor to float or None
        g, at one lead length.
    weights : mapping of part to float or None
        Equal where none are given; a part that is not named weighs nothing.

    Returns
    -------
    list of Scored
        Without motors of which nothing compares.

    Notes
    -----
    Formula: Σ w·(x / mean of the fleet)·100 / Σ w, × mean mass / mass where both are known; u by first order

    Source: [1]_, [2]_.

    Examples
    --------
    >>> fleet = {"A": {"flywheel_torque": Read(0.31, 0), "efficiency": Read(81, 0)},
    ...          "B": {"flywheel_torque": Read(0.26, 0), "efficiency": Read(79, 0)}}
    >>> [(s.motor, round(s.before_mass, 1), round(s.score, 1)) for s in scores(fleet, {"A": 52.0, "B": 49.5})]
    [('A', 105.0, 102.5), ('B', 95.0, 97.4)]
    """
    weighed = {n: w for n, w in (weights or dict.fromkeys(PARTS, 1.0)).items() if w > 0}
    known = {n: [f[n].value for f in fleet.values() if n in f and f[n].value > 0] for n in weighed}
    means = {n: mean(values) for n, values in known.items() if len(values) >= 2}
    masses = [m for m in masses_g.values() if m]
    found = []
    for motor, parts in fleet.items():
        mine = {n: parts[n] for n in means if n in parts and parts[n].value > 0}
        if not mine:
            continue
        total = sum(weighed[n] for n in mine)
        before = sum(weighed[n] * 100 * r.value / means[n] for n, r in mine.items()) / total
        u = math.sqrt(sum((weighed[n] * 100 * r.u / means[n]) ** 2 for n, r in mine.items())) / total
        mass = masses_g.get(motor)
        lighter = mean(masses) / mass if mass and len(masses) >= 2 else 1.0
        missing = tuple(PARTS.get(n, n) for n in means if n not in mine)
        found.append((motor, before * lighter, u * lighter, before, missing))
    order = sorted(found, key=lambda s: -s[1])
    return [Scored(m, score, u, before, rank, missing) for rank, (m, score, u, before, missing) in enumerate(order, 1)]


def score_of(
    motor: str, fleet: Mapping[str, Mapping[str, float]], masses_g: Mapping[str, float | None]
) -> float | None:
    """The score of one motor, all parts alike.

    Parameters
    ----------
    motor : str
    fleet : mapping of motor to mapping of part to float
        More is better, above 0.
    masses_g : mapping of motor to float or None
        g, at one lead length.

    Returns
    -------
    float
        100 is the fleet's mean; None where nothing compares.

    Notes
    -----
    Formula: mean over parts of 100·x / mean of the fleet, × mean mass / mass where masses are known

    Source: [1]_.

    Examples
    --------
    >>> score_of("A", {"A": {"response": 110.0}, "B": {"response": 90.0}}, {"A": 100.0, "B": 120.0})
    121.0
    """
    read = {m: {n: Read(v, 0.0) for n, v in known.items()} for m, known in fleet.items()}
    return next((round(s.score, 10) for s in scores(read, masses_g) if s.motor == motor), None)
