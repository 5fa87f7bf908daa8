"""The desk: one check laid out, with its motor, its readings, its findings and what the rig repeats to.

Everything a step of the run needs is read here once, in a fixed number of statements.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.evidence import Repeatability
from waldhorn.core.explain import Figure
from waldhorn.core.history import FULL_STEP, Check, Conditions, Finding, History, Motor, Reading, throttle_pct
from waldhorn.pit.judging import repeatability
from waldhorn.pit.steps import Step
from waldhorn.store import findings, readings, standings
from waldhorn.store.models import CheckRow, FindingRow, MotorRow, ReadingRow
from waldhorn.store.motors import to_motor
from waldhorn.store.readings import NewReading


@dataclass(frozen=True)
class Desk:
    """One check with all that belongs to it."""

    session: Session
    check: CheckRow
    row: MotorRow
    motor: Motor
    history: History
    rows: Sequence[ReadingRow]
    findings: Mapping[str, FindingRow]
    known: Repeatability
    now: datetime

    def said(self, subject: str) -> str:
        """What was found of a subject in this check, or nothing."""
        found = self.findings.get(subject)
        return found.value if found else ""

    def before(self, subject: str) -> Finding | None:
        """The latest finding of a subject in an earlier check."""
        earlier = [f for f in self.history.findings if f.subject == subject and f.check != str(self.check.id)]
        return max(earlier, key=lambda f: f.at, default=None)

    def rows_of(self, step: Step) -> list[ReadingRow]:
        """The readings of this check that a step took."""
        return [r for r in self.rows if step.owns(r)]

    def runs_of(self, step: Step) -> dict[int, list[ReadingRow]]:
        """The readings of a step by run."""
        found: dict[int, list[ReadingRow]] = {}
        for row in self.rows_of(step):
            found.setdefault(row.run, []).append(row)
        return dict(sorted(found.items()))

    def next_run(self, step: Step) -> int:
        """The number the next run of a step gets."""
        return max((r.run for r in self.rows_of(step)), default=0) + 1

    def counted(self, step: Step) -> int:
        """How many runs of a step count."""
        return len({r.run for r in self.rows_of(step) if r.accepted})

    def reading(self, measure: str, value: float, run: int = 1, **more: Any) -> NewReading:
        """A reading taken now, under the conditions of this check."""
        check = self.check
        conditions: dict[str, Any] = {
            "rig": check.rig, "motor_c": check.motor_c, "ambient_c": check.ambient_c,
            "timing_set_deg": check.timing_set_deg,
        }  # fmt: skip
        return NewReading(self.now, measure, float(value), run, **(conditions | more))

    def full(self, measure: str, value: float, run: int, step: int = FULL_STEP, **more: Any) -> NewReading:
        """A reading under power, taken the way this check takes KV."""
        return self.reading(measure, value, run, step=step, method=self.check.method, **more)

    def with_fresh(self, fresh: Iterable[NewReading], noticed: Mapping[str, tuple[str, str]]) -> History:
        """The history with readings and findings that are typed but not taken yet."""
        number = str(self.check.id)
        others = tuple(c for c in self.history.checks if c.id != number)
        mine = next((c for c in self.history.checks if c.id == number), Check(number, self.check.at, ()))
        added = replace(mine, readings=(*mine.readings, *(as_reading(r) for r in fresh)))
        found = tuple(Finding(number, s, v, self.now, note) for s, (v, note) in noticed.items() if v)
        kept = tuple(f for f in self.history.findings if f.check != number or f.subject not in noticed)
        return replace(self.history, checks=(*others, added), findings=(*kept, *found))


@dataclass(frozen=True)
class View:
    """What a step shows of its numbers: figures that explain themselves, sentences, and values for its picture."""

    figures: tuple[Figure, ...] = ()
    words: tuple[str, ...] = ()
    picture: Any = None
    more: Mapping[str, Any] = field(default_factory=dict)


def lay_out(session: Session, check: CheckRow, row: MotorRow, now: datetime) -> Desk:
    """Lay a check out."""
    return Desk(
        session, check, row, to_motor(row), readings.histories(session, [row.id])[row.id],
        readings.of_check(session, check.id), findings.of_check(session, check.id),
        repeatability(standings.rig_spreads(session)), now,
    )  # fmt: skip


def as_reading(new: NewReading) -> Reading:
    """A reading on its way into the store as a plain value."""
    conditions = Conditions(
        new.rig, new.method, throttle_pct(new.step, new.throttle_pct), new.placement, new.supply_v,
        new.timing_set_deg, new.motor_c, new.ambient_c,
    )  # fmt: skip
    return Reading(new.measure, new.value, new.at, new.run, conditions, new.accepted, new.angle_deg, new.note)


def stored(row: ReadingRow) -> Reading:
    """A stored reading as a plain value."""
    conditions = Conditions(
        row.rig, row.method, throttle_pct(row.step, row.throttle_pct), row.placement, row.supply_v,
        row.timing_set_deg, row.motor_c, row.ambient_c,
    )  # fmt: skip
    return Reading(row.measure, row.value, row.at, row.run, conditions, row.accepted, row.angle_deg, row.note)
