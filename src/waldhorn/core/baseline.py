"""Baselines: what a quantity was when the motor was known to be good, and which events make us forget it.

Order of choice: the motor itself (its first two accepted checks since the last event that reset the quantity),
else the median of its model, itself left out, else the label. A baseline under other conditions is never used
silently: it is passed over, and the reason travels along.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from statistics import median

from waldhorn.core.history import Check, Conditions, Event, History, Sample, differences, unknown
from waldhorn.core.measures import QUANTITIES, Quantity

BASELINE_CHECKS = 2
LEAST_PEERS = 2

_EVERYTHING = frozenset({"*"})
RESETS: dict[str, frozenset[str]] = {
    "bearings_replaced": frozenset({"noise_avg", "no_load_current", "steadiness", "vibration", "temperature"}),
    "rotor_replaced": frozenset(
        {"kv", "detent_peak", "detent_variation", "magnet_strength", "rotor_asymmetry", "no_load_current",
         "vibration", "run_out", "timing_mean", "timing_spread"}
    ),
    "shaft_replaced": frozenset({"run_out", "vibration", "noise_avg", "steadiness"}),
    "timing_changed": frozenset({"kv", "no_load_current", "timing_mean", "temperature", "noise_avg"}),
    "sensor_board_replaced": frozenset({"timing_mean", "timing_spread", "sensor_strength_deviation"}),
    "rewound": _EVERYTHING,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Baseline:
    """A baseline of one quantity. `n` runs stand behind it; `extra_u` is its own further uncertainty in the
    change unit; `source` is own, model, label, machine or zero; `at` the day of the first check it rests on."""

    value: float
    n: int
    source: str
    extra_u: float = 0.0
    at: datetime | None = None
    conditions: Conditions | None = None
    checks: int = 0
    said: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Group:
    """The samples of one check that compare with each other: one point of a quantity over time."""

    check: str
    at: datetime
    samples: tuple[Sample, ...]

    @property
    def value(self) -> float:
        return median(s.value for s in self.samples)

    @property
    def n(self) -> int:
        """How many readings stand behind it."""
        return sum(s.n for s in self.samples)

    @property
    def conditions(self) -> Conditions:
        return self.samples[-1].conditions


def resets(event: str, quantity: str) -> bool:
    """Whether an event makes the baseline of a quantity void.

    >>> resets("bearings_replaced", "no_load_current"), resets("bearings_replaced", "kv"), resets("rewound", "kv")
    (True, False, True)
    """
    forgotten = RESETS.get(event, frozenset())
    return quantity in forgotten or "*" in forgotten


def last_reset(events: Iterable[Event], quantity: str, until: datetime) -> datetime | None:
    """The time of the last event up to `until` that reset a quantity, or None."""
    return max((e.at for e in events if e.at <= until and resets(e.event, quantity)), default=None)


def groups(history: History, quantity: Quantity) -> list[Group]:
    """Every check's samples of a quantity, parted by conditions, oldest first.

    Within a check, runs under conditions that do not compare (another rig, another voltage) form groups of
    their own; the group with the latest run comes last.
    """
    found: list[Group] = []
    for check in sorted(history.checks, key=lambda c: (c.at, c.id)):
        if not any(r.measure in quantity.made_of for r in check.readings):
            continue
        found.extend(Group(check.id, check.at, tuple(g)) for g in _parted(check, history, quantity))
    return found


def own(
    found: Sequence[Group], now: Group, events: Iterable[Event], quantity: Quantity
) -> tuple[Baseline | None, list[str]]:
    """The motor's own baseline for a group, and what stood in the way of one.

    Formula: median of the runs of the first two checks since the last reset

    Parameters
    ----------
    found : groups of the quantity, oldest first
    now : Group to be judged, never part of its own baseline
    events : of the motor
    quantity : Quantity

    Returns
    -------
    (Baseline or None, reasons for earlier checks that do not compare)

    Source: bench practice.
    """
    since = last_reset(events, quantity.name, now.at)
    earlier = [g for g in found if g.check != now.check and g.at <= now.at and (since is None or g.at >= since)]
    comparable = [g for g in earlier if not differences(quantity.same, g.conditions, now.conditions)]
    if not comparable:
        reasons = [differences(quantity.same, g.conditions, now.conditions) for g in earlier[-1:]]
        return None, [words for group in reasons for words in group]
    return _of_first(comparable, quantity, now.conditions), []


def _of_first(comparable: Sequence[Group], quantity: Quantity, now: Conditions | None = None) -> Baseline:
    """The baseline of groups that compare, oldest first: the median of the runs of their first two checks."""
    reference = comparable[0].conditions
    first: list[Group] = []
    for group in comparable:
        if differences(quantity.same, group.conditions, reference):
            continue
        if len({g.check for g in first} | {group.check}) <= BASELINE_CHECKS:
            first.append(group)
    runs = [s for g in first for s in g.samples]
    assumed = unknown(quantity.same, reference, now) if now else []
    return Baseline(
        value=median(s.value for s in runs),
        n=sum(s.n for s in runs),
        source="own",
        extra_u=max(s.extra_u for s in runs),
        at=first[0].at,
        conditions=reference,
        checks=len({g.check for g in first}),
        said=tuple(f"{words} not noted both times" for words in assumed),
    )


def of_model(peers: Sequence[Baseline], now: Conditions, quantity: Quantity) -> Baseline | None:
    """The median of the own baselines of other motors of the model, under comparable conditions.

    Formula: median; u = s_model · √(1 + π/2 / n), s_model = 1.4826 · MAD, or the quantity's natural spread where
    fewer than five peers are known, never under half of it

    Parameters
    ----------
    peers : own baselines of the other motors of the model
    now : Conditions to compare under
    quantity : Quantity

    Returns
    -------
    Baseline, or None with fewer than two comparable peers

    Source: robust statistics (median absolute deviation); a motor differs from its model's median both because
    motors differ and because the median is not exactly known.
    """
    values = [p.value for p in peers if p.conditions and not differences(quantity.same, p.conditions, now)]
    if len(values) < LEAST_PEERS:
        return None
    centre = median(values)
    scale = 100 / centre if quantity.relative and centre else 1.0
    deviation = 1.4826 * median(abs(v - centre) for v in values) * scale
    spread = max(deviation, quantity.natural_spread / 2) if len(values) >= 5 else quantity.natural_spread
    extra = spread * math.sqrt(1 + math.pi / 2 / len(values))
    return Baseline(centre, len(values), "model", extra, None, now)


def of_machine(peers: Sequence[Baseline], now: Conditions, quantity: Quantity) -> Baseline | None:
    """The median of the other motors of the machine, under comparable conditions, or None without any."""
    values = [p.value for p in peers if p.conditions and not differences(quantity.same, p.conditions, now)]
    if not values:
        return None
    extra = quantity.repeatability * math.sqrt(math.pi / 2 / len(values))
    return Baseline(median(values), len(values), "machine", extra, None, now)


def of_label(history: History, quantity: Quantity) -> Baseline | None:
    """The label as a baseline: only KV has one. Its tolerance is in the limits already."""
    value = quantity.label(history.motor)
    return None if value is None else Baseline(value, 0, "label")


def all_groups(history: History) -> dict[str, list[Group]]:
    """`groups` of every quantity, by name."""
    return {name: groups(history, quantity) for name, quantity in QUANTITIES.items()}


def own_references(found: Mapping[str, Sequence[Group]], events: Sequence[Event]) -> dict[str, list[Baseline]]:
    """What this motor contributes to its model's median: its own early value per quantity and condition.

    Returns
    -------
    dict of quantity name to baselines, one for each set of conditions that do not compare with each other
    """
    return {name: own for name, mine in found.items() if mine and (own := _references(mine, events, QUANTITIES[name]))}


def _references(everything: Sequence[Group], events: Sequence[Event], quantity: Quantity) -> list[Baseline]:
    found: list[Baseline] = []
    since = last_reset(events, quantity.name, everything[-1].at)
    for group in everything:
        if since is not None and group.at < since:
            continue
        same = [b for b in found if b.conditions and not differences(quantity.same, b.conditions, group.conditions)]
        if not same:
            found.append(Baseline(group.value, group.n, "own", 0.0, group.at, group.conditions, 1))
    return found


def _parted(check: Check, history: History, quantity: Quantity) -> list[list[Sample]]:
    accepted = [r for r in check.readings if r.accepted]
    parts: list[list[Sample]] = []
    for sample in quantity.samples(accepted, history.motor):
        for part in parts:
            if not differences(quantity.same, part[-1].conditions, sample.conditions):
                part.append(sample)
                break
        else:
            parts.append([sample])
    return sorted(parts, key=lambda part: part[-1].run)


@dataclass(frozen=True, slots=True)
class Segment:
    """A stretch of a quantity's history between resets, with the baseline that holds in it."""

    since: datetime | None
    baseline: Baseline | None
    groups: tuple[Group, ...]


def segments(history: History, quantity: Quantity, known: Sequence[Group] | None = None) -> list[Segment]:
    """A quantity over time, parted where an event reset it, oldest first.

    Only groups of the throttle and placement of the latest are looked at. Within a segment the baseline is the median
    of the first two checks that compare with its last; a segment of one check has that check. `known` are the groups
    of the quantity where they have been made already.
    """
    found = groups(history, quantity) if known is None else list(known)
    latest = found[-1].conditions if found else Conditions()
    found = [g for g in found if not differences(("throttle_pct", "placement"), g.conditions, latest)]
    cuts: list[datetime | None] = [None, *sorted(e.at for e in history.events if resets(e.event, quantity.name))]
    parts: list[Segment] = []
    for number, since in enumerate(cuts):
        until = cuts[number + 1] if number + 1 < len(cuts) else None
        inside = [g for g in found if (since is None or g.at >= since) and (until is None or g.at < until)]
        if inside:
            now = inside[-1].conditions
            alike = [g for g in inside if not differences(quantity.same, g.conditions, now)]
            parts.append(Segment(since, _of_first(alike, quantity), tuple(inside)))
    return parts
