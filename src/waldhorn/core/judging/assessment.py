"""Assessing: every quantity of a motor now against its baseline.

Only what was measured lately counts: an old reading says nothing of a motor that has crashed since; and only what was
read on a rig that a reference motor does not show to be out.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from statistics import median
from types import MappingProxyType

from waldhorn.core.base.history import Event, History, Motor
from waldhorn.core.base.vocabulary import GRAVE, EventKind, NoteKind, SetUp, Source, State
from waldhorn.core.judging import baseline as base
from waldhorn.core.judging import baseline_doubt, settings, translated, visits
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.judging.brought import before_turning, degrees, worth_a_word
from waldhorn.core.judging.change import SURE, RunUncertainty, assess
from waldhorn.core.judging.evidence import DRIFT_SHARE, FRESH, Evidence, EvidenceKind, Note, Peers
from waldhorn.core.judging.evidence_sources import Residual
from waldhorn.core.judging.faults import signs_in
from waldhorn.core.judging.translated import Lines
from waldhorn.core.measuring import cogging, magnets
from waldhorn.core.measuring.magnets import MAGNET_STRENGTH
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import Group, last_reset
from waldhorn.core.measuring.quantity import Limits, Quantity, difference
from waldhorn.core.motors.winding import can_be_wound
from waldhorn.core.rigs import reference_motor as reference
from waldhorn.core.rigs import repeatability as repeats
from waldhorn.core.rigs.day_shift import Moved, RigShift
from waldhorn.core.rigs.reference_motor import Drifted
from waldhorn.core.rigs.repeatability import Repeatability, Spread

UNTOUCHED = timedelta(days=5)  # from race day to race day: with nothing logged between, a motor is as it was
BEYOND_ANY_FAULT = 6.0  # no fault carries a reading further than this, in its size at the act limit (bench practice)
HOT_START_K = 10.0  # above the air: heat compares from a motor nearer to it


def of_all(
    known: History,
    groups: Mapping[str, Sequence[Group]],
    peers: Peers,
    repeatability: Repeatability,
    limits: Mapping[str, Limits],
    drifted: Sequence[Drifted] = (),
    lines: Lines = MappingProxyType({}),
    shifts: Sequence[RigShift] = (),
) -> tuple[Evidence, ...]:
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
    drifted : sequence of Drifted
        When a reference motor showed a rig to be out.
    lines : mapping, optional
        From one rig to another, for a past that was read elsewhere.
    shifts : sequence of RigShift
        Days on which the motors of a rig moved alike.

    Returns
    -------
    tuple of Evidence
        One a quantity.

    Notes
    -----
    Source: bench practice; see `change` and `baseline` for the formulas.
    """
    measured = degrees(groups)
    each = [
        _of(known, q, groups[q.name], peers.get(q.name, ()), repeatability, limit, lines, measured)
        for q in QUANTITIES.values()
        for limit in (limits.get(q.name, q.limits),)
    ]
    last = max((at for e in each if (at := e.at or _last(groups[e.quantity.name]))), default=None)
    since = _counts_since(known, last)
    found = []
    for one in each:
        if one.at is not None and since is not None and last is not None:
            rig = _rig(one, groups[one.quantity.name])
            one = _aged(one) if one.at < since else _earlier(one, last, known.events)
            one = _moved_alike(_on_rig(one, rig, drifted), rig, shifts)
        found.append(one)
    found = _in_parts(found)
    strength = _magnet_strength(found, limits.get(MAGNET_STRENGTH.name, MAGNET_STRENGTH.limits))
    return (*found, strength) if strength else tuple(found)


def moved_from_own(
    known: History, groups: Mapping[str, Sequence[Group]], repeatability: Repeatability
) -> dict[str, Moved]:
    """How far the latest group of each quantity lies from the motor's own past: what a rig may have moved.

    Parameters
    ----------
    known : History
    groups : mapping of str to sequence of Group
        By quantity, see `observations.all_groups`.
    repeatability : callable

    Returns
    -------
    dict of str to Moved
        By quantity, those that have a past of their own that compares.

    Notes
    -----
    Source: see `change` and `baseline` for the formulas.
    """
    found = {}
    for name, mine in groups.items():
        quantity = QUANTITIES[name]
        if not mine or any(e.event in quantity.reset_by and e.at > mine[-1].at for e in known.events):
            continue
        last = mine[-1]
        spread = repeatability(last.conditions.rig, name)
        doubt = baseline_doubt.of(mine, [last], known.events, quantity, spread, known.overruled)
        past, _ = base.own([g for g in mine if not doubt or g.check != doubt.odd], [last], known.events, quantity)
        if past is None or (quantity.relative and not past.value):
            continue
        further = math.hypot(past.u_further, max(o.u_further for o in last.observations))
        u = RunUncertainty(
            spread.run, spread.visit, last.resolution(quantity.resolution), last.n, past.n, 1, past.checks, further
        )
        found[name] = Moved(known.motor.tag, difference(last.value, past.value, quantity.relative), u.after(0))
    return found


