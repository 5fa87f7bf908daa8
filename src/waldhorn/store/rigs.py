"""Rigs as the store knows them: by the name that was typed with their readings, and as they were described."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, fields
from datetime import UTC, date, datetime, timedelta
from typing import Any

from sqlalchemy import and_, bindparam, delete, distinct, func, insert, literal, null, or_, select, union_all, update
from sqlalchemy.dialects.sqlite import insert as upsert
from sqlalchemy.orm import Session

from waldhorn.core.base.text import key_of
from waldhorn.core.judging.translated import Lines
from waldhorn.core.rigs import day_shift
from waldhorn.core.rigs.calibration import Translation
from waldhorn.core.rigs.day_shift import Moved, RigShift
from waldhorn.core.rigs.pairs import RigPair
from waldhorn.core.rigs.reference_motor import Drifted
from waldhorn.store import fingerprints
from waldhorn.store.changes import not_undone
from waldhorn.store.models import (
    CheckRevisionRow,
    CheckRow,
    LatestRow,
    MotorRow,
    ReadingRow,
    RigDriftRow,
    RigLineRow,
    RigNameRow,
    RigPairRow,
    RigRow,
    RigShiftRow,
    StudyRow,
    Timestamp,
    TimingGoalRow,
    timestamp,
)
from waldhorn.store.motors import bump, only
from waldhorn.store.readings import to_reading

Place = tuple[str, str, str]  # rig, other rig and quantity
_LINE = tuple(f.name for f in fields(Translation))


_EVER = datetime.max.replace(tzinfo=UTC)
_AS_OF = bindparam("as_of", type_=Timestamp())
# Made once: composing a statement takes longer than running it.
_SAID: Any = union_all(
    select(
        literal("drift").label("kind"),
        RigDriftRow.rig,
        null().label("other"),
        RigDriftRow.quantity,
        RigDriftRow.since,
        RigDriftRow.until,
        *(null() for _ in _LINE),
    ).where(RigDriftRow.since <= _AS_OF),
    select(
        literal("line"),
        RigLineRow.rig,
        RigLineRow.other,
        RigLineRow.quantity,
        RigLineRow.at,
        null(),
        *(getattr(RigLineRow, n) for n in _LINE),
    ).where(RigLineRow.at <= _AS_OF),
    select(
        literal("shift"),
        RigShiftRow.rig,
        RigShiftRow.day,
        RigShiftRow.quantity,
        null(),
        null(),
        RigShiftRow.value,
        RigShiftRow.u,
        *(null() for _ in _LINE[3:]),
        RigShiftRow.motors,
    ).where(RigShiftRow.day <= _AS_OF),
)
MOST_LOOKED_THROUGH = 60
_LATELY = timedelta(days=60)  # a rig that nobody has put right or held against a reference since is known by then
_DAY = func.substr(LatestRow.at, 1, 10)
_ON_RIG = func.json_extract(LatestRow.conditions, "$.rig")


@dataclass(frozen=True, slots=True)
class RigUse:
    """How much rests on a rig: readings, checks, motors, the ways KV is taken on it, when it was last used."""

    name: str
    readings: int
    checks: int
    motors: int
    methods: tuple[str, ...]
    last_at: datetime


@dataclass(frozen=True, slots=True)
class Described:
    """A rig as it was described: what it is, how it is connected, which amps it measures, how it is set."""

    what: str = ""
    connected: str = ""
    measures: str = ""
    settings: str = ""
    put_right_at: datetime | None = None


def last_read(session: Session, rig: str, quantity: str) -> dict[str, float | None]:
    """What was read of motors last, by tag, None where nothing was: those read on this rig first, then those read
    latest, as many as can be looked through."""
    read = and_(LatestRow.motor_id == MotorRow.id, LatestRow.quantity == quantity)
    query = select(MotorRow.tag, LatestRow.value).outerjoin(LatestRow, read).where(MotorRow.on_rack)
    order = (_ON_RIG.is_distinct_from(rig), LatestRow.at.desc().nulls_last(), MotorRow.tag_key)
    rows = session.execute(query.order_by(*order).limit(MOST_LOOKED_THROUGH))
    return {tag: value for tag, value in rows}  # noqa: C416


def uses(session: Session, name: str | None = None) -> list[RigUse]:
    """Every rig that readings name, or one, the most used first."""
    r = ReadingRow
    query = (
        select(
            r.rig,
            func.count(),
            func.count(distinct(r.check_id)),
            func.count(distinct(CheckRow.motor_id)),
            func.group_concat(distinct(r.method)),
            func.max(r.at),
        )
        .join(CheckRow, CheckRow.id == r.check_id)
        .where(not_undone(r), r.rig != "")
        .group_by(r.rig)
        .order_by(func.count().desc(), r.rig)
    )
    if name is not None:
        query = query.where(r.rig == name)
    return [
        RigUse(rig, readings, checks, motors, tuple(sorted(m for m in (methods or "").split(",") if m)), at)
        for rig, readings, checks, motors, methods, at in session.execute(query)
    ]


def of_checks(session: Session) -> list[str]:
    """The names of the rigs that checks were opened on."""
    query = select(CheckRow.rig).where(not_undone(CheckRow), CheckRow.rig != "").distinct()
    return list(session.scalars(query.order_by(CheckRow.rig)))


def described(session: Session, name: str) -> Described:
    """What is said of a rig; nothing, where nobody said anything."""
    row = session.get(RigRow, name)
    return Described(row.what, row.connected, row.measures, row.settings, row.put_right_at) if row else Described()


def describe(session: Session, name: str, said: Described) -> None:
    """Keep what is said of a rig."""
    values = {n: getattr(said, n) for n in Described.__slots__}
    statement = upsert(RigRow).values(name=name, **values)
    session.execute(statement.on_conflict_do_update(index_elements=["name"], set_=values))
    bump(session)


def put_right(session: Session) -> dict[str, datetime]:
    """When each rig was put right last."""
    query = select(RigRow.name, RigRow.put_right_at).where(RigRow.put_right_at.is_not(None))
    return {name: at for name, at in session.execute(query) if at}


def names(session: Session) -> dict[str, str]:
    """Which rig is meant by each name that was typed for another, as it is compared."""
    query = select(RigNameRow.key, RigNameRow.name)
    return {key: name for key, name in session.execute(query) if key != key_of(name)}


def meant(session: Session, typed: str) -> str:
    """The rig that is meant: one that is known by that name, however it is spaced or cased; else the name as it is."""
    name, key = " ".join(typed.split()), key_of(" ".join(typed.split()))
    known = session.scalar(select(RigNameRow.name).where(RigNameRow.key == key))
    if known is None:
        used = session.scalars(select(CheckRow.rig).where(CheckRow.rig != "").distinct())
        known = next((rig for rig in used if key_of(rig) == key), name)
        _call(session, key, known)
    return known


def _call(session: Session, key: str, name: str) -> None:
    statement = upsert(RigNameRow).values(key=key, name=name)
    session.execute(statement.on_conflict_do_update(index_elements=["key"], set_={"name": name}))


def rename(session: Session, old: str, new: str) -> None:
    """Give a rig another name, that of another rig where both are one; what comes in under the old name goes there."""
    _rename_readings(session, old, new)
    for model in (CheckRow, CheckRevisionRow, TimingGoalRow, StudyRow):
        session.execute(update(model).where(model.rig == old).values(rig=new))
    session.execute(delete(RigDriftRow).where(RigDriftRow.rig == old))
    if session.get(RigRow, new) is None:
        session.execute(update(RigRow).where(RigRow.name == old).values(name=new))
    session.execute(delete(RigRow).where(RigRow.name == old))
    session.execute(update(RigNameRow).where(RigNameRow.name == old).values(name=new))
    for key in (key_of(old), key_of(new)):
        _call(session, key, new)


def _rename_readings(session: Session, old: str, new: str) -> None:
    """With their fingerprints, so that a file that brought them in still brings nothing twice."""
    rows = session.scalars(select(ReadingRow).where(ReadingRow.rig == old).order_by(ReadingRow.id)).all()
    there = select(ReadingRow.check_id, ReadingRow.fingerprint).where(
        ReadingRow.rig == new, ReadingRow.check_id.in_(select(ReadingRow.check_id).where(ReadingRow.rig == old))
    )
    taken: dict[tuple[str, int | None], int] = defaultdict(int)
    for check_id, mark in session.execute(there):
        taken[check_id, mark] += 1
    for row in rows:
        row.rig = new
        if row.fingerprint is not None:
            reading = to_reading(row)
            row.fingerprint = fingerprints.of_reading(reading, timestamp(row.at))
            row.occurrence = taken[row.check_id, row.fingerprint]
            taken[row.check_id, row.fingerprint] += 1
    session.flush()


def said_of_rigs(
    session: Session, as_of: datetime | None = None
) -> tuple[list[Drifted], dict[Place, Translation], list[RigShift]]:
    """When which rig read a reference motor wrongly, the lines from one rig to another, and the days on which the
    motors of a rig moved alike, as known at a time; in one statement, since every page that judges asks for all."""
    out: list[Drifted] = []
    known: dict[Place, Translation] = {}
    shifted: list[RigShift] = []
    for kind, rig, other, quantity, since, until, *line in session.execute(_SAID, {"as_of": as_of or _EVER}):
        if kind == "shift":
            shifted.append(RigShift(rig, quantity, date.fromisoformat(other), line[0], line[1], int(line[-1])))
        elif kind == "drift":
            out.append(Drifted(rig, quantity, since, None if as_of and until and until > as_of else until))
        else:
            known[rig, other, quantity] = Translation(*line)
    return sorted(out, key=lambda one: (one.since, one.rig, one.quantity)), known, shifted


def keep_pairs(session: Session, found: Mapping[str, Sequence[RigPair]]) -> set[str]:
    """Replace what these motors (by id) read on two rigs; returns those of which something else is known now."""
    names = [f.name for f in fields(RigPair)]
    query = select(RigPairRow.motor_id, *(getattr(RigPairRow, n) for n in names))
    before: dict[str, set[RigPair]] = defaultdict(set)
    for motor_id, *pair in session.execute(only(query, RigPairRow.motor_id, list(found))):
        before[motor_id].add(RigPair(*pair))
    changed = {i for i, pairs in found.items() if before[i] != set(pairs)}
    if changed:
        session.execute(only(delete(RigPairRow), RigPairRow.motor_id, sorted(changed)))
        fresh = [{"motor_id": i, **asdict(pair)} for i in changed for pair in found[i]]
        if fresh:
            session.execute(insert(RigPairRow), fresh)
    return changed


def pairs(session: Session, as_of: datetime, name: str | None = None) -> dict[Place, dict[str, tuple[float, float]]]:
    """What motors read on each two rigs, or on one and each other, as known at a time: by rig, other rig and quantity
    both ways, by motor id what it read on the first and on the other."""
    p = RigPairRow
    query = select(p.motor_id, p.quantity, p.rig, p.other, p.value, p.other_value).where(p.at <= as_of)
    if name is not None:
        query = query.where(or_(p.rig == name, p.other == name))
    found: dict[Place, dict[str, tuple[float, float]]] = defaultdict(dict)
    for motor_id, quantity, rig, other, value, other_value in session.execute(query.order_by(p.motor_id)):
        for here, there, pair in ((rig, other, (value, other_value)), (other, rig, (other_value, value))):
            if name in (None, here):
                found[here, there, quantity][motor_id] = pair
    return found


def keep_lines(session: Session, found: Lines, at: datetime) -> bool:
    """Replace the lines; returns whether they are others. A line holds from the last reading on that was there when it
    was first found, whenever that was."""
    if said_of_rigs(session)[1] == found:
        return False
    read = session.scalar(select(func.max(LatestRow.at)))
    at = min(at, read) if read else at
    query = select(RigLineRow.rig, RigLineRow.other, RigLineRow.quantity, RigLineRow.at)
    since = {(rig, other, quantity): first for rig, other, quantity, first in session.execute(query)}
    session.execute(delete(RigLineRow))
    session.add_all(
        RigLineRow(rig=place[0], other=place[1], quantity=place[2], at=since.get(place, at), **asdict(line))
        for place, line in found.items()
    )
    session.flush()
    return True


def keep_shifts(session: Session, now: datetime) -> set[tuple[str, str]]:
    """Work out anew on which days of late the motors of a rig moved alike; returns the rigs and days of which something
    else is known now. A reference motor that was read since speaks for its rig instead."""
    since = timestamp(now - _LATELY)[:10]
    days: dict[tuple[str, str, date], list[Moved]] = defaultdict(list)
    rows = session.execute(
        select(_ON_RIG, LatestRow.quantity, _DAY, LatestRow.motor_id, LatestRow.change, LatestRow.u_change)
        .where(LatestRow.change.is_not(None), LatestRow.u_change > 0, since <= _DAY)
        .order_by(LatestRow.motor_id)
    )
    for rig, quantity, day, motor_id, change, u in rows:
        if rig:
            days[rig, quantity, date.fromisoformat(day)].append(Moved(motor_id, change, u))
    referred = select(_ON_RIG, LatestRow.quantity, func.max(_DAY)).join(MotorRow, MotorRow.id == LatestRow.motor_id)
    referred = referred.where(MotorRow.reference).group_by(_ON_RIG, LatestRow.quantity)
    known = {(rig, quantity): day for rig, quantity, day in session.execute(referred)}
    found = {
        (s.rig, s.quantity, s.day.isoformat()): s
        for s in day_shift.shifts(days)
        if known.get((s.rig, s.quantity), "") < s.day.isoformat()
    }
    r = RigShiftRow
    before = {(row.rig, row.quantity, row.day): row for row in session.scalars(select(r).where(r.day >= since))}
    changed = {key for key in before.keys() | found.keys() if not _alike(before.get(key), found.get(key))}
    for key in changed:
        if row := before.get(key):
            session.delete(row)
    session.flush()
    session.add_all(
        RigShiftRow(rig=key[0], quantity=key[1], day=key[2], value=s.value, u=s.u, motors=s.motors)
        for key, s in found.items()
        if key in changed
    )
    session.flush()
    return {(rig, day) for rig, _, day in changed}


def _alike(row: RigShiftRow | None, shift: RigShift | None) -> bool:
    if row is None or shift is None:
        return row is None and shift is None
    return (row.motors, round(row.value, 9)) == (shift.motors, round(shift.value, 9))


def telling(session: Session) -> set[str]:
    """The motors that say of a rig that it drifted."""
    return set(session.scalars(select(RigDriftRow.motor_id).distinct()))


def keep_drifts(session: Session, of: Mapping[str, list[Drifted]]) -> set[Drifted]:
    """Replace what these reference motors (by id) say of the rigs; returns what they say no more or say anew."""
    d = RigDriftRow
    rows = session.execute(select(d.rig, d.quantity, d.since, d.until).where(d.motor_id.in_(list(of))))
    before = {Drifted(*row) for row in rows}
    now = {one for mine in of.values() for one in mine}
    if before == now:
        return set()
    session.execute(delete(d).where(d.motor_id.in_(list(of))))
    session.add_all(
        RigDriftRow(motor_id=i, rig=o.rig, quantity=o.quantity, since=o.since, until=o.until)
        for i, mine in of.items()
        for o in mine
    )
    session.flush()
    return before ^ now
