"""What is printed: the rack, and a motor with what its paper says."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Row
from sqlalchemy.orm import Session

from waldhorn.core.base.history import Inspected
from waldhorn.core.base.text import key_of
from waldhorn.pit.judging import judging
from waldhorn.pit.judging.view_cache import Look, look_at
from waldhorn.store import cached_verdicts, findings, motors, pit
from waldhorn.store.findings import Pictured
from waldhorn.store.models import SignedRow

MOST_ON_RACK = 1000


@dataclass(frozen=True)
class PrintedRack:
    """The motors of the rack as they are printed, how many there are, and what the pit is called."""

    rows: Sequence[Row[Any]]
    every: int
    pit_name: str


@dataclass(frozen=True)
class PrintedMotor:
    """A motor as it is printed: what is known and said of it, who signed (the newest first), the runs it has made, and
    what the pit is called."""

    motor_id: str
    look: Look
    signed: Sequence[SignedRow]
    runs: int
    pit_name: str


@dataclass(frozen=True)
class Report:
    """What a report says besides: the last look at each item, and pictures."""

    looked_at: Sequence[Inspected]
    pictures: Sequence[Pictured]


def rack(session: Session, tags: Sequence[str], skip: int, now: datetime) -> PrintedRack:
    """The motors of the rack, worst news first, `MOST_ON_RACK` from `skip` on; or those of these tags."""
    wanted = {key_of(tag) for tag in tags}
    every = cached_verdicts.counts(session, "", now.date())["all"]
    rows = cached_verdicts.rack(session, "", now.date(), every if wanted else MOST_ON_RACK, 0 if wanted else skip)
    rows = [row for row in rows if not wanted or key_of(row.tag) in wanted]
    return PrintedRack(rows, len(rows) if wanted else every, pit.load(session).name)


def motor(session: Session, tag: str, now: datetime) -> PrintedMotor:
    """A motor; raises NotThere."""
    motor_id = motors.on_rack(session, tag).id
    look = look_at(session, motor_id, now)
    signed = cached_verdicts.all_signed(session, [motor_id])[::-1]
    return PrintedMotor(motor_id, look, signed, judging.runs_since(look.history, None), pit.load(session).name)


def report(session: Session, printed: PrintedMotor) -> Report:
    """What the report of a motor says besides."""
    latest = {one.item: one for one in sorted(printed.look.history.inspected, key=lambda one: one.at)}
    return Report(list(latest.values()), findings.of_motors(session, [printed.motor_id])[printed.motor_id].pictures)
