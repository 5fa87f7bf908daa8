"""Motors of the pit: reading what was typed about one, taking it in, correcting it, and what happens to it."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import date, datetime
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.errors import Refusals, Refused
from waldhorn.core.history import EVENTS, Event, Motor
from waldhorn.core.motor import impossible
from waldhorn.core.units import read_number
from waldhorn.store import acts
from waldhorn.store import motors as store
from waldhorn.store.models import MotorRow

TAKE_IN_DRAFT = "take-in"

# field: (name in a refusal, dimension, whether whole); the range is only what a number can be at all
_NUMBERS = {
    "label_kv": ("label KV", "speed_per_volt", False),
    "turns": ("turns", "count", False),
    "poles": ("poles", "count", True),
    "slots": ("slots", "count", True),
    "mass_g": ("mass", "mass", False),
    "lead_mm": ("lead length", "length", False),
    "lead_awg": ("lead gauge", "count", False),
}
_TEXTS = ("tag", "model", "kind", "motor_class", "magnet", "poles_known_by", "machine", "position", "owner", "note")
_LONGEST = {"note": 5000}
_IF_EMPTY = {"kind": "inrunner", "magnet": "neodymium"}


def read_motor(typed: Mapping[str, str]) -> Motor:
    """The motor a form describes; raises Refusals with a sentence for each field that cannot be."""
    wrong: dict[str, str] = {}
    values: dict[str, Any] = {"sensored": typed.get("sensored", "yes") == "yes"}
    for name in _TEXTS:
        values[name] = typed.get(name, "").strip() or _IF_EMPTY.get(name, "")
        if len(values[name]) > (most := _LONGEST.get(name, 200)):
            wrong[name] = f"this is {len(values[name])} signs long: {most} at most"
    for name, (words, dimension, whole) in _NUMBERS.items():
        try:
            values[name] = _number(typed.get(name, ""), words, dimension, whole)
        except Refused as refused:
            wrong[name] = refused.sentence
            values[name] = None
    values["in_service_on"] = typed.get("in_service_on", "").strip()
    if values["in_service_on"] and not _is_day(values["in_service_on"]):
        wrong["in_service_on"] = f"“{values['in_service_on']}” is not a day: write it like 2026-03-14"
    motor = Motor(**values)
    wrong = impossible(motor) | wrong
    if wrong:
        raise Refusals(wrong)
    return motor


def _number(text: str, words: str, dimension: str, whole: bool) -> float | int | None:
    if not text.strip():
        return None
    value = read_number(text, words, dimension, -1e6, 1e6)
    if not whole:
        return value
    if value != int(value):
        raise Refused(words, f"{words} {value:g} must be a whole number")
    return int(value)


def _is_day(text: str) -> bool:
    try:
        date.fromisoformat(text)
    except ValueError:
        return False
    return len(text) == 10


def problems(session: Session, typed: Mapping[str, str], but: str = "") -> dict[str, str]:
    """What would be refused of a form, by field; `but` is the tag the motor has already."""
    wrong: dict[str, str] = {}
    try:
        read_motor(typed)
    except Refusals as refusals:
        wrong = refusals.by_field
    tag = typed.get("tag", "")
    if tag.strip() and store.key_of(tag) != store.key_of(but) and (there := store.find(session, tag)):
        of = f" ({there.model}, {there.owner or 'no owner'})" if there.model else ""
        next_free = next_free_tag(session, there.tag)
        wrong = {"tag": f"{there.tag} is on the rack already{of}: next free is {next_free}"} | wrong
    return wrong


def take_in(session: Session, typed: Mapping[str, str], now: datetime) -> Motor:
    """Store a new motor; raises Refusals."""
    if wrong := problems(session, typed):
        raise Refusals(wrong)
    motor = read_motor(typed)
    motor = motor if motor.in_service_on else replace(motor, in_service_on=now.date().isoformat())
    store.add(session, [motor])
    acts.save_draft(session, TAKE_IN_DRAFT, {})
    return motor


def amend(session: Session, row: MotorRow, typed: Mapping[str, str], now: datetime) -> Motor:
    """Correct the facts of a motor; raises Refusals. Undo puts the old facts back."""
    if wrong := problems(session, typed, but=row.tag):
        raise Refusals(wrong)
    motor, before = read_motor(typed), store.columns(store.to_motor(row))
    acts.record(session, row.id, now, "amend", "facts corrected", [acts.set_back("motor", row.id, **before)])
    store.amend(session, row.id, motor)
    store.mark_stale(session, [row.id])
    return motor


def next_free_tag(session: Session, like: str) -> str:
    """The first tag of the same series that is not on the rack: VS-07 gives VS-31 when 30 are there."""
    series = like.rstrip("0123456789")
    width = len(like) - len(series) or 2
    taken = set(store.ids_by_tag(session))
    number = int(like[len(series) :] or 0)
    while store.key_of(f"{series}{number:0{width}}") in taken:
        number += 1
    return f"{series}{number:0{width}}"


def add_event(session: Session, row: MotorRow, typed: Mapping[str, str], now: datetime) -> Event:
    """Log that something happened to a motor; raises Refusals."""
    wrong: dict[str, str] = {}
    name = typed.get("event", "")
    if name not in EVENTS:
        wrong["event"] = f"“{name}” is not an event: choose one of the list"
    try:
        count = _number(typed.get("count", "") or "1", "count", "count", True) or 0
    except Refused as refused:
        wrong["count"], count = refused.sentence, 1
    if not 1 <= count <= 10_000:
        wrong["count"] = f"{count} runs cannot be: 1 to 10000"
    at = _moment(typed.get("at", ""), now, wrong)
    if wrong:
        raise Refusals(wrong)
    event = Event(name, at, int(count), typed.get("detail", "").strip()[:5000])
    if not store.add_events(session, [(row.id, event)]):
        raise Refusals({"event": "this is logged already, at the same time with the same words"})
    event_id = store.event_id(session, row.id, event)
    words = f"{name.replace('_', ' ')} logged"
    acts.record(session, row.id, now, "event", words, [acts.delete_rows("event", [event_id])])
    store.mark_stale(session, [row.id])
    return event


def _moment(text: str, now: datetime, wrong: dict[str, str]) -> datetime:
    if not text.strip():
        return now
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        wrong["at"] = f"“{text}” is not a time: write it like 2026-05-02 10:30"
        return now
    at = at if at.tzinfo else at.replace(tzinfo=now.tzinfo)
    if at > now:
        wrong["at"] = "this has not happened yet: give a time up to now"
    return at
