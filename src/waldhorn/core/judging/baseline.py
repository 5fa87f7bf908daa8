"""Baselines: what a quantity was when the motor was known to be good.

Order of choice: the motor itself (its first two accepted checks since the last event that reset the quantity),
else the median of its model, itself left out, else the label. A baseline under other conditions is never used
silently: it is passed over, and the conditions that differ travel along.

References
----------
.. [1] Bench practice.
"""

import math
from bisect import bisect_right
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from statistics import median

from waldhorn.core.base.conditions import Conditions, comparable, differing, noted_once
from waldhorn.core.base.history import Event, History
from waldhorn.core.base.vocabulary import Source
from waldhorn.core.judging.brought import Brought, by_warmth, middle, own_slope
from waldhorn.core.judging.change import Z_SURE
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import Group, last_reset, reset_times
from waldhorn.core.measuring.quantity import Limits, Quantity, difference
from waldhorn.core.rigs.repeatability import Spread

BASELINE_CHECKS = 2
LEAST_PEERS = 2
LABEL_SPREAD_PCT = 5.0  # one standard deviation of a motor about its label, the nominal of a series [1]
_MAD_TO_SIGMA = 1.4826


@dataclass(frozen=True, slots=True)
class Baseline:
    """A baseline of one quantity.

    `n` runs of `checks` checks stand behind it; `u_further` is its own further uncertainty in the change unit; `at`
    the time of the first observation it rests on, `until` when a reset ended it; `noted_once` names conditions that
    were noted on one side only; `brought` says from which warmth or timing it was brought to that of now, and
    `as_read` what it was before that, or before it was translated from another rig.
    """

    value: float
    n: int
    source: Source
    u_further: float = 0.0
    at: datetime | None = None
    conditions: Conditions | None = None
    checks: int = 0
    until: datetime | None = None
    noted_once: tuple[str, ...] = ()
    brought: Brought | None = None
    as_read: float | None = None


@dataclass(frozen=True, slots=True)
class PassedOver:
    """Why an earlier value does not compare: the condition, then and now."""

    condition: str
    then: object
    now: object


def own(
    found: Sequence[Group],
    now: Sequence[Group],
    events: Iterable[Event],
    quantity: Quantity,
    spread: Spread | None = None,
) -> tuple[Baseline | None, tuple[PassedOver, ...]]:
    """The motor's own baseline for a group, and what stood in the way of one.

    Parameters
    ----------
    found : sequence of Group
        Groups of the quantity, oldest first.
    now : sequence of Group
        The groups to be judged, the latest last; never part of their own baseline.
    events : iterable of Event
        What happened to the motor.
    quantity : Quantity
    spread : Spread, optional
        How well the rig repeats, so that a motor's own warmth can be learned.

    Returns
    -------
    (Baseline or None, tuple of PassedOver)
        The second says why the latest earlier check does not compare.

    Notes
    -----
    Formula: median of the runs of the first two checks since the last reset, each brought to the warmth of now

    Source: bench practice.
    """
    last, judged = now[-1], {g.check for g in now}
    since = last_reset(events, quantity, last.at)
    earlier = [g for g in found if g.check not in judged and g.at <= last.at and (since is None or g.at >= since)]
    alike = [g for g in earlier if comparable(quantity.same, g.conditions, last.conditions)]
    if alike:
        slope = own_slope(quantity, alike, spread) if spread else None
        return _of_first(alike, quantity, last.conditions, slope), ()
    if not earlier:
        return None, ()
    then = earlier[-1].conditions
    names = differing(quantity.same, then, last.conditions)
    return None, tuple(PassedOver(n, getattr(then, n), getattr(last.conditions, n)) for n in names)


def _of_first(
    alike: Sequence[Group],
    quantity: Quantity,
    now: Conditions | None = None,
    slope: tuple[float, float] | None = None,
) -> Baseline:
    """The baseline of groups that compare, oldest first: the median of the runs of their first two checks, brought to
    the warmth of `now`."""
    reference = alike[0].conditions
    first: list[Group] = []
    checks: set[str] = set()
    for group in alike:
        if len(checks | {group.check}) > BASELINE_CHECKS:
            break
        if comparable(quantity.same, group.conditions, reference):
            first.append(group)
            checks.add(group.check)
    runs = [o for g in first for o in g.observations]
    warmed = [by_warmth(quantity, o.conditions, now, slope) if now else None for o in runs]
    value = median(o.value * (by.factor if by else 1.0) for o, by in zip(runs, warmed, strict=True))
    by = middle([one for one in warmed if one])
    return Baseline(
        value=value,
        n=sum(o.n for o in runs),
        source=Source.OWN,
        u_further=math.hypot(max(o.u_further for o in runs), _in_change_unit(by, value, quantity)),
        at=first[0].at,
        conditions=reference,
        checks=len(checks),
        noted_once=tuple(noted_once(_noted(quantity), reference, now)) if now else (),
        brought=by,
        as_read=median(o.value for o in runs),
    )


