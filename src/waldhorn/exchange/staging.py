"""Staging: tables are read and checked into a store of their own, then taken over in one short transaction.

The store in use is locked only for that last step, and its readers see the whole import at once or nothing of it.
"""

import tempfile
from collections.abc import Collection
from contextlib import closing
from itertools import product
from pathlib import Path
from sqlite3 import connect

from sqlalchemy import text
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import Busy
from waldhorn.exchange.importing import Outcome, Place, Progress, import_tables
from waldhorn.store import changes, motors
from waldhorn.store.changes import UNDONE
from waldhorn.store.engine import Store, down_is_said, open_store
from waldhorn.store.models import ATTACHED, FINDINGS, ChangeKind
from waldhorn.store.writing import Writing

_KNOWN = (
    "alembic_version",
    "store_state",
    "change",
    "rig_name",
    "motor",
    "bench_check",
    "propeller",
    "pack",
)  # what an import leans on
_FOUND = (*(model.__tablename__ for model in (*FINDINGS, *ATTACHED)), "signed_verdict")
_COUNTED = {"event": "events", "reading": "readings"} | dict.fromkeys(_FOUND, "findings")
_TAKEN = ("change", "motor", "motor_revision", "bench_check", "event", "reading", *_FOUND, "propeller", "pack")
_IF_THERE = dict.fromkeys(_FOUND, f"DO UPDATE SET change_id = excluded.change_id WHERE change_id IN ({UNDONE})")
_TRIES = 3


def import_staged(
    store: Store,
    by: Writing,
    files: list[Path],
    progress: Progress,
    skip_bad: bool,
    dry_run: bool,
    what: str = "",
    better: Collection[Place] = (),
) -> Outcome:
    """Import tables into a store in use; nothing is stored when there are bad rows, unless `skip_bad`; `what`
    names it as one change, which can be undone, `better` the facts that the files say better than the rack.

    Raises InputError when a file is no table at all, Busy when the lock cannot be had, or when others keep making the
    same motors and checks meanwhile.
    """
    for _ in range(_TRIES):
        with tempfile.TemporaryDirectory() as folder:
            scratch = Path(folder) / "staged.db"
            outcome = _stage(store, by, scratch, files, progress, skip_bad, what, better)
            if dry_run or (outcome.rejected and not skip_bad):
                return outcome
            with store.writing_beside(scratch, by) as session:
                if _clear(session):
                    _take_over(session, outcome)
                    return outcome
    raise Busy


def _stage(
    store: Store,
    by: Writing,
    scratch: Path,
    files: list[Path],
    progress: Progress,
    skip_bad: bool,
    what: str,
    better: Collection[Place],
) -> Outcome:
    with down_is_said(), closing(connect(scratch)) as driver:
        driver.execute("ATTACH ? AS here", (str(store.engine.url.database),))
        driver.execute("BEGIN")  # each table by itself would wait for the disk
        for (made,) in driver.execute("SELECT sql FROM here.sqlite_master WHERE sql IS NOT NULL").fetchall():
            driver.execute(made)
        for table in _KNOWN:
            driver.execute(f"INSERT INTO {table} SELECT * FROM here.{table}")
        driver.commit()
    staged = open_store(scratch)
    try:
        with staged.writing(Writing(by.at, by.who)) as session:
            change_id = changes.record(session, ChangeKind.BRING_IN, by.at, None, detail=what) if what else None
            outcome = import_tables(session, files, progress, skip_bad, by.at, change_id, better)
    finally:
        staged.close()
    return outcome


def _clear(session: Session) -> bool:
    """Whether nobody has made the same motors or checks meanwhile under other identifiers, or taken back what this
    import leans on."""
    twice = (
        "SELECT 1 FROM other.change o JOIN change c ON c.id = o.id WHERE c.undone_at IS NOT NULL"
        " AND o.undone_at IS NULL",
        "SELECT 1 FROM other.motor o JOIN motor m ON m.tag_key = o.tag_key AND m.id <> o.id",
        "SELECT 1 FROM other.bench_check o JOIN bench_check c"
        " ON c.motor_id = o.motor_id AND c.key = o.key AND c.id <> o.id",
    )
    return not any(session.execute(text(f"{query} LIMIT 1")).first() for query in twice)


def _take_over(session: Session, outcome: Outcome) -> None:
    for table in _TAKEN:
        staged = session.scalar(text(f"SELECT count(*) FROM other.{table}")) or 0
        there = _IF_THERE.get(table, "DO NOTHING")
        taken = f"INSERT INTO {table} SELECT * FROM other.{table} WHERE TRUE ON CONFLICT {there}"
        new = session.execute(text(taken)).rowcount  # type: ignore[attr-defined]
        if kind := _COUNTED.get(table):  # what was there already is known only now
            outcome.ignored[kind] += staged - new
            outcome.stored[kind] -= staged - new
    for column in ("first_spin", "sweep"):
        said = f"(SELECT o.{column} FROM other.bench_check o WHERE o.id = bench_check.id)"
        session.execute(text(f"UPDATE bench_check SET {column} = {said} WHERE {column} IS NULL AND {said} IS NOT NULL"))
    _fill_facts(session, outcome.overwritten)
    motors.ensure_standings(session)
    motors.touch(session, outcome.touched)


def _fill_facts(session: Session, overwritten: Collection[Place]) -> None:
    """Facts that nobody had said of a motor, as they were filled in; what somebody has said meanwhile stays, but for
    what these files say better."""
    filled = session.scalars(text("SELECT DISTINCT of_id FROM other.motor_revision")).all()
    for motor_id, name in product(filled, (*motors.MOTOR_FIELDS, "model_key", "search")):
        said = f"(SELECT o.{name} FROM other.motor o WHERE o.id = motor.id)"
        anyhow = name == "search" or (motor_id, name.replace("_key", "")) in overwritten
        empty = "TRUE" if anyhow else f"COALESCE({name}, '') = ''"
        query = f"UPDATE motor SET {name} = {said} WHERE id = :id AND {empty} AND {said} IS NOT NULL"
        session.execute(text(query), {"id": motor_id})
    if filled:
        motors.touch(session, None)  # a model or a machine that is filled in concerns others too
