"""A motor's own file: everything known of one motor, written on handing over and taken in by another pit.

The rows keep the identifiers they were made with. The rigs in it are named with the pit they stand in: taken in
elsewhere they are rigs of another pit, whose readings compare with those of one's own only through motors that were
read on both.
"""

from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

import waldhorn
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import HANDED_BUT_KEPT, Event
from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.motors.facts import impossible
from waldhorn.exchange.backup import WRITTEN_BY, must_be_read_by_this
from waldhorn.exchange.complaints import complaints
from waldhorn.exchange.merging import Merged, Merging
from waldhorn.exchange.rows import MotorsRow
from waldhorn.exchange.stored_rows import checked, plain
from waldhorn.store import fingerprints, motors, pit, readings
from waldhorn.store.changes import not_undone
from waldhorn.store.models import (
    FINDINGS,
    CheckRow,
    EventRow,
    MotorRow,
    PictureRow,
    ReadingRow,
    RigRow,
    SignedRow,
    SoundRow,
    timestamp,
)

VERSION = 1
MARK = "waldhorn_motor"
SUFFIX = ".waldhorn.json"
_WORKED_OUT = ("tag_key", "model_key", "search")
_OWN_CHANGES = ("change_id", "withdrawn_by")
_OF_RIG = ("what", "connected", "measures", "settings")
_KINDS: Mapping[str, Any] = {model.__tablename__: model for model in FINDINGS}

Document = dict[str, Any]


def file_name(tag: str) -> str:
    """What a motor's own file is called."""
    return "".join(c if c.isalnum() or c in "-_ " else "_" for c in tag) + SUFFIX


def write(session: Session, motor_id: str, now: datetime) -> Document:
    """Everything known of one motor."""
    row = motors.get(session, motor_id)
    here = pit.load(session)
    checks = [one | {"readings": []} for one in _rows(session, CheckRow, CheckRow.motor_id == motor_id)]
    by_id = {one["id"]: one for one in checks}
    of_checks = select(CheckRow.id).where(CheckRow.motor_id == motor_id)
    for one in _rows(session, ReadingRow, ReadingRow.check_id.in_(of_checks)):
        if (check := by_id.get(one.pop("check_id"))) is not None:
            check["readings"].append(one)
    found = [
        {"finding": kind} | one
        for kind, model in _KINDS.items()
        for one in _rows(session, model, model.check_id.in_(of_checks))
    ]
    facts = _plain(row, MotorRow)
    return {
        MARK: VERSION,
        WRITTEN_BY: waldhorn.__version__,
        "written_at": now.isoformat(),
        "pit": {"id": here.pit_id, "name": here.name},
        "rigs": list(_rigs(session, checks, here)),
        "motor": {("class" if n == "motor_class" else n): v for n, v in facts.items() if n not in _WORKED_OUT},
        "events": list(_rows(session, EventRow, EventRow.motor_id == motor_id)),
        "checks": checks,
        "findings": found,
        "signed": list(_rows(session, SignedRow, SignedRow.motor_id == motor_id)),
        "pictures": list(_rows(session, PictureRow, PictureRow.check_id.in_(of_checks))),
        "sounds": list(_rows(session, SoundRow, SoundRow.check_id.in_(of_checks))),
    }


def _rows(session: Session, model: Any, which: Any) -> Iterator[Document]:
    for row in session.scalars(select(model).where(which, not_undone(model)).order_by(model.id)):
        yield {n: v for n, v in _plain(row, model).items() if n not in ("motor_id", "fingerprint")}


def _plain(row: Any, model: Any) -> Document:
    return {c.name: plain(getattr(row, c.name)) for c in model.__table__.columns if c.name not in _OWN_CHANGES}


def _rigs(session: Session, checks: list[Document], here: pit.Pit) -> Iterator[Document]:
    """The rigs that a motor was read on, each with its pit and what it is called there."""
    named = {r["rig"] for c in checks for r in (c, *c["readings"]) if r["rig"]}
    others = pit.rigs_of_others(session)
    for name in sorted(named):
        pit_id, pit_name, own = others.get(name, (here.pit_id, here.name, name))
        row = session.get(RigRow, name)
        said = {n: getattr(row, n) if row else "" for n in _OF_RIG}
        yield {"name": name, "pit_id": pit_id, "pit_name": pit_name, "own_name": own} | said


def is_motor_file(document: Document) -> bool:
    """Whether a document is a motor's own file."""
    return MARK in document


