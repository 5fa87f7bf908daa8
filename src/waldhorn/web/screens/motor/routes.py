"""A motor's page: its answer, its drawing, everything over time, what happened, who signed what."""

from datetime import datetime, time
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import Refusals, Refused
from waldhorn.core.base.history import History, Motor
from waldhorn.core.base.times import read_day
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.motors.dating import odd_dates
from waldhorn.core.motors.leads import REFERENCE_MM, mass_at_one_length
from waldhorn.pit.bench import checks, undoing
from waldhorn.pit.bench.stepper import PLAN_WORDS
from waldhorn.pit.judging import judging
from waldhorn.pit.judging.unit_of_work import changing
from waldhorn.pit.judging.view_cache import look_at, look_back
from waldhorn.pit.motors import facts, resale
from waldhorn.pit.settings import limits_and_prices
from waldhorn.pit.settings.pit import over_the_rules
from waldhorn.store import acts, pit, standings
from waldhorn.store import motors as motor_store
from waldhorn.store.models import MotorRow
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import Now, StoreOf, Typed, go, lately, missing, page
from waldhorn.web.common.words import number
from waldhorn.web.drawing.charts import chart, values_table
from waldhorn.web.drawing.evidence_figures import figures_of
from waldhorn.web.drawing.motor import draw
from waldhorn.web.drawing.strips import strip

router = APIRouter()
_MOST_TURNING = 8
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
    with store.reading() as session:
        values = _values(session, _found(session, tag), now, at)
        act = acts.last(session, values["motor"].id, undone=True) if undone else values["last_act"]
        values |= {"as_of_typed": as_of, "wrong_as_of": wrong} | lately(act, now, address("motors", tag, "undo"))
        return page(request, "motor/motor.html", 422 if wrong else 200, **values)


@router.post("/motors/{tag}/events")
def add_event(request: Request, store: StoreOf, now: Now, tag: str, typed: Typed) -> Response:
    """Log what happened to the motor."""
    try:
        with changing(store, now) as session:
            facts.add_event(session, _found(session, tag), typed, now)
    except Refusals as refusals:
        with store.reading() as session:
            values = _values(session, _found(session, tag), now)
            return page(request, "motor/motor.html", 422, **values | {"typed": typed, "wrong": refusals.by_field})
    return go(request, address("motors", tag))


@router.post("/motors/{tag}/hand-over")
def hand_over(request: Request, store: StoreOf, now: Now, tag: str, typed: Typed) -> Response:
    """Note that the motor changes hands; its own file goes with it."""
    try:
        with changing(store, now) as session:
            facts.hand_over(session, _found(session, tag), typed, now)
    except Refusals as refusals:
        with store.reading() as session:
            values = _values(session, _found(session, tag), now)
            return page(request, "motor/motor.html", 422, **values | {"typed": typed, "wrong": refusals.by_field})
    return go(request, address("motors", tag))


@router.get("/motors/{tag}/turning", response_class=HTMLResponse)
def turning(request: Request, store: StoreOf, now: Now, tag: str, as_of: str = "") -> Response:
    """Which reading or test would turn the answer."""
    with store.reading() as session:
        at, _ = _day(as_of, now)
        found = judging.turning_of(session, _found(session, tag).id, at or now)
    said = [t for t in found if t.without or t.worth > _WORTH_SAYING]
    return page(request, "motor/_turning.html", turning=said[:_MOST_TURNING])


@router.get("/motors/{tag}/second-hand", response_class=HTMLResponse)
def worth(request: Request, store: StoreOf, now: Now, tag: str) -> Response:
    """What it is worth to a buyer."""
    with store.reading() as session:
        look = look_at(session, _found(session, tag).id, now)
        offer = resale.offer(session, look.history.motor, look.judgement)
    return page(request, "motor/_second_hand.html", offer=offer, price=look.history.motor.price)


