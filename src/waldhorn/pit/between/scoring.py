"""The score of motors that stand beside each other: what was read of them, over their mean, by mass."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from statistics import mean, stdev

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.base.text import key_of
from waldhorn.core.base.units import AS_STORED, Notation, read_number
from waldhorn.core.comparing.differences import Row
from waldhorn.core.comparing.score import PARTS, READ_TO_PCT, Read, Scored, at_speed, label_truth, scores
from waldhorn.core.comparing.sets import MOST_MOTORS
from waldhorn.core.motors.leads import comparable_mass
from waldhorn.pit.between.comparison import between
from waldhorn.pit.judging import view_cache
from waldhorn.store import fleet, motors


def weights_of(typed: Mapping[str, str], notation: Notation = AS_STORED) -> dict[str, float]:
    """How much each part weighs, 1 where nothing is typed; raises InputError with its field."""
    found = {}
    for name, title in PARTS.items():
        text = typed.get(f"weigh-{name}", "").strip()
        try:
            found[name] = read_number(text, title, "count", 0, 100, notation) if text else 1.0
        except InputError as refused:
            raise InputError(f"weigh-{name}", refused.sentence) from refused
    return found


def speed_of(typed: Mapping[str, str], notation: Notation = AS_STORED) -> float | None:
    """At which rpm torque and efficiency are to be compared, None where nothing is typed; raises InputError with its
    field."""
    text = typed.get("at_rpm", "").strip()
    try:
        return read_number(text, "rpm", "speed", 1, 500_000, notation) if text else None
    except InputError as refused:
        raise InputError("at_rpm", refused.sentence) from refused


def scored(
    session: Session,
    tags: Sequence[str],
    rows: Sequence[Row],
    weights: Mapping[str, float],
    at_rpm: float | None = None,
) -> list[Scored]:
    """Scores of these motors, the best first; none where they are not of one kind, or fewer than two have anything a
    score is made of. `rows` are their quantities at equal conditions, of which KV tells how true the label is."""
    named = motors.by_tags(session, [key_of(tag) for tag in tags]).values()
    by_tag = {motor.tag: (motor_id, motor) for motor_id, motor in named}
    read = fleet.scored(session, [motor_id for motor_id, _ in named])
    if not (read or at_rpm) or len({motor.kind for _, motor in named if motor.kind}) > 1:
        return []
    parts = {tag: {n: _read(v) for n, v in read.get(motor_id, {}).items()} for tag, (motor_id, _) in by_tag.items()}
    if at_rpm:
        _at_speed(session, by_tag, parts, at_rpm)
    kv = next((r for r in rows if r.quantity.name == "kv"), None)
    for s in kv.values if kv else ():
        label = by_tag[s.tag][1].label_kv if s.tag in by_tag else None
        if label:
            parts[s.tag]["label_truth"] = Read(label_truth(s.value, label), 100 * s.u / label)
    masses = {tag: comparable_mass(m.mass_g, m.lead_mm, m.lead_awg) for tag, (_, m) in by_tag.items()}
    return scores(parts, masses, weights)


def _at_speed(
    session: Session, by_tag: Mapping[str, tuple[str, Motor]], parts: Mapping[str, dict[str, Read]], rpm: float
) -> None:
    """Torque and efficiency at one speed instead of as read last; none where they were not read on both sides of it."""
    read = fleet.over_speed(session, [motor_id for motor_id, _ in by_tag.values()])
    for tag, (motor_id, _) in by_tag.items():
        for part, measure in (("flywheel_torque", "shaft_torque"), ("efficiency", "efficiency")):
            parts[tag].pop(part, None)
            value = at_speed(read.get(motor_id, {}).get(measure, ()), rpm)
            if value is not None:
                parts[tag][part] = _read([value])


def of_model(session: Session, name: str, now: datetime) -> list[Scored]:
    """Scores of the motors of a model of which anything was read that a score is made of, the best first."""

    def found() -> list[Scored]:
        known = fleet.tags_scored(session, name)[:MOST_MOTORS]
        if len(known) < 2:
            return []
        return scored(session, known, between(session, known, now).compared.rows, dict.fromkeys(PARTS, 1.0))

    return view_cache.until_changed(session, ("scores", key_of(name), now.date()), found)


def _read(values: Sequence[float]) -> Read:
    middle = mean(values)
    own = stdev(values) / len(values) ** 0.5 if len(values) > 1 else 0.0
    return Read(middle, max(own, READ_TO_PCT / 100 * middle))
