"""Faults: which of them the changes of a motor speak for, and how sure that is.

"Nothing wrong", each fault and each pair of faults, at a grid of severities (see `hypotheses`), predict changes. What
readings have in common is one evidence source (see `evidence_sources`). How well each hypothesis explains the changes
seen, weighed by what happened to the motor and by what was noticed on it, gives the probabilities. Not the answer
itself (see `verdict`).

References
----------
.. [1] Gelman et al., Bayesian Data Analysis, 3rd ed., 2013, ch. 7 (marginal likelihood over a parameter).
.. [2] Bench practice, for the odds.
.. [3] Box, Tiao, A Bayesian approach to some outlier problems, Biometrika 55, 1968 (mixture with a broad density).
.. [4] Golub, Van Loan, Matrix Computations, 4th ed., 2013, 2.1.4 (inverse of a diagonal and a common term).
"""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.vocabulary import FAULTS, EventKind, FaultKind, SetUp
from waldhorn.core.judging import evidence_sources, hands
from waldhorn.core.judging.evidence_sources import Residual
from waldhorn.core.judging.faults import ENTRY, SIGNATURES, after_weight
from waldhorn.core.judging.hands import Finding
from waldhorn.core.judging.hypotheses import Grid, defines, grid
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.quantity import Limits

AT_ACT = 0.9  # a limit is known to a tenth: a fault so near it is at it [2]
DUE_FROM = 0.8  # from here on a fault is to be mended when it is more likely than not [2]
FAULTY = 0.2  # of used motors brought to a bench; four in ten of those have worn bearings [2]


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


@dataclass(frozen=True)
class Posterior:
    """Probabilities of all hypothesis points; see `faults_of` and `presence` for what they say.

    `prior` are those before anything was measured, `log` the logarithms after it up to a constant; `by_source` says of
    each evidence source what it adds to them, `common_cause_error` how likely its set-up is wrong under each point.
    `severity` is that of each fault at each point, 1 at the act limit that holds for the motor's class.
    """

    prior: NDArray[np.float64]
    log: NDArray[np.float64]
    severity: NDArray[np.float64]
    by_source: Mapping[SetUp, NDArray[np.float64]] = field(default_factory=dict)
    common_cause_error: Mapping[SetUp, NDArray[np.float64]] = field(default_factory=dict)

    @cached_property
    def weights(self) -> NDArray[np.float64]:
        """The probabilities."""
        return _normal(self.log)

    def any_from(self, severity: float, among: Sequence[FaultKind] = FAULTS) -> float:
        """Probability that any of these faults is there at this severity or beyond."""
        rows = [i for i, name in enumerate(FAULTS) if name in among]
        return float(self.weights[(self.severity[rows] >= severity - 1e-9).any(axis=0)].sum())

    def any_act(self, among: Sequence[FaultKind] = FAULTS) -> float:
        """Probability that any of these faults is there at or beyond its act limit."""
        return self.any_from(AT_ACT, among)

    def any_due(self, among: Sequence[FaultKind] = FAULTS) -> float:
        """Probability that any of these faults is to be mended."""
        return self.any_from(DUE_FROM, among)

    def any_of(self, among: Sequence[FaultKind]) -> float:
        """Probability that any of these faults is there, however small."""
        return self.any_from(1e-6, among)

    def speaking(self, among: Sequence[FaultKind]) -> dict[SetUp, float]:
        """How strongly each evidence source speaks for these faults against nothing wrong, at the size that suits it
        best: natural logarithm."""
        laid = grid()
        rows = [i for i, name in enumerate(FAULTS) if name in among]
        others = [i for i, name in enumerate(FAULTS) if name not in among]
        only = (laid.severity[rows] > 0).any(axis=0) & (laid.severity[others] == 0).all(axis=0)
        return {one: float(said[only].max() - said[0]) for one, said in self.by_source.items()}


