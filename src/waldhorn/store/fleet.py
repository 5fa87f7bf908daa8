"""Figures of all motors of a class or of a machine at once, for comparing them."""

from collections import defaultdict
from collections.abc import Set as AbstractSet
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.vocabulary import Source
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.motors.leads import comparable_mass
from waldhorn.store.changes import not_undone
from waldhorn.store.models import CheckRow, MotorRow, ReadingRow

_SCORED = ("flywheel_torque", "response")


def figures(session: Session, motor_class: str) -> dict[str, tuple[dict[str, float], float | None]]:
    """The latest flywheel torque and response of every motor of a class, with its mass at one lead length, by tag."""
    m = MotorRow
    query = (
        select(m.tag, m.mass_g, m.lead_mm, m.lead_awg, ReadingRow.measure, ReadingRow.value)
        .join(CheckRow, CheckRow.motor_id == m.id)
        .join(ReadingRow, ReadingRow.check_id == CheckRow.id)
        .where(m.motor_class == motor_class, ReadingRow.measure.in_(_SCORED), ReadingRow.accepted)
        .where(not_undone(ReadingRow))
        .order_by(ReadingRow.at, ReadingRow.id)
    )
    found: dict[str, tuple[dict[str, float], float | None]] = {}
    for tag, mass, lead_mm, lead_awg, measure, value in session.execute(query):
        found.setdefault(tag, ({}, comparable_mass(mass, lead_mm, lead_awg)))[0][measure] = value
    return found


def on_machine(session: Session, machine: str) -> list[MotorRow]:
    """The motors of a machine, by position."""
    query = select(MotorRow).where(MotorRow.machine == machine).order_by(MotorRow.position, MotorRow.tag)
    return list(session.scalars(query))


def latest_vibration(
    session: Session, machines: AbstractSet[str], as_of: datetime, measure: str = "vibration"
) -> dict[str, dict[str, Baseline]]:
    """The latest vibration of every motor up to a time, by machine and motor, as something to compare with."""
    named = machines - {""}
    if not named:
        return {}
    r = ReadingRow
    query = (
        select(MotorRow.machine, MotorRow.id, r.value, r.at, r.throttle_pct, r.placement)
        .join(CheckRow, CheckRow.motor_id == MotorRow.id)
        .join(r, r.check_id == CheckRow.id)
        .where(MotorRow.machine.in_(named), r.measure == measure, r.accepted, r.at <= as_of, not_undone(r))
        .order_by(r.at, r.id)
    )
    found: dict[str, dict[str, Baseline]] = defaultdict(dict)
    for machine, motor_id, value, at, throttle, placement in session.execute(query):
        under = Conditions(throttle_pct=throttle, placement=placement)
        found[machine][motor_id] = Baseline(value, 1, Source.MACHINE, at=at, conditions=under)
    return found