def _noted(quantity: Quantity) -> tuple[str, ...]:
    return (*quantity.same, "motor_c") if quantity.per_kelvin and quantity.per_kelvin[0] else quantity.same


def _in_change_unit(by: Brought | None, value: float, quantity: Quantity) -> float:
    return (100 if quantity.relative else abs(value)) * by.u if by else 0.0


def of_model(peers: Sequence[Baseline], now: Conditions, quantity: Quantity) -> Baseline | None:
    """The median of the own baselines of other motors of the model, under comparable conditions: of those a person
    knows to be good, where there are any.

    Parameters
    ----------
    peers : sequence of Baseline
        Own baselines of the other motors of the model.
    now : Conditions
        What they must compare with.
    quantity : Quantity

    Returns
    -------
    Baseline or None
        None with fewer than two comparable peers, of which none is a yardstick.

    Notes
    -----
    Formula: median; u = s_model · √(1 + π/2 / n), s_model = 1.4826 · MAD, or the quantity's natural spread where
    fewer than five peers are known, never under half of it

    Source: robust statistics (median absolute deviation); a motor differs from its model's median both because
    motors differ and because the median is not exactly known.
    """
    good = [p for p in peers if p.source is Source.YARDSTICK]
    known, warmth = _comparable_values(good, now, quantity)
    if known:
        further = math.hypot(quantity.natural_spread * math.sqrt(1 + 1 / len(known)), warmth)
        return Baseline(median(known), len(known), Source.YARDSTICK, further, None, now)
    values, warmth = _comparable_values(peers, now, quantity)
    if len(values) < LEAST_PEERS:
        return None
    centre = median(values)
    scale = 100 / centre if quantity.relative and centre else 1.0
    deviation = _MAD_TO_SIGMA * median(abs(v - centre) for v in values) * scale
    spread = max(deviation, quantity.natural_spread / 2) if len(values) >= 5 else quantity.natural_spread
    further = math.hypot(spread * math.sqrt(1 + math.pi / 2 / len(values)), warmth)
    return Baseline(centre, len(values), Source.MODEL, further, None, now)


def of_machine(peers: Sequence[Baseline], now: Conditions, quantity: Quantity) -> Baseline | None:
    """The median of the other motors of the machine, under comparable conditions, or None without any.

    Parameters
    ----------
    peers : sequence of Baseline
        The latest of each other motor of the machine.
    now : Conditions
        Under what it was read.
    quantity : Quantity
    """
    values, _ = _comparable_values(peers, now, quantity)
    if not values:
        return None
    further = quantity.repeatability * math.sqrt(math.pi / 2 / len(values))
    return Baseline(median(values), len(values), Source.MACHINE, further, None, now)


def _comparable_values(peers: Sequence[Baseline], now: Conditions, quantity: Quantity) -> tuple[list[float], float]:
    """What compares, brought to the warmth of now, and how unsure that makes it, in the change unit."""
    values, warmed = [], []
    for peer in peers:
        if peer.conditions and comparable(quantity.same, peer.conditions, now):
            by = by_warmth(quantity, peer.conditions, now, None)
            values.append(peer.value * (by.factor if by else 1.0))
            warmed.append(_in_change_unit(by, peer.value, quantity))
    return values, median(warmed) if warmed else 0.0


def sound(reference: Baseline, model: Baseline | None, quantity: Quantity) -> Baseline:
    """An own baseline that may be held against the motor; the model's, or a sound motor's usual value, where it was
    itself no sound one's.

    Parameters
    ----------
    reference : Baseline
        The motor's own.
    model : Baseline or None
        Of the other motors of its model.
    quantity : Quantity

    Returns
    -------
    Baseline
        The first, unless it lies beyond what motors of its model differ by and past the act limit from them (or, for
        an absolute quantity without a model, from the usual value).

    Notes
    -----
    Source: bench practice: a motor that came in worn is no measure of itself.
    """
    if model is None and quantity.absolute and quantity.typical is not None:
        model = Baseline(quantity.typical, 0, Source.MODEL, quantity.natural_spread)
    if model is None or quantity.direction == 0 or (quantity.relative and not model.value):
        return reference  # of speed and timing neither way is wear
    bad = quantity.direction * difference(reference.value, model.value, quantity.relative)
    limit = quantity.limits.watch if quantity.absolute else quantity.limits.act
    return model if bad > limit + Z_SURE * model.u_further else reference


