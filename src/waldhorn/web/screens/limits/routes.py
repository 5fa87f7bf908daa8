"""Limits and prices: by class of motor, with what a change would do to the rack shown before it is saved."""

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputErrors
from waldhorn.core.comparing.uses import WEIGHED
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.measuring.measures import JUDGED
from waldhorn.pit.between import uses
from waldhorn.pit.settings import limits_and_prices as pit
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, page

router = APIRouter()


@router.get("/limits")
def limits(
    request: Request, store: StoreOf, motor_class: Annotated[str, Query(alias="class", max_length=200)] = ""
) -> HTMLResponse:
    """The limits of a class."""
    return _page(request, store, motor_class)


@router.post("/limits/what-if")
def what_if(request: Request, store: StoreOf, now: Now, typed: Typed) -> HTMLResponse:
    """Which motors would change their answer."""
    shifts, wrong = [], {}
    try:
        shifts = read(store, pit.what_if, typed.get("class", ""), typed, now)
    except InputErrors as refusals:
        wrong = refusals.by_field
    return page(request, "limits/_what_if.html", shifts=shifts, wrong=wrong, quantities_judged=JUDGED)


@router.post("/limits")
def save(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Write a new version of the limits of a class."""
    chosen = _class(typed)
    there = address("limits", **{"class": chosen})
    return _kept(request, store, typed, there, lambda: write(store, by, pit.save_limits, chosen, typed, by.at))


@router.post("/limits/uses")
def use(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Keep what a use weighs."""
    return _kept(
        request, store, typed, "/limits#uses", lambda: write(store, by, uses.save_use, typed.get("use", ""), typed)
    )


@router.post("/limits/sets")
def sets(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Keep how alike the motors of a set must be in a class."""
    there = f"{address('limits', **{'class': _class(typed)})}#sets"
    return _kept(request, store, typed, there, lambda: write(store, by, uses.save_good_enough, _class(typed), typed))


@router.post("/limits/prices")
def prices(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Keep an owner's prices."""
    return _kept(request, store, typed, "/limits#prices", lambda: write(store, by, pit.save_prices, typed))


def _kept(request: Request, store: Store, typed: dict[str, str], there: str, keep: Callable[[], object]) -> Response:
    """Keep something and go `there`, or show the page with what is wrong."""
    try:
        keep()
    except InputErrors as refusals:
        return _page(request, store, _class(typed), 422, typed=typed, wrong=refusals.by_field)
    return go(request, there)


def _class(typed: dict[str, str]) -> str:
    return typed.get("class", "")[:200]


def _page(request: Request, store: Store, motor_class: str, status: int = 200, **more: Any) -> HTMLResponse:
    shown = vars(read(store, pit.agreed, motor_class)) | {"typed": {}, "wrong": {}} | more
    return page(request, "limits/limits.html", status, judged=JUDGED, weighed=WEIGHED, default_prices=Prices(), **shown)
