"""Line formats in the store, by name; their table was called recipe before the term was settled."""

from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from waldhorn.store.models import LineFormatRow


def all_of(session: Session) -> dict[str, dict[str, Any]]:
    """Every line format, by name."""
    return {row.name: row.recipe for row in session.scalars(select(LineFormatRow).order_by(LineFormatRow.name))}


def store_line_format(session: Session, name: str, line_format: dict[str, Any]) -> None:
    """Keep a line format in place of one of its name."""
    session.merge(LineFormatRow(name=name, recipe=line_format))


def forget(session: Session, name: str) -> None:
    """Let go of a line format."""
    session.execute(delete(LineFormatRow).where(LineFormatRow.name == name))
