"""Equal conditions: what a value would be at another timing, another voltage, on another rig, and how surely.

The magnets' temperature is taken out where a quantity is made (see `magnets`).

References
----------
.. [1] Bench practice, for the price of a degree where a motor has not shown its own.
.. [2] No-load torque is part friction, which does not grow with speed, and part what does: the current of a motor at
   another voltage lies between as it was and in proportion.
"""

import math
from dataclasses import dataclass, replace
from datetime import datetime

from waldhorn.core.measuring.measures import BETWEEN, QUANTITIES
from waldhorn.core.rigs import calibration
from waldhorn.core.rigs.calibration import Translation

MOST_VOLTS = 1.5  # times as much: further apart a power law says nothing
WORTH_A_WORD_DEG = 0.3
NO_WORD_K = 3.0  # a difference in warmth that needs no word
_SAME_VOLTS = 0.002  # relative


@dataclass(frozen=True, slots=True)
class Price:
    """What a degree of advance costs: growth of a value, 1/°, and its uncertainty."""

    per_deg: float
    u: float


def usual_price(quantity: str) -> Price:
    """What a degree of advance usually makes of a quantity that has such a price."""
    per_degree = BETWEEN[quantity].per_degree
    if per_degree is None:
        raise LookupError(f"{quantity} has no price of a degree")
    return Price(*per_degree)


@dataclass(frozen=True, slots=True)
class ComparedValue:
    """One motor in one quantity: the value at equal conditions, its standard uncertainty, both in the quantity's unit;
    by how many degrees of timing and kelvin and from which voltage and rig it was brought there, whether it was read
    once only, and when."""

    tag: str
    value: float
    u: float
    brought_deg: float = 0.0
    brought_k: float = 0.0
    from_volts: float | None = None
    from_rig: str = ""
    once: bool = False
    at: datetime | None = None


def at_timing(s: ComparedValue, by_deg: float, price: Price, grows: bool) -> ComparedValue:
    """A value at another timing.

    Parameters
    ----------
    s : ComparedValue
    by_deg : float
        Electrical degrees further on.
    price : Price
        What a degree costs.
    grows : bool
        Whether it grows by the same share every degree, as current does, else in a straight line, as KV does.

    Returns
    -------
    ComparedValue

    Notes
    -----
    Formula: KV(θ) = KV·(1 + c·Δθ), I0(θ) = I0·e^(c·Δθ); u² = (u·share)² + (x·u_c·Δθ)²

    Source: [1]_.

    Examples
    --------
    >>> round(at_timing(ComparedValue("a", 2.0, 0.0), 2.0, Price(0.05, 0.0), True).value, 3)
    2.21
    """
    if abs(by_deg) < WORTH_A_WORD_DEG:
        return s
    share = math.exp(price.per_deg * by_deg) if grows else 1 + price.per_deg * by_deg
    value = s.value * share
    return replace(s, value=value, u=math.hypot(s.u * share, value * price.u * by_deg), brought_deg=by_deg)


def at_warmth(s: ComparedValue, by_k: float, quantity: str) -> ComparedValue:
    """A value at another warmth of the motor.

    Parameters
    ----------
    s : ComparedValue
    by_k : float
        K, how much warmer.
    quantity : str
        One that changes with the warmth.

    Returns
    -------
    ComparedValue
        Marked where it is more than needs no word.

    Notes
    -----
    Formula: x·(1 + c·ΔT), u² = (u·share)² + (x·u_c·ΔT)²

    Source: [1]_.

    Examples
    --------
    >>> round(at_warmth(ComparedValue("a", 2.0, 0.0), 12.0, "no_load_current").value, 3)
    1.928
    """
    per_kelvin, doubt = QUANTITIES[quantity].per_kelvin or (0.0, 0.0)
    if not per_kelvin:
        return s
    share = 1 + per_kelvin * by_k
    marked = by_k if abs(by_k) > NO_WORD_K else 0.0
    return replace(s, value=s.value * share, u=math.hypot(s.u * share, s.value * doubt * by_k), brought_k=marked)


def at_volts(s: ComparedValue, volts: float, to_volts: float, quantity: str) -> ComparedValue:
    """A value at another voltage.

    Parameters
    ----------
    s : ComparedValue
    volts, to_volts : float
        V, as it was read and as it shall be.
    quantity : str
        One that grows with the voltage.

    Returns
    -------
    ComparedValue

    Notes
    -----
    Formula: x·(V/V₀)^n, u² = (u·share)² + (x·ln(V/V₀)·u_n)²

    Source: [2]_.

    Examples
    --------
    >>> round(at_volts(ComparedValue("a", 2.0, 0.0), 7.4, 8.0, "no_load_current").value, 3)
    2.096
    """
    ratio = to_volts / volts
    if abs(ratio - 1) < _SAME_VOLTS:
        return s
    power, doubt = BETWEEN[quantity].over_volts or (0.0, 0.0)
    share = ratio**power
    value = s.value * share
    return replace(s, value=value, u=math.hypot(s.u * share, value * math.log(ratio) * doubt), from_volts=volts)


def on_rig(s: ComparedValue, rig: str, by: Translation) -> ComparedValue:
    """A value as another rig would have read it.

    Parameters
    ----------
    s : ComparedValue
    rig : str
        The rig it was read on.
    by : Translation
        From there.

    Returns
    -------
    ComparedValue
        Marked, and less sure; never to be a baseline.

    Notes
    -----
    Formula: see `translation.translated`

    Source: [1]_.

    Examples
    --------
    >>> on_rig(ComparedValue("a", 2.0, 0.1), "b", Translation(1.5, 0.5, 0.0, 0.0, 0.0, 0.0, 5)).value
    3.5
    """
    value, u = calibration.translated(s.value, s.u, by)
    return replace(s, value=value, u=u, from_rig=rig)
