"""Figures of all motors of a class or of a machine at once, for comparing them."""

from collections import defaultdict
from collections.abc import Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import EventKind, Source
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.motors.leads import comparable_mass
from waldhorn.store.changes import not_undone
from waldhorn.store.models import CheckRow, EventRow, MotorRow, ReadingRow
from waldhorn.store.motors import only

_SCORED = ("flywheel_torque", "response")
_AT_SPEED, _SPEEDS = ("shaft_torque", "efficiency"), ("load_rpm", "rpm")


def figures(session: Session, motor_class: str) -> dict[str, tuple[dict[str, float], float | None]]:
    """The latest flywheel torque and response of every motor of a class, with its mass at one lead length, by tag."""
    m = MotorRow
    query = (
        select(m.tag, m.mass_g, m.lead_mm, m.lead_awg, ReadingRow.measure, ReadingRow.value)
        .join(CheckRow, CheckRow.motor_id == m.id)
        .join(ReadingRow, ReadingRow.check_id == CheckRow.id)
        .where(m.motor_class == motor_class, m.on_rack, ReadingRow.measure.in_(_SCORED), ReadingRow.accepted)
        .where(not_undone(ReadingRow))
        .order_by(ReadingRow.at, ReadingRow.id)
    )
    found: dict[str, tuple[dict[str, float], float | None]] = {}
    for tag, mass, lead_mm, lead_awg, measure, value in session.execute(query):
        found.setdefault(tag, ({}, comparable_mass(mass, lead_mm, lead_awg)))[0][measure] = value
    return found


def scored(session: Session, motor_ids: Sequence[str]) -> dict[str, dict[str, list[float]]]:
    """What a score is made of: the runs of the latest check with each, of these motors, by motor and measure."""
    query = (
        select(CheckRow.motor_id, CheckRow.id, ReadingRow.measure, ReadingRow.value)
        .join(ReadingRow, ReadingRow.check_id == CheckRow.id)
        .where(ReadingRow.measure.in_((*_SCORED, "efficiency")), ReadingRow.accepted, ReadingRow.value > 0)
        .where(not_undone(CheckRow), not_undone(ReadingRow))
        .order_by(CheckRow.at, ReadingRow.id)
    )
    found: dict[str, dict[str, list[float]]] = defaultdict(dict)
    latest: dict[tuple[str, str], str] = {}
    for motor_id, check_id, measure, value in session.execute(only(query, CheckRow.motor_id, motor_ids)):
        if latest.get((motor_id, measure)) != check_id:
            found[motor_id][measure] = []
        latest[motor_id, measure] = check_id
        found[motor_id][measure].append(value)
    return found


def tags_scored(session: Session, model: str) -> list[str]:
    """The motors of a model of which anything was read that a score is made of."""
    of_model = select(MotorRow.id).where(MotorRow.model_key == key_of(model), MotorRow.on_rack)
    query = (
        select(CheckRow.motor_id)
        .join(ReadingRow, ReadingRow.check_id == CheckRow.id)
        .where(CheckRow.motor_id.in_(of_model), ReadingRow.measure.in_((*_SCORED, "efficiency")), ReadingRow.accepted)
        .where(not_undone(CheckRow), not_undone(ReadingRow))
    )
    return list(session.scalars(select(MotorRow.tag).where(MotorRow.id.in_(query)).order_by(MotorRow.id)))


def over_speed(session: Session, motor_ids: Sequence[str]) -> dict[str, dict[str, list[tuple[float, float]]]]:
    """Torque at the shaft and efficiency as they were read, each with the rpm of its run: by motor and measure."""
    query = (
        select(CheckRow.motor_id, CheckRow.id, ReadingRow.run, ReadingRow.purpose, ReadingRow.measure, ReadingRow.value)
        .join(ReadingRow, ReadingRow.check_id == CheckRow.id)
        .where(ReadingRow.measure.in_((*_AT_SPEED, *_SPEEDS)), ReadingRow.accepted, ReadingRow.value > 0)
        .where(not_undone(CheckRow), not_undone(ReadingRow))
    )
    runs: dict[tuple[str, str, int, str], dict[str, float]] = defaultdict(dict)
    for motor_id, check_id, run, purpose, measure, value in session.execute(only(query, CheckRow.motor_id, motor_ids)):
        runs[motor_id, check_id, run, purpose][measure] = value
    found: dict[str, dict[str, list[tuple[float, float]]]] = defaultdict(lambda: defaultdict(list))
    for (motor_id, *_), read in runs.items():
        rpm = next((read[n] for n in _SPEEDS if n in read), None)
        for measure in _AT_SPEED:
            if rpm and measure in read:
                found[motor_id][measure].append((rpm, read[measure]))
    return found


