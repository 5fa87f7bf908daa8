"""The book of a motor: every check with all that was read in it, and each reading can be put right there.

What is corrected or set aside keeps what it was; each is a change of its own that can be undone.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Event
from waldhorn.core.base.units import read_number
from waldhorn.core.measuring import load
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.judging import view_cache
from waldhorn.pit.judging.unit_of_work import changing
from waldhorn.pit.motors.signing import LONGEST_REASON
from waldhorn.store import cached_verdicts, changes, findings, motors, readings
from waldhorn.store.engine import Store
from waldhorn.store.findings import Findings
from waldhorn.store.models import ChangeKind, ChangeRow, CheckRow, MotorRow, ReadingRow, SignedRow

CHECKS_A_PAGE = 8
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
class Visit:
    """A check: what was read step by step, what was found by eye and hand, its pictures, who signed it."""

    check: CheckRow
    steps: Sequence[StepRead]
    found: Sequence[str]
    pictures: Sequence[str]
    signed: Sequence[SignedRow]


@dataclass(frozen=True)
class Asked:
    """What of the book is to be seen: a measure, a rig, a step (all where empty), and from which check on."""

    measure: str = ""
    rig: str = ""
    step: str = ""
    skip: int = 0


@dataclass(frozen=True)
class Book:
    """The pages asked for, newest check first, with the events, what can be chosen, and how many checks there are."""

    row: MotorRow
    seen: view_cache.Look
    visits: Sequence[Visit]
    events: Sequence[Event]
    asked: Asked
    measures: Sequence[str]
    rigs: Sequence[str]
    steps: Sequence[str]
    checks: int
    last: ChangeRow | None
    wrong: Mapping[str, str] = field(default_factory=dict)


def look(store: Store, tag: str, now: datetime, asked: Asked) -> Book:
    """The book of a motor; raises NotThere."""
    with store.reading() as session:
        row = motors.on_rack(session, tag)
        pages = readings.book(session, row.id)
        before = readings.before_correction(session, [r.id for _, rows in pages for r in rows])
        found = findings.of_motors(session, [row.id]).get(row.id) or Findings()
        signed = cached_verdicts.all_signed(session, [row.id])
        everything = [r for _, rows in pages for r in rows]
        visits = []
        for check, rows in pages:
            chosen = [r for r in rows if _asked_for(r, asked)]
            alone = asked.measure or asked.rig or asked.step
            if chosen or not alone:
                visits.append(_visit(check, chosen, before, found if not alone else Findings(), signed))
        return Book(
            row,
            view_cache.look_at(session, row.id, now),
            visits[asked.skip : asked.skip + CHECKS_A_PAGE],
            [e for _, e in motors.events_of(session, [row.id])],
            asked,
            sorted({r.measure for r in everything}, key=list(MEASURES).index),
            sorted({r.rig for r in everything if r.rig}),
            [n for n in STEPS if any(_step_of(r) == n for r in everything)],
            len(visits),
            changes.last(session, row.id),
        )


def correct(session: Session, motor: MotorRow, reading_id: str, typed: Mapping[str, str], now: datetime) -> None:
    """Put a reading right: another value, set aside with a reason, or counted again; raises InputError."""
    row = readings.of_book(session, motor.id, reading_id)
    if row is None:
        raise InputError("reading", "this reading is there no more: somebody took it back")
    measure = MEASURES[row.measure]
    does: Mapping[str, Callable[[], tuple[dict[str, object], str]]] = {
        "correct": lambda: _corrected(row, typed.get("value", "")),
        "aside": lambda: ({"accepted": False, "aside_reason": _reason(typed)}, f"{measure.title} set aside"),
        "back": lambda: ({"accepted": True, "aside_reason": ""}, f"{measure.title} counts again"),
    }
    what = typed.get("do", "correct")
    if what not in does:
        raise InputError("reading", f"“{what}” is none of correct, set aside, count again")
    values, words = does[what]()
    act = changes.record(session, ChangeKind.CORRECT, now, motor.id, row.check_id, detail=words)
    changes.revise(session, act, [(row, values)])
    motors.touch(session, [motor.id])


def put_right(store: Store, tag: str, now: datetime, reading_id: str, typed: Mapping[str, str]) -> str:
    """Put a reading right and judge again; returns the answer as it was before. Raises NotThere, InputError."""
    with changing(store, now) as session:
        row = motors.on_rack(session, tag)
        before = view_cache.look_at(session, row.id, now).judgement.headline
        correct(session, row, reading_id, typed, now)
    return before


def _corrected(row: ReadingRow, text: str) -> tuple[dict[str, object], str]:
    measure = MEASURES[row.measure]
    value = read_number(text, measure.title, measure.dimension, measure.low, measure.high)
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
    reading = readings.to_reading(row)
    return next((s.name for s in STEPS.values() if s.owns(reading)), "")


def _visit(
    check: CheckRow,
    rows: Sequence[ReadingRow],
    before: Mapping[str, Sequence[float]],
    found: Findings,
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
    pictures = [p.id for p in found.pictures if p.check == check.id]
    return Visit(check, steps, _found_words(check.id, found), pictures, mine)


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
    conditions = [readings.to_reading(r).conditions for r in rows]

    def first(name: str) -> float | str | None:
        return next((v for c in conditions if (v := getattr(c, name)) not in (None, "")), None)

    said = []
    for name, words in _UNDER.items():
        value = first(name)
        if value is not None and not (name == "rig" and value == rig):
            said.append(words.format(f"{value:g}" if isinstance(value, float) else value))
    return said


_UNDER: Mapping[str, str] = {
    "on_shaft": "{}", "throttle_pct": "{} %", "supply_v": "{} V supply", "placement": "on the {}",
    "distance_cm": "{} cm away", "meter": "by {}", "timing_set_deg": "set to {}°", "motor_c": "motor {} °C",
    "ambient_c": "air {} °C", "method": "{}", "rig": "on {}", "pack": "pack {}", "cells": "{} cells",
    "pack_mohm": "pack of {} mΩ", "spot": "at the {}", "lever": "lever {}",
}  # fmt: skip
assert set(_UNDER) == set(Conditions.__dataclass_fields__)


def _found_words(check_id: str, found: Findings) -> list[str]:
    """What was found without a number, as one says it."""
    said = [
        f"{ITEMS[i.item].title if i.item in ITEMS else i.item}: {i.state}{f', {i.note}' if i.note else ''}"
        for i in found.inspected
        if i.check == check_id
    ]
    said += [f"Hall lamps: {s.kind.replace('_', ' ')}" for s in found.lamps if s.check == check_id]
    for crossed in (c for c in found.crossed if c.check == check_id):
        said += [f"swap test, {name.replace('_', ' ')}: {ran}" for name, ran in crossed.trials.items()]
    said += [
        f"poles: {p.poles if p.poles is not None else 'not settled'}, {p.known_by}"
        for p in found.poles
        if p.check == check_id
    ]
    said += [
        f"stopped: {t.kind.replace('_', ' ')} {t.detail}".rstrip() for t in found.guard_trips if t.check == check_id
    ]
    return said + [
        f"overruled, {o.subject.replace('_', ' ')}: {o.reason}" for o in found.overruled if o.check == check_id
    ]
