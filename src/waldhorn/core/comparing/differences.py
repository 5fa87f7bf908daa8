"""Comparing motors with each other: brought to equal conditions, is there a difference, how large, how sure.

References
----------
.. [1] ISO 5725-6:1994, 4.1 (critical range of n values), here at 90 %: studentised range of infinitely many degrees.
.. [2] Bench practice, for the price of a degree.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from waldhorn.core.base.conditions import CONDITIONS, Conditions, differing
from waldhorn.core.base.history import Motor
from waldhorn.core.comparing.equal_conditions import (
    MOST_VOLTS,
    ComparedValue,
    Price,
    at_timing,
    at_volts,
    at_warmth,
    on_rig,
    usual_price,
)
from waldhorn.core.judging.translated import Lines
from waldhorn.core.measuring.measures import BETWEEN, QUANTITIES
from waldhorn.core.measuring.observations import Group
from waldhorn.core.measuring.quantity import Quantity
from waldhorn.core.rigs.repeatability import Repeatability

MOST_MOTORS = 12
# Of the range of so many equal values, in standard deviations of one, at 90 % [1].
CRITICAL_90 = {
    2: 2.326,
    3: 2.902,
    4: 3.240,
    5: 3.478,
    6: 3.661,
    7: 3.808,
    8: 3.931,
    9: 4.037,
    10: 4.129,
    11: 4.211,
    12: 4.285,
}


@dataclass(frozen=True, slots=True)
class Latest:
    """What was read of a quantity last: the value, from how many runs of how many readings, when and under which
    conditions; what repeats do not show of its uncertainty, change unit, and one step of its display."""

    value: float
    n: int
    runs: int
    at: datetime
    conditions: Conditions
    u_further: float
    resolution: float

    @classmethod
    def of(cls, group: Group, quantity: Quantity) -> "Latest":
        """Of the group of a check."""
        further = max(o.u_further for o in group.observations)
        resolution = group.resolution(quantity.resolution)
        return cls(group.value, group.n, len(group.observations), group.at, group.conditions, further, resolution)


@dataclass(frozen=True, slots=True)
class Contender:
    """One motor to compare: its facts, what was read of it last, and what a degree costs it in current."""

    motor: Motor
    latest: Mapping[str, Latest]
    price: Price = field(default_factory=lambda: usual_price("no_load_current"))


@dataclass(frozen=True, slots=True)
class Difference:
    """Between two motors, the second against the first, in the change unit: how large, how sure. `p` is how many of a
    hundred pairs of equal motors would read closer together than this, as a share: no probability of either."""

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
    def reason(self) -> str:
        """What differs, in words."""
        return f"another {CONDITIONS[self.condition].title}"

    @property
    def why(self) -> str:
        """In which quantity, and what differs."""
        return f"{QUANTITIES[self.quantity].title}: {self.reason}"


@dataclass(frozen=True, slots=True)
class Row:
    """One quantity: the motors that compare in it, those that do not, the largest difference, and which motor stands
    apart from the others, above them or below (None: no difference counts, or it is no single one's)."""

    quantity: Quantity
    values: tuple[ComparedValue, ...]
    parted: tuple[Parted, ...]
    largest: Difference | None = None
    counts: bool = False
    apart: str | None = None

    def of(self, tag: str) -> ComparedValue:
        """One of the motors that compare in it."""
        return next(s for s in self.values if s.tag == tag)


def difference(a: ComparedValue, b: ComparedValue, quantity: Quantity) -> Difference:
    """How the second differs from the first.

    Parameters
    ----------
    a, b : ComparedValue
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
    >>> found = difference(ComparedValue("a", 3418.0, 17.0), ComparedValue("b", 3420.0, 17.0), QUANTITIES["kv"])
    >>> round(found.p, 2)
    0.07
    """
    scale = 200 / abs(a.value + b.value) if quantity.relative and a.value + b.value else 1.0
    value, u = scale * (b.value - a.value), scale * math.hypot(a.u, b.u)
    p = math.erf(abs(value) / (u * math.sqrt(2))) if u > 0 else float(value != 0)
    return Difference((a.tag, b.tag), value, u, p)


def counts(values: Sequence[ComparedValue]) -> bool:
    """Whether any two of these motors differ, at one chance in ten of saying so where none do.

    >>> counts([ComparedValue("a", 1.0, 0.1), ComparedValue("b", 1.1, 0.1)])
    False
    """
    if len(values) < 2:
        return False
    low, high = min(values, key=lambda s: s.value), max(values, key=lambda s: s.value)
    u = math.sqrt(sum(s.u**2 for s in values) / len(values))
    return high.value - low.value > CRITICAL_90[min(len(values), MOST_MOTORS)] * u


def compare(
    contenders: Sequence[Contender], repeatability: Repeatability, translations: Lines | None = None
) -> list[Row]:
    """Every quantity in which two motors at least were read, at equal conditions.

    Parameters
    ----------
    contenders : sequence of Contender
    repeatability : callable
        How well a rig repeats a quantity.
    translations : mapping, optional
        From one rig to another, where that is known.

    Returns
    -------
    list of Row

    Notes
    -----
    Formula: see `equal`, to the timing and the voltage of the first; temperature by the magnets' coefficient

    Source: [2]_ for the price of a degree; [1]_ for what counts.
    """
    rows = []
    for name in BETWEEN:
        read = [c for c in contenders if name in c.latest]
        if len(read) > 1:
            rows.append(_Comparison(QUANTITIES[name], read, repeatability, translations or {}).row())
    return rows


class _Comparison:
    """One quantity of several motors."""

    def __init__(
        self, quantity: Quantity, read: Sequence[Contender], repeatability: Repeatability, known: Lines
    ) -> None:
        self.quantity, self.repeatability, self.known = quantity, repeatability, known
        self.priced = BETWEEN[quantity.name].per_degree and all("timing_mean" in c.latest for c in read)
        self.same = tuple(n for n in quantity.same if not (self.priced and n == "timing_set_deg"))
        most = {c.motor.tag: sum(not self.differing(o, c) for o in read) for c in read}
        self.main = max(read, key=lambda c: (most[c.motor.tag], -read.index(c)))
        self.inside = [c for c in read if not self.differing(c, self.main)]
        self.outside = [c for c in read if c not in self.inside]

    def conditions(self, c: Contender) -> Conditions:
        return c.latest[self.quantity.name].conditions

    def differing(self, c: Contender, main: Contender) -> list[str]:
        """The conditions that part a motor from another and that nothing brings to equal."""
        mine, other = self.conditions(c), self.conditions(main)
        found = differing(self.same, other, mine)
        if "rig" in found and (mine.rig, other.rig, self.quantity.name) in self.known:
            found.remove("rig")
        volts = sorted((mine.supply_v or 0.0, other.supply_v or 0.0))
        if "supply_v" in found and BETWEEN[self.quantity.name].over_volts and volts[1] <= MOST_VOLTS * volts[0]:
            found.remove("supply_v")
        return found

    def row(self) -> Row:
        values = tuple(self.value_of(c) for c in self.inside)
        parted = tuple(self.parted(c) for c in self.outside)
        if len(values) < 2:
            return Row(self.quantity, values, parted)
        order = sorted(values, key=lambda s: (s.value, s.tag))
        largest, found = difference(order[0], order[-1], self.quantity), counts(values)
        return Row(self.quantity, values, parted, largest, found, _apart(order) if found else None)

    def value_of(self, c: Contender) -> ComparedValue:
        """A motor brought to the conditions of the others."""
        mine, main = self.conditions(c), self.conditions(self.main)
        found = _as_read(c, self.quantity, self.repeatability)
        if mine.rig != main.rig and (by := self.known.get((mine.rig, main.rig, self.quantity.name))):
            found = on_rig(found, mine.rig, by)
        if mine.supply_v and main.supply_v and BETWEEN[self.quantity.name].over_volts:
            found = at_volts(found, mine.supply_v, main.supply_v, self.quantity.name)
        if mine.motor_c is not None and main.motor_c is not None:
            found = at_warmth(found, main.motor_c - mine.motor_c, self.quantity.name)
        if not self.priced:
            return found
        further = self.inside[0].latest["timing_mean"].value - c.latest["timing_mean"].value
        current = self.quantity.name == "no_load_current"
        return at_timing(found, further, c.price if current else usual_price(self.quantity.name), grows=current)

    def parted(self, c: Contender) -> Parted:
        apart = self.differing(c, self.main)
        return Parted(c.motor.tag, self.quantity.name, apart[0])


def _as_read(c: Contender, quantity: Quantity, repeatability: Repeatability) -> ComparedValue:
    read = c.latest[quantity.name]
    spread = repeatability(read.conditions.rig, quantity.name)
    u = math.sqrt(spread.visit**2 + spread.run**2 / read.n + read.resolution**2 / 12 + read.u_further**2)
    u *= abs(read.value) / 100 if quantity.relative else 1.0
    return ComparedValue(c.motor.tag, read.value, u, once=read.runs == 1 and BETWEEN[quantity.name].quick, at=read.at)


def _apart(order: Sequence[ComparedValue]) -> str | None:
    """The one that stands apart from all others, who do not differ."""
    if len(order) == 2:
        return order[-1].tag
    if not counts(order[:-1]):
        return order[-1].tag
    return order[0].tag if not counts(order[1:]) else None
