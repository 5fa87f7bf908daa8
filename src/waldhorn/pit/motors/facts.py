"""Motors of the pit: reading what was typed about one, taking it in, correcting it, and what happens to it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import HANDED_BUT_KEPT, Event, Motor, Reading
from waldhorn.core.base.text import key_of
from waldhorn.core.base.times import read_day, read_timestamp
from waldhorn.core.base.units import Notation, read_number
from waldhorn.core.base.vocabulary import EventKind, Method
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.core.motors.facts import impossible
from waldhorn.pit.bench import concurrent_edits
from waldhorn.store import changes, drafts, fleet, pit, readings
from waldhorn.store import motors as store
from waldhorn.store.models import ChangeKind, MotorRow

TAKE_IN_DRAFT = "take-in"
FIELDS = store.MOTOR_FIELDS
_OFFERED = ("model", "motor_class", "machine", "owner")
_TAKEN = "taken with form"
READ_BEFORE = {"read_kv": "kv", "read_mohm": "winding_resistance_ab"}  # what a motor without a tag was read to be

# field: (name in a refusal, dimension, whether whole); the range is only what a number can be at all
_NUMBERS = {
    "label_kv": ("label KV", "speed_per_volt", False),
    "turns": ("turns", "count", False),
    "poles": ("poles", "count", True),
    "slots": ("slots", "count", True),
    "mass_g": ("mass", "mass", False),
    "lead_mm": ("lead length", "length", False),
    "lead_awg": ("lead gauge", "count", False),
    "rated_a": ("rated current", "current", False),
    "rated_w": ("rated power", "power", False),
    "rated_rpm": ("rated speed", "speed", False),
    "can_mm": ("can diameter", "length", False),
    "length_mm": ("can length", "length", False),
    "rotor_mm": ("rotor diameter", "length", False),
    "rotor_length_mm": ("rotor length", "length", False),
    "price": ("price", "count", False),
    "rated_cells": ("rated cells", "count", True),
    "stator_mm": ("stator diameter", "length", False),
    "stator_length_mm": ("stator length", "length", False),
    "shaft_mm": ("shaft", "length", False),
    "laminations_mm": ("laminations", "length", False),
}
_TEXTS = (
    "tag",
    "model",
    "kind",
    "motor_class",
    "magnet",
    "poles_known_by",
    "machine",
    "position",
    "owner",
    "bearing_front",
    "bearing_rear",
    "variant",
    "wire",
    "magnet_grade",
    "own",
    "note",
)
_LONGEST = {"note": 5000, "own": 5000}
MOVING = (EventKind.FITTED, EventKind.REMOVED)  # what says where a motor sits
LONGEST_MACHINE = 60
LONGEST_NAME = 60
MOST_AT_ONCE = 20
# What each motor of a model has of its own.
_ITS_OWN = ("tag", "machine", "position", "in_service_on", "note", "own", "reference", "yardstick")
_IF_EMPTY = {"magnet": "neodymium"}


def dimension_of(name: str) -> str:
    """The dimension of a fact that is a number."""
    return _NUMBERS[name][1]


def read_motor(typed: Mapping[str, str], notation: Notation) -> Motor:
    """The motor a form describes; raises InputErrors with a sentence for each field that cannot be."""
    wrong: dict[str, str] = {}
    values: dict[str, Any] = {
        "sensored": {"yes": True, "no": False}.get(typed.get("sensored", "")),
        "reference": typed.get("reference", "no") == "yes",
        "yardstick": typed.get("yardstick", "no") == "yes",
    }
    for name in _TEXTS:
        values[name] = typed.get(name, "").strip() or _IF_EMPTY.get(name, "")
        if len(values[name]) > (most := _LONGEST.get(name, 200)):
            wrong[name] = f"this is {len(values[name])} characters long: {most} at most"
    for name, (words, dimension, whole) in _NUMBERS.items():
        try:
            values[name] = _number(typed.get(name, ""), words, dimension, notation, whole)
        except InputError as refused:
            wrong[name] = refused.sentence
            values[name] = None
    values["in_service_on"] = typed.get("in_service_on", "").strip()
    try:
        if values["in_service_on"]:
            read_day(values["in_service_on"])
    except InputError as refused:
        wrong["in_service_on"] = refused.sentence
    motor = Motor(**values)
    wrong = impossible(motor) | wrong
    if wrong:
        raise InputErrors(wrong)
    return motor


def _number(text: str, words: str, dimension: str, notation: Notation, whole: bool = True) -> float | int | None:
    if not text.strip():
        return None
    value = read_number(text, words, dimension, -1e6, 1e6, notation)
    if not whole:
        return value
    if value != int(value):
        raise InputError(words, f"{words} {value:g} must be a whole number")
    return int(value)


def problems(session: Session, typed: Mapping[str, str], but: str = "") -> dict[str, str]:
    """What would be refused of a form, by field; `but` is the tag the motor has already."""
    wrong: dict[str, str] = {}
    try:
        read_motor(typed, pit.notation(session))
    except InputErrors as refusals:
        wrong = refusals.by_field
    tag = typed.get("tag", "")
    if tag.strip() and key_of(tag) != key_of(but) and (there := store.find(session, tag)):
        of = f" ({there.model}, {there.owner or 'no owner'})" if there.model else ""
        next_free = next_free_tag(session, there.tag)
        wrong = {"tag": f"{there.tag} is on the rack already{of}: next free is {next_free}"} | wrong
    return wrong


@dataclass(frozen=True)
class Form:
    """The form of a motor's facts: what is typed, what of it cannot be, what is offered for names that motors
    share, and the motor's tag and facts as they stand where it is on the rack."""

    typed: Mapping[str, str]
    wrong: Mapping[str, str]
    offered: Mapping[str, Sequence[str]]
    tag: str = ""
    stands: Mapping[str, str] = field(default_factory=dict)


