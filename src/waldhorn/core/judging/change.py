"""Change of a quantity against its baseline: how large, how sure, and beyond which limit.

The spine of judging. It knows no quantity by name; everything it needs comes in as numbers.

References
----------
.. [1] JCGM 100:2008 (GUM), 5.1 and F.2.2.1 (combining uncertainties; a display step is rectangular, a²/12,
   and a difference takes two of them).
.. [2] David, Nagaraja, Order Statistics, 3rd ed., 2003, 8.6 (efficiency of the median of few normal values).
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

from waldhorn.core.base.vocabulary import State
from waldhorn.core.measuring.quantity import Limits

SURE = 0.90
UNSURE = 0.10
Z_SURE = 1.2815515655446004  # 90 % point of the normal distribution
MOST_FURTHER_RUNS = 6
# A median of n is less sure than their mean by so much; more runs than five are one value of many peaks already [2].
OF_A_MEDIAN = {3: 1.16, 4: 1.09, 5: 1.20}


@dataclass(frozen=True, slots=True)
class Change:
    """A change and what can be said of it; `value`, `u` in the change unit, probabilities 0 to 1.

    `further_runs` is how many more runs would settle an unproven change, `further_visits` how many times it would have
    to be clamped anew; None when no reasonable number would (or none is needed).
    """

    value: float
    u: float
    p_past_watch: float
    p_past_act: float
    state: State
    headroom: float
    further_runs: int | None
    further_visits: int | None = None


def uncertainty(
    run: float,
    visit: float,
    resolution: float,
    n_now: int,
    n_base: int,
    m_now: int = 1,
    m_base: int = 0,
    extra: float = 0.0,
) -> float:
    """Standard uncertainty of a change.

    Parameters
    ----------
    run : float
        S_r, one standard deviation between runs of one visit, change unit.
    visit : float
        S_L, one standard deviation between visits (taken off and clamped again), change unit.
    resolution : float
        One step of the display, change unit.
    n_now, n_base : int
        Runs behind each side; 0 when the baseline is none of this rig, whose own uncertainty comes in `extra`.
    m_now, m_base : int
        Visits behind each side, likewise.
    extra : float
        What no repeat shows (temperature of the magnets, gain of the meter, translation, a model's spread), change
        unit.

    Returns
    -------
    float
        Change unit.

    Notes
    -----
    Formula: u² = s_L²·(1/m_now + 1/m_base) + s_r²·(f²/n_now + f²/n_base) + resolution²/6 + u_B², f that of a median: 1,
    1.16, 1.09, 1.20 for 2, 3, 4, 5 runs

    Source: [1]_; ISO 5725-3 for the two parts of the spread.

    Examples
    --------
    >>> round(uncertainty(0.345, 1.132, 0.0, 2, 4, 1, 2), 2)
    1.42
    """
    runs = OF_A_MEDIAN.get(n_now, 1.0) ** 2 / n_now + (OF_A_MEDIAN.get(n_base, 1.0) ** 2 / n_base if n_base else 0.0)
    visits = 1 / m_now + (1 / m_base if m_base else 0.0)
    return math.sqrt(visit**2 * visits + run**2 * runs + resolution**2 / 6 + extra**2)


def probability_beyond(value: float, u: float, limit: float, direction: int) -> float:
    """Probability that the true change lies beyond a limit.

    Parameters
    ----------
    value, u, limit : float
        Change unit, u > 0.
    direction : +1 a rise is bad
        −1 a fall, 0 both.

    Returns
    -------
    float
        0 to 1.

    Notes
    -----
    Formula: P = Φ((Δ − L)/u) [+ Φ((−Δ − L)/u) when both directions are bad]

    Source: normal distribution.

    Examples
    --------
    >>> round(probability_beyond(6.0, 1.0, 6.0, 1), 2)
    0.5
    """
    rise = _phi((value - limit) / u)
    fall = _phi((-value - limit) / u)
    return {1: rise, -1: fall, 0: min(1.0, rise + fall)}[direction]


def assess(value: float, u: float, limits: Limits, direction: int, u_of_runs: "RunUncertainty") -> Change:
    """Say of a change what can be said.

    *past* when P(beyond act) ≥ 0.90; *unproven* while that lies between 0.10 and 0.90; below it *watch* when
    P(beyond watch) ≥ 0.90, *within* when ≤ 0.10, else *unproven*.

    Parameters
    ----------
    value, u : float
        Change unit.
    limits : Limits
        Change unit.
    direction : +1
        −1 or 0.
    u_of_runs : RunUncertainty
        To know what further runs would buy.

    Returns
    -------
    Change

    Notes
    -----
    Formula: headroom = 1 − |Δ| / act (only the bad direction counts)

    Source: bench practice; [1]_ for u.
    """
    p_watch = probability_beyond(value, u, limits.watch, direction)
    p_act = probability_beyond(value, u, limits.act, direction)
    state = _state(p_watch, p_act)
    bad = abs(value) if direction == 0 else max(0.0, value * direction)
    runs = visits = None
    if state is State.UNPROVEN:
        away = abs(bad - (limits.act if p_act > UNSURE else limits.watch))
        runs, visits = _until(away, u_of_runs.after), _until(away, u_of_runs.clamped_anew)
    return Change(value, u, p_watch, p_act, state, 1 - bad / limits.act, runs, visits)


@dataclass(frozen=True, slots=True)
class RunUncertainty:
    """What the uncertainty of a change is made of, and what it would become: the arguments of `uncertainty`."""

    run: float
    visit: float
    resolution: float
    n_now: int
    n_base: int
    m_now: int = 1
    m_base: int = 0
    extra: float = 0.0

    def after(self, further: int) -> float:
        """Standard uncertainty of the change after `further` more runs in the same visit, change unit."""
        return uncertainty(
            self.run,
            self.visit,
            self.resolution,
            self.n_now + further,
            self.n_base,
            self.m_now,
            self.m_base,
            self.extra,
        )

    def clamped_anew(self, further: int) -> float:
        """The same after `further` more visits of a run each, change unit."""
        return uncertainty(
            self.run,
            self.visit,
            self.resolution,
            self.n_now + further,
            self.n_base,
            self.m_now + further,
            self.m_base,
            self.extra,
        )


def _state(p_watch: float, p_act: float) -> State:
    if p_act >= SURE:
        return State.PAST
    if p_act > UNSURE:
        return State.UNPROVEN
    if p_watch >= SURE:
        return State.WATCH
    return State.WITHIN if p_watch <= UNSURE else State.UNPROVEN


def _until(away: float, u_after: Callable[[int], float]) -> int | None:
    """How many more it takes until something so far from a limit is sure."""
    return next((n for n in range(1, MOST_FURTHER_RUNS + 1) if away >= Z_SURE * u_after(n)), None)


def _phi(z: float) -> float:
    return 0.5 * math.erfc(-z / math.sqrt(2))