def in_words(document: Document, name: str) -> str:
    """What a motor's own file holds."""
    tag = _object(document, "motor", name).get("tag", "")
    checks = _list(document, "checks", name)
    count = sum(len(_list(c, "readings", name)) for c in checks)
    attached = ", ".join(f"{len(_list(document, part, name))} {part}" for part in ("pictures", "sounds"))
    return f"{tag} of {_of(_object(document, 'pit', name))}: {len(checks)} checks, {count} readings, {attached}"


def merge_motor(session: Session, document: Document, name: str, now: datetime, change_id: str) -> Merged:
    """Take a motor in with all that is known of it, or what is new of one that is here; raises InputError.

    One that comes from another pit hangs on this rack from now on, which is noted as a handing over.
    """
    must_be_read_by_this(MARK, VERSION, document, name)
    here, away = pit.load(session), _object(document, "pit", name)
    at_home = away.get("id") in (here.pit_id, *here.also)
    meant = _meant_rigs(session, document, here, name)
    merging = Merging(session, change_id)
    motor = _motor(session, document, name, change_id)
    said = _tag_of_its_own(session, motor, at_home, str(away.get("name", "")))
    merging.merge(MotorRow, [motor], f"{name}: motor")
    motor_id = merging.meant(motor["id"])
    checks, found = _of_checks(document, name, change_id, motor_id, meant)
    merging.merge(CheckRow, checks, f"{name}: checks")
    merging.merge(ReadingRow, found, f"{name}: readings")
    events = [_marked_event(e, name) for e in _in_motor(document, "events", name, change_id, motor_id)]
    merging.merge(EventRow, events, f"{name}: events")
    for kind, rows in _findings(document, name, change_id).items():
        merging.merge(_KINDS[kind], rows, f"{name}: findings: {kind}")
    merging.merge(SignedRow, _in_motor(document, "signed", name, change_id, motor_id), f"{name}: signed")
    for part, model in (("pictures", PictureRow), ("sounds", SoundRow)):
        merging.merge(model, [one | {"change_id": change_id} for one in _list(document, part, name)], f"{name}: {part}")
    done = merging.finish()
    done.conflicts[:0] = said
    if _is_away(session, motor_id, at_home):
        event = Event(EventKind.HANDED_OVER, now, detail=f"taken in from {_of(away)}", item=HANDED_BUT_KEPT)
        motors.add_events(session, [(motor_id, event)], change_id)
        motors.touch(session, [motor_id])
    return done


def _of(away: Document) -> str:
    return str(away.get("name") or "another pit")[:60]


def _is_away(session: Session, motor_id: str, at_home: bool) -> bool:
    """Whether the last that is known of a motor is that it was given away."""
    handed = [e for _, e in motors.events_of(session, [motor_id]) if e.event is EventKind.HANDED_OVER]
    return handed[-1].item != HANDED_BUT_KEPT if handed else not at_home


def _object(document: Document, part: str, name: str) -> Document:
    found = document.get(part, {})
    if not isinstance(found, dict):
        raise InputError("file", f'{name}: "{part}" is no object')
    return found


def _list(document: Document, part: str, name: str) -> list[Document]:
    found = document.get(part, [])
    if not isinstance(found, list) or not all(isinstance(one, dict) for one in found):
        raise InputError("file", f'{name}: "{part}" is no list of objects')
    return found


def _in_motor(document: Document, part: str, name: str, change_id: str, motor_id: str) -> list[Document]:
    return [one | {"motor_id": motor_id, "change_id": change_id} for one in _list(document, part, name)]


def _motor(session: Session, document: Document, name: str, change_id: str) -> Document:
    """The facts as a row, with the same refusals as a row of motors.csv."""
    given = dict(_object(document, "motor", name))
    kept = {n: given.pop(n, None) for n in ("id", "changed_at")}
    try:
        motor = MotorsRow.model_validate({n: v for n, v in given.items() if v not in (None, "")}).to_motor()
    except ValidationError as error:
        column, words = complaints(error)[0]
        raise InputError("file", f"{name}: motor: {column}: {words}") from error
    if wrong := impossible(motor):
        column, words = next(iter(wrong.items()))
        raise InputError("file", f"{name}: motor: {column}: {words}")
    before = session.get(MotorRow, str(kept["id"]))
    if before and before.on_rack:  # what it is called and who has it is this pit's own affair
        own = {n: getattr(before, n) for n in ("tag", "owner", "machine", "position", "reference")}
        motor = type(motor)(**{n: getattr(motor, n) for n in motors.MOTOR_FIELDS} | own)
    return kept | motors.columns(motor) | {"change_id": change_id}


