"""A past brought to the conditions of now: to another warmth, to another timing. What a number is multiplied with, and
how sure that is, so that a spring baseline holds in summer and a motor is not new because its end bell was turned.

References
----------
.. [1] Bench practice: grease thins and flux falls with warmth; what a degree of advance costs (see `end_bell`).
.. [2] JCGM 100:2008 (GUM), 5.1.2 (uncertainty of a product).
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import median

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.measuring.observations import Group
from waldhorn.core.measuring.quantity import Quantity
from waldhorn.core.rigs.repeatability import Spread

LEAST_VISITS, LEAST_SPAN_K = 3, 10.0  # a motor shows its own warmth over so many visits and so many degrees [1]
CASE_AND_MAGNETS = 0.5  # so much of a difference of the case may not have reached the magnets ...
MOST_LAG_K = 5.0  # ... and so much at most, one sigma [1]
SWEEP_U_DEG = 0.5  # of a timing that was measured, one sigma [1]
NO_WORD_K = 3.0
BELIEVED = 3.0  # standard uncertainties: what a motor seems to show beyond that is wear, not warmth


@dataclass(frozen=True, slots=True)
class Brought:
    """What a past was multiplied with: `by` warmth or timing, from `then` to `now` (°C, electrical degrees), the factor
    and its standard uncertainty as a share."""

    by: str
    then: float
    now: float
    factor: float
    u: float


def by_warmth(
    quantity: Quantity, then: Conditions, now: Conditions, slope: tuple[float, float] | None
) -> Brought | None:
    """What a value of then is at the warmth of now.

    Parameters
    ----------
    quantity : Quantity
    then, now : Conditions
    slope : tuple of float or None
        Share a kelvin and its standard uncertainty, where the motor has shown its own.

    Returns
    -------
    Brought or None
        None where the warmth does not matter, was not noted both times, or is the same.

    Notes
    -----
    Formula: x·(1 + c·ΔT), u = u_c·|ΔT|; of a value that is brought to 25 °C where it is made u = u_c·min(|ΔT|/2, 5 K)

    Source: [1]_, [2]_.

    Examples
    --------
    >>> from waldhorn.core.measuring.current import NO_LOAD_CURRENT
    >>> one = by_warmth(NO_LOAD_CURRENT, Conditions(motor_c=17.0), Conditions(motor_c=29.0), None)
    >>> round(100 * (one.factor - 1), 1), round(100 * one.u, 1)
    (-3.6, 3.6)
    """
    known = slope or quantity.per_kelvin
    if known is None or then.motor_c is None or now.motor_c is None or then.motor_c == now.motor_c:
        return None
    further = now.motor_c - then.motor_c
    if not known[0]:
        lag = min(CASE_AND_MAGNETS * abs(further), MOST_LAG_K)
        return Brought("warmth", then.motor_c, now.motor_c, 1.0, known[1] * lag)
    return Brought("warmth", then.motor_c, now.motor_c, 1 + known[0] * further, known[1] * abs(further))


def own_slope(quantity: Quantity, found: Sequence[Group], spread: Spread) -> tuple[float, float] | None:
    """What a kelvin makes of a motor's own value, where its visits show it.

    Parameters
    ----------
    quantity : Quantity
    found : sequence of Group
        Its groups that compare but for the warmth, without those that are judged.
    spread : Spread
        How well the rig repeats, in percent.

    Returns
    -------
    tuple of float or None
        Share a kelvin and its standard uncertainty; None with fewer than three visits over 10 K, or where what they
        show lies beyond what warmth does.

    Notes
    -----
    Formula: ln x = a + c·T by least squares, u(c) = s/√Σ(T − T̄)²; with the usual c, each by 1/u²

    Source: [1]_, least squares.
    """
    usual = quantity.per_kelvin
    noted = [g for g in found if g.conditions.motor_c is not None and g.value > 0]
    read = [(g.conditions.motor_c or 0.0, math.log(g.value)) for g in noted]
    warm = [t for t, _ in read]
    if not usual or not usual[0] or len({g.check for g in noted}) < LEAST_VISITS:
        return None
    if max(warm) - min(warm) < LEAST_SPAN_K:
        return None
    mean, level = sum(warm) / len(read), sum(y for _, y in read) / len(read)
    spanned = sum((t - mean) ** 2 for t in warm)
    slope = sum((t - mean) * (y - level) for t, y in read) / spanned
    u = max(_left_over(read, mean, level, slope), math.hypot(spread.run, spread.visit) / 100) / math.sqrt(spanned)
    if abs(slope - usual[0]) > BELIEVED * math.hypot(u, usual[1]):
        return None
    weights = 1 / u**2, 1 / usual[1] ** 2
    return (slope * weights[0] + usual[0] * weights[1]) / sum(weights), 1 / math.sqrt(sum(weights))


def _left_over(read: Sequence[tuple[float, float]], mean: float, level: float, slope: float) -> float:
    """One standard deviation about the line."""
    return math.sqrt(sum((y - level - slope * (t - mean)) ** 2 for t, y in read) / max(len(read) - 2, 1))


def degrees(found: Mapping[str, Sequence[Group]]) -> dict[str, float]:
    """How the timing of each check stood, by what was measured of it, electrical degrees."""
    return {g.check: g.value for g in found.get("timing_mean", ())}


def before_turning(
    found: Sequence[Group],
    now: Sequence[Group],
    events: Sequence[Event],
    quantity: Quantity,
    measured: Mapping[str, float],
) -> tuple[list[Group], list[Event], Brought] | None:
    """A motor's own past at another timing, as it would have been read at that of now.

    Parameters
    ----------
    found : sequence of Group
        Groups of the quantity, oldest first.
    now : sequence of Group
        The groups to be judged, the latest last.
    events : sequence of Event
    quantity : Quantity
    measured : mapping of str to float
        How the timing of a check stood, see `degrees`, where its setting was not noted.

    Returns
    -------
    tuple or None
        The past, the events that still part it, and what it was brought by, of its first two checks; None where a
        degree has no price, or either timing is not known.

    Notes
    -----
    Formula: x·e^(c·Δθ), or x·(1 + c·Δθ) of a speed; u² = (u_c·Δθ)² + (c·u_θ)², u_θ 0.5° for each that was measured

    Source: [1]_, [2]_.
    """
    price = quantity.between.per_degree if quantity.between else None
    last = now[-1]
    to = _timing(last, measured)
    if price is None or to is None:
        return None
    others = [e for e in events if e.event is not EventKind.TIMING_CHANGED]
    moved, by = [], []
    for group in found:
        at = _timing(group, measured)
        if at is None or group.check in {g.check for g in now}:
            continue
        further = to - at
        share = math.exp(price[0] * further) if quantity.direction > 0 else 1 + price[0] * further
        by.append((further, at, share, _doubt(group, last)))
        noted = last.conditions.timing_set_deg
        there = [
            replace(o, value=o.value * share, conditions=replace(o.conditions, timing_set_deg=noted))
            for o in group.observations
        ]
        moved.append(replace(group, observations=tuple(there)))
    if not moved:
        return None
    further, at, share, doubt = by[0]
    return moved, others, Brought("timing", at, to, share, math.hypot(price[1] * further, price[0] * doubt))


def _doubt(*read: Group) -> float:
    """How sure the degrees between two visits are: a setting is what it is, a sweep repeats to half a degree."""
    return SWEEP_U_DEG * math.sqrt(sum(g.conditions.timing_set_deg is None for g in read))


def _timing(group: Group, measured: Mapping[str, float]) -> float | None:
    noted = group.conditions.timing_set_deg
    return measured.get(group.check) if noted is None else noted


def worth_a_word(by: Brought) -> bool:
    """Whether what a past was brought by is to be said: 3 K and less, and a doubt alone, need no word."""
    return by.factor != 1.0 and (by.by != "warmth" or abs(by.now - by.then) > NO_WORD_K)


def middle(all_of_them: Sequence[Brought]) -> Brought | None:
    """One for several that were brought by the same."""
    if not all_of_them:
        return None
    one = all_of_them[-1]
    return Brought(
        one.by,
        median(b.then for b in all_of_them),
        one.now,
        median(b.factor for b in all_of_them),
        median(b.u for b in all_of_them),
    )
