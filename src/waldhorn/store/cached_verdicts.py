"""What is kept of judging: cached verdicts, own baselines for the model's median, what the rigs' repeats say;
and signatures.

What other motors are judged by comes from checks that are closed: an open one is still being written.
"""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, fields
from datetime import date, datetime
from typing import Any, cast

from sqlalchemy import Row, String, bindparam, case, delete, func, insert, or_, select, update
from sqlalchemy.dialects.sqlite import insert as upsert
from sqlalchemy.orm import Session, aliased, defer

from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import Source
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.rigs.learning import Sums, Taught
from waldhorn.store.changes import not_undone
from waldhorn.store.models import (
    CachedVerdictRow,
    ChangeRow,
    CheckRow,
    MotorRow,
    OwnBaselineRow,
    PitRow,
    RigHeldRow,
    RigSpreadRow,
    RigTotalRow,
    SignedRow,
    StoreStateRow,
    clock,
    new_id,
)
from waldhorn.store.motors import only
from waldhorn.store.readings import STUDY_PLAN

Spreads = dict[tuple[str, str], Sums]  # by rig and quantity
_SUMS = tuple(f.name for f in fields(Sums))
# Made once: composing a statement takes longer than running it.
_TOTALS = select(
    RigTotalRow.rig,
    RigTotalRow.quantity,
    *(getattr(RigTotalRow, n) for n in _SUMS),
    select(func.max(RigSpreadRow.at)).scalar_subquery(),
)
_HELD = select(
    RigHeldRow.rig,
    RigHeldRow.quantity,
    *(getattr(RigHeldRow, n) for n in _SUMS),
    select(func.max(RigSpreadRow.at)).scalar_subquery(),
)
_WITHOUT_JUDGEMENT = defer(SignedRow.judgement)
_OPEN = select(CheckRow.motor_id, CheckRow.id).where(CheckRow.open, not_undone(CheckRow))


def revision(session: Session) -> int:
    """The count of changes of the store."""
    return session.scalar(select(StoreStateRow.revision)) or 0


def latest_change(session: Session) -> tuple[int, str]:
    """The count of changes of the store, and its last change: what was read at the same ones is the same."""
    last = select(func.max(ChangeRow.id)).scalar_subquery()
    revision, change_id = session.execute(select(StoreStateRow.revision, func.coalesce(last, ""))).one()
    return revision, change_id


def standing_at(session: Session) -> str:
    """How the store stands, as a word that is another one once something was done, undone or judged: what a page that
    was drawn at the same one shows is what there is."""
    last = select(func.max(ChangeRow.id)).scalar_subquery()
    judged = select(func.sum(CachedVerdictRow.judged)).scalar_subquery()
    query = select(StoreStateRow.revision, func.coalesce(last, ""), func.coalesce(judged, 0))
    revision, change_id, judged_at = session.execute(query).one()
    return f"{revision}.{change_id[-12:]}.{judged_at}"


def stale_ids(session: Session, judge_version: int, since: int = 0, until: int | None = None) -> list[str]:
    """Motors to be judged again: touched since they were, or judged by another version of the judge; only those that
    were touched after the count of changes was `since`, and not after it was `until`."""
    s = CachedVerdictRow
    query = select(s.motor_id).where(or_(s.judged < s.touched, s.judge_version != judge_version), s.touched > since)
    if until is not None:
        query = query.where(s.touched <= until)
    return list(session.scalars(query.order_by(s.motor_id)))


def touched(session: Session, motor_ids: Sequence[str]) -> dict[str, int]:
    """At which count of changes each of these motors was last touched."""
    s = CachedVerdictRow
    return {i: at for i, at in session.execute(only(select(s.motor_id, s.touched), s.motor_id, motor_ids))}  # noqa: C416


def rig_spreads(session: Session, as_of: datetime | None = None) -> Spreads:
    """Pooled squares and pairs of every rig and quantity, over all motors, as known at a time."""
    totals = session.execute(_TOTALS).all()
    if as_of is None or not totals or totals[0][-1] <= as_of:
        return {(rig, quantity): Sums(*sums) for rig, quantity, *sums, _ in totals}
    return _pooled(session, RigSpreadRow.at <= as_of)


def held_spreads(session: Session, as_of: datetime | None = None) -> Spreads:
    """The sums that motors are judged by: those held, or before the latest check all that was known then."""
    held = session.execute(_HELD).all()
    if as_of is not None and held and held[0][-1] is not None and held[0][-1] > as_of:
        return _pooled(session, RigSpreadRow.at <= as_of)
    return {(rig, quantity): Sums(*sums) for rig, quantity, *sums, _ in held}


