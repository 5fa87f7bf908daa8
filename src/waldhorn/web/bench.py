"""What the routes of the bench share: finding a check, doing one thing to it, drawing it again."""

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import Path, Request
from fastapi.responses import Response
from sqlalchemy.orm import Session

from waldhorn.core.errors import Refusals, Refused
from waldhorn.core.inspection import ITEMS
from waldhorn.pit import bench as pit
from waldhorn.pit import run as flow
from waldhorn.pit import signing
from waldhorn.pit.desk import Desk, lay_out
from waldhorn.pit.panels.detent import strength_figures
from waldhorn.pit.panels.poles import rebase_offer
from waldhorn.pit.run import ON_DEMAND, PLAN_WORDS, STEPS, plan_words
from waldhorn.pit.steps import METHOD_WORDS
from waldhorn.store import findings, readings
from waldhorn.store.models import CheckRow, MotorRow
from waldhorn.store.motors import to_motor
from waldhorn.web.curves import curve_of
from waldhorn.web.drawing import draw
from waldhorn.web.evidence_figures import of_evidence
from waldhorn.web.marks import marks_of
from waldhorn.web.pages import go, is_htmx, missing, page
from waldhorn.web.strips import strip

CheckId = Annotated[int, Path(ge=1, lt=2**53)]
RunNumber = Annotated[int, Path(ge=1, le=1_000_000)]


def found(session: Session, check_id: int) -> tuple[CheckRow, MotorRow]:
    """A check with its motor, or a page that says there is none."""
    known = readings.check(session, check_id)
    if known is None:
        raise missing("There is no such check.")
    return known


def desk_of(session: Session, check_id: int, now: Any) -> Desk:
    """A check laid out."""
    return lay_out(session, *found(session, check_id), now)


def act(
    request: Request, store: Any, now: Any, check_id: int, what: Callable[[Desk], object], step: str,
    typed: dict[str, str],
) -> Response:  # fmt: skip
    """Do one thing to a check and draw the bench again, or say what is wrong with what was typed kept."""
    try:
        with store.writing() as session:
            what(desk_of(session, check_id, now))
    except Refusals as refusals:
        return refused(request, store, now, check_id, refusals.by_field, step, typed)
    except Refused as error:
        return refused(request, store, now, check_id, {error.field: error.sentence}, step, typed)
    return answer(request, store, now, check_id, step)


def answer(request: Request, store: Any, now: Any, check_id: int, done: str = "") -> Response:
    """The bench drawn again after something was done: still at that step while it wants more, else at the next."""
    with store.reading() as session:
        desk = desk_of(session, check_id, now)
        goes_on = done in STEPS and (STEPS[done].stays or not flow.finished(desk, STEPS[done]))
        step = done if goes_on else ""
        if not is_htmx(request):
            return go(request, f"/checks/{check_id}" + (f"?step={step}" if step else ""))
        return page(request, "_bench.html", **values(session, check_id, now, step))


def refused(
    request: Request, store: Any, now: Any, check_id: int, wrong: dict[str, str], step: str, typed: dict[str, str]
) -> Response:
    """The bench with what is wrong beside its field, and what was typed kept."""
    with store.reading() as session:
        shown = values(session, check_id, now, step)
        shown |= {"typed": shown["typed"] | typed, "wrong": shown["wrong"] | wrong}
        return page(request, "_bench.html" if is_htmx(request) else "check.html", 422, **shown)


def values(session: Session, check_id: int, now: Any, step: str) -> dict[str, Any]:
    """Everything the bench's templates ask for."""
    check, motor = found(session, check_id)
    bench = pit.look(session, check, motor, now, step)
    judged = bench.judgement
    facts = to_motor(motor)
    by_name = {e.quantity.name: e for e in judged.evidence}
    figures = list(bench.view.figures) + (strength_figures(by_name) if bench.step.name == "detent" else [])
    figures += [f for e in bench.shown for f in of_evidence(e)]
    pictures = [p for p in findings.pictures(session, motor.id) if p[1] == check_id]
    return {
        "bench": bench,
        "motor": motor,
        "check": check,
        "judgement": judged,
        "typed": bench.typed,
        "wrong": bench.wrong,
        "figures": figures,
        "strips": [(e, strip(e)) for e in (bench.shown or judged.evidence) if e.now is not None or bench.shown][:6],
        "drawing": draw(facts, judged.evidence, marks=marks_of(bench.desk, bench.step.name, bench.view)),
        "curve": curve_of(bench.step.name, bench.view),
        "method_words": METHOD_WORDS,
        "plans": PLAN_WORDS,
        "plan_words": plan_words(check.plan),
        "on_demand": [STEPS[n] for n in (*ON_DEMAND, "gap", "detent", "sensors", "poles", "timing", "heat", "noise")
                      if STEPS[n].applies(facts) and n not in {b[0].name for b in bench.beads}],
        "rebase": rebase_offer(bench.desk),
        "pictures": pictures,
        "pictures_of": {ITEMS[item].part: i for i, _, item, _ in pictures if item in ITEMS},
        "verdicts": signing.VERDICTS,
        "signer": signing.last_signature(session),
        "last_act": bench.last_act,
    }  # fmt: skip
