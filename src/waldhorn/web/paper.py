"""Paper: a motor's tag as a label, for tape, as a card, and its passport; printed from the browser."""

from typing import Any

import segno
from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse
from markupsafe import Markup

from waldhorn.core.measures import QUANTITIES
from waldhorn.core.vocabulary import EventKind
from waldhorn.exchange import tag_code
from waldhorn.pit import judging
from waldhorn.store import motors as motor_store
from waldhorn.store import standings
from waldhorn.web.pages import Now, StoreOf, missing, page
from waldhorn.web.strips import strip

router = APIRouter()
SIZES = {"label": "label, 62 × 29 mm", "tape": "tape, 12 mm", "card": "card, 85 × 54 mm", "passport": "passport, A5"}


@router.get("/motors/{tag}/paper/{size}")
def paper(request: Request, store: StoreOf, now: Now, tag: str, size: str) -> HTMLResponse:
    """A motor on paper."""
    if size not in SIZES:
        raise missing(f"No paper is called {size}: {', '.join(SIZES)}.")
    with store.reading() as session:
        row = motor_store.find(session, tag)
        if row is None:
            raise missing(f"No motor {tag} hangs on this rack.")
        history, judged = judging.judge_motor(session, row.id, now)
        signed = standings.latest_signed(session, [row.id]).get(row.id)
    told = [e for e in history.events if e.event is not EventKind.RUN]
    most = tag_code.MOST_ON_TAPE if size == "tape" else tag_code.MOST_BYTES
    read: list[Any] = [e for e in judged.evidence if e.now is not None and e.quantity.name in QUANTITIES]
    code = tag_code.encode(history.motor, judged, most)
    return page(
        request, "paper.html", motor=history.motor, judgement=judged, size=size, sizes=SIZES, signed=signed, now=now,
        code=qr(code, "l" if size == "tape" else "m"), strips=[(e, strip(e)) for e in read],
        told=[e for e in read if e.quantity.name in tag_code.SAID][:5],
        events=sorted(told, key=lambda e: e.at, reverse=True), runs=judging.runs_since(history, None),
    )  # fmt: skip


def qr(text: str, error: str = "m") -> Markup:
    """A text as a QR code, drawn: black on white with the quiet zone it needs."""
    drawn = segno.make(text, error=error, micro=False).svg_inline(omitsize=True, border=4, light="white", svgclass="qr")
    return Markup(drawn)
