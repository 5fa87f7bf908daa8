"""A check: open it on a motor, take what its steps yield, set runs aside, skip, overrule, re-base.

Every change is one transaction, and the rows it writes carry it. Nothing that was typed is lost: a draft is kept with
every change, and taking it clears it.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import Overruled, PoleFinding
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.poles import kv_rebased
from waldhorn.core.rigs.repeatability import ODD_ONE_OUT
from waldhorn.pit.bench import concurrent_edits, stepper
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps import poles as poles_step
from waldhorn.pit.bench.steps.fields import read_partly
from waldhorn.pit.bench.steps.step import AnyStep, Taken
from waldhorn.pit.bench.words import closed_words
from waldhorn.store import changes, drafts, findings, motors, readings, rigs
from waldhorn.store.models import ChangeKind, CheckRow, MotorRow, ReadingRow, StepState

SPEEDS = ("kv", "rpm", "rpm_p2p")
LONGEST_REASON = 200
CLOSED = "this check is closed: open a new one on the motor's page with C"
_CORRECTING = (ChangeKind.ASIDE, ChangeKind.BACK, ChangeKind.PEAKS_ASIDE, ChangeKind.REBASE)


def open_check(session: Session, motor: MotorRow, now: datetime, plan: str = "quick") -> CheckRow:
    """Open a check on a motor, with the rig of its last one or of anybody's; an open one is gone on with."""
    before = readings.last_check(session, motor.id)
    if before is not None and before.open:
        return before
    return open_another(session, motor, now, plan, first=before is None)


def open_another(session: Session, motor: MotorRow, now: datetime, plan: str, first: bool = False) -> CheckRow:
    """Open a check on a motor whatever lies on the bench; the `first` one of a motor starts with the rig of anybody's
    last."""
    change_id = changes.record(session, ChangeKind.OPEN, now, motor.id)
    check = CheckRow(
        motor_id=motor.id,
        change_id=change_id,
        key=now.isoformat(timespec="microseconds"),
        at=now,
        open=True,
        plan=plan,
        rig="",
        method="",
        motor_c=None,
        ambient_c=None,
        timing_set_deg=None,
        first_spin=None,
        sweep=None,
        caution_confirmed=False,
        compare_c=None,
        lever_unit="",
        lever_mm=None,
        stopped_because="",
    )
    session.add(check)
    session.flush()
    if first and (habit := readings.last_check(session, None, but=check.id)):
        typed = {"rig": habit.rig, "method": habit.method or "loaded-supply"}
        drafts.store_draft(session, check.id, stepper.SETUP.name, None, typed)
    motors.touch(session, [motor.id])
    return check


def change_plan(session: Session, ctx: CheckContext, plan: str) -> None:
    """Follow another list of steps; raises InputError when there is no such list."""
    if not stepper.is_plan(plan):
        raise InputError("plan", f"“{plan}” is no list of steps: {', '.join(stepper.PLAN_WORDS)}, or only one test")
    change_id = _record(session, ctx, ChangeKind.PLAN, detail=plan)
    _revise(session, ctx, change_id, {"plan": plan})


def keep_draft(session: Session, check_id: str, step: str, typed: Mapping[str, str], form: str = "") -> dict[str, str]:
    """Keep what is typed into a step, with the run it was typed for and by which form; a closed check keeps nothing,
    and neither does a form that was taken meanwhile: its draft comes late.

    Returns what is to be said of fields that another form wrote something else into."""
    text = typed.get("run", "")
    run = int(text) if text.isdecimal() and len(text) < 9 else None
    before_run, before = drafts.of_check(session, check_id).get(step, (None, {}))
    taken = before.get(concurrent_edits.TAKEN)
    if form and taken == form:
        return {}
    kept = concurrent_edits.merge_draft(before if before_run == run else {}, _kept(typed), form)
    kept = kept if any(concurrent_edits.typed_in(kept).values()) else {}
    mark = {concurrent_edits.TAKEN: taken} if taken else {}
    drafts.store_draft(session, check_id, step, run, kept | mark)
    return concurrent_edits.typed_elsewhere(kept)


def typed_so_far(session: Session, ctx: CheckContext, step: AnyStep) -> dict[str, Any]:
    """What is typed into a step; what came late, for a run that has been taken since, is let go."""
    run, typed = drafts.of_check(session, ctx.check.id).get(step.name, (None, {}))
    return concurrent_edits.typed_in(typed) if run in (None, step.next_run(ctx)) else {}


