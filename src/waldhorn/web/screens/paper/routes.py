"""Paper: a motor's tag as a label, for tape, as a card; its passport and its report; the whole rack; an empty run
sheet. Printed from the browser."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse

from waldhorn.core.base.history import History
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.exchange import tag_code
from waldhorn.pit.bench import run_sheets
from waldhorn.pit.motors import paper as pit
from waldhorn.pit.motors.last_read import last_read
from waldhorn.pit.writing import read
from waldhorn.web.common.pages import Now, StoreOf, missing, page
from waldhorn.web.common.words import PAPER_SIZES
from waldhorn.web.drawing.charts import chart
from waldhorn.web.drawing.qr import qr
from waldhorn.web.drawing.strips import strip

router = APIRouter()


@router.get("/paper/rack")
def rack(
    request: Request,
    store: StoreOf,
    now: Now,
    tags: Annotated[str, Query(max_length=4000)] = "",
    skip: Annotated[int, Query(ge=0, le=10**9)] = 0,
) -> HTMLResponse:
    """The motors of the rack on A4, worst news first, a thousand at a time; or those whose tags stand there with commas
    between."""
    found = read(store, pit.rack, tags.split(",") if tags else [], skip, now)
    return page(request, "paper/paper_rack.html", skip=skip, most=pit.MOST_ON_RACK, now=now, **vars(found))


@router.get("/motors/{tag}/paper/{size}")
def paper(request: Request, store: StoreOf, now: Now, tag: str, size: str) -> HTMLResponse:
    """A motor on paper."""
    if size not in PAPER_SIZES:
        raise missing(f"No paper is called {size}: {', '.join(PAPER_SIZES)}.")
    found = read(store, pit.motor, tag, now)
    history, judged = found.look.history, found.look.judgement
    more = _of_report(found, read(store, pit.report, found)) if size == "report" else {}
    return page(
        request,
        "paper/paper.html",
        motor=history.motor,
        judgement=judged,
        size=size,
        sizes=PAPER_SIZES,
        signed=next(iter(found.signed), None),
        now=now,
        runs=found.runs,
        pit_name=found.pit_name,
        sheet=run_sheets.sheet(history.motor),
        **_told(history, judged, size),
        **more,
    )


def _told(history: History, judged: Judgement, size: str) -> dict[str, Any]:
    """What a tag says: its square, its measures, what happened."""
    most = tag_code.MOST_ON_TAPE if size == "tape" else tag_code.MOST_BYTES
    read: list[Any] = [e for e in judged.evidence if e.now is not None and e.quantity.name in QUANTITIES]
    happened = [e for e in history.events if e.event is not EventKind.RUN]
    return {
        "code": qr(tag_code.encode(history.motor, judged, most), "l" if size == "tape" else "m"),
        "strips": [(e, strip(e)) for e in read],
        "told": [e for e in read if e.quantity.name in tag_code.SAID][:5],
        "events": sorted(happened, key=lambda e: e.at, reverse=True),
        "also_read": last_read(history, judged.evidence) if size in ("passport", "report") else [],
    }


def _of_report(found: pit.PrintedMotor, report: pit.Report) -> dict[str, Any]:
    """What a report says besides: everything over time, what was looked at, pictures, all that was signed."""
    history, judged = found.look.history, found.look.judgement
    return {
        "chart": chart(history.until(judged.as_of), judged),
        "looked_at": [(ITEMS[n].title if (n := one.item) in ITEMS else n, one) for one in report.looked_at],
        "pictures": report.pictures,
        "all_signed": found.signed,
        "last_check": max((c.at for c in history.checks), default=None),
    }