@router.post("/motors/{tag}/undo")
def undo(request: Request, store: StoreOf, now: Now, tag: str, typed: Typed) -> Response:
    """Undo the act on the motor that is named, where it is the last; undoing its taking in goes back to the rack."""
    try:
        with changing(store, now) as session:
            motor_id = _found(session, tag).id
            undoing.undo_last(session, motor_id, now, typed.get("act", ""))
            there = motor_store.several(session, [motor_id])
    except Refused as refused:
        with store.reading() as session:
            values = _values(session, _found(session, tag), now)
            return page(request, "motor/motor.html", 422, **values | {"wrong": {"undo": refused.sentence}})
    if motor_id not in there:
        return go(request, address(undone=motor_id))
    return go(request, address("motors", there[motor_id].tag, undone="1"))


@router.post("/motors/{tag}/checks")
def open_check(request: Request, store: StoreOf, now: Now, tag: str, typed: Typed) -> Response:
    """Lay the motor on the bench, for a quick check or a full one."""
    plan = typed.get("plan", "quick")
    with changing(store, now) as session:
        check = checks.open_check(session, _found(session, tag), now, plan if plan in PLAN_WORDS else "quick")
        return go(request, address("checks", check.id))


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
        return datetime.combine(read_day(text), time(23, 59), now.tzinfo), ""
    except Refused as refused:
        return None, refused.sentence


def _values(session: Session, row: MotorRow, now: Any, as_of: datetime | None = None) -> dict[str, Any]:
    look = look_back(session, row.id, as_of) if as_of else look_at(session, row.id, now)
    signed = standings.all_signed(session, [row.id], whole=True)
    return look.once(_drawn) | {
        "motor": row,
        "history": look.history,
        "judgement": look.judgement,
        "as_of": as_of,
        "as_of_typed": "",
        "wrong_as_of": "",
        "tally": limits_and_prices.tally(session, signed),
        "signed": signed[::-1],
        "last_act": acts.last(session, row.id),
        "open_check": standings.open_checks(session, [row.id]).get(row.id),
        "event_names": tuple(EventKind),
        "items": ITEMS,
        "typed": {},
        "wrong": {},
        "now": now,
        "odd_dates": _odd_dates(look.history, now),
        "over_the_rules": over_the_rules(
            pit.load(session), look.history.motor.motor_class, list(look.judgement.evidence)
        ),
        "gone": judging.off_the_rack(look.history),
    }


def _odd_dates(history: History, now: datetime) -> list[str]:
    checks = odd_dates(history.motor, [c.at for c in history.checks], now)
    return checks + odd_dates(history.motor, [e.at for e in history.events], now, "events")


def _drawn(history: History, judged: Judgement) -> dict[str, Any]:
    """What the page shows of an answer, besides the answer."""
    over_time = chart(history.until(judged.as_of), judged)
    return {
        "leading": next((f.fault for f in judged.faults if f.fault != "none"), "none"),
        "figures": figures_of([e for e in judged.evidence if e.fresh], judged.evidence),
        "drawing": draw(history.motor, judged.evidence, tall=True),
        "chart": over_time,
        "table": values_table(over_time.lanes, history) if over_time else [],
        "strips": [(e, strip(e)) for e in judged.evidence],
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
        ("kind", f"{motor.kind}, {'sensored' if motor.sensored else 'sensorless'}"),
        ("label KV", _with_unit(motor.label_kv, "")),
        ("poles", poles),
        ("slots", _with_unit(motor.slots, "")),
        ("magnet", motor.magnet),
        ("mass", _mass(motor)),
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
        ("bearings", " · ".join(filter(None, (motor.bearing_front, motor.bearing_rear)))),
        ("in service since", motor.in_service_on),
        ("note", motor.note),
    ]


def _mass(motor: Motor) -> str:
    """As weighed, and with leads of the length that all are compared at."""
    if motor.mass_g is None:
        return ""
    bare = mass_at_one_length(motor.mass_g, motor.lead_mm, motor.lead_awg)
    return f"{number(motor.mass_g)} g" + (f", {number(bare, 1)} g with {REFERENCE_MM:g} mm leads" if bare else "")


def _with_unit(value: float | None, unit: str) -> str:
    return "" if value is None else f"{number(value)} {unit}".strip()