def form(session: Session, typed: Mapping[str, str], tag: str = "") -> Form:
    """The form as it is typed; what is left empty is not complained of."""
    wrong = problems(session, typed, but=tag) if typed else {}
    row = store.find(session, tag) if tag else None
    return Form(
        typed,
        {name: words for name, words in wrong.items() if typed.get(name)},
        {name: store.known_values(session, name) for name in _OFFERED},
        row.tag if row else tag,
        as_typed(store.to_motor(row), pit.notation(session)) if row else {},
    )


def form_of_new(session: Session, said: Mapping[str, str], like: str) -> Form:
    """The form of a motor to be taken in: with the facts of one `like` it, what is `said` of it, or what was typed
    before; raises NotThere."""
    if like:
        row = store.on_rack(session, like)
        typed = {n: v for n, v in as_typed(store.to_motor(row), pit.notation(session)).items() if n not in _ITS_OWN}
        return form(session, typed | {"tag": next_free_tag(session, row.tag), "like": row.tag})
    return form(session, said or draft(session))


def form_of(session: Session, tag: str) -> Form:
    """The form with the facts of a motor as they stand; raises NotThere."""
    row = store.on_rack(session, tag)
    return form(session, as_typed(store.to_motor(row), pit.notation(session)), row.tag)


def as_typed(motor: Motor, notation: Notation) -> dict[str, str]:
    """The facts of a motor as they stand in the form."""
    values = {n: getattr(motor, n) for n in store.MOTOR_FIELDS}
    known = {n: v for n, v in values.items() if v is not None}
    typed = {n: notation.written(v, dimension_of(n)) if isinstance(v, float) else str(v) for n, v in known.items()}
    said = {True: "yes", False: "no", None: ""}
    return typed | {n: said[getattr(motor, n)] for n in ("sensored", "reference", "yardstick")}


def keep_draft(session: Session, typed: Mapping[str, str], form: str) -> None:
    """Keep what is typed of a new motor; what arrives late of a form that was taken by then is let go."""
    if not (form and drafts.of_form(session, TAKE_IN_DRAFT).get(_TAKEN) == form):
        drafts.keep_form(session, TAKE_IN_DRAFT, typed)


def draft(session: Session) -> dict[str, str]:
    """What is typed of a new motor so far."""
    typed = drafts.of_form(session, TAKE_IN_DRAFT)
    return {} if _TAKEN in typed else typed


def take_in(session: Session, typed: Mapping[str, str], now: datetime, form: str = "") -> list[str]:
    """Store a new motor, or `count` of a kind with tags counted on; returns their tags. Raises InputErrors."""
    wrong = problems(session, typed)
    count = 1
    try:
        count = int(_number(typed.get("count", ""), "count", "count", pit.notation(session)) or 1)
        if not 1 <= count <= MOST_AT_ONCE:
            wrong["count"] = f"{count} at once cannot be: 1 to {MOST_AT_ONCE}"
    except InputError as refused:
        wrong["count"] = refused.sentence
    read = _read_before(typed, pit.notation(session), wrong)
    if wrong:
        raise InputErrors(wrong)
    motor = read_motor(typed, pit.notation(session))
    tags: list[str] = []
    while len(tags) < count:
        motor_id = add(session, motor, now)
        if read and not tags:
            _keep_read(session, motor_id, read, now)
        tags.append(motor.tag)
        motor = replace(motor, tag=next_free_tag(session, motor.tag))
    drafts.keep_form(session, TAKE_IN_DRAFT, {_TAKEN: form} if form else {})
    return tags


