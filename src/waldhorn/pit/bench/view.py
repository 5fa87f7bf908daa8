"""What the bench screen shows: the step that is next, what it has to show, and the live meaning of what is typed.

What is being typed is judged together with what was taken, before anything is stored.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from waldhorn.core.base.history import Reading
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.verdict import Judgement, judge
from waldhorn.pit.bench import stepper
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.sounds import Heard
from waldhorn.pit.bench.stepper import Closed
from waldhorn.pit.bench.steps.fields import read_partly
from waldhorn.pit.bench.steps.step import AnyStep, Curve, Marks, Taken, View
from waldhorn.pit.bench.typed_not_taken import TypedNotTaken
from waldhorn.store.models import ChangeRow


@dataclass(frozen=True)
class Bead:
    """A step on the wire: what it has to show, and whether it was skipped."""

    step: AnyStep
    said: str
    skipped: bool


@dataclass(frozen=True)
class BenchView:
    """Everything the bench screen draws: `on_demand` are the steps the plan has not, `last` and `undone` are what
    was done to the motor last and undone last, `signer` who usually signs; `both_typed` whether another form has typed
    something else into a field of this step, `heard` what was recorded in it; `typed_not_taken` is there at the
    answer; `usual` is what stands in a field before anything is typed, `offers` what is offered in it."""

    ctx: CheckContext
    step: AnyStep
    run: int
    beads: list[Bead]
    typed: Mapping[str, Any]
    wrong: Mapping[str, str]
    view: View
    marks: Marks
    curve: Curve | None
    judgement: Judgement
    shown: list[Evidence]
    closed: list[Closed]
    hold_s: int
    suggested: AnyStep | None
    stands: Mapping[str, str]
    plan_words: str
    on_demand: list[AnyStep]
    runs: Mapping[int, Sequence[Reading]]
    last: ChangeRow | None = None
    undone: ChangeRow | None = None
    signer: str = ""
    both_typed: bool = False
    heard: Heard = field(default_factory=Heard)
    typed_not_taken: Sequence[TypedNotTaken] = ()
    usual: Mapping[str, str] = field(default_factory=dict)
    offers: Mapping[str, Sequence[str]] = field(default_factory=dict)
    as_before: Mapping[str, str] = field(default_factory=dict)


def view(ctx: CheckContext, typed: Mapping[str, Any], wanted: str = "", judged: Judgement | None = None) -> BenchView:
    """The bench as it stands, with what is typed so far; `judged` is the judgement of what is taken, where known."""
    step = stepper.next_step(ctx, wanted)
    habits = {n: a.habit for n, a in step.fields.asks().items() if a.habit} | step.habits(ctx)
    values, wrong = (
        read_partly(step.fields, habits | dict(typed), ctx.notation) if ctx.check.open else (step.fields(), {})
    )
    taken = step.taken(ctx, values, step.next_run(ctx)) if typed and not wrong else Taken()
    history = ctx.with_fresh(taken.readings, taken.findings, taken.check)
    fresh = bool(taken.readings or taken.findings or taken.check)
    judgement = judge(history, ctx.now, ctx.judging_context) if fresh or judged is None else judged
    shown = step.view(ctx, values, taken.readings)
    if taken.readings:
        wrong = wrong | {k: v for k, v in step.missing(ctx, values).items() if typed.get(k)}
    beads = [Bead(s, s.summary(ctx), s.is_skipped(ctx)) for s in stepper.planned(ctx)]
    return BenchView(
        ctx,
        step,
        step.next_run(ctx),
        beads,
        habits | dict(typed),
        wrong,
        shown,
        marks_of(ctx, step, shown),
        step.curve(shown),
        judgement,
        stepper.evidence_of(step, judgement),
        stepper.closed(ctx, step),
        round(step.hold_s * stepper.hold_share(ctx)),
        stepper.suggested(ctx, judgement),
        step.habits(ctx) if step.restates else {},
        stepper.plan_words(ctx.check.plan),
        [s for s in stepper.TESTS.values() if s.applies(ctx.motor) and s not in [b.step for b in beads]],
        step.runs(ctx),
        usual=habits,
        offers=step.offers(ctx),
        as_before={n: v for n, v in step.as_before(ctx).items() if not typed.get(n)},
    )


def marks_of(ctx: CheckContext, step: AnyStep, shown: View) -> Marks:
    """What all steps together put on the drawing, the one at hand with what is typed."""
    found = Marks()
    for other in stepper.TESTS.values():
        mine = other.marks(ctx, shown if other is step else None)
        given = {n: v for n, v in vars(mine).items() if v not in (None, (), [], "", {})}
        found = replace(found, **given)
    return found
