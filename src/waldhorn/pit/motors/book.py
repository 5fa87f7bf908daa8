"""The book of a motor: every check with all that was read and found in it. Putting it right is `corrections`."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cache
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import CONDITIONS, Conditions
from waldhorn.core.base.history import TRIALS, Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring import load
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.pit.bench import typed_not_taken
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.typed_not_taken import TypedNotTaken
from waldhorn.pit.judging import view_cache
from waldhorn.pit.writing import Store
from waldhorn.store import cached_verdicts, changes, findings, motors, readings
from waldhorn.store.findings import Findings
from waldhorn.store.models import (
    ATTACHED,
    ChangeRow,
    CheckRow,
    EventRow,
    MotorRow,
    ReadingRow,
    SignedRow,
)

CHECKS_A_PAGE = 8
ACTS = 100
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

    @property
    def first(self) -> ReadingRow:
        """The reading that stands for the line."""
        return next(iter(self.cells.values()))[0].row


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
    taken_in = {step_of(r) for r in everything}
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


def place_in_book(row: ReadingRow) -> tuple[object, ...]:
    """What is equal of readings that stand in one line of the book."""
    return (row.run, row.throttle_pct, row.on_shaft, row.placement, row.timing_set_deg, row.rig, row.purpose)


def _asked_for(row: ReadingRow, asked: Asked) -> bool:
    return (
        asked.measure in ("", row.measure)
        and asked.rig in ("", row.rig)
        and (not asked.step or step_of(row) == asked.step)
    )


def step_of(row: ReadingRow) -> str:
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
        by.setdefault(step_of(row), []).append(row)
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
        together.setdefault(place_in_book(r), []).append(r)
    found = []
    for mine in together.values():
        cells: dict[str, list[Entry]] = {}
        for r in sorted(mine, key=lambda r: (r.position or 0, r.angle_deg or 0.0)):
            cells.setdefault(r.measure, []).append(Entry(r, before.get(r.id, ())))
        notes = list(dict.fromkeys(r.note for r in mine if r.note))
        under = under_words(mine, rig)
        if mine[0].purpose == Purpose.REFERENCE:  # of the reference motor, not of this one
            under, notes = [*notes, *under], []
        found.append(Line(mine[0].run, under, cells, notes, _worked_out(cells)))
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
    for name, condition in CONDITIONS.items():
        value = first(name)
        if value is not None and not (name == "rig" and value == rig):
            value = (
                round(value, 1) if name.endswith("_c") and isinstance(value, float) else value
            )  # 72 °F is 22.222… °C
            said.append(condition.said.format(f"{value:g}" if isinstance(value, float) else value))
    return said


def _found(check: CheckRow, rows: Sequence[Any]) -> list[Found]:
    """What was found in a check without a number, as one says it."""
    told = [
        Found(row.__tablename__, row.id, FINDING_WORDS[row.__tablename__](row), getattr(row, "state", ""))
        for row in rows
        if row.check_id == check.id
    ]
    for name, words in (("first_spin", "first spin"), ("sweep", "sweep")):
        if state := getattr(check, name):
            told.append(Found(name, check.id, f"{words}: {state}"))
    return told


FINDING_WORDS: Mapping[str, Callable[[Any], str]] = {
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
SAID: Mapping[str, Any] = {m.__tablename__: m for m in (*findings.SAID, *ATTACHED)} | {"event": EventRow}
