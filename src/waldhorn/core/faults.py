"""Faults: which of them the changes of a motor speak for, and how sure that is.

"Nothing wrong", each fault and each pair of faults, at a grid of severities (see `hypotheses`), predict changes. What
readings have in common is one witness: their set-up may be wrong, which moves them together, and any one of them may
be a slip. How well each hypothesis explains the changes seen, weighed by what happened to the motor and by what was
noticed on it, gives the probabilities. Not the answer itself (see `verdict`).

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

from waldhorn.core.hypotheses import SIGNATURES, Grid, alone, defines, effect, grid, stray
from waldhorn.core.measures import QUANTITIES, Limits
from waldhorn.core.odds import EVENT_WEIGHT, NOTICED_WEIGHT, Sign
from waldhorn.core.vocabulary import FAULTS, EventKind, FaultKind, SetUp

AT_ACT = 0.9  # a limit is known to a tenth: a fault so near it is at it [2]
DUE_FROM = 0.8  # from here on a fault is to be mended when it is more likely than not [2]
SHOWN_FROM = 2.5  # standard deviations: a fault at its act limit that would move the readings so far would have shown
SPEAKS_FROM = 1.2816**2 / 2  # log odds: a witness speaks for a fault that its readings lie on the side of at 90 %
SET_UP_ODDS = 0.02  # how often something is wrong with what readings share, of one clamping [2]
SLIP_ODDS = 0.02  # how often a reading is a slip, where no other run stands by it [2]
SLIP_REACH = 3.0  # ... one standard deviation of a slip, in act limits [2]
FAULTY = 1 / 7  # of used motors brought to a bench [2]


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
    """One change as evidence of faults: quantity name, change and its standard uncertainty, in the change unit; how
    many runs agree on it, and in how many visits in a row it was seen."""

    quantity: str
    change: float
    u: float
    runs: int = 1
    visits: int = 1


@dataclass(frozen=True)
class Posterior:
    """Probabilities of all hypothesis points; see `faults_of` and `presence` for what they say.

    `prior` are those before anything was measured, `log` the logarithms after it up to a constant; `told` says of each
    witness what it adds to them, `astray` how likely its set-up is wrong under each point. `severity` is that of each
    fault at each point, 1 at the act limit that holds for the motor's class.
    """

    prior: NDArray[np.float64]
    log: NDArray[np.float64]
    severity: NDArray[np.float64]
    told: Mapping[SetUp, NDArray[np.float64]] = field(default_factory=dict)
    astray: Mapping[SetUp, NDArray[np.float64]] = field(default_factory=dict)

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
        """How strongly each witness speaks for these faults against nothing wrong, at the size that suits it best:
        natural logarithm."""
        laid = grid()
        rows = [i for i, name in enumerate(FAULTS) if name in among]
        others = [i for i, name in enumerate(FAULTS) if name not in among]
        only = (laid.severity[rows] > 0).any(axis=0) & (laid.severity[others] == 0).all(axis=0)
        return {one: float(told[only].max() - told[0]) for one, told in self.told.items()}


def weigh(
    residuals: Sequence[Residual], happened: Mapping[FaultKind, Sequence[EventKind]] | None = None,
    noticed: Mapping[FaultKind, Sequence[Sign]] | None = None, impossible: Sequence[FaultKind] = (),
    faulty: float = FAULTY, limits: Mapping[str, Limits] | None = None,
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
    faulty : float
        Share of motors brought to this bench that have a fault.
    limits : mapping of str to Limits, optional
        Where they differ from the default: a fault is at its act limit when what defines it first is.

    Returns
    -------
    Posterior

    Notes
    -----
    Formula: P(h | Δ) ∝ prior(h) · Σ_s π(s) Π_g [(1 − ε) Π_i f(Δ_i) + ε·N(Δ_g; μ, V + a·aᵀ)], over witnesses g and their
    readings i; f = (1 − p)·N(Δ_i; μ_i, v_i) + p·N(Δ_i; 0, broad), μ_i = Σ s·d_i, v_i = u_i² + stray²

    Source: [1]_, slips as [3]_, a common term as [4]_, odds from [2]_.

    Examples
    --------
    >>> str(faults_of(weigh([Residual("no_load_current", 0.5, 2.5), Residual("kv", 0.1, 0.4)]))[0].fault)
    'none'
    """
    laid = grid()
    prior = laid.share * _priors(laid, happened or {}, noticed or {}, impossible, faulty)[laid.hypothesis]
    witnesses: dict[SetUp, list[Residual]] = defaultdict(list)
    for one in sorted(residuals, key=lambda r: r.quantity):
        if one.quantity in laid.column:
            witnesses[QUANTITIES[one.quantity].set_up].append(one)
    log, told, astray = np.log(prior), {}, {}
    for set_up in sorted(witnesses):
        told[set_up], astray[set_up] = _told(laid, witnesses[set_up])
        log = log + told[set_up]
    return Posterior(prior, log, _severity(laid, limits or {}), told, astray)


def _severity(laid: Grid, limits: Mapping[str, Limits]) -> NDArray[np.float64]:
    """Severity of each fault at each point, by the limits that hold."""
    if not limits:
        return laid.severity
    scales = [
        min((limits[q].act / QUANTITIES[q].limits.act if q in limits else 1.0
             for q in SIGNATURES[fault] if defines(fault, q)), default=1.0)
        for fault in FAULTS
    ]  # fmt: skip
    return np.asarray(laid.severity / np.array(scales)[:, None])


