"""Faults: what each does to the quantities, and which of them the changes speak for.

Probabilities come from comparing how well "nothing wrong" and each fault, at its most fitting severities,
explain the changes with their uncertainties, weighed by what happened to the motor. Not the answer itself
(see `verdict`).

References
----------
.. [1] Gelman et al., Bayesian Data Analysis, 3rd ed., 2013, ch. 7 (marginal likelihood over a parameter).
.. [2] Bench practice, for the signs and sizes.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

SCATTER = 0.4  # how far the size of one sign strays from the table, one sigma, as a share of it [2]
NOT_THE_MOTOR = 0.3  # weight of "supply, controller or setting moved these numbers" when choosing the next test [2]
_SEVERITIES = np.arange(0.25, 4.01, 0.25)
_PRIOR_OF_SEVERITY = np.exp(-0.5 * _SEVERITIES) / np.exp(-0.5 * _SEVERITIES).sum()

# Change of each quantity for a fault at its act limit (severity 1), in the quantity's change unit [2].
# A two-sided sign (the timing may move either way) is listed under TWO_SIDED.
SIGNS: Mapping[str, Mapping[str, float]] = {
    "demagnetised_rotor": {"kv": 6, "no_load_current": 5, "detent_peak": -12, "temperature": 5},
    "cracked_magnet": {
        "kv": 2, "no_load_current": 5, "steadiness": 1.5, "timing_spread": 3, "noise_avg": 4,
        "detent_peak": -5, "detent_variation": 60, "temperature": 3, "vibration": 2,
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
    "failing_sensor": {"steadiness": 1, "timing_mean": 2, "timing_spread": 4, "noise_avg": 1},
}  # fmt: skip
TWO_SIDED = frozenset({"timing_moved"})

_BASE_ODDS = 0.02
# How much likelier a fault becomes by what happened since the baseline [2].
EVENT_WEIGHT: Mapping[str, Mapping[str, float]] = {
    "crash": {"cracked_magnet": 5, "bent_shaft": 6, "timing_moved": 3, "failing_sensor": 2},
    "dunked": {"worn_bearing": 6, "failing_sensor": 2},
    "overheated": {"demagnetised_rotor": 6, "shorted_turn": 6},
}


@dataclass(frozen=True, slots=True)
class Fault:
    """A fault with its probability (0 to 1) and its most likely severity (1 is at the act limit)."""

    fault: str
    probability: float
    severity: float


@dataclass(frozen=True, slots=True)
class Witness:
    """One change as evidence: quantity name, change and its standard uncertainty, in the change unit."""

    quantity: str
    change: float
    u: float


def weigh(witnesses: Sequence[Witness], happened: Sequence[str]) -> list[Fault]:
    """Probability of each fault, and of none, from the changes and from what happened.

    Formula: P(fault | Δ) ∝ prior(events) · Σ_s π(s) Π_i N(Δ_i; s·d_i, u_i² + (0.4·s·d_i)²)

    Parameters
    ----------
    witnesses : the changes, at most one a quantity
    happened : names of events since the baseline

    Returns
    -------
    list of Fault, most probable first, "none" among them; probabilities add to one

    Source: [1]_, signs from [2]_.

    >>> weigh([Witness("no_load_current", 0.5, 2.5), Witness("kv", 0.1, 0.4)], [])[0].fault
    'none'
    """
    odds = {"none": _likelihood(witnesses, {}, np.zeros(1))[0] * (1 - _BASE_ODDS * len(SIGNS))}
    severity = {"none": 0.0}
    for fault, signs in SIGNS.items():
        likelihood = _likelihood(witnesses, signs, _SEVERITIES) * _PRIOR_OF_SEVERITY
        if fault in TWO_SIDED:
            mirrored = _likelihood(witnesses, signs, -_SEVERITIES) * _PRIOR_OF_SEVERITY
            likelihood = (likelihood + mirrored) / 2
        odds[fault] = float(likelihood.sum()) * _prior(fault, happened)
        severity[fault] = float(_SEVERITIES[int(likelihood.argmax())])
    total = sum(odds.values())
    found = [Fault(name, float(o / total), severity[name]) for name, o in odds.items()]
    return sorted(found, key=lambda f: (-f.probability, f.fault))


def telling_test(faults: Sequence[Fault], testable: Mapping[str, tuple[float, int]]) -> str | None:
    """The untested quantity that tells the faults still standing apart best for its time.

    Formula: D = Σ_{i<j} p_i p_j (1 − exp(−(x_i − x_j)² / 4(v_i + v_j))) / (30 s + t), x = s·d, v = u² + (0.4 x)²

    Parameters
    ----------
    faults : as `weigh` returns them
    testable : quantity name to (standard uncertainty its test would have, change unit; seconds it takes)

    Returns
    -------
    str, a quantity name, or None when no testable quantity tells them apart

    Source: Bhattacharyya distance of two normal distributions, without its variance term.
    """
    best, best_worth = None, 1e-9
    for name, (u, seconds) in sorted(testable.items()):
        expected = [(f.probability, f.severity * SIGNS.get(f.fault, {}).get(name, 0.0)) for f in faults]
        expected.append((NOT_THE_MOTOR, 0.0))
        told = sum(
            p * q * (1 - math.exp(-((x - y) ** 2) / (4 * (2 * u**2 + (SCATTER * x) ** 2 + (SCATTER * y) ** 2))))
            for (p, x), (q, y) in combinations(expected, 2)
        )
        if told / (30 + seconds) > best_worth:
            best, best_worth = name, told / (30 + seconds)
    return best


def _prior(fault: str, happened: Sequence[str]) -> float:
    weight = 1.0
    for event in set(happened):
        weight *= EVENT_WEIGHT.get(event, {}).get(fault, 1.0)
    return _BASE_ODDS * weight


def _likelihood(
    witnesses: Sequence[Witness], signs: Mapping[str, float], severities: NDArray[np.float64]
) -> NDArray[np.float64]:
    log = np.zeros(len(severities))
    for w in witnesses:
        expected = severities * signs.get(w.quantity, 0.0)
        variance = w.u**2 + (SCATTER * expected) ** 2
        # A reading can be further out than its u says (a slip of the pen): no single one may outvote the rest.
        log += np.logaddexp(
            -0.5 * (w.change - expected) ** 2 / variance - 0.5 * np.log(variance), -14.0 - 0.5 * np.log(variance)
        )
    return np.exp(np.clip(log, -600, 300))
