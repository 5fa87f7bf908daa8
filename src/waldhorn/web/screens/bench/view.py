"""What the routes of the bench share: who asks, doing one thing to a check, drawing the bench after it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Annotated, Any

from fastapi import Depends, Path, Request
from fastapi.responses import Response

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.pit.bench import bench, signing, stepper
from waldhorn.pit.bench.concurrent_edits import BothChanged
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.step import AnyStep
from waldhorn.pit.bench.view import BenchView
from waldhorn.pit.bench.words import change_words
from waldhorn.pit.writing import Store, Writing
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, StoreOf, announce, go, is_htmx, missing, page
from waldhorn.web.drawing.curves import drawn_curve
from waldhorn.web.drawing.evidence_figures import figures_of
from waldhorn.web.drawing.marks import drawn_marks
from waldhorn.web.drawing.motor import draw
from waldhorn.web.drawing.strips import strip

CheckId = Annotated[str, Path(max_length=40)]
RunNumber = Annotated[int, Path(ge=1, le=1_000_000)]
MOST_STRIPS = 6


@dataclass(frozen=True)
class RequestContext:
    """Who asks and when: what every change on a check needs of its request."""

    request: Request
    store: Store
    by: Writing
    check_id: str

    @property
    def now(self) -> datetime:
        """When it is asked."""
        return self.by.at


def asked(request: Request, store: StoreOf, by: By, check_id: CheckId) -> RequestContext:
    """Who asks, and when."""
    return RequestContext(request, store, by, check_id)


Asked = Annotated[RequestContext, Depends(asked)]


def step_named(name: str) -> AnyStep:
    """A step by its name, or a page that says there is none."""
    if name not in STEPS:
        raise missing(f"There is no step {name[:40]}.")
    return STEPS[name]


def carry_out(
    asked: RequestContext, command: bench.Command, step: str, typed: Mapping[str, str], for_all: bool = False
) -> Response:
    """Do one thing to a check and draw the bench again, or say what is wrong with what was typed kept; see
    `bench.carry_out`."""
    try:
        return carried_out(asked, command, step, for_all)
    except (InputError, InputErrors) as error:
        return refused(asked, error, step, typed)


def carried_out(asked: RequestContext, command: bench.Command, step: str, for_all: bool = False) -> Response:
    """The bench drawn after something was done, or the way to it for a browser without htmx; raises what the command
    raises."""
    do = bench.carry_out_for_all if for_all else bench.carry_out
    shown = do(asked.store, asked.by, asked.check_id, step, command)
    if shown is None:
        return go(asked.request, "/")
    if not is_htmx(asked.request):
        return go(asked.request, address("checks", asked.check_id, step=shown.step.name))
    done = f"{change_words(shown.last).capitalize()}." if shown.last else ""
    return announce(
        page(asked.request, "bench/_bench.html", **values(shown)),
        f"{done} Now: {shown.step.title}. {shown.judgement.headline}",
        done,
        shown.last.id if shown.last else "",
    )


def refused(asked: RequestContext, error: InputError | InputErrors, step: str, typed: Mapping[str, str]) -> Response:
    """The bench with what is wrong beside its field, and what was typed kept."""
    wrong = error.by_field if isinstance(error, InputErrors) else {error.field: error.sentence}
    again = error.fields if isinstance(error, BothChanged) else typed
    found = bench.look(asked.store, asked.check_id, asked.now, step)
    shown = replace(found, typed={**found.typed, **again}, wrong={**found.wrong, **wrong})
    template = "bench/_bench.html" if is_htmx(asked.request) else "bench/check.html"
    return announce(page(asked.request, template, 422, **values(shown)), " ".join(wrong.values()))


def values(shown: BenchView) -> dict[str, Any]:
    """What the bench's templates ask for of a view."""
    ctx, judged = shown.ctx, shown.judgement
    pictures = ctx.pictures()
    return {
        "bench": shown,
        "ctx": ctx,
        "motor": ctx.motor,
        "check": ctx.check,
        "judgement": judged,
        "view": shown.view,
        "typed": shown.typed,
        "wrong": shown.wrong,
        "figures": [*shown.view.figures, *figures_of(shown.shown, judged.evidence)],
        "strips": [(e, strip(e)) for e in (shown.shown or judged.evidence) if e.now is not None or shown.shown][
            :MOST_STRIPS
        ],
        "drawing": draw(ctx.motor, judged.evidence, marks=drawn_marks(shown.marks, ctx)),
        "curve": drawn_curve(shown.curve) if shown.curve else None,
        "heard_curve": drawn_curve(shown.heard.curve) if shown.heard.curve else None,
        "plans": stepper.PLAN_WORDS,
        "pictures": pictures,
        "pictures_of": {ITEMS[p.item].part: p.id for p in pictures if p.item in ITEMS},
        "verdicts": signing.VERDICTS,
    }
