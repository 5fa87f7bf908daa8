"""Keys of the API: made with a name, shown once, kept as a digest, withdrawn."""

import hashlib
import secrets
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from waldhorn.store.models import ApiKeyRow


def make(session: Session, name: str, now: datetime) -> str:
    """A new key; it is never shown again."""
    key = f"wh_{secrets.token_urlsafe(32)}"
    session.add(ApiKeyRow(name=name, digest=_digest(key), made_at=now, withdrawn_at=None))
    session.flush()
    return key


def _digest(key: str) -> str:
    return hashlib.sha256(key.encode()).hexdigest()


def is_good(session: Session, key: str) -> bool:
    """Whether a key was made here and stands."""
    query = select(ApiKeyRow.id).where(ApiKeyRow.digest == _digest(key), ApiKeyRow.withdrawn_at.is_(None))
    return session.scalar(query) is not None


def standing(session: Session) -> list[ApiKeyRow]:
    """The keys that stand, newest first."""
    query = select(ApiKeyRow).where(ApiKeyRow.withdrawn_at.is_(None)).order_by(ApiKeyRow.id.desc())
    return list(session.scalars(query))


def withdraw(session: Session, key_id: str, now: datetime) -> None:
    """Let a key open nothing any more."""
    row = session.get(ApiKeyRow, key_id)
    if row is not None:
        row.withdrawn_at = now