def take_step(
    session: Session,
    ctx: CheckContext,
    step: AnyStep,
    typed: Mapping[str, str],
    shown: Mapping[str, str] | None = None,
    form: str = "",
) -> None:
    """Take what was typed into a step whose form, named `form`, was drawn with `shown`; raises InputErrors with a
    sentence a field.

    What was typed for a run that somebody else has taken meanwhile is the next run: two readings, none lost.
    When a third run shows which of three stands apart, that one is set aside, visibly and undoably.
    """
    if step.restates and shown is not None:
        typed = concurrent_edits.merged_or_both(shown, typed, step.habits(ctx))
    take_values(session, ctx, step, _checked(ctx, step, typed), typed)
    if form:
        drafts.store_draft(session, ctx.check.id, step.name, None, {concurrent_edits.TAKEN: form})


def take_values(session: Session, ctx: CheckContext, step: AnyStep, values: Any, typed: Mapping[str, str]) -> None:
    """Take the fields of a step that were found right."""
    run = step.next_run(ctx)
    taken = step.taken(ctx, values, run)
    kind = ChangeKind.SKIP if taken.passes_over else ChangeKind.TAKE
    kind = ChangeKind.SET_UP if step is stepper.SETUP else kind
    change_id = _record(session, ctx, kind, step.name, count=run if taken.readings else 0, typed=_kept(typed))
    store(session, ctx, change_id, taken, again=step)
    drafts.forget(session, ctx.check.id, step.name)
    if taken.readings:
        _set_odd_one_aside(session, ctx, change_id, step, taken)


def _checked(ctx: CheckContext, step: AnyStep, typed: Mapping[str, str]) -> Any:
    """The fields of a step, whole and right; raises InputErrors."""
    names = list(step.fields.asks())
    if not ctx.check.open:
        raise InputErrors({names[-1]: CLOSED})
    if shut := stepper.closed(ctx, step):
        raise InputErrors({"closed": " ".join(closed_words(c) for c in shut)})
    values, wrong = read_partly(step.fields, typed, ctx.notation)
    if wrong := step.refused(ctx, values, wrong):
        raise InputErrors(wrong)
    return values


def store(session: Session, ctx: CheckContext, change_id: str, taken: Taken, again: AnyStep | None = None) -> None:
    """Store what a step, an instrument or a machine's page yields, as a change wrote it."""
    readings.add(session, ((ctx.check.id, r) for r in taken.readings), change_id)
    found = list(taken.findings)
    if again and again.is_skipped(ctx) and not taken.passes_over:
        found.append(ctx.stepped(again.name, StepState.DONE))
    findings.add(session, found, change_id)
    if rig := taken.check.get("rig"):
        taken = replace(taken, check={**taken.check, "rig": rigs.meant(session, rig)})
    changed = {n: v for n, v in taken.check.items() if getattr(ctx.check, n) != v}
    if changed:
        _revise(session, ctx, change_id, changed)
    if taken.motor is not None:
        row = motors.get(session, ctx.motor_id)
        changes.revise(session, change_id, [(row, motors.columns(taken.motor))])


def must_be_open(ctx: CheckContext) -> None:
    """Raises InputError for a check that is closed: it takes nothing more, though what it took can be corrected."""
    if not ctx.check.open:
        raise InputError("closed", CLOSED)


def _record(session: Session, ctx: CheckContext, kind: ChangeKind, step: str = "", **more: Any) -> str:
    if kind not in _CORRECTING:
        must_be_open(ctx)
    return changes.record(session, kind, ctx.now, ctx.motor_id, ctx.check.id, step, **more)


def _revise(session: Session, ctx: CheckContext, change_id: str, values: Mapping[str, Any]) -> None:
    changes.revise(session, change_id, [(readings.check_row(session, ctx.check.id), values)])


def _kept(typed: Mapping[str, str]) -> dict[str, str]:
    return {k: v for k, v in typed.items() if k not in ("run", "step_name")}


def _rows_of(session: Session, ctx: CheckContext, step: AnyStep, run: int) -> list[ReadingRow]:
    rows = readings.of_check(session, ctx.check.id)
    return [r for r in rows if r.run == run and step.owns(readings.to_reading(r))]


def _set_odd_one_aside(session: Session, ctx: CheckContext, change_id: str, step: AnyStep, taken: Taken) -> None:
    """Set the run aside that stands apart from others that agree."""
    after = replace(ctx, history=ctx.with_fresh(taken.readings, (), {}))
    for name, agreement in step.agreement(after).items():
        if agreement.odd is None:
            continue
        quantity = QUANTITIES[name]
        run = step.observations(after, quantity)[agreement.odd].run
        reason = f"{ODD_ONE_OUT}: {quantity.title} stands {agreement.spread:.1f} {quantity.change_unit} from the others"
        _aside(session, change_id, [r for r in _rows_of(session, ctx, step, run) if r.accepted], reason)
        return


