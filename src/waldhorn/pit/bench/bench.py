"""The bench as a page asks for it, one call a request: find the check, do the one thing that was asked, and answer with
everything there is to draw and to say. What a check stores is `checks`, what a step shows is `view`."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, NotThere
from waldhorn.core.judging.verdict import Judgement, judge
from waldhorn.instruments.run_control import Heard
from waldhorn.pit.bench import checks, signing, sounds, stepper, taking, typed_not_taken, undoing
from waldhorn.pit.bench.context import CheckContext, at_bench, load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.view import BenchView, view
from waldhorn.pit.judging import judging
from waldhorn.pit.writing import Store, Writing, changing
from waldhorn.store import cached_verdicts, changes, readings

Command = Callable[[Session, CheckContext], object]
LONGEST_TYPED = 60_000  # of one field: a pasted trace


def look(
    store: Store, check_id: str, now: datetime, wanted: str = "", undone: bool = False, watching: bool = False
) -> BenchView:
    """The bench as it stands, at the step that is `wanted` or is next, or for one who is only `watching` at the one
    that was worked on last; `undone` asks for what was undone last.

    Raises NotThere.
    """
    with store.reading() as session:
        ctx = _found(at_bench(session, check_id, now, _wants_fleet(wanted)))
        last = changes.last(session, ctx.motor_id) if watching and not wanted else None
        shown = _view(session, ctx, last.step if last else wanted)
        return replace(shown, undone=changes.last(session, ctx.motor_id, undone=True)) if undone else shown


def look_at_all(store: Store, check_id: str, now: datetime) -> list[BenchView]:
    """The bench at each step of a check, in the order of the wire and then on demand; raises NotThere."""
    with store.reading() as session:
        ctx = _found(at_bench(session, check_id, now, with_fleet=True))
        judged = judge(ctx.history, now, ctx.judging_context)
        first = _view(session, ctx, "", judged)
        names = [b.step.name for b in first.beads] + [s.name for s in first.on_demand]
        return [_view(session, ctx, name, judged) for name in names]


def context(store: Store, check_id: str, now: datetime) -> CheckContext:
    """Everything known of a check; raises NotThere."""
    with store.reading() as session:
        return _found(at_bench(session, check_id, now))


def keep_typing(store: Store, by: Writing, check_id: str, step: str, typed: Mapping[str, str], form: str) -> BenchView:
    """Keep what is typed into a step, and say what it means; raises NotThere."""
    cut = {name: value[:LONGEST_TYPED] for name, value in typed.items()}
    with store.writing(by) as session:
        elsewhere = checks.keep_draft(session, check_id, step, cut, form)
    with store.reading() as session:
        ctx = _found(at_bench(session, check_id, by.at, _wants_fleet(step)))
        late = typed.get("run") not in (None, str(STEPS[step].next_run(ctx)))
        mine = checks.typed_so_far(session, ctx, STEPS[step]) if late else {n: v for n, v in cut.items() if n != "run"}
    shown = view(ctx, mine, step)
    return replace(shown, wrong=elsewhere | dict(shown.wrong), both_typed=bool(elsewhere))


def carry_out(store: Store, by: Writing, check_id: str, step: str, command: Command) -> BenchView | None:
    """Do one thing to a check and answer with the bench after it: still at that step while it wants more, else at the
    next; None where the check is gone. What is still being written is judged at once, and moves no other motor.

    Raises NotThere, and what the command raises: InputError, InputErrors.
    """
    with changing(store, by) as session:
        ctx = _found(load(session, check_id, by.at, with_fleet=_wants_fleet(step)))
        command(session, ctx)
        after = load(session, check_id, by.at, ctx.judging_context)
        if after is None:
            return None
        judged = judging.judge_and_cache(session, after.motor_id, after.history, after.judging_context, by.at)
        return _view(session, after, _step_after(after, step), judged)


def carry_out_for_all(store: Store, by: Writing, check_id: str, step: str, command: Command) -> BenchView:
    """The same for what changes more than this check: whatever leans on the motor is judged again too."""
    with changing(store, by) as session:
        command(session, _found(load(session, check_id, by.at, with_fleet=_wants_fleet(step))))
    ctx = context(store, check_id, by.at)
    return look(store, check_id, by.at, _step_after(ctx, step))


def take_heard(store: Store, by: Writing, check_id: str, heard: Heard) -> str:
    """Store what an instrument yielded; returns in words what was taken."""
    with changing(store, by) as session:
        ctx = load(session, check_id, by.at)
        if ctx is None or not ctx.check.open:
            return "This check is closed: nothing was taken."
        try:
            words = taking.take_heard(session, ctx, heard)
        except InputError as refused:
            return f"Not taken: {refused.sentence}."
        if after := load(session, check_id, by.at, ctx.judging_context):
            judging.judge_and_cache(session, after.motor_id, after.history, after.judging_context, by.at)
    return words


def undo(store: Store, by: Writing, check_id: str, change: str) -> tuple[str, str, BenchView | None]:
    """Undo the change that is named, the last where none is: what it was, the motor's tag, and the bench after it; None
    where the check was never opened then. Raises NotThere, InputError."""
    with changing(store, by) as session:
        ctx = _found(load(session, check_id, by.at))
        words = undoing.undo(session, ctx.motor_id, by.at, change)
        there = readings.check(session, check_id) is not None
    return words, ctx.motor.tag, look(store, check_id, by.at) if there else None


def sign(store: Store, by: Writing, check_id: str, typed: Mapping[str, str]) -> str:
    """Sign the answer and close the check; returns the motor's tag. Raises NotThere, InputError, InputErrors."""
    with changing(store, by) as session:
        ctx = _found(load(session, check_id, by.at))
        signing.sign(session, ctx, judge(ctx.history, by.at, ctx.judging_context), typed)
    return ctx.motor.tag


def hang_back(store: Store, by: Writing, check_id: str) -> str:
    """Close the check without a signature; returns the motor's tag. Raises NotThere, InputError."""
    with changing(store, by) as session:
        ctx = _found(load(session, check_id, by.at))
        signing.hang_back(session, ctx)
    return ctx.motor.tag


def _found(ctx: CheckContext | None) -> CheckContext:
    if ctx is None:
        raise NotThere("There is no such check.")
    return ctx


def _wants_fleet(step: str) -> bool:
    return step in STEPS and STEPS[step].wants_fleet


def _step_after(ctx: CheckContext, done: str) -> str:
    step = STEPS.get(done)
    goes_on = step is not None and (step.stays or not stepper.finished(ctx, step))
    return done if goes_on else ""


def _view(session: Session, ctx: CheckContext, wanted: str, judged: Judgement | None = None) -> BenchView:
    step = stepper.next_step(ctx, wanted)
    if step.wants_fleet and not ctx.with_fleet:
        ctx = _found(load(session, ctx.check.id, ctx.now, ctx.judging_context, with_fleet=True))
    typed = checks.typed_so_far(session, ctx, step) if ctx.check.open else {}
    return replace(
        view(ctx, typed, step.name, judged),
        last=changes.last(session, ctx.motor_id),
        heard=sounds.heard(session, ctx, step.name) if step.heard else sounds.Heard(),
        signer=cached_verdicts.who_signs(session) if step is stepper.ANSWER else "",
        typed_not_taken=typed_not_taken.of_check(session, ctx) if step is stepper.ANSWER and ctx.check.open else (),
    )
