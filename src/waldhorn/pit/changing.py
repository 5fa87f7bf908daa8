"""Changing the store: a transaction, and after it every standing it touched is made fresh."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.pit.judging import settle_apart
from waldhorn.store.engine import Store
from waldhorn.store.standings import revision


@contextmanager
def changing(store: Store, now: datetime) -> Iterator[Session]:
    """A session that commits when the block ends; then what the block touched is judged again, outside the lock."""
    with store.writing() as session:
        since = revision(session)
        yield session
    settle_apart(store, now, since=since)