def _tag_of_its_own(session: Session, row: Document, at_home: bool, pit_name: str) -> list[str]:
    """Where another motor has its tag already, one from another pit gets a tag that is free."""
    there = motors.find(session, row["tag"])
    if there is None or there.id == row["id"] or at_home:
        return []
    old, taken = row["tag"], motors.ids_by_tag(session)
    stem = f"{old[:28]} {(pit_name or 'other pit')[:10]}"
    tag, count = stem, 2
    while key_of(tag) in taken:
        tag, count = f"{stem[:37]} {count}", count + 1
    motor = motors.to_motor(MotorRow(**{n: row[n] for n in motors.MOTOR_FIELDS} | {"tag": tag}))
    row |= motors.columns(motor)
    return [f"{there.tag} is another motor on this rack: the one that came is called {tag}, until you name it"]


def _meant_rigs(session: Session, document: Document, here: pit.Pit, name: str) -> dict[str, str]:
    """What each rig of a file is called here: one of another pit gets a name of its own, with its pit."""
    known = {(pit_id, own): called for called, (pit_id, _, own) in pit.rigs_of_others(session).items()}
    meant: dict[str, str] = {}
    for one in _list(document, "rigs", name):
        called, pit_id, pit_name, own = (str(one.get(n, ""))[:60] for n in ("name", "pit_id", "pit_name", "own_name"))
        if pit_id in (here.pit_id, *here.also):
            meant[called] = own
        elif (pit_id, own) in known:
            meant[called] = known[pit_id, own]
        else:
            meant[called] = _add_rig(session, one, pit_id, pit_name, own or called)
            known[pit_id, own] = meant[called]
    return meant


def _add_rig(session: Session, one: Document, pit_id: str, pit_name: str, own: str) -> str:
    stem = f"{own} of {pit_name or 'another pit'}"
    called, count = stem, 2
    while session.get(RigRow, called) is not None:
        called, count = f"{stem} {count}", count + 1
    said = {n: str(one.get(n, ""))[:500] for n in _OF_RIG}
    session.execute(
        insert(RigRow).values(name=called, pit_id=pit_id, pit_name=pit_name, own_name=own, put_right_at=None, **said)
    )
    return called


def _of_checks(
    document: Document, name: str, change_id: str, motor_id: str, meant: Mapping[str, str]
) -> tuple[list[Document], list[Document]]:
    """Checks and readings as rows, on the rigs that are meant, each reading with its fingerprint."""
    checks, found = [], []
    for check in _list(document, "checks", name):
        mine = _list(check, "readings", f"{name}: checks")
        of = {n: v for n, v in check.items() if n != "readings"}
        rig = meant.get(str(of.get("rig")), of.get("rig", ""))
        checks.append(of | {"motor_id": motor_id, "change_id": change_id, "rig": rig, "open": False})
        for one in mine:
            rig = meant.get(str(one.get("rig")), one.get("rig", ""))
            found.append(one | {"check_id": check.get("id"), "change_id": change_id, "rig": rig, "fingerprint": None})
    for one, row in zip(found, checked(ReadingRow, found, f"{name}: readings"), strict=True):
        one["fingerprint"] = fingerprints.of_reading(readings.to_reading(ReadingRow(**row)), timestamp(row["at"]))
    return checks, found


def _marked_event(one: Document, name: str) -> Document:
    [row] = checked(EventRow, [one | {"fingerprint": None}], f"{name}: events")
    told = (row[n] for n in ("at", "count", "detail", "item", "machine", "position"))
    event = Event(EventKind(row["event"]), *told)
    return one | {"fingerprint": fingerprints.of_event(event, timestamp(row["at"]))}


def _findings(document: Document, name: str, change_id: str) -> dict[str, list[Document]]:
    found: dict[str, list[Document]] = {kind: [] for kind in _KINDS}
    for one in _list(document, "findings", name):
        row = dict(one)
        kind = str(row.pop("finding", ""))
        if kind not in _KINDS:
            raise InputError("file", f"{name}: findings: “{kind}” is no kind of finding: {', '.join(_KINDS)}")
        found[kind].append(row | {"change_id": change_id})
    return found
