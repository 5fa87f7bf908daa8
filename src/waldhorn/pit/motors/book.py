"""The book of a motor: every check with all that was read in it, and each reading can be put right there.

What is corrected or set aside keeps what it was; each is a change of its own that can be undone.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cache
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import TRIALS, Inspected, Reading
from waldhorn.core.base.units import Notation, read_number
from waldhorn.core.base.vocabulary import Look, Purpose
from waldhorn.core.measuring import load
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.pit.bench import sounds, typed_not_taken, undoing
from waldhorn.pit.bench.signing import LONGEST_REASON
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.typed_not_taken import TypedNotTaken
from waldhorn.pit.judging import judging, view_cache
from waldhorn.pit.motors import facts
from waldhorn.pit.writing import Store, Writing, changing
from waldhorn.store import cached_verdicts, changes, findings, motors, pit, readings
from waldhorn.store.findings import Findings
from waldhorn.store.models import (
    ATTACHED,
    ChangeKind,
    ChangeRow,
    CheckRow,
    EventRow,
    MotorRow,
    ReadingRow,
    SignedRow,
    SoundRow,
)

CHECKS_A_PAGE = 8
ACTS = 100
LONGEST_RIG = 60
OTHER = "Other readings"


@dataclass(frozen=True)
class Entry:
    """One reading as it stands, and what it was before it was corrected, oldest first."""

    row: ReadingRow
    before: Sequence[float] = ()


@dataclass(frozen=True)
class Line:
    """What was read together: a run, under which conditions, its readings by measure, and what is worked out of them by
    what it is called."""

    run: int
    under: Sequence[str]
    cells: Mapping[str, Sequence[Entry]]
    notes: Sequence[str]
    worked_out: Mapping[str, float]


@dataclass(frozen=True)
class StepRead:
    """A step of a check with its lines; `measures` are its columns, and `worked_out` those after them."""

    name: str
    title: str
    measures: Sequence[str]
    lines: Sequence[Line]

    @property
    def worked_out(self) -> list[str]:
        return list(dict.fromkeys(name for line in self.lines for name in line.worked_out))


@dataclass(frozen=True)
class Found:
    """Something that was found without a number, in words; `kind` and `id` say which, `state` is that of an item."""

    kind: str
    id: str
    words: str
    state: str = ""


@dataclass(frozen=True)
class Visit:
    """A check: what was read step by step, what was found by eye and hand, its pictures and sounds, who signed it, and
    what was typed and not taken when it was closed."""

    check: CheckRow
    steps: Sequence[StepRead]
    found: Sequence[Found]
    pictures: Sequence[str]
    recordings: Sequence[findings.Recording]
    signed: Sequence[SignedRow]
    typed_not_taken: Sequence[TypedNotTaken] = ()


@dataclass(frozen=True)
class Asked:
    """What of the book is to be seen: a measure, a rig, a step (all where empty), and from which check on."""

    measure: str = ""
    rig: str = ""
    step: str = ""
    skip: int = 0


@dataclass(frozen=True)
class Book:
    """The pages asked for, newest check first, with the events, what can be chosen, how many checks there are, and what
    was done, the last first."""

    row: MotorRow
    seen: view_cache.Look
    visits: Sequence[Visit]
    events: Sequence[EventRow]
    asked: Asked
    measures: Sequence[str]
    rigs: Sequence[str]
    steps: Sequence[str]
    checks: int
    changes: Sequence[ChangeRow]

    @property
    def last(self) -> ChangeRow | None:
        return next(iter(self.changes), None)

    def change_of(self, row: ReadingRow) -> ChangeRow | None:
        """What took a reading, where it was done on this motor lately."""
        return next((a for a in self.changes if a.id == row.change_id), None)


def look(store: Store, tag: str, now: datetime, asked: Asked) -> Book:
    """The book of a motor, read once while the store stays as it is; raises NotThere."""
    with store.reading() as session:
        row = motors.on_rack(session, tag)
        seen = view_cache.look_at(session, row.id, now)
        return view_cache.until_changed(
            session, ("book", row.id, asked, now.date()), lambda: _read(session, row, seen, asked)
        )


def _read(session: Session, row: MotorRow, seen: view_cache.Look, asked: Asked) -> Book:
    pages = readings.book(session, row.id)
    everything = [r for _, rows in pages for r in rows]
    taken_in = {_step_of(r) for r in everything}
    alone = bool(asked.measure or asked.rig or asked.step)
    chosen = [(check, [r for r in rows if _asked_for(r, asked)]) for check, rows in pages]
    chosen = [(check, rows) for check, rows in chosen if rows or not alone]
    shown = chosen[asked.skip : asked.skip + CHECKS_A_PAGE]
    return Book(
        row,
        seen,
        _visits(session, row.id, shown, alone),
        motors.event_rows(session, row.id),
        asked,
        sorted({r.measure for r in everything}, key=list(MEASURES).index),
        sorted({r.rig for r in everything if r.rig}),
        [n for n in STEPS if n in taken_in],
        len(chosen),
        changes.of_motor(session, row.id, ACTS),
    )


def _visits(
    session: Session, motor_id: str, shown: Sequence[tuple[CheckRow, Sequence[ReadingRow]]], alone: bool
) -> list[Visit]:
    """The checks of a page with these readings, `alone` without what was found in them."""
    ids = [check.id for check, _ in shown]
    before = readings.before_correction(session, [r.id for _, rows in shown for r in rows])
    found = findings.of_motors(session, [motor_id]).get(motor_id) or Findings()
    said = findings.said(session, ids)
    signed = cached_verdicts.all_signed(session, [motor_id])
    left = typed_not_taken.of_closed(session, [check.id for check, _ in shown if not check.open])
    visits = []
    for check, rows in shown:
        pictures = [p.id for p in found.pictures if p.check == check.id and not alone]
        sounds = [r for r in found.recordings if r.check == check.id and not alone]
        told = [] if alone else _found(check, said)
        visit = _visit(check, rows, before, told, pictures, sounds, signed)
        visits.append(visit if alone else replace(visit, typed_not_taken=left.get(check.id, ())))
    return visits


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
    if what == "move":
        _move(session, motor, row, typed, now)
        return
    if what not in does:
        raise InputError("reading", f"“{what}” is none of correct, set aside, count again, move")
    values, words = does[what]()
    change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, row.check_id, detail=words)
    changes.revise(session, change_id, [(row, values)])
    readings.mark_again(session, [row])
    motors.touch(session, [motor.id])


def _move(session: Session, motor: MotorRow, row: ReadingRow, typed: Mapping[str, str], now: datetime) -> None:
    """Store a reading, or all that counts of its check, where it belongs, and set it aside here."""
    tag, rig = (" ".join(typed.get(n, "").split()) for n in ("to", "to_rig"))
    target = motors.find(session, tag) if tag else motor
    if target is None:
        raise InputError("reading", f"{tag} is no motor of this rack")
    if len(rig) > LONGEST_RIG:
        raise InputError("reading", f"a rig's name has {LONGEST_RIG} characters at most")
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


def _asked_for(row: ReadingRow, asked: Asked) -> bool:
    return (
        asked.measure in ("", row.measure)
        and asked.rig in ("", row.rig)
        and (not asked.step or _step_of(row) == asked.step)
    )


def _step_of(row: ReadingRow) -> str:
    return _step_that_takes(row.measure, Purpose(row.purpose))


@cache
def _step_that_takes(measure: str, purpose: Purpose) -> str:
    """The step that readings of a measure, taken for a purpose, belong to."""
    reading = Reading(measure, 0.0, datetime.min, purpose=purpose)
    return next((s.name for s in STEPS.values() if s.owns(reading)), "")


def _visit(
    check: CheckRow,
    rows: Sequence[ReadingRow],
    before: Mapping[str, Sequence[float]],
    found: Sequence[Found],
    pictures: Sequence[str],
    recordings: Sequence[findings.Recording],
    signed: Sequence[SignedRow],
) -> Visit:
    by: dict[str, list[ReadingRow]] = {}
    for row in rows:
        by.setdefault(_step_of(row), []).append(row)
    steps = [
        StepRead(
            name,
            STEPS[name].title if name else OTHER,
            list(dict.fromkeys(r.measure for r in sorted(by[name], key=lambda r: list(MEASURES).index(r.measure)))),
            _lines(by[name], before, check.rig),
        )
        for name in (*STEPS, "")
        if name in by
    ]
    mine = [s for s in signed if s.check_id == check.id]
    return Visit(check, steps, found, pictures, recordings, mine)


def _lines(rows: Sequence[ReadingRow], before: Mapping[str, Sequence[float]], rig: str) -> list[Line]:
    together: dict[tuple[object, ...], list[ReadingRow]] = {}
    for r in rows:
        place = (r.run, r.throttle_pct, r.on_shaft, r.placement, r.timing_set_deg, r.rig, r.purpose)
        together.setdefault(place, []).append(r)
    found = []
    for mine in together.values():
        cells: dict[str, list[Entry]] = {}
        for r in sorted(mine, key=lambda r: (r.position or 0, r.angle_deg or 0.0)):
            cells.setdefault(r.measure, []).append(Entry(r, before.get(r.id, ())))
        notes = list(dict.fromkeys(r.note for r in mine if r.note))
        found.append(Line(mine[0].run, under_words(mine, rig), cells, notes, _worked_out(cells)))
    return found


def _worked_out(cells: Mapping[str, Sequence[Entry]]) -> dict[str, float]:
    """Watts and grams per watt of a load row."""

    def read(measure: str) -> float | None:
        return next((e.row.value for e in cells.get(measure, ()) if e.row.accepted), None)

    row = load.LoadRow("", None, read("load_volts"), read("load_current"), read("load_watts"), None, read("thrust"))
    watts, found = load.power(row), {}
    if watts and row.watts is None:
        found["V·A, W"] = watts
    if watts and row.thrust_g:
        found["g/W"] = load.grams_per_watt(row.thrust_g, watts)
    return found


def under_words(rows: Sequence[ReadingRow], rig: str) -> list[str]:
    """Under which conditions readings were taken together, the rig where it is not that of the check."""
    return words_under([readings.to_reading(r).conditions for r in rows], rig)


def words_under(conditions: Sequence[Conditions], rig: str = "") -> list[str]:
    """Conditions in words, the rig where it is not the one that is known anyway."""

    def first(name: str) -> float | str | None:
        return next((v for c in conditions if (v := getattr(c, name)) not in (None, "")), None)

    said = []
    for name, words in _UNDER.items():
        value = first(name)
        if value is not None and not (name == "rig" and value == rig):
            value = (
                round(value, 1) if name.endswith("_c") and isinstance(value, float) else value
            )  # 72 °F is 22.222… °C
            said.append(words.format(f"{value:g}" if isinstance(value, float) else value))
    return said


_UNDER: Mapping[str, str] = {
    "on_shaft": "{}", "throttle_pct": "{} %", "supply_v": "{} V supply", "placement": "on the {}",
    "distance_cm": "{} cm away", "meter": "by {}", "timing_set_deg": "set to {}°", "motor_c": "motor {} °C",
    "ambient_c": "air {} °C", "method": "{}", "rig": "on {}", "pack": "pack {}", "cells": "{} cells",
    "pack_mohm": "pack of {} mΩ", "spot": "at the {}", "lever": "lever {}",
}  # fmt: skip
assert set(_UNDER) == set(Conditions.__dataclass_fields__)


def _found(check: CheckRow, rows: Sequence[Any]) -> list[Found]:
    """What was found in a check without a number, as one says it."""
    told = [
        Found(row.__tablename__, row.id, _WORDS[row.__tablename__](row), getattr(row, "state", ""))
        for row in rows
        if row.check_id == check.id
    ]
    for name, words in (("first_spin", "first spin"), ("sweep", "sweep")):
        if state := getattr(check, name):
            told.append(Found(name, check.id, f"{words}: {state}"))
    return told


_WORDS: Mapping[str, Callable[[Any], str]] = {
    "inspection": lambda r: (
        f"{ITEMS[r.item].title if r.item in ITEMS else r.item}: {r.state}{f', {r.note}' if r.note else ''}"
    ),
    "hall_lamps": lambda r: f"Hall lamps: {r.kind.replace('_', ' ')}",
    "cross_tried": lambda r: "; ".join(
        f"swap test, {n.replace('_', ' ')}: {ran}" for n in TRIALS if (ran := getattr(r, n))
    ),
    "pole_count": lambda r: f"poles: {r.poles if r.poles is not None else 'not settled'}, {r.known_by}",
    "guard_trip": lambda r: f"stopped: {r.kind.replace('_', ' ')} {r.detail}".rstrip(),
    "overrule": lambda r: f"overruled, {r.subject.replace('_', ' ')}: {r.reason}",
    "picture": lambda r: f"picture, {ITEMS[r.item].title if r.item in ITEMS else r.item}",
    "sound": lambda r: f"recording, {r.note or r.step.replace('_', ' ')}",
}
_SAID: Mapping[str, Any] = {m.__tablename__: m for m in (*findings.SAID, *ATTACHED)} | {"event": EventRow}


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
    model = _SAID.get(kind)
    row = changes.standing(session, model, row_id) if model else None
    check = readings.check(session, row.check_id) if row is not None and kind != "event" else None
    owner = row.motor_id if row is not None and kind == "event" else check[1].id if check else None
    if row is None or owner != motor.id:
        raise _gone()
    state = typed.get("state", "")
    if kind == "sound" and "note" in typed:
        note = sounds.read_note(typed["note"])
        words = f"{_WORDS[kind](row)}: now {note or 'without words'}"
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
        words = row.event.replace("_", " ") if kind == "event" else _WORDS[kind](row)
        change_id = changes.record(session, ChangeKind.CORRECT, now, motor.id, detail=f"{words} taken back")
    row.withdrawn_by = change_id
    if kind == "event":
        row.fingerprint = None  # so that it can be logged again
    session.flush()
