"""Taking in a motor, and correcting its facts: one form, checked as it is typed."""

from dataclasses import replace
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputErrors
from waldhorn.core.base.history import Motor
from waldhorn.core.base.vocabulary import PolesBy
from waldhorn.core.motors.facts import KINDS, MAGNETS
from waldhorn.pit.bench.concurrent_edits import BothChanged
from waldhorn.pit.motors import facts as pit
from waldhorn.pit.writing import read, write
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, StoreOf, Typed, as_shown, go, is_htmx, page
from waldhorn.web.drawing.motor import draw

router = APIRouter()

CHOICES = {
    "kind": ("", *KINDS),
    "magnet": MAGNETS,
    "poles_known_by": ("", *PolesBy),
    "sensored": ("", "yes", "no"),
    "reference": ("no", "yes"),
    "yardstick": ("no", "yes"),
}
MORE = (
    "owner",
    "sensored",
    "turns",
    "poles",
    "poles_known_by",
    "slots",
    "mass_g",
    "lead_mm",
    "lead_awg",
    "motor_class",
    "in_service_on",
    "note",
    "rated_a",
    "rated_w",
    "rated_rpm",
    "can_mm",
    "length_mm",
    "rotor_mm",
    "rotor_length_mm",
    "bearing_front",
    "bearing_rear",
    "price",
    "rated_cells",
    "stator_mm",
    "stator_length_mm",
    "shaft_mm",
    "laminations_mm",
    "variant",
    "wire",
    "magnet_grade",
    "own",
)
_SEEN = (
    "kind", "label_kv", "poles", "poles_known_by", "slots", "mass_g", "can_mm", "length_mm", "stator_mm",
    "stator_length_mm", "variant", *pit.READ_BEFORE,
)  # fmt: skip


@router.get("/motors/new")
def form(
    request: Request,
    store: StoreOf,
    tag: Annotated[str, Query(max_length=40)] = "",
    model: Annotated[str, Query(max_length=200)] = "",
    like: Annotated[str, Query(max_length=40)] = "",
) -> HTMLResponse:
    """The empty form, what was typed into it before, the facts of one like it, or what a tag or a look at it says."""
    said = {n: v[:40] for n in _SEEN if (v := request.query_params.get(n))}
    known = {"tag": tag, "model": model} | said if tag or said else {}
    return _page(request, read(store, pit.form_of_new, known, like))


@router.post("/motors/new/draft")
def keep_motor(request: Request, store: StoreOf, by: By, typed: Typed) -> HTMLResponse:
    """Keep what is typed, say what cannot be, redraw the motor."""
    write(store, by, pit.keep_draft, typed, request.state.form_id)
    return page(request, "take_in/_take_in_live.html", **_values(read(store, pit.form, typed)))


@router.post("/motors/new")
def take_in(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Store the motor and go on to its page, or say what cannot be."""
    try:
        tags = write(store, by, pit.take_in, typed, by.at, request.state.form_id)
    except InputErrors as refusals:
        return _page(request, replace(read(store, pit.form, typed), wrong=refusals.by_field), 422)
    return go(request, address("motors", tags[-1]))


@router.get("/motors/{tag}/facts")
def facts(request: Request, store: StoreOf, tag: str) -> HTMLResponse:
    """The form with the facts of a motor, to be corrected."""
    return _page(request, read(store, pit.form_of, tag))


@router.post("/motors/{tag}/facts")
def correct(request: Request, store: StoreOf, by: By, tag: str, typed: Typed) -> Response:
    """Store corrected facts, or say what cannot be."""
    shown = as_shown(typed) or {}
    try:
        motor = write(store, by, pit.correct, tag, shown, typed, by.at)
    except InputErrors as refusals:
        typed = refusals.fields if isinstance(refusals, BothChanged) else typed
        return _page(request, replace(read(store, pit.form, typed, tag), wrong=refusals.by_field), 422)
    return go(request, address("motors", motor.tag))


def _page(request: Request, found: pit.Form, status: int = 200) -> HTMLResponse:
    template = "take_in/_take_in_form.html" if status != 200 and is_htmx(request) else "take_in/take_in.html"
    return page(request, template, status, **_values(found))


def _values(found: pit.Form) -> dict[str, Any]:
    usual = {"kind": "", "sensored": "", "reference": "no", "yardstick": "no", "magnet": "neodymium"}
    shown = usual | {"poles_known_by": ""} | dict(found.typed)
    filled = (n for n in MORE if found.wrong.get(n) or (found.typed.get(n) and not found.typed.get("like")))
    return vars(found) | {
        "typed": shown,
        "choices": CHOICES,
        "drawing": draw(_sketch(shown)),
        "fields": pit.FIELDS,
        "more_open": bool(found.tag) or any(filled),
    }


def _sketch(typed: dict[str, Any]) -> Motor:
    """As much of a motor as can be drawn from what is typed."""
    whole = {
        n: int(typed[n])
        for n in ("poles", "slots")
        if str(typed.get(n, "")).isascii() and str(typed.get(n, "")).isdigit()
    }
    kind = typed["kind"] if typed["kind"] in KINDS else ""
    return Motor(
        tag="", kind=kind, sensored=typed["sensored"] != "no", poles=whole.get("poles"), slots=whole.get("slots")
    )
