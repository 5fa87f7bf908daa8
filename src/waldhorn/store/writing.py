"""Who writes: what a request or a command says of everything it stores.

A form carries an identifier that was made with it. What comes twice with the same form and the same content (a double
click, a browser that sends again after a break) is stored once: the mark is written in the transaction that stores it.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import delete
from sqlalchemy.dialects.sqlite import insert as upsert
from sqlalchemy.orm import Session

from waldhorn.store.models import SentFormRow, clock

REMEMBERED = timedelta(days=7)
_WRITING = "writing"  # in what a session carries


@dataclass
class Writing:
    """Who writes and when, from which screen, and the mark of the form it came with (empty where it has none).

    `stored` becomes true with the first commit: whatever fails afterwards, something of it is stored.
    """

    at: datetime
    who: str = ""
    screen: str = ""
    form: str = ""
    stored: bool = False


class SentTwice(Exception):
    """The same form with the same content is stored already."""


def carried_by(by: Writing) -> dict[Any, Any]:
    """What a session carries that writes for somebody."""
    return {_WRITING: by}


def writer(session: Session) -> str:
    """Who writes in this session; empty where nobody is known."""
    by: Writing | None = session.info.get(_WRITING)
    return by.who if by else ""


def mark_form(session: Session, by: Writing) -> None:
    """Write down that a form is being stored; raises SentTwice where it was before."""
    if not by.form or by.stored:
        return
    now = clock()
    session.execute(delete(SentFormRow).where(SentFormRow.at < now - REMEMBERED))
    written: Any = session.execute(upsert(SentFormRow).values(mark=by.form, at=now).on_conflict_do_nothing())
    if not written.rowcount:
        raise SentTwice
