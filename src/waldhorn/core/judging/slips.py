"""Slips: a value typed, clipped or set wrongly, weighed against everything a fault could do.

References
----------
.. [1] Bench practice: one visit in fifty holds a slip, about ten times or a tenth, in another unit, or anywhere within
   a factor of twenty.
.. [2] Bayes' theorem over causes that exclude each other.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.units import DIMENSIONS, to_stored
from waldhorn.core.judging.hypotheses import grid
from waldhorn.core.measuring.measures import MEASURES, QUANTITIES
from waldhorn.core.measuring.quantity import Quantity

PRIOR = 0.02  # of a visit [1]
WITHIN = 20.0  # a slip of no known kind lies within this factor either way [1]
SUSPICIOUS = 1.2  # a ratio nearer to one is looked at by the faults alone
_FURTHER = 2000.0  # ... and one in ten of those within this
_LEAST_DENSITY = 1e-12
UNNAMED_FROM = 100.0  # odds from which a slip of no known kind is asked about, ...
_FAR = 2.5  # ... of what lies by this factor or more from what it was [1]
WARMEST_AIR_C = 45.0  # a pit is no warmer [1]


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of slip: what is shown over what is true, and how one asks for it."""

    ratio: float
    words: str


@dataclass(frozen=True, slots=True)
class Slip:
    """A slip as the best explanation: how one asks for it, its odds against every fault and none, and whether it is of
    a known kind."""

    words: str
    odds: float
    named: bool = False


@lru_cache
def kinds(name: str, poles: int | None = None) -> tuple[Kind, ...]:
    """The kinds of slip a quantity is open to: the decimal point, and every unit its readings may be written in.

    Parameters
    ----------
    name : str
        Of a quantity.
    poles : int, optional
        Of the motor: a timing may be in mechanical degrees.

    Returns
    -------
    tuple of Kind

    Notes
    -----
    Formula: a number in a unit of f stored units is 1/f of what it should be, f times where it is converted twice

    Source: [1]_.

    Examples
    --------
    >>> [k.words for k in kinds("no_load_current")]
    ['decimal point?', 'decimal point?', 'mA?', 'mA?']
    """
    found = [Kind(10.0, "decimal point?"), Kind(0.1, "decimal point?")]
    quantity = QUANTITIES[name]
    dimension = MEASURES[quantity.primaries[0]].dimension if quantity.primaries else ""
    if dimension == "temperature":
        return tuple(found)
    if dimension == "angle" and poles and poles > 2:
        return (*found, Kind(2 / poles, "mechanical degrees?"), Kind(poles / 2, "mechanical degrees?"))
    known = {1.0, 10.0, 0.1}
    for unit, (factor, _) in (DIMENSIONS[dimension].written if dimension in DIMENSIONS else {}).items():
        if round(factor, 6) not in known and unit.isascii() | ("·" in unit):
            known.add(round(factor, 6))
            name = {"ma": "mA", "krpm": "krpm"}.get(unit, unit)
            found += [Kind(1 / factor, f"{name}?"), Kind(factor, f"{name}?")]
    return tuple(found)


