"""Observations: the values of a quantity that the readings of a check yield, by the rules of the registry.

The one engine behind every quantity: it decides which readings belong together, by run and by conditions, and hands
their values to the quantity's function. An observation has its own time and its own conditions.
"""

from bisect import bisect_right
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import lru_cache
from itertools import pairwise
from statistics import median

from waldhorn.core.base.conditions import FULL_THROTTLE_PCT, Conditions, at_full_throttle, comparable
from waldhorn.core.base.history import Check, Event, History, Motor, Reading
from waldhorn.core.base.vocabulary import GRAVE, NoteKind, Purpose
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs
from waldhorn.core.measuring.measures import MEASURES, QUANTITIES
from waldhorn.core.measuring.quantity import Quantity

_SAME_RUN = ("rig", "method", "throttle_pct")
_SAME_PLACE = ("rig", "placement", "distance_cm", "meter")
ByMeasure = Mapping[str, Sequence[Reading]]
# Which quantities a reading of a measure may start an observation of.
_STARTING = {m: [q.name for q in QUANTITIES.values() if m in q.primaries] for m in MEASURES}


@dataclass(frozen=True, slots=True)
class Observation:
    """One value of a quantity, see `derivation.Derived`, with the run, the time and the conditions it was read
    under."""

    value: float
    run: int
    at: datetime
    conditions: Conditions
    raw: float | None
    u_further: float
    n: int
    note: NoteKind | None
    resolution: float | None


@dataclass(frozen=True, slots=True)
class Group:
    """The observations of one check that compare with each other, with no reset between them: one point over time."""

    check: str
    at: datetime
    observations: tuple[Observation, ...]
    value: float = field(init=False)  # the median
    n: int = field(init=False)  # how many readings stand behind it
    conditions: Conditions = field(init=False)  # those of its latest run

    def __post_init__(self) -> None:
        object.__setattr__(self, "value", median([o.value for o in self.observations]))
        object.__setattr__(self, "n", sum([o.n for o in self.observations]))
        object.__setattr__(self, "conditions", self.observations[-1].conditions)

    def resolution(self, usual: float) -> float:
        """One step of the display it was read from, `usual` where nothing else is known."""
        return max([usual if o.resolution is None else o.resolution for o in self.observations])


def all_groups(history: History) -> dict[str, list[Group]]:
    """The groups of every quantity, by name, oldest first."""
    found: dict[str, list[Group]] = {name: [] for name in QUANTITIES}
    cuts = {name: reset_times(history.events, quantity) for name, quantity in QUANTITIES.items()}
    for check in history.checks:
        for name, observations in _of_check(check, history.motor).items():
            found[name].extend(_groups_of(check, observations, QUANTITIES[name], cuts[name]))
    for name, groups in found.items():
        _put_in_order(groups, cuts[name])
    return found


def _put_in_order(groups: list[Group], cuts: Sequence[datetime]) -> None:
    """Oldest check first; within a check by what parts the groups, however they were read: in which order the settings
    of a visit were tried must change no answer."""
    ended: dict[str, datetime] = {}
    for g in groups:
        ended[g.check] = max(g.at, ended.get(g.check, g.at))

    def place(g: Group) -> tuple[datetime, str, int, float, str, float, str, str, datetime]:
        c = g.conditions
        throttle = FULL_THROTTLE_PCT if c.throttle_pct is None else c.throttle_pct
        segment = bisect_right(cuts, g.at)
        return ended[g.check], g.check, segment, throttle, c.placement, c.distance_cm or 0.0, c.meter, c.rig, g.at

    groups.sort(key=place)


def _of_check(check: Check, motor: Motor) -> Mapping[str, Sequence[Observation]]:
    """The observations of a check by quantity, made once for the motor they were read on."""
    of: Motor | None
    made: Mapping[str, Sequence[Observation]]
    of, made = check.kept.get("observations", (None, {}))
    if of is not motor:
        readings = _by_measure(check)
        names = sorted({name for measure in readings for name in _STARTING.get(measure, ())})
        made = {n: _observations(readings, motor, QUANTITIES[n]) for n in names}
        check.kept.clear()
        check.kept["observations"] = (motor, made)
    return made


def groups_of_study(history: History) -> dict[str, list[Group]]:
    """The groups of what was read for a study of a rig, by quantity and a visit each, oldest first."""
    found: dict[str, list[Group]] = defaultdict(list)
    for check in history.studied:
        readings = _by_measure(check, Purpose.STUDY)
        for name in sorted({name for measure in readings for name in _STARTING.get(measure, ())}):
            observations = _observations(readings, history.motor, QUANTITIES[name])
            found[name].extend(_groups_of(check, observations, QUANTITIES[name], []))
    return found


