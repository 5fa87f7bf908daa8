"""Putting right what stands in the book of a motor: a value, under what it was read, what it was read of, a finding, an
event. What it was is kept; each is a change of its own that can be undone.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import CONDITIONS, LONGEST, Condition, Conditions
from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import Inspected, PoleFinding
from waldhorn.core.base.units import Notation, read_number, unit_words
from waldhorn.core.base.vocabulary import Look, PolesBy, Purpose
from waldhorn.core.measuring import detent, poles
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.measures import MEASURES, QUANTITIES
from waldhorn.pit.bench import sounds, undoing
from waldhorn.pit.bench.signing import LONGEST_REASON
from waldhorn.pit.judging import judging, view_cache
from waldhorn.pit.motors import facts
from waldhorn.pit.motors.book import FINDING_WORDS, SAID, place_in_book, step_of
from waldhorn.pit.writing import Store, Writing, changing
from waldhorn.store import cached_verdicts, changes, findings, motors, pit, readings
from waldhorn.store.models import (
    ChangeKind,
    ChangeRow,
    CheckRow,
    EventRow,
    MotorRow,
    PoleCountRow,
    ReadingRow,
    SoundRow,
)

_REFERENCE = re.compile(r"reference, (\d+) poles")  # the note of a reference motor's frequency


@dataclass(frozen=True)
class UnderField:
    """A condition as it is put right: its value as it is typed, the unit of a number without one, and whether it is
    near: noted, or what parts the reading from others."""

    name: str
    title: str
    typed: str
    unit: str
    choices: Sequence[str]
    near: bool


def correct(session: Session, motor: MotorRow, reading_id: str, typed: Mapping[str, str], now: datetime) -> None:
    """Put a reading right: another value, set aside with a reason, counted again, or moved to the motor or the rig that
    it was read on; raises InputError."""
    row = readings.of_book(session, motor.id, reading_id)
    if row is None:
        raise InputError("reading", "this reading is there no more: somebody took it back")
    measure = MEASURES[row.measure]
    does: Mapping[str, Callable[[], tuple[dict[str, object], str]]] = {
        "correct": lambda: _corrected(row, typed.get("value", ""), pit.notation(session)),
        "aside": lambda: ({"accepted": False, "aside_reason": _reason(typed)}, f"{measure.title} set aside"),
        "back": lambda: ({"accepted": True, "aside_reason": ""}, f"{measure.title} counts again"),
    }
    what = typed.get("do", "correct")
    if what in _OTHERWISE:
        _OTHERWISE[what](session, motor, row, typed, now)
        return
    if what not in does:
        raise InputError("reading", f"“{what}” is none of correct, set aside, count again, move, under, lever")
    values, words = does[what]()
    poles = _poles_by(session, row, values)
    words += f": {poles.words}" if poles else ""
    change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, row.check_id, detail=words)
    changes.revise(session, change_id, [(row, values)])
    if poles:
        poles.store(session, motor, change_id)
    readings.mark_again(session, [row])
    motors.touch(session, [motor.id])


def under_fields(row: ReadingRow, notation: Notation) -> list[UnderField]:
    """Under what a reading stands, as it is typed: first what was noted or parts it from others, then the rest."""
    quantities = [q for q in QUANTITIES.values() if row.measure in q.inputs]
    parting = {name for q in quantities for name in q.same} if quantities else set()
    told = {n: v for n in CONDITIONS if (v := getattr(row, n)) not in (None, "")}
    fields = [
        UnderField(
            name,
            c.title,
            _as_typed(told.get(name), c, notation),
            unit_words(notation.bare_unit(c.dimension)) if c.dimension else "",
            c.choices,
            name in told or name in parting,
        )
        for name, c in CONDITIONS.items()
    ]
    return sorted(fields, key=lambda f: not f.near)


def _as_typed(value: Any, condition: Condition, notation: Notation) -> str:
    if value is None:
        return ""
    return notation.written(value, condition.dimension) if condition.dimension else str(value)


def _read_under(row: ReadingRow, typed: Mapping[str, str], notation: Notation) -> dict[str, Any]:
    """The conditions that were typed otherwise than they stand; raises InputErrors, a sentence by field."""
    found: dict[str, Any] = {}
    wrong: dict[str, str] = {}
    for name, c in CONDITIONS.items():
        text = " ".join(typed.get(f"under_{name}", "").split())
        if f"under_{name}" not in typed or text == _as_typed(getattr(row, name), c, notation):
            continue
        try:
            found[name] = _condition(text, c, notation)
        except InputError as refused:
            wrong[f"under_{name}"] = refused.sentence
    if wrong:
        raise InputErrors(wrong)
    if not found:
        raise InputErrors({"under": "that is what it was read under already: change one of them"})
    return found


def _condition(text: str, c: Condition, notation: Notation) -> float | str | None:
    """A condition as it is typed; raises InputError."""
    if c.dimension:
        return read_number(text, c.title, c.dimension, c.low, c.high, notation) if text else None
    if c.choices and text and text not in c.choices:
        raise InputError(c.title, f"“{text}” is none of {', '.join(c.choices)}")
    if len(text) > LONGEST:
        raise InputError(c.title, f"{c.title} has {len(text)} characters: {LONGEST} at most")
    return text


def _correct_under(session: Session, motor: MotorRow, row: ReadingRow, typed: Mapping[str, str], now: datetime) -> None:
    """Say under what the readings of a line, or of a whole check, were read."""
    notation = pit.notation(session)
    read = _read_under(row, typed, notation)
    whole = typed.get("which") == "check"
    mine = readings.of_check(session, row.check_id)
    if whole:  # those that say of it what this one says; what was not noted of this one, of all of its step
        rows = [(r, {n: v for n, v in read.items() if _says_the_same(r, row, n)}) for r in mine]
    else:
        rows = [(r, dict(read)) for r in mine if place_in_book(r) == place_in_book(row) and step_of(r) == step_of(row)]
    words = ", ".join(
        f"{CONDITIONS[n].title} {_as_typed(getattr(row, n), CONDITIONS[n], notation) or 'not noted'}"
        f" corrected to {_as_typed(v, CONDITIONS[n], notation) or 'not noted'}"
        for n, v in read.items()
    )
    change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, row.check_id, detail=words)
    rows = [(r, values) for r, values in rows if values]
    changes.revise(session, change_id, rows)
    if whole:
        check = readings.check_row(session, row.check_id)
        state = {n: v for n, v in read.items() if n in changes.STATE[CheckRow]}
        changes.revise(session, change_id, [(check, state)] if state else [])
    readings.mark_again(session, [r for r, _ in rows])
    motors.touch(session, [motor.id])


def say_pack(session: Session, tag: str, source: str, now: datetime) -> None:
    """Say what drove all load rows of a motor that nobody said it of: cells ("4S") or the name of a pack. Raises
    NotThere, InputError."""
    motor = motors.on_rack(session, tag)
    said = " ".join(source.split())[:LONGEST]
    bare = [r for r in readings.of_purpose(session, motor.id, Purpose.LOAD) if not r.pack and r.cells is None]
    if not said or not bare:
        raise InputError("pack", "no load row of it lacks its pack" if said else "name the pack")
    cells = re.fullmatch(r"(\d{1,2})S", said)
    values: dict[str, Any] = {"cells": float(cells[1])} if cells else {"pack": said}
    words = f"{len(bare)} load readings: pack {said}"
    change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, detail=words)
    changes.revise(session, change_id, [(row, values) for row in bare])
    readings.mark_again(session, bare)
    motors.touch(session, [motor.id])


def _says_the_same(other: ReadingRow, row: ReadingRow, name: str) -> bool:
    said = getattr(row, name)
    noted = said not in (None, "") or name in changes.STATE[CheckRow]
    return bool(getattr(other, name) == said and (noted or step_of(other) == step_of(row)))


@dataclass(frozen=True)
class _PolesAnew:
    """A pole count that rests on a frequency which was put right: the finding it replaces, and what it is now."""

    before: PoleCountRow
    poles: int | None

    @property
    def words(self) -> str:
        now = f"{self.poles} now" if self.poles else "not settled now"
        return f"{self.before.poles} poles rested on it, {now}"

    def store(self, session: Session, motor: MotorRow, change_id: str) -> None:
        """Take the finding back, and write the new one and the fact."""
        known_by = PolesBy.ELECTRICAL if self.poles else ""
        found = PoleFinding(self.before.check_id, self.poles, known_by, self.before.before, self.before.at)
        findings.add(session, [found], change_id)
        self.before.withdrawn_by = change_id
        if motor.poles == self.before.poles and motor.poles_known_by == PolesBy.ELECTRICAL:
            facts.revise(session, change_id, motor, replace(motors.to_motor(motor), poles=self.poles))


def _poles_by(session: Session, row: ReadingRow, values: Mapping[str, Any]) -> _PolesAnew | None:
    """What the frequencies of a check say of the poles once one of them has these values; None where nothing rested on
    it, or where it says the same."""
    before = findings.standing_poles(session, row.check_id)
    if row.measure != "electrical_frequency" or before is None or before.known_by != PolesBy.ELECTRICAL:
        return None
    own: list[float] = []
    theirs: list[float] = []
    noted = ""
    for r in readings.of_check(session, row.check_id):
        now = {"value": r.value, "accepted": r.accepted, **(values if r.id == row.id else {})}
        if r.measure == row.measure and now["accepted"]:
            (theirs if r.purpose == Purpose.REFERENCE else own).append(now["value"])
            noted = r.note if r.purpose == Purpose.REFERENCE else noted
    reference = _REFERENCE.search(noted)
    if reference is None or not own or not theirs:
        return None
    counted = poles.from_reference(own, theirs, int(reference[1])).poles
    return None if counted == before.poles else _PolesAnew(before, counted)


def _move(session: Session, motor: MotorRow, row: ReadingRow, typed: Mapping[str, str], now: datetime) -> None:
    """Store a reading, or all that counts of its check, where it belongs, and set it aside here."""
    tag, rig = (" ".join(typed.get(n, "").split()) for n in ("to", "to_rig"))
    target = motors.find(session, tag) if tag else motor
    if target is None:
        raise InputError("reading", f"{tag} is no motor of this rack")
    if len(rig) > LONGEST:
        raise InputError("reading", f"a rig's name has {LONGEST} characters at most")
    if target.id == motor.id and rig in ("", row.rig):
        raise InputError("reading", "say which motor, or which rig, it was read on")
    check = readings.check_row(session, row.check_id)
    whole = typed.get("which") == "check"
    mine = [r for r in readings.of_check(session, check.id) if r.accepted] if whole else [row]
    where = " on ".join(filter(None, (target.tag if target.id != motor.id else "", rig)))
    change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, check.id, detail=f"moved to {where}")
    check_id = _rehang(session, change_id, check, mine, target, rig)
    if whole and target.id != motor.id:
        findings.copy(session, check.id, check_id, change_id)
        findings.take_back(session, check.id, change_id)
    changes.revise(session, change_id, [(r, {"accepted": False, "aside_reason": f"belongs to {where}"}) for r in mine])
    motors.touch(session, [motor.id, target.id])


def _measure_lever(session: Session, motor: MotorRow, row: ReadingRow, typed: Mapping[str, str], now: datetime) -> None:
    """Say how long a lever is: the grams that were read on it, of whichever motor, become torque."""
    text = typed.get("lever_mm", "")
    lever_mm = read_number(text, "the lever", "length", 1, 500, pit.notation(session))
    named = f"“{row.lever}”" if row.lever else "the lever"
    words = f"{named} is {lever_mm:g} mm long"
    change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, row.check_id, detail=words)
    grams = readings.forces_on(session, row.lever, row.rig, None if row.lever else motor.id)
    for force in grams:
        was = readings.to_reading(force)
        peak = detent.torque(was.value, lever_mm)
        torque = replace(was, measure="detent_peak", value=peak, conditions=replace(was.conditions, lever=""))
        readings.add(session, [(force.check_id, torque)], change_id)
    aside = {"accepted": False, "aside_reason": f"torque now: {words}"}
    changes.revise(session, change_id, [(force, aside) for force in grams])
    motors.touch(session, changes.motors_touched(session, session.get_one(ChangeRow, change_id)))


_OTHERWISE: Mapping[str, Callable[[Session, MotorRow, ReadingRow, Mapping[str, str], datetime], None]] = {
    "move": _move,
    "under": _correct_under,
    "lever": _measure_lever,
}


def _rehang(
    session: Session, change_id: str, check: CheckRow, rows: Sequence[ReadingRow], target: MotorRow, rig: str = ""
) -> str:
    """Store readings of a check again, of another motor or of the same on another rig; returns in which check."""
    check_id = check.id
    if target.id != check.motor_id:
        key = f"from {check.motor_id} {check.key}"
        under = Conditions(rig=rig or check.rig, method=check.method, motor_c=check.motor_c, ambient_c=check.ambient_c)
        check_id = readings.check_ids(session, [(target.id, key, check.at, under)], change_id)[target.id, key]
    found = map(readings.to_reading, rows)
    there = [replace(r, conditions=replace(r.conditions, rig=rig or r.conditions.rig)) for r in found]
    readings.add(session, [(check_id, r) for r in there], change_id)
    return check_id


def merge(session: Session, row: MotorRow, typed: Mapping[str, str], now: datetime) -> str:
    """What was read of a motor that is on the rack twice, and what happened to it, becomes the other's; this one goes
    out of sight, with nothing lost, until that is undone on the other's page. Returns the other's tag. Raises
    InputErrors."""
    tag = " ".join(typed.get("same", "").split())
    target = motors.find(session, tag) if tag else None
    if target is None or target.id == row.id:
        raise InputErrors({"same": f"{tag} is no other motor of this rack" if tag else "name its double"})
    if cached_verdicts.open_checks(session, [row.id]):
        raise InputErrors({"same": f"{row.tag} lies on the bench: hang it back first"})
    double = {changes.DOUBLE: row.id}
    change_id = changes.record(session, ChangeKind.MERGE_MOTORS, now, target.id, detail=row.tag, typed=double)
    checks = {}
    for check, rows in readings.book(session, row.id):
        checks[check.id] = _rehang(session, change_id, check, rows, target)
        findings.copy(session, check.id, checks[check.id], change_id)
    motors.add_events(session, [(target.id, e) for _, e in motors.events_of(session, [row.id])], change_id)
    cached_verdicts.copy_signed(session, row.id, target.id, checks, change_id)
    judging.put_out_of_sight(session, [row.id])
    motors.touch(session, [target.id])
    return target.tag


def put_right(store: Store, by: Writing, tag: str, reading_id: str, typed: Mapping[str, str]) -> str:
    """Put a reading right and judge again; returns the answer as it was before. Raises NotThere, InputError."""
    with changing(store, by) as session:
        row = motors.on_rack(session, tag)
        before = view_cache.look_at(session, row.id, by.at).judgement.headline
        correct(session, row, reading_id, typed, by.at)
    return before


def undo(store: Store, by: Writing, tag: str, change: str) -> str:
    """Undo a change on a motor and judge again; returns the answer as it was before. Raises NotThere, InputError."""
    with changing(store, by) as session:
        row = motors.on_rack(session, tag)
        before = view_cache.look_at(session, row.id, by.at).judgement.headline
        named = session.get(ChangeRow, change)
        if named is None or named.kind == ChangeKind.TAKE_IN:
            raise InputError("undo", "name what is to be undone; that it was taken in is taken back on its page")
        undoing.undo(session, row.id, by.at, change)
    return before


def _corrected(row: ReadingRow, text: str, notation: Notation) -> tuple[dict[str, object], str]:
    measure = MEASURES[row.measure]
    value = read_number(text, measure.title, measure.dimension, measure.low, measure.high, notation)
    if value == row.value:
        raise InputError("reading", f"{measure.title} is {value:g} {measure.unit} already")
    return {"value": value}, f"{measure.title} {row.value:g} corrected to {value:g} {measure.unit}".rstrip()


def _reason(typed: Mapping[str, str]) -> str:
    reason = typed.get("reason", "").strip()
    if not reason:
        raise InputError("reading", "say why it is set aside: a slip of the hand, a loose clip")
    return reason[:LONGEST_REASON]


def put_found_right(store: Store, by: Writing, tag: str, kind: str, row_id: str, typed: Mapping[str, str]) -> str:
    """Take a finding, a picture, a recording or an event back, say an item was in another state, what a recording is
    of, or that an event was otherwise; returns the answer as it was. Raises NotThere, InputError, InputErrors."""
    with changing(store, by) as session:
        row = motors.on_rack(session, tag)
        before = view_cache.look_at(session, row.id, by.at).judgement.headline
        if kind == "event" and "at" in typed:
            _correct_event(session, row, row_id, typed, by.at)
        else:
            _put_found_right(session, row, kind, row_id, typed, by.at)
        motors.touch(session, [row.id])
    return before


def _gone() -> InputError:
    return InputError("found", "this is there no more: somebody took it back")


def _correct_event(session: Session, motor: MotorRow, row_id: str, typed: Mapping[str, str], now: datetime) -> None:
    """Another time, count or detail of an event, or another event. Where a motor sits is corrected by fitting it."""
    row = changes.standing(session, EventRow, row_id)
    if row is None or row.motor_id != motor.id:
        raise _gone()
    event = facts.read_event(
        motor,
        {n: getattr(row, n) for n in ("item", "machine", "position")} | dict(typed),
        now,
        pit.notation(session),
    )
    if event.at == row.at.replace(second=0, microsecond=0):
        event = replace(event, at=row.at)
    if event.event != row.event and {event.event, row.event} & set(facts.MOVING):
        raise InputError("found", "where it sits is another matter: take this back, then log it anew")
    words = f"{row.event.replace('_', ' ')} corrected"
    change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, detail=words)
    row.withdrawn_by, row.fingerprint = change_id, None
    session.flush()
    if not motors.add_events(session, [(motor.id, event)], change_id):
        raise InputError("found", "this is logged already, at the same time with the same words")


def _put_found_right(
    session: Session, motor: MotorRow, kind: str, row_id: str, typed: Mapping[str, str], now: datetime
) -> None:
    if kind in ("first_spin", "sweep"):
        found = readings.check(session, row_id)
        if found is None or found[1].id != motor.id or not getattr(found[0], kind):
            raise _gone()
        change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, row_id, detail=f"{kind} taken back")
        changes.revise(session, change_id, [(found[0], {kind: None})])
        return
    model = SAID.get(kind)
    row = changes.standing(session, model, row_id) if model else None
    check = readings.check(session, row.check_id) if row is not None and kind != "event" else None
    owner = row.motor_id if row is not None and kind == "event" else check[1].id if check else None
    if row is None or owner != motor.id:
        raise _gone()
    state = typed.get("state", "")
    if kind == "sound" and "note" in typed:
        note = sounds.read_note(typed["note"])
        words = f"{FINDING_WORDS[kind](row)}: now {note or 'without words'}"
        change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, row.check_id, detail=words)
        session.add(
            SoundRow(check_id=row.check_id, at=row.at, change_id=change_id, step=row.step, note=note, flac=row.flac)
        )
    elif kind == "inspection" and state:
        if state not in set(Look):
            raise InputError("found", f"“{state}” is none of {', '.join(Look)}")
        words = f"{ITEMS[row.item].title if row.item in ITEMS else row.item} {row.state} corrected to {state}"
        change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, row.check_id, detail=words)
        findings.add(session, [Inspected(row.check_id, row.item, Look(state), row.at, row.note)], change_id)
    else:
        words = row.event.replace("_", " ") if kind == "event" else FINDING_WORDS[kind](row)
        change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, detail=f"{words} taken back")
    row.withdrawn_by = change_id
    if kind == "event":
        row.fingerprint = None  # so that it can be logged again
    session.flush()
