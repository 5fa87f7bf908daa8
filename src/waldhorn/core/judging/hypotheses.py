"""Hypotheses: nothing wrong, each fault and each pair, at a grid of severities, with the changes they predict.

What each fault does stands with each quantity in the registry (`measures`); laid out once as arrays, so that weighing
is a few vector operations (see `faults`).

References
----------
.. [1] Bench practice.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.vocabulary import FAULTS, FaultKind
from waldhorn.core.judging.faults import ENTRY, SIGNATURES
from waldhorn.core.measuring.measures import QUANTITIES

# How far the size of a sign lies off the table, one sigma, as a share of it [1]: a sign that reaches its own
# act limit when the fault does defines that limit and is well known, side effects are less so, and those that stay
# below their watch limit hardly.
DEFINING_SPREAD, SIDE_EFFECT_SPREAD, SLIGHT_SPREAD = 0.2, 0.35, 0.5

_SINGLE_SEVERITIES = (*(0.1 * k for k in range(1, 21)), *(2.2 + 0.25 * k for k in range(8)))
_PAIR_SEVERITIES = (0.4, 0.7, 1.0, 1.4, 2.0, 3.0)


@dataclass(frozen=True, slots=True)
class Grid:
    """All hypotheses as points: what each predicts, how far its prediction may lie off, and what it consists of."""

    column: Mapping[str, int]  # of each quantity
    expected: NDArray[np.float64]  # quantities × points
    model_spread: NDArray[np.float64]  # quantities × points, variance
    share: NDArray[np.float64]  # points: share of its hypothesis' odds
    severity: NDArray[np.float64]  # FAULTS × points, 0 where the fault is not part of the point
    hypothesis: NDArray[np.int64]  # points: which hypothesis, 0 is none
    members: tuple[tuple[FaultKind, ...], ...]  # of each hypothesis


@lru_cache
def alone(fault: FaultKind) -> Grid:
    """The same with nothing wrong and one fault alone."""
    laid = grid()
    number = laid.members.index((fault,))
    kept = (laid.hypothesis == 0) | (laid.hypothesis == number)
    return replace(
        laid,
        expected=laid.expected[:, kept],
        model_spread=laid.model_spread[:, kept],
        share=laid.share[kept],
        severity=laid.severity[:, kept],
        hypothesis=laid.hypothesis[kept],
    )


def defines(fault: FaultKind, quantity: str) -> bool:
    """Whether a quantity reaches its own act limit when the fault does.

    Parameters
    ----------
    fault : FaultKind
    quantity : str
        Its name.

    Examples
    --------
    >>> defines(FaultKind.WORN_BEARING, "noise_avg"), defines(FaultKind.WORN_BEARING, "temperature")
    (True, False)
    """
    return abs(SIGNATURES[fault].get(quantity, 0.0)) >= QUANTITIES[quantity].limits.act


@lru_cache(None)
def effect(fault: FaultKind, quantity: str, severity: float) -> float:
    """Change of a quantity by a fault of some severity, change unit; a severity below 0 is the other way round.

    >>> effect(FaultKind.WORN_BEARING, "noise_avg", 0.5), round(effect(FaultKind.TIMING_MOVED, "no_load_current", -1))
    (3.0, -18)
    """
    size = SIGNATURES[fault].get(quantity, 0.0)
    if quantity in ENTRY[fault].compound:
        return float(100 * ((1 + size / 100) ** severity - 1))
    turned = severity < 0 and quantity not in ENTRY[fault].either_way
    return size * (abs(severity) if turned else severity)


@lru_cache(None)
def model_spread(fault: FaultKind, quantity: str, severity: float) -> float:
    """How far that change may lie off, one standard deviation, change unit."""
    size, limits = abs(SIGNATURES[fault].get(quantity, 0.0)), QUANTITIES[quantity].limits
    share = DEFINING_SPREAD if size >= limits.act else SIDE_EFFECT_SPREAD if size >= limits.watch else SLIGHT_SPREAD
    share = ENTRY[fault].model_spreads.get(quantity, share)
    return share * abs(effect(fault, quantity, severity))


def _ways(fault: FaultKind) -> tuple[int, ...]:
    """Whether a fault may also go the other way."""
    return (1, -1) if ENTRY[fault].either_way else (1,)


@lru_cache
def grid() -> Grid:
    """Every hypothesis laid out once; judging then is a few vector operations."""
    quantities = sorted({q for signs in SIGNATURES.values() for q in signs})
    members: list[tuple[FaultKind, ...]] = [(), *((n,) for n in FAULTS), *combinations(FAULTS, 2)]
    points: list[tuple[int, float, tuple[float, ...]]] = [(0, 1.0, ())]
    for number, faults in enumerate(members[1:], 1):
        levels = _SINGLE_SEVERITIES if len(faults) == 1 else _PAIR_SEVERITIES
        width = np.gradient(np.array(levels))
        prior = dict(zip(levels, np.exp(-0.5 * np.array(levels)) * width, strict=True))
        total = sum(prior.values())
        ways = list(product(*(_ways(f) for f in faults)))
        for severities in product(levels, repeat=len(faults)):
            share = float(np.prod([prior[s] / total for s in severities])) / len(ways)
            points += [(number, share, tuple(s * w for s, w in zip(severities, way, strict=True))) for way in ways]
    expected, model_spreads = np.zeros((2, len(quantities), len(points)))
    severity = np.zeros((len(FAULTS), len(points)))
    for at, (number, _, severities) in enumerate(points):
        for fault, s in zip(members[number], severities, strict=True):
            severity[FAULTS.index(fault), at] = abs(s)
            for row, quantity in enumerate(quantities):
                expected[row, at] += effect(fault, quantity, s)
                model_spreads[row, at] += model_spread(fault, quantity, s) ** 2
    return Grid(
        {q: i for i, q in enumerate(quantities)},
        expected,
        model_spreads,
        np.array([p[1] for p in points]),
        severity,
        np.array([p[0] for p in points]),
        tuple(members),
    )
