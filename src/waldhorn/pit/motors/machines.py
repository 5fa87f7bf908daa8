"""Which motor on this machine shakes: all motors of a machine side by side, the eye beside the hand."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError, InputErrors, NotThere
from waldhorn.core.base.history import Motor, Reading
from waldhorn.core.base.units import Notation, read_number
from waldhorn.core.base.vocabulary import Look, Placement
from waldhorn.core.judging.hands import open_findings
from waldhorn.core.measuring import machine
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.pit.bench.steps.first_spin import LOWEST_PCT
from waldhorn.store import changes, drafts, fleet, pit, readings
from waldhorn.store.models import CachedVerdictRow, ChangeKind, MotorRow
from waldhorn.store.motors import to_motor, touch

LONGEST_TYPED = 60  # of a field
EYE = ("shaft", "bell_seam", "face_gap", "air_gap", "balance")
WAYS = {"hand": "vibration", "accelerometer": "vibration_rms"}


@dataclass(frozen=True)
class MachinePosition:
    """One motor on its machine: what the eye found, and how much it shakes."""

    id: str
    motor: Motor
    eye: str
    value: float | None
    typed: str

    @property
    def name(self) -> str:
        """Its tag and position."""
        return f"{self.motor.tag} {self.motor.position}".strip()


@dataclass(frozen=True)
class MachineView:
    """All motors of a machine, ranked, and what is typed of them."""

    name: str
    seats: list[MachinePosition]
    ranking: machine.Ranking | None
    way: str
    suspect: str
    held: Sequence[fleet.Seat] = ()
    typed: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Aboard:
    """A motor on a machine as it stands: its tag, its place, its answer."""

    tag: str
    position: str
    verdict: str
    headline: str


def fleet_of(session: Session) -> dict[str, list[Aboard]]:
    """Every machine that a motor sits on, with its motors, worst news first: the machines and the motors of each."""
    query = (
        select(MotorRow.machine, MotorRow.tag, MotorRow.position, CachedVerdictRow.verdict, CachedVerdictRow.headline)
        .join(CachedVerdictRow, CachedVerdictRow.motor_id == MotorRow.id)
        .where(MotorRow.machine != "", CachedVerdictRow.retired.is_(False))
        .order_by(CachedVerdictRow.rank, MotorRow.tag_key)
    )
    found: dict[str, list[Aboard]] = {}
    for name, *one in session.execute(query):
        found.setdefault(name, []).append(Aboard(*one))
    return found


def view(session: Session, name: str, now: datetime, typed: Mapping[str, str] | None = None) -> MachineView:
    """A machine with what is typed of its motors, or was before; raises NotThere when no motor sits on it."""
    rows = fleet.on_machine(session, name)
    if not rows:
        raise NotThere(f"No motor sits on a machine {name[:60]}.")
    typed = drafts.of_form(session, _draft_form(name)) if typed is None else typed
    histories = readings.histories(session, [r.id for r in rows])
    way = typed.get("way", "hand") if typed.get("way") in WAYS else "hand"
    stored = fleet.latest_vibration(session, {name}, now, WAYS[way]).get(name, {})
    seats, notation = [], pit.notation(session)
    for row in rows:
        standing = open_findings(histories[row.id])
        doubtful = (i for i in EYE if standing.get(i) in (Look.DOUBT, Look.BAD))
        eye = next((f"{i.replace('_', ' ')} {standing[i]}" for i in doubtful), "")
        value, text = _value(typed, row, way, notation)
        if not typed and row.id in stored:
            value = stored[row.id].value
        seats.append(MachinePosition(row.id, to_motor(row), eye, value, text))
    said = "" if typed else changes.suspected(session, [r.id for r in rows])
    suspect = typed.get("suspect", said) or next((s.name for s in seats if s.eye), "")
    known = {s.name: s.value for s in seats if s.value is not None}
    ranking = machine.rank(known, way == "accelerometer", suspect) if known else None
    return MachineView(name, seats, ranking, way, suspect, fleet.seats(session, name), typed)


def _value(typed: Mapping[str, str], row: MotorRow, way: str, notation: Notation) -> tuple[float | None, str]:
    text = typed.get(f"shakes-{row.id}", "").strip()
    if not text:
        return None, text
    try:
        return _read(text, way, notation), text
    except InputError:
        return None, text


def _read(text: str, way: str, notation: Notation) -> float:
    measure = MEASURES[WAYS[way]]
    return read_number(text, "shaking", measure.dimension, measure.low, measure.high, notation)


def take_shaking(session: Session, name: str, typed: Mapping[str, str], now: datetime) -> None:
    """Store how much each motor of a machine shakes, each in a check of its own; raises InputErrors."""
    rows = fleet.on_machine(session, name)
    way = typed.get("way", "hand")
    wrong: dict[str, str] = {}
    values: dict[str, float] = {}
    notation = pit.notation(session)
    if way not in WAYS:
        wrong["way"] = f"“{way}” is none of {', '.join(WAYS)}"
    for row in rows:
        text = typed.get(f"shakes-{row.id}", "").strip()
        if not text or "way" in wrong:
            continue
        try:
            values[row.id] = _read(text, way, notation)
        except InputError as refused:
            wrong[f"shakes-{row.id}"] = refused.sentence
    if len(values) < 2 and not wrong:
        wrong["way"] = "spin at least two motors of this machine, each alone, at the same setting"
    if wrong:
        raise InputErrors(wrong)
    for row in rows:
        if row.id in values:
            _store(session, row, WAYS[way], values[row.id], now, typed.get("suspect", ""))
    drafts.keep_form(session, _draft_form(name), {})
    touch(session, [r.id for r in rows])


def _store(session: Session, row: MotorRow, measure: str, value: float, now: datetime, suspect: str) -> None:
    """One motor's shaking, and whom the eye suspected beside it."""
    eye = {changes.SUSPECT: suspect} if suspect else {}
    note = f"the eye suspected {suspect}" if suspect else ""
    last = readings.last_check(session, row.id)
    under = Conditions(throttle_pct=LOWEST_PCT, placement=Placement.MACHINE.value)
    if last is not None and last.open:
        change_id = changes.record(session, ChangeKind.SHAKE, now, row.id, last.id, typed=eye)
        check_id = last.id
    else:
        change_id = changes.record(session, ChangeKind.SHAKE, now, row.id, typed=eye)
        key = f"machine {now.isoformat(timespec='microseconds')}"
        check_id = readings.check_ids(session, [(row.id, key, now, under)], change_id)[row.id, key]
    readings.add(session, [(check_id, Reading(measure, value, now, conditions=under, note=note))], change_id)


def keep_draft(session: Session, name: str, typed: Mapping[str, str]) -> None:
    """Keep what is typed of the motors of a machine."""
    drafts.keep_form(session, _draft_form(name), {k: v[:LONGEST_TYPED] for k, v in typed.items()})


def _draft_form(name: str) -> str:
    return f"machine:{name}"