def _counts_since(known: History, last: datetime | None) -> datetime | None:
    """From when on a reading says something of the motor as it is."""
    if last is None:
        return None
    grave = max((e.at for e in known.events if e.event in GRAVE), default=None)
    return max(last - FRESH, grave) if grave else last - FRESH


def _last(mine: Sequence[Group]) -> datetime | None:
    return mine[-1].at if mine else None


def _rig(e: Evidence, mine: Sequence[Group]) -> str:
    """The rig that what is judged was read on."""
    return next((n.values[0] for n in e.notes if n.kind is NoteKind.NO_LINE), mine[-1].conditions.rig)


def _earlier(e: Evidence, last: datetime, events: Sequence[Event]) -> Evidence:
    """What was sound before something happened, or days ago, says nothing of the motor now; what was bad then is bad
    still."""
    if e.at is None or e.at == last or (e.change and e.change.p_past_watch >= SURE):
        return e
    since = [event.event for event in events if e.at < event.at <= last]
    if not since and last - e.at <= UNTOUCHED:
        return e
    if e.has(NoteKind.NO_LINE) and set(since) <= {EventKind.RUN, EventKind.CLEANED}:
        return e  # it was read, on a rig that cannot say so
    return replace(e, residual=None, notes=(*e.notes, Note(NoteKind.EARLIER_SITTING, (e.at,))))


# What is weighed by what it is made of, where that was read as well.
PARTS: Mapping[str, tuple[str, ...]] = MappingProxyType(
    {"no_load_current": ("friction", "speed_loss"), "temperature": ("heat_per_energy",)}
)


def _in_parts(found: list[Evidence]) -> list[Evidence]:
    """What a whole says is said once: by its parts where they are told, as far back as it is."""
    by = {e.quantity.name: e for e in found}
    said = {}
    for name, of in PARTS.items():
        whole, parts = by[name], [by[p] for p in of]
        if not whole.residual or not all(p.residual for p in parts):
            continue
        if _own(whole) and not all(map(_own, parts)):
            continue
        note = Note(NoteKind.IN_PARTS, (" and ".join(p.quantity.title for p in parts),))
        state = parts[0].state if len(parts) == 1 else whole.state  # one part alone is the whole, put more fairly
        said[name] = replace(whole, residual=None, state=state, notes=(*whole.notes, note))
    return [said.get(e.quantity.name, e) for e in found]


def _tells_nothing(quantity: Quantity, motor: Motor) -> Note | None:
    """Why a quantity says nothing of this motor, whatever was read."""
    if quantity.set_up is SetUp.SWEEP and not motor.may_have_sensors:
        return Note(NoteKind.SENSORLESS)
    slots, poles = motor.slots or 0, motor.poles or 0
    alike = poles > 0 and can_be_wound(slots, poles) and not cogging.tells_magnets(slots, poles)
    if quantity.name == "detent_variation" and alike:
        return Note(NoteKind.ALIKE_WHATEVER, (slots, poles))
    return None


def _own(e: Evidence) -> bool:
    return e.reference is not None and e.reference.source in (Source.OWN, Source.TRANSLATED)


def _aged(e: Evidence) -> Evidence:
    return replace(e, fresh=False, residual=None, notes=(*e.notes, Note(NoteKind.MEASURED_BEFORE, (e.at,))))


def _on_rig(e: Evidence, rig: str, drifted: Sequence[Drifted]) -> Evidence:
    """What was read while the rig was out neither condemns nor clears."""
    out = reference.was_out(drifted, rig, e.quantity.name, e.at) if e.at else None
    if out is None:
        return e
    state = State.UNPROVEN if e.change else e.state
    return replace(e, residual=None, state=state, notes=(*e.notes, Note(NoteKind.RIG_OUT, (rig, out.until is None))))


