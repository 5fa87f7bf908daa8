"""Hypotheses: nothing wrong, each fault and each pair, at a grid of severities, with the changes they predict.

What each fault does stands with each quantity in the registry (`measures`); laid out once as arrays, so that weighing
is a few vector operations (see `faults`).

References
----------
.. [1] Bench practice.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.measures import QUANTITIES
from waldhorn.core.vocabulary import FAULTS, FaultKind

SCATTER = 0.4  # how far the size of one sign strays from the table, one sigma, as a share of it [1]

SIGNATURES: Mapping[FaultKind, Mapping[str, float]] = {
    fault: {q.name: q.signature[fault] for q in QUANTITIES.values() if fault in q.signature} for fault in FAULTS
}
"""Change of each quantity for a fault at its act limit (severity 1), in the quantity's change unit."""
# Supply, controller or setting moved what is read under power, and nothing is wrong with the motor: one sigma [1].
_SETUP: Mapping[str, float] = {"kv": 4.0, "no_load_current": 20.0, "temperature": 6.0}
_SETUP_ODDS = 0.04

_SINGLE_SEVERITIES = tuple(np.arange(0.2, 4.01, 0.2).tolist())
_PAIR_SEVERITIES = (0.4, 0.8, 1.2, 1.8, 2.6)


@dataclass(frozen=True, slots=True)
class Grid:
    """All hypotheses as points: what each predicts, how far its prediction may stray, and what it consists of."""

    quantities: tuple[str, ...]
    expected: NDArray[np.float64]  # points × quantities
    stray: NDArray[np.float64]  # points × quantities, variance
    share: NDArray[np.float64]  # points: share of its hypothesis' odds
    severity: NDArray[np.float64]  # points × FAULTS, 0 where the fault is not part of the point
    hypothesis: NDArray[np.int64]  # points: which hypothesis, 0 is none
    members: tuple[tuple[FaultKind, ...], ...]  # of each hypothesis


def _variants(fault: FaultKind) -> list[dict[str, float]]:
    """A fault's signature; a second time with the signs turned that may go either way."""
    signs = dict(SIGNATURES[fault])
    turned = {q: -size for q, size in signs.items() if fault in QUANTITIES[q].either_way}
    return [signs, signs | turned] if turned else [signs]


@lru_cache
def grid() -> Grid:
    """Every hypothesis laid out once; judging then is a few vector operations."""
    quantities = tuple(sorted({q for signs in SIGNATURES.values() for q in signs}))
    members: list[tuple[FaultKind, ...]] = [(), *((n,) for n in FAULTS), *combinations(FAULTS, 2)]
    rows: list[tuple[int, float, dict[str, float], dict[str, float], dict[FaultKind, float]]] = [
        (0, 1 - _SETUP_ODDS, {}, {}, {}),
        (0, _SETUP_ODDS, {}, {q: s**2 for q, s in _SETUP.items()}, {}),
    ]
    for number, faults in enumerate(members[1:], 1):
        levels = _SINGLE_SEVERITIES if len(faults) == 1 else _PAIR_SEVERITIES
        prior = {s: np.exp(-0.5 * s) for s in levels}
        total = sum(prior.values())
        combos = [((s,), prior[s] / total) for s in levels] if len(faults) == 1 else [
            ((s, t), prior[s] * prior[t] / total**2) for s in levels for t in levels]  # fmt: skip
        variants = [[v] for v in _variants(faults[0])]
        if len(faults) == 2:
            variants = [[v, w] for [v] in variants for w in _variants(faults[1])]
        for severities, share in combos:
            for variant in variants:
                expected: dict[str, float] = {}
                stray: dict[str, float] = {}
                for s, signs in zip(severities, variant, strict=True):
                    for q, size in signs.items():
                        expected[q] = expected.get(q, 0.0) + s * size
                        stray[q] = stray.get(q, 0.0) + (SCATTER * s * size) ** 2
                rows.append(
                    (number, share / len(variants), expected, stray, dict(zip(faults, severities, strict=True)))
                )
    return Grid(
        quantities,
        np.array([[r[2].get(q, 0.0) for q in quantities] for r in rows]),
        np.array([[r[3].get(q, 0.0) for q in quantities] for r in rows]),
        np.array([r[1] for r in rows]),
        np.array([[r[4].get(n, 0.0) for n in FAULTS] for r in rows]),
        np.array([r[0] for r in rows]),
        tuple(members),
    )