def of_model(session: Session, name: str) -> list[MotorRow]:
    """The motors of a model, in the order they were taken in."""
    query = select(MotorRow).where(MotorRow.model_key == key_of(name), MotorRow.on_rack)
    return list(session.scalars(query.order_by(MotorRow.id)))


def on_machine(session: Session, machine: str) -> list[MotorRow]:
    """The motors of a machine, by position."""
    query = (
        select(MotorRow).where(MotorRow.machine == machine, MotorRow.on_rack).order_by(MotorRow.position, MotorRow.tag)
    )
    return list(session.scalars(query))


@dataclass(frozen=True, slots=True)
class Seat:
    """Who had a place of a machine, from when (None: not noted) to when (None: still there)."""

    tag: str
    position: str
    since: datetime | None
    until: datetime | None


def seats(session: Session, machine: str) -> list[Seat]:
    """Who sits and who sat where on a machine: those who sit there by position, then those who left, latest first."""
    e = EventRow
    query = (
        select(MotorRow.id, MotorRow.tag, e.event, e.position, e.at)
        .join(MotorRow, MotorRow.id == e.motor_id)
        .where(
            MotorRow.on_rack, e.machine == machine, e.event.in_((EventKind.FITTED, EventKind.REMOVED)), not_undone(e)
        )
        .order_by(e.at, e.id)
    )
    since: dict[str, tuple[str, datetime]] = {}
    left: list[Seat] = []
    for motor_id, tag, event, position, at in session.execute(query):
        if event == EventKind.FITTED:
            since[motor_id] = (position, at)
        else:
            came = since.pop(motor_id, None)
            left.append(Seat(tag, position or (came[0] if came else ""), came[1] if came else None, at))
    there = [
        Seat(row.tag, row.position, since[row.id][1] if row.id in since else None, None)
        for row in on_machine(session, machine)
    ]
    return there + left[::-1]


def latest_vibration(
    session: Session, machines: AbstractSet[str], as_of: datetime, measure: str = "vibration"
) -> dict[str, dict[str, Baseline]]:
    """The latest vibration of every motor up to a time, by machine and motor, as something to compare with. What one
    shook before it was fitted where it sits now says nothing of this machine."""
    named = machines - {""}
    if not named:
        return {}
    r = ReadingRow
    fitted = (
        select(func.max(EventRow.at))
        .where(EventRow.motor_id == MotorRow.id, EventRow.event == EventKind.FITTED, not_undone(EventRow))
        .correlate(MotorRow)
        .scalar_subquery()
    )
    query = (
        select(MotorRow.machine, MotorRow.id, r.value, r.at, r.throttle_pct, r.placement)
        .join(CheckRow, CheckRow.motor_id == MotorRow.id)
        .join(r, r.check_id == CheckRow.id)
        .where(
            MotorRow.on_rack,
            MotorRow.machine.in_(named),
            r.measure == measure,
            r.accepted,
            r.at <= as_of,
            not_undone(r),
        )
        .where(or_(fitted.is_(None), r.at >= fitted))
        .order_by(r.at, r.id)
    )
    found: dict[str, dict[str, Baseline]] = defaultdict(dict)
    for machine, motor_id, value, at, throttle, placement in session.execute(query):
        under = Conditions(throttle_pct=throttle, placement=placement)
        found[machine][motor_id] = Baseline(value, 1, Source.MACHINE, at=at, conditions=under)
    return found
