"""Merging: rows that were made in one store taken into another, by the identifiers they were made with.

Nothing is doubled: a row that is there already, by its identifier or by what makes it the same (a motor's tag, a
check's key, the fingerprint of a reading or an event), is not stored again. Nothing is lost: where the same row differs
the one that was changed later stands, and what a change may alter on a motor, a check or a reading is kept as a
revision.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import insert, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.exchange.stored_rows import checked
from waldhorn.store import changes, motors
from waldhorn.store.models import (
    ChangeRow,
    CheckRevisionRow,
    CheckRow,
    EventRow,
    MotorRevisionRow,
    MotorRow,
    ReadingRevisionRow,
    ReadingRow,
    RowBase,
)

Row = dict[str, Any]
_BATCH = 5_000
_REFERENCES = ("motor_id", "check_id", "of_id")
_REVISIONS = (MotorRevisionRow, CheckRevisionRow, ReadingRevisionRow)
# What makes two rows the same that were made apart; None where a row has nothing of the kind.
_SAME: Mapping[Any, tuple[str, ...]] = {
    MotorRow: ("tag_key",),
    CheckRow: ("motor_id", "key"),
    EventRow: ("motor_id", "fingerprint"),
    ReadingRow: ("check_id", "fingerprint", "occurrence"),
}
_TOO_MANY = 40  # conflicts that are named one by one


@dataclass
class Merged:
    """What merging did: rows stored and ignored by table, where both had a say, and the motors it touched."""

    stored: dict[str, int] = field(default_factory=dict)
    ignored: dict[str, int] = field(default_factory=dict)
    conflicts: list[str] = field(default_factory=list)
    touched: set[str] = field(default_factory=set)


class Merging:
    """Takes rows into a store, table by table, parents first; `change_id` is the change that does it."""

    def __init__(self, session: Session, change_id: str) -> None:
        self.session = session
        self.change_id = change_id
        self.done = Merged()
        self._ids: dict[str, str] = {}  # of the other store's rows: which row of this one is meant
        self._undone = set(session.scalars(select(ChangeRow.id).where(ChangeRow.undone_at.is_not(None))))
        self._twins: dict[Any, dict[str, str]] = {MotorRow: {}, CheckRow: {}}
        self._motor_of: dict[str, str] = {}  # by check

    def merge(self, model: Any, rows: Any, where: str) -> None:
        """Take in the rows of one table; raises InputError where one cannot be a row of it."""
        good = checked(model, rows, where)
        name = model.__tablename__
        self.done.stored.setdefault(name, 0)
        self.done.ignored.setdefault(name, 0)
        taking = self._identified if issubclass(model, RowBase) else self._named
        try:
            for start in range(0, len(good), _BATCH):
                taking(model, [self._referring(row) for row in good[start : start + _BATCH]])
            self.session.flush()
        except IntegrityError as error:
            raise InputError("file", f"{where}: rows do not fit together: {error.orig}") from error

    def meant(self, row_id: Any) -> Any:
        """The row of this store that a row of the other is."""
        return self._ids.get(row_id, row_id)

    def finish(self) -> Merged:
        """Put right what named a row before it was known to be one of this store; returns what was done."""
        for model in (MotorRow, CheckRow):
            column = ChangeRow.motor_id if model is MotorRow else ChangeRow.check_id
            for theirs, ours in self._twins[model].items():
                self.session.execute(update(ChangeRow).where(column == theirs).values({column: ours}))
        motors.ensure_standings(self.session)
        motors.touch(self.session, self.done.touched)
        return self.done

    def _referring(self, row: Row) -> Row:
        """A row that names rows of this store where the other store's are the same."""
        meant: dict[str, Any] = {n: self.meant(row[n]) for n in _REFERENCES if n in row}
        if "motors" in row:
            meant["motors"] = [self.meant(i) for i in row["motors"]]
        return row | meant

    def _identified(self, model: Any, rows: Sequence[Row]) -> None:
        here = self._here(model, [row["id"] for row in rows])
        same = self._made_apart(model, [row for row in rows if row["id"] not in here])
        fresh, changed = [], []
        for row in rows:
            if (twin := same.get(row["id"])) is not None:
                self._ids[row["id"]] = twin["id"]
                self._twins.get(model, {})[row["id"]] = twin["id"]
            mine = here.get(row["id"]) or twin
            if mine is None:
                fresh.append(row)
                here[row["id"]] = row  # the same twice in one file
            elif differing := self._differing(model, mine, row, apart=twin is not None):
                changed.append((mine, row, differing))
            else:
                self.done.ignored[model.__tablename__] += 1
        self._store(model, fresh)
        self._change(model, changed)

    def _store(self, model: Any, rows: Sequence[Row]) -> None:
        if rows:
            self.session.execute(insert(model), list(rows))
            self.done.stored[model.__tablename__] += len(rows)
            self._touch(model, rows)

    def _change(self, model: Any, changed: Sequence[tuple[Row, Row, list[str]]]) -> None:
        newer = []
        for mine, row, differing in changed:
            later = self._brought_back(mine, row) or row["changed_at"] > mine["changed_at"]
            self._conflict(model, mine, row, differing, later)
            if later:
                newer.append((mine["id"], {n: row[n] for n in differing} | {"changed_at": row["changed_at"]}))
            else:
                self.done.ignored[model.__tablename__] += 1
        if not newer:
            return
        if model in changes.STATE:
            self._revise(model, newer)
        for row_id, values in newer:
            self.session.execute(update(model).where(model.id == row_id).values(values))
        self.done.stored[model.__tablename__] += len(newer)
        self._touch(model, [row for _, row, _ in changed])

    def _revise(self, model: Any, newer: Sequence[tuple[str, Row]]) -> None:
        """Keep what stood before, where a change may alter it."""
        names = changes.STATE[model]
        by_id = {row_id: {n: v for n, v in values.items() if n in names} for row_id, values in newer}
        wanted = [i for i, values in by_id.items() if values]
        rows = self.session.scalars(motors.only(select(model), model.id, wanted)).all() if wanted else []
        changes.revise(self.session, self.change_id, [(row, by_id[row.id]) for row in rows])

    def _named(self, model: Any, rows: Sequence[Row]) -> None:
        """Tables whose rows have a name instead of an identifier: what stands here stays, what is missing comes."""
        keys = [c.name for c in model.__table__.primary_key]
        here = {tuple(r[k] for k in keys): r for r in self._rows(select(*model.__table__.columns))}
        for row in rows:
            mine = here.get(tuple(row[k] for k in keys))
            if mine is None:
                self.session.execute(insert(model), [row])
                self.done.stored[model.__tablename__] += 1
                continue
            self.done.ignored[model.__tablename__] += 1
            if mine != row and not model.__tablename__.endswith("_draft"):
                named = ", ".join(str(row[k]) for k in keys)
                said = model.__tablename__.replace("_", " ")
                self._say(f"{said} {named}: differs there; what stands here stays")

    def _here(self, model: Any, ids: Sequence[str]) -> dict[str, Row]:
        return {r["id"]: r for r in self._rows(motors.only(select(*model.__table__.columns), model.id, list(ids)))}

    def _rows(self, query: Any) -> Iterator[Row]:
        return (dict(row) for row in self.session.execute(query).mappings())

    def _made_apart(self, model: Any, rows: Sequence[Row]) -> dict[str, Row]:
        """Rows of this store that are the same as rows made elsewhere, by the identifier these have there."""
        names = _SAME.get(model)
        if names is None or not rows:
            return {}
        first = getattr(model, names[0])
        wanted = sorted({str(row[names[0]]) for row in rows})
        query = motors.only(select(*model.__table__.columns), first, wanted)
        here = {tuple(r[n] for n in names): r for r in self._rows(query)}
        found = {}
        for row in rows:
            key = tuple(row[n] for n in names)
            if None not in key and key in here:
                found[row["id"]] = here[key]
        return found

    def _differing(self, model: Any, mine: Row, row: Row, apart: bool) -> list[str]:
        """The columns in which two rows of one thing differ; of rows made apart, only what a change may alter."""
        names = (
            changes.STATE.get(model, ()) if apart else [n for n in row if n not in ("id", "changed_at", "change_id")]
        )
        back = self._brought_back(mine, row)
        return [*(n for n in names if mine[n] != row[n]), *(["change_id"] if back else [])]

    def _brought_back(self, mine: Row, row: Row) -> bool:
        """Whether a row that was taken back here comes again."""
        return mine.get("change_id") in self._undone and row.get("change_id") not in self._undone

    def _conflict(self, model: Any, mine: Row, row: Row, differing: Sequence[str], later: bool) -> None:
        stands = "that one was changed later and stands" if later else "what stands here was changed later and stays"
        if model is MotorRow:
            told = [n for n in differing if n not in ("search", "tag_key", "model_key", "change_id")]
            said = "; ".join(f"{n.replace('_', ' ')} {_said(mine[n])} here, {_said(row[n])} there" for n in told)
            if told:
                self._say(f"{mine['tag']}: {said}: {stands}")
        elif model is ReadingRow and "value" in differing:
            said = f"{mine['measure'].replace('_', ' ')} {mine['value']:g} here, {row['value']:g} there"
            self._say(f"reading of {mine['at']:%Y-%m-%d %H:%M}: {said}: {stands}")

    def _say(self, words: str) -> None:
        if len(self.done.conflicts) < _TOO_MANY:
            self.done.conflicts.append(words)

    def _touch(self, model: Any, rows: Sequence[Row]) -> None:
        if model in _REVISIONS:
            return
        if model is MotorRow:
            self.done.touched |= {self.meant(row["id"]) for row in rows}
        elif model is CheckRow:
            self._motor_of |= {self.meant(row["id"]): row["motor_id"] for row in rows}
        checks = {str(row["check_id"]) for row in rows if row.get("check_id")}
        if unknown := sorted(checks - set(self._motor_of)):
            query = select(CheckRow.id, CheckRow.motor_id)
            self._motor_of |= {i: of for i, of in self.session.execute(motors.only(query, CheckRow.id, unknown))}  # noqa: C416
        found = {str(row["motor_id"]) for row in rows if row.get("motor_id")}
        self.done.touched |= found | {self._motor_of[c] for c in checks if c in self._motor_of}


def _said(value: Any) -> str:
    return "not known" if value in (None, "") else f"{value:g}" if isinstance(value, float) else str(value)