def _moved_alike(e: Evidence, rig: str, shifts: Sequence[RigShift]) -> Evidence:
    """What moved alike on several motors of one day is the rig's until its reference was read."""
    shift = next((s for s in shifts if e.at and s.holds(rig, e.quantity.name, e.at)), None)
    if shift is None or e.has(NoteKind.RIG_OUT) or not _own(e):
        return e
    state = State.UNPROVEN if e.change else e.state
    note = Note(NoteKind.RIG_SUSPECT, (rig, shift.motors, shift.value))
    return replace(e, residual=None, state=state, notes=(*e.notes, note))


def _of(
    known: History,
    quantity: Quantity,
    found: Sequence[Group],
    peers: Sequence[Baseline],
    repeatability: Repeatability,
    limits: Limits,
    lines: Lines,
    measured: Mapping[str, float],
) -> Evidence:
    comparable_to = bool(found or peers or quantity.absolute or quantity.label(known.motor))
    if not found:
        return Evidence(quantity, EvidenceKind.NOT_MEASURED, State.NO_BASELINE, limits=limits, expected=comparable_to)
    said = _tells_nothing(quantity, known.motor) or _hot_motor(known, found[-1], quantity)
    if said:
        return Evidence(quantity, EvidenceKind.NOT_MEASURED, State.NO_BASELINE, limits=limits, notes=(said,))
    if any(e.event in quantity.reset_by and e.at > found[-1].at for e in known.events):
        there = bool(peers or quantity.absolute)
        return Evidence(quantity, EvidenceKind.RESET_SINCE, State.NO_BASELINE, limits=limits, expected=there)
    each = [
        _at_setting(known, quantity, mine, peers, repeatability, limits, lines, measured)
        for mine in settings.of_visit(found, known.events, quantity)
    ]
    one = settings.together(each)
    return _on_rig_before(
        one, found, lambda mine: _of(known, quantity, mine, peers, repeatability, limits, lines, measured)
    )


def _on_rig_before(e: Evidence, found: Sequence[Group], judged: Callable[[Sequence[Group]], Evidence]) -> Evidence:
    """What it was on the rig it was read on before, where nothing but the rig parts it from its past and nothing but
    the label stands in for that: readings that compare with nothing undo nothing."""
    parting = [n.values for n in e.notes if n.kind is NoteKind.NOT_COMPARABLE]
    if not parting or any(name != "rig" for name, *_ in parting) or e.quantity.absolute:
        return e
    if e.reference and not e.against_label:
        return e
    _, then, now = parting[0]
    earlier = [g for g in found if g.conditions.rig != now]
    before = judged(earlier) if earlier else e
    return replace(before, notes=(*before.notes, Note(NoteKind.NO_LINE, (then, now)))) if _own(before) else e


def _at_setting(
    known: History,
    quantity: Quantity,
    found: Sequence[Group],
    peers: Sequence[Baseline],
    repeatability: Repeatability,
    limits: Limits,
    lines: Lines,
    measured: Mapping[str, float],
) -> Evidence:
    """A quantity at one setting of the latest visit, the last of these groups."""
    spread = repeatability(found[-1].conditions.rig, quantity.name)
    if quantity.strays_by:
        spread = replace(spread, run=math.hypot(spread.run, quantity.strays_by * found[-1].value))
    sitting = visits.one_sitting(known, found, quantity, spread)
    reference, notes = _reference(known, found, sitting, peers, quantity, lines, spread, limits, measured)
    model = None if quantity.against_machine else base.of_model(peers, found[-1].conditions, quantity)
    now = sitting[-1]
    runs = repeats.agreement([o.value for o in now.observations], spread.run, quantity.relative)
    if len(sitting) > 1:
        runs = replace(runs, centre=median(g.value for g in sitting))
    counts = (sum(g.n for g in sitting), len(sitting))
    if not quantity.absolute and (reference is None or (quantity.relative and reference.value == 0)):
        u = RunUncertainty(spread.run, spread.visit, now.resolution(quantity.resolution), counts[0], 0, counts[1])
        _, notes = _disagreeing(runs, 0.0, notes)
        return Evidence(
            quantity,
            EvidenceKind.NOTHING_TO_COMPARE,
            State.NO_BASELINE,
            runs.centre,
            now.observations[-1].raw,
            counts[0],
            limits=limits,
            u_of_runs=u,
            notes=notes,
            at=now.at,
            torn=runs.ask_again and runs.spread > limits.watch,
            expected=False,
        )
    marks = [e.at for e in known.events if e.at <= now.at and (e.event in GRAVE or e.event in quantity.reset_by)]
    since_then = [g for g in found if not marks or g.at >= max(marks)]
    return replace(_compared(quantity, since_then, sitting, runs, reference, limits, spread, notes), model=model)


