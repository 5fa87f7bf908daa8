"""Bringing a store to another edition, with Alembic and without a file of its own."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.util import CommandError
from sqlalchemy import Connection

from waldhorn.store.migrations import HEAD, Newer


def config(connection: Connection) -> Config:
    """Alembic's configuration for one connection."""
    made = Config()
    made.set_main_option("script_location", str(Path(__file__).parent))
    made.attributes["connection"] = connection
    return made


def upgrade(connection: Connection) -> None:
    """Bring the tables to this edition; raises Newer where they are of a later one."""
    try:
        command.upgrade(config(connection), HEAD)
    except CommandError as error:
        raise Newer from error


def downgrade(connection: Connection, revision: str) -> None:
    """Bring the tables back to an earlier edition."""
    command.downgrade(config(connection), revision)
