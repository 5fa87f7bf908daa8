"""Change of a quantity against its baseline: how large, how sure, and beyond which limit.

The spine of judging. It knows no quantity by name; everything it needs comes in as numbers.

References
----------
.. [1] JCGM 100:2008 (GUM), 5.1 and F.2.2.1 (combining uncertainties; a display step is rectangular, a²/12,
   and a difference takes two of them).
"""

import math
from dataclasses import dataclass

from waldhorn.core.measures import Limits
from waldhorn.core.vocabulary import State

SURE = 0.90
UNSURE = 0.10
Z_SURE = 1.2815515655446004  # 90 % point of the normal distribution
MOST_FURTHER_RUNS = 6


@dataclass(frozen=True, slots=True)
class Change:
    """A change and what can be said of it; `value`, `u` in the change unit, probabilities 0 to 1.

    `further_runs` is how many more runs would settle an unproven change, None when no reasonable number would
    (or none is needed).
    """

    value: float
    u: float
    p_past_watch: float
    p_past_act: float
    state: State
    headroom: float
    further_runs: int | None


def difference(now: float, baseline: float, relative: bool) -> float:
    """Change from baseline to now.

    Parameters
    ----------
    now, baseline : float
        Same unit; baseline not zero if `relative`.
    relative : bool

    Returns
    -------
    float
        percent or the unit.

    Notes
    -----
    Formula: Δ = 100 · (now / baseline − 1) if relative, else now − baseline

    Source: definition.

    Examples
    --------
    >>> round(difference(88.9, 81.2, False), 1)
    7.7
    """
    return 100 * (now / baseline - 1) if relative else now - baseline


def uncertainty(repeatability: float, resolution: float, n_now: int, n_base: int, extra: float = 0.0) -> float:
    """Standard uncertainty of a change.

    Parameters
    ----------
    repeatability : float
        One standard deviation of a repeat, change unit.
    resolution : float
        One step of the display, change unit.
    n_now, n_base : int
        Runs behind each side; n_base 0 when the baseline is a label, whose own uncertainty comes in `extra`.
    extra : float
        Any further standard uncertainty (translation, label, model spread), change unit.

    Returns
    -------
    float
        Change unit.

    Notes
    -----
    Formula: u² = s_r² · (1/n_now + 1/n_base) + resolution²/6 + extra²

    Source: [1]_.

    Examples
    --------
    >>> round(uncertainty(0.5, 0.0, 2, 4), 3)
    0.433
    """
    repeats = 1 / n_now + (1 / n_base if n_base else 0.0)
    return math.sqrt(repeatability**2 * repeats + resolution**2 / 6 + extra**2)


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
    further = _further_runs(bad, limits, p_act, u_of_runs) if state is State.UNPROVEN else None
    return Change(value, u, p_watch, p_act, state, 1 - bad / limits.act, further)


@dataclass(frozen=True, slots=True)
class RunUncertainty:
    """What u would become with more runs now: the arguments of `uncertainty`."""

    repeatability: float
    resolution: float
    n_now: int
    n_base: int
    extra: float

    def after(self, further: int) -> float:
        """Standard uncertainty of the change after `further` more runs, change unit."""
        return uncertainty(self.repeatability, self.resolution, self.n_now + further, self.n_base, self.extra)


def _state(p_watch: float, p_act: float) -> State:
    if p_act >= SURE:
        return State.PAST
    if p_act > UNSURE:
        return State.UNPROVEN
    if p_watch >= SURE:
        return State.WATCH
    return State.WITHIN if p_watch <= UNSURE else State.UNPROVEN


def _further_runs(bad: float, limits: Limits, p_act: float, u_of_runs: RunUncertainty) -> int | None:
    limit = limits.act if p_act > UNSURE else limits.watch
    for further in range(1, MOST_FURTHER_RUNS + 1):
        if abs(bad - limit) >= Z_SURE * u_of_runs.after(further):
            return further
    return None


def _phi(z: float) -> float:
    return 0.5 * math.erfc(-z / math.sqrt(2))
