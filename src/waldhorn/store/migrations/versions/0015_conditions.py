"""conditions are corrected as values are, so that revisions hold them; the pit's propellers and packs"""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None

_TEXTS = ("rig", "method", "placement", "meter", "on_shaft", "pack", "spot", "lever")
_NUMBERS = (
    "throttle_pct",
    "distance_cm",
    "supply_v",
    "timing_set_deg",
    "motor_c",
    "ambient_c",
    "cells",
    "pack_mohm",
)
_LOADS = {
    "propeller": (
        sa.Column("diameter", sa.Float(), nullable=True),
        sa.Column("pitch", sa.Float(), nullable=True),
        sa.Column("blades", sa.Integer(), nullable=True),
        sa.Column("unit", sa.String(), nullable=False),
        sa.Column("nickname", sa.String(), nullable=False),
        sa.Column("also", sa.JSON(), nullable=False),
    ),
    "pack": (
        sa.Column("cells", sa.Float(), nullable=True),
        sa.Column("capacity_mah", sa.Float(), nullable=True),
        sa.Column("pack_mohm", sa.Float(), nullable=True),
        sa.Column("note", sa.String(), nullable=False),
    ),
}


def upgrade() -> None:
    for name in _TEXTS:
        op.add_column("reading_revision", sa.Column(name, sa.String(), nullable=False, server_default=""))
    for name in _NUMBERS:
        op.add_column("reading_revision", sa.Column(name, sa.Float(), nullable=True))
    names = ", ".join((*_TEXTS, *_NUMBERS))
    op.execute(f"UPDATE reading_revision SET ({names}) = (SELECT {names} FROM reading r WHERE r.id = of_id)")
    for table, columns in _LOADS.items():
        op.create_table(
            table,
            sa.Column("id", sa.String(), nullable=False),
            sa.Column("changed_at", sa.String(), nullable=False),
            sa.Column("change_id", sa.String(), nullable=True),
            sa.Column("withdrawn_by", sa.String(), nullable=True),
            sa.Column("name", sa.String(), nullable=False),
            *columns,
            sa.ForeignKeyConstraint(["change_id"], ["change.id"], name=f"fk_{table}_change_id_change"),
            sa.ForeignKeyConstraint(["withdrawn_by"], ["change.id"], name=f"fk_{table}_withdrawn_by_change"),
            sa.PrimaryKeyConstraint("id", name=f"pk_{table}"),
        )
        op.create_index(f"ix_{table}_change_id", table, ["change_id"])


def downgrade() -> None:
    for table in _LOADS:
        op.drop_table(table)
    for name in (*_TEXTS, *_NUMBERS):
        op.drop_column("reading_revision", name)
