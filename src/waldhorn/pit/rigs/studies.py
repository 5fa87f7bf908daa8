"""A study of a rig, guided: which motor to clamp next, what was read so far, and what it says of the rig.

Its values are readings of the purpose study, in a check a visit, so that they are undone, exported and backed up like
any other; what they teach of the rig is worked out when the motors are judged anew.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.conditions import FULL_THROTTLE_PCT, Conditions
from waldhorn.core.base.errors import InputError, InputErrors, NotThere
from waldhorn.core.base.history import Reading
from waldhorn.core.base.text import key_of
from waldhorn.core.base.units import Notation, read_number
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring.measures import MEASURES, QUANTITIES
from waldhorn.core.measuring.quantity import Quantity
from waldhorn.core.rigs import study
from waldhorn.core.rigs.study import Nested
from waldhorn.store import changes, motors, pit, readings, rigs
from waldhorn.store import studies as store
from waldhorn.store.models import ChangeKind, ChangeRow, StudyRow

# What can be studied by typing one number a run: the measure typed, and the quantity it makes.
STUDIED = {
    "noise_avg": "noise_avg",
    "kv": "kv",
    "no_load_current": "no_load_current",
    "detent_peak": "detent_peak",
    "timing_mean": "timing_mean",
}
TICKED = "motor-"  # before the tag, in the name of a box that is ticked
MOST = {"motors": 20, "visits": 10, "runs": 10}


@dataclass(frozen=True)
class Visit:
    """One visit of a study: whose turn it is, and what was read (nothing yet, where it lies ahead)."""

    place: int
    tag: str
    values: tuple[float, ...] = ()


@dataclass(frozen=True)
class StudyView:
    """A study with its page: visits in the order they are to be made, the one that is next, and the result once all
    are made. Lists run over motors in the order they were named."""

    row: StudyRow
    quantity: Quantity
    unit: str
    tags: list[str]
    visits: list[Visit]
    following: Visit | None
    result: Nested | None

    @property
    def by_motor(self) -> list[list[tuple[float, ...]]]:
        """What was read, by motor and visit."""
        return [[v.values for v in self.visits if v.tag == tag and v.values] for tag in self.tags]


@dataclass(frozen=True)
class Choice:
    """The motors a study can be made with, those that are proposed first: the ones furthest apart."""

    tags: Sequence[str]
    proposed: Sequence[str]


def choice(session: Session, rig: str, measure: str) -> Choice:
    """What there is to choose for a study of a measure; of the first where it is none."""
    quantity = STUDIED.get(measure) or next(iter(STUDIED.values()))
    values = rigs.last_read(session, rig, quantity)
    known = {tag: value for tag, value in values.items() if value is not None}
    proposed = study.furthest_apart(known)
    return Choice([*proposed, *sorted(values.keys() - set(proposed), key=key_of)], proposed)


def start(session: Session, rig: str, typed: Mapping[str, str], now: datetime) -> str:
    """Begin a study; raises InputErrors. Returns its id."""
    wrong: dict[str, str] = {}
    numbers = {
        n: _count(typed, n, usual, wrong) for n, usual in (("visits", study.USUAL_VISITS), ("runs", study.USUAL_RUNS))
    }
    measure = typed.get("measure", "")
    if measure not in STUDIED:
        wrong["measure"] = f"“{measure}” is none of {', '.join(STUDIED)}"
    ids = motors.ids_by_tag(session)
    tags = [tag for name, tag in typed.items() if name.startswith(TICKED)]
    keys = list(dict.fromkeys(map(key_of, tags)))
    if strange := [t for t in tags if key_of(t) not in ids]:
        wrong["motors"] = f"no motor {', '.join(strange)} on this rack"
    elif not 2 <= len(keys) <= MOST["motors"]:
        wrong["motors"] = f"{len(keys)} motors: tick 2 to {MOST['motors']}, {study.USUAL_MOTORS} are usual"
    if wrong:
        raise InputErrors(wrong)
    row = StudyRow(
        rig=rig,
        measure=measure,
        motors=[ids[k] for k in keys],
        **numbers,
        at=now,
        seed=int(now.timestamp() * 1000) % 2**31,
    )
    session.add(row)
    session.flush()
    return row.id


def _count(typed: Mapping[str, str], name: str, usual: int, wrong: dict[str, str]) -> int:
    text = typed.get(name, "").strip() or str(usual)
    if not text.isdecimal() or not 2 <= int(text[:6]) <= MOST[name]:
        wrong[name] = f"{text} {name} cannot be: 2 to {MOST[name]}, {usual} are usual"
        return usual
    return int(text)


def view(session: Session, study_id: str) -> StudyView:
    """A study; raises NotThere."""
    row = store.get(session, study_id)
    if row is None:
        raise NotThere("There is no such study.")
    facts = motors.several(session, row.motors)
    tags = [facts[i].tag for i in row.motors]
    made = store.visits(session, study_id)
    visits = [
        Visit(place, tags[motor], made.get(place, ()))
        for place, motor in enumerate(study.order(len(tags), row.visits, row.seed), 1)
    ]
    following = next((v for v in visits if not v.values), None)
    found = StudyView(row, QUANTITIES[STUDIED[row.measure]], MEASURES[row.measure].unit, tags, visits, following, None)
    if following:
        return found
    return StudyView(row, found.quantity, found.unit, tags, visits, None, _result(found))


def _result(found: StudyView) -> Nested:
    """In percent of the mean where changes of the quantity are."""
    every = [x for visits in found.by_motor for values in visits for x in values]
    scale = 100 / (sum(every) / len(every)) if found.quantity.relative else 1.0
    return study.nested([[[scale * x for x in values] for values in visits] for visits in found.by_motor])


def take_readings(session: Session, study_id: str, typed: Mapping[str, str], now: datetime) -> None:
    """Store the runs of the visit that is next; raises NotThere, InputError, InputErrors."""
    found = view(session, study_id)
    row, following = found.row, found.following
    if following is None:
        raise InputError("run-1", "this study is complete: begin another on the rig's page")
    if typed.get("place", str(following.place)) != str(following.place):
        raise InputError("run-1", f"this visit has been taken meanwhile: now clamp {following.tag}")
    values = _runs(found, typed, pit.notation(session))
    motor_id = row.motors[found.tags.index(following.tag)]
    under = Conditions(rig=row.rig, throttle_pct=None if row.measure == "detent_peak" else FULL_THROTTLE_PCT)
    change_id = changes.record(session, ChangeKind.STUDY, now, motor_id, count=following.place, detail=row.rig)
    key = store.key(row.id, following.place)
    check_id = readings.check_ids(session, [(motor_id, key, now, under)], change_id)[motor_id, key]
    readings.check_row(session, check_id).plan = readings.STUDY_PLAN
    readings.add(
        session,
        (
            (check_id, Reading(row.measure, value, now, run, under, Purpose.STUDY))
            for run, value in enumerate(values, 1)
        ),
        change_id,
    )
    session.flush()
    motors.touch(session, [motor_id])


def _runs(found: StudyView, typed: Mapping[str, str], notation: Notation) -> list[float]:
    measure, wrong, values = MEASURES[found.row.measure], {}, []
    for run in range(1, found.row.runs + 1):
        text = typed.get(f"run-{run}", "")
        try:
            if not text.strip():
                raise InputError("run", f"run {run} is missing: {found.row.runs} runs, without taking the motor off")
            values.append(read_number(text, measure.title, measure.dimension, measure.low, measure.high, notation))
        except InputError as refused:
            wrong[f"run-{run}"] = refused.sentence
    if wrong:
        raise InputErrors(wrong)
    return values


def undo(session: Session, study_id: str, now: datetime) -> str:
    """Take the last visit back; returns whose it was. Raises NotThere, and InputError where none was made."""
    found = view(session, study_id)
    made = [v for v in found.visits if v.values]
    if not made:
        raise InputError("run-1", "nothing was read for this study yet")
    check = store.check_of(session, found.row.id, made[-1].place)
    change = session.get(ChangeRow, check.change_id) if check and check.change_id else None
    if check is None or change is None:
        raise InputError("run-1", "this visit came in from a file: it cannot be taken back here")
    changes.undo(session, change, now)
    motors.touch(session, [check.motor_id])
    return made[-1].tag
