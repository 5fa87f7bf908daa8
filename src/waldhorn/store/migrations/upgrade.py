"""Bringing a store to another edition, with Alembic and without a file of its own."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, delete
from sqlalchemy.orm import Session

from waldhorn.store import motors
from waldhorn.store.migrations import HEAD
from waldhorn.store.models import WORKED_OUT


def config(connection: Connection) -> Config:
    """Alembic's configuration for one connection."""
    made = Config()
    made.set_main_option("script_location", str(Path(__file__).parent))
    made.attributes["connection"] = connection
    return made


def upgrade(connection: Connection) -> None:
    """Bring the tables to this edition and empty the caches, because an earlier edition may have meant something else
    by what it worked out."""
    command.upgrade(config(connection), HEAD)
    for model in WORKED_OUT:
        connection.execute(delete(model))
    with Session(connection, join_transaction_mode="rollback_only") as session:
        motors.ensure_standings(session)
        session.commit()


def downgrade(connection: Connection, revision: str) -> None:
    """Bring the tables back to an earlier edition."""
    command.downgrade(config(connection), revision)
