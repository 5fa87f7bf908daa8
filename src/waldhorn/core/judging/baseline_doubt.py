"""The baseline doubted: an early check that cannot be believed, told by those that came after it.

A baseline visit may hold a slip as any other may; however many visits follow, that is one error. What the later ones
agree on stands, the odd one is left out, shown, and can be put back by a person.

References
----------
.. [1] Bench practice.
"""

import math
from collections.abc import Iterable, Iterator, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from datetime import datetime
from statistics import median

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.conditions import comparable
from waldhorn.core.base.history import Event, Overruled
from waldhorn.core.judging import slips, weighing
from waldhorn.core.measuring.observations import Group, last_reset
from waldhorn.core.measuring.quantity import Quantity, difference
from waldhorn.core.rigs.repeatability import Spread

APART = 4 * math.sqrt(2)  # standard deviations of a visit: further apart, two baseline visits contradict each other [1]
AGREE = 3 * math.sqrt(2)  # ... and nearer than this a later one agrees with one of them [1]
ODD_FROM = 10.0  # odds of a slip against a change of the motor, from which the odd one is left out [1]
PUT_BACK = "baseline:"  # begins the subject by which a person has it count again, before the quantity's name


@dataclass(frozen=True, slots=True)
class Doubt:
    """Two baseline visits that contradict each other: the first and the second value, when they were read, which check
    is `odd` (empty: not decided), what the others agree on, and how one asks for the slip; `u` is half of what lies
    between them, in the change unit, where it is not decided."""

    first: float
    second: float
    at: datetime
    odd: str = ""
    odd_value: float = 0.0
    agreed: float = 0.0
    words: str = ""
    u: float = 0.0


def of(
    found: Sequence[Group],
    now: Sequence[Group],
    events: Sequence[Event],
    quantity: Quantity,
    spread: Spread,
    put_back: Sequence[Overruled] = (),
) -> Doubt | None:
    """Whether the first two checks of a baseline contradict each other, and which of them the later ones leave alone.

    Parameters
    ----------
    found : sequence of Group
        Groups of the quantity, oldest first.
    now : sequence of Group
        Those to be judged, the latest last; they count among the later ones.
    events : sequence of Event
    quantity : Quantity
    spread : Spread
        How well the rig repeats it.
    put_back : sequence of Overruled
        What a person has counted again.

    Returns
    -------
    Doubt or None

    Notes
    -----
    Formula: |x2 − x1| > 4·√2·u_visit; the odd one is what more later visits contradict (beyond 3·√2·u_visit), where a
    slip of it is ten times likelier than a change of the motor

    Source: [1]_; see `slips` for the odds.
    """
    if quantity.absolute or any(o.subject == PUT_BACK + quantity.name for o in put_back):
        return None
    last = now[-1]
    since = last_reset(events, quantity, last.at)
    judged = {g.check for g in now}
    alike = (
        g
        for g in found
        if g.at <= last.at
        and (since is None or g.at >= since)
        and comparable(quantity.same, g.conditions, last.conditions)
    )
    earlier = _first_two(alike, judged)
    if len(earlier) < 2:
        return _single(_by_check(now), earlier, quantity, spread)
    (first, at, x1), (second, _, x2) = earlier
    if quantity.relative and not (x1 and x2):
        return None
    u_visit = math.hypot(spread.visit, spread.run)
    if abs(difference(x2, x1, quantity.relative)) <= APART * u_visit:
        return None
    visits = _by_check([*(g for g in alike if g.check not in judged), *now])
    later = [v for v in visits if v[0] not in (first, second)]
    near1, near2 = (
        sum(abs(difference(v, x, quantity.relative)) <= AGREE * u_visit for _, _, v in later) for x in (x1, x2)
    )
    half = abs(difference(x2, x1, quantity.relative)) / 2
    odd, value, others = (first, x1, x2) if near2 > near1 else (second, x2, x1)
    slip = slips.against_faults(quantity, value, others, u_visit * math.sqrt(2), _prior()) if near1 != near2 else None
    if slip is None or slip.odds < ODD_FROM:
        return Doubt(x1, x2, at, u=half)
    agreed = median(
        [others, *(v for _, _, v in later if abs(difference(v, others, quantity.relative)) <= AGREE * u_visit)]
    )
    return Doubt(x1, x2, at, odd, value, agreed, slip.words)


def _single(
    later: Sequence[tuple[str, datetime, float]],
    earlier: Sequence[tuple[str, datetime, float]],
    quantity: Quantity,
    spread: Spread,
) -> Doubt | None:
    """One early check against several of now that agree: the early one is the odd one where a slip explains it best."""
    if len(earlier) != 1 or len(later) < 2:
        return None
    check, at, value = earlier[0]
    others, u_visit = median(v for _, _, v in later), math.hypot(spread.visit, spread.run)
    slip = slips.against_faults(quantity, value, others, u_visit * math.sqrt(2), _prior())
    return Doubt(value, others, at, check, value, others, slip.words) if slip and slip.odds >= ODD_FROM else None


def _first_two(alike: Iterator[Group], judged: AbstractSet[str]) -> list[tuple[str, datetime, float]]:
    """The first two checks, of groups in their order; what comes after them is left in the iterator."""
    found: list[Group] = []
    for group in alike:
        if group.check in judged:
            continue
        found.append(group)
        if len({g.check for g in found}) == 2:
            break
    return _by_check(found)


def _by_check(groups: Iterable[Group]) -> list[tuple[str, datetime, float]]:
    found: dict[str, list[Group]] = {}
    for group in groups:
        found.setdefault(group.check, []).append(group)
    return [(check, mine[0].at, median(g.value for g in mine)) for check, mine in found.items()]


def _prior() -> NDArray[np.float64]:
    return weighing.of_nothing().weights
