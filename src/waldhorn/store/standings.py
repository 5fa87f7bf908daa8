"""What is kept of judging: standings, own baselines for the model's median, and what the rigs' repeats say."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict
from datetime import date, datetime
from typing import Any

from sqlalchemy import case, delete, func, insert, select, update
from sqlalchemy.orm import Session

from waldhorn.core.baseline import Baseline
from waldhorn.core.history import Conditions
from waldhorn.store.models import CheckRow, MotorRow, OwnBaselineRow, RigSpreadRow, SignedRow, StandingRow
from waldhorn.store.motors import key_of

Spreads = dict[tuple[str, str], tuple[float, int]]  # (rig, quantity) to pooled squares and pairs


def stale_ids(session: Session) -> list[int]:
    """Motors to be judged again."""
    return list(session.scalars(select(StandingRow.motor_id).where(StandingRow.stale)))


def rig_spreads(session: Session) -> Spreads:
    """Pooled squares and pairs of every rig and quantity, over all motors."""
    r = RigSpreadRow
    query = select(r.rig, r.quantity, func.sum(r.squares), func.sum(r.pairs)).group_by(r.rig, r.quantity)
    return {(rig, quantity): (squares, pairs) for rig, quantity, squares, pairs in session.execute(query)}


def motors_on_rigs(session: Session, rigs: Iterable[str]) -> list[int]:
    """Motors that were ever checked on one of these rigs."""
    query = select(RigSpreadRow.motor_id).where(RigSpreadRow.rig.in_(list(rigs))).distinct()
    return list(session.scalars(query))


def keep_figures(
    session: Session,
    motor_ids: Sequence[int],
    baselines: Mapping[int, Mapping[str, Sequence[Baseline]]],
    spreads: Mapping[int, Spreads],
) -> None:
    """Replace the own baselines and rig spreads of these motors."""
    for model in (OwnBaselineRow, RigSpreadRow):
        session.execute(delete(model).where(model.motor_id.in_(motor_ids)))
    own = [
        {
            "motor_id": i,
            "quantity": name,
            "value": b.value,
            "n": b.n,
            "conditions": asdict(b.conditions or Conditions()),
        }
        for i, by_quantity in baselines.items()
        for name, found in by_quantity.items()
        for b in found
    ]
    if own:
        session.execute(insert(OwnBaselineRow), own)
    rows = [
        {"motor_id": i, "rig": rig, "quantity": quantity, "squares": squares, "pairs": pairs}
        for i, by_rig in spreads.items()
        for (rig, quantity), (squares, pairs) in by_rig.items()
    ]
    if rows:
        session.execute(insert(RigSpreadRow), rows)


def model_baselines(session: Session, models: Iterable[str]) -> dict[str, dict[int, dict[str, list[Baseline]]]]:
    """Own baselines of the motors of these models: by model key, motor id and quantity."""
    keys = {key_of(m) for m in models} - {""}
    o = OwnBaselineRow
    query = select(MotorRow.model_key, o.motor_id, o.quantity, o.value, o.n, o.conditions)
    query = query.join(MotorRow, MotorRow.id == o.motor_id).where(MotorRow.model_key.in_(keys)).order_by(o.id)
    found: dict[str, dict[int, dict[str, list[Baseline]]]] = defaultdict(lambda: defaultdict(lambda: defaultdict(list)))
    for model, motor_id, quantity, value, n, conditions in session.execute(query):
        found[model][motor_id][quantity].append(Baseline(value, n, "own", conditions=Conditions(**conditions)))
    return found


def keep_standings(session: Session, rows: Sequence[dict[str, Any]]) -> None:
    """Write fresh standings, given as rows of `StandingRow` columns."""
    if rows:
        session.execute(update(StandingRow), [row | {"stale": False} for row in rows])


def latest_signed(session: Session, motor_ids: Sequence[int]) -> dict[int, SignedRow]:
    """The last signed verdict of each of these motors."""
    query = select(SignedRow).where(SignedRow.motor_id.in_(motor_ids)).order_by(SignedRow.at, SignedRow.id)
    return {row.motor_id: row for row in session.scalars(query)}


def open_checks(session: Session, motor_ids: Sequence[int]) -> set[int]:
    """Which of these motors lie on the bench, with a check open."""
    return set(session.scalars(select(CheckRow.motor_id).where(CheckRow.open, CheckRow.motor_id.in_(motor_ids))))


def _search(words: str) -> list[Any]:
    parts = key_of(words).split()
    return [MotorRow.search.contains(part, autoescape=True) for part in parts]


def _overdue(today: date) -> Any:
    due = (StandingRow.due_on != "") & (StandingRow.due_on < today.isoformat())
    return case((due | (StandingRow.due_runs <= 0), 0), else_=1)


def rack(session: Session, words: str, today: date, limit: int, offset: int) -> list[tuple[MotorRow, StandingRow]]:
    """Motors as they hang on the rack: retired last, on the bench first, worst news first, most overdue first."""
    s = StandingRow
    query = select(MotorRow, s).join(s, s.motor_id == MotorRow.id).where(*_search(words))
    query = query.order_by(s.retired, s.rank, _overdue(today), s.due_on, MotorRow.tag_key)
    return [(motor, standing) for motor, standing in session.execute(query.limit(limit).offset(offset))]


def counts(session: Session, words: str, today: date) -> dict[str, int]:
    """How many motors hang on the rack by verdict, with retired, overdue and on_bench as keys of their own."""
    s = StandingRow
    query = select(s.verdict, s.retired, s.on_bench, _overdue(today), func.count()).join(
        MotorRow, s.motor_id == MotorRow.id
    )
    found: dict[str, int] = defaultdict(int)
    for verdict, retired, on_bench, in_time, count in session.execute(
        query.where(*_search(words)).group_by(s.verdict, s.retired, s.on_bench, _overdue(today))
    ):
        found["all"] += count
        found["retired" if retired else verdict] += count
        found["overdue"] += count if not retired and not in_time else 0
        found["on_bench"] += count if on_bench else 0
    return found


def last_signature(session: Session) -> str:
    """Who signed last, or nothing."""
    return session.scalar(select(SignedRow.signed_by).order_by(SignedRow.id.desc()).limit(1)) or ""


def signed(session: Session, motor_id: int) -> list[SignedRow]:
    """Every signed verdict of a motor, newest first."""
    query = select(SignedRow).where(SignedRow.motor_id == motor_id).order_by(SignedRow.at.desc(), SignedRow.id.desc())
    return list(session.scalars(query))


def all_signed(session: Session, motor_ids: Sequence[int] | None = None) -> list[SignedRow]:
    """Every signed verdict, or those of some motors, oldest first."""
    query = select(SignedRow).order_by(SignedRow.at, SignedRow.id)
    return list(session.scalars(query if motor_ids is None else query.where(SignedRow.motor_id.in_(motor_ids))))


def last_checked(session: Session, motor_ids: Sequence[int]) -> dict[int, datetime]:
    """When each of these motors was last on the bench."""
    query = select(CheckRow.motor_id, func.max(CheckRow.at)).where(CheckRow.motor_id.in_(motor_ids))
    return {i: at for i, at in session.execute(query.group_by(CheckRow.motor_id)) if at}
