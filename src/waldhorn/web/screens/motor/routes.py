"""A motor's page: its answer, its drawing, everything over time, what happened, who signed what."""

from datetime import datetime, time
from functools import partial
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import History, Motor
from waldhorn.core.base.times import read_day
from waldhorn.core.base.vocabulary import EventKind, State
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.motors import own_facts
from waldhorn.core.motors.leads import REFERENCE_MM, mass_at_one_length
from waldhorn.pit.bench.stepper import ONLY, TESTS, is_plan
from waldhorn.pit.judging import judging
from waldhorn.pit.motors import corrections, facts, motor_page
from waldhorn.pit.motors.motor_page import MotorPage
from waldhorn.pit.writing import Store, Writing
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, lately, page
from waldhorn.web.common.words import PAPER_SIZES, number
from waldhorn.web.drawing.charts import chart, values_table
from waldhorn.web.drawing.evidence_figures import figures_of
from waldhorn.web.drawing.fault_grid import fault_grid
from waldhorn.web.drawing.motor import draw
from waldhorn.web.drawing.strips import strip

router = APIRouter()
_MOST_TURNING = 8
_MOVED = (State.PAST, State.WATCH, State.UNPROVEN)  # the worst first
_WORTH_SAYING = 0.001  # of a new motor


@router.get("/motors/{tag}")
def motor(
    request: Request,
    store: StoreOf,
    now: Now,
    tag: str,
    as_of: Annotated[str, Query(max_length=40)] = "",
    undone: bool = False,
) -> HTMLResponse:
    """The motor's page, now or as of a day."""
    at, wrong = _day(as_of, now)
    found = motor_page.look(store, tag, now, at, undone)
    values = _values(found, now) | {"as_of_typed": as_of, "wrong_as_of": wrong}
    values |= lately(found.undone or found.last, now, address("motors", tag, "undo"))
    return page(request, "motor/motor.html", 422 if wrong else 200, **values)


@router.post("/motors/{tag}/events")
def add_event(request: Request, store: StoreOf, by: By, tag: str, typed: Typed) -> Response:
    """Log what happened to the motor."""
    command = partial(facts.add_event, typed=typed, now=by.at)
    return _carry_out(request, store, by, tag, command, typed, "#happened")


@router.post("/motors/{tag}/hand-over")
def hand_over(request: Request, store: StoreOf, by: By, tag: str, typed: Typed) -> Response:
    """Note that the motor changes hands; its own file goes with it."""
    return _carry_out(request, store, by, tag, partial(facts.hand_over, typed=typed, now=by.at), typed)


@router.post("/motors/{tag}/merge")
def merge(request: Request, store: StoreOf, by: By, tag: str, typed: Typed) -> Response:
    """Make this motor and its double one, and go on with that one."""
    try:
        into = motor_page.carry_out(store, by, tag, partial(corrections.merge, typed=typed, now=by.at))
    except InputErrors as refusals:
        return _refused(request, store, by.at, tag, refusals.by_field, typed)
    return go(request, address("motors", into))


@router.get("/motors/{tag}/turning", response_class=HTMLResponse)
def turning(request: Request, store: StoreOf, now: Now, tag: str, as_of: str = "") -> Response:
    """Which reading or test would turn the answer."""
    found = motor_page.turning(store, tag, _day(as_of, now)[0] or now)
    said = [t for t in found if t.without or t.worth > _WORTH_SAYING]
    return page(request, "motor/_turning.html", turning=said[:_MOST_TURNING])


@router.get("/motors/{tag}/second-hand", response_class=HTMLResponse)
def worth(request: Request, store: StoreOf, now: Now, tag: str) -> Response:
    """What it is worth to a buyer."""
    offer, price = motor_page.worth(store, tag, now)
    return page(request, "motor/_resale.html", offer=offer, price=price)


@router.post("/motors/{tag}/undo")
def undo(request: Request, store: StoreOf, by: By, tag: str, typed: Typed) -> Response:
    """Undo the change on the motor that is named, where it is the last; undoing its taking in goes back to the rack."""
    try:
        motor_id, then = motor_page.undo(store, by, tag, typed.get("change", ""))
    except InputError as refused:
        return _refused(request, store, by.at, tag, {"undo": refused.sentence}, {})
    return go(request, address("motors", then, undone="1") if then else address(undone=motor_id))


@router.post("/motors/{tag}/checks")
def open_check(request: Request, store: StoreOf, by: By, tag: str, typed: Typed) -> Response:
    """Lay the motor on the bench, for a quick check, a full one, or one step alone; or to an instrument. Where it lies
    there already, the step is gone to."""
    step = typed.get("step", "")
    plan = f"{ONLY}{step}" if step in TESTS else typed.get("plan", "quick")
    check_id, lay_there = motor_page.open_check(store, by, tag, plan if is_plan(plan) else "quick")
    if step == "live":
        return go(request, address("checks", check_id, "live"))
    return go(request, address("checks", check_id, step=step if lay_there and step in TESTS else ""))


def _carry_out(
    request: Request,
    store: Store,
    by: Writing,
    tag: str,
    command: motor_page.Command[object],
    typed: dict[str, str],
    section: str = "",
) -> Response:
    try:
        motor_page.carry_out(store, by, tag, command)
    except InputErrors as refusals:
        return _refused(request, store, by.at, tag, refusals.by_field, typed)
    return go(request, address("motors", tag) + section)


