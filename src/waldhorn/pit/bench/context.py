"""The context of a check: the check with its motor, history and findings, and what it is judged by.

Read-only, loaded once a request in a fixed number of statements; the steps see nothing of the store.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from datetime import datetime
from statistics import median
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import FULL_THROTTLE_PCT, Conditions, at_full_throttle
from waldhorn.core.base.history import (
    Check,
    GuardTrip,
    History,
    Inspected,
    LampsSeen,
    Motor,
    Overruled,
    PoleFinding,
    Reading,
)
from waldhorn.core.base.units import AS_STORED, Notation
from waldhorn.core.base.vocabulary import Purpose, Spin, Sweep
from waldhorn.core.judging.verdict import JudgingContext
from waldhorn.pit.judging import view_cache
from waldhorn.pit.judging.judging import judging_contexts
from waldhorn.store import changes, fleet, load_names, motors, pit, readings
from waldhorn.store.findings import Finding, Findings, FlywheelTrace, Pictured, Recording, Stepped, TimingGoal
from waldhorn.store.models import StepState

Fleet = Mapping[str, tuple[Mapping[str, float], float | None]]  # tag to figures and mass


@dataclass(frozen=True, slots=True)
class CheckNow:
    """How a check stands; °C and electrical degrees, None is not noted."""

    id: str
    at: datetime
    open: bool
    plan: str
    rig: str
    method: str
    motor_c: float | None
    ambient_c: float | None
    timing_set_deg: float | None
    first_spin: Spin | None
    sweep: Sweep | None
    caution_confirmed: bool
    compare_c: float | None
    lever_unit: str
    lever_mm: float | None
    stopped_because: str


@dataclass(frozen=True)
class CheckContext:
    """One check with all that belongs to it."""

    motor_id: str
    motor: Motor
    check: CheckNow
    before: CheckNow | None
    history: History
    found: Findings
    judging_context: JudgingContext
    now: datetime
    fleet: Fleet = field(default_factory=dict)
    usual_rig: str = ""  # where nothing was checked before
    notation: Notation = AS_STORED  # how this pit writes numbers
    rig_reads: str = ""  # whose amps this check's rig measures, as its page says
    drill: Mapping[str, str] = field(default_factory=dict)  # what was last typed into Poles today, on whichever motor
    propellers: Sequence[str] = ()  # of the pit, those of its siblings first; and packs
    packs: Sequence[str] = ()
    with_fleet: bool = False  # whether fleet, drill, propellers and packs were looked for

    @property
    def mine(self) -> Check:
        """This check as the judge sees it."""
        return self.history.check(self.check.id) or Check(self.check.id, self.check.at, ())

    @property
    def readings(self) -> tuple[Reading, ...]:
        """The readings of this check, those set aside among them."""
        return self.mine.readings

    def own_history(self) -> History:
        """A history of this check alone, with what happened to the motor."""
        return History(self.motor, (self.mine,), self.history.events)

    def repeatability(self, quantity: str) -> float:
        """What the runs of a visit repeat to on this check's rig, one standard deviation, change unit."""
        return self.judging_context.repeatability(self.check.rig, quantity).run

    def conditions(self, **more: Any) -> Conditions:
        """The conditions of this check, with those of a step."""
        check = self.check
        return Conditions(
            **{
                "rig": check.rig,
                "motor_c": check.motor_c,
                "ambient_c": check.ambient_c,
                "timing_set_deg": check.timing_set_deg,
            }
            | more
        )

    def reading(
        self,
        measure: str,
        value: float,
        run: int = 1,
        purpose: Purpose = Purpose.STANDARD,
        angle_deg: float | None = None,
        position: int | None = None,
        note: str = "",
        **more: Any,
    ) -> Reading:
        """A reading taken now, under the conditions of this check."""
        under = self.conditions(**more)
        return Reading(measure, float(value), self.now, run, under, purpose, True, angle_deg, position, note)

    def powered(self, measure: str, value: float, run: int, pct: float = FULL_THROTTLE_PCT, **more: Any) -> Reading:
        """A reading under power, taken the way this check takes KV."""
        return self.reading(measure, value, run, throttle_pct=pct, method=self.check.method, **more)

    def supply_v(self) -> float | None:
        """The volts at the motor at full throttle, as read in this check."""
        read = [
            r.value
            for r in self.readings
            if r.measure == "supply_volts"
            and r.accepted
            and r.purpose is Purpose.STANDARD
            and at_full_throttle(r.conditions)
        ]
        return median(read) if read else None

    def winding_ohm(self) -> float | None:
        """Winding resistance between two leads in Ω, the median of all that was read."""
        read = [
            r.value / 1000
            for c in self.history.checks
            for r in c.readings
            if r.measure.startswith("winding_resistance_") and r.accepted
        ]
        return median(read) if read else None

    # what was found in this check

    def inspected(self) -> dict[str, Inspected]:
        """The latest finding of each item."""
        return {f.item: f for f in self.found.inspected if f.check == self.check.id}

    def step_states(self) -> dict[str, StepState]:
        """The latest state of each step."""
        return {f.step: f.state for f in self.found.steps if f.check == self.check.id}

    def lamps(self) -> LampsSeen | None:
        """The latest lamps."""
        return next((f for f in reversed(self.found.lamps) if f.check == self.check.id), None)

    def poles(self) -> PoleFinding | None:
        """The latest pole count."""
        return next((f for f in reversed(self.found.poles) if f.check == self.check.id), None)

    def goal(self) -> TimingGoal | None:
        """The latest goal of the timing."""
        return next((f for f in reversed(self.found.goals) if f.check == self.check.id), None)

    def trace(self) -> FlywheelTrace | None:
        """The latest flywheel trace."""
        return next((f for f in reversed(self.found.traces) if f.check == self.check.id), None)

    def guard_trips(self) -> list[GuardTrip]:
        """Why live runs of this check were stopped."""
        return [f for f in self.found.guard_trips if f.check == self.check.id]

    def pictures(self) -> list[Pictured]:
        """The pictures of this check."""
        return [f for f in self.found.pictures if f.check == self.check.id]

    def recordings(self, step: str) -> list[Recording]:
        """The sounds of a step, of all its checks, oldest first."""
        return [f for f in self.found.recordings if f.step == step]

    @property
    def is_empty(self) -> bool:
        """Whether nothing was read or found in this check."""
        f = self.found
        found: tuple[Any, ...] = (
            *f.inspected,
            *f.lamps,
            *f.poles,
            *f.crossed,
            *f.guard_trips,
            *f.traces,
            *f.recordings,
        )
        return not self.readings and self.check.first_spin is None and not any(x.check == self.check.id for x in found)

    def is_overruled(self, subject: str) -> bool:
        """Whether a finding of this check was overruled."""
        return any(f.subject == subject for f in self.found.overruled if f.check == self.check.id)

    def with_fresh(self, fresh: Iterable[Reading], found: Sequence[Finding], state: Mapping[str, Any]) -> History:
        """The history with readings and findings that are typed but not taken yet."""
        mine = self.mine
        spin, sweep = state.get("first_spin", mine.first_spin), state.get("sweep", mine.sweep)
        added = replace(mine, readings=(*mine.readings, *fresh), first_spin=spin, sweep=sweep)
        h = self.history.with_check(added)
        return replace(
            h,
            inspected=(*h.inspected, *(f for f in found if isinstance(f, Inspected))),
            lamps=(*h.lamps, *(f for f in found if isinstance(f, LampsSeen))),
            overruled=(*h.overruled, *(f for f in found if isinstance(f, Overruled))),
            poles=(*h.poles, *(f for f in found if isinstance(f, PoleFinding))),
        )

    def stepped(self, step: str, state: StepState) -> Stepped:
        """The finding that a step is done or passed over."""
        return Stepped(self.check.id, step, state, self.now)


