"""Faults: what each does to the quantities, and which of them the changes speak for.

"Nothing wrong", each fault and each pair of faults, at a grid of severities, predict changes; how well they explain
the changes seen, weighed by what happened to the motor and by what was noticed on it, gives their probabilities.
Not the answer itself (see `verdict`).

References
----------
.. [1] Gelman et al., Bayesian Data Analysis, 3rd ed., 2013, ch. 7 (marginal likelihood over a parameter).
.. [2] Bench practice, for the signs and sizes.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.hypotheses import NONE, SIGNS, Grid, grid

_BASE_ODDS = 0.02
_PAIR_ODDS = 0.15  # odds of a second fault, given one, against those of either alone
# How much likelier a fault becomes by what happened since the baseline [2].
EVENT_WEIGHT: Mapping[str, Mapping[str, float]] = {
    "crash": {"cracked_magnet": 5, "bent_shaft": 6, "timing_moved": 3, "failing_sensor": 2},
    "dunked": {"worn_bearing": 6, "failing_sensor": 2},
    "overheated": {"demagnetised_rotor": 6, "shorted_turn": 6},
}
# ... and by what was noticed: the eye in doubt or sure, lamps, an uneven sweep, a rough first spin [2].
NOTICED_WEIGHT: Mapping[str, Mapping[str, float]] = {
    "doubt": dict.fromkeys(SIGNS, 2.5),
    "bad": dict.fromkeys(SIGNS, 6.0),
    "lamps": {"failing_sensor": 25},
    "hunted": {"failing_sensor": 3, "timing_moved": 1.5},
    "rough": {"worn_bearing": 3, "cracked_magnet": 3, "bent_shaft": 2},
}
# Which faults a repair mends, so that what happened before it no longer counts for them.
MENDED_BY: Mapping[str, tuple[str, ...]] = {
    "bearings_replaced": ("worn_bearing",),
    "rotor_replaced": ("demagnetised_rotor", "cracked_magnet"),
    "shaft_replaced": ("bent_shaft",),
    "timing_changed": ("timing_moved",),
    "sensor_board_replaced": ("failing_sensor", "timing_moved"),
    "rewound": tuple(SIGNS),
}
_OUTLIER_LOG = -14.0  # no single reading may outvote the rest: it can be another motor's, or a slip of the pen


@dataclass(frozen=True, slots=True)
class Fault:
    """A fault, alone or with another (`also`): probability 0 to 1, and expected severity of the first, 1 at its act
    limit."""

    fault: str
    probability: float
    severity: float
    also: str = ""

    @property
    def names(self) -> tuple[str, ...]:
        """The faults it consists of."""
        return (self.fault, self.also) if self.also else (self.fault,)


@dataclass(frozen=True, slots=True)
class Presence:
    """One fault, alone or with any other: probability of being there, expected severity if it is, and probability of
    being there at or beyond its act limit."""

    probability: float
    severity: float
    p_act: float


@dataclass(frozen=True, slots=True)
class Witness:
    """One change as evidence: quantity name, change and its standard uncertainty, in the change unit."""

    quantity: str
    change: float
    u: float


@dataclass(frozen=True, slots=True)
class Posterior:
    """Probabilities of all hypothesis points; see `faults_of` and `presence` for what they say."""

    weights: NDArray[np.float64]

    def any_act(self, among: Sequence[str] = tuple(SIGNS)) -> float:
        """Probability that any of these faults is there at or beyond its act limit."""
        names = [i for i, name in enumerate(SIGNS) if name in among]
        return float(self.weights[(grid().severity[:, names] >= 1.0).any(axis=1)].sum())


def weigh(
    witnesses: Sequence[Witness], happened: Mapping[str, Sequence[str]] | None = None,
    noticed: Mapping[str, Sequence[str]] | None = None, impossible: Sequence[str] = (),
) -> Posterior:  # fmt: skip
    """Probability of nothing wrong, of each fault and of each pair, from the changes and from what is known besides.

    Formula: P(h | Δ) ∝ prior(h) · Σ_s π(s) Π_i N(Δ_i; Σ s·d_i, u_i² + Σ (0.4·s·d_i)²)

    Parameters
    ----------
    witnesses : the changes, at most one a quantity, in any order
    happened : fault to names of events that concern it, see `concerning`
    noticed : fault to what was noticed that points to it, keys of NOTICED_WEIGHT
    impossible : faults this motor cannot have (a sensorless motor has no sensor to fail)

    Returns
    -------
    Posterior

    Source: [1]_, signs from [2]_.

    >>> faults_of(weigh([Witness("no_load_current", 0.5, 2.5), Witness("kv", 0.1, 0.4)]))[0].fault
    'none'
    """
    laid = grid()
    log = np.log(laid.share) + np.log(_priors(laid, happened or {}, noticed or {}, impossible))[laid.hypothesis]
    for w in sorted(witnesses, key=lambda w: w.quantity):
        if w.quantity not in laid.quantities:
            continue
        column = laid.quantities.index(w.quantity)
        variance = w.u**2 + laid.stray[:, column]
        miss = -0.5 * (w.change - laid.expected[:, column]) ** 2 / variance
        log += np.logaddexp(miss, _OUTLIER_LOG) - 0.5 * np.log(variance)
    weights = np.exp(log - log.max())
    return Posterior(weights / weights.sum())


def concerning(events: Sequence[str]) -> dict[str, list[str]]:
    """The events, oldest first, that still concern each fault: those before its repair are over.

    >>> concerning(["dunked", "bearings_replaced", "crash"])["worn_bearing"]
    ['crash']
    """
    found: dict[str, list[str]] = {fault: [] for fault in SIGNS}
    for event in events:
        for fault in MENDED_BY.get(event, ()):
            found[fault] = []
        for fault in found:
            if event in EVENT_WEIGHT:
                found[fault].append(event)
    return found


def faults_of(posterior: Posterior) -> list[Fault]:
    """Nothing wrong, each fault alone and each pair, with probabilities that add to one.

    Returns
    -------
    list of Fault, most probable first, "none" among them; of a pair the likelier fault comes first

    >>> faults_of(weigh([Witness("timing_mean", 5.0, 0.5), Witness("no_load_current", 25.0, 4)]))[0].fault
    'timing_moved'
    """
    laid, weights = grid(), posterior.weights
    sums = np.bincount(laid.hypothesis, weights, len(laid.members))
    names = list(SIGNS)
    found = []
    for number, members in enumerate(laid.members):
        if not members:
            found.append(Fault(NONE, float(sums[number]), 0.0))
            continue
        first, *rest = sorted(members, key=lambda n: (-presence(posterior, n).probability, n))
        severity = np.bincount(laid.hypothesis, weights * laid.severity[:, names.index(first)], len(laid.members))
        mean = float(severity[number] / sums[number]) if sums[number] > 0 else 0.0
        found.append(Fault(first, float(sums[number]), mean, "".join(rest)))
    return sorted(found, key=lambda f: (-f.probability, f.names))


def presence(posterior: Posterior, fault: str) -> Presence:
    """What a posterior says of one fault, alone or with any other.

    >>> presence(weigh([]), "worn_bearing").probability < 0.05
    True
    """
    severity = grid().severity[:, list(SIGNS).index(fault)]
    weights = posterior.weights
    p = float(weights[severity > 0].sum())
    mean = float((weights * severity).sum() / p) if p > 0 else 0.0
    return Presence(p, mean, float(weights[severity >= 1.0].sum()))


def expected_information(
    posterior: Posterior, quantity: str, u: float, answer_of: Callable[[tuple[str, ...]], str] | None = None
) -> float:
    """How much one more measured quantity would tell about what is wrong, or about what to do.

    Formula: I = H(a) − E[H(a | Δ)], a the answer a hypothesis calls for (or the hypothesis itself); each hypothesis'
    prediction taken as a normal distribution

    Parameters
    ----------
    posterior : Posterior, before the test
    quantity : str, name
    u : float, standard uncertainty the change would have, change unit
    answer_of : function of a hypothesis' faults to the answer it calls for; left out, every hypothesis counts apart

    Returns
    -------
    float, nats, 0 for a quantity that no fault moves

    Source: mutual information, [1]_.

    >>> expected_information(weigh([]), "noise_avg", 1.2) > expected_information(weigh([]), "noise_avg", 5.0)
    True
    """
    laid = grid()
    if quantity not in laid.quantities:
        return 0.0
    column = laid.quantities.index(quantity)
    size = len(laid.members)
    p = np.bincount(laid.hypothesis, posterior.weights, size)
    kept = p > 1e-4
    safe = np.where(kept, p, 1.0)
    mean = np.bincount(laid.hypothesis, posterior.weights * laid.expected[:, column], size) / safe
    square = laid.expected[:, column] ** 2 + laid.stray[:, column]
    variance = np.bincount(laid.hypothesis, posterior.weights * square, size) / safe - mean**2 + u**2
    p, mean, deviation = p[kept] / p[kept].sum(), mean[kept], np.sqrt(np.maximum(variance[kept], u**2))
    seen = np.linspace((mean - 3 * deviation).min(), (mean + 3 * deviation).max(), 161)
    density = p[:, None] * np.exp(-0.5 * ((seen - mean[:, None]) / deviation[:, None]) ** 2) / deviation[:, None]
    if answer_of is not None:
        answers = [answer_of(m) for m, k in zip(laid.members, kept, strict=True) if k]
        alike = np.array([[a == name for a in answers] for name in sorted(set(answers))], float)
        p, density = alike @ p, alike @ density
    total = density.sum(axis=0)
    after = density / np.maximum(total, 1e-300)
    entropy_after = -(after * np.log(np.maximum(after, 1e-300))).sum(axis=0)
    before = -float((p * np.log(p)).sum())
    return max(0.0, before - float((entropy_after * total).sum() / total.sum()))


def likelihood_ratio(witness: Witness, fault: str) -> float:
    """How strongly one change speaks for a fault against nothing wrong: natural logarithm, above 0 speaks for it.

    >>> likelihood_ratio(Witness("noise_avg", 7.0, 1.2), "worn_bearing") > 2
    True
    """
    laid = grid()
    if witness.quantity not in laid.quantities:
        return 0.0
    column = laid.quantities.index(witness.quantity)
    variance = witness.u**2 + laid.stray[:, column]
    log = np.logaddexp(-0.5 * (witness.change - laid.expected[:, column]) ** 2 / variance, _OUTLIER_LOG)
    log = log - 0.5 * np.log(variance)
    single = laid.hypothesis == laid.members.index((fault,))
    none = laid.hypothesis == 0
    return float(_log_mean(log[single], laid.share[single]) - _log_mean(log[none], laid.share[none]))


def _log_mean(log: NDArray[np.float64], share: NDArray[np.float64]) -> float:
    top = log.max()
    return float(top + np.log((np.exp(log - top) * share).sum() / share.sum()))


def _priors(
    laid: Grid, happened: Mapping[str, Sequence[str]], noticed: Mapping[str, Sequence[str]], impossible: Sequence[str]
) -> NDArray[np.float64]:
    alone = {}
    for fault in SIGNS:
        weight = 1.0
        for event in set(happened.get(fault, ())):
            weight *= EVENT_WEIGHT.get(event, {}).get(fault, 1.0)
        for sign in set(noticed.get(fault, ())):
            weight *= NOTICED_WEIGHT[sign].get(fault, 1.0)
        alone[fault] = 1e-12 if fault in impossible else _BASE_ODDS * weight
    odds = [1.0 if not m else alone[m[0]] if len(m) == 1 else _PAIR_ODDS * alone[m[0]] * alone[m[1]] / _BASE_ODDS
            for m in laid.members]  # fmt: skip
    pairs = [o * (1 if len(m) < 2 else _BASE_ODDS) for o, m in zip(odds, laid.members, strict=True)]
    return np.array(pairs) / sum(pairs)
