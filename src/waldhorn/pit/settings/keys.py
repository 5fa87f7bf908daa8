"""Keys of the API: made with a name, shown once, withdrawn."""

from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.store import api_keys
from waldhorn.store.api_keys import is_good, withdraw

__all__ = ["is_good", "make", "withdraw"]

LONGEST_NAME = 60


def make(session: Session, typed_name: str, now: datetime) -> str:
    """A new key, by what it is for; it is never shown again. Raises InputError."""
    name = typed_name.strip()
    if not name or len(name) > LONGEST_NAME:
        raise InputError("key_name", f"say what the key is for, {LONGEST_NAME} characters at most")
    return api_keys.make(session, name, now)
