"""What a test is worth: how much less the best answer is expected to cost once its result is known.

References
----------
.. [1] Raiffa, Schlaifer, Applied Statistical Decision Theory, 1961 (expected value of sample information).
.. [2] Bench practice, for how often a motor with a fault fails.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.judging.evidence_sources import Residual
from waldhorn.core.judging.hypotheses import grid
from waldhorn.core.judging.remedies import MENDABLE, Prices
from waldhorn.core.judging.weighing import DUE_FROM, Posterior
from waldhorn.core.measuring.measures import QUANTITIES

FAILS_WHEN_DUE = 0.8  # how often a motor whose fault is due fails before its next check [2] ...
FAILS_BEFORE = 0.1  # ... and one with a smaller fault
_STEPS = 81
_TOO_RARE = 1e-4


def value_of_information(p: Sequence[float], costs: NDArray[np.float64], densities: NDArray[np.float64]) -> float:
    """How much less the best action is expected to cost once a result is known.

    Parameters
    ----------
    p : sequence of float
        Probabilities of the states, adding to one.
    costs : array
        Actions × states.
    densities : array
        States × results: how likely each result is in each state, each row adding to one.

    Returns
    -------
    float
        In the unit of the costs, at least 0.

    Notes
    -----
    Formula: EVSI = min_a E[C(a)] − E_y min_a E[C(a) | y]

    Source: [1]_.

    Examples
    --------
    >>> known = np.eye(2)
    >>> round(value_of_information([0.7, 0.3], np.array([[0.0, 1.2], [0.3, 0.3]]), known), 3)
    0.21
    """
    before = float((costs @ np.asarray(p)).min())
    after = float((costs @ (np.asarray(p)[:, None] * densities)).min(axis=0).sum())
    return max(0.0, before - after)


class Deciding:
    """A posterior gathered into states that call for different things, to ask what tests are worth; see `of`."""

    def __init__(self, posterior: Posterior, prices: Prices) -> None:
        laid = grid()
        self.weights, self.posterior = posterior.weights, posterior
        due = (posterior.severity >= DUE_FROM - 1e-9).any(axis=0)
        self.state = 2 * laid.hypothesis + due
        size = 2 * len(laid.members)
        p = np.bincount(self.state, self.weights, size)
        self.kept = p > _TOO_RARE
        self.all_p, self.p = p, p[self.kept] / p[self.kept].sum()
        self.costs = _costs(prices)[:, self.kept]

    def of(self, quantity: str, u: float, before: Residual | None = None) -> float:
        """What a reading of a quantity is worth, in the unit of the prices.

        Parameters
        ----------
        quantity : str
            Name.
        u : float
            Standard uncertainty its change would have, change unit.
        before : Residual, optional
            What was read of it already: the set-up is then made anew, and how far this motor's sign lies off is
            known as well as that reading tells it.

        Returns
        -------
        float
            0 for a quantity that no fault moves.

        Notes
        -----
        Formula: EVSI as in `value_of_information`, each state's prediction taken as a normal distribution, or as two
        where the reading before may have been set up wrongly

        Source: [1]_.
        """
        laid = grid()
        if quantity not in laid.column:
            return 0.0
        row = laid.column[quantity]
        expected, model_spread = laid.expected[row], laid.model_spread[row]
        if before is None:
            parts = [(self.weights, expected, model_spread + u**2)]
        else:
            common_cause_error = self.posterior.common_cause_error.get(
                QUANTITIES[quantity].set_up, np.zeros_like(self.weights)
            )
            told = model_spread / (model_spread + before.u**2)
            known = expected + told * (before.change - expected)
            parts = [
                (self.weights * common_cause_error, expected, model_spread + u**2),
                (self.weights * (1 - common_cause_error), known, told * before.u**2 + u**2),
            ]
        shapes = [self._shape(*part) for part in parts]
        spread = np.array([(m - 3.5 * d).min() for _, m, d in shapes] + [(m + 3.5 * d).max() for _, m, d in shapes])
        seen = np.linspace(spread.min(), spread.max(), _STEPS)
        density = sum(
            (
                share[:, None] * np.exp(-0.5 * ((seen - mean[:, None]) / sigma[:, None]) ** 2) / sigma[:, None]
                for share, mean, sigma in shapes
            ),
            np.zeros((int(self.kept.sum()), _STEPS)),
        )
        density /= np.maximum(density.sum(axis=1, keepdims=True), 1e-300)
        return value_of_information(self.p.tolist(), self.costs, density)

    def _shape(
        self, weights: NDArray[np.float64], mean: NDArray[np.float64], variance: NDArray[np.float64]
    ) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
        """Share, mean and deviation of a part of every state."""
        size = len(self.all_p)
        share = np.bincount(self.state, weights, size)[self.kept]
        safe = np.maximum(share, 1e-300)
        centre = np.bincount(self.state, weights * mean, size)[self.kept] / safe
        square = np.bincount(self.state, weights * (mean**2 + variance), size)[self.kept] / safe
        least = float(variance.min())
        return share / self.all_p[self.kept], centre, np.sqrt(np.maximum(square - centre**2, least))


def _costs(prices: Prices) -> NDArray[np.float64]:
    """Actions × states: running on, mending each fault that can be mended, a new motor."""
    members = grid().members
    run_on, mending = [], []
    for faults in members:
        for due in (0, 1):
            run_on.append(prices.failure * (FAILS_WHEN_DUE if due else FAILS_BEFORE if faults else 0.0))
    for mended in MENDABLE:
        row = []
        for faults in members:
            left = [f for f in faults if f is not mended]
            for due in (0, 1):
                row.append(prices.repair + prices.failure * (FAILS_WHEN_DUE if due and left else 0.0))
        mending.append(row)
    return np.array([run_on, *mending, [prices.new] * len(run_on)])
