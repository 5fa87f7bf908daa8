"""The one way to the store: `read` looks, `write` stores for somebody and judges what that touched.

Commands and queries of the pit take a session first; whoever is above the pit hands them to these two and never holds
a session. What is written belongs to a `Writing`: who, when, and with which form.
"""

import logging
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import datetime
from typing import Concatenate, ParamSpec, TypeVar

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import Cancelled, NotStored
from waldhorn.pit.judging.judging import Progress, settle_apart
from waldhorn.store.cached_verdicts import revision
from waldhorn.store.engine import Store
from waldhorn.store.models import ChangeRow
from waldhorn.store.writing import SentTwice, Writing

__all__ = ["ChangeRow", "SentTwice", "Store", "Writing", "changing", "judge_soon", "read", "write"]

AGAIN_S = 1.0
Asked = ParamSpec("Asked")
Answer = TypeVar("Answer")
_log = logging.getLogger("waldhorn")


def read(
    store: Store, query: Callable[Concatenate[Session, Asked], Answer], *args: Asked.args, **kwargs: Asked.kwargs
) -> Answer:
    """What a query answers; raises StoreDown, and what the query raises."""
    with store.reading() as session:
        return query(session, *args, **kwargs)


def write(
    store: Store,
    by: Writing,
    command: Callable[Concatenate[Session, Asked], Answer],
    *args: Asked.args,
    **kwargs: Asked.kwargs,
) -> Answer:
    """Carry out a command and answer with what it answers; see `changing`. Raises Busy, StoreDown, SentTwice, and what
    the command raises: nothing is stored then."""
    with changing(store, by) as session:
        return command(session, *args, **kwargs)


@contextmanager
def changing(store: Store, by: Writing) -> Iterator[Session]:
    """A session that writes for somebody and commits when the block ends; then what the block touched is judged again,
    outside the lock. What was judged within the block is not judged twice.

    Once it is committed it is done: where others hold the lock, the judging is made up for as soon as they let go, and
    nobody is told to send the same again.
    """
    with store.writing(by) as session:
        since = revision(session)
        yield session
        until = revision(session)  # nobody else counts meanwhile: what others touch is not waited for
    if until != since:
        judge_soon(store, by.at, since, until)


def judge_soon(
    store: Store, now: datetime, since: int = 0, until: int | None = None, progress: Progress | None = None
) -> None:
    """Judge again what was touched between two counts of changes: now, or as soon as others let go. What is stored is
    stored: a judging that fails is written down, and made up for with the next change."""
    try:
        settle_apart(store, now, progress, since, until)
    except Cancelled:
        raise
    except NotStored:
        threading.Thread(target=_make_up, args=(store, now, since, until), daemon=True).start()
    except Exception:
        _log.exception("what was stored could not be judged")


def _make_up(store: Store, now: datetime, since: int, until: int | None) -> None:
    while True:
        try:
            return settle_apart(store, now, since=since, until=until)
        except NotStored:
            time.sleep(AGAIN_S)
