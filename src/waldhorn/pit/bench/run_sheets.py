"""A run sheet: the steps of a full check on one page, filled in by pencil and typed in afterwards in its order."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import Motor
from waldhorn.core.base.times import read_timestamp
from waldhorn.pit.bench import checks, context
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.fields import Ask, read_partly
from waldhorn.pit.bench.steps.look import NOTE
from waldhorn.pit.bench.steps.step import AnyStep
from waldhorn.store import motors, pit, readings, rigs

PLAN = "full"
ROWS_MORE = 1  # a run more than wanted, for when two disagree
_ALONE = ("setup", "look", "poles")  # one row of these is enough


@dataclass(frozen=True)
class SheetStep:
    """A step as it stands on the sheet: what is asked for, and how many rows there are for its runs."""

    step: AnyStep
    asks: dict[str, Ask]
    rows: int


def sheet(motor: Motor | None) -> list[SheetStep]:
    """The steps of a full check of a motor, or of any."""
    motor = motor or Motor("")
    return [
        SheetStep(
            step,
            {n: a for n, a in step.fields.asks().items() if step.asks_for(n, motor) and not n.endswith(NOTE)},
            1 if step.name in _ALONE or step.runs_wanted == 1 else step.runs_wanted + ROWS_MORE,
        )
        for step in STEPS.values()
        if PLAN in step.plans and step.applies(motor) and step.fields.asks()
    ]


def field_name(step: str, row: int, name: str) -> str:
    """What a field of the sheet is called."""
    return f"{step}-{row}-{name}"


@dataclass(frozen=True)
class Empty:
    """A sheet to be filled in for a motor: its steps, the rig that is usual here, and the rigs there are."""

    motor: Motor
    sheet: Sequence[SheetStep]
    usual: Mapping[str, str]
    known_rigs: Sequence[str]


def empty(session: Session, tag: str) -> Empty:
    """The sheet of a motor; raises NotThere."""
    motor = motors.to_motor(motors.on_rack(session, tag))
    usual = {field_name("setup", 1, "rig"): pit.load(session).rig}
    return Empty(motor, sheet(motor), usual, [u.name for u in rigs.uses(session)])


def take_sheet(session: Session, tag: str, typed: Mapping[str, str], now: datetime) -> str:
    """Store a filled-in sheet as one check at the time it was measured; returns the check's id. A check that lies open
    is gone on with where the sheet is of its day; a sheet of another day is a check of its own, closed at once.

    Raises NotThere, and InputErrors with a sentence for each field that cannot be; the caller must roll back then. What
    was measured was measured: a finding that would have closed the power is judged, but stops nothing here.
    """
    motor = motors.on_rack(session, tag)
    known = motors.to_motor(motor)
    wrong: dict[str, str] = {}
    at = _measured_at(typed, now, wrong)
    filled = [(s, row, given) for s in sheet(known) for row in range(1, s.rows + 1) if (given := _given(s, row, typed))]
    if not filled and not wrong:
        wrong["at"] = "nothing is filled in yet"
    if wrong:
        raise InputErrors(wrong)
    lying = readings.last_check(session, motor.id)
    apart = lying is not None and lying.open and lying.at.astimezone(at.tzinfo).date() != at.date()
    check = (checks.open_another if apart else checks.open_check)(session, motor, at, PLAN)
    for one, row, given in filled:
        session.flush()
        ctx = context.load(session, check.id, at)
        if ctx is None:
            raise LookupError(check.id)
        values, found = read_partly(one.step.fields, given, ctx.notation)
        if found := one.step.refused(ctx, values, found):
            wrong |= {field_name(one.step.name, row, n): words for n, words in found.items()}
        else:
            checks.take_values(session, ctx, one.step, values, given)
    if wrong:
        raise InputErrors(wrong)
    if apart:
        check.open = False  # what lies on the bench goes on
        motors.touch(session, [motor.id])
    return check.id


def _measured_at(typed: Mapping[str, str], now: datetime, wrong: dict[str, str]) -> datetime:
    text = typed.get("at", "").strip()
    try:
        at = read_timestamp(text, now.tzinfo) if text else now
    except InputError as refused:
        wrong["at"] = refused.sentence
        return now
    if at > now:
        wrong["at"] = "this has not happened yet: give a time up to now"
    return at


def _given(one: SheetStep, row: int, typed: Mapping[str, str]) -> dict[str, str]:
    """What is filled in of a row; with anything in it, what is usual stands for what is empty."""
    given = {n: typed.get(field_name(one.step.name, row, n), "").strip() for n in one.asks}
    if not any(given.values()):
        return {}
    return {n: text or one.asks[n].habit for n, text in given.items()}