def _reference(
    known: History,
    found: Sequence[Group],
    now: Sequence[Group],
    peers: Sequence[Baseline],
    quantity: Quantity,
    lines: Lines,
    spread: Spread,
    limits: Limits,
    measured: Mapping[str, float],
) -> tuple[Baseline | None, tuple[Note, ...]]:
    last = now[-1]
    assumed = [Note(kind) for kind in dict.fromkeys(o.note for o in last.observations) if kind]
    if quantity.against_machine:
        return base.of_machine(peers, last.conditions, quantity), tuple(assumed)
    since = last_reset(known.events, quantity, last.at)
    doubt = baseline_doubt.of(found, now, known.events, quantity, spread, known.overruled)
    believed = [g for g in found if not doubt or g.check != doubt.odd]
    reference, passed_over = base.own(believed, now, known.events, quantity, spread)
    if reference is None and (turned := _before_turning(believed, now, known.events, quantity, measured)):
        reference, passed_over = turned, ()
    model = base.of_model(peers, last.conditions, quantity)
    elsewhere = None if reference else translated.own_past(believed, now, known.events, quantity, lines)
    if elsewhere and elsewhere.conditions and (model is None or elsewhere.u_further < model.u_further):
        assumed.append(Note(NoteKind.TRANSLATED, (elsewhere.conditions.rig,)))
        reference, passed_over = elsewhere, ()
    notes = [*assumed, *(Note(NoteKind.NOT_COMPARABLE, (p.condition, p.then, p.now)) for p in passed_over)]
    if reference is not None and (held := base.sound(reference, model, quantity)) is not reference:
        notes.append(Note(NoteKind.WORSE_THAN_MODEL))
        reference = held
    if doubt and doubt.odd:
        notes.append(Note(NoteKind.BASELINE_ODD, (doubt.at, doubt.odd_value, doubt.agreed, doubt.words)))
    elif doubt and reference is not None:
        notes.append(Note(NoteKind.BASELINE_IN_DOUBT, (doubt.first, doubt.second)))
        reference = replace(reference, u_further=math.hypot(reference.u_further, doubt.u))
    reference = (
        reference
        or model
        or base.of_ceiling(last.value, last.conditions, quantity, limits)
        or base.of_label(known, quantity)
    )
    if reference is not None and reference.source is Source.LABEL:
        notes.append(Note(NoteKind.BY_LABEL))
    if reference is not None and reference.source is Source.OWN and reference.checks == 1 and since is not None:
        notes.append(Note(NoteKind.ONE_CHECK_SINCE_RESET))
    if reference is not None and reference.brought and worth_a_word(reference.brought):
        b = reference.brought
        notes.append(Note(NoteKind.BROUGHT, (b.by, b.then, b.now, 100 * (b.factor - 1), 100 * b.u)))
    if reference is not None:
        notes += [Note(NoteKind.NOTED_ONCE, (name,)) for name in reference.noted_once]
    return reference, tuple(notes)


def _before_turning(
    found: Sequence[Group],
    now: Sequence[Group],
    events: Sequence[Event],
    quantity: Quantity,
    measured: Mapping[str, float],
) -> Baseline | None:
    """The motor's own past from before its end bell was turned, as it would be at the timing of now."""
    turned = before_turning(found, now, events, quantity, measured)
    if turned is None:
        return None
    past, others, by = turned
    reference, _ = base.own(past, now, others, quantity)
    if reference is None:
        return None
    return replace(
        reference,
        u_further=math.hypot(reference.u_further, 100 * by.u),
        brought=by,
        as_read=reference.value / by.factor,
    )


