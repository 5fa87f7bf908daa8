"""The one way to change what motors are judged by: a transaction, and after it every verdict it touched is made
fresh."""

import logging
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import Cancelled, NotStored
from waldhorn.pit.judging.judging import Progress, settle_apart
from waldhorn.store.cached_verdicts import revision
from waldhorn.store.engine import Store
from waldhorn.store.writing import SentTwice, Writing

__all__ = ["SentTwice", "Store", "Writing", "changing", "judge_soon"]

AGAIN_S = 1.0
_log = logging.getLogger("waldhorn")


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
