"""One request of a browser: who asks, which form it came with, and whether something of it is stored by now.

A form carries an identifier that was made with it. What comes twice with the same form and the same content (a double
click, a browser that sends again after a break) is stored once: the mark is written in the transaction that stores it.
"""

from contextvars import ContextVar
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from sqlalchemy import delete
from sqlalchemy.dialects.sqlite import insert as upsert
from sqlalchemy.orm import Session

from waldhorn.store.models import SentFormRow, clock

REMEMBERED = timedelta(days=7)


@dataclass
class Sending:
    """A request: who asks and from which screen, the mark of its form where it has one, and whether it has stored
    something."""

    who: str = ""
    screen: str = ""
    mark: str = ""
    stored: bool = False
    marked: bool = False


SENDING: ContextVar[Sending | None] = ContextVar("sending", default=None)


class SentTwice(Exception):
    """The same form with the same content is stored already."""


def mark(session: Session) -> None:
    """Write down that this request's form is being stored; raises SentTwice where it was before."""
    sending = SENDING.get()
    if sending is None or not sending.mark or sending.marked:
        return
    now = clock()
    session.execute(delete(SentFormRow).where(SentFormRow.at < now - REMEMBERED))
    written: Any = session.execute(upsert(SentFormRow).values(mark=sending.mark, at=now).on_conflict_do_nothing())
    if not written.rowcount:
        raise SentTwice


def committed() -> None:
    """Remember that what this request changed so far is stored."""
    if sending := SENDING.get():
        sending.stored = True
        sending.marked = bool(sending.mark)
