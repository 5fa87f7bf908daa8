"""Recipes in the store, by name."""

from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from waldhorn.store.models import RecipeRow


def all_of(session: Session) -> dict[str, dict[str, Any]]:
    """Every recipe, by name."""
    return {row.name: row.recipe for row in session.scalars(select(RecipeRow).order_by(RecipeRow.name))}


def keep(session: Session, name: str, recipe: dict[str, Any]) -> None:
    """Keep a recipe in place of one of its name."""
    session.merge(RecipeRow(name=name, recipe=recipe))


def forget(session: Session, name: str) -> None:
    """Let go of a recipe."""
    session.execute(delete(RecipeRow).where(RecipeRow.name == name))
