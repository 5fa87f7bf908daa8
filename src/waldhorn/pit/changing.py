"""Changing the store: a transaction that leaves every standing it touched fresh."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.pit.judging import settle
from waldhorn.store.engine import Store


@contextmanager
def changing(store: Store, now: datetime) -> Iterator[Session]:
    """A session that commits when the block ends, after judging again what the block touched."""
    with store.writing() as session:
        yield session
        settle(session, now)
