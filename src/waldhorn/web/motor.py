"""A motor's page: its answer, its drawing, everything over time, what happened, who signed what."""

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from waldhorn.core.errors import Refusals, Refused
from waldhorn.core.history import EVENTS
from waldhorn.pit import agreeing, checks, judging, motors, signing, undoing
from waldhorn.pit.run import PLANS
from waldhorn.store import acts, readings
from waldhorn.store import motors as motor_store
from waldhorn.store.models import MotorRow
from waldhorn.web.charts import chart, values_table
from waldhorn.web.drawing import draw
from waldhorn.web.evidence_figures import of_evidence
from waldhorn.web.pages import Now, StoreOf, Typed, go, missing, page
from waldhorn.web.strips import strip

router = APIRouter()


@router.get("/motors/{tag}")
def motor(
    request: Request, store: StoreOf, now: Now, tag: str, as_of: Annotated[str, Query(max_length=40)] = ""
) -> HTMLResponse:
    """The motor's page, now or as of a day."""
    at, wrong = _day(as_of, now)
    with store.reading() as session:
        values = _values(session, _found(session, tag), now, at)
        values |= {"as_of_typed": as_of, "wrong_as_of": wrong}
        return page(request, "motor.html", 422 if wrong else 200, **values)


@router.post("/motors/{tag}/events")
def add_event(request: Request, store: StoreOf, now: Now, tag: str, typed: Typed) -> Response:
    """Log what happened to the motor."""
    try:
        with store.writing() as session:
            motors.add_event(session, _found(session, tag), typed, now)
    except Refusals as refusals:
        with store.reading() as session:
            values = _values(session, _found(session, tag), now)
            return page(request, "motor.html", 422, **values | {"typed": typed, "wrong": refusals.by_field})
    return go(request, f"/motors/{tag}")


@router.post("/motors/{tag}/undo")
def undo(request: Request, store: StoreOf, now: Now, tag: str) -> Response:
    """Undo the last act on the motor."""
    try:
        with store.writing() as session:
            row = _found(session, tag)
            undoing.undo_last(session, row.id)
            session.refresh(row)
            tag = row.tag
    except Refused as refused:
        with store.reading() as session:
            values = _values(session, _found(session, tag), now)
            return page(request, "motor.html", 422, **values | {"wrong": {"undo": refused.sentence}})
    return go(request, f"/motors/{tag}")


@router.post("/motors/{tag}/checks")
def open_check(request: Request, store: StoreOf, now: Now, tag: str, typed: Typed) -> Response:
    """Lay the motor on the bench, for a quick check or a full one."""
    plan = typed.get("plan", "quick")
    with store.writing() as session:
        check = checks.open_check(session, _found(session, tag), now, plan if plan in PLANS else "quick")
        session.flush()
        return go(request, f"/checks/{check.id}")


def _found(session: Session, tag: str) -> MotorRow:
    row = motor_store.find(session, tag)
    if row is None:
        raise missing(f"No motor {tag} hangs on this rack.")
    return row


def _day(text: str, now: datetime) -> tuple[datetime | None, str]:
    """The end of a day that was typed, or what is wrong with it."""
    if not text.strip():
        return None, ""
    try:
        at = datetime.fromisoformat(text.strip())
    except ValueError:
        return None, f"“{text}” is not a day: write it like 2026-07-01"
    at = at.replace(tzinfo=at.tzinfo or now.tzinfo)
    return (at.replace(hour=23, minute=59) if len(text.strip()) == 10 else at), ""


def _values(session: Session, row: MotorRow, now: Any, as_of: datetime | None = None) -> dict[str, Any]:
    history, judged = judging.judge_motor(session, row.id, now)
    if as_of:
        judged = judging.judge_all(session, as_of, [row.id])[row.id]
    over_time = chart(history.until(as_of) if as_of else history, judged)
    last = readings.last_check(session, row.id)
    return {
        "motor": row,
        "history": history,
        "judgement": judged,
        "as_of": as_of,
        "as_of_typed": "",
        "wrong_as_of": "",
        "leading": next((f.fault for f in judged.faults if f.fault != "none"), "none"),
        "figures": [f for e in judged.evidence if e.fresh for f in of_evidence(e)],
        "tally": agreeing.tally(session, now, [row.id]),
        "drawing": draw(history.motor, judged.evidence, tall=True),
        "chart": over_time,
        "table": values_table(over_time.lanes, history) if over_time else [],
        "strips": [(e, strip(e)) for e in judged.evidence],
        "signed": signing.signed_before(session, row.id),
        "last_act": acts.last(session, row.id),
        "open_check": last if last and last.open else None,
        "runs": judging.runs_since(history, None),
        "events": sorted(history.events, key=lambda e: e.at, reverse=True),
        "event_names": EVENTS,
        "typed": {},
        "wrong": {},
        "now": now,
    }
