"""Comparing motors with each other: brought to equal conditions, is there a difference, how large, how sure.

References
----------
.. [1] ISO 5725-6:1994, 4.1 (critical range of n values), here at 90 %: studentised range of infinitely many degrees.
.. [2] Bench practice, for the price of a degree.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from waldhorn.core.conditions import WORDS, differing
from waldhorn.core.evidence import Repeatability
from waldhorn.core.history import Motor
from waldhorn.core.measures import QUANTITIES, Quantity
from waldhorn.core.observations import Group
from waldhorn.core.timing import CURRENT_PER_DEG, CURRENT_PER_DEG_U

MOST_MOTORS = 12
# Of the range of so many equal values, in standard deviations of one, at 90 % [1].
CRITICAL_90 = {2: 2.326, 3: 2.902, 4: 3.240, 5: 3.478, 6: 3.661, 7: 3.808, 8: 3.931, 9: 4.037, 10: 4.129, 11: 4.211,
               12: 4.285}  # fmt: skip
KV_PER_DEG, KV_PER_DEG_U = 0.005, 0.002  # share of KV a degree of advance buys [2]
COMPARED = ("kv", "no_load_current", "timing_mean", "timing_spread", "steadiness", "noise_avg", "temperature",
            "detent_peak", "detent_variation", "run_out", "resistance_imbalance")  # fmt: skip
_PRICED = {"kv": (KV_PER_DEG, KV_PER_DEG_U), "no_load_current": (CURRENT_PER_DEG, CURRENT_PER_DEG_U)}
_WORTH_A_WORD_DEG = 0.3


@dataclass(frozen=True, slots=True)
class Contender:
    """One motor to compare: its facts and its latest group of each quantity."""

    motor: Motor
    latest: Mapping[str, Group]


@dataclass(frozen=True, slots=True)
class Standing:
    """One motor in one quantity: the value at equal conditions, its standard uncertainty, both in the quantity's unit,
    and by how many degrees of timing it was brought there."""

    tag: str
    value: float
    u: float
    brought_deg: float = 0.0


@dataclass(frozen=True, slots=True)
class Difference:
    """Between two motors, the second against the first, in the change unit: how large, how sure, and the probability
    that it is one."""

    motors: tuple[str, str]
    value: float
    u: float
    p: float


@dataclass(frozen=True, slots=True)
class Parted:
    """Why a motor is not compared in a quantity: the condition that differs."""

    tag: str
    quantity: str
    condition: str

    @property
    def why(self) -> str:
        """In words."""
        return f"{QUANTITIES[self.quantity].title}: another {WORDS[self.condition]}"


@dataclass(frozen=True, slots=True)
class Row:
    """One quantity: the motors that compare in it, those that do not, the largest difference, and which motor stands
    apart from the others, above them or below (None: no difference counts, or it is no single one's)."""

    quantity: Quantity
    standings: tuple[Standing, ...]
    parted: tuple[Parted, ...]
    largest: Difference | None = None
    counts: bool = False
    apart: str | None = None


def difference(a: Standing, b: Standing, quantity: Quantity) -> Difference:
    """How the second differs from the first.

    Parameters
    ----------
    a, b : Standing
    quantity : Quantity

    Returns
    -------
    Difference
        Percent of their mean for a relative quantity, else the unit.

    Notes
    -----
    Formula: d = x_b − x_a, u² = u_a² + u_b², P = 2·Φ(|d|/u) − 1

    Source: normal distribution.

    Examples
    --------
    >>> found = difference(Standing("a", 3418.0, 17.0), Standing("b", 3420.0, 17.0), QUANTITIES["kv"])
    >>> round(found.p, 2)
    0.07
    """
    scale = 200 / abs(a.value + b.value) if quantity.relative and a.value + b.value else 1.0
    value, u = scale * (b.value - a.value), scale * math.hypot(a.u, b.u)
    p = math.erf(abs(value) / (u * math.sqrt(2))) if u > 0 else float(value != 0)
    return Difference((a.tag, b.tag), value, u, p)


def counts(standings: Sequence[Standing]) -> bool:
    """Whether any two of these motors differ, at one chance in ten of saying so where none do.

    >>> counts([Standing("a", 1.0, 0.1), Standing("b", 1.1, 0.1)])
    False
    """
    if len(standings) < 2:
        return False
    low, high = min(standings, key=lambda s: s.value), max(standings, key=lambda s: s.value)
    u = math.sqrt(sum(s.u**2 for s in standings) / len(standings))
    return high.value - low.value > CRITICAL_90[min(len(standings), MOST_MOTORS)] * u


def compare(contenders: Sequence[Contender], repeatability: Repeatability) -> list[Row]:
    """Every quantity in which two motors at least were read, at equal conditions.

    Parameters
    ----------
    contenders : sequence of Contender
        Two to twelve.
    repeatability : callable
        How well a rig repeats a quantity.

    Returns
    -------
    list of Row

    Notes
    -----
    Formula: KV(θ) = KV·(1 + 0.005·Δθ), I0(θ) = I0·e^(0.05·Δθ), to the timing of the first; temperature by the magnets'
    coefficient

    Source: [2]_ for the price of a degree; [1]_ for what counts.
    """
    rows = []
    for name in COMPARED:
        read = [c for c in contenders if name in c.latest]
        if len(read) > 1:
            rows.append(_row(QUANTITIES[name], read, repeatability))
    return rows


def _row(quantity: Quantity, read: Sequence[Contender], repeatability: Repeatability) -> Row:
    priced = quantity.name in _PRICED and all("timing_mean" in c.latest for c in read)
    same = tuple(n for n in quantity.same if not (priced and n == "timing_set_deg"))
    main = max(read, key=lambda c: (sum(_alike(c, o, quantity, same) for o in read), -read.index(c)))
    inside = [c for c in read if _alike(main, c, quantity, same)]
    target = inside[0].latest["timing_mean"].value if priced else 0.0
    standings = tuple(_standing(c, quantity, repeatability, target if priced else None) for c in inside)
    parted = tuple(
        Parted(c.motor.tag, quantity.name,
               differing(same, main.latest[quantity.name].conditions, c.latest[quantity.name].conditions)[0])
        for c in read if c not in inside
    )  # fmt: skip
    if len(standings) < 2:
        return Row(quantity, standings, parted)
    order = sorted(standings, key=lambda s: (s.value, s.tag))
    largest, found = difference(order[0], order[-1], quantity), counts(standings)
    return Row(quantity, standings, parted, largest, found, _apart(order) if found else None)


def _alike(a: Contender, b: Contender, quantity: Quantity, same: Sequence[str]) -> bool:
    return not differing(same, a.latest[quantity.name].conditions, b.latest[quantity.name].conditions)


def _standing(c: Contender, quantity: Quantity, repeatability: Repeatability, target: float | None) -> Standing:
    group = c.latest[quantity.name]
    spread = repeatability(group.conditions.rig, quantity.name)
    resolution = group.resolution(quantity.resolution)
    further = max(o.u_further for o in group.observations)
    u = math.sqrt(spread.visit**2 + spread.run**2 / group.n + resolution**2 / 12 + further**2)
    u *= abs(group.value) / 100 if quantity.relative else 1.0
    found = Standing(c.motor.tag, group.value, u)
    return found if target is None else _at_timing(found, target - c.latest["timing_mean"].value, quantity)


def _at_timing(s: Standing, by_deg: float, quantity: Quantity) -> Standing:
    """The value at another timing, by the price of a degree."""
    if abs(by_deg) < _WORTH_A_WORD_DEG:
        return s
    price, doubt = _PRICED[quantity.name]
    share = math.exp(price * by_deg) if quantity.name == "no_load_current" else 1 + price * by_deg
    value = s.value * share
    return replace(s, value=value, u=math.hypot(s.u * share, value * doubt * by_deg), brought_deg=by_deg)


def _apart(order: Sequence[Standing]) -> str | None:
    """The one that stands apart from all others, who do not differ."""
    if len(order) == 2:
        return order[-1].tag
    if not counts(order[:-1]):
        return order[-1].tag
    return order[0].tag if not counts(order[1:]) else None
