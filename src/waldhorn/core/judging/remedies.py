"""What is done about each fault, what that costs against running on, and when a fault is due for it."""

from dataclasses import dataclass

from waldhorn.core.base.vocabulary import FAULTS, Verdict
from waldhorn.core.judging.faults import ENTRY
from waldhorn.core.judging.weighing import FAULTY

FOR_GOOD = tuple(f for f in FAULTS if ENTRY[f].remedy is Verdict.RETIRE)
MENDABLE = tuple(f for f in FAULTS if ENTRY[f].remedy is Verdict.REPAIR)
MORE_LIKELY_THAN_NOT = 0.5
_DUE_AT_LEAST, _DUE_AT_MOST = 0.1, 0.95


@dataclass(frozen=True, slots=True)
class Prices:
    """What the owner sets against each other: a new motor, the repair, a failure in a heat; and which share of the
    motors that come to the bench have a fault."""

    new: float = 1.0
    repair: float = 0.3
    failure: float = 1.5
    faulty: float = FAULTY


_USUAL = Prices()


def due_at(prices: Prices, verdict: Verdict) -> float:
    """How likely a fault must be, at eight tenths of its act limit or beyond, to be due.

    Parameters
    ----------
    prices : Prices
    verdict : Verdict
        Repair or retire: what would be done about it.

    Returns
    -------
    float
        0 to 1.

    Notes
    -----
    Formula: P = ½ · (cost / usual cost) / (failure / usual failure), between 0.1 and 0.95

    Source: bench practice: dear failures act earlier, dear motors later.

    Examples
    --------
    >>> due_at(Prices(), Verdict.REPAIR), due_at(Prices(failure=3.0), Verdict.RETIRE)
    (0.5, 0.25)
    """
    dear = prices.new / _USUAL.new if verdict is Verdict.RETIRE else prices.repair / _USUAL.repair
    failing = prices.failure / _USUAL.failure
    at = MORE_LIKELY_THAN_NOT * dear / failing if failing else _DUE_AT_MOST
    return min(max(at, _DUE_AT_LEAST), _DUE_AT_MOST)
