"""Visits to the bench: which of them are one sitting, and in how many a change was seen."""

import math
from collections.abc import Callable, Sequence
from datetime import timedelta

from waldhorn.core.base.conditions import comparable
from waldhorn.core.base.history import History
from waldhorn.core.base.vocabulary import Source
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.judging.change import SURE, Change, probability_beyond
from waldhorn.core.measuring.observations import Group
from waldhorn.core.measuring.quantity import Limits, Quantity, difference
from waldhorn.core.rigs.repeatability import CRITICAL, Spread

ONE_SITTING = timedelta(hours=12)  # clamped again within so long, with nothing between, it is the same motor


def one_sitting(known: History, found: Sequence[Group], quantity: Quantity, spread: Spread) -> list[Group]:
    """The latest group, and those before it of the same sitting that agree with it: the motor was clamped anew. An
    earlier check stays a baseline where it is the only one.

    Parameters
    ----------
    known : History
    found : sequence of Group
        Oldest first.
    quantity : Quantity
    spread : Spread
        How well the rig repeats.
    """
    last = found[-1]
    apart = CRITICAL[2] * math.hypot(spread.run, spread.visit)
    near = [last]
    for group in reversed(found[:-1]):
        if last.at - group.at > ONE_SITTING or any(group.at <= e.at <= last.at for e in known.events):
            return near
        alike = group.check != last.check and comparable(quantity.same, group.conditions, last.conditions)
        if alike and last.value and abs(difference(group.value, last.value, quantity.relative)) <= apart:
            near.insert(0, group)
    return near if quantity.absolute else [last]


def seen(
    found: Sequence[Group],
    reference: Baseline | None,
    change: Callable[[Group], float],
    now: Change,
    limits: Limits,
    quantity: Quantity,
) -> int:
    """In how many of the latest visits in a row it lay beyond watch the same way.

    Parameters
    ----------
    found : sequence of Group
        Oldest first.
    reference : Baseline or None
        None where there is nothing to compare with.
    change : callable
        The change of a group against the reference, in the change unit.
    now : Change
        The change that is judged.
    limits : Limits
    quantity : Quantity
    """
    if now.p_past_watch < SURE:
        return 0
    checks: list[str] = []
    last = found[-1]
    for group in reversed(found):
        if reference and reference.at and group.at <= reference.at and reference.source is Source.OWN:
            break
        if not comparable(quantity.same, group.conditions, last.conditions):
            break
        moved = change(group)
        if moved * now.value <= 0 or probability_beyond(moved, now.u, limits.watch, quantity.direction) < SURE:
            break
        if group.check not in checks:
            checks.append(group.check)
    return len(checks)
