"""Figures of all motors of a class or of a machine at once, for comparing them."""

from collections import defaultdict
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from waldhorn.store.models import CheckRow, MotorRow, ReadingRow

_SCORED = ("flywheel_torque", "response")


def figures(session: Session, motor_class: str) -> dict[str, tuple[dict[str, float], float | None]]:
    """The latest flywheel torque and response of every motor of a class, with its mass, by tag."""
    query = (
        select(MotorRow.tag, MotorRow.mass_g, ReadingRow.measure, ReadingRow.value)
        .join(CheckRow, CheckRow.motor_id == MotorRow.id)
        .join(ReadingRow, ReadingRow.check_id == CheckRow.id)
        .where(MotorRow.motor_class == motor_class, ReadingRow.measure.in_(_SCORED), ReadingRow.accepted)
        .order_by(ReadingRow.at)
    )
    found: dict[str, tuple[dict[str, float], float | None]] = {}
    for tag, mass, measure, value in session.execute(query):
        found.setdefault(tag, ({}, mass))[0][measure] = value
    return found


def on_machine(session: Session, machine: str) -> list[MotorRow]:
    """The motors of a machine, by position."""
    query = select(MotorRow).where(MotorRow.machine == machine).order_by(MotorRow.position, MotorRow.tag)
    return list(session.scalars(query))


def latest_vibration(session: Session, machines: set[str]) -> dict[str, dict[int, tuple[str, float, datetime]]]:
    """The latest vibration reading of every motor, by machine and motor: measure, value and time."""
    query = (
        select(MotorRow.machine, MotorRow.id, ReadingRow.measure, ReadingRow.value, ReadingRow.at)
        .join(CheckRow, CheckRow.motor_id == MotorRow.id)
        .join(ReadingRow, ReadingRow.check_id == CheckRow.id)
        .where(MotorRow.machine.in_(machines - {""}), ReadingRow.measure.like("vibration%"), ReadingRow.accepted)
        .order_by(ReadingRow.at)
    )
    found: dict[str, dict[int, tuple[str, float, datetime]]] = defaultdict(dict)
    for machine, motor_id, measure, value, at in session.execute(query):
        found[machine][motor_id] = (measure, value, at)
    return found