def _refused(
    request: Request, store: Store, now: datetime, tag: str, wrong: dict[str, str], typed: dict[str, str]
) -> Response:
    values = _values(motor_page.look(store, tag, now), now)
    return page(request, "motor/motor.html", 422, **values | {"typed": typed, "wrong": wrong})


def _day(text: str, now: datetime) -> tuple[datetime | None, str]:
    """The end of a day that was typed, or what is wrong with it."""
    if not text.strip():
        return None, ""
    try:
        return datetime.combine(read_day(text), time(23, 59), now.tzinfo), ""
    except InputError as refused:
        return None, refused.sentence


def _values(found: MotorPage, now: datetime) -> dict[str, Any]:
    return found.look.once(_drawn) | {
        "motor": found.row,
        "history": found.look.history,
        "judgement": found.look.judgement,
        "as_of": found.as_of,
        "as_of_typed": "",
        "wrong_as_of": "",
        "tally": found.tally,
        "signed": found.signed[::-1],
        "last_change": found.last,
        "open_check": found.open_check,
        "at_bench": found.at_bench,
        "event_names": tuple(EventKind),
        "items": ITEMS,
        "typed": {},
        "wrong": {},
        "now": now,
        "odd_dates": found.odd_dates,
        "over_the_rules": found.over_the_rules,
        "gone": found.gone,
        "also_read": found.also_read,
        "one_thing": [s for s in TESTS.values() if s.applies(found.look.history.motor)],
        "paper_sizes": PAPER_SIZES,
    }


def _drawn(history: History, judged: Judgement) -> dict[str, Any]:
    """What the page shows of an answer, besides the answer."""
    over_time = chart(history.until(judged.as_of), judged)
    strips = [(e, strip(e)) for e in judged.evidence]
    return {
        "leading": next((f.fault for f in judged.faults if f.fault != "none"), "none"),
        "figures": figures_of([e for e in judged.evidence if e.fresh], judged.evidence),
        "drawing": draw(history.motor, judged.evidence, tall=True),
        "chart": over_time,
        "table": values_table(over_time.lanes, history) if over_time else [],
        "strips": strips,
        "moved": sorted((p for p in strips if p[0].state in _MOVED), key=lambda p: _MOVED.index(p[0].state)),
        "within": [p for p in strips if p[0].change is not None and p[0].state not in _MOVED],
        "alone": [e for e in judged.evidence if e.now is not None and e.change is None and e.fresh],
        "not_read": [e.quantity.title for e in judged.evidence if e.now is None or not e.fresh],
        "grid": fault_grid(judged),
        "runs": judging.runs_since(history, None),
        "events": sorted(history.events, key=lambda e: e.at, reverse=True),
        "facts": _facts(history.motor),
    }


def _facts(motor: Motor) -> list[tuple[str, str]]:
    """The facts of a motor, each with its name."""
    poles = f"{motor.poles}, {motor.poles_known_by}".rstrip(", ") if motor.poles else ""
    return [
        ("owner", motor.owner),
        ("class", motor.motor_class),
        ("kind", motor.kind_words),
        ("label KV", _with_unit(motor.label_kv, "")),
        ("poles", poles),
        ("slots", _with_unit(motor.slots, "")),
        ("magnet", motor.magnet),
        ("turns", f"{motor.turns:g}" if motor.turns else ""),
        ("mass", _mass(motor)),
        ("leads", _leads(motor)),
        (
            "rated",
            " · ".join(
                filter(
                    None,
                    (
                        _with_unit(motor.rated_a, "A"),
                        _with_unit(motor.rated_w, "W"),
                        _with_unit(motor.rated_rpm, "rpm"),
                    ),
                )
            ),
        ),
        ("variant", motor.variant),
        ("rated cells", _with_unit(motor.rated_cells, "")),
        ("can", _size(motor.can_mm, motor.length_mm)),
        ("stator", _size(motor.stator_mm, motor.stator_length_mm)),
        ("rotor", _size(motor.rotor_mm, motor.rotor_length_mm)),
        ("shaft", _length(motor.shaft_mm)),
        ("laminations", _length(motor.laminations_mm)),
        ("magnet grade", motor.magnet_grade),
        ("wire", motor.wire),
        *((name.replace("_", " "), value) for name, value in own_facts.read(motor.own).items()),
        ("bearings", " · ".join(filter(None, (motor.bearing_front, motor.bearing_rear)))),
        ("in service since", motor.in_service_on),
        ("price", _with_unit(motor.price, "")),
        ("note", motor.note),
    ]


def _length(value: float | None) -> str:
    return "" if value is None else f"{value:g} mm"


def _size(across: float | None, along: float | None) -> str:
    return " × ".join(filter(None, (_length(across), _length(along))))


def _mass(motor: Motor) -> str:
    """As weighed, and with leads of the length that all are compared at."""
    if motor.mass_g is None:
        return ""
    bare = mass_at_one_length(motor.mass_g, motor.lead_mm, motor.lead_awg)
    return f"{number(motor.mass_g, 1)} g" + (f", {number(bare, 1)} g with {REFERENCE_MM:g} mm leads" if bare else "")


def _leads(motor: Motor) -> str:
    gauge = f"{motor.lead_awg:g} AWG" if motor.lead_awg is not None else ""
    return ", ".join(filter(None, (_length(motor.lead_mm), gauge)))


def _with_unit(value: float | None, unit: str) -> str:
    return "" if value is None else f"{number(value)} {unit}".strip()
