"""Hypotheses: nothing wrong, each fault and each pair, at a grid of severities, with the changes they predict.

The one table of what each fault does; laid out once as arrays, so that weighing is a few vector operations (see
`faults`).

References
----------
.. [1] Bench practice, for the signs and sizes.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

SCATTER = 0.4  # how far the size of one sign strays from the table, one sigma, as a share of it [1]

# Change of each quantity for a fault at its act limit (severity 1), in the quantity's change unit [1].
SIGNS: Mapping[str, Mapping[str, float]] = {
    "demagnetised_rotor": {"kv": 6, "no_load_current": 5, "detent_peak": -12, "temperature": 5},
    "cracked_magnet": {
        "kv": 2, "no_load_current": 5, "steadiness": 1.5, "timing_spread": 3, "noise_avg": 4,
        "detent_peak": -5, "detent_variation": 60, "temperature": 3, "vibration": 2, "rotor_asymmetry": 100,
    },
    "worn_bearing": {
        "kv": -1.5, "no_load_current": 30, "steadiness": 1.2, "noise_avg": 6, "temperature": 8, "vibration": 1,
    },
    "bent_shaft": {
        "kv": -0.5, "no_load_current": 12, "steadiness": 0.8, "timing_spread": 0.5, "noise_avg": 5,
        "detent_variation": 40, "temperature": 3, "run_out": 0.15, "vibration": 2,
    },
    "shorted_turn": {
        "kv": 4, "no_load_current": 80, "steadiness": 0.6, "timing_spread": 1, "noise_avg": 1, "temperature": 25,
    },
    "timing_moved": {"kv": 2, "no_load_current": 22, "timing_mean": 4, "noise_avg": 0.5, "temperature": 8},
    "failing_sensor": {
        "steadiness": 1, "timing_mean": 2, "timing_spread": 4, "noise_avg": 1, "sensor_strength_deviation": 100,
    },
}  # fmt: skip
NONE = "none"
# Signs that may go either way: all of them together, or one alone.
_MIRRORED: Mapping[str, tuple[str, ...]] = {
    "timing_moved": tuple(SIGNS["timing_moved"]),
    "failing_sensor": ("timing_mean",),
}
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
    severity: NDArray[np.float64]  # points × faults, 0 where the fault is not part of the point
    hypothesis: NDArray[np.int64]  # points: which hypothesis, 0 is none
    members: tuple[tuple[str, ...], ...]  # of each hypothesis


def _variants(fault: str) -> list[dict[str, float]]:
    signs = dict(SIGNS[fault])
    if fault not in _MIRRORED:
        return [signs]
    return [signs, signs | {q: -signs[q] for q in _MIRRORED[fault]}]


@lru_cache
def grid() -> Grid:
    """Every hypothesis laid out once; judging then is a few vector operations."""
    quantities = tuple(sorted({q for signs in SIGNS.values() for q in signs}))
    names = list(SIGNS)
    members: list[tuple[str, ...]] = [(), *((n,) for n in names), *combinations(names, 2)]
    rows: list[tuple[int, float, dict[str, float], dict[str, float], dict[str, float]]] = [
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
        np.array([[r[4].get(n, 0.0) for n in names] for r in rows]),
        np.array([r[0] for r in rows]),
        tuple(members),
    )
