"""Evidence sources: what readings that share a set-up say together of each hypothesis.

Their set-up may be wrong, which moves them together, and any one of them may be a slip. What all evidence sources say
together is weighed in `faults`.

References
----------
.. [1] Box, Tiao, A Bayesian approach to some outlier problems, Biometrika 55, 1968 (mixture with a broad density).
.. [2] Golub, Van Loan, Matrix Computations, 4th ed., 2013, 2.1.4 (inverse of a diagonal and a common term).
.. [3] Bench practice, for the odds.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.vocabulary import FaultKind
from waldhorn.core.judging.faults import signs_in
from waldhorn.core.judging.hypotheses import Grid, alone, effect, model_spread
from waldhorn.core.measuring.measures import QUANTITIES

SHOWN_FROM = 2.5  # standard deviations: a fault at its act limit that would move the readings so far would have shown
SPEAKS_FROM = (
    1.2816**2 / 2
)  # log odds: a evidence source speaks for a fault that its readings lie on the side of at 90 %
SET_UP_ODDS = 0.02  # how often something is wrong with what readings share, of one clamping [3]
SLIP_ODDS = 0.02  # how often a reading is a slip, where no other run stands by it [3]
NOT_SHOWN = 0.1  # how often a sign of a fault does not show on a motor that has it [3]
SLIP_REACH = 3.0  # ... one standard deviation of a slip, in act limits [3]


@dataclass(frozen=True, slots=True)
class Residual:
    """One change as evidence of faults: quantity name, change and its standard uncertainty, in the change unit; how
    many runs agree on it, and in how many visits in a row it was seen; how many runs and visits stand behind the
    motor's own baseline (0: it is none of its own)."""

    quantity: str
    change: float
    u: float
    runs: int = 1
    visits: int = 1
    base_runs: int = 0
    base_visits: int = 0

    @property
    def slip(self) -> float:
        """How likely it is a slip, of the baseline or of every visit since: an error in the baseline is one error,
        however many visits follow."""
        of_baseline = (SLIP_ODDS / max(1, self.base_runs)) ** self.base_visits if self.base_visits else 0.0
        return (SLIP_ODDS / max(1, self.runs)) ** self.visits + of_baseline


def log_likelihood(laid: Grid, together: Sequence[Residual]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """What readings that share a set-up say of every hypothesis point.

    Parameters
    ----------
    laid : Grid
    together : sequence of Residual
        Changes of quantities with the same set-up, at least one.

    Returns
    -------
    tuple of array
        The logarithm of their likelihood at each point, up to a constant, and how likely their set-up is wrong under
        it, 0 to 1.

    Notes
    -----
    Formula: log[(1 − ε)·Π_i f(Δ_i) + ε·N(Δ; μ, V + a·aᵀ)], f = (1 − p)·N(Δ_i; μ_i, v_i) + p·N(Δ_i; 0, broad),
    μ_i = Σ s·d_i, v_i = u_i² + spread²; N(Δ_i; μ_i, v_i) is mixed with N(Δ_i; 0, u_i²), a sign that does not show

    Source: slips as [1]_, a common term as [2]_, odds from [3]_.
    """
    rows = [laid.column[r.quantity] for r in together]
    reach = np.array([[QUANTITIES[r.quantity].limits.act] for r in together])
    change = np.array([[_within_reach(r)] for r in together])
    miss = change - laid.expected[rows]
    variance = np.array([[r.u**2] for r in together]) + laid.model_spread[rows]
    slips = np.array([[r.slip] for r in together])
    shown = np.log(1 - NOT_SHOWN) - 0.5 * (miss**2 / variance + np.log(variance))
    unmoved = np.array([[r.u**2] for r in together])
    not_shown = np.log(NOT_SHOWN) - 0.5 * (change**2 / unmoved + np.log(unmoved))
    sound = np.log(1 - slips) + np.logaddexp(shown, not_shown)
    broad = (SLIP_REACH * reach) ** 2 + np.array([[r.u**2] for r in together])
    slip = np.log(slips) - 0.5 * (change**2 / broad + np.log(broad))
    clean = np.logaddexp(sound, slip).sum(axis=0)
    way = np.array([[QUANTITIES[r.quantity].direction or 1] for r in together])
    own, common = variance + reach**2 / 2, way * reach / math.sqrt(2)
    inverse = common / own
    shared = 1 + (common * inverse).sum(axis=0)
    off = -0.5 * (
        (miss**2 / own).sum(axis=0)
        - (miss * inverse).sum(axis=0) ** 2 / shared
        + np.log(own).sum(axis=0)
        + np.log(shared)
    )
    odds = SET_UP_ODDS ** max(r.visits for r in together)
    if of_baseline := max(r.base_visits for r in together):
        odds += SET_UP_ODDS**of_baseline
    clean, off = clean + math.log(1 - odds), off + math.log(odds)
    both = np.logaddexp(clean, off)
    return both, np.exp(off - both)


def _within_reach(r: Residual) -> float:
    """A change, no further than faults reach: further still is as bad, not less believable."""
    most = _furthest(r.quantity)
    return min(max(r.change, -most), most)


@lru_cache
def _furthest(quantity: str) -> float:
    return 3.0 * max([QUANTITIES[quantity].limits.act, *(abs(s) for s in signs_in(quantity).values())])


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

    Source: power of a test; [3]_ for the threshold.

    Examples
    --------
    >>> would_have_shown([Residual("kv", 0.0, 0.8), Residual("no_load_current", 0.0, 5.0)], FaultKind.FAILING_SENSOR)
    False
    """
    return sum(shows(fault, r.quantity, r.u) for r in residuals) >= SHOWN_FROM**2


def shows(fault: FaultKind, quantity: str, u: float) -> float:
    """How far a fault at its act limit moves a quantity, in squared standard deviations of a reading.

    Parameters
    ----------
    fault : FaultKind
    quantity : str
        Its name.
    u : float
        One standard uncertainty, in the change unit.

    Examples
    --------
    >>> round(shows(FaultKind.WORN_BEARING, "noise_avg", 1.5), 1)
    9.8
    """
    return effect(fault, quantity, 1.0) ** 2 / (u**2 + model_spread(fault, quantity, 1.0) ** 2)


def likelihood_ratio(residual: Residual, fault: FaultKind | str) -> float:
    """How strongly one change speaks for a fault against nothing wrong: natural logarithm, above 0 speaks for it.

    Parameters
    ----------
    residual : Residual
    fault : FaultKind or str

    Examples
    --------
    >>> likelihood_ratio(Residual("noise_avg", 7.0, 1.2), "worn_bearing") > 2
    True
    """
    laid = alone(FaultKind(fault))
    if residual.quantity not in laid.column:
        return 0.0
    log, _ = log_likelihood(laid, [residual])
    share = np.log(laid.share[1:])
    return float(_log_sum(log[1:] + share) - _log_sum(share) - log[0])


def _log_sum(log: NDArray[np.float64]) -> float:
    if not len(log):
        return -math.inf
    top = log.max()
    return float(top + np.log(np.exp(log - top).sum()))
