"""Findings of checks in the store: what was looked at, lamps, pole counts, steps, overrules, guards, goals, traces.

Each kind has its own table; they are read together in one statement, as a page wants all of them and may not run more
statements the more kinds there are.
"""

import json
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from functools import lru_cache
from typing import Any

from sqlalchemy import Float, Integer, String, bindparam, cast, func, insert, literal, null, select, union_all, update
from sqlalchemy.orm import Session

from waldhorn.core.base.history import (
    TRIALS,
    Check,
    CrossTried,
    Event,
    GuardTrip,
    History,
    Inspected,
    LampsSeen,
    Motor,
    Overruled,
    PoleFinding,
)
from waldhorn.core.base.vocabulary import GuardKind, HallKind, Look, Ran, Turning
from waldhorn.store.changes import not_undone
from waldhorn.store.models import (
    ATTACHED,
    FINDINGS,
    CheckRow,
    CrossTriedRow,
    FlywheelTraceRow,
    GuardTripRow,
    HallLampsRow,
    InspectionRow,
    OfCheck,
    OverruleRow,
    PictureRow,
    PoleCountRow,
    SoundRow,
    StepState,
    StepStateRow,
    TimingGoalRow,
    clock,
    new_id,
)
from waldhorn.store.motors import only

MOST_PICTURES = 24  # of one check
MOST_SOUNDS = 12


@dataclass(frozen=True, slots=True)
class Stepped:
    """A step done or passed over."""

    check: str
    step: str
    state: StepState
    at: datetime


@dataclass(frozen=True, slots=True)
class TimingGoal:
    """The current the timing is set to: A, A, electrical degrees, rpm per A; on which rig and by which meter."""

    check: str
    target_a: float
    tolerance_a: float
    resolution_deg: float
    knee_rpm_per_a: float | None
    rig: str
    at: datetime
    meter: str = ""


@dataclass(frozen=True, slots=True)
class FlywheelTrace:
    """A speed trace as it was typed, inertia in kg·m² and stated speed in rpm."""

    check: str
    trace: str
    inertia_kgm2: float
    at_rpm: float
    at: datetime


@dataclass(frozen=True, slots=True)
class Pictured:
    """A picture of an item: its id, without its pixels."""

    check: str
    id: str
    item: str
    at: datetime


@dataclass(frozen=True, slots=True)
class Recording:
    """A recorded sound of a step: its id and its note, without its samples."""

    check: str
    id: str
    step: str
    note: str
    at: datetime


Finding = (
    Inspected
    | LampsSeen
    | PoleFinding
    | Overruled
    | GuardTrip
    | CrossTried
    | Stepped
    | TimingGoal
    | FlywheelTrace
    | Pictured
    | Recording
)


@dataclass
class Findings:
    """All findings of one motor, each kind oldest first."""

    inspected: list[Inspected] = field(default_factory=list)
    lamps: list[LampsSeen] = field(default_factory=list)
    poles: list[PoleFinding] = field(default_factory=list)
    overruled: list[Overruled] = field(default_factory=list)
    guard_trips: list[GuardTrip] = field(default_factory=list)
    crossed: list[CrossTried] = field(default_factory=list)
    steps: list[Stepped] = field(default_factory=list)
    goals: list[TimingGoal] = field(default_factory=list)
    traces: list[FlywheelTrace] = field(default_factory=list)
    pictures: list[Pictured] = field(default_factory=list)
    recordings: list[Recording] = field(default_factory=list)

    def add(self, finding: Finding) -> None:
        """Put a finding in its place."""
        _PLACES[type(finding)](self).append(finding)


_PLACES: dict[type[Any], Any] = {
    Inspected: lambda f: f.inspected, LampsSeen: lambda f: f.lamps, PoleFinding: lambda f: f.poles,
    Overruled: lambda f: f.overruled, GuardTrip: lambda f: f.guard_trips, Stepped: lambda f: f.steps,
    CrossTried: lambda f: f.crossed,
    TimingGoal: lambda f: f.goals, FlywheelTrace: lambda f: f.traces, Pictured: lambda f: f.pictures,
    Recording: lambda f: f.recordings,
}  # fmt: skip


def with_history(motor: Motor, checks: Sequence[Check], events: Sequence[Event], found: Findings | None) -> History:
    """A history of what was loaded."""
    f = found or Findings()
    studied = tuple(c for c in checks if c.for_study)
    visits = tuple(c for c in checks if not c.for_study) if studied else tuple(checks)
    return History(
        motor,
        visits,
        tuple(events),
        tuple(f.inspected),
        tuple(f.lamps),
        tuple(f.overruled),
        tuple(f.guard_trips),
        tuple(f.poles),
        tuple(f.crossed),
        studied,
    )


