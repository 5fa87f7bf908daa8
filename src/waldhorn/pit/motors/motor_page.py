"""A motor's page as it is asked for, one call a request: find the motor, do the one thing that was asked, and answer
with everything known of it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from typing import TypeVar

from sqlalchemy.orm import Session

from waldhorn.core.base.history import History
from waldhorn.core.judging.verdict import Turning
from waldhorn.core.motors.dating import odd_dates
from waldhorn.pit.bench import checks, undoing
from waldhorn.pit.judging import judging, view_cache
from waldhorn.pit.motors import resale
from waldhorn.pit.motors.last_read import LastRead, last_read
from waldhorn.pit.settings import limits_and_prices
from waldhorn.pit.settings.pit import over_the_rules
from waldhorn.pit.writing import Store, Writing, changing
from waldhorn.store import cached_verdicts, changes, motors
from waldhorn.store import pit as pit_store
from waldhorn.store.models import ChangeRow, MotorRow, SignedRow

Answer = TypeVar("Answer")
Command = Callable[[Session, MotorRow], Answer]


@dataclass(frozen=True)
class MotorPage:
    """Everything a motor's page draws: its row, what is known and judged of it, who signed what (newest last) and who
    was right later, what was done and what was undone last, the check it lies on the bench with, dates that cannot be,
    what the rules of its class say, why it is off the rack, and the last of what stands on no strip."""

    row: MotorRow
    look: view_cache.Look
    as_of: datetime | None
    signed: Sequence[SignedRow]
    tally: limits_and_prices.Tally
    last: ChangeRow | None
    undone: ChangeRow | None
    open_check: str | None
    at_bench: str
    odd_dates: list[str]
    over_the_rules: list[str]
    gone: str
    also_read: Sequence[LastRead]


def look(store: Store, tag: str, now: datetime, as_of: datetime | None = None, undone: bool = False) -> MotorPage:
    """The motor now, or as of a time; `undone` asks for what was undone last. Raises NotThere."""
    with store.reading() as session:
        row = motors.on_rack(session, tag)
        seen = view_cache.look_back(session, row.id, as_of) if as_of else view_cache.look_at(session, row.id, now)
        signed = cached_verdicts.all_signed(session, [row.id], whole=True)
        return MotorPage(
            row,
            seen,
            as_of,
            signed,
            limits_and_prices.tally(session, signed),
            changes.last(session, row.id),
            changes.last(session, row.id, undone=True) if undone else None,
            cached_verdicts.open_checks(session, [row.id]).get(row.id),
            cached_verdicts.at_bench(session, [row.id]).get(row.id, ""),
            _odd_dates(seen.history, now),
            over_the_rules(pit_store.load(session), seen.history, seen.judgement.evidence),
            judging.off_the_rack(seen.history),
            last_read(seen.history, seen.judgement.evidence),
        )


def on_rack(session: Session, tag: str) -> MotorRow:
    """The motor of a tag; raises NotThere."""
    return motors.on_rack(session, tag)


def turning(store: Store, tag: str, as_of: datetime) -> Sequence[Turning]:
    """Which reading or test would turn the answer; raises NotThere."""
    with store.reading() as session:
        return judging.turning_of(session, motors.on_rack(session, tag).id, as_of)


def worth(store: Store, tag: str, now: datetime) -> tuple[resale.Offer | None, float | None]:
    """What it is worth to a buyer, and its price when new; raises NotThere."""
    with store.reading() as session:
        seen = view_cache.look_at(session, motors.on_rack(session, tag).id, now)
        return resale.offer(session, seen.history.motor, seen.judgement), seen.history.motor.price


def carry_out(store: Store, by: Writing, tag: str, command: Command[Answer]) -> Answer:
    """Do one thing to a motor; raises NotThere and what the command raises."""
    with changing(store, by) as session:
        return command(session, motors.on_rack(session, tag))


def undo(store: Store, by: Writing, tag: str, change: str) -> tuple[str, str]:
    """Undo the change that is named, the last where none is: the motor's id, and its tag as it is then, empty where its
    taking in was undone. Raises NotThere, InputError."""
    with changing(store, by) as session:
        motor_id = motors.on_rack(session, tag).id
        undoing.undo(session, motor_id, by.at, change)
        there = motors.several(session, [motor_id])
        return motor_id, there[motor_id].tag if motor_id in there else ""


def open_check(store: Store, by: Writing, tag: str, plan: str) -> tuple[str, bool]:
    """Lay it on the bench; returns the id of the check, and whether it lay there already. Raises NotThere."""
    return carry_out(store, by, tag, partial(_opened, now=by.at, plan=plan))


def _opened(session: Session, row: MotorRow, now: datetime, plan: str) -> tuple[str, bool]:
    check = checks.open_check(session, row, now, plan)
    return check.id, check.at != now


def _odd_dates(history: History, now: datetime) -> list[str]:
    checked = odd_dates(history.motor, [c.at for c in history.checks], now)
    return checked + odd_dates(history.motor, [e.at for e in history.events], now, "events")
