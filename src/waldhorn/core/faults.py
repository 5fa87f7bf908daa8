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
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.hypotheses import Grid, grid
from waldhorn.core.vocabulary import FAULTS, EventKind, FaultKind


class Sign(StrEnum):
    """What may be noticed on a motor that is no number."""

    DOUBT = "doubt"
    BAD = "bad"
    LAMPS = "lamps"
    HUNTED = "hunted"
    ROUGH = "rough"


_BASE_ODDS = 0.02
_PAIR_ODDS = 0.15  # odds of a second fault, given one, against those of either alone
# How much likelier a fault becomes by what happened since the baseline [2].
EVENT_WEIGHT: Mapping[EventKind, Mapping[FaultKind, float]] = {
    EventKind.CRASH: {
        FaultKind.CRACKED_MAGNET: 5,
        FaultKind.BENT_SHAFT: 6,
        FaultKind.TIMING_MOVED: 3,
        FaultKind.FAILING_SENSOR: 2,
    },
    EventKind.DUNKED: {FaultKind.WORN_BEARING: 6, FaultKind.FAILING_SENSOR: 2},
    EventKind.OVERHEATED: {FaultKind.DEMAGNETISED_ROTOR: 6, FaultKind.SHORTED_TURN: 6},
}
# ... and by what was noticed: the eye in doubt or sure, lamps, an uneven sweep, a rough first spin [2].
NOTICED_WEIGHT: Mapping[Sign, Mapping[FaultKind, float]] = {
    Sign.DOUBT: dict.fromkeys(FAULTS, 2.5),
    Sign.BAD: dict.fromkeys(FAULTS, 6.0),
    Sign.LAMPS: {FaultKind.FAILING_SENSOR: 25},
    Sign.HUNTED: {FaultKind.FAILING_SENSOR: 3, FaultKind.TIMING_MOVED: 1.5},
    Sign.ROUGH: {FaultKind.WORN_BEARING: 3, FaultKind.CRACKED_MAGNET: 3, FaultKind.BENT_SHAFT: 2},
}
# Which faults a repair mends, so that what happened before it no longer counts for them.
MENDED_BY: Mapping[EventKind, tuple[FaultKind, ...]] = {
    EventKind.BEARINGS_REPLACED: (FaultKind.WORN_BEARING,),
    EventKind.ROTOR_REPLACED: (FaultKind.DEMAGNETISED_ROTOR, FaultKind.CRACKED_MAGNET),
    EventKind.SHAFT_REPLACED: (FaultKind.BENT_SHAFT,),
    EventKind.TIMING_CHANGED: (FaultKind.TIMING_MOVED,),
    EventKind.SENSOR_BOARD_REPLACED: (FaultKind.FAILING_SENSOR, FaultKind.TIMING_MOVED),
    EventKind.REWOUND: FAULTS,
}
_OUTLIER_LOG = -14.0  # no single reading may outvote the rest: it can be another motor's, or a slip of the pen


@dataclass(frozen=True, slots=True)
class Fault:
    """A fault, alone or with another (`also`): probability 0 to 1, and expected severity of the first, 1 at its act
    limit."""

    fault: FaultKind
    probability: float
    severity: float
    also: FaultKind | None = None

    @property
    def names(self) -> tuple[FaultKind, ...]:
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
class Residual:
    """One change as evidence of faults: quantity name, change and its standard uncertainty, in the change unit."""

    quantity: str
    change: float
    u: float


@dataclass(frozen=True, slots=True)
class Posterior:
    """Probabilities of all hypothesis points; see `faults_of` and `presence` for what they say."""

    weights: NDArray[np.float64]

    def any_act(self, among: Sequence[FaultKind] = FAULTS) -> float:
        """Probability that any of these faults is there at or beyond its act limit."""
        names = [i for i, name in enumerate(FAULTS) if name in among]
        return float(self.weights[(grid().severity[:, names] >= 1.0).any(axis=1)].sum())


def weigh(
    residuals: Sequence[Residual], happened: Mapping[FaultKind, Sequence[EventKind]] | None = None,
    noticed: Mapping[FaultKind, Sequence[Sign]] | None = None, impossible: Sequence[FaultKind] = (),
) -> Posterior:  # fmt: skip
    """Probability of nothing wrong, of each fault and of each pair, from the changes and from what is known besides.

    Parameters
    ----------
    residuals : sequence of Residual
        At most one a quantity, in any order.
    happened : mapping of FaultKind to sequence of EventKind, optional
        What happened that concerns a fault.
    noticed : mapping of FaultKind to sequence of Sign, optional
        What was noticed that points to a fault.
    impossible : sequence of FaultKind, optional
        Faults this motor cannot have: a sensorless motor has no sensor to fail.

    Returns
    -------
    Posterior

    Notes
    -----
    Formula: P(h | Δ) ∝ prior(h) · Σ_s π(s) Π_i N(Δ_i; Σ s·d_i, u_i² + Σ (0.4·s·d_i)²)

    Source: [1]_, signs from [2]_.

    Examples
    --------
    >>> str(faults_of(weigh([Residual("no_load_current", 0.5, 2.5), Residual("kv", 0.1, 0.4)]))[0].fault)
    'none'
    """
    laid = grid()
    log = np.log(laid.share) + np.log(_priors(laid, happened or {}, noticed or {}, impossible))[laid.hypothesis]
    for w in sorted(residuals, key=lambda w: w.quantity):
        if w.quantity not in laid.quantities:
            continue
        column = laid.quantities.index(w.quantity)
        variance = w.u**2 + laid.stray[:, column]
        miss = -0.5 * (w.change - laid.expected[:, column]) ** 2 / variance
        log += np.logaddexp(miss, _OUTLIER_LOG) - 0.5 * np.log(variance)
    weights = np.exp(log - log.max())
    return Posterior(weights / weights.sum())


