"""A filled-in run sheet, typed in on one screen in its own order."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputErrors
from waldhorn.pit.bench import run_sheets as pit
from waldhorn.pit.writing import changing
from waldhorn.store import motors, rigs
from waldhorn.store import pit as pit_store
from waldhorn.store.models import MotorRow
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, page

router = APIRouter()


@router.get("/motors/{tag}/sheet")
def form(request: Request, store: StoreOf, tag: str) -> HTMLResponse:
    """The empty sheet."""
    with store.reading() as session:
        row = motors.on_rack(session, tag)
        usual = {pit.field_name("setup", 1, "rig"): pit_store.load(session).rig}
        return _page(request, session, row, usual, {})


@router.post("/motors/{tag}/sheet")
def take_sheet(request: Request, store: StoreOf, by: By, now: Now, tag: str, typed: Typed) -> Response:
    """Store the sheet as a check, and go on to its answer."""
    try:
        with changing(store, by) as session:
            row = motors.on_rack(session, tag)
            check_id = pit.take_sheet(session, row, motors.to_motor(row), typed, now)
    except InputErrors as refusals:
        with store.reading() as session:
            return _page(request, session, motors.on_rack(session, tag), typed, refusals.by_field, 422)
    return go(request, address("checks", check_id, step="answer"))


def _page(
    request: Request, session: Session, row: MotorRow, typed: dict[str, Any], wrong: dict[str, str], status: int = 200
) -> HTMLResponse:
    return page(
        request,
        "sheet/sheet.html",
        status,
        motor=row,
        sheet=pit.sheet(motors.to_motor(row)),
        typed=typed,
        wrong=wrong,
        field_name=pit.field_name,
        known_rigs=[u.name for u in rigs.uses(session)],
    )
