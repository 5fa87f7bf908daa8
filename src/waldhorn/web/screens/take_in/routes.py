"""Taking in a motor, and correcting its facts: one form, checked as it is typed."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputErrors
from waldhorn.core.base.history import Motor
from waldhorn.core.base.units import written
from waldhorn.core.base.vocabulary import PolesBy
from waldhorn.core.motors.facts import KINDS, MAGNETS
from waldhorn.pit.bench import concurrent_edits
from waldhorn.pit.motors import facts as pit
from waldhorn.pit.writing import changing
from waldhorn.store import motors as motor_store
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, as_shown, go, is_htmx, page
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
_SEEN = ("kind", "label_kv", "poles", "poles_known_by", "slots", "mass_g", "can_mm", "length_mm")
_OFFERED = ("model", "motor_class", "machine", "owner")


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
    with store.reading() as session:
        known = {"tag": tag, "model": model} | said if tag or said else None
        if like:
            row = motor_store.on_rack(session, like)
            known = pit.shared(_as_typed(motor_store.to_motor(row))) | {
                "tag": pit.next_free_tag(session, row.tag),
                "like": row.tag,
            }
        typed = known or pit.draft(session)
        wrong = pit.problems(session, typed) if typed else {}
        shown = {name: words for name, words in wrong.items() if typed.get(name)}
        return page(request, "take_in/take_in.html", **_values(session, typed, shown))


@router.post("/motors/new/draft")
def keep_motor(request: Request, store: StoreOf, by: By, typed: Typed) -> HTMLResponse:
    """Keep what is typed, say what cannot be, redraw the motor."""
    with store.writing(by) as session:
        pit.keep_draft(session, typed, request.state.form_id)
    with store.reading() as session:
        wrong = {name: words for name, words in pit.problems(session, typed).items() if typed.get(name)}
        return page(request, "take_in/_take_in_live.html", **_values(session, typed, wrong))


@router.post("/motors/new")
def take_in(request: Request, store: StoreOf, by: By, now: Now, typed: Typed) -> Response:
    """Store the motor and go on to its page, or say what cannot be."""
    try:
        with changing(store, by) as session:
            tags = pit.take_in(session, typed, now, request.state.form_id)
    except InputErrors as refusals:
        with store.reading() as session:
            template = "take_in/_take_in_form.html" if is_htmx(request) else "take_in/take_in.html"
            return page(request, template, 422, **_values(session, typed, refusals.by_field))
    return go(request, address("motors", tags[-1]))


@router.get("/motors/{tag}/facts")
def facts(request: Request, store: StoreOf, tag: str) -> HTMLResponse:
    """The form with the facts of a motor, to be corrected."""
    with store.reading() as session:
        row = motor_store.on_rack(session, tag)
        return page(
            request, "take_in/take_in.html", **_values(session, _as_typed(motor_store.to_motor(row)), {}, row.tag)
        )


@router.post("/motors/{tag}/facts")
def correct(request: Request, store: StoreOf, by: By, now: Now, tag: str, typed: Typed) -> Response:
    """Store corrected facts, or say what cannot be."""
    shown = as_shown(typed)
    try:
        with changing(store, by) as session:
            row = motor_store.on_rack(session, tag)
            typed = concurrent_edits.merged_or_both(shown or {}, typed, _as_typed(motor_store.to_motor(row)))
            motor = pit.amend(session, row, typed, now)
    except InputErrors as refusals:
        typed = refusals.fields if isinstance(refusals, concurrent_edits.BothChanged) else typed
        with store.reading() as session:
            template = "take_in/_take_in_form.html" if is_htmx(request) else "take_in/take_in.html"
            return page(request, template, 422, **_values(session, typed, refusals.by_field, tag))
    return go(request, address("motors", motor.tag))


def _as_typed(motor: Motor) -> dict[str, str]:
    values = {n: getattr(motor, n) for n in motor_store.MOTOR_FIELDS}
    known = {n: v for n, v in values.items() if v is not None}
    typed = {n: written(v, pit.dimension_of(n)) if isinstance(v, float) else str(v) for n, v in known.items()}
    said = {True: "yes", False: "no", None: ""}
    return typed | {n: said[getattr(motor, n)] for n in ("sensored", "reference", "yardstick")}


def _values(session: Session, typed: dict[str, Any], wrong: dict[str, str], tag: str = "") -> dict[str, Any]:
    shown = {
        "kind": "",
        "sensored": "",
        "reference": "no",
        "yardstick": "no",
        "magnet": "neodymium",
        "poles_known_by": "",
    } | typed
    return {
        "typed": shown,
        "wrong": wrong,
        "choices": CHOICES,
        "offered": {name: motor_store.known_values(session, name) for name in _OFFERED},
        "drawing": draw(_sketch(shown)),
        "tag": tag,
        "stands": _as_typed(motor_store.to_motor(row)) if tag and (row := motor_store.find(session, tag)) else {},
        "fields": motor_store.MOTOR_FIELDS,
        "more_open": bool(tag) or any(wrong.get(n) or (typed.get(n) and not typed.get("like")) for n in MORE),
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