def _compared(
    quantity: Quantity,
    found: Sequence[Group],
    sitting: Sequence[Group],
    runs: repeats.Agreement,
    reference: Baseline | None,
    limits: Limits,
    spread: Spread,
    notes: tuple[Note, ...],
) -> Evidence:
    """The change of a quantity from its reference; limits of an absolute one lie on the value itself, its own past only
    says how far it moved."""
    now = sitting[-1]
    moved_from = reference.value if reference else quantity.typical or 0.0
    further, notes = _disagreeing(runs, max(o.u_further for o in now.observations), notes)
    n, m = sum(g.n for g in sitting), len(sitting)
    own = reference if reference and reference.source in (Source.OWN, Source.TRANSLATED) else None
    resolution = now.resolution(quantity.resolution)
    doubt = math.hypot(further, reference.u_further if reference else quantity.natural_spread)
    n_base, m_base = (own.n, own.checks) if own else (0, 0)
    against_own = RunUncertainty(spread.run, spread.visit, resolution, n, n_base, m, m_base, doubt)
    u_of_runs = replace(against_own, n_base=0, m_base=0, extra=further) if quantity.absolute else against_own
    judged_from = 0.0 if quantity.absolute else moved_from

    def change_of(value: float, origin: float) -> float:
        return difference(value, origin, quantity.relative)

    delta = change_of(runs.centre, judged_from)
    assessed = assess(delta, u_of_runs.after(0), limits, quantity.direction, u_of_runs)
    moved = change_of(runs.centre, moved_from)
    u = math.hypot(against_own.after(0), DRIFT_SHARE * limits.watch)
    seen = visits.seen(found, reference, lambda g: change_of(g.value, judged_from), assessed, limits, quantity)
    agreeing = 1 if runs.ask_again else len(now.observations)
    residual: Residual | None = Residual(quantity.name, moved, u, agreeing, max(1, seen), n_base, m_base)
    if _beyond_any_fault(quantity, moved, runs.centre):
        residual, notes = None, (*notes, Note(NoteKind.SLIP, (runs.centre, moved_from, "a slip?")))
    each = [change_of(o.value, judged_from) for o in now.observations]
    furthest = max(abs(c) if quantity.direction == 0 else quantity.direction * c for c in each)
    return Evidence(
        quantity,
        EvidenceKind.ABSOLUTE if quantity.absolute else EvidenceKind.COMPARED,
        assessed.state,
        runs.centre,
        now.observations[-1].raw,
        n,
        Baseline(0.0, 0, Source.ZERO) if quantity.absolute else reference,
        reference,
        assessed,
        limits,
        u_of_runs,
        notes,
        residual,
        at=now.at,
        setting=now.conditions.throttle_pct,
        seen=seen,
        torn=runs.ask_again and furthest >= limits.watch,
    )


def _beyond_any_fault(quantity: Quantity, moved: float, now: float) -> bool:
    """Whether a reading lies where no fault carries it, of a quantity that no ratio tells of (see `slips`)."""
    if quantity.relative:
        return now <= 0
    most = max((abs(size) for size in signs_in(quantity.name).values()), default=quantity.limits.act)
    return abs(moved) > BEYOND_ANY_FAULT * most


def _hot_motor(known: History, last: Group, quantity: Quantity) -> Note | None:
    """Whether the pulls beside it say that the motor was hot before its heat was read."""
    if "temperature" not in quantity.primaries:
        return None
    check = known.check(last.check)
    readings = [r for r in check.readings if r.accepted] if check else []
    if any(r.measure == "temperature_before" for r in readings):
        return None
    noted = [
        r.conditions.motor_c - r.conditions.ambient_c
        for r in readings
        if r.measure != "temperature" and r.conditions.motor_c is not None and r.conditions.ambient_c is not None
    ]
    hotter = max(noted, default=0.0)
    return Note(NoteKind.HOT_MOTOR, (hotter,)) if hotter > HOT_START_K else None


def _disagreeing(runs: repeats.Agreement, further: float, notes: tuple[Note, ...]) -> tuple[float, tuple[Note, ...]]:
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
    u_of_runs = RunUncertainty(0.0, 0.0, 0.0, 1, 0, 1, 0, u)
    change = assess(value, u, limits, MAGNET_STRENGTH.direction, u_of_runs)
    own = Baseline(0.0, 0, Source.OWN, at=speed.baseline.at)
    return Evidence(
        MAGNET_STRENGTH,
        EvidenceKind.MAGNET_STRENGTH,
        change.state,
        value,
        value,
        min(speed.n_now, torque.n_now),
        own,
        own,
        change,
        limits,
        u_of_runs,
        () if agree else (Note(NoteKind.KV_AND_DETENT_DISAGREE),),
        at=torque.at,
        strengths=(from_kv, from_detent),
    )
