"""What the routes of the bench share: finding a check, doing one thing to it, drawing it again."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any

from fastapi import Depends, Path, Request
from fastapi.responses import Response
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import Refusals, Refused
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.pit.bench import checks, stepper
from waldhorn.pit.bench import view as pit
from waldhorn.pit.bench.concurrent_edits import BothChanged
from waldhorn.pit.bench.context import CheckContext, load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.step import AnyStep
from waldhorn.pit.bench.words import act_words
from waldhorn.pit.judging import judging
from waldhorn.pit.motors import signing
from waldhorn.store import acts, standings
from waldhorn.store.engine import Store
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import Now, StoreOf, announce, go, is_htmx, missing, page
from waldhorn.web.drawing.curves import drawn_curve
from waldhorn.web.drawing.evidence_figures import figures_of
from waldhorn.web.drawing.marks import drawn_marks
from waldhorn.web.drawing.motor import draw
from waldhorn.web.drawing.strips import strip

CheckId = Annotated[str, Path(max_length=40)]
RunNumber = Annotated[int, Path(ge=1, le=1_000_000)]
Doing = Callable[[Session, CheckContext], object]
MOST_STRIPS = 6


@dataclass(frozen=True)
class Seat:
    """Who asks and when: what every act on a check needs of its request."""

    request: Request
    store: Store
    now: datetime
    check_id: str


def seat(request: Request, store: StoreOf, now: Now, check_id: CheckId) -> Seat:
    """Who asks, and when."""
    return Seat(request, store, now, check_id)


Seated = Annotated[Seat, Depends(seat)]


def context_of(
    session: Session, check_id: str, now: datetime, step: str = "", load: Callable[..., CheckContext | None] = load
) -> CheckContext:
    """The context of a check, or a page that says there is none; a session that only looks may `load` it by
    `looking.at_bench`."""
    wants_fleet = step in STEPS and STEPS[step].wants_fleet
    ctx = load(session, check_id, now, with_fleet=wants_fleet)
    if ctx is None:
        raise missing("There is no such check.")
    return ctx


def step_named(name: str) -> AnyStep:
    """A step by its name, or a page that says there is none."""
    if name not in STEPS:
        raise missing(f"There is no step {name[:40]}.")
    return STEPS[name]


def act(seat: Seat, what: Doing, step: str, typed: Mapping[str, str], settle: bool = False) -> Response:
    """Do one thing to a check and draw the bench again, or say what is wrong with what was typed kept.

    `settle` judges again whatever leans on this motor; else only the motor itself is.
    """
    try:
        with seat.store.writing() as session:
            ctx = context_of(session, seat.check_id, seat.now, step)
            what(session, ctx)
            shown = _after(session, ctx, step, settle)
    except Refusals as refusals:
        shown_again = refusals.fields if isinstance(refusals, BothChanged) else typed
        return refused(seat, refusals.by_field, step, shown_again)
    except Refused as error:
        return refused(seat, {error.field: error.sentence}, step, typed)
    return drawn(seat, shown)


def _after(session: Session, ctx: CheckContext, done: str, settle: bool) -> dict[str, Any] | None:
    """The bench after something was done: still at that step while it wants more, else at the next."""
    after = load(session, ctx.check.id, ctx.now, None if settle else ctx.terms)
    judged: Judgement | None = None
    if settle:
        judging.settle(session, ctx.now)
    if after is None:
        return None
    if not settle:
        judged = judging.stand(session, after.motor_id, after.history, after.terms, ctx.now)
    return values(session, after, step_after(after, done), judged)


def step_after(ctx: CheckContext, done: str) -> str:
    """The step to draw after one was done: it again while it wants more, else whatever is next."""
    step = STEPS.get(done)
    goes_on = step is not None and (step.stays or not stepper.finished(ctx, step))
    return done if goes_on else ""


def drawn(seat: Seat, shown: dict[str, Any] | None) -> Response:
    """The bench drawn after an act, or the way to it for a browser without htmx."""
    if shown is None:
        return go(seat.request, "/")
    if not is_htmx(seat.request):
        return go(seat.request, address("checks", seat.check_id, step=shown["bench"].step.name))
    done = f"{act_words(shown['last_act']).capitalize()}." if shown["last_act"] else ""
    answer = page(seat.request, "bench/_bench.html", **shown)
    return announce(
        answer,
        f"{done} Now: {shown['bench'].step.title}. {shown['judgement'].headline}",
        done,
        shown["last_act"].id if done else "",
    )


def refused(seat: Seat, wrong: Mapping[str, str], step: str, typed: Mapping[str, str]) -> Response:
    """The bench with what is wrong beside its field, and what was typed kept."""
    with seat.store.reading() as session:
        shown = values(session, context_of(session, seat.check_id, seat.now, step), step)
        shown |= {"typed": {**shown["typed"], **typed}, "wrong": {**shown["wrong"], **wrong}}
    answer = page(seat.request, "bench/_bench.html" if is_htmx(seat.request) else "bench/check.html", 422, **shown)
    return announce(answer, " ".join(wrong.values()))


def values(session: Session, ctx: CheckContext, wanted: str, judged: Judgement | None = None) -> dict[str, Any]:
    """Everything the bench's templates ask for."""
    step = stepper.next_step(ctx, wanted)
    typed = checks.typed_so_far(session, ctx, step) if ctx.check.open else {}
    bench = pit.view(ctx, typed, step.name, judged)
    return drawn_values(bench) | {
        "last_act": acts.last(session, ctx.motor_id),
        "signer": standings.who_signs(session) if step is stepper.ANSWER else "",
    }


def drawn_values(bench: pit.BenchView) -> dict[str, Any]:
    """What the bench's templates ask for of a view."""
    ctx, judged, step = bench.ctx, bench.judgement, bench.step
    pictures = ctx.pictures()
    beads = {b.step.name for b in bench.beads}
    return {
        "bench": bench,
        "ctx": ctx,
        "motor": ctx.motor,
        "check": ctx.check,
        "judgement": judged,
        "view": bench.view,
        "typed": bench.typed,
        "wrong": bench.wrong,
        "figures": [*bench.view.figures, *figures_of(bench.shown, judged.evidence)],
        "strips": [(e, strip(e)) for e in (bench.shown or judged.evidence) if e.now is not None or bench.shown][
            :MOST_STRIPS
        ],
        "drawing": draw(ctx.motor, judged.evidence, marks=drawn_marks(bench.marks, ctx)),
        "curve": drawn_curve(bench.curve) if bench.curve else None,
        "plans": stepper.PLAN_WORDS,
        "plan_words": stepper.plan_words(ctx.check.plan),
        "on_demand": [s for s in stepper.TESTS.values() if s.applies(ctx.motor) and s.name not in beads],
        "runs": step.runs(ctx),
        "pictures": pictures,
        "pictures_of": {ITEMS[p.item].part: p.id for p in pictures if p.item in ITEMS},
        "verdicts": signing.VERDICTS,
        "last_act": None,
        "signer": "",
    }