def _told(laid: Grid, together: Sequence[Residual]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """What readings that share a set-up say of every point, and how likely that set-up is wrong under it."""
    rows = [laid.column[r.quantity] for r in together]
    reach = np.array([[QUANTITIES[r.quantity].limits.act] for r in together])
    change = np.array([[_within_reach(r)] for r in together])
    miss = change - laid.expected[rows]
    variance = np.array([[r.u**2] for r in together]) + laid.stray[rows]
    slips = np.array([[(SLIP_ODDS / max(1, r.runs)) ** r.visits] for r in together])
    sound = np.log(1 - slips) - 0.5 * (miss**2 / variance + np.log(variance))
    broad = (SLIP_REACH * reach) ** 2 + np.array([[r.u**2] for r in together])
    slip = np.log(slips) - 0.5 * (change**2 / broad + np.log(broad))
    clean = np.logaddexp(sound, slip).sum(axis=0)
    way = np.array([[QUANTITIES[r.quantity].direction or 1] for r in together])
    own, common = variance + reach**2 / 2, way * reach / math.sqrt(2)
    inverse = common / own
    shared = 1 + (common * inverse).sum(axis=0)
    off = -0.5 * ((miss**2 / own).sum(axis=0) - (miss * inverse).sum(axis=0) ** 2 / shared
                  + np.log(own).sum(axis=0) + np.log(shared))  # fmt: skip
    odds = SET_UP_ODDS ** max(r.visits for r in together)
    clean, off = clean + math.log(1 - odds), off + math.log(odds)
    both = np.logaddexp(clean, off)
    return both, np.exp(off - both)


def _within_reach(r: Residual) -> float:
    """A change, no further than faults reach: further still is as bad, not less believable."""
    most = _furthest(r.quantity)
    return min(max(r.change, -most), most)


@lru_cache
def _furthest(quantity: str) -> float:
    return 3.0 * max([QUANTITIES[quantity].limits.act, *(abs(s) for s in QUANTITIES[quantity].signature.values())])


def would_have_shown(residuals: Sequence[Residual], fault: FaultKind) -> bool:
    """Whether readings as sure as these would have shown a fault at its act limit, whatever they were.

    Parameters
    ----------
    residuals : sequence of Residual
        What was measured and can be compared; only the uncertainties count.
    fault : FaultKind

    Returns
    -------
    bool

    Notes
    -----
    Formula: Σ d_i²/(u_i² + stray_i²) ≥ 2.5², d_i the fault's change at its act limit

    Source: power of a test; [2]_ for the threshold.

    Examples
    --------
    >>> would_have_shown([Residual("kv", 0.0, 0.8), Residual("no_load_current", 0.0, 5.0)], FaultKind.FAILING_SENSOR)
    False
    """
    return sum(shows(fault, r.quantity, r.u) for r in residuals) >= SHOWN_FROM**2


def shows(fault: FaultKind, quantity: str, u: float) -> float:
    """How far a fault at its act limit moves a quantity, in squared standard deviations of a reading.

    >>> round(shows(FaultKind.WORN_BEARING, "noise_avg", 1.5), 1)
    9.8
    """
    return effect(fault, quantity, 1.0) ** 2 / (u**2 + stray(fault, quantity, 1.0) ** 2)


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
    severity = posterior.severity[FAULTS.index(FaultKind(fault))]
    weights = posterior.weights
    p = float(weights[severity > 0].sum())
    mean = float((weights * severity).sum() / p) if p > 0 else 0.0
    return Presence(p, mean, float(weights[severity >= AT_ACT - 1e-9].sum()))


def likelihood_ratio(residual: Residual, fault: FaultKind | str) -> float:
    """How strongly one change speaks for a fault against nothing wrong: natural logarithm, above 0 speaks for it.

    >>> likelihood_ratio(Residual("noise_avg", 7.0, 1.2), "worn_bearing") > 2
    True
    """
    laid = alone(FaultKind(fault))
    if residual.quantity not in laid.column:
        return 0.0
    log, _ = _told(laid, [residual])
    share = np.log(laid.share[1:])
    return float(_log_sum(log[1:] + share) - _log_sum(share) - log[0])


def _log_sum(log: NDArray[np.float64]) -> float:
    if not len(log):
        return -math.inf
    top = log.max()
    return float(top + np.log(np.exp(log - top).sum()))


def _normal(log: NDArray[np.float64]) -> NDArray[np.float64]:
    weights = np.exp(log - log.max())
    return np.asarray(weights / weights.sum())


def _priors(
    laid: Grid,
    happened: Mapping[FaultKind, Sequence[EventKind]],
    noticed: Mapping[FaultKind, Sequence[Sign]],
    impossible: Sequence[FaultKind],
    faulty: float,
) -> NDArray[np.float64]:
    """Odds of nothing wrong, each fault and each pair; two faults come together as chance has it."""
    each = faulty / (1 - faulty) / len(FAULTS)
    single: dict[FaultKind, float] = {}
    for fault in FAULTS:
        weight = 1.0
        for event in set(happened.get(fault, ())):
            weight *= EVENT_WEIGHT.get(event, {}).get(fault, 1.0)
        for sign in set(noticed.get(fault, ())):
            weight *= NOTICED_WEIGHT[sign].get(fault, 1.0)
        single[fault] = 1e-12 if fault in impossible else each * weight
    odds = np.array([math.prod(single[f] for f in members) for members in laid.members])
    return np.asarray(odds / odds.sum())
