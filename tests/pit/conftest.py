"""A transaction on an empty store."""

from collections.abc import Iterator

import pytest
from sqlalchemy.orm import Session

from waldhorn.store.engine import Store


@pytest.fixture
def session(store: Store) -> Iterator[Session]:
    """A session that writes."""
    with store.writing() as session:
        yield session
