"""what a person did is called a change, as everywhere else: the table `act`, and `act_id` in every table"""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    _rename("act", "change")


def downgrade() -> None:
    _rename("change", "act")


def _rename(former: str, new: str) -> None:
    """A table, its identifier in other tables, and the indices that are called by either."""
    at = op.get_bind()
    tables = sa.inspect(at).get_table_names()
    carrying = [t for t in tables if f"{former}_id" in {c["name"] for c in sa.inspect(at).get_columns(t)}]
    indices = at.exec_driver_sql("SELECT name, sql FROM sqlite_master WHERE type = 'index' AND sql IS NOT NULL").all()
    mine = [(name, sql) for name, sql in indices if name.startswith(f"ix_{former}_") or name.endswith(f"_{former}_id")]
    for name, _ in mine:
        at.exec_driver_sql(f"DROP INDEX {name}")
    for table in carrying:
        at.exec_driver_sql(f"ALTER TABLE {table} RENAME COLUMN {former}_id TO {new}_id")
    at.exec_driver_sql(f"ALTER TABLE {former} RENAME TO {new}")
    for _, sql in mine:
        for old, now in (
            (f"_{former}_id", f"_{new}_id"),
            (f"ix_{former}_", f"ix_{new}_"),
            (f"({former}_id", f"({new}_id"),
        ):
            sql = sql.replace(old, now)
        at.exec_driver_sql(sql.replace(f" ON {former} ", f" ON {new} ").replace(f'ON "{former}"', f'ON "{new}"'))