def concerning(events: Sequence[EventKind]) -> dict[FaultKind, list[EventKind]]:
    """The events, oldest first, that still concern each fault: those before its repair are over.

    >>> [str(e) for e in concerning([EventKind.DUNKED, EventKind.BEARINGS_REPLACED, EventKind.CRASH])["worn_bearing"]]
    ['crash']
    """
    found: dict[FaultKind, list[EventKind]] = {fault: [] for fault in FAULTS}
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
    list of Fault
        Most probable first, "none" among them; of a pair the likelier fault comes first.

    Examples
    --------
    >>> str(faults_of(weigh([Residual("timing_mean", 5.0, 0.5), Residual("no_load_current", 25.0, 4)]))[0].fault)
    'timing_moved'
    """
    laid, weights = grid(), posterior.weights
    starts = np.searchsorted(laid.hypothesis, np.arange(len(laid.members)))
    sums = np.add.reduceat(weights, starts)
    means = np.add.reduceat(weights[:, None] * laid.severity, starts) / np.maximum(sums, 1e-300)[:, None]
    present = dict(zip(FAULTS, weights @ (laid.severity > 0), strict=True))
    found = [Fault(FaultKind.NONE, float(sums[0]), 0.0)]
    for number, members in enumerate(laid.members[1:], 1):
        first, *rest = sorted(members, key=lambda n: (-present[n], n))
        mean = float(means[number, FAULTS.index(first)])
        found.append(Fault(first, float(sums[number]), mean, rest[0] if rest else None))
    return sorted(found, key=lambda f: (-f.probability, f.names))


def nothing_wrong(posterior: Posterior) -> float:
    """The probability that nothing is wrong.

    >>> nothing_wrong(weigh([])) > 0.5
    True
    """
    return float(posterior.weights[grid().hypothesis == 0].sum())


def presence(posterior: Posterior, fault: FaultKind | str) -> Presence:
    """What a posterior says of one fault, alone or with any other.

    >>> presence(weigh([]), "worn_bearing").probability < 0.05
    True
    """
    severity = grid().severity[:, FAULTS.index(FaultKind(fault))]
    weights = posterior.weights
    p = float(weights[severity > 0].sum())
    mean = float((weights * severity).sum() / p) if p > 0 else 0.0
    return Presence(p, mean, float(weights[severity >= 1.0].sum()))


def expected_information(
    posterior: Posterior, quantity: str, u: float, answer_of: Callable[[tuple[FaultKind, ...]], str] | None = None
) -> float:
    """How much one more measured quantity would tell about what is wrong, or about what to do.

    Parameters
    ----------
    posterior : Posterior
        Before the test.
    quantity : str
        Name.
    u : float
        Standard uncertainty the change would have, change unit.
    answer_of : callable, optional
        The answer that the faults of a hypothesis call for; without it every hypothesis counts apart.

    Returns
    -------
    float
        Nats, 0 for a quantity that no fault moves.

    Notes
    -----
    Formula: I = H(a) − E[H(a | Δ)], a the answer a hypothesis calls for (or the hypothesis itself); each hypothesis'
    prediction taken as a normal distribution

    Source: mutual information, [1]_.

    Examples
    --------
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


def likelihood_ratio(residual: Residual, fault: FaultKind | str) -> float:
    """How strongly one change speaks for a fault against nothing wrong: natural logarithm, above 0 speaks for it.

    >>> likelihood_ratio(Residual("noise_avg", 7.0, 1.2), "worn_bearing") > 2
    True
    """
    laid = grid()
    if residual.quantity not in laid.quantities:
        return 0.0
    column = laid.quantities.index(residual.quantity)
    variance = residual.u**2 + laid.stray[:, column]
    log = np.logaddexp(-0.5 * (residual.change - laid.expected[:, column]) ** 2 / variance, _OUTLIER_LOG)
    log = log - 0.5 * np.log(variance)
    single = laid.hypothesis == laid.members.index((FaultKind(fault),))
    none = laid.hypothesis == 0
    return float(_log_mean(log[single], laid.share[single]) - _log_mean(log[none], laid.share[none]))


def _log_mean(log: NDArray[np.float64], share: NDArray[np.float64]) -> float:
    top = log.max()
    return float(top + np.log((np.exp(log - top) * share).sum() / share.sum()))


def _priors(
    laid: Grid,
    happened: Mapping[FaultKind, Sequence[EventKind]],
    noticed: Mapping[FaultKind, Sequence[Sign]],
    impossible: Sequence[FaultKind],
) -> NDArray[np.float64]:
    alone: dict[FaultKind, float] = {}
    for fault in FAULTS:
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
