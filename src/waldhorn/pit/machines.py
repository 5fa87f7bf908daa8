"""Which motor on this machine shakes: all motors of a machine side by side, the eye beside the hand."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core import machine
from waldhorn.core.errors import Refusals, Refused
from waldhorn.core.history import PLACEMENTS
from waldhorn.core.measures import MEASURES
from waldhorn.core.noticed import looked_at
from waldhorn.core.units import read_number
from waldhorn.store import acts, fleet, readings
from waldhorn.store.models import MotorRow
from waldhorn.store.motors import mark_stale
from waldhorn.store.readings import NewReading

EYE = ("shaft", "bell_seam", "face_gap", "air_gap", "balance")
WAYS = {"hand": "vibration", "accelerometer": "vibration_rms"}


@dataclass(frozen=True)
class Seat:
    """One motor on its machine: what the eye found, and how much it shakes."""

    row: MotorRow
    eye: str
    value: float | None
    typed: str


@dataclass(frozen=True)
class Machine:
    """All motors of a machine, ranked."""

    name: str
    seats: list[Seat]
    ranking: machine.Ranking | None
    way: str
    suspect: str


def look(session: Session, name: str, typed: Mapping[str, str]) -> Machine | None:
    """A machine with what is typed of its motors, or None when no motor sits on it."""
    rows = fleet.on_machine(session, name)
    if not rows:
        return None
    histories = readings.histories(session, [r.id for r in rows])
    way = typed.get("way", "hand") if typed.get("way") in WAYS else "hand"
    stored = fleet.latest_vibration(session, {name}).get(name, {})
    seats = []
    for row in rows:
        standing = looked_at(histories[row.id])
        eye = next((f"{i.replace('_', ' ')} {standing[i]}" for i in EYE if standing.get(i) in ("doubt", "bad")), "")
        value, text = _value(typed, row, way)
        if not typed and row.id in stored and stored[row.id][0] == WAYS[way]:
            value = stored[row.id][1]
        seats.append(Seat(row, eye, value, text))
    suspect = typed.get("suspect", "") or next((_seat_name(s.row) for s in seats if s.eye), "")
    known = {_seat_name(s.row): s.value for s in seats if s.value is not None}
    ranking = machine.rank(known, way == "accelerometer", suspect) if known else None
    return Machine(name, seats, ranking, way, suspect)


def _seat_name(row: MotorRow) -> str:
    return f"{row.tag} {row.position}".strip()


def _value(typed: Mapping[str, str], row: MotorRow, way: str) -> tuple[float | None, str]:
    text = typed.get(f"shakes-{row.id}", "").strip()
    if not text:
        return None, text
    try:
        return _read(text, way), text
    except Refused:
        return None, text


def _read(text: str, way: str) -> float:
    measure = MEASURES[WAYS[way]]
    return read_number(text, "shaking", measure.dimension, measure.low, measure.high)


def take(session: Session, name: str, typed: Mapping[str, str], now: datetime) -> str:
    """Store how much each motor of a machine shakes, each in a check of its own; raises Refusals. Says the finding."""
    rows = fleet.on_machine(session, name)
    way = typed.get("way", "hand")
    wrong: dict[str, str] = {}
    values: dict[int, float] = {}
    if way not in WAYS:
        wrong["way"] = f"“{way}” is none of {', '.join(WAYS)}"
    for row in rows:
        text = typed.get(f"shakes-{row.id}", "").strip()
        if not text or "way" in wrong:
            continue
        try:
            values[row.id] = _read(text, way)
        except Refused as refused:
            wrong[f"shakes-{row.id}"] = refused.sentence
    if len(values) < 2 and not wrong:
        wrong["way"] = "spin at least two motors of this machine, each alone, at the same step"
    if wrong:
        raise Refusals(wrong)
    for row in rows:
        if row.id in values:
            _store(session, row, WAYS[way], values[row.id], now)
    mark_stale(session, [r.id for r in rows])
    found = look(session, name, typed)
    return found.ranking.words if found and found.ranking else ""


def _store(session: Session, row: MotorRow, measure: str, value: float, now: datetime) -> None:
    last = readings.last_check(session, row.id)
    if last is not None and last.open:
        check_id = last.id
    else:
        key = f"machine {now.isoformat(timespec='seconds')}"
        shaken = NewReading(now, measure, value, placement=PLACEMENTS[2])
        check_id = readings.check_ids(session, [(row.id, key, now, shaken)])[row.id, key]
    before = {r.id for r in readings.of_check(session, check_id)}
    reading = NewReading(now, measure, value, step=1, placement=PLACEMENTS[2])
    readings.add_readings(session, [(check_id, reading)])
    ids = [r.id for r in readings.of_check(session, check_id) if r.id not in before]
    inverse = [acts.delete_rows("reading", ids)]
    if last is None or not last.open:
        inverse.append(acts.delete_rows("bench_check", [check_id]))
    acts.record(session, row.id, now, "shake", "shaking noted", inverse)


def draft_key(name: str) -> str:
    """Under which key what is typed about a machine is kept."""
    return f"machine:{name}"