def groups_of(history: History, quantity: Quantity) -> list[Group]:
    """The groups of one quantity, oldest first.

    Parameters
    ----------
    history : History
    quantity : Quantity
    """
    return all_groups(history)[quantity.name]


def observations_of(check: Check, motor: Motor, quantity: Quantity) -> list[Observation]:
    """Every observation of a quantity that one check yields, by run.

    Parameters
    ----------
    check : Check
    motor : Motor
    quantity : Quantity
    """
    return _observations(_by_measure(check), motor, quantity)


def given_over_settings(check: Check, motor: Motor, quantity: Quantity) -> Inputs | None:
    """What a quantity over the settings of a check is made of, those that compare last, though they be too few; None
    where there is but one.

    Parameters
    ----------
    check : Check
    motor : Motor
    quantity : Quantity
    """
    readings = _by_measure(check)
    rule = replace(next(r for r in quantity.made if r.settings), settings=2)
    parts = _primaries(readings.get(rule.of, ()), rule, quantity)
    return _given_over_settings(parts[-1], readings, motor, rule) if parts else None


def reset_times(events: Iterable[Event], quantity: Quantity) -> list[datetime]:
    """When a quantity was reset, oldest first.

    Parameters
    ----------
    events : iterable of Event
        Oldest first.
    quantity : Quantity
    """
    return sorted(e.at for e in events if e.event in quantity.reset_by)


def last_reset(events: Iterable[Event], quantity: Quantity, until: datetime) -> datetime | None:
    """The time of the last event up to `until` that reset a quantity, or None.

    Parameters
    ----------
    events : iterable of Event
        Oldest first.
    quantity : Quantity
    until : datetime
        With its time zone.
    """
    return max((at for at in reset_times(events, quantity) if at <= until), default=None)


def first_visits(found: Sequence[Group], events: Sequence[Event], quantity: Quantity) -> list[tuple[Group, Group]]:
    """The first two visits under equal conditions of each stretch between resets, where nothing grave happened between:
    what differs is how the motor was clamped.

    Parameters
    ----------
    found : sequence of Group
        Oldest first.
    events : sequence of Event
        Oldest first.
    quantity : Quantity
    """
    cuts = sorted([*reset_times(events, quantity), *(e.at for e in events if e.event in GRAVE)])
    firsts: list[tuple[int, list[Group]]] = []
    for group in found:
        stretch = bisect_right(cuts, group.at)
        for known, visits in firsts:
            if known == stretch and comparable(quantity.same, visits[0].conditions, group.conditions):
                if len(visits) < 2 and group.check != visits[0].check:
                    visits.append(group)
                break
        else:
            firsts.append((stretch, [group]))
    return [(v[0], v[1]) for _, v in firsts if len(v) == 2]


def _by_measure(check: Check, purpose: Purpose = Purpose.STANDARD) -> ByMeasure:
    found: dict[str, list[Reading]] = defaultdict(list)
    for reading in check.readings:
        if reading.accepted and reading.purpose is purpose:
            found[reading.measure].append(reading)
    for readings in found.values():
        if any(a.run >= b.run for a, b in pairwise(readings)):
            readings.sort(key=_order)
    return found


def _order(reading: Reading) -> tuple[int, datetime, str, float, float, float]:
    place = reading.position if reading.position is not None else reading.angle_deg
    return (
        reading.run,
        reading.at,
        reading.conditions.rig,
        reading.conditions.throttle_pct or 0.0,
        place if place is not None else 0.0,
        reading.value,
    )


def _groups_of(
    check: Check, observations: Sequence[Observation], quantity: Quantity, cuts: Sequence[datetime]
) -> list[Group]:
    """The observations of a check, parted by conditions and by what reset the quantity meanwhile."""
    if not observations:
        return []
    times = [o.at for o in observations]
    if cuts and bisect_right(cuts, min(times)) != bisect_right(cuts, max(times)):
        return _parted(check, observations, quantity, cuts)
    groups: list[Group] | None = check.kept.get(quantity.name)
    if groups is None:
        groups = check.kept[quantity.name] = _parted(check, observations, quantity, ())
    return groups


def _parted(
    check: Check, observations: Sequence[Observation], quantity: Quantity, cuts: Sequence[datetime]
) -> list[Group]:
    parts: list[tuple[int, list[Observation]]] = []
    for one in observations:
        segment = bisect_right(cuts, one.at)
        for known, part in parts:
            if known == segment and comparable(quantity.same, part[-1].conditions, one.conditions):
                part.append(one)
                break
        else:
            parts.append((segment, [one]))
    return [Group(check.id, max([o.at for o in part]), tuple(part)) for _, part in parts]