def of_label(history: History, quantity: Quantity) -> Baseline | None:
    """The label as a baseline: only KV has one, and a poor one.

    Parameters
    ----------
    history : History
    quantity : Quantity
    """
    value = quantity.label(history.motor)
    return None if value is None else Baseline(value, 0, Source.LABEL, LABEL_SPREAD_PCT)


def of_ceiling(value: float, now: Conditions, quantity: Quantity, limits: Limits) -> Baseline | None:
    """What a sound motor is at most, by the pit's absolute limit, for a value at that limit or past it, which is its
    act limit. None where there is no such limit, where it is kept, or where the reading was taken otherwise than it is
    meant for: a motor may be far below it and no better for that.

    Parameters
    ----------
    value : float
        In the unit of the quantity.
    now : Conditions
        Under what it was read.
    quantity : Quantity
    limits : Limits
    """
    if limits.ceiling is None or value < limits.ceiling or not quantity.under_ceiling(now):
        return None
    most = limits.ceiling / (1 + limits.act / 100) if quantity.relative else limits.ceiling - limits.act
    return Baseline(most, 0, Source.CEILING, quantity.natural_spread)


def own_references(found: Mapping[str, Sequence[Group]], events: Sequence[Event]) -> dict[str, list[Baseline]]:
    """What a motor contributes to its model's median: its own early value per quantity, condition and segment.

    Parameters
    ----------
    found : mapping of str to sequence of Group
        Groups by quantity, oldest first.
    events : sequence of Event
        Oldest first.

    Returns
    -------
    dict of str to list of Baseline By quantity name
        One for each set of conditions that do not compare with each other and each stretch between resets; `at`
        and `until` say when it held.
    """
    return {name: refs for name, mine in found.items() if (refs := _references(mine, events, QUANTITIES[name]))}


def compares(group: Group, reference: Baseline, quantity: Quantity) -> bool:
    """Whether a group was read under the conditions of a baseline.

    Parameters
    ----------
    group : Group
    reference : Baseline
    quantity : Quantity
    """
    return reference.conditions is None or comparable(quantity.same, group.conditions, reference.conditions)


def _references(everything: Sequence[Group], events: Sequence[Event], quantity: Quantity) -> list[Baseline]:
    cuts = reset_times(events, quantity)
    found: list[tuple[int, Baseline]] = []
    for group in everything:
        segment = bisect_right(cuts, group.at)
        known = (b for s, b in found if s == segment and b.conditions)
        if not any(comparable(quantity.same, b.conditions or group.conditions, group.conditions) for b in known):
            until = cuts[segment] if segment < len(cuts) else None
            one = Baseline(group.value, group.n, Source.OWN, 0.0, group.at, group.conditions, 1, until)
            found.append((segment, one))
    return [b for _, b in found]


@dataclass(frozen=True, slots=True)
class Segment:
    """A stretch of a quantity's history between resets, with the baseline that holds in it."""

    since: datetime | None
    baseline: Baseline | None
    groups: tuple[Group, ...]


def segments(found: Sequence[Group], events: Iterable[Event], quantity: Quantity) -> list[Segment]:
    """The groups of a quantity over time, parted where an event reset it, oldest first.

    Only groups of the throttle and placement of the latest are looked at. Within a segment the baseline is the median
    of the first two checks that compare with its last; a segment of one check has that check.

    Parameters
    ----------
    found : sequence of Group
        Oldest first.
    events : iterable of Event
        Oldest first.
    quantity : Quantity
    """
    if not found:
        return []
    latest = found[-1].conditions
    cuts = reset_times(events, quantity)
    inside: dict[int, list[Group]] = {}
    for group in found:
        if comparable(("throttle_pct", "placement"), group.conditions, latest):
            inside.setdefault(bisect_right(cuts, group.at), []).append(group)
    parts: list[Segment] = []
    for number, groups in sorted(inside.items()):
        now = groups[-1].conditions
        alike = [g for g in groups if comparable(quantity.same, g.conditions, now)]
        parts.append(Segment(cuts[number - 1] if number else None, _of_first(alike, quantity), tuple(groups)))
    return parts