_TEXTS, _NUMBERS = 5, 4


def _part(model: Any, *values: Any) -> Any:
    """One kind of finding in the columns that all kinds share: five texts, four numbers."""
    texts = [v for v in values if isinstance(v.type, String)]
    numbers = [v for v in values if not isinstance(v.type, String)]
    texts += [cast(null(), String)] * (_TEXTS - len(texts))
    numbers = [cast(v, Float) for v in numbers] + [cast(null(), Float)] * (_NUMBERS - len(numbers))
    labelled = [v.label(f"t{i}") for i, v in enumerate(texts)] + [v.label(f"n{i}") for i, v in enumerate(numbers)]
    return (
        select(
            literal(model.__tablename__).label("kind"), CheckRow.motor_id, model.check_id, model.at, model.id, *labelled
        )
        .join(CheckRow, CheckRow.id == model.check_id)
        .where(not_undone(model))
    )


def of_motors(session: Session, motor_ids: Sequence[str] | None) -> dict[str, Findings]:
    """All findings of all motors, or of those named, in one statement."""
    named = {} if motor_ids is None else {"ids": json.dumps(list(motor_ids))}
    found: dict[str, Findings] = defaultdict(Findings)
    for kind, motor_id, *row in session.execute(_statement(bool(named)), named):
        found[motor_id].add(_MAKE[kind](*row))
    return found


@lru_cache
def _statement(named: bool) -> Any:
    """All kinds of findings in one table, of all motors or of those in the parameter `ids`; putting it together takes
    longer than running it."""
    i, h, p, s, o = InspectionRow, HallLampsRow, PoleCountRow, StepStateRow, OverruleRow
    g, c, t, f = GuardTripRow, CrossTriedRow, TimingGoalRow, FlywheelTraceRow
    parts = [
        _part(i, i.item, i.state, i.note),
        _part(h, h.kind, h.states, h.turned, h.direction),
        _part(p, p.known_by, p.poles, p.before, cast(p.rebased, Integer)),
        _part(s, s.step, s.state),
        _part(o, o.subject, o.reason),
        _part(g, g.kind, g.detail),
        _part(c, c.own_machine, c.own_bench, c.known_machine, c.known_bench, c.other_cable),
        _part(t, t.rig, t.meter, t.target_a, t.tolerance_a, t.resolution_deg, t.knee_rpm_per_a),
        _part(f, f.trace, f.inertia_kgm2, f.at_rpm),
        _part(PictureRow, PictureRow.item),
        _part(SoundRow, SoundRow.step, SoundRow.note),
    ]
    if named:
        listed = func.json_each(bindparam("ids")).table_valued("value")
        parts = [part.where(CheckRow.motor_id.in_(select(listed.c.value))) for part in parts]
    together = union_all(*parts).subquery()
    return select(together).order_by(together.c.at, together.c.id)


_MAKE: dict[str, Any] = {
    "inspection": lambda c, at, i, item, state, note, *_: Inspected(c, item, Look(state), at, note),
    "hall_lamps": lambda c, at, i, kind, states, turned, _, __, direction, *___: LampsSeen(
        c, HallKind(kind), tuple(states.split()), Turning(turned), int(direction), at
    ),
    "pole_count": lambda c, at, i, by, _, __, ___, ____, poles, before, rebased, *_____: PoleFinding(
        c, _whole(poles), by, _whole(before), at, bool(rebased)
    ),
    "step_state": lambda c, at, i, step, state, *_: Stepped(c, step, StepState(state), at),
    "overrule": lambda c, at, i, subject, reason, *_: Overruled(c, subject, reason, at),
    "guard_trip": lambda c, at, i, kind, detail, *_: GuardTrip(c, GuardKind(kind), detail, at),
    "cross_tried": lambda c, at, i, *ran: CrossTried(
        check=c, at=at, **{n: Ran(r) if r else None for n, r in zip(TRIALS, ran, strict=False)}
    ),
    "timing_goal": lambda c, at, i, rig, meter, _, __, ___, target, tolerance, resolution, knee: TimingGoal(
        c, target, tolerance, resolution, knee, rig, at, meter
    ),
    "flywheel_trace": lambda c, at, i, trace, _, __, ___, ____, inertia, at_rpm, *_____: FlywheelTrace(
        c, trace, inertia, at_rpm, at
    ),
    "picture": lambda c, at, i, item, *_: Pictured(c, i, item, at),
    "sound": lambda c, at, i, step, note, *_: Recording(c, i, step, note, at),
}