def hold_spreads(session: Session, moved: Mapping[tuple[str, str], Sums]) -> None:
    """Judge by these sums from now on, by rig and quantity."""
    holding = upsert(RigHeldRow)
    sums = {n: holding.excluded[n] for n in _SUMS}
    rows = [{"rig": rig, "quantity": quantity} | asdict(s) for (rig, quantity), s in moved.items()]
    session.execute(holding.on_conflict_do_update(index_elements=["rig", "quantity"], set_=sums), rows)


def _pooled(session: Session, which: Any) -> Spreads:
    r = RigSpreadRow
    sums = (func.sum(getattr(r, n)) for n in _SUMS)
    query = select(r.rig, r.quantity, *sums).group_by(r.rig, r.quantity).where(which)
    return {(rig, quantity): Sums(*found) for rig, quantity, *found in session.execute(query)}


def motors_on_rigs(session: Session, rigs: Iterable[str]) -> list[str]:
    """Motors that were ever checked on one of these rigs."""
    query = select(RigSpreadRow.motor_id).where(RigSpreadRow.rig.in_(list(rigs))).distinct()
    return list(session.scalars(query))


def keep_figures(
    session: Session,
    motor_ids: Sequence[str],
    baselines: Mapping[str, Mapping[str, Sequence[Baseline]]],
    spreads: Mapping[str, Sequence[Taught]],
) -> set[str]:
    """Replace the own baselines and rig spreads of these motors; returns those whose baselines changed."""
    own = [_own_row(i, name, b) for i, by_name in baselines.items() for name, found in by_name.items() for b in found]
    before = _figures_of(session, motor_ids)
    changed = _differing(before, own, motor_ids)
    if changed:
        session.execute(only(delete(OwnBaselineRow), OwnBaselineRow.motor_id, sorted(changed)))
        fresh = [row for row in own if row["motor_id"] in changed]
        if fresh:
            session.execute(insert(OwnBaselineRow), fresh)
    _keep_spreads(session, list(motor_ids), spreads)
    return changed


def _keep_spreads(session: Session, motor_ids: list[str], spreads: Mapping[str, Sequence[Taught]]) -> None:
    """Replace the spreads of these motors, and bring the totals after them."""
    theirs = RigSpreadRow.check_id.in_(only(select(RigSpreadRow.check_id), RigSpreadRow.motor_id, motor_ids))
    moved = {key: -sums for key, sums in _pooled(session, theirs).items()}
    session.execute(only(delete(RigSpreadRow), RigSpreadRow.motor_id, motor_ids))
    taught = [(i, t) for i, mine in spreads.items() for t in mine]
    if taught:
        session.execute(
            insert(RigSpreadRow),
            [
                {"motor_id": i, "check_id": t.check, "rig": t.rig, "quantity": t.quantity, "at": t.at} | asdict(t.sums)
                for i, t in taught
            ],
        )
    for _, t in taught:
        moved[t.rig, t.quantity] = moved.get((t.rig, t.quantity), Sums()) + t.sums
    if moved:
        adding = upsert(RigTotalRow)
        sums = {n: getattr(RigTotalRow, n) + adding.excluded[n] for n in _SUMS}
        session.execute(
            adding.on_conflict_do_update(index_elements=["rig", "quantity"], set_=sums),
            [{"rig": r, "quantity": q} | asdict(s) for (r, q), s in moved.items()],
        )


def _own_row(motor_id: str, quantity: str, b: Baseline) -> dict[str, Any]:
    return {
        "motor_id": motor_id,
        "quantity": quantity,
        "value": b.value,
        "n": b.n,
        "conditions": b.conditions,
        "at": b.at,
        "until": b.until,
    }


def _figures_of(session: Session, motor_ids: Sequence[str]) -> list[dict[str, Any]]:
    o = OwnBaselineRow
    query = select(o.motor_id, o.quantity, o.value, o.n, o.conditions, o.at, o.until).order_by(o.id)
    return [dict(row) for row in session.execute(only(query, o.motor_id, list(motor_ids))).mappings()]


def _differing(before: list[dict[str, Any]], now: list[dict[str, Any]], motor_ids: Sequence[str]) -> set[str]:
    of: list[dict[str, list[Any]]] = [defaultdict(list), defaultdict(list)]
    for found, rows in zip(of, (before, now), strict=True):
        for row in rows:
            found[row["motor_id"]].append({k: v for k, v in row.items() if k != "motor_id"})
    return {i for i in motor_ids if of[0].get(i, []) != of[1].get(i, [])}


