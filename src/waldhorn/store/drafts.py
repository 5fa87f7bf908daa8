"""Drafts: what is typed but not taken yet, so that nothing is lost on a reload or a change of browser."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import delete, exists, insert, literal, select
from sqlalchemy.dialects.sqlite import insert as upsert
from sqlalchemy.orm import Session

from waldhorn.store.changes import not_undone
from waldhorn.store.models import CheckDraftRow, CheckRow, FormDraftRow
from waldhorn.store.motors import only


def of_check(session: Session, check_id: str) -> dict[str, tuple[int | None, dict[str, Any]]]:
    """What is typed into each step of a check, and for which run."""
    query = select(CheckDraftRow).where(CheckDraftRow.check_id == check_id)
    return {row.step: (row.run, dict(row.fields)) for row in session.scalars(query)}


def of_checks(session: Session, check_ids: Sequence[str]) -> dict[str, dict[str, dict[str, Any]]]:
    """What is typed into each step of these checks, by check."""
    found: dict[str, dict[str, dict[str, Any]]] = defaultdict(dict)
    for row in session.scalars(only(select(CheckDraftRow), CheckDraftRow.check_id, list(check_ids))):
        found[row.check_id][row.step] = dict(row.fields)
    return found


def store_draft(session: Session, check_id: str, step: str, run: int | None, fields: Mapping[str, Any]) -> bool:
    """Keep what is typed into a step of an open check; says whether the check is open. An empty draft is forgotten."""
    if not any(fields.values()):
        forget(session, check_id, step)
        return True
    open_check = exists().where(CheckRow.id == check_id, CheckRow.open)
    source = select(
        literal(check_id), literal(step), literal(run), literal(dict(fields), CheckDraftRow.fields.type)
    ).where(open_check)
    statement = upsert(CheckDraftRow).from_select(["check_id", "step", "run", "fields"], source)
    fresh = {"run": statement.excluded.run, "fields": statement.excluded.fields}
    done = session.execute(statement.on_conflict_do_update(index_elements=["check_id", "step"], set_=fresh))
    return bool(done.rowcount)  # type: ignore[attr-defined]


def forget(session: Session, check_id: str, step: str = "") -> None:
    """Forget what is typed into a step, or into all of a check."""
    gone = delete(CheckDraftRow).where(CheckDraftRow.check_id == check_id)
    session.execute(gone.where(CheckDraftRow.step == step) if step else gone)


def forget_closed(session: Session, motor_id: str) -> None:
    """Forget what is typed into checks of a motor that are out of sight."""
    gone = select(CheckRow.id).where(CheckRow.motor_id == motor_id, ~not_undone(CheckRow))
    session.execute(delete(CheckDraftRow).where(CheckDraftRow.check_id.in_(gone)))


def of_form(session: Session, form: str) -> dict[str, Any]:
    """What is typed into a form that belongs to no check."""
    row = session.get(FormDraftRow, form)
    return dict(row.fields) if row else {}


def keep_form(session: Session, form: str, fields: Mapping[str, Any]) -> None:
    """Keep what is typed into a form; an empty one is forgotten."""
    session.execute(delete(FormDraftRow).where(FormDraftRow.form == form))
    if any(fields.values()):
        session.execute(insert(FormDraftRow).values(form=form, fields=dict(fields)))
