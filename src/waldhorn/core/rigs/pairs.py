"""Pairs: what one motor read on two rigs, nearest in time, from which the line between the rigs is made.

References
----------
.. [1] Bench practice: a motor is the same motor on both rigs only as long as nothing happened to it between.
"""

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from itertools import combinations

from waldhorn.core.base.conditions import comparable
from waldhorn.core.base.history import Event
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import Group, reset_times
from waldhorn.core.measuring.quantity import Quantity

WITHIN = timedelta(days=30)  # a motor that lay that long is paired still, one that ran meanwhile is another [1]


@dataclass(frozen=True, slots=True)
class RigPair:
    """What a motor read of a quantity on two rigs, the unit of the quantity; `at` the later of the two readings."""

    quantity: str
    rig: str
    other: str
    value: float
    other_value: float
    at: datetime


def of_motor(groups: Mapping[str, Sequence[Group]], events: Sequence[Event]) -> list[RigPair]:
    """The pairs of one motor: for each quantity and each two rigs the two readings nearest in time.

    Parameters
    ----------
    groups : mapping of str to sequence of Group
        By quantity, oldest first.
    events : sequence of Event
        What happened to the motor.

    Returns
    -------
    list of RigPair
        Rigs by their names; none where an event reset the quantity between the readings, or where they were read more
        than thirty days apart, or under anything that parts the quantity but the rig.

    Notes
    -----
    Source: [1]_.
    """
    found = []
    for name, mine in groups.items():
        on: dict[str, list[Group]] = {}
        for group in mine:
            if group.conditions.rig:
                on.setdefault(group.conditions.rig, []).append(group)
        for rig, other in combinations(sorted(on), 2):
            nearest = _nearest(on[rig], on[other], QUANTITIES[name], events)
            if nearest:
                here, there = nearest
                found.append(RigPair(name, rig, other, here.value, there.value, max(here.at, there.at)))
    return found


def _nearest(
    here: Sequence[Group], there: Sequence[Group], quantity: Quantity, events: Sequence[Event]
) -> tuple[Group, Group] | None:
    cuts = reset_times(events, quantity)
    same = tuple(n for n in quantity.same if n != "rig")
    possible = [
        (mine, theirs)
        for mine in here
        for theirs in there
        if abs(mine.at - theirs.at) <= WITHIN
        and bisect_right(cuts, mine.at) == bisect_right(cuts, theirs.at)
        and comparable(same, mine.conditions, replace(theirs.conditions, rig=mine.conditions.rig))
    ]
    return min(possible, key=lambda pair: (abs(pair[0].at - pair[1].at), -pair[0].at.timestamp()), default=None)
