"""The migrations: how the tables came to be, edition by edition, in `versions`; `HEAD` is the latest."""

from sqlalchemy import Connection, inspect

HEAD = "0016"


def edition_of(connection: Connection) -> str:
    """The edition of the tables of a store; empty where it has none yet."""
    if not inspect(connection).has_table("alembic_version"):
        return ""
    return connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar() or ""
