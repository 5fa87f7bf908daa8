"""What a comparison says to a person, made last from what was found. Nothing is decided by it."""

from collections.abc import Sequence

from waldhorn.core.comparing.differences import Row, difference
from waldhorn.core.comparing.equal_conditions import ComparedValue
from waldhorn.core.comparing.sets import ScoredSet
from waldhorn.core.comparing.uses import Better
from waldhorn.core.judging.sentences import listed, signed
from waldhorn.core.measuring.measures import BETWEEN
from waldhorn.core.measuring.quantity import BetweenMotors, Quantity

TIMES_FROM = 1.5  # beyond that a per cent says less than a factor
SAME = "no difference that counts"
TOSS = "could be chance"


def row_words(row: Row) -> str:
    """The difference of a row in words."""
    if row.largest is None:
        return "nothing to compare with"
    if not row.counts:
        return SAME
    between = BETWEEN[row.quantity.name]
    order = sorted(row.values, key=lambda s: s.value)
    if row.apart and len(order) > 2:
        mine = next(s for s in order if s.tag == row.apart)
        nearest = order[-2] if mine is order[-1] else order[1]
        return f"{mine.tag} {_by(row, nearest, mine, between)}"
    return f"{order[-1].tag} {_by(row, order[0], order[-1], between)}" + (
        f" than {order[0].tag}" if len(order) > 2 else ""
    )


def _by(row: Row, other: ComparedValue, mine: ComparedValue, between: BetweenMotors) -> str:
    """By how much the one is more than the other: in the other's own per cent, in times beyond a half."""
    found = difference(other, mine, row.quantity)
    says, size = between.more if found.value > 0 else between.less, abs(found.value)
    if row.quantity.relative and mine.value > 0 and other.value > 0:
        times = mine.value / other.value
        if not 1 / TIMES_FROM < times < TIMES_FROM:
            return f"{says.format('much')} (×{times:.2g})"
        size = abs(100 * (times - 1))
    return says.format(signed(size, row.quantity, found.u).lstrip("+"))


def sure_words(row: Row) -> str:
    """How sure a row is, as many pairs as were looked at taken into account."""
    if row.largest is None:
        return ""
    pairs = len(row.values) * (len(row.values) - 1) / 2
    sure = max(0.0, 1 - pairs * (1 - row.largest.p))
    return sure_in_words(sure) if row.counts or sure >= 0.5 else TOSS


def sure_in_words(p: float) -> str:
    """A probability as a person says it, never beyond 99 in 100.

    >>> sure_in_words(0.954), sure_in_words(1.0)
    ('95 in 100', '99 in 100')
    """
    return f"{100 * min(p, 0.99):.0f} in 100"


def better_words(found: Better, rows: Sequence[Row]) -> str:
    """Which motor is better for a use that one is better for, mostly by what, and how surely.

    Parameters
    ----------
    found : Better
    rows : sequence of Row
        What the motors differ in.
    """
    row = next(r for r in rows if r.quantity.name == found.mostly)
    by = _by(row, row.of(found.first[1]), row.of(found.first[0]), BETWEEN[found.mostly])
    return f"{found.first[0]} is better for {found.use}: {by}, {sure_in_words(found.p)}"


def set_words(motors: Sequence[str], alike: bool, score: float) -> str:
    """A set and how alike it is.

    Parameters
    ----------
    motors : sequence of str
        Tags.
    alike : bool
        Whether they were to be alike, not fast.
    score : float
        How far apart they lie, in watch limits.
    """
    if alike:
        return f"{listed(motors)}: as alike as {'two' if len(motors) == 2 else 'they'} can be read."
    times = f"{score**0.5:.2g}"
    if times == "1":
        return f"{listed(motors)} are the most alike, no further apart than they can be read."
    return f"{listed(motors)} are the most alike; they differ by {times} times what reading them leaves open."


def partition_words(sets: Sequence[ScoredSet], alike: bool) -> str:
    """Several sets at once.

    Parameters
    ----------
    sets : sequence of ScoredSet
        Sets of motors, scored.
    alike : bool
        Whether they were to be alike, not fast.
    """
    named = "; ".join(listed(one.motors) for one in sets)
    return f"{named}: as alike as they can be read." if alike else f"{named} are the most alike together."


def proven_words(short: float) -> str:
    """Whether a partition is known to be the best."""
    if short == 0:
        return "No other partition is more alike."
    return f"Found in the time there was: another may be up to {100 * short:.1g} % more alike."


def too_far_words(motors: Sequence[str], quantity: Quantity, apart: float, within: float) -> str:
    """In what a set is not good enough for its class.

    Parameters
    ----------
    motors : sequence of str
        Tags.
    quantity : Quantity
    apart, within : float
        In the change unit.
    """
    shown = signed(apart, quantity).lstrip("+")
    limit = f"{within:g} {quantity.change_unit}"
    return f"{listed(motors)}: {quantity.title} {shown} apart, {limit} is good enough in this class."