def model_baselines(
    session: Session, models: Iterable[str] | None, as_of: datetime
) -> dict[str, dict[str, dict[str, list[Baseline]]]]:
    """Own baselines that held at a time, of the motors of these models or of all: by model key, motor id, quantity.
    Those of motors that are known to be good say so."""
    o = OwnBaselineRow
    query = select(MotorRow.model_key, MotorRow.yardstick, o.motor_id, o.quantity, o.value, o.n, o.conditions, o.at)
    query = query.join(MotorRow, MotorRow.id == o.motor_id).order_by(o.id)
    query = query.where(MotorRow.model_key != "", o.at <= as_of, or_(o.until.is_(None), o.until > as_of))
    if models is not None:
        query = query.where(MotorRow.model_key.in_({key_of(m) for m in models}))
    found: dict[str, dict[str, dict[str, list[Baseline]]]] = defaultdict(lambda: defaultdict(lambda: defaultdict(list)))
    for model, good, motor_id, quantity, value, n, conditions, at in session.execute(query):
        source = Source.YARDSTICK if good else Source.OWN
        found[model][motor_id][quantity].append(Baseline(value, n, source, at=at, conditions=conditions))
    return found


def store_verdicts(session: Session, rows: Sequence[dict[str, Any]], judge_version: int) -> None:
    """Write fresh verdicts, given as columns of `CachedVerdictRow`, as judged at the present revision."""
    if rows:
        made = {"judged": revision(session), "judge_version": judge_version}
        session.execute(update(CachedVerdictRow), [row | made for row in rows])


def latest_signed(session: Session, motor_ids: Sequence[str]) -> dict[str, SignedRow]:
    """The last signed verdict of each of these motors, one row each."""
    newest = (SignedRow.at.desc(), SignedRow.id.desc())
    place = func.row_number().over(partition_by=SignedRow.motor_id, order_by=newest).label("place")
    standing = select(SignedRow.id, place).where(not_undone(SignedRow))
    ranked = only(standing, SignedRow.motor_id, motor_ids).subquery()
    query = select(SignedRow).join(ranked, ranked.c.id == SignedRow.id).where(ranked.c.place == 1)
    return {row.motor_id: row for row in session.scalars(query.options(_WITHOUT_JUDGEMENT))}


def tool_verdicts(session: Session, motor_ids: Sequence[str]) -> dict[str, str]:
    """What Waldhorn says of each of these motors now, as it is kept."""
    query = only(select(CachedVerdictRow.motor_id, CachedVerdictRow.tool_verdict), CachedVerdictRow.motor_id, motor_ids)
    return {i: verdict for i, verdict in session.execute(query)}  # noqa: C416


def open_checks(session: Session, motor_ids: Sequence[str] | None) -> dict[str, str]:
    """Which of these motors lie on the bench: the open check's id by motor id."""
    found = session.execute(only(_OPEN, CheckRow.motor_id, motor_ids))
    return {motor_id: check_id for motor_id, check_id in found}  # noqa: C416


def at_bench(session: Session, motor_ids: Sequence[str]) -> dict[str, str]:
    """Who did the last thing to each of these motors that lie on the bench, by motor id; empty where nobody said."""
    a = aliased(ChangeRow)
    of_check = or_(a.check_id == CheckRow.id, a.id == CheckRow.change_id)  # the change that opens one comes before it
    mine = (a.motor_id == CheckRow.motor_id, of_check, a.undone_at.is_(None))
    last = select(func.max(a.id)).where(*mine).correlate(CheckRow)
    query = (
        select(CheckRow.motor_id, ChangeRow.who)
        .join(ChangeRow, ChangeRow.id == last.scalar_subquery())
        .where(CheckRow.open, not_undone(CheckRow), CheckRow.motor_id.in_(motor_ids))
    )
    return {motor_id: who for motor_id, who in session.execute(query)}  # noqa: C416


def _search(words: str) -> list[Any]:
    return [MotorRow.search.contains(part, autoescape=True) for part in key_of(words).split()]


# Made once: composing a statement takes longer than running it.
_DUE = (CachedVerdictRow.due_on != "") & (CachedVerdictRow.due_on < bindparam("today", type_=String))
_IN_TIME = case((_DUE | (CachedVerdictRow.due_runs <= 0), 0), else_=1)
_AS_IT_HANGS = (
    CachedVerdictRow.retired,
    CachedVerdictRow.rank,
    _IN_TIME,
    CachedVerdictRow.due_on,
    MotorRow.tag_key,
)
_ON_RACK = select(
    MotorRow.id,
    MotorRow.tag,
    MotorRow.model,
    MotorRow.kind,
    MotorRow.machine,
    MotorRow.position,
    MotorRow.owner,
    CachedVerdictRow.rank,
    CachedVerdictRow.verdict,
    CachedVerdictRow.headline,
    CachedVerdictRow.reason,
    CachedVerdictRow.strips,
    CachedVerdictRow.checked_at,
    CachedVerdictRow.due_on,
    CachedVerdictRow.due_runs,
    CachedVerdictRow.retired,
    CachedVerdictRow.on_bench,
    CachedVerdictRow.tool_verdict,
    CachedVerdictRow.overruled_by,
).join(CachedVerdictRow, CachedVerdictRow.motor_id == MotorRow.id)
# Together by one of these, what has none at the end.
_TOGETHER = {
    name: (column == "", column, *_AS_IT_HANGS)
    for name, column in (("machine", MotorRow.machine), ("model", MotorRow.model), ("owner", MotorRow.owner))
}
_BY = (CachedVerdictRow.verdict, CachedVerdictRow.retired, CachedVerdictRow.on_bench, _IN_TIME)
_COUNTS = select(*_BY, func.count()).group_by(*_BY)


