"""Limits and prices: by class of motor, with what a change would do to the rack shown before it is saved."""

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputErrors
from waldhorn.core.comparing.uses import WEIGHED
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.measuring.measures import JUDGED
from waldhorn.pit.between import uses
from waldhorn.pit.settings import limits_and_prices
from waldhorn.pit.writing import Store, Writing, changing
from waldhorn.store import cached_verdicts, motors
from waldhorn.store import limits_and_prices as stored
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, page

router = APIRouter()


@router.get("/limits")
def limits(
    request: Request, store: StoreOf, now: Now, motor_class: Annotated[str, Query(alias="class", max_length=200)] = ""
) -> HTMLResponse:
    """The limits of a class."""
    with store.reading() as session:
        return page(request, "limits/limits.html", **_values(session, motor_class, now, {}, {}))


@router.post("/limits/what-if")
def what_if(request: Request, store: StoreOf, now: Now, typed: Typed) -> HTMLResponse:
    """Which motors would change their answer."""
    with store.reading() as session:
        try:
            changed = limits_and_prices.read_limits(typed)
            shifts = limits_and_prices.what_if(session, typed.get("class", ""), changed, now)
        except InputErrors as refusals:
            return page(request, "limits/_what_if.html", shifts=[], wrong=refusals.by_field, quantities_judged=JUDGED)
        return page(request, "limits/_what_if.html", shifts=shifts, wrong={}, quantities_judged=JUDGED)


@router.post("/limits")
def save(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Write a new version of the limits of a class."""
    motor_class = typed.get("class", "")[:200]
    try:
        with changing(store, by) as session:
            limits_and_prices.save_limits(session, motor_class, typed, by.at)
    except InputErrors as refusals:
        with store.reading() as session:
            return page(
                request, "limits/limits.html", 422, **_values(session, motor_class, by.at, typed, refusals.by_field)
            )
    return go(request, address("limits", **{"class": motor_class}))


@router.post("/limits/uses")
def use(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Keep what a use weighs."""
    return _kept(
        request, store, by, typed, "/limits#uses", lambda session: uses.save_use(session, typed.get("use", ""), typed)
    )


@router.post("/limits/sets")
def sets(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Keep how alike the motors of a set must be in a class."""
    motor_class = typed.get("class", "")[:200]
    return _kept(
        request,
        store,
        by,
        typed,
        f"/limits?class={motor_class}#sets",
        lambda session: uses.save_good_enough(session, motor_class, typed),
    )


@router.post("/limits/prices")
def prices(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Keep an owner's prices."""
    return _kept(
        request, store, by, typed, "/limits#prices", lambda session: limits_and_prices.save_prices(session, typed)
    )


def _kept(
    request: Request, store: Store, by: Writing, typed: dict[str, str], then: str, keep: Callable[[Session], None]
) -> Response:
    """Keep something, or show the page with what is wrong."""
    try:
        with changing(store, by) as session:
            keep(session)
    except InputErrors as refusals:
        with store.reading() as session:
            shown = _values(session, typed.get("class", "")[:200], by.at, typed, refusals.by_field)
            return page(request, "limits/limits.html", 422, **shown)
    return go(request, then)


def _values(
    session: Session, motor_class: str, now: Any, typed: dict[str, str], wrong: dict[str, str]
) -> dict[str, Any]:
    classes = motors.known_values(session, "motor_class")
    chosen = motor_class or (classes[0] if classes else "")
    return {
        "classes": classes,
        "chosen": chosen,
        "judged": JUDGED,
        "uses": stored.uses(session),
        "weighed": WEIGHED,
        "good_enough": stored.good_enough(session, chosen),
        "holding": stored.limits(session).get(chosen, {}),
        "versions": stored.versions(session, chosen),
        "owners": motors.known_values(session, "owner"),
        "prices": stored.prices(session),
        "default_prices": Prices(),
        "tally": limits_and_prices.tally(session, cached_verdicts.all_signed(session)),
        "signer": cached_verdicts.who_signs(session),
        "typed": typed,
        "wrong": wrong,
    }
