"""Evidence: one quantity now against its baseline, with its uncertainty and its state.

Only what was measured lately counts: an old reading says nothing of a motor that has crashed since. How it is said in
words stands in `sentences`.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from enum import StrEnum
from typing import Any

from waldhorn.core import baseline as base
from waldhorn.core import magnets, repeats
from waldhorn.core.baseline import Baseline
from waldhorn.core.change import Change, RunUncertainty, assess, difference
from waldhorn.core.faults import Residual
from waldhorn.core.history import History
from waldhorn.core.measures import MAGNET_STRENGTH, QUANTITIES, Limits, Quantity
from waldhorn.core.observations import Group
from waldhorn.core.vocabulary import GRAVE, NoteKind, Source, State

DRIFT_SHARE = 0.25  # one sigma of a sound motor's own drift, as a share of its watch limit (bench practice)
LABEL_TOLERANCE_PCT = 3 / math.sqrt(3)  # "within 3 % is ordinary", read as a rectangle
FRESH = timedelta(days=21)  # readings of one state of a motor may be gathered over so long

Peers = Mapping[str, Sequence[Baseline]]  # quantity name to the own baselines of the model's other motors
Repeatability = Callable[[str, str], float]  # (rig, quantity name) to one standard deviation, change unit


class EvidenceKind(StrEnum):
    """What a piece of evidence rests on."""

    NOT_MEASURED = "not_measured"
    RESET_SINCE = "reset_since"
    NOTHING_TO_COMPARE = "nothing_to_compare"
    COMPARED = "compared"
    ABSOLUTE = "absolute"
    MAGNET_STRENGTH = "magnet_strength"


@dataclass(frozen=True, slots=True)
class Note:
    """Something to be said beside a number; `values` are what its sentence needs."""

    kind: NoteKind
    values: tuple[Any, ...] = ()


@dataclass(frozen=True, slots=True)
class Evidence:
    """One quantity now against its baseline; see docs/formats.md for the fields.

    `reference` is the value the change is taken from where `baseline` is the zero of an absolute quantity, `u_of_runs`
    what the uncertainty is made of, `residual` the change as evidence of faults, with the drift a sound motor is
    allowed; None when it does not count: nothing to compare with, or too old (`fresh` is false then). `reason` is the
    sentence, put in last.
    """

    quantity: Quantity
    kind: EvidenceKind
    state: State
    now: float | None = None
    raw: float | None = None
    n_now: int = 0
    baseline: Baseline | None = None
    reference: Baseline | None = None
    change: Change | None = None
    limits: Limits | None = None
    u_of_runs: RunUncertainty | None = None
    notes: tuple[Note, ...] = ()
    residual: Residual | None = None
    fresh: bool = True
    at: datetime | None = None
    strengths: tuple[float, float] | None = None
    reason: str = ""

    @property
    def repeatability(self) -> float:
        """One standard deviation of a repeat on its rig, change unit; 0 where there is none."""
        return self.u_of_runs.repeatability if self.u_of_runs else 0.0

    @property
    def leans_on_model(self) -> bool:
        """Whether other motors of the model could change it: it is compared with them, or with nothing yet."""
        if self.kind is EvidenceKind.NOTHING_TO_COMPARE:
            return True
        return self.reference is not None and self.reference.source is Source.MODEL


def default_repeatability(rig: str, quantity: str) -> float:
    """The repeatability assumed of a rig that has not shown its own yet, change unit."""
    return QUANTITIES[quantity].repeatability


def of_all(
    known: History, groups: Mapping[str, Sequence[Group]], peers: Peers, repeatability: Repeatability,
    limits: Mapping[str, Limits],
) -> tuple[Evidence, ...]:  # fmt: skip
    """The evidence of every quantity, magnet strength last.

    Parameters
    ----------
    known : History
        With nothing later than the time to judge at.
    groups : mapping of str to sequence of Group
        Its groups by quantity, see `observations.all_groups`.
    peers : mapping of str to sequence of Baseline
        Baselines to compare with where the motor has none of its own, by quantity.
    repeatability : callable
        s_r of a rig for a quantity, change unit.
    limits : mapping of str to Limits
        Limits by quantity where they differ from the default.

    Returns
    -------
    tuple of Evidence
        One a quantity.

    Notes
    -----
    Source: bench practice; see `change` and `baseline` for the formulas.
    """
    since = _counts_since(known, groups)
    found = []
    for q in QUANTITIES.values():
        one = _of(known, q, groups[q.name], peers.get(q.name, ()), repeatability, limits.get(q.name, q.limits))
        found.append(_aged(one) if one.at is not None and since is not None and one.at < since else one)
    strength = _magnet_strength(found, limits.get(MAGNET_STRENGTH.name, MAGNET_STRENGTH.limits))
    return (*found, strength) if strength else tuple(found)


def _counts_since(known: History, groups: Mapping[str, Sequence[Group]]) -> datetime | None:
    """From when on a reading says something of the motor as it is."""
    last = max((mine[-1].at for mine in groups.values() if mine), default=None)
    if last is None:
        return None
    grave = max((e.at for e in known.events if e.event in GRAVE), default=None)
    return max(last - FRESH, grave) if grave else last - FRESH


def _aged(e: Evidence) -> Evidence:
    return replace(e, fresh=False, residual=None, notes=(*e.notes, Note(NoteKind.MEASURED_BEFORE, (e.at,))))


def _of(
    known: History, quantity: Quantity, found: Sequence[Group], peers: Sequence[Baseline],
    repeatability: Repeatability, limits: Limits,
) -> Evidence:  # fmt: skip
    if not found:
        return Evidence(quantity, EvidenceKind.NOT_MEASURED, State.NO_BASELINE, limits=limits)
    now = found[-1]
    if any(e.event in quantity.reset_by and e.at > now.at for e in known.events):
        return Evidence(quantity, EvidenceKind.RESET_SINCE, State.NO_BASELINE, limits=limits)
    s_r = repeatability(now.conditions.rig, quantity.name)
    runs = repeats.agreement([o.value for o in now.observations], s_r, quantity.relative)
    reference, notes = _reference(known, found, now, peers, quantity)
    if quantity.absolute:
        return _absolute(quantity, now, runs, reference, limits, s_r, notes)
    if reference is None or (quantity.relative and reference.value == 0):
        return Evidence(
            quantity, EvidenceKind.NOTHING_TO_COMPARE, State.NO_BASELINE, runs.centre, now.observations[-1].raw, now.n,
            limits=limits, u_of_runs=RunUncertainty(s_r, now.resolution(quantity.resolution), now.n, 0, 0.0),
            notes=notes, at=now.at,
        )  # fmt: skip
    return _compared(quantity, now, runs, reference, limits, s_r, notes)


def _reference(
    known: History, found: Sequence[Group], now: Group, peers: Sequence[Baseline], quantity: Quantity
) -> tuple[Baseline | None, tuple[Note, ...]]:
    assumed = [Note(kind) for kind in dict.fromkeys(o.note for o in now.observations) if kind]
    if quantity.against_machine:
        return base.of_machine(peers, now.conditions, quantity), tuple(assumed)
    since = base.last_reset(known.events, quantity, now.at)
    reference, passed_over = base.own(found, now, known.events, quantity)
    reference = reference or base.of_model(peers, now.conditions, quantity) or base.of_label(known, quantity)
    notes = [*assumed, *(Note(NoteKind.NOT_COMPARABLE, (p.condition, p.then, p.now)) for p in passed_over)]
    if reference is not None and reference.source is Source.OWN and reference.checks == 1 and since is not None:
        notes.append(Note(NoteKind.ONE_CHECK_SINCE_RESET))
    if reference is not None:
        notes += [Note(NoteKind.NOTED_ONCE, (name,)) for name in reference.noted_once]
    return reference, tuple(notes)


def _compared(
    quantity: Quantity, now: Group, runs: repeats.Agreement, reference: Baseline, limits: Limits, s_r: float,
    notes: tuple[Note, ...],
) -> Evidence:  # fmt: skip
    delta = difference(runs.centre, reference.value, quantity.relative)
    further = math.hypot(reference.u_further, max(o.u_further for o in now.observations))
    further, notes = _disagreeing(runs, further, notes, quantity)
    n_base = reference.n if reference.source is Source.OWN else 0
    u_of_runs = RunUncertainty(s_r, now.resolution(quantity.resolution), now.n, n_base, further)
    found = assess(delta, u_of_runs.after(0), limits, quantity.direction, u_of_runs)
    label = LABEL_TOLERANCE_PCT if reference.source is Source.LABEL else 0.0
    residual = Residual(quantity.name, delta, math.hypot(found.u, DRIFT_SHARE * limits.watch, label))
    return Evidence(
        quantity, EvidenceKind.COMPARED, found.state, runs.centre, now.observations[-1].raw, now.n, reference,
        reference, found, limits, u_of_runs, notes, residual, at=now.at,
    )  # fmt: skip


def _absolute(
    quantity: Quantity, now: Group, runs: repeats.Agreement, reference: Baseline | None, limits: Limits, s_r: float,
    notes: tuple[Note, ...],
) -> Evidence:  # fmt: skip
    """A quantity whose limits lie on the value itself; its own past only says how far it moved."""
    further, notes = _disagreeing(runs, max(o.u_further for o in now.observations), notes, quantity)
    u_of_runs = RunUncertainty(s_r, now.resolution(quantity.resolution), now.n, 0, further)
    found = assess(runs.centre, u_of_runs.after(0), limits, quantity.direction, u_of_runs)
    before = reference.value if reference else quantity.typical or 0.0
    residual = Residual(
        quantity.name, runs.centre - before, math.hypot(u_moved(quantity, found, reference, s_r),
                                                        DRIFT_SHARE * limits.watch)
    )  # fmt: skip
    return Evidence(
        quantity, EvidenceKind.ABSOLUTE, found.state, runs.centre, now.observations[-1].raw, now.n,
        Baseline(0.0, 0, Source.ZERO), reference, found, limits, u_of_runs, notes, residual, at=now.at,
    )  # fmt: skip


def u_moved(quantity: Quantity, found: Change, reference: Baseline | None, s_r: float) -> float:
    """Standard uncertainty of how far an absolute quantity has moved from its own past, change unit."""
    spread = quantity.natural_spread if reference is None else reference.u_further
    return math.hypot(found.u, spread, s_r / math.sqrt(reference.n) if reference and reference.n else 0.0)


def _disagreeing(
    runs: repeats.Agreement, further: float, notes: tuple[Note, ...], quantity: Quantity
) -> tuple[float, tuple[Note, ...]]:
    if not runs.ask_again:
        return further, notes
    said = Note(NoteKind.RUNS_DIFFER, (runs.spread,))
    return math.hypot(further, runs.spread / 2), (*notes, said)  # the runs disagree: that is what is known


def _magnet_strength(found: Sequence[Evidence], limits: Limits) -> Evidence | None:
    """Magnet strength, when KV and detent both say something of it; no residual, they are that already."""
    by_name = {e.quantity.name: e for e in found if e.change and e.fresh and e.baseline}
    speed, torque = by_name.get("kv"), by_name.get("detent_peak")
    if not (speed and speed.change and speed.baseline and torque and torque.change and torque.baseline):
        return None
    if speed.baseline.source is not Source.OWN or torque.baseline.source is not Source.OWN:
        return None
    from_kv = magnets.strength_from_kv(1 + speed.change.value / 100, 1.0)
    from_detent = magnets.strength_from_detent(max(1 + torque.change.value / 100, 1e-6), 1.0)
    u_kv, u_detent = speed.change.u / 100, torque.change.u / 200
    share = u_detent**2 / (u_kv**2 + u_detent**2)
    value = 100 * (share * from_kv + (1 - share) * from_detent - 1)
    u = 100 * u_kv * u_detent / math.hypot(u_kv, u_detent)
    agree = magnets.strengths_agree(from_kv, u_kv, from_detent, u_detent)
    u = u if agree else math.hypot(u, 50 * abs(from_kv - from_detent))
    u_of_runs = RunUncertainty(0.0, 0.0, 1, 1, u)
    change = assess(value, u, limits, MAGNET_STRENGTH.direction, u_of_runs)
    own = Baseline(0.0, 0, Source.OWN, at=speed.baseline.at)
    return Evidence(
        MAGNET_STRENGTH, EvidenceKind.MAGNET_STRENGTH, change.state, value, value, min(speed.n_now, torque.n_now), own,
        own, change, limits, u_of_runs, () if agree else (Note(NoteKind.KV_AND_DETENT_DISAGREE),), at=torque.at,
        strengths=(from_kv, from_detent),
    )  # fmt: skip
