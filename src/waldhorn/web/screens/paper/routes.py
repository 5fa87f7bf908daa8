"""Paper: a motor's tag as a label, for tape, as a card; its passport and its report; the whole rack; an empty run
sheet. Printed from the browser."""

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse
from sqlalchemy.orm import Session

from waldhorn.core.base.history import History
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.exchange import tag_code
from waldhorn.pit.bench import run_sheets
from waldhorn.pit.judging import judging
from waldhorn.pit.judging.view_cache import look_at
from waldhorn.pit.motors.last_read import last_read
from waldhorn.store import cached_verdicts, findings, pit
from waldhorn.store import motors as motor_store
from waldhorn.store.motors import key_of
from waldhorn.web.common.pages import Now, StoreOf, missing, page
from waldhorn.web.common.words import PAPER_SIZES
from waldhorn.web.drawing.charts import chart
from waldhorn.web.drawing.qr import qr
from waldhorn.web.drawing.strips import strip

router = APIRouter()
MOST_ON_RACK = 1000


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
    wanted = {key_of(tag) for tag in tags.split(",")} if tags else set()
    with store.reading() as session:
        every = cached_verdicts.counts(session, "", now.date())["all"]
        rows = cached_verdicts.rack(session, "", now.date(), every if wanted else MOST_ON_RACK, 0 if wanted else skip)
        rows = [s for s in rows if not wanted or key_of(s.tag) in wanted]
        return page(
            request,
            "paper/paper_rack.html",
            rows=rows,
            every=len(rows) if wanted else every,
            skip=skip,
            most=MOST_ON_RACK,
            now=now,
            pit_name=pit.load(session).name,
        )


@router.get("/motors/{tag}/paper/{size}")
def paper(request: Request, store: StoreOf, now: Now, tag: str, size: str) -> HTMLResponse:
    """A motor on paper."""
    if size not in PAPER_SIZES:
        raise missing(f"No paper is called {size}: {', '.join(PAPER_SIZES)}.")
    with store.reading() as session:
        row = motor_store.on_rack(session, tag)
        look = look_at(session, row.id, now)
        history, judged = look.history, look.judgement
        more = _of_report(session, row.id, history, judged) if size == "report" else {}
        signed = cached_verdicts.latest_signed(session, [row.id]).get(row.id)
        named = pit.load(session).name
    return page(
        request,
        "paper/paper.html",
        motor=history.motor,
        judgement=judged,
        size=size,
        sizes=PAPER_SIZES,
        signed=signed,
        now=now,
        runs=judging.runs_since(history, None),
        pit_name=named,
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


def _of_report(session: Session, motor_id: str, history: History, judged: Judgement) -> dict[str, Any]:
    """What a report says besides: everything over time, what was looked at, pictures, all that was signed."""
    latest: dict[str, Any] = {}
    for one in sorted(history.inspected, key=_when):
        latest[one.item] = one
    return {
        "chart": chart(history.until(judged.as_of), judged),
        "looked_at": [(ITEMS[n].title if n in ITEMS else n, one) for n, one in latest.items()],
        "pictures": findings.of_motors(session, [motor_id])[motor_id].pictures,
        "all_signed": cached_verdicts.all_signed(session, [motor_id])[::-1],
        "last_check": max((c.at for c in history.checks), default=None),
    }


def _when(one: Any) -> datetime:
    at: datetime = one.at
    return at