def _aside(session: Session, change_id: str, rows: Sequence[ReadingRow], reason: str) -> None:
    changes.revise(session, change_id, [(row, {"accepted": False, "aside_reason": reason}) for row in rows])


def set_aside(session: Session, ctx: CheckContext, step: AnyStep, run: int, reason: str) -> None:
    """Set a run aside with a reason: kept, but judged without; raises InputError when there is no such run."""
    if not reason.strip():
        raise InputError("aside", "say why it is set aside: a slip of the hand, a loose clip")
    rows = [r for r in _rows_of(session, ctx, step, run) if r.accepted]
    if not rows:
        raise InputError("run", f"there is no run {run} to set aside")
    change_id = _record(session, ctx, ChangeKind.ASIDE, step.name, count=run)
    _aside(session, change_id, rows, reason.strip()[:LONGEST_REASON])


def bring_back(session: Session, ctx: CheckContext, step: AnyStep, run: int) -> None:
    """Let a run that was set aside count again; raises InputError when there is none."""
    rows = [r for r in _rows_of(session, ctx, step, run) if not r.accepted]
    if not rows:
        raise InputError("run", f"there is no run {run} set aside")
    change_id = _record(session, ctx, ChangeKind.BACK, step.name, count=run)
    changes.revise(session, change_id, [(row, {"accepted": True, "aside_reason": ""}) for row in rows])


def set_outliers_aside(session: Session, ctx: CheckContext, step: AnyStep) -> None:
    """Set the peaks aside that stand far from the rest of the last run; raises InputError when none does."""
    view = step.view(ctx, step.fields(), [])
    odd = getattr(view, "outliers", ())
    if not odd:
        raise InputError("aside", "no peak stands apart")
    last = max(step.runs(ctx))
    rows = [r for r in _rows_of(session, ctx, step, last) if r.accepted]
    rows.sort(key=lambda r: r.position or 0)
    change_id = _record(session, ctx, ChangeKind.PEAKS_ASIDE, step.name, count=len(odd))
    _aside(session, change_id, [rows[i] for i in odd], "stands apart from the other peaks")


def skip(session: Session, ctx: CheckContext, step: AnyStep) -> None:
    """Pass a step over in this check; it can still be gone back to."""
    change_id = _record(session, ctx, ChangeKind.SKIP, step.name)
    findings.add(session, [ctx.stepped(step.name, StepState.SKIPPED)], change_id)


def stop(session: Session, ctx: CheckContext, reason: str) -> None:
    """Stop the run with a reason: what is left of it is passed over; raises InputError without a reason."""
    if not reason.strip():
        raise InputError("stop", "say why you stop: called to the heat, it smells, rough")
    change_id = _record(session, ctx, ChangeKind.STOP)
    left = [s for s in stepper.planned(ctx)[:-1] if not stepper.finished(ctx, s)]
    findings.add(session, [ctx.stepped(s.name, StepState.SKIPPED) for s in left], change_id)
    _revise(session, ctx, change_id, {"stopped_because": reason.strip()[:LONGEST_REASON]})


def overrule(session: Session, ctx: CheckContext, subject: str, reason: str) -> None:
    """Open powered steps in spite of a finding, with a reason; raises InputError without one."""
    if not reason.strip():
        raise InputError("overrule", "say why: who looked, what was done")
    change_id = _record(session, ctx, ChangeKind.OVERRULE, detail=subject)
    one = Overruled(ctx.check.id, subject, reason.strip()[:LONGEST_REASON], ctx.now)
    findings.add(session, [one], change_id)


def rebase(session: Session, ctx: CheckContext) -> int:
    """Bring the speeds read with another pole setting to the true count; returns how many.

    Raises InputError when no other setting is known.
    """
    offer = poles_step.rebase_offer(ctx)
    known = ctx.poles()
    if offer is None or known is None:
        raise InputError("rebase", "no other pole setting is known of this motor")
    rows = readings.of_motor(session, ctx.motor_id, SPEEDS)
    change_id = _record(session, ctx, ChangeKind.REBASE, "poles", detail=str(offer[1]), count=len(rows))
    changes.revise(session, change_id, [(row, {"value": kv_rebased(row.value, *offer)}) for row in rows])
    done = PoleFinding(ctx.check.id, known.poles, known.known_by, known.before, ctx.now, rebased=True)
    findings.add(session, [done], change_id)
    return len(rows)