def against_faults(
    quantity: Quantity,
    now: float,
    before: float,
    u: float,
    weights: NDArray[np.float64],
    poles: int | None = None,
    prior: float = PRIOR,
    raw: float | None = None,
) -> Slip | None:
    """Whether a slip explains a value better than anything that could be wrong with the motor.

    Parameters
    ----------
    quantity : Quantity
    now, before : float
        In its unit; `before` above 0.
    u : float
        Standard uncertainty of the change, change unit.
    weights : array
        Probabilities of all hypothesis points without this reading.
    poles : int, optional
        Of the motor.
    prior : float
        How likely a slip is.
    raw : float, optional
        As it was read, where the value is what that stands above the air: a surface may be in °F.

    Returns
    -------
    Slip or None
        Where its odds are above one.

    Notes
    -----
    Formula: odds = p/(1 − p) · Σ_k p_k·N(ln r; ln ρ_k, u) / Σ_h P(h)·p(ln r | h), r = now/before

    Source: [2]_, kinds from [1]_.
    """
    if before <= 0:
        return None
    if now <= 0:
        return Slip("a slip?", math.inf)
    ratio = math.log(now / before)
    if abs(ratio) < math.log(SUSPICIOUS):
        return None
    u_log = max(u / 100 if quantity.relative else u / before, 1e-3)
    possible = (*kinds(quantity.name, poles), *_surface_in_fahrenheit(quantity, now, raw))
    share = 1 / (len(possible) + 1)
    sharp = [share * _normal(ratio - math.log(k.ratio), u_log) for k in possible]
    broad = share * (0.9 / (2 * math.log(WITHIN)) * (abs(ratio) <= math.log(WITHIN)) + 0.1 / (2 * math.log(_FURTHER)))
    stretch = 100 * now / before if quantity.relative else now
    change = 100 * (now / before - 1) if quantity.relative else now - before
    explained = max(stretch * predictive(quantity.name, change, u, weights), _LEAST_DENSITY)
    odds = prior / (1 - prior) * (sum(sharp) + broad) / explained
    best = max(sharp)
    named = dict.fromkeys(k.words for k, one in zip(possible, sharp, strict=True) if one > broad and one > best / 2)
    if odds <= 1 or (not named and (odds < UNNAMED_FROM or abs(ratio) < math.log(_FAR))):
        return None
    return Slip(" or ".join(w.rstrip("?") for w in named) + "?" if named else "a slip?", odds, bool(named))


def _surface_in_fahrenheit(quantity: Quantity, now: float, raw: float | None) -> tuple[Kind, ...]:
    if raw is None or not quantity.primaries or MEASURES[quantity.primaries[0]].dimension != "temperature":
        return ()
    air = raw - now
    rises = [to_stored(raw, "degF", "temperature") - air]  # the surface alone, or both
    rises += [now * 5 / 9] if air > WARMEST_AIR_C else []
    return tuple(Kind(now / rise, "°F?") for rise in rises if rise > 0)


def predictive(quantity: str, change: float, u: float, weights: NDArray[np.float64]) -> float:
    """How likely a change is under all hypotheses at once, per change unit.

    Parameters
    ----------
    quantity : str
        Its name.
    change : float
        In the change unit.
    u : float
        One standard uncertainty, in the change unit.
    weights : ndarray of float64
        (n,), how likely each hypothesis is.

    Examples
    --------
    >>> laid = grid()
    >>> predictive("noise_avg", 0.0, 1.0, laid.share * (laid.hypothesis == 0))
    0.3989422804014327
    """
    laid = grid()
    if quantity not in laid.column:
        return _normal(change, math.hypot(u, 1.0))
    row = laid.column[quantity]
    spread = np.sqrt(laid.model_spread[row] + u**2)
    return float((weights * np.exp(-0.5 * ((change - laid.expected[row]) / spread) ** 2) / spread).sum()) / math.sqrt(
        2 * math.pi
    )


def tail(quantity: str, change: float, u: float, weights: NDArray[np.float64]) -> float:
    """How often all hypotheses at once would show a change as far out on its side, or further: 0 to 1.

    Parameters
    ----------
    quantity : str
        Its name.
    change : float
        In the change unit.
    u : float
        One standard uncertainty, in the change unit.
    weights : ndarray of float64
        (n,), how likely each hypothesis is.

    Examples
    --------
    >>> laid = grid()
    >>> round(tail("noise_avg", -3.0, 1.0, laid.share * (laid.hypothesis == 0)), 4)
    0.0013
    """
    laid = grid()
    if quantity not in laid.column:
        return _beyond(abs(change) / u) if u else 0.0
    row = laid.column[quantity]
    z = (change - laid.expected[row]) / np.sqrt(laid.model_spread[row] + u**2)
    upper = float((weights * np.array([_beyond(v) for v in z])).sum())
    return min(upper, 1 - upper)


def _beyond(z: float) -> float:
    return 0.5 * math.erfc(z / math.sqrt(2))


def _normal(miss: float, sigma: float) -> float:
    return math.exp(-0.5 * (miss / sigma) ** 2) / (sigma * math.sqrt(2 * math.pi))
