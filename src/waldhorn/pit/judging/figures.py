"""What is worked out of the closed checks of motors and kept, so that judging or comparing one does not read them all:
own baselines, what they teach of the rigs, what was read last, and how far the motors of a model lie apart."""

from collections.abc import Iterable, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cache

from sqlalchemy.orm import Session

from waldhorn.core.base.history import History
from waldhorn.core.comparing.differences import Latest
from waldhorn.core.judging import baseline, model_medians
from waldhorn.core.judging.assessment import moved_from_own
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.measuring.measures import BETWEEN, QUANTITIES
from waldhorn.core.measuring.observations import Group, all_groups, groups_of_study
from waldhorn.core.rigs import learning, pairs
from waldhorn.core.rigs.day_shift import Moved
from waldhorn.core.rigs.learning import Sums, Taught
from waldhorn.core.rigs.pairs import RigPair
from waldhorn.core.rigs.repeatability import ODD_ONE_OUT, Repeatability, Spread
from waldhorn.store import cached_verdicts, rigs
from waldhorn.store import figures as store
from waldhorn.store.cached_verdicts import Spreads


@dataclass(frozen=True)
class Figures:
    """By motor id: own baselines, what it teaches of the rigs, what was read of it last, how far that lies from its
    own past, and what it read on two rigs."""

    own: dict[str, dict[str, list[Baseline]]] = field(default_factory=dict)
    taught: dict[str, list[Taught]] = field(default_factory=dict)
    latest: dict[str, dict[str, Latest]] = field(default_factory=dict)
    moved: dict[str, dict[str, Moved]] = field(default_factory=dict)
    paired: dict[str, list[RigPair]] = field(default_factory=dict)


def of(session: Session, fresh: Mapping[str, History]) -> Figures:
    """The figures of these motors, of their closed checks."""
    on_bench = set(cached_verdicts.open_checks(session, list(fresh)).values())
    known = repeatability(cached_verdicts.held_spreads(session))
    found = Figures()
    for i, history in fresh.items():
        groups = {name: [g for g in mine if g.check not in on_bench] for name, mine in all_groups(history).items()}
        found.own[i] = baseline.own_references(groups, history.events)
        found.taught[i] = [
            *learning.of_motor(_as_taken(history, groups, on_bench), history.events),
            *learning.of_studies(groups_of_study(history)),
        ]
        found.latest[i] = latest_of(groups)
        found.moved[i] = {} if history.motor.reference else moved_from_own(history, groups, known)
        found.paired[i] = pairs.of_motor(groups, history.events)
    return found


def repeatability(spreads: Spreads) -> Repeatability:
    """How well each rig repeats, per quantity: what it has shown, weighed with the default."""

    @cache
    def of_pair(rig: str, quantity: str) -> Spread:
        return learning.spread(spreads.get((rig, quantity), Sums()), quantity)

    return of_pair


def latest_of(groups: Mapping[str, Sequence[Group]]) -> dict[str, Latest]:
    """What was read last, of the quantities that motors are compared in."""
    return {name: Latest.of(groups[name][-1], QUANTITIES[name]) for name in BETWEEN if groups.get(name)}


@dataclass(frozen=True)
class Changed:
    """The motors (by id) that others lean on otherwise now: whose baselines changed, and what they read on two rigs."""

    own: set[str] = field(default_factory=set)
    paired: set[str] = field(default_factory=set)

    def add(self, more: "Changed") -> None:
        """Take in those of another portion."""
        self.own.update(more.own)
        self.paired.update(more.paired)


def store_figures(session: Session, found: Figures, motor_ids: Sequence[str], now: datetime) -> Changed:
    """Keep the figures of these motors, and those of their models; returns what changed."""
    changed = cached_verdicts.keep_figures(
        session, motor_ids, {i: found.own[i] for i in motor_ids}, {i: found.taught[i] for i in motor_ids}
    )
    store.keep_latest(session, {i: found.latest[i] for i in motor_ids}, {i: found.moved[i] for i in motor_ids})
    if models := store.models_of(session, changed):
        _keep_models(session, models, now)
    return Changed(changed, rigs.keep_pairs(session, {i: found.paired[i] for i in motor_ids}))


def _keep_models(session: Session, models: Iterable[str], now: datetime) -> None:
    rows = []
    for model, of_motors in cached_verdicts.model_baselines(session, models, now).items():
        for name, quantity in QUANTITIES.items():
            everyone = [b for by_quantity in of_motors.values() for b in by_quantity.get(name, ())]
            rows += [
                {
                    "model_key": model,
                    "quantity": name,
                    "rig": rig,
                    "motors": held.n,
                    "middle": held.value,
                    "apart": model_medians.one_sigma(held),
                }
                for rig, held in model_medians.by_rig(everyone, quantity).items()
            ]
    store.keep_spreads(session, models, rows)


def _as_taken(
    history: History, groups: Mapping[str, Sequence[Group]], on_bench: AbstractSet[str]
) -> Mapping[str, Sequence[Group]]:
    """The same with the runs that were set aside by themselves: without them an estimate of the spread shrinks."""
    if not any(r.aside_reason.startswith(ODD_ONE_OUT) for c in history.checks for r in c.readings):
        return groups
    checks = tuple(
        replace(
            c,
            readings=tuple(
                replace(r, accepted=r.accepted or r.aside_reason.startswith(ODD_ONE_OUT)) for r in c.readings
            ),
        )
        for c in history.checks
        if c.id not in on_bench
    )
    return all_groups(replace(history, checks=checks))