def _read_before(typed: Mapping[str, str], notation: Notation, wrong: dict[str, str]) -> dict[str, float]:
    """What was read of a motor before it had a tag, by measure; what cannot be goes to `wrong`."""
    found = {}
    for name, measure in READ_BEFORE.items():
        m = MEASURES[measure]
        try:
            if text := typed.get(name, "").strip():
                found[measure] = read_number(text, m.title, m.dimension, m.low, m.high, notation)
        except InputError as refused:
            wrong[name] = refused.sentence
    return found


def _keep_read(session: Session, motor_id: str, read: Mapping[str, float], now: datetime) -> None:
    """Keep what was read of it before it had a tag as its first check, KV by the drill."""
    under, key = Conditions(method=Method.BACK_EMF), (motor_id, "before it had a tag")
    change_id = store.get(session, motor_id).change_id
    check_id = readings.check_ids(session, [(*key, now, under)], change_id)[key]
    readings.add(session, [(check_id, Reading(m, v, now, 1, under)) for m, v in read.items()], change_id)
    store.touch(session, [motor_id])


def add(session: Session, motor: Motor, now: datetime) -> str:
    """Put a motor on the rack, as a change that can be undone; returns its id."""
    [motor_id] = store.add(session, [motor])
    row = store.get(session, motor_id)
    row.change_id = changes.record(session, ChangeKind.TAKE_IN, now, motor_id, detail=motor.tag)
    return motor_id


def amend(session: Session, row: MotorRow, typed: Mapping[str, str], now: datetime) -> Motor:
    """Correct the facts of a motor; raises InputErrors. Undo puts the old facts back."""
    if wrong := problems(session, typed, but=row.tag):
        raise InputErrors(wrong)
    motor = read_motor(typed, pit.notation(session))
    change_id = changes.record(session, ChangeKind.AMEND, now, row.id)
    revise(session, change_id, row, motor)
    return motor


def correct(session: Session, tag: str, shown: Mapping[str, str], typed: Mapping[str, str], now: datetime) -> Motor:
    """Correct the facts of a motor by a form that was drawn with those `shown`; raises NotThere, InputErrors, and
    BothChanged where somebody else corrected the same facts meanwhile."""
    row = store.on_rack(session, tag)
    return amend(
        session,
        row,
        concurrent_edits.merged_or_both(shown, typed, as_typed(store.to_motor(row), pit.notation(session))),
        now,
    )


def revise(session: Session, change_id: str, row: MotorRow, motor: Motor) -> None:
    """Change the facts of a motor, and have whatever is held against it judged again."""
    before = store.to_motor(row)
    changes.revise(session, change_id, [(row, store.columns(motor))])
    store.touch(session, [row.id])
    store.touch_beside(session, before, motor)


def next_free_tag(session: Session, like: str) -> str:
    """The first tag of the same series that is not on the rack: VS-07 gives VS-31 when 30 are there."""
    series = like.rstrip("0123456789")
    width = len(like) - len(series) or 2
    taken = set(store.ids_by_tag(session))
    number = int(like[len(series) :] or 0)
    while key_of(f"{series}{number:0{width}}") in taken:
        number += 1
    return f"{series}{number:0{width}}"


def read_event(row: MotorRow, typed: Mapping[str, str], now: datetime, notation: Notation) -> Event:
    """Something that happened to a motor, as typed; raises InputErrors. A mending names the item that was mended."""
    wrong: dict[str, str] = {}
    name, item = typed.get("event", ""), typed.get("item", "")
    if name not in set(EventKind):
        wrong["event"] = f"“{name}” is not an event: choose one of the list"
    elif name == EventKind.MENDED and item not in ITEMS:
        wrong["item"] = "what was mended? A mending lifts the ban of the item it names, and of no other"
    try:
        count = _number(typed.get("count", "") or "1", "count", "count", notation) or 0
    except InputError as refused:
        wrong["count"], count = refused.sentence, 1
    if not 1 <= count <= 10_000:
        wrong["count"] = f"{count} runs cannot be: 1 to 10000"
    at = _timestamp(typed.get("at", ""), now, wrong)
    machine, position = (" ".join(typed.get(n, "").split()) for n in ("machine", "position"))
    if name == EventKind.FITTED and not machine:
        wrong["machine"] = "name the machine it was fitted to"
    elif max(len(machine), len(position)) > LONGEST_MACHINE:
        wrong["machine"] = f"a machine and a place in it have {LONGEST_MACHINE} characters at most"
    if wrong:
        raise InputErrors(wrong)
    if name == EventKind.REMOVED and not machine:
        machine, position = row.machine, row.position
    if name not in MOVING:
        machine = position = ""
    mended = item if name == EventKind.MENDED else ""
    return Event(EventKind(name), at, int(count), typed.get("detail", "").strip()[:5000], mended, machine, position)