_STATE = tuple(f.name for f in fields(CheckNow))


def _drill(session: Session, today: datetime) -> Mapping[str, str]:
    """What was typed of the drill last today: a reference motor beside another, or one that was read alone."""
    typed, motor_id = changes.typed_lately(session, "poles", today)
    alone = typed.get("frequency_hz") and not any(typed.get(n) for n in ("reference_hz", "shaft_rpm", "counted"))
    known = motors.several(session, [motor_id]).get(motor_id) if alone and motor_id else None
    if known is None or not known.poles:
        return typed
    return {"reference_hz": typed["frequency_hz"], "reference_poles": str(known.poles)}


def load(
    session: Session,
    check_id: str,
    now: datetime,
    judging_context: JudgingContext | None = None,
    with_fleet: bool = False,
) -> CheckContext | None:
    """Load the context of a check, or None when there is no such check; `judging_context` is
    used again where it is known."""
    loaded = readings.of_bench(session, check_id)
    if loaded is None:
        return None
    motor_id, history, found, rows, rig_reads = loaded
    states = [_check_now(row) for row in rows]
    place = next(i for i, s in enumerate(states) if s.id == check_id)
    known = judging_context or judging_contexts(session, {motor_id: history.motor}, now)[motor_id]
    figures = fleet.figures(session, history.motor.motor_class) if with_fleet else {}
    before = states[place - 1] if place else None
    here = pit.load(session)
    today = now.replace(hour=0, minute=0, second=0, microsecond=0)
    drill = _drill(session, today) if with_fleet else {}
    return CheckContext(
        motor_id,
        history.motor,
        states[place],
        before,
        history,
        found,
        known,
        now,
        figures,
        here.rig if before is None else "",
        here.notation,
        rig_reads,
        drill,
        load_names.offered(session, history.motor.model, "on_shaft") if with_fleet else (),
        load_names.offered(session, history.motor.model, "pack") if with_fleet else (),
        with_fleet,
    )


def _check_now(row: Any) -> CheckNow:
    values = {name: getattr(row, name) for name in _STATE}
    spin, sweep = values["first_spin"], values["sweep"]
    typed = {"first_spin": Spin(spin) if spin else None, "sweep": Sweep(sweep) if sweep else None}
    return CheckNow(**(values | typed))


def at_bench(session: Session, check_id: str, now: datetime, with_fleet: bool = False) -> CheckContext | None:
    """What `load` says of a check now, from a session that only looks.

    A key that is pressed changes a draft and nothing else: what was read before is read once.
    """
    found = view_cache.until_changed_or_tomorrow(
        session,
        now,
        ("check", check_id, with_fleet),
        lambda: load(session, check_id, now, with_fleet=with_fleet),
        lambda ctx: ctx.history if ctx else None,
    )
    return replace(found, now=now) if found else None