def _whole(value: float | None) -> int | None:
    return None if value is None else int(value)


def add(session: Session, found: Sequence[Finding], change_id: str | None) -> None:
    """Store findings, one statement a kind."""
    by_kind: dict[Any, list[dict[str, Any]]] = defaultdict(list)
    for finding in found:
        model, values = _row(finding)
        by_kind[model].append(
            values
            | {
                "id": new_id(),
                "changed_at": clock(),
                "change_id": change_id,
                "check_id": finding.check,
                "at": finding.at,
            }
        )
    for model, rows in by_kind.items():
        session.execute(insert(model), rows)


def _row(f: Finding) -> tuple[Any, dict[str, Any]]:
    if isinstance(f, Inspected):
        return InspectionRow, {"item": f.item, "state": f.state, "note": f.note}
    if isinstance(f, LampsSeen):
        states = " ".join(f.states)
        return HallLampsRow, {"kind": f.kind, "states": states, "turned": f.turned, "direction": f.direction}
    if isinstance(f, PoleFinding):
        return PoleCountRow, {"poles": f.poles, "known_by": f.known_by, "before": f.before, "rebased": f.rebased}
    if isinstance(f, Stepped):
        return StepStateRow, {"step": f.step, "state": f.state}
    if isinstance(f, Overruled):
        return OverruleRow, {"subject": f.subject, "reason": f.reason}
    if isinstance(f, GuardTrip):
        return GuardTripRow, {"kind": f.kind, "detail": f.detail}
    if isinstance(f, CrossTried):
        return CrossTriedRow, {n: f.trials.get(n, "") for n in TRIALS}
    if isinstance(f, TimingGoal):
        return TimingGoalRow, {
            "target_a": f.target_a,
            "tolerance_a": f.tolerance_a,
            "resolution_deg": f.resolution_deg,
            "knee_rpm_per_a": f.knee_rpm_per_a,
            "rig": f.rig,
            "meter": f.meter,
        }
    if isinstance(f, FlywheelTrace):
        return FlywheelTraceRow, {"trace": f.trace, "inertia_kgm2": f.inertia_kgm2, "at_rpm": f.at_rpm}
    raise TypeError(f"a {type(f).__name__} is stored with its file, see pit.bench.pictures and sounds")


SAID = (InspectionRow, HallLampsRow, PoleCountRow, OverruleRow, GuardTripRow, CrossTriedRow)


def said(session: Session, check_ids: Sequence[str]) -> list[OfCheck]:
    """What was found in checks and can be taken back, oldest first."""
    found: list[OfCheck] = []
    for model in SAID:
        found += session.scalars(only(select(model).where(not_undone(model)), model.check_id, list(check_ids)))
    return sorted(found, key=lambda row: (row.at, row.id))


def copy(session: Session, check_id: str, to: str, change_id: str) -> None:
    """Store all that was found in a check again, of another."""
    for model in (*FINDINGS, *ATTACHED):
        rows = session.scalars(select(model).where(model.check_id == check_id, not_undone(model)))
        names = [c.name for c in model.__table__.columns]
        own = {"check_id": to, "change_id": change_id, "changed_at": clock()}
        again = [{n: getattr(row, n) for n in names} | own | {"id": new_id()} for row in rows]
        if again:
            session.execute(insert(model), again)


def take_back(session: Session, check_id: str, change_id: str) -> None:
    """Take back all that was found in a check."""
    for model in (*FINDINGS, *ATTACHED):
        statement = update(model).where(model.check_id == check_id, not_undone(model))
        session.execute(statement.values(withdrawn_by=change_id), execution_options={"synchronize_session": False})


def picture(session: Session, picture_id: str) -> PictureRow | None:
    """One picture."""
    return session.scalar(select(PictureRow).where(PictureRow.id == picture_id, not_undone(PictureRow)))


def sound(session: Session, sound_id: str) -> SoundRow | None:
    """One recorded sound."""
    return session.scalar(select(SoundRow).where(SoundRow.id == sound_id, not_undone(SoundRow)))


def standing_poles(session: Session, check_id: str) -> PoleCountRow | None:
    """The latest pole count of a check."""
    query = select(PoleCountRow).where(PoleCountRow.check_id == check_id, not_undone(PoleCountRow))
    return session.scalar(query.order_by(PoleCountRow.at.desc(), PoleCountRow.id.desc()).limit(1))