def add_event(session: Session, row: MotorRow, typed: Mapping[str, str], now: datetime) -> Event:
    """Log that something happened to a motor; raises InputErrors. What is fitted goes to its place, and what sat there
    comes off."""
    event = read_event(row, typed, now, pit.notation(session))
    change_id = changes.record(session, ChangeKind.EVENT, now, row.id, detail=event.event)
    if not store.add_events(session, [(row.id, event)], change_id):
        raise InputErrors({"event": "this is logged already, at the same time with the same words"})
    if event.event is EventKind.FITTED:
        _take_off_what_sat_there(session, row, event, now)
        revise(session, change_id, row, _placed(row, event.machine, event.position))
    elif event.event is EventKind.REMOVED:
        revise(session, change_id, row, _placed(row, "", ""))
    store.touch(session, [row.id])
    return event


def _placed(row: MotorRow, machine: str, position: str) -> Motor:
    return replace(store.to_motor(row), machine=machine, position=position)


def _take_off_what_sat_there(session: Session, row: MotorRow, fitted: Event, now: datetime) -> None:
    """Take off the motor that has the place: of a place that is not named, none."""
    if not fitted.position:
        return
    for other in fleet.on_machine(session, fitted.machine):
        if other.id == row.id or key_of(other.position) != key_of(fitted.position):
            continue
        removed = Event(
            EventKind.REMOVED, fitted.at, detail=f"{row.tag} came on", machine=other.machine, position=other.position
        )
        change_id = changes.record(session, ChangeKind.EVENT, now, other.id, detail=EventKind.REMOVED)
        store.add_events(session, [(other.id, removed)], change_id)
        revise(session, change_id, other, _placed(other, "", ""))


def hand_over(session: Session, row: MotorRow, typed: Mapping[str, str], now: datetime) -> None:
    """Note that a motor changes hands; it hangs on this rack no more unless it is `kept`. Raises InputErrors."""
    to = " ".join(typed.get("to", "").split())
    if not to or len(to) > LONGEST_NAME:
        raise InputErrors({"to": f"say to whom it goes, {LONGEST_NAME} characters at most"})
    event = Event(EventKind.HANDED_OVER, now, detail=to, item=HANDED_BUT_KEPT if typed.get("kept") == "yes" else "")
    change_id = changes.record(session, ChangeKind.EVENT, now, row.id, detail=EventKind.HANDED_OVER)
    store.add_events(session, [(row.id, event)], change_id)
    store.touch(session, [row.id])


def _timestamp(text: str, now: datetime, wrong: dict[str, str]) -> datetime:
    if not text.strip():
        return now
    try:
        at = read_timestamp(text, now.tzinfo)
    except InputError as refused:
        wrong["at"] = refused.sentence
        return now
    if at > now:
        wrong["at"] = "this has not happened yet: give a time up to now"
    return at


def put_in(session: Session, tags: Sequence[str], machine: str, now: datetime) -> None:
    """Put motors into a machine; undo on each motor's page takes it out again. Raises InputError."""
    name = machine.strip()
    if not name or len(name) > LONGEST_MACHINE:
        raise InputError("machine", f"name the machine they go into, {LONGEST_MACHINE} characters at most")
    ids = store.ids_by_tag(session)
    for tag in tags:
        row = store.find(session, tag)
        if row is None or key_of(tag) not in ids:
            raise InputError("machine", f"no motor {tag} on this rack")
        change_id = changes.record(session, ChangeKind.EVENT, now, row.id, detail=EventKind.FITTED)
        store.add_events(session, [(row.id, Event(EventKind.FITTED, now, machine=name))], change_id)
        revise(session, change_id, row, _placed(row, name, ""))