def rack(
    session: Session, words: str, today: date, limit: int, offset: int, by: str = "", owners: Sequence[str] = ()
) -> Sequence[Row[Any]]:
    """What the rack shows of motors, as they hang on the rack: those of these owners first, retired last, worst news
    first, most overdue first; together `by` machine, model or owner where that is asked."""
    first = (MotorRow.owner.not_in(owners),) if owners else ()
    order = (*first, *_TOGETHER.get(by, _AS_IT_HANGS))
    query = _ON_RACK.order_by(*order).where(*_search(words)).limit(limit).offset(offset)
    return cast(Sequence[Row[Any]], session.execute(query, {"today": today.isoformat()}).all())


def counts(session: Session, words: str, today: date) -> dict[str, int]:
    """How many motors hang on the rack by verdict, with retired, overdue and on_bench as keys of their own."""
    query = _COUNTS
    if words:
        query = query.join(MotorRow, CachedVerdictRow.motor_id == MotorRow.id).where(*_search(words))
    found: dict[str, int] = defaultdict(int)
    for verdict, retired, on_bench, in_time, count in session.execute(query, {"today": today.isoformat()}):
        found["all"] += count
        found["retired" if retired else verdict] += count
        found["overdue"] += count if not retired and not in_time else 0
        found["on_bench"] += count if on_bench else 0
    return found


def unread_references(session: Session, now: datetime) -> list[str]:
    """The reference motors that hang on the rack and were not read on this day."""
    query = select(MotorRow.tag, CachedVerdictRow.checked_at).join(
        CachedVerdictRow, CachedVerdictRow.motor_id == MotorRow.id
    )
    query = query.where(MotorRow.reference, CachedVerdictRow.retired.is_(False)).order_by(MotorRow.tag_key)
    today = now.date()
    return [tag for tag, at in session.execute(query) if at is None or at.astimezone(now.tzinfo).date() != today]


def who_signs(session: Session) -> str:
    """Who signs: whom the pit names, else who signed last, or nothing."""
    last = select(SignedRow.signed_by).where(not_undone(SignedRow)).order_by(SignedRow.id.desc()).limit(1)
    query = select(func.coalesce(func.nullif(PitRow.signer, ""), last.scalar_subquery()))
    return session.scalar(query) or ""


def all_signed(session: Session, motor_ids: Sequence[str] | None = None, whole: bool = False) -> list[SignedRow]:
    """Every signed verdict, or those of some motors, oldest first; `whole` with the judgement that stood beside it."""
    query = select(SignedRow).where(not_undone(SignedRow)).order_by(SignedRow.at, SignedRow.id)
    query = query if whole else query.options(_WITHOUT_JUDGEMENT)
    return list(session.scalars(only(query, SignedRow.motor_id, motor_ids)))


def add_signed(session: Session, row: SignedRow) -> None:
    """Store a signed verdict."""
    row.changed_at = clock()
    session.add(row)
    session.flush()


def copy_signed(session: Session, motor_id: str, to: str, checks: Mapping[str, str], change_id: str) -> None:
    """Store what was signed of a motor again, of another, in the checks that stand for its own."""
    names = [c.name for c in SignedRow.__table__.columns]
    for row in all_signed(session, [motor_id], whole=True):
        own = {
            "motor_id": to,
            "check_id": checks.get(row.check_id or ""),
            "change_id": change_id,
            "changed_at": clock(),
        }
        session.execute(insert(SignedRow).values({n: getattr(row, n) for n in names} | own | {"id": new_id()}))


def last_checked(session: Session, motor_ids: Sequence[str]) -> dict[str, datetime]:
    """When each of these motors was last on the bench."""
    query = select(CheckRow.motor_id, func.max(CheckRow.at)).where(not_undone(CheckRow), CheckRow.plan != STUDY_PLAN)
    query = query.group_by(CheckRow.motor_id)
    return {i: at for i, at in session.execute(only(query, CheckRow.motor_id, list(motor_ids))) if at}