def weigh(
    residuals: Sequence[Residual],
    happened: Mapping[FaultKind, Sequence[EventKind]] | None = None,
    found: Sequence[Finding] = (),
    impossible: Sequence[FaultKind] = (),
    faulty: float = FAULTY,
    limits: Mapping[str, Limits] | None = None,
) -> Posterior:
    """Probability of nothing wrong, of each fault and of each pair, from the changes and from what is known besides.

    Parameters
    ----------
    residuals : sequence of Residual
        At most one a quantity, in any order.
    happened : mapping of FaultKind to sequence of EventKind, optional
        What happened that concerns a fault.
    found : sequence of Finding, optional
        What eyes and hands found.
    impossible : sequence of FaultKind, optional
        Faults this motor cannot have: a sensorless motor has no sensor to fail.
    faulty : float
        Share of motors brought to this bench that have a fault.
    limits : mapping of str to Limits, optional
        Where they differ from the default: a fault is at its act limit when what defines it first is.

    Returns
    -------
    Posterior

    Notes
    -----
    Formula: P(h | Δ) ∝ prior(h) · Σ_s π(s) Π_g [(1 − ε) Π_i f(Δ_i) + ε·N(Δ_g; μ, V + a·aᵀ)], over evidence sources g
    and their readings i; f = (1 − p)·N(Δ_i; μ_i, v_i) + p·N(Δ_i; 0, broad), μ_i = Σ s·d_i, v_i = u_i² + stray²

    Source: [1]_, slips as [3]_, a common term as [4]_, odds from [2]_.

    Examples
    --------
    >>> str(faults_of(weigh([Residual("no_load_current", 0.5, 2.5), Residual("kv", 0.1, 0.4)]))[0].fault)
    'none'
    """
    laid = grid()
    prior = laid.share * _priors(laid, happened or {}, impossible, faulty)[laid.hypothesis]
    sharing: dict[SetUp, list[Residual]] = defaultdict(list)
    for one in sorted(residuals, key=lambda r: r.quantity):
        if one.quantity in laid.column:
            sharing[QUANTITIES[one.quantity].set_up].append(one)
    log, by_source, common_cause_error = np.log(prior), {}, {}
    for set_up in sorted(sharing):
        by_source[set_up], common_cause_error[set_up] = evidence_sources.log_likelihood(laid, sharing[set_up])
        log = log + by_source[set_up]
    if found:
        by_source[SetUp.HAND] = hands.log_likelihood(laid, found)
        log = log + by_source[SetUp.HAND]
    return Posterior(prior, log, _severity(laid, limits or {}), by_source, common_cause_error)


@lru_cache
def of_nothing() -> Posterior:
    """The probabilities before anything is known."""
    return weigh(())


def _severity(laid: Grid, limits: Mapping[str, Limits]) -> NDArray[np.float64]:
    """Severity of each fault at each point, by the limits that hold."""
    if not limits:
        return laid.severity
    scales = [
        min(
            (
                limits[q].act / QUANTITIES[q].limits.act if q in limits else 1.0
                for q in SIGNATURES[fault]
                if defines(fault, q)
            ),
            default=1.0,
        )
        for fault in FAULTS
    ]
    return np.asarray(laid.severity / np.array(scales)[:, None])


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
    means = np.add.reduceat(weights * posterior.severity, starts, axis=1) / np.maximum(sums, 1e-300)
    present = dict(zip(FAULTS, (laid.severity > 0) @ weights, strict=True))
    found = [Fault(FaultKind.NONE, float(sums[0]), 0.0)]
    for number, members in enumerate(laid.members[1:], 1):
        first, *rest = sorted(members, key=lambda n: (-present[n], n))
        mean = float(means[FAULTS.index(first), number])
        found.append(Fault(first, float(sums[number]), mean, rest[0] if rest else None))
    return sorted(found, key=lambda f: (-f.probability, f.names))


def presence(posterior: Posterior, fault: FaultKind | str) -> Presence:
    """What a posterior says of one fault, alone or with any other.

    Parameters
    ----------
    posterior : Posterior
    fault : FaultKind or str

    Examples
    --------
    >>> presence(weigh([]), "bent_shaft").probability < 0.05
    True
    """
    severity = posterior.severity[FAULTS.index(FaultKind(fault))]
    weights = posterior.weights
    p = float(weights[severity > 0].sum())
    mean = float((weights * severity).sum() / p) if p > 0 else 0.0
    return Presence(p, mean, float(weights[severity >= AT_ACT - 1e-9].sum()))


def _normal(log: NDArray[np.float64]) -> NDArray[np.float64]:
    weights = np.exp(log - log.max())
    return np.asarray(weights / weights.sum())


def _priors(
    laid: Grid,
    happened: Mapping[FaultKind, Sequence[EventKind]],
    impossible: Sequence[FaultKind],
    faulty: float,
) -> NDArray[np.float64]:
    """Odds of nothing wrong, each fault and each pair; two faults come together as chance has it."""
    each = faulty / (1 - faulty) / sum(ENTRY[f].share for f in FAULTS)
    single: dict[FaultKind, float] = {}
    for fault in FAULTS:
        weight = 1.0
        for event in set(happened.get(fault, ())):
            weight *= after_weight(event, fault)
        single[fault] = 1e-12 if fault in impossible else each * ENTRY[fault].share * weight
    odds = np.array([math.prod(single[f] for f in members) for members in laid.members])
    return np.asarray(odds / odds.sum())
