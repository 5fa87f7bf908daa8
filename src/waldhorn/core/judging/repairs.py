"""Repairs held against what they should have brought: a part that was replaced and changed nothing was not it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from waldhorn.core.base.history import Event, History
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.judging import baseline as base
from waldhorn.core.judging.change import SURE, RunUncertainty, probability_beyond
from waldhorn.core.judging.faults import ended_by
from waldhorn.core.judging.hypotheses import defines
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import Group
from waldhorn.core.measuring.quantity import Limits, Quantity, difference
from waldhorn.core.rigs.repeatability import Repeatability


@dataclass(frozen=True, slots=True)
class NoBetter:
    """A repair after which a quantity is as bad as before it."""

    event: Event
    quantity: str


def no_better(
    known: History, groups: Mapping[str, Sequence[Group]], repeatability: Repeatability, limits: Mapping[str, Limits]
) -> tuple[NoBetter, ...]:
    """The latest repairs that did not help.

    Parameters
    ----------
    known : History
    groups : mapping of str to sequence of Group
        By quantity, see `observations.all_groups`.
    repeatability : callable
        How well a rig repeats a quantity.
    limits : mapping of str to Limits
        Where they differ from the default.

    Returns
    -------
    tuple of NoBetter
        A quantity that the mended fault moves past its limit, was past watch before the repair and is so after it,
        both against what it was before that.

    Notes
    -----
    Source: bench practice.
    """
    found = []
    for q in QUANTITIES.values():
        repairs = [e for e in known.events if e.event in q.reset_by and _should_bring(e.event, q)]
        mine = groups[q.name]
        if not repairs or not mine or q.direction == 0:
            continue
        event = max(repairs, key=lambda e: e.at)
        before, after = [g for g in mine if g.at < event.at], [g for g in mine if g.at >= event.at]
        if before and after and _as_bad(known, before, after[-1], q, repeatability, limits.get(q.name, q.limits)):
            found.append(NoBetter(event, q.name))
    return tuple(found)


def _should_bring(event: EventKind, quantity: Quantity) -> bool:
    return any(defines(f, quantity.name) for f in ended_by(event))


def _as_bad(
    known: History, before: Sequence[Group], now: Group, q: Quantity, repeatability: Repeatability, limits: Limits
) -> bool:
    then = before[-1]
    reference, _ = base.own(before, [then], [e for e in known.events if e.at <= then.at], q)
    if reference is None and not q.absolute:
        return False
    held = 0.0 if q.absolute or reference is None else reference.value
    if q.relative and not held:
        return False
    spread = repeatability(now.conditions.rig, q.name)
    n, m = (reference.n, reference.checks) if reference and not q.absolute else (0, 0)
    return all(
        probability_beyond(
            difference(g.value, held, q.relative),
            RunUncertainty(spread.run, spread.visit, g.resolution(q.resolution), g.n, n, 1, m).after(0),
            limits.watch,
            q.direction,
        )
        >= SURE
        and (reference is None or base.compares(g, reference, q))
        for g in (then, now)
    )