def _observations(readings: ByMeasure, motor: Motor, quantity: Quantity) -> list[Observation]:
    """By run; where two rules apply to a run, the first one wins."""
    found: list[Observation] = []
    volts = readings.get("supply_volts", ()) if "supply_v" in quantity.same else ()
    taken: set[tuple[int, str, str]] = set()
    for rule in quantity.made:
        for together in _primaries(readings.get(rule.of, ()), rule, quantity):
            if taken and _place(together[0]) in taken:
                continue
            made = _made(together, readings, motor, rule)
            if made is not None:
                found.append(_observation(made, together, volts))
        if rule is not quantity.made[-1]:
            taken = {_place(one) for one in found}
    if any(a.run >= b.run for a, b in pairwise(found)):
        found.sort(key=lambda o: (o.run, o.at, o.conditions.throttle_pct or 0.0, o.conditions.rig, o.value))
    return found


def _place(one: Reading | Observation) -> tuple[int, str, str]:
    return one.run, one.conditions.rig, one.conditions.method


def _primaries(readings: Sequence[Reading], rule: DerivationRule, quantity: Quantity) -> list[list[Reading]]:
    """The readings that make an observation each, or those of a run that make one together."""
    wanted = [r for r in readings if at_full_throttle(r.conditions)] if rule.full_throttle else readings
    if not (rule.together or rule.settings):
        return [[r] for r in wanted]
    if len(wanted) < rule.settings:
        return []
    parts: list[list[Reading]] = []
    for reading in wanted:
        for part in parts:
            if (rule.settings or part[0].run == reading.run) and comparable(
                quantity.same, part[0].conditions, reading.conditions
            ):
                part.append(reading)
                break
        else:
            parts.append([reading])
    return parts


def _made(together: Sequence[Reading], readings: ByMeasure, motor: Motor, rule: DerivationRule) -> Derived | None:
    if rule.settings:
        given = _given_over_settings(together, readings, motor, rule)
        return rule.make(given) if given else None
    first = together[0]
    values = {rule.of: (first.value,) if len(together) == 1 else tuple([r.value for r in together])}
    for measures, needed in ((rule.run, True), (rule.run_maybe, False)):
        for measure in measures:
            value = _companion(first, readings.get(measure, ()))
            if value is not None:
                values[measure] = (value,)
            elif needed:
                return None
    for measure in rule.beside:
        near = [r.value for r in readings.get(measure, ()) if comparable(_SAME_PLACE, r.conditions, first.conditions)]
        if near:
            values[measure] = tuple(near)
    angles = () if first.angle_deg is None else tuple([r.angle_deg for r in together if r.angle_deg is not None])
    return rule.make(Inputs(values, first.conditions, motor, angles))


def _given_over_settings(
    together: Sequence[Reading], readings: ByMeasure, motor: Motor, rule: DerivationRule
) -> Inputs | None:
    """The readings at several settings, those that have their companions."""
    rows = [(r, [_companion(r, readings.get(measure, ())) for measure in rule.run]) for r in together]
    whole = [(r, [v for v in beside if v is not None]) for r, beside in rows if None not in beside]
    if len(whole) < rule.settings:
        return None
    columns = zip(*((r.value, *beside) for r, beside in whole), strict=True)
    values = dict(zip((rule.of, *rule.run), columns, strict=True))
    under = tuple([r.conditions for r, _ in whole])
    return Inputs(values, together[0].conditions, motor, under=under)


def _companion(first: Reading, readings: Sequence[Reading]) -> float | None:
    """The value read in the same run under conditions that do not differ, the one most alike where there are two."""
    best: Reading | None = None
    for reading in readings:
        if reading.run != first.run:
            continue
        if reading.conditions is first.conditions or reading.conditions == first.conditions:
            return reading.value
        if best is None and comparable(_SAME_RUN, reading.conditions, first.conditions):
            best = reading
    return best.value if best else None


def _observation(made: Derived, together: Sequence[Reading], volts: Sequence[Reading]) -> Observation:
    first = together[0]
    conditions = first.conditions
    supply_v = made.supply_v
    if supply_v is None and conditions.supply_v is None and volts:
        supply_v = _supply(volts, conditions.rig)
    if supply_v is not None and supply_v != conditions.supply_v:
        conditions = _at_supply(conditions, supply_v)
    at = max(r.at for r in together) if len(together) > 1 else first.at
    return Observation(
        made.value, first.run, at, conditions, made.raw, made.u_further, made.n, made.note, made.resolution
    )


def _supply(volts: Sequence[Reading], rig: str) -> float | None:
    """The voltage of the full-throttle pulls of the same check on the same rig: what was heard and felt beside them ran
    on it too."""
    same = [r.value for r in volts if r.conditions.rig == rig and at_full_throttle(r.conditions)]
    return median(same) if same else None


@lru_cache(4096)
def _at_supply(conditions: Conditions, supply_v: float) -> Conditions:
    """Conditions with the voltage read beside them; the runs of a season share a handful."""
    return replace(conditions, supply_v=supply_v)
